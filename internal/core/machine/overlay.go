package machine

import (
	"slices"
	"sync"
)

// Overlay is what a change makes of a machine's facts, whichever machine it is: the
// part of a projection that can be prepared once for many machines. Laid over a
// snapshot it costs nothing to look through.
type Overlay struct {
	voc    *Vocabulary
	facts  []*Fact         // by trait; nil where the machine's own fact stays
	from   []int32         // by trait: 1 + the trait whose fact stands there instead
	adds   map[int]float64 // by trait: by how much a number is changed
	fits   []*Position
	leaves []string // positions whose part, with what it takes, goes; moved ones too
	moves  map[string]string
	grown  sync.Map // structures with the positions, by the structure before
}

// NewOverlay is a change that changes nothing yet.
func NewOverlay(voc *Vocabulary) *Overlay {
	return &Overlay{
		voc:   voc,
		facts: make([]*Fact, len(voc.Traits)),
		from:  make([]int32, len(voc.Traits)),
		moves: map[string]string{},
	}
}

// Fit puts a new part at a position: of it is known what is stated, and as a claim
// what its model is supposed to be.
func (o *Overlay) Fit(slot string, values map[string]Value, grade Grade) {
	o.clear(slot)
	p := o.voc.At(slot)
	if p == nil {
		return
	}
	model := values[ModelTrait].Text
	for name, v := range o.voc.DefaultsOf(p.Kind, model) {
		if t := o.voc.of[p.index][name]; t != nil {
			o.facts[t.index] = &Fact{Trait: t, Value: v, Grade: Claimed, FromModel: model}
		}
	}
	o.Set(slot, values, grade)
	o.fits = append(o.fits, p)
}

// Specified is the same change with what models are supposed to be taken as stated: in
// its own verdict, what a change brings counts as it is specified.
func (o *Overlay) Specified() *Overlay {
	out := &Overlay{
		voc:    o.voc,
		facts:  slices.Clone(o.facts),
		from:   o.from,
		adds:   o.adds,
		fits:   o.fits,
		leaves: o.leaves,
		moves:  o.moves,
	}
	for i, f := range out.facts {
		if f != nil && f.FromModel != "" {
			stated := *f
			stated.Grade = Observed
			out.facts[i] = &stated
		}
	}
	return out
}

// Specified is the machine with what a change has brought taken as it is specified.
func (s Snapshot) Specified(o *Overlay) Snapshot {
	out := s.Settled()
	out.facts = slices.Clone(out.facts)
	for i, f := range o.facts {
		if now := out.facts[i]; f != nil && f.FromModel != "" && now != nil && now.FromModel == f.FromModel {
			out.facts[i] = f
		}
	}
	return out
}

// Empty leaves a position empty.
func (o *Overlay) Empty(slot string) {
	o.clear(slot)
	o.Set(slot, map[string]Value{ModelTrait: {Text: None}}, Observed)
}

// Move puts the part of one position at another, with all that is known of it.
func (o *Overlay) Move(from, to string) {
	o.clear(to)
	o.moves[from] = to // Empty, or another part, is put at from besides
	target := o.voc.At(to)
	if target == nil {
		return
	}
	o.fits = append(o.fits, target)
	for _, t := range o.voc.TraitsAt(from) {
		if into := o.voc.of[target.index][t.Name]; into != nil {
			o.facts[into.index], o.from[into.index] = nil, int32(t.index)+1
		}
	}
}

// Set states traits of what is at a position afterwards.
func (o *Overlay) Set(slot string, values map[string]Value, grade Grade) {
	p := o.voc.At(slot)
	if p == nil {
		return
	}
	for name, v := range values {
		if t := o.voc.of[p.index][name]; t != nil {
			o.facts[t.index] = &Fact{Trait: t, Value: v, Grade: grade}
			o.from[t.index] = 0
		}
	}
}

// Add changes numbers of what stays at a position by amounts.
func (o *Overlay) Add(slot string, amounts map[string]float64) {
	p := o.voc.At(slot)
	if p == nil {
		return
	}
	for name, n := range amounts {
		if t := o.voc.of[p.index][name]; t != nil {
			if o.adds == nil {
				o.adds = map[int]float64{}
			}
			o.adds[t.index] += n
		}
	}
}

// clear forgets what is known of a position.
func (o *Overlay) clear(slot string) {
	o.leaves = append(o.leaves, slot)
	for _, t := range o.voc.TraitsAt(slot) {
		o.facts[t.index], o.from[t.index] = unknown, 0
	}
}

// Changes reports whether a trait may be another one afterwards.
func (o *Overlay) Changes(t *Trait) bool {
	return o != nil && t != nil && (o.facts[t.index] != nil || o.from[t.index] != 0 || o.adds[t.index] != 0)
}

// States reports whether the change itself says what a trait is.
func (o *Overlay) States(t *Trait) bool {
	return o != nil && t != nil && o.facts[t.index] != nil && o.facts[t.index] != unknown
}

// Sets reports whether the change says itself what a trait is, or by how much it is
// changed.
func (o *Overlay) Sets(t *Trait) bool {
	return o.States(t) || o != nil && t != nil && o.adds[t.index] != 0
}

