package fit

import (
	"cmp"
	"regexp"
	"slices"
	"strings"

	"wardifex/internal/core/machine"
)

// release is a point in the order of versions: its numbers, and the identifiers of a
// pre-release, which lie before the release of the same numbers. Source: Semantic
// Versioning 2.0.0, item 11; more or fewer numbers than three are read as they are
// written, and those that are missing as 0.
type release struct {
	numbers []string // without leading zeros
	before  []string // of a pre-release; nil of a release, empty and not nil just below the first
}

// releases are what a text may mean: from one release, included, up to another.
type releases struct {
	from, to release // to is included where exact, which then is from
	exact    bool
	all      bool // the text says nothing of it: any release at all
}

var (
	releaseForm = regexp.MustCompile(`(?:^|[^0-9a-z.])v?([0-9]+(?:\.[0-9]+)*)(\.[x*])?`)
	beforeForm  = regexp.MustCompile(
		`^[-. ]?(alpha|beta|rc|pre|preview|dev|nightly|snapshot)[-. ]?([0-9]+)?((?:\.[0-9a-z-]+)*)$`,
	)
	dotted = regexp.MustCompile(`^[0-9]+\.`)
)

// readVersion reads what a text says of a version. A text that says more than a
// version, or less, is a range: "2.0.5 (Nov 20)" is 2.0.5 up to before 2.0.6, "2.1.x"
// anything from the pre-releases of 2.1 to before 2.2. Build metadata, after a plus,
// have no rank.
func readVersion(text string) releases {
	text = strings.ToLower(strings.TrimSpace(text))
	if i := strings.IndexByte(text, '+'); i >= 0 {
		rest := ""
		if j := strings.IndexAny(text[i:], " \t"); j >= 0 {
			rest = text[i+j:]
		}
		text = strings.TrimSpace(text[:i] + rest)
	}
	found := releaseForm.FindAllStringSubmatchIndex(text, -1)
	at := slices.IndexFunc(found, func(m []int) bool { return dotted.MatchString(text[m[2]:m[1]]) })
	if at >= 0 && slices.ContainsFunc(found[at+1:], func(m []int) bool {
		return dotted.MatchString(text[m[2]:m[1]]) && text[m[2]-1] != '-' && text[m[2]-1] != '.'
	}) {
		return releases{all: true} // two versions: whose is which?
	}
	if at < 0 {
		if len(found) != 1 || strings.Trim(text[:found[0][2]], "v ") != "" {
			return releases{all: true} // a number in a text is no version
		}
		at = 0
	}
	m := found[at]
	v := release{numbers: numbersOf(text[m[2]:m[3]])}
	rest := strings.TrimSpace(text[m[1]:])
	switch pre := beforeForm.FindStringSubmatch(text[m[1]:]); {
	case m[4] >= 0: // .x
		return releases{from: release{v.numbers, []string{}}, to: next(v.numbers)}
	case rest == "":
		return releases{from: v, to: v, exact: true}
	case pre != nil:
		v.before = []string{pre[1]}
		if pre[2] != "" {
			v.before = append(v.before, pre[2])
		}
		v.before = append(v.before, strings.FieldsFunc(pre[3], func(r rune) bool { return r == '.' })...)
		return releases{from: v, to: v, exact: true}
	case strings.HasPrefix(text[m[1]:], "-"):
		// A pre-release by its form, or so many changes after the release, or a revision.
		return releases{from: release{v.numbers, []string{}}, to: next(v.numbers)}
	}
	return releases{from: v, to: next(v.numbers)}
}

func numbersOf(text string) []string {
	out := strings.Split(text, ".")
	for i, n := range out {
		out[i] = strings.TrimLeft(n, "0")
	}
	return out
}

// next is just below the release after those of some numbers, its pre-releases left out.
func next(numbers []string) release {
	out := slices.Clone(numbers)
	out[len(out)-1] = increment(out[len(out)-1])
	return release{out, []string{}}
}

// increment adds one to a number of any length.
func increment(n string) string {
	digits := []byte(n)
	for i := len(digits) - 1; i >= 0; i-- {
		if digits[i]++; digits[i] <= '9' {
			return string(digits)
		}
		digits[i] = '0'
	}
	return "1" + string(digits)
}

