package fit

import (
	"maps"
	"slices"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Dependency is something that one kit writes and another reads: a trait of what is at a
// position, or what is left of a capacity.
type Dependency struct {
	Trait    machine.Key
	Capacity string
}

// theHeads is how many heads there are, and how they share the machine: every sum
// over parts reads it.
var theHeads = Dependency{Capacity: "heads"}

// Reads lists what a kit's needs look at, whatever the machine.
func (j *Judge) Reads() map[Dependency]bool {
	x := reader{voc: j.voc, out: map[Dependency]bool{}}
	x.walk(&j.root)
	return x.out
}

// Unmet lists what those needs look at that are not met, or not for certain, on a
// machine.
func (j *Judge) Unmet(s machine.Snapshot) map[Dependency]bool {
	x := reader{voc: j.voc, out: map[Dependency]bool{}, unmetOn: &s}
	x.walk(&j.root)
	return x.out
}

// Failing lists, for each thing that surely is not so on a machine, what it looks at:
// before the kit can fit, something of each has to change.
func (j *Judge) Failing(s machine.Snapshot) []map[Dependency]bool {
	var out []map[Dependency]bool
	if j.targets != nil { // what one head lacks another may have
		if all := j.targets.candidates(s); len(all) == 1 {
			return all[0].Failing(s)
		}
		return out
	}
	for i := range j.root.parts {
		n := &j.root.parts[i]
		if n.truth(s).Hi() != No {
			continue
		}
		if n.kind == lastingKind { // each of them by itself
			after := n.lasting.after(s)
			for _, i := range n.lasting.touched(s, after) {
				if n.lasting.of(i, s, after).Hi() == No {
					x := reader{voc: j.voc, out: map[Dependency]bool{}}
					x.traits(i.looks)
					out = append(out, x.out)
				}
			}
			continue
		}
		x := reader{voc: j.voc, out: map[Dependency]bool{}, unmetOn: &s}
		x.walk(n)
		out = append(out, x.out)
	}
	return out
}

// reader gathers what needs look at: all of it, or what is not met on a machine.
type reader struct {
	voc     *machine.Vocabulary
	out     map[Dependency]bool
	unmetOn *machine.Snapshot // nil for all
}

func (x reader) walk(n *node) {
	if x.unmetOn != nil && n.truth(*x.unmetOn) == isYes {
		return
	}
	if n.kind == noneNode { // what is met there is in the way
		x.unmetOn = nil
	}
	if n.over != nil && x.unmetOn != nil {
		over := x.unmetOn.Over(n.over)
		x.unmetOn = &over
	}
	for i := range n.parts {
		x.walk(&n.parts[i])
	}
	switch {
	case n.kind == targetsKind:
		x.out[theHeads] = true // which of them there are
	case n.kind == clusterKind:
		for _, a := range n.cluster.alternatives {
			if len(a.changes) > 1 && len(n.cluster.alternatives) > flatAlternatives {
				continue // they look at what each of them looks at
			}
			nodes, _ := a.ready()
			for i := range nodes {
				x.walk(&nodes[i])
			}
		}
	case n.capacity != nil:
		x.out[Dependency{Capacity: n.capacity.Key}] = true
		if len(n.capacity.Draws) > 0 {
			x.out[theHeads] = true
		}
		x.traits(n.capacity.touched(x.voc))
	case n.kind == lastingKind && x.unmetOn == nil:
		for i, near := range n.lasting.near() {
			if near {
				x.traits(x.voc.TraitsAt(x.voc.Slots[i].Key))
			}
		}
	case n.kind == lastingKind:
		after := n.lasting.after(*x.unmetOn)
		for _, i := range n.lasting.touched(*x.unmetOn, after) {
			if n.lasting.of(i, *x.unmetOn, after) != isYes {
				x.traits(i.looks)
			}
		}
	default:
		x.traits(n.looksAt(x.voc))
	}
}

func (x reader) traits(traits []*machine.Trait) {
	for _, t := range traits {
		x.out[Dependency{Trait: t.Key()}] = true
	}
}

// near are, by position, those that needs look at which the change may touch, on whatever
// machine.
func (c *partChange) near() []bool {
	c.nearOnce.Do(func() { c.nearBy = c.findNear() })
	return c.nearBy
}

func (c *partChange) findNear() []bool {
	out := make([]bool, len(c.lasting.voc.Slots))
	if c.overlay == nil {
		return out
	}
	voc := c.lasting.voc
	written := map[string]bool{} // kinds
	for i := range voc.Slots {
		if p := &voc.Slots[i]; c.overlay.Touches(p) || c.brings(p) {
			written[p.Kind] = true
		}
	}
	kinds := map[string]bool{}
	for _, n := range c.lasting.neighbours() {
		touched := false
		for kind := range n {
			touched = touched || written[kind]
		}
		if touched {
			maps.Copy(kinds, n)
		}
	}
	for i := range voc.Slots {
		out[i] = kinds[voc.Slots[i].Kind]
	}
	return out
}

// touched are the traits that a capacity reads, without those that are only a sign
// that a part is there.
func (n *capacityNode) touched(voc *machine.Vocabulary) []*machine.Trait {
	var out []*machine.Trait
	users := usersOf(voc, n.Key)
	for i := range voc.Slots {
		p := &voc.Slots[i]
		for _, name := range n.looksAt() {
			if voc.Is(p.Kind, name.Kind) {
				if t := voc.Of(p, name); t != nil {
					out = append(out, t)
				}
			}
		}
		if users[p.Kind] {
			out = append(out, voc.ModelAt(p))
		}
	}
	return out
}

// Writes lists what a kit changes, with whatever additional changes.
func (j *Judge) Writes() map[Dependency]bool {
	out := map[Dependency]bool{}
	if j.targets != nil {
		j.targets.each(func(one *Judge) { maps.Copy(out, one.Writes()) })
		return out
	}
	effects := j.Kit.allEffects()
	for _, e := range effects {
		p := j.voc.At(e.Slot)
		build := p != nil && j.voc.Is(p.Kind, parts.Firmware) && e.Traits[parts.FirmwareFamily.Name] == ""
		for _, t := range j.voc.TraitsAt(e.Slot) {
			_, set := e.Traits[t.Name]
			_, added := e.Adds[t.Name]
			// A part that stays, and a build of the same family, keep what is not stated.
			if set || added || !e.Stays() && (!build || t.Name == machine.ModelTrait) {
				out[Dependency{Trait: t.Key()}] = true
			}
		}
		if p != nil &&
			(p.Serves.Head() > 1 || j.voc.Is(p.Kind, parts.ToolPlate) || j.voc.Is(p.Kind, machine.HeadsMode.Kind)) {
			out[theHeads] = true
		}
		if e.Moves() {
			for _, t := range j.voc.TraitsAt(e.From) {
				out[Dependency{Trait: t.Key()}] = true
			}
		}
	}
	spends := []consumption{consumptionOf(j.Kit, j.voc)}
	for _, f := range j.Kit.additionalChanges() {
		spends = append(spends, consumptionBy(f, j.voc))
	}
	var uses []Use
	for _, x := range spends {
		uses = append(uses, x.uses...)
		for _, u := range x.brought {
			uses = append(uses, u.Use)
		}
	}
	for _, u := range uses {
		out[Dependency{Capacity: u.Capacity}] = true
		if c, ok := capacityOf(u.Capacity); ok && c.Observed.Name != "" {
			for i := range j.voc.Slots {
				if t := j.voc.Of(&j.voc.Slots[i], c.Observed); t != nil && j.voc.Is(j.voc.Slots[i].Kind, c.Observed.Kind) {
					out[Dependency{Trait: t.Key()}] = true
				}
			}
		}
	}
	return out
}

// Shift is what a kit does to a capacity of a machine.
type Shift struct {
	Capacity   string
	Title      string
	Arithmetic string // what is left afterwards, as a sum
	Short      bool   // it may not suffice
}

// Shifts lists the capacities that a change draws on, as they stand once it is made;
// those are left out of which nothing is known.
func (p Projection) Shifts() []Shift {
	var out []Shift
	for i := range capacities {
		n := capacityNode{Capacity: &capacities[i]}
		was, is := worst(n.sums(p.Before, false)), worst(n.sums(p.After, true))
		written := slices.ContainsFunc(p.Taken, func(t machine.Taking) bool { return t.Capacity == n.Key })
		unless := n.Unless != nil && n.Unless(p.After, n.Least).sure
		if is.idle || is.offer.weak || unless || !written && was.lo == is.lo && was.hi == is.hi {
			continue
		}
		out = append(out, Shift{n.Key, n.Title, is.words(p.After), is.lo < 0})
	}
	return out
}

// Short is by how much a capacity does not suffice for a kit at best, in its
// unit; 0 when it may suffice or the kit takes nothing of it.
func (j *Judge) Short(capacity string, s machine.Snapshot) float64 {
	if j.targets != nil {
		return j.On(s).Short(capacity, s)
	}
	short := 0.0
	for i := range j.root.parts {
		n := &j.root.parts[i]
		if n.kind == clusterKind {
			if n.cluster.truth(s).Hi() != No {
				continue
			}
			for k := range n.cluster.conjuncts {
				if c := &n.cluster.conjuncts[k]; c.capacity == capacity {
					n = &c.shown
				}
			}
		}
		if n.kind == capacityKind && n.capacity.Key == capacity && n.truth(s).Hi() == No {
			x := worst(n.capacity.sums(s, false))
			short = (x.keep - x.hi).float()
		}
	}
	return short
}

// After is the machine once a kit and its additional changes are made.
func (j *Judge) After(s machine.Snapshot, changes []AdditionalChange) (machine.Snapshot, error) {
	p, err := Project(s, j.On(s).Kit, changes)
	return p.After, err
}
