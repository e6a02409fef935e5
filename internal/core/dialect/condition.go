package dialect

import (
	"math"
	"strconv"
	"strings"
)

// truth is whether a condition holds, as far as that is known.
type truth uint8

const (
	unknown truth = iota
	no
	yes
)

func not(t truth) truth {
	switch t {
	case yes:
		return no
	case no:
		return yes
	}
	return unknown
}

func and(a, b truth) truth {
	switch {
	case a == no || b == no:
		return no
	case a == yes && b == yes:
		return yes
	}
	return unknown
}

func or(a, b truth) truth { return not(and(not(a), not(b))) }

func truthOf(is bool) truth {
	if is {
		return yes
	}
	return no
}

// mostSteps bounds the work of one condition, whatever its macros expand to.
const mostSteps = 2000

// evaluate works out a condition; unknown where it asks for what is not known in this file.
func (h *headerReader) evaluate(word, asked string) truth {
	switch word {
	case "ifdef":
		return h.isDefined(asked)
	case "ifndef":
		return not(h.isDefined(asked))
	}
	x := &expression{h: h, text: asked, steps: mostSteps}
	v := x.either(0)
	if x.skip(); x.at < len(x.text) || x.failed {
		return unknown
	}
	return v.truth()
}

// number works out a sum; false where it asks for what is not known in this file, or is none.
func (h *headerReader) number(text string) (float64, bool) {
	x := &expression{h: h, text: text, steps: mostSteps}
	v := x.sum(0)
	x.skip()
	return v.n, v.known && x.at == len(x.text) && !x.failed && !math.IsInf(v.n, 0) && !math.IsNaN(v.n)
}

// isDefined tells whether a name is defined: one that is commented out is known not to be, one
// that this file never names may be defined elsewhere.
func (h *headerReader) isDefined(name string) truth {
	at, known := h.defined[strings.TrimSpace(name)]
	if !known {
		return unknown
	}
	switch h.Entries[at].Force {
	case InForce:
		return yes
	case CommentedOut:
		return no
	}
	return unknown
}

// amount is what an expression is worth: a number, or only whether it holds.
type amount struct {
	n     float64
	known bool
	whole bool // of integers, which C divides without a rest
	holds truth
}

func (a amount) truth() truth {
	if a.known {
		return truthOf(a.n != 0)
	}
	return a.holds
}

func amountOf(t truth) amount {
	switch t {
	case yes:
		return amount{n: 1, known: true}
	case no:
		return amount{known: true}
	}
	return amount{}
}

// expression is a condition that is being read.
type expression struct {
	h      *headerReader
	text   string
	at     int
	steps  int
	failed bool
}

func (x *expression) skip() {
	for x.at < len(x.text) && (x.text[x.at] == ' ' || x.text[x.at] == '\t') {
		x.at++
	}
}

// take passes over a sign if it stands here.
func (x *expression) take(sign string) bool {
	x.skip()
	if !strings.HasPrefix(x.text[x.at:], sign) {
		return false
	}
	x.at += len(sign)
	return true
}

func (x *expression) spent(depth int) bool {
	if x.steps--; x.steps < 0 || depth > mostDepth {
		x.failed = true
	}
	return x.failed
}

func (x *expression) either(depth int) amount {
	v := x.both(depth)
	for !x.spent(depth) && x.take("||") {
		v = amountOf(or(v.truth(), x.both(depth).truth()))
	}
	return v
}

func (x *expression) both(depth int) amount {
	v := x.compared(depth)
	for !x.spent(depth) && x.take("&&") {
		v = amountOf(and(v.truth(), x.compared(depth).truth()))
	}
	return v
}

func (x *expression) compared(depth int) amount {
	a := x.sum(depth)
	for _, sign := range []string{"==", "!=", ">=", "<=", ">", "<"} {
		if x.spent(depth) || !x.take(sign) {
			continue
		}
		b := x.sum(depth)
		if !a.known || !b.known {
			return amount{}
		}
		return amountOf(truthOf(map[string]bool{"==": a.n == b.n, "!=": a.n != b.n, ">=": a.n >= b.n, "<=": a.n <= b.n,
			">": a.n > b.n, "<": a.n < b.n}[sign]))
	}
	return a
}

