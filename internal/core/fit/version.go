package fit

import (
	"slices"
	"strings"
	"unicode"

	"wardifex/internal/core/machine"
)

// CompareVersions compares dotted version numbers part by part, numbers as
// numbers: −1, 0 or 1. A part that is missing counts as nothing, and a word
// after the number ("2.1 beta") makes it older than the same number without.
func CompareVersions(a, b string) int {
	x, y := versionParts(a), versionParts(b)
	for i := 0; i < max(len(x), len(y)); i++ {
		p, q := "", ""
		if i < len(x) {
			p = x[i]
		}
		if i < len(y) {
			q = y[i]
		}
		if c := comparePart(p, q); c != 0 {
			return c
		}
	}
	return 0
}

// CompatibleVersion reports whether a version can stand in for the one that is
// asked for: it is not older, and of the same line, which the first number
// names, or the first two where the first is 0. Source: Semantic Versioning
// 2.0.0, items 4 and 8.
func CompatibleVersion(has, asked string) bool {
	x, y := versionParts(has), versionParts(asked)
	if len(x) == 0 || len(y) == 0 || CompareVersions(has, asked) < 0 || comparePart(x[0], y[0]) != 0 {
		return false
	}
	if strings.Trim(y[0], "0") != "" || len(y) == 1 {
		return true
	}
	return len(x) > 1 && comparePart(x[1], y[1]) == 0
}

func comparePart(p, q string) int {
	pWord, qWord := isWord(p), isWord(q)
	switch {
	case pWord && qWord:
		return strings.Compare(p, q)
	case pWord:
		return -1
	case qWord:
		return 1
	}
	p, q = strings.TrimLeft(p, "0"), strings.TrimLeft(q, "0")
	if len(p) != len(q) {
		return sign(len(p) - len(q))
	}
	return strings.Compare(p, q)
}

func sign(n int) int {
	if n < 0 {
		return -1
	}
	return 1
}

func isWord(s string) bool { return s != "" && !unicode.IsDigit(rune(s[0])) }

// versionParts cuts "v2.10-rc1" into 2, 10, rc, 1.
func versionParts(s string) []string {
	s = strings.TrimPrefix(strings.ToLower(strings.TrimSpace(s)), "v")
	var parts []string
	start := -1
	for i, r := range s + "." {
		inside := unicode.IsLetter(r) || r >= '0' && r <= '9'
		if start >= 0 && (!inside || (r >= '0' && r <= '9') == isWord(s[start:i])) {
			parts, start = append(parts, s[start:i]), -1
		}
		if inside && start < 0 {
			start = i
		}
	}
	return parts
}

// VersionsAsked lists the versions that a kit's needs ask of a trait at least,
// the oldest first.
func (j *Judge) VersionsAsked(of machine.Key) []string {
	var out []string
	var walk func(n *node)
	walk = func(n *node) {
		if n.kind == testNode && (n.req.Test.Op == Version || n.req.Test.Op == Compatible) && n.trait.Key() == of {
			out = append(out, n.values[0].Text)
		}
		for i := range n.parts {
			walk(&n.parts[i])
		}
	}
	walk(&j.root)
	slices.SortFunc(out, CompareVersions)
	return out
}
