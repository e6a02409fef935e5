package fit

import (
	"fmt"
	"math"

	"wardifex/internal/core/machine"
)

// never says why a requirement can hold on no machine whatever; empty when
// nothing shows that. It looks at bounds of traits, and at tests of one trait
// that must all hold.
func never(n *node) string {
	switch n.kind {
	case allNode:
		for i := range n.parts {
			if why := never(&n.parts[i]); why != "" {
				return why
			}
		}
		return clash(n.parts)
	case anyNode:
		why := ""
		for i := range n.parts {
			if why = never(&n.parts[i]); why == "" {
				return ""
			}
		}
		return why
	case testNode:
		if lo, hi, ok := n.span(); ok && n.trait.Max > n.trait.Min && (hi < n.trait.Min || lo > n.trait.Max) {
			return fmt.Sprintf("%q: %s lies between %g and %g %s", n.req.Label, n.trait.Label, n.trait.Min, n.trait.Max, n.trait.Unit)
		}
	case formulaKind:
		if t, err := n.formula.truth(world{Snapshot: machine.Take(n.formula.voc, nil)}, machine.Claimed); err == nil && t == isNo {
			return fmt.Sprintf("%q: within the bounds of its facts the formula is never so", n.req.Label)
		}
	}
	return ""
}

// span is where a number must lie for a test to hold.
func (n *node) span() (lo, hi float64, ok bool) {
	if n.trait.Kind != machine.Number {
		return 0, 0, false
	}
	switch n.req.Test.Op {
	case Equal:
		return n.values[0].Number, n.values[0].Number, true
	case AtLeast:
		return n.values[0].Number, math.Inf(1), true
	case AtMost:
		return math.Inf(-1), n.values[0].Number, true
	case Between:
		return n.values[0].Number, n.values[1].Number, true
	}
	return 0, 0, false
}

// clash finds two tests of one trait that cannot both hold.
func clash(parts []node) string {
	for i := range parts {
		for k := range i {
			a, b := &parts[k], &parts[i]
			if a.kind != testNode || b.kind != testNode || a.trait != b.trait {
				continue
			}
			aLo, aHi, okA := a.span()
			bLo, bHi, okB := b.span()
			disjoint := okA && okB && (aHi < bLo || bHi < aLo)
			if allowed, other := a.allowed(), b.allowed(); allowed != nil && other != nil {
				disjoint = true
				for _, v := range allowed {
					for _, w := range other {
						disjoint = disjoint && !a.trait.Same(v, w)
					}
				}
			}
			if ops := [2]Op{a.req.Test.Op, b.req.Test.Op}; ops == [2]Op{Present, Absent} || ops == [2]Op{Absent, Present} {
				disjoint = true
			}
			if disjoint {
				return fmt.Sprintf("%q and %q cannot both be so", a.req.Label, b.req.Label)
			}
		}
	}
	return ""
}

// allowed are the values that a test leaves; nil when it leaves a span.
func (n *node) allowed() []machine.Value {
	if op := n.req.Test.Op; op == Equal || op == OneOf {
		return n.values
	}
	return nil
}
