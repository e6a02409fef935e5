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
	v := x.read(0, 1)
	if x.skip(); x.at < len(x.text) || x.failed {
		return unknown
	}
	return v.truth()
}

// number works out a sum; false where it asks for what is not known in this file, or is none.
func (h *headerReader) number(text string) (float64, bool) {
	x := &expression{h: h, text: text, steps: mostSteps}
	v := x.read(0, sums)
	x.skip()
	return v.n, v.known && x.at == len(x.text) && !x.failed && !math.IsInf(v.n, 0) && !math.IsNaN(v.n)
}

// isDefined tells whether a name is defined: one that is commented out is known not to be, one
// that this file never names may be defined elsewhere.
func (h *headerReader) isDefined(name string) truth {
	_, is := h.definition(strings.TrimSpace(name))
	return is
}

// definition is that of a name, and whether it is in force.
func (h *headerReader) definition(name string) (*Entry, truth) {
	at, known := h.defined[name]
	if !known {
		return nil, unknown
	}
	switch e := &h.Entries[at]; e.Force {
	case InForce:
		return e, yes
	case CommentedOut:
		return e, no
	}
	return nil, unknown
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

// operator is one between two operands.
type operator struct {
	sign string
	// binds is how strongly, from 1, as in C; 0 of no operator.
	binds int
}

// sums bind as strongly as this or more.
const sums = 5

// next is the operator that stands here, if one does. Source of what binds how strongly: the C standard, ISO/IEC 9899,
// 6.5.
func (x *expression) next() operator {
	x.skip()
	rest := x.text[x.at:]
	if rest == "" {
		return operator{}
	}
	two := rest[:min(2, len(rest))]
	switch two {
	case "||":
		return operator{two, 1}
	case "&&":
		return operator{two, 2}
	case "==", "!=":
		return operator{two, 3}
	case "<=", ">=":
		return operator{two, 4}
	case "<<", ">>":
		return operator{} // of bits, which no condition on options asks for
	}
	switch rest[0] {
	case '<', '>':
		return operator{rest[:1], 4}
	case '+', '-':
		return operator{rest[:1], sums}
	case '*', '/':
		return operator{rest[:1], 6}
	}
	return operator{}
}

// read reads operands and the operators between them that bind at least so strongly.
func (x *expression) read(depth, least int) amount {
	v := x.single(depth)
	for !x.spent(depth) {
		op := x.next()
		if op.binds < least || op.binds == 0 {
			break
		}
		x.at += len(op.sign)
		v = op.of(v, x.read(depth, op.binds+1))
	}
	return v
}

// of is what two operands come to.
func (op operator) of(a, b amount) amount {
	switch op.sign {
	case "||":
		return amountOf(or(a.truth(), b.truth()))
	case "&&":
		return amountOf(and(a.truth(), b.truth()))
	}
	known, whole := a.known && b.known, a.whole && b.whole
	switch op.sign {
	case "+":
		return amount{n: a.n + b.n, known: known, whole: whole}
	case "-":
		return amount{n: a.n - b.n, known: known, whole: whole}
	case "*":
		return amount{n: a.n * b.n, known: known, whole: whole}
	case "/":
		v := amount{n: a.n / b.n, known: known && b.n != 0, whole: whole}
		if whole {
			v.n = math.Trunc(v.n)
		}
		return v
	}
	if !known {
		return amount{}
	}
	return amountOf(truthOf(compare(a.n, op.sign, b.n)))
}

func compare(a float64, sign string, b float64) bool {
	switch sign {
	case "==":
		return a == b
	case "!=":
		return a != b
	case ">=":
		return a >= b
	case "<=":
		return a <= b
	case ">":
		return a > b
	}
	return a < b
}

func (x *expression) single(depth int) amount {
	if x.spent(depth) {
		return amount{}
	}
	if x.skip(); x.at < len(x.text) {
		switch x.text[x.at] {
		case '!':
			if strings.HasPrefix(x.text[x.at:], "!=") {
				break
			}
			x.at++
			return amountOf(not(x.single(depth + 1).truth()))
		case '-':
			x.at++
			v := x.single(depth + 1)
			v.n = -v.n
			return v
		case '(':
			x.at++
			v := x.read(depth+1, 1)
			if !x.take(")") {
				x.failed = true
			}
			return v
		}
	}
	from := x.at
	for x.at < len(x.text) && (isName(x.text[x.at]) || x.text[x.at] == '.') {
		x.at++
	}
	word := x.text[from:x.at]
	if word == "" {
		x.failed = true
		return amount{}
	}
	if n, ok := decimal(word); ok {
		return n
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

// decimal is a whole number in decimal digits; false where it is another, or none.
func decimal(text string) (amount, bool) {
	if text == "" || len(text) > 15 {
		return amount{}, false
	}
	n := 0
	for _, c := range []byte(text) {
		if c < '0' || c > '9' {
			return amount{}, false
		}
		n = n*10 + int(c-'0')
	}
	return amount{n: float64(n), known: true, whole: true}, true
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
	e, is := x.h.definition(word)
	if is != yes {
		return amount{}
	}
	value := x.h.Value(e)
	if n, ok := decimal(value); ok {
		return n
	}
	inner := &expression{h: x.h, text: value, steps: x.steps}
	v := inner.read(depth+1, 1)
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
	for names, more := x.argument(), true; more; {
		var name string
		name, names, more = strings.Cut(names, ",")
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
