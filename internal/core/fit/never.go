package fit

import (
	"fmt"
	"math"
	"slices"

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
		return clash(wanted(n.parts))
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
			return fmt.Sprintf("%q: %s lies between %g and %g %s", n.called(), n.trait.Label, n.trait.Min, n.trait.Max, n.trait.Unit)
		}
	case formulaKind:
		if t, err := n.formula.truth(world{Snapshot: machine.Take(n.formula.voc, nil)}, machine.Claimed); err == nil && t == isNo {
			return fmt.Sprintf("%q: within the bounds of its facts the formula is never so", n.called())
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

// wanted are the parts that must all hold, those of groups within included;
// barred marks tests that must not hold.
func wanted(parts []node) (all []demand) {
	for i := range parts {
		switch p := &parts[i]; p.kind {
		case testNode:
			all = append(all, demand{p, false})
		case allNode:
			all = append(all, wanted(p.parts)...)
		case noneNode:
			for k := range p.parts {
				if p.parts[k].kind == testNode {
					all = append(all, demand{&p.parts[k], true})
				}
			}
		}
	}
	return all
}

type demand struct {
	*node
	barred bool
}

// clash finds two demands on one trait that cannot both be met.
func clash(all []demand) string {
	for i, b := range all {
		for _, a := range all[:i] {
			if a.trait != b.trait {
				continue
			}
			var never bool
			switch {
			case a.barred && b.barred:
			case a.barred:
				never = implies(b.node, a.node)
			case b.barred:
				never = implies(a.node, b.node)
			default:
				never = disjoint(a.node, b.node)
			}
			if never {
				return fmt.Sprintf("%q and %q cannot both be so", a.called(), b.called())
			}
		}
	}
	return ""
}

// disjoint tells that no value passes both tests.
func disjoint(a, b *node) bool {
	aLo, aHi, okA := a.span()
	bLo, bHi, okB := b.span()
	if okA && okB && (aHi < bLo || bHi < aLo) {
		return true
	}
	if allowed, other := a.allowed(), b.allowed(); allowed != nil && other != nil {
		return !slices.ContainsFunc(allowed, func(v machine.Value) bool { return among(a.trait, v, other) })
	}
	ops := [2]Op{a.req.Test.Op, b.req.Test.Op}
	return ops == [2]Op{Present, Absent} || ops == [2]Op{Absent, Present}
}

// implies tells that every value that passes a passes b as well.
func implies(a, b *node) bool {
	aLo, aHi, okA := a.span()
	bLo, bHi, okB := b.span()
	if okA && okB && aLo >= bLo && aHi <= bHi {
		return true
	}
	if allowed, other := a.allowed(), b.allowed(); allowed != nil && other != nil {
		return !slices.ContainsFunc(allowed, func(v machine.Value) bool { return !among(a.trait, v, other) })
	}
	return a.req.Test.Op == b.req.Test.Op && slices.Equal(a.req.Test.Values, b.req.Test.Values)
}

func among(t *machine.Trait, v machine.Value, these []machine.Value) bool {
	return slices.ContainsFunc(these, func(w machine.Value) bool { return t.Same(v, w) })
}

// allowed are the values that a test leaves; nil when it leaves a span.
func (n *node) allowed() []machine.Value {
	if op := n.req.Test.Op; op == Equal || op == OneOf {
		return n.values
	}
	return nil
}