// compare orders two releases.
func (r release) compare(o release) int {
	for i := range max(len(r.numbers), len(o.numbers)) {
		if c := compareNumbers(at(r.numbers, i), at(o.numbers, i)); c != 0 {
			return c
		}
	}
	switch {
	case r.before == nil && o.before == nil:
		return 0
	case r.before == nil:
		return 1
	case o.before == nil:
		return -1
	}
	for i := range min(len(r.before), len(o.before)) {
		if c := compareIdentifiers(r.before[i], o.before[i]); c != 0 {
			return c
		}
	}
	return cmp.Compare(len(r.before), len(o.before))
}

func at(list []string, i int) string {
	if i < len(list) {
		return list[i]
	}
	return ""
}

// compareNumbers compares numbers without leading zeros; nothing is 0.
func compareNumbers(a, b string) int {
	return cmp.Or(cmp.Compare(len(a), len(b)), strings.Compare(a, b))
}

// compareIdentifiers orders identifiers of pre-releases: numbers as numbers and before
// words. Source: Semantic Versioning 2.0.0, item 11.4.
func compareIdentifiers(a, b string) int {
	isNumber := func(s string) bool { return strings.Trim(s, "0123456789") == "" }
	switch x, y := isNumber(a), isNumber(b); {
	case x && y:
		return compareNumbers(strings.TrimLeft(a, "0"), strings.TrimLeft(b, "0"))
	case x:
		return -1
	case y:
		return 1
	}
	return strings.Compare(a, b)
}

// atLeast is how far a text tells that a version is not older than the one asked for.
func (v releases) atLeast(asked releases) tri {
	if v.all || asked.all {
		return maybe
	}
	return tri{v.from.compare(asked.from) >= 0, v.upTo(asked.from)}
}

// upTo reports whether any of the releases is not older than one.
func (v releases) upTo(r release) bool {
	if v.exact {
		return v.from.compare(r) >= 0
	}
	return v.to.compare(r) > 0
}

// compatible is how far a text tells that a version can stand in for the one that is
// asked for: it is not older, and of the same line, which the first number names, or
// the first two where the first is 0. Source: Semantic Versioning 2.0.0, items 4 and 8.
func (v releases) compatible(asked releases) tri {
	if v.all || asked.all {
		return maybe
	}
	line := asked.from.numbers[:1]
	if line[0] == "" && len(asked.from.numbers) > 1 {
		line = asked.from.numbers[:2]
	}
	end := next(line)
	least, within := v.atLeast(asked), tri{!v.upTo(end), v.from.compare(end) < 0}
	return tri{least.sure && within.sure, least.possible && within.possible}
}

// CompareVersions orders two texts by the least release that each may mean; texts that
// say nothing of a version come first.
func CompareVersions(a, b string) int {
	x, y := readVersion(a), readVersion(b)
	switch {
	case x.all && y.all:
		return strings.Compare(a, b)
	case x.all:
		return -1
	case y.all:
		return 1
	}
	return x.from.compare(y.from)
}

// VersionsAsked lists the versions that a kit, and the parts that it fits, ask of a trait
// at least, the oldest first.
func (j *Judge) VersionsAsked(of *machine.Trait) []string {
	var out []string
	add := func(version string) {
		if !slices.Contains(out, version) {
			out = append(out, version)
		}
	}
	j.walk(func(n *node) {
		if n.kind == testNode && n.own == nil && n.asksVersion() && n.trait == of {
			add(n.values[0].Text)
		}
	})
	var walk func(r *Requirement)
	walk = func(r *Requirement) {
		if t := r.Test; t != nil && t.Of != nil && t.Trait == of.Name && j.voc.Is(of.Position().Kind, t.Of.Kind) &&
			(t.Op == Version || t.Op == Compatible) &&
			len(t.Values) > 0 {
			add(t.Values[0])
		}
		for _, group := range [][]Requirement{r.All, r.Any} {
			for i := range group {
				walk(&group[i])
			}
		}
	}
	for _, e := range j.Kit.Effects {
		if p := j.voc.At(e.Slot); p != nil {
			for _, n := range j.voc.NeedsOf(p.Kind, e.Model) {
				walk(&n.That)
			}
		}
	}
	slices.SortFunc(out, CompareVersions)
	return out
}
