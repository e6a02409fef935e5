package fit

import (
	"slices"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Dependency is something that one kit writes and another reads: what is at a
// position, or what is left of a capacity.
type Dependency struct{ Slot, Capacity string }

// theHeads is how many heads there are, and how they share the machine: every sum
// over parts reads it.
var theHeads = Dependency{Capacity: "heads"}

// Reads lists what a kit's needs look at.
func (j *Judge) Reads() map[Dependency]bool { return j.reads(everything) }

// Unmet lists what those needs look at that are not met, or not for certain, on a
// machine.
func (j *Judge) Unmet(s machine.Snapshot) map[Dependency]bool {
	return j.reads(func(n *node) bool { return n.truth(s) != isYes })
}

func everything(*node) bool { return true }

func (j *Judge) reads(into func(*node) bool) map[Dependency]bool {
	out := map[Dependency]bool{}
	var walk func(n *node, into func(*node) bool)
	walk = func(n *node, into func(*node) bool) {
		if !into(n) {
			return
		}
		if n.kind == noneNode { // what is met there is in the way
			into = everything
		}
		for i := range n.parts {
			walk(&n.parts[i], into)
		}
		if n.capacity != nil {
			out[Dependency{Capacity: n.capacity.Key}] = true
			if len(n.capacity.Draws) > 0 {
				out[theHeads] = true
			}
			for _, t := range n.capacity.touched(j.voc) {
				out[Dependency{Slot: t.Slot}] = true
			}
			return
		}
		for _, t := range n.looksAt(j.voc) {
			out[Dependency{Slot: t.Slot}] = true
		}
	}
	walk(&j.root, into)
	return out
}

// touched are the traits that a capacity reads, without those that are only a sign
// that a part is there.
func (n *capacityNode) touched(voc *machine.Vocabulary) []*machine.Trait {
	var out []*machine.Trait
	for i := range voc.Slots {
		for _, name := range n.looksAt() {
			if voc.Is(voc.Slots[i].Kind, name.Kind) {
				if t := voc.Of(&voc.Slots[i], name); t != nil {
					out = append(out, t)
				}
			}
		}
	}
	return out
}

// Writes lists what a kit changes, with whatever additional changes.
func (j *Judge) Writes() map[Dependency]bool {
	out := map[Dependency]bool{}
	effects := j.Kit.allEffects()
	for _, e := range effects {
		out[Dependency{Slot: e.Slot}] = true
		if p := j.voc.At(e.Slot); p != nil && (p.Serves.Head() > 1 || j.voc.Is(p.Kind, parts.ToolPlate) || j.voc.Is(p.Kind, machine.HeadsMode.Kind)) {
			out[theHeads] = true
		}
		if e.Moves() {
			out[Dependency{Slot: e.From}] = true
		}
	}
	uses := j.Kit.Spends()
	for _, f := range j.Kit.furthers() {
		uses = append(uses, f.Uses...)
	}
	for _, u := range uses {
		out[Dependency{Capacity: u.Capacity}] = true
		if c, ok := capacityOf(u.Capacity); ok && c.Observed.Name != "" {
			for i := range j.voc.Slots {
				if p := &j.voc.Slots[i]; j.voc.Is(p.Kind, c.Observed.Kind) {
					out[Dependency{Slot: p.Key}] = true
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
		unless := n.Unless != nil && n.Unless(p.After).sure
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
	for i := range j.root.parts {
		part := &j.root.parts[i]
		n := part
		if n.kind == anyNode {
			n = &n.parts[0] // itself, before what would relieve it
		}
		if n.kind == capacityKind && n.capacity.Key == capacity && part.truth(s) == isNo {
			x := worst(n.capacity.sums(s, false))
			return (x.keep - x.hi).float()
		}
	}
	return 0
}

// After is the machine once a kit and its additional changes are made.
func (j *Judge) After(s machine.Snapshot, further []Further) (machine.Snapshot, error) {
	p, err := Project(s, j.Kit, further)
	return p.After, err
}