func (x *expression) sum(depth int) amount {
	v := x.product(depth)
	for !x.spent(depth) {
		sign := 0.0
		switch {
		case x.take("+"):
			sign = 1
		case x.take("-"):
			sign = -1
		default:
			return v
		}
		w := x.product(depth)
		v = amount{n: v.n + sign*w.n, known: v.known && w.known, whole: v.whole && w.whole}
	}
	return v
}

func (x *expression) product(depth int) amount {
	v := x.single(depth)
	for !x.spent(depth) {
		switch {
		case x.take("*"):
			w := x.single(depth)
			v = amount{n: v.n * w.n, known: v.known && w.known, whole: v.whole && w.whole}
		case x.take("/"):
			w := x.single(depth)
			v = amount{n: v.n / w.n, known: v.known && w.known && w.n != 0, whole: v.whole && w.whole}
			if v.whole {
				v.n = math.Trunc(v.n)
			}
		default:
			return v
		}
	}
	return v
}

func (x *expression) single(depth int) amount {
	if x.spent(depth) {
		return amount{}
	}
	switch {
	case !strings.HasPrefix(strings.TrimLeft(x.text[x.at:], " \t"), "!=") && x.take("!"):
		return amountOf(not(x.single(depth + 1).truth()))
	case x.take("-"):
		v := x.single(depth + 1)
		v.n = -v.n
		return v
	case x.take("("):
		v := x.either(depth + 1)
		if !x.take(")") {
			x.failed = true
		}
		return v
	}
	x.skip()
	from := x.at
	for x.at < len(x.text) && (isName(x.text[x.at]) || x.text[x.at] == '.') {
		x.at++
	}
	word := x.text[from:x.at]
	if word == "" {
		x.failed = true
		return amount{}
	}
	if word[0] >= '0' && word[0] <= '9' || word[0] == '.' {
		n, err := strconv.ParseFloat(strings.TrimRight(word, "uUlLfF"), 64)
		if err != nil {
			whole, hex := strconv.ParseInt(strings.TrimRight(word, "uUlL"), 0, 64)
			n, err = float64(whole), hex
		}
		return amount{n: n, known: err == nil, whole: !strings.ContainsAny(word, ".eE") && !strings.HasSuffix(word, "f")}
	}
	return x.named(word, depth)
}

// named is what a name is worth: what it is defined as, or whether an option is on.
func (x *expression) named(word string, depth int) amount {
	switch word {
	case "defined":
		if x.take("(") {
			t := x.h.isDefined(x.argument())
			return amountOf(t)
		}
		x.skip()
		from := x.at
		for x.at < len(x.text) && isName(x.text[x.at]) {
			x.at++
		}
		return amountOf(x.h.isDefined(x.text[from:x.at]))
	case "ENABLED", "ANY", "DISABLED", "NONE", "EITHER", "BOTH", "ALL":
		return x.options(word)
	case "true":
		return amountOf(yes)
	case "false":
		return amountOf(no)
	}
	if x.take("(") {
		x.argument()
		return amount{} // a macro that is code
	}
	if x.h.isDefined(word) != yes {
		return amount{}
	}
	inner := &expression{h: x.h, text: x.h.Value(&x.h.Entries[x.h.defined[word]]), steps: x.steps}
	v := inner.either(depth + 1)
	inner.skip()
	x.steps = inner.steps
	if inner.failed || inner.at < len(inner.text) {
		return amount{}
	}
	return v
}

// argument is what stands up to the closing bracket.
func (x *expression) argument() string {
	n := strings.IndexByte(x.text[x.at:], ')')
	if n < 0 {
		x.failed = true
		return ""
	}
	out := x.text[x.at : x.at+n]
	x.at += n + 1
	return out
}

// options are the questions whether options are on, as headers of the compiled family ask them.
func (x *expression) options(word string) amount {
	if !x.take("(") {
		x.failed = true
		return amount{}
	}
	all, some := yes, no
	for name := range strings.SplitSeq(x.argument(), ",") {
		if x.steps--; x.steps < 0 {
			x.failed = true
			return amount{}
		}
		t := x.h.isDefined(name)
		all, some = and(all, t), or(some, t)
	}
	switch word {
	case "ENABLED", "ALL", "BOTH":
		return amountOf(all)
	case "ANY", "EITHER":
		return amountOf(some)
	case "DISABLED", "NONE":
		return amountOf(not(some))
	}
	return amount{}
}
