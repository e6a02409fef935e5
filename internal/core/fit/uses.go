package fit

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"wardifex/internal/core/machine"
)

// mostAmount bounds what may be written of a capacity, in any unit.
const mostAmount = 1_000_000

func checkUse(u Use) error {
	c, ok := capacityOf(u.Capacity)
	switch {
	case !ok:
		return fmt.Errorf("there is no capacity %q", u.Capacity)
	case !(math.Abs(u.Amount) <= mostAmount):
		return fmt.Errorf("%s: %g is no amount; it lies between −%d and %d", c.Title, u.Amount, mostAmount, mostAmount)
	case !(u.Keep >= 0 && u.Keep <= mostAmount):
		return fmt.Errorf("%s: what must be left over lies between 0 and %d, not at %g", c.Title, mostAmount, u.Keep)
	}
	return nil
}

// Spends is everything that a kit takes of the capacities: what is written as
// such, and the print area and moving mass that it is said to cost or to give.
func (k Kit) Spends() []Use {
	out := slices.Clone(k.Uses)
	also := func(capacity string, amount float64) {
		written := slices.ContainsFunc(k.Uses, func(u Use) bool { return u.Capacity == capacity })
		if amount != 0 && !written {
			out = append(out, Use{Capacity: capacity, Amount: amount})
		}
	}
	for i, capacity := range []string{"print-width", "print-depth", "print-height"} {
		also(capacity, k.AreaLoss[i])
	}
	also("head-mass", k.ToolheadGrams)
	also("bed-mass", k.BedGrams)
	return out
}

// consumption is what a kit, or an additional change, does to the capacities: what is
// written as used, what its parts take by their models, and the effects by which parts
// come and go.
type consumption struct {
	uses    []Use
	brought []partUse
	effects []Effect
}

// partUse is what a part takes by its model.
type partUse struct {
	Use
	slot string
}

// consumptionOf is what a kit does to the capacities. Where it writes a capacity, that is
// the whole of what its parts take of it.
func consumptionOf(k Kit, voc *machine.Vocabulary) consumption {
	x := consumption{uses: k.Spends(), effects: k.Effects}
	x.bring(voc)
	return x
}

// consumptionBy is what an additional change does.
func consumptionBy(f AdditionalChange, voc *machine.Vocabulary) consumption {
	x := consumption{effects: f.Effects}
	for _, u := range f.Uses {
		u.For = cmp.Or(u.For, f.Title)
		x.uses = append(x.uses, u)
	}
	x.bring(voc)
	return x
}

func (x *consumption) bring(voc *machine.Vocabulary) {
	for _, e := range x.effects {
		p := voc.At(e.Slot)
		if p == nil || !e.Fits() {
			continue
		}
		for _, u := range voc.UsesOf(p.Kind, e.Model) {
			if !x.writes(u.Capacity) {
				u.For = cmp.Or(u.For, e.Model)
				x.brought = append(x.brought, partUse{u, e.Slot})
			}
		}
	}
}

// writes reports whether anything is written as used of a capacity.
func (x consumption) writes(capacity string) bool {
	return slices.ContainsFunc(x.uses, func(u Use) bool { return u.Capacity == capacity })
}

// of is what is taken of one capacity.
func (x consumption) of(capacity string) []Use {
	var out []Use
	for _, u := range x.uses {
		if u.Capacity == capacity {
			out = append(out, u)
		}
	}
	for _, u := range x.brought {
		if u.Capacity == capacity {
			out = append(out, u.Use)
		}
	}
	return out
}

// usersOf are the kinds of which some model says what it takes of a capacity.
func usersOf(voc *machine.Vocabulary, capacity string) map[string]bool {

	all := voc.Derived(usersKey{}, func() any {
		out := map[string]map[string]bool{}
		for _, m := range voc.Catalogue.Models {
			for _, u := range voc.UsesOf(m.Kind, m.Name) {
				if out[u.Capacity] == nil {
					out[u.Capacity] = map[string]bool{}
				}
				for _, k := range voc.Catalogue.Kinds {
					if voc.Is(k.Key, m.Kind) {
						out[u.Capacity][k.Key] = true
					}
				}
			}
		}
		return out
	}).(map[string]map[string]bool)
	return all[capacity]
}

// capacityNode is a compiled capacity of a kit.
type capacityNode struct {
	*Capacity
	trial trial
	on    string // key of the holder that is meant; the first when empty
}

// compileUses makes a need of every capacity that is drawn on: what is written as
// used, and where a part that is fitted draws on it, or replenishes it, by what it is.
//
// The first spender is the kit itself; additional changes are made before it.
func compileUses(voc *machine.Vocabulary, spenders ...consumption) ([]node, error) {
	var effects []Effect
	var order []string // of the capacities: those written first
	for i := len(spenders) - 1; i >= 0; i-- {
		effects = append(effects, spenders[i].effects...)
	}
	overlay, err := overlayOf(effects, voc)
	if err != nil {
		return nil, err
	}
	if overlay != nil { // what the kit brings counts as it is specified
		overlay = overlay.Specified()
	}
	for _, x := range spenders {
		for _, u := range x.uses {
			if err := checkUse(u); err != nil {
				return nil, err
			}
			order = append(order, u.Capacity)
		}
		for _, u := range x.brought {
			order = append(order, u.Capacity)
		}
	}
	for i := range capacities {
		order = append(order, capacities[i].Key)
	}
	var out []node
	done := map[string]bool{}
	for _, key := range order {
		c, ok := capacityOf(key)
		if !ok || done[key] {
			continue
		}
		done[key] = true
		n := node{kind: capacityKind, req: &Requirement{Label: c.Title, Why: c.Why, Otherwise: c.Otherwise},
			capacity: &capacityNode{Capacity: c, trial: c.trialOf(voc, overlay, spenders)}}
		for _, u := range n.capacity.trial.uses {
			n.capacity.on = cmp.Or(n.capacity.on, u.On)
		}
		if len(n.capacity.trial.uses) > 0 || c.ByParts && c.drawnOnBy(overlay, voc) {
			out = append(out, n)
		}
	}
	return out, nil
}

