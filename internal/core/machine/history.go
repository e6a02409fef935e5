package machine

import (
	"cmp"
	"slices"
	"time"
)

// Tenure is a part while it is, or was, in a slot of a machine.
type Tenure struct {
	Slot string
	Part int64 // number of the part
	From time.Time
	To   time.Time // zero while it is fitted
	// Readings of the part, wherever it was when they were taken; those set
	// aside too. Only the trait of their keys counts.
	Readings []Reading
	Takes    []Taking // of the machine's capacities while it is there
}

func (t Tenure) covers(at time.Time) bool {
	return !at.Before(t.From) && (t.To.IsZero() || at.Before(t.To))
}

// Lived is a position over the time that the machine has it.
type Lived struct {
	Position
	From time.Time
	To   time.Time // zero while the machine has it
}

// History is everything on record of one machine, over time.
type History struct {
	voc       *Vocabulary
	tenures   []Tenure
	positions []Lived
}

// NewHistory gathers what was in a machine when, and which positions it had; with
// none of these its usual ones. Two parts at one position at one time are a fault
// of the record and are refused by the store; here the later one is taken.
func NewHistory(voc *Vocabulary, tenures []Tenure, positions ...Lived) History {
	ts := slices.Clone(tenures)
	slices.SortStableFunc(ts, func(a, b Tenure) int { return a.From.Compare(b.From) })
	return History{voc: voc, tenures: ts, positions: positions}
}

// ListedAt are the positions that the machine had at a moment; nil when no list is
// on record. Before the first of them was listed, it had those listed first.
func (h History) ListedAt(at time.Time) []Position {
	if len(h.positions) == 0 {
		return nil
	}
	first := slices.MinFunc(h.positions, func(a, b Lived) int { return a.From.Compare(b.From) }).From
	if at.Before(first) {
		at = first
	}
	out := []Position{}
	for _, p := range h.positions {
		if !at.Before(p.From) && (p.To.IsZero() || at.Before(p.To)) {
			out = append(out, p.Position)
		}
	}
	return out
}

// takings are what parts took until a moment, as of that moment.
func (h History) takings(at time.Time) []Taking {
	var out []Taking
	for _, t := range h.tenures {
		if t.From.After(at) {
			continue
		}
		for _, x := range t.Takes {
			x.Slot, x.From, x.To = t.Slot, t.From, t.To
			if x.To.After(at) {
				x.To = time.Time{}
			}
			out = append(out, x)
		}
	}
	return out
}

// At is the machine as the record stood at a moment: the parts then fitted, by
// the readings taken until then, with those set aside later still counting.
func (h History) At(at time.Time) Snapshot {
	var out []Reading
	slots := map[string]int{}
	for i, t := range h.tenures {
		if t.covers(at) {
			slots[t.Slot] = i
		}
	}
	for _, i := range slots {
		out = append(out, h.tenures[i].readings(at)...)
	}
	slices.SortFunc(out, func(a, b Reading) int { return cmp.Compare(a.ID, b.ID) })
	return NewSnapshot(h.voc, Record{Readings: out, Positions: h.ListedAt(at), Takings: h.takings(at)})
}

// readings are those of the tenure's part that were on record at a moment, as
// of the slot.
func (t Tenure) readings(at time.Time) []Reading {
	var out []Reading
	for _, r := range t.Readings {
		if r.TakenAt.After(at) {
			continue
		}
		if r.SupersededAt.After(at) {
			r.Superseded, r.SupersededAt = "", time.Time{}
		}
		r.Key = KeyOf(t.Slot, r.Key.Trait())
		out = append(out, r)
	}
	return out
}

// Held is a value that stood over a stretch of time.
type Held struct {
	Fact Fact
	From time.Time
	To   time.Time // zero while it stands
}

// During lists the values that stood for a trait at any time from one moment
// to another, both included, oldest first: "which build did it have in March".
func (h History) During(key Key, from, to time.Time) []Held {
	var out []Held
	t, ok := h.voc.Trait(key)
	if !ok {
		return nil
	}
	for _, at := range h.moments(key, from, to) {
		f := h.factAt(t, at)
		if n := len(out); n > 0 {
			if sameFact(t, out[n-1].Fact, f) {
				continue
			}
			out[n-1].To = at
		}
		out = append(out, Held{Fact: f, From: at})
	}
	return out
}

// moments are the start and every later time, up to the end, at which the
// value of a trait may change.
func (h History) moments(key Key, from, to time.Time) []time.Time {
	out := []time.Time{from}
	add := func(at time.Time) {
		if at.After(from) && !at.After(to) {
			out = append(out, at)
		}
	}
	for _, p := range h.positions {
		if p.Key == key.Slot() {
			add(p.From)
			add(p.To)
		}
	}
	for _, t := range h.tenures {
		if slices.ContainsFunc(t.Takes, func(x Taking) bool { return x.Key == key }) {
			add(t.From)
			add(t.To)
		}
		if t.Slot != key.Slot() {
			continue
		}
		add(t.From)
		add(t.To)
		for _, r := range t.Readings {
			if r.Key.Trait() == key.Trait() || r.Key.Trait() == ModelTrait {
				add(r.TakenAt)
				add(r.SupersededAt)
			}
		}
	}
	slices.SortFunc(out, time.Time.Compare)
	return slices.CompactFunc(out, time.Time.Equal)
}

// factAt is At for one trait.
func (h History) factAt(t *Trait, at time.Time) Fact {
	var held []Reading
	for _, tenure := range h.tenures {
		if tenure.Slot == t.Slot && tenure.covers(at) {
			held = tenure.readings(at)
		}
	}
	positions := h.ListedAt(at)
	return NewSnapshot(h.voc, Record{Readings: held, Positions: positions, Takings: h.takings(at)}).Fact(t.Key())
}

// sameFact reports whether two facts say the same with the same certainty.
func sameFact(t *Trait, a, b Fact) bool {
	return a.Grade == b.Grade && t.Same(a.Value, b.Value) && len(a.Conflict) == len(b.Conflict)
}

// Difference is a trait on which two snapshots do not say the same.
type Difference struct {
	Trait *Trait
	A, B  Fact
	// Value says that the values differ, not their certainty alone. An unknown
	// on one side is no difference of value: nobody has looked.
	Value bool
}

// Diff lists the traits on which two snapshots of one vocabulary differ, in its
// order: two dates of one machine, or two machines.
func Diff(a, b Snapshot) []Difference {
	var out []Difference
	for _, t := range a.voc.Traits {
		x, y := a.Fact(t.Key()), b.Fact(t.Key())
		if sameFact(t, x, y) {
			continue
		}
		out = append(
			out,
			Difference{
				Trait: t,
				A:     x,
				B:     y,
				Value: x.Known() && y.Known() && !t.Same(x.Value, y.Value) || len(x.Conflict) > 0 || len(y.Conflict) > 0,
			},
		)
	}
	return out
}

// Alike is how many traits are known on both sides and have one value.
func Alike(a, b Snapshot) int {
	n := 0
	for _, t := range a.voc.Traits {
		if x, y := a.At(t), b.At(t); x.Known() && y.Known() && t.Same(x.Value, y.Value) {
			n++
		}
	}
	return n
}