// Touches reports whether the change writes anything at a position.
func (o *Overlay) Touches(p *Position) bool {
	if o == nil || p == nil {
		return false
	}
	for _, t := range o.voc.of[p.index] {
		if o.Changes(t) {
			return true
		}
	}
	return false
}

// Positions are those at which the change puts a part.
func (o *Overlay) Positions() []*Position { return o.fits }

// Constant is what a change makes of a trait on every machine: the fact that it states,
// or that nothing is known of it any more; nil where that is the machine's own.
func (o *Overlay) Constant(t *Trait) *Fact {
	if o == nil || t == nil {
		return nil
	}
	return o.facts[t.index]
}

func (o *Overlay) at(s Snapshot, t *Trait) *Fact {
	f := o.stood(s, t)
	if len(o.adds) > 0 && f.Known() {
		if n := o.adds[t.index]; n != 0 {
			return f.plus(t, n, "the change")
		}
	}
	return f
}

// stood is what is at a trait afterwards, but for what is added to it.
func (o *Overlay) stood(s Snapshot, t *Trait) *Fact {
	f := o.facts[t.index]
	switch from := o.from[t.index]; {
	case f != nil:
		if len(s.takings) > 0 && f.Known() && slices.Contains(o.leaves, t.Slot) {
			return o.carried(s, t, f, 1) // a new part carries what hung on the old one and stays
		}
		return f
	case from != 0:
		f = s.facts[from-1]
	default:
		if f = s.facts[t.index]; f != nil && len(s.takings) > 0 && f.Known() {
			f = o.carried(s, t, f, -1) // what leaves gives back what it took
		}
	}
	if f == nil {
		return unknown
	}
	return f
}

// carried is a fact changed by the takings that stay (sign 1), or unchanged by
// those that end (−1).
func (o *Overlay) carried(s Snapshot, t *Trait, f *Fact, sign float64) *Fact {
	for _, x := range s.takings {
		if x.Key != t.Key() || x.Slot == t.Slot || o.ends(x) != (sign < 0) {
			continue
		}
		f = f.plus(t, sign*x.Shift, x.What)
	}
	return f
}

// ends reports whether a taking ends with the change: its part leaves.
func (o *Overlay) ends(x Taking) bool {
	return o.moves[x.Slot] == "" && slices.Contains(o.leaves, x.Slot)
}

// structure is a machine's structure with the positions that the change fits.
func (o *Overlay) structure(before *Structure) *Structure {
	if len(o.fits) == 0 {
		return before
	}
	if known, ok := o.grown.Load(before); ok {
		return known.(*Structure)
	}
	s := before.With(o.fits)
	o.grown.Store(before, s)
	return s
}

// takings are those that stay: parts that leave take theirs along, parts that are
// moved keep them.
func (o *Overlay) takings(before []Taking) []Taking {
	var out []Taking
	for _, t := range before {
		if o.ends(t) {
			continue
		}
		if to := o.moves[t.Slot]; to != "" {
			t.Slot = to
		}
		out = append(out, t)
	}
	return out
}

// Freed are the takings of a machine that end with the change.
func (o *Overlay) Freed(before []Taking) []Taking {
	var out []Taking
	for _, t := range before {
		if o.ends(t) {
			out = append(out, t)
		}
	}
	return out
}

// Over is the machine as it would be with a change made.
func (s Snapshot) Over(o *Overlay) Snapshot {
	if o == nil {
		return s
	}
	s = s.Settled()
	s.over = o
	return s
}

// Settled is the same machine with the change that is tried made part of it.
func (s Snapshot) Settled() Snapshot {
	if s.over == nil {
		return s
	}
	out := Snapshot{voc: s.voc, structure: s.Structure(), facts: make([]*Fact, len(s.facts)), takings: s.Takings()}
	for i, t := range s.voc.Traits {
		if f := s.over.at(s, t); f != unknown {
			if f.Trait != t && f.Trait != nil { // of a part that was moved
				moved := *f
				moved.Trait = t
				f = &moved
			}
			out.facts[i] = f
		}
	}
	return out
}

// Take adds takings to a machine: what they take of what is observed changes it.
// A trait of the very part that takes stays as it is stated.
func (s Snapshot) Take(takings ...Taking) Snapshot {
	out := s.Settled()
	out.facts = slices.Clone(out.facts)
	for _, x := range takings {
		t, ok := s.voc.Trait(x.Key)
		if ok && x.Slot != t.Slot && out.facts[t.index] != nil && out.facts[t.index].Known() {
			out.facts[t.index] = out.facts[t.index].plus(t, x.Shift, x.What)
		}
	}
	out.takings = slices.Concat(out.takings, takings)
	return out
}

// Moved reports whether the trait is that of a part that is put there from
// elsewhere.
func (o *Overlay) Moved(t *Trait) bool { return o != nil && t != nil && o.from[t.index] != 0 }

// Emptied reports whether the change leaves a position empty.
func (o *Overlay) Emptied(p *Position) bool {
	if o == nil || p == nil {
		return false
	}
	f := o.facts[o.voc.of[p.index][ModelTrait].index]
	return f != nil && f.Value.Text == None
}