// trialOf is what spenders together do to the capacity.
func (c *Capacity) trialOf(voc *machine.Vocabulary, overlay *machine.Overlay, spenders []consumption) trial {
	t := trial{overlay: overlay}
	for i, x := range spenders {
		t.uses = append(t.uses, x.of(c.Key)...)
		if i == 0 {
			t.head = headOf(x.effects, voc)
		}
		for _, u := range x.brought {
			if u.Capacity == c.Key {
				t.covered = append(t.covered, voc.At(u.slot))
			}
		}
		if !x.writes(c.Key) {
			continue
		}
		for _, e := range x.effects {
			if p := voc.At(e.Slot); p != nil && !e.Stays() {
				t.covered = append(t.covered, p)
			}
		}
	}
	return t
}

// headOf is the head of the part that what is written is taken by.
func headOf(effects []Effect, voc *machine.Vocabulary) int {
	if p := voc.At(principal(effects)); p != nil {
		return p.Serves.Head()
	}
	return 0
}

// principal is the position of the part by which a kit takes what is written as
// used: the first that it fits. Taking that part out again gives it back.
func principal(effects []Effect) string {
	if i := slices.IndexFunc(effects, Effect.Fits); i >= 0 {
		return effects[i].Slot
	}
	return ""
}

// drawnOnBy reports whether a change states anything that a capacity looks at.
func (c *Capacity) drawnOnBy(o *machine.Overlay, voc *machine.Vocabulary) bool {
	if o == nil {
		return false
	}
	looks := c.looksAt()
	for i := range voc.Slots {
		p := &voc.Slots[i]
		if !o.Touches(p) {
			continue
		}
		for _, name := range looks {
			if !voc.Is(p.Kind, name.Kind) || name.Name == machine.ModelTrait && !c.counts(name.Kind) {
				continue
			}
			if t := voc.Of(p, name); o.States(t) || o.Moved(t) || name.Name != machine.ModelTrait && o.Emptied(p) {
				return true
			}
		}
	}
	return false
}

// counts reports whether parts of a kind take one each, by being there.
func (c *Capacity) counts(kind string) bool {
	return slices.ContainsFunc(c.Draws, func(d Draw) bool { return d.Kind == kind && d.Of.Name == "" })
}

// sums are what is left at every holder that the capacity has on a machine.
func (n *capacityNode) sums(s machine.Snapshot, collect bool) []sum {
	holders := n.holders(s)
	if len(holders) < 2 {
		var only *machine.Position
		if len(holders) == 1 {
			only = holders[0]
		} else if after := s.Over(n.trial.overlay); len(n.holders(after)) > 0 {
			only = n.holders(after)[0] // the kit brings it
		}
		return []sum{n.left(s, only, &n.trial, collect)}
	}
	out := make([]sum, 0, len(holders))
	for i, h := range holders {
		t := n.trial
		if h.Key != n.on && (n.on != "" || i > 0) {
			t.uses = nil
		}
		out = append(out, n.left(s, h, &t, collect))
	}
	return out
}

// worst is the sum that decides: the first that fails, else one that is open, else
// the first.
func worst(sums []sum) *sum {
	best := 0
	for i := range sums {
		t, b := sums[i].truth(), sums[best].truth()
		if b.sure && !t.sure || b.possible && !t.possible {
			best = i
		}
	}
	return &sums[best]
}

func (n *capacityNode) truth(s machine.Snapshot) Truth {
	return judged(n.at(s), func() tri {
		lean := *n
		lean.Capacity = byClaims[n.Key]
		return lean.at(s)
	})
}

// at is whether enough is left, by evidence that is good enough for the capacity.
func (n *capacityNode) at(s machine.Snapshot) tri {
	t := worst(n.sums(s, false)).truth()
	if n.Unless != nil && !t.sure {
		unless := n.Unless(s.Over(n.trial.overlay), n.Least)
		t = tri{t.sure || unless.sure, t.possible || unless.possible}
	}
	return t
}

// looked are the traits that the capacity looks at, over all positions that a
// machine can have.
func (n *capacityNode) looked(voc *machine.Vocabulary) []*machine.Trait {
	var out []*machine.Trait
	names := append(n.looksAt(), machine.ListComplete, machine.HeadsMode)
	for i := range voc.Slots {
		p := &voc.Slots[i]
		for _, name := range names {
			if !voc.Is(p.Kind, name.Kind) {
				continue
			}
			t := voc.Of(p, name)
			if t != nil && !slices.Contains(out, t) {
				out = append(out, t)
			}
		}
		if usersOf(voc, n.Key)[p.Kind] || slices.ContainsFunc(n.Draws, func(d Draw) bool { return voc.Is(p.Kind, d.Kind) }) ||
			voc.Is(p.Kind, n.Holder) {
			for _, t := range voc.TraitsAt(p.Key) { // any of them is a sign that a part is there
				if !slices.Contains(out, t) {
					out = append(out, t)
				}
			}
		}
	}
	return out
}

// usersKey is the key of what usersOf makes of a vocabulary.
type usersKey struct{}
