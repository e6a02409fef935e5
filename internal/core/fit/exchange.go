package fit

import (
	"fmt"
	"slices"

	"wardifex/internal/core/machine"
)

// exchange is what a kit does to a capacity as a difference: which parts it exchanges,
// and what is written as used. It is prepared once for all machines.
type exchange struct {
	node  *capacityNode
	parts []*machine.Position // that draw and are exchanged
	on    []*machine.Position // where a machine has none of these, it is not a difference: they make another head
	uses  milli
	keep  milli
}

// newExchange prepares a capacity of a kit; nil where the kit bears on it in more ways than
// by its parts and what is written: on the holder, on what decides whether parts count.
func newExchange(n *capacityNode, voc *machine.Vocabulary) *exchange {
	x := &exchange{node: n}
	for _, u := range n.trial.uses {
		x.uses += toMilli(u.Amount)
		x.keep = max(x.keep, toMilli(u.Keep))
	}
	o := n.trial.overlay
	if o == nil {
		return x
	}
	for _, p := range o.Positions() {
		if p.Serves.Head() > 1 {
			x.on = append(x.on, p)
		}
	}
	users := usersOf(voc, n.Key)
	for i := range voc.Slots {
		p := &voc.Slots[i]
		if !o.Touches(p) {
			continue
		}
		asks := func(name machine.TraitOf) bool {
			return name.Name != "" && voc.Is(p.Kind, name.Kind) && o.Changes(voc.Of(p, name))
		}
		draws := users[p.Kind]
		for _, d := range n.Draws {
			if !voc.Is(p.Kind, d.Kind) {
				if slices.ContainsFunc(d.OnlyOf, asks) {
					return nil // it decides whether other parts count
				}
				continue
			}
			draws = true
			if d.Shared != nil || d.More != nil || d.Kind == n.Holder {
				return nil
			}
		}
		if voc.Is(p.Kind, n.Holder) || asks(n.Observed) || asks(n.UnlessOf) || asks(machine.ListComplete) ||
			asks(machine.HeadsMode) {
			return nil
		}
		if draws {
			x.parts, x.on = append(x.parts, p), append(x.on, p)
		}
	}
	return x
}

// identity is the same for exchanges that come to the same on every machine; empty where
// parts are exchanged.
func (x *exchange) identity() string {
	if len(x.parts) > 0 || len(x.on) > 0 {
		return ""
	}
	return fmt.Sprint("take ", x.node.Key, " ", x.uses, " ", x.keep)
}

// account is what is left of a capacity on a machine before any kit.
type account struct {
	ready, alone   bool // alone: one holder, whose heads are together
	strict, claims balance
}

// balance is an account as far as evidence of a grade goes.
type balance struct {
	*Capacity
	holder  *machine.Position
	idle    bool
	lo, hi  milli // what is left
	unless  tri
	without bool // nothing else makes it unnecessary
}

// open works an account out.
func (a *account) open(c *Capacity, s machine.Snapshot) {
	a.ready, a.alone = true, false
	holders := c.holders(s)
	if len(holders) != 1 || len(s.Takings()) > 0 {
		return
	}
	var ok bool
	if a.strict, ok = balanceOf(c, s, holders[0]); !ok {
		return
	}
	a.claims, a.alone = balanceOf(byClaims[c.Key], s, holders[0])
}

func balanceOf(c *Capacity, s machine.Snapshot, holder *machine.Position) (balance, bool) {
	if headsOf(s, c.Least) != together {
		return balance{}, false
	}
	x := c.left(s, holder, nil, false)
	b := balance{Capacity: c, holder: holder, idle: x.idle, lo: x.lo, hi: x.hi, without: c.Unless == nil}
	if c.Unless != nil {
		b.unless = c.Unless(s, c.Least)
	}
	return b, true
}

// truth is whether enough is left once the exchange is made; as the capacity judges it,
// from the difference alone.
func (x *exchange) truth(a *account, s machine.Snapshot) Truth {
	difference := a.alone
	for _, p := range x.on {
		difference = difference && s.Has(p)
	}
	if !difference {
		return x.node.truth(s)
	}
	switch strict := x.at(&a.strict, s); {
	case strict.sure:
		return isYes
	case !strict.possible:
		return isNo
	default:
		return truthOf(strict, x.at(&a.claims, s))
	}
}

func (x *exchange) at(b *balance, s machine.Snapshot) tri {
	t := x.left(b, s)
	if !b.without && !t.sure {
		t = tri{t.sure || b.unless.sure, t.possible || b.unless.possible}
	}
	return t
}

func (x *exchange) left(b *balance, s machine.Snapshot) tri {
	if b.idle {
		return surely
	}
	var was, is headTally
	if len(x.parts) > 0 {
		b.parts(s, b.holder, nil, x.parts, nil, func(it item) { was.lo, was.hi = was.lo+it.lo, was.hi+it.hi })
		b.parts(
			s.Over(x.node.trial.overlay),
			b.holder,
			&x.node.trial,
			x.parts,
			nil,
			func(it item) { is.lo, is.hi = is.lo+it.lo, is.hi+it.hi },
		)
	}
	is.lo, is.hi = is.lo+x.uses, is.hi+x.uses
	lo, hi := b.lo+was.hi-is.hi, b.hi+was.lo-is.lo
	if lo >= x.keep {
		return surely
	}
	switch {
	case is.hi-was.lo <= 0 && x.keep == 0:
		return surely
	case hi < x.keep && (is.lo-was.hi > 0 || x.keep > 0):
		return surelyNo
	}
	return maybe
}
