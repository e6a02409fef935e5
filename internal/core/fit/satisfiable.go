package fit

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"wardifex/internal/core/machine"
)

// unsatisfiable says why a requirement can hold on no machine whatever; empty when
// nothing shows that. It looks at bounds of traits, at tests that must all hold,
// and at choices beside them.
func unsatisfiable(n *node) string {
	switch n.kind {
	case allNode:
		for i := range n.parts {
			if why := unsatisfiable(&n.parts[i]); why != "" {
				return why
			}
		}
		all := wanted(n.parts)
		if why := conflictIn(all); why != "" {
			return why
		}
		return noAlternativeLeft(n.parts, all)
	case anyNode:
		why := ""
		for i := range n.parts {
			if why = unsatisfiable(&n.parts[i]); why == "" {
				return ""
			}
		}
		return why
	case testNode:
		if lo, hi, ok := n.span(); ok && n.trait.Max > n.trait.Min && (hi < n.trait.Min || lo > n.trait.Max) {
			return fmt.Sprintf(
				"%q: %s lies between %g and %g %s",
				n.called(),
				n.trait.Label,
				n.trait.Min,
				n.trait.Max,
				n.trait.Unit,
			)
		}
	case formulaKind:
		if t, err := n.formula.at(machine.NewSnapshot(n.formula.voc, machine.Record{}), machine.Claimed); err == nil &&
			!t.possible {
			return fmt.Sprintf("%q: within the bounds of its facts the formula is never so", n.called())
		}
	}
	return ""
}

// span is where a number must lie for a test to hold.
func (n *node) span() (lo, hi float64, ok bool) {
	if n.trait.Kind != machine.Number || n.own != nil {
		return 0, 0, false
	}
	switch n.op() {
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
func wanted(parts []node) (all []constraint) {
	for i := range parts {
		switch p := &parts[i]; p.kind {
		case testNode, kitKind:
			all = append(all, constraint{p.asTest(), false})
		case allNode:
			all = append(all, wanted(p.parts)...)
		case anyNode: // a choice of one is none
			if len(p.parts) == 1 {
				all = append(all, wanted(p.parts)...)
			}
		case noneNode:
			for k := range p.parts {
				if part := &p.parts[k]; part.kind == testNode || part.kind == kitKind {
					all = append(all, constraint{part.asTest(), true})
				}
			}
		}
	}
	return all
}

// asTest is a test, or another kit as the test that what it fits is fitted.
func (n *node) asTest() *node {
	if n.kind == testNode {
		return n
	}
	t := *n
	t.req = &Requirement{
		Label: n.called(),
		Test:  &Test{Slot: n.trait.Slot, Trait: n.trait.Name, Op: Equal, Values: []string{n.req.Kit.Model}},
	}
	return &t
}

// noAlternativeLeft finds a choice each of whose alternatives conflicts with what must hold
// besides.
func noAlternativeLeft(parts []node, besides []constraint) string {
	for i := range parts {
		p := &parts[i]
		if p.kind == allNode {
			if why := noAlternativeLeft(p.parts, besides); why != "" {
				return why
			}
		}
		if p.kind != anyNode {
			continue
		}
		last := ""
		for k := range p.parts {
			if last = conflictIn(append(slices.Clone(besides), wanted(p.parts[k:k+1])...)); last == "" {
				break
			}
		}
		if last != "" {
			return fmt.Sprintf("%q: none of it can be so beside the rest; at last, %s", p.called(), last)
		}
	}
	return ""
}

type constraint struct {
	*node
	barred bool
}

// conflictIn finds two constraints that cannot both be met.
func conflictIn(all []constraint) string {
	for i, b := range all {
		for _, a := range all[:i] {
			var never bool
			switch {
			case a.trait != b.trait:
				never = needsEmptySlot(a, b) || needsEmptySlot(b, a)
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

// needsEmptySlot tells that one constraint wants a slot empty of whose part the other asks
// something.
func needsEmptySlot(empty, of constraint) bool {
	return empty.trait == empty.model && of.model == empty.model && !empty.barred && !of.barred &&
		len(empty.allowed()) > 0 &&
		!slices.ContainsFunc(empty.allowed(), isPart)
}

func isPart(v machine.Value) bool { return !strings.EqualFold(v.Text, machine.None) }

// disjoint tells that no value passes both tests.
func disjoint(a, b *node) bool {
	aLo, aHi, okA := a.span()
	bLo, bHi, okB := b.span()
	if okA && okB && (aHi < bLo || bHi < aLo) {
		return true
	}
	for _, pair := range [][2]*node{{a, b}, {b, a}} {
		if only := pair[0].allowed(); only != nil {
			return !slices.ContainsFunc(only, func(v machine.Value) bool { return pair[1].holds(v).possible })
		}
	}
	return false
}

// implies tells that every value that passes a passes b as well.
func implies(a, b *node) bool {
	aLo, aHi, okA := a.span()
	bLo, bHi, okB := b.span()
	if okA && okB && aLo >= bLo && aHi <= bHi {
		return true
	}
	if only := a.allowed(); only != nil {
		return !slices.ContainsFunc(only, func(v machine.Value) bool { return !b.holds(v).sure })
	}
	return a.op() == b.op() && a.own == b.own && slices.Equal(a.req.Test.Values, b.req.Test.Values)
}

// allowed are the only values that pass a test; nil when they cannot be listed.
func (n *node) allowed() []machine.Value {
	if n.own != nil {
		return nil
	}
	switch n.op() {
	case Equal, OneOf:
		return n.values
	case Absent:
		return []machine.Value{{Text: machine.None}}
	}
	return nil
}
