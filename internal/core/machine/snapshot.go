package machine

import (
	"slices"
)

// Snapshot is everything that is known of one machine at a moment. It is small,
// and copies of it share what is in it.
type Snapshot struct {
	voc       *Vocabulary
	structure *Structure
	facts     []*Fact // by the traits' place in the vocabulary; nil where nothing is known
	takings   []Taking
	over      *Overlay // a change that is tried; nil
}

// Record is what is on record of one machine, as of a moment.
type Record struct {
	// Readings of the parts now fitted; those of parts taken out are left out.
	Readings []Reading
	// Positions are those that the machine has. nil: no list of them is on record;
	// then it has the usual ones, those of which something is recorded, and perhaps
	// others.
	Positions []Position
	// Takings are what fitted parts take of its capacities, now or formerly.
	Takings []Taking
}

// NewSnapshot computes what stands on a machine. Where nothing is read, the fitted
// model's defaults count as claimed. The snapshot refers to the record, which is
// not to be changed afterwards.
func NewSnapshot(voc *Vocabulary, r Record) Snapshot {
	s := Snapshot{voc: voc, facts: make([]*Fact, len(voc.Traits))}
	s.stand(r.Readings)
	s.structure = voc.Structure(s.positions(r))
	s.assumeModels()
	s.takings = current(r.Takings)
	s.carry(r.Takings)
	if r.Positions != nil {
		s.absences()
	}
	return s
}

// stand finds the value that stands for each trait that is read. Readings are laid
// out trait by trait in one list, without copying them.
func (s *Snapshot) stand(readings []Reading) {
	voc := s.voc
	at := make([]int32, len(readings))
	ends := make([]int32, len(voc.Traits)+1)
	last, lastIndex := Key(""), int32(-1)
	for i := range readings {
		if readings[i].Key != last { // readings of one trait often lie together
			last, lastIndex = readings[i].Key, -1
			if t, ok := voc.traits[last]; ok {
				lastIndex = int32(t.index)
			}
		}
		if at[i] = lastIndex; lastIndex >= 0 {
			ends[lastIndex+1]++
		}
	}
	traits := 0
	for i, n := range ends[1:] {
		if n > 0 {
			traits++
		}
		ends[i+1] += ends[i]
	}
	sorted := make([]*Reading, ends[len(voc.Traits)])
	next := slices.Clone(ends)
	for i, t := range at {
		if t >= 0 {
			sorted[next[t]] = &readings[i]
			next[t]++
		}
	}
	facts := make([]Fact, 0, traits)
	for i, t := range voc.Traits {
		if ends[i] < ends[i+1] {
			facts = append(facts, standing(t, sorted[ends[i]:ends[i+1]]))
			s.facts[i] = &facts[len(facts)-1]
		}
	}
}

// positions are those that the record lists, or the usual ones.
func (s *Snapshot) positions(r Record) []Position {
	if r.Positions != nil {
		return r.Positions
	}
	recorded := make([]bool, len(s.voc.Slots))
	for i, f := range s.facts {
		if f != nil && f.Grade != Unknown {
			recorded[s.voc.Traits[i].at.index] = true
		}
	}
	return s.voc.Usual(func(p Position) bool { return recorded[p.index] })
}

// Usual are the positions of a machine of which no list is on record: those that
// every machine has, and those of which something is recorded.
func (v *Vocabulary) Usual(recorded func(Position) bool) []Position {
	var out []Position
	for _, p := range v.Slots {
		if !p.Sometimes && p.Superseded == "" || recorded(p) {
			out = append(out, p)
		}
	}
	return out
}

// assumeModels fills in what fitted models are supposed to be.
func (s *Snapshot) assumeModels() {
	if len(s.voc.models) == 0 {
		return
	}
	for i := range s.voc.Slots {
		model := s.voc.of[i][ModelTrait]
		f := s.facts[model.index]
		if f == nil || !f.Known() {
			continue
		}
		for name, v := range s.voc.DefaultsOf(s.voc.Slots[i].Kind, f.Value.Text) {
			if t := s.voc.of[i][name]; t != nil && s.facts[t.index] == nil {
				s.facts[t.index] = &Fact{Trait: t, Value: v, Grade: Claimed, FromModel: f.Value.Text}
			}
		}
	}
}

// absences say that there is nothing at a position that is not listed: as surely as
// the list is known to be whole.
func (s *Snapshot) absences() {
	grade := s.Listed()
	if grade == Unknown {
		return
	}
	for i := range s.voc.Slots {
		if !s.structure.has[i] {
			s.facts[s.voc.of[i][ModelTrait].index] = s.voc.absences[grade][i]
		}
	}
}

// unknown is what is known of a trait of which nothing is recorded.
var unknown = &Fact{}

// At is what is known of a trait; it is not to be changed, and carries no
// Trait where nothing is known. It is fastest for traits of the snapshot's own
// vocabulary; those of an edited one are found by their key.
func (s Snapshot) At(t *Trait) *Fact {
	if t == nil {
		return unknown
	}
	if t.index >= len(s.facts) || s.voc.Traits[t.index] != t {
		own, ok := s.voc.Trait(t.Key())
		if !ok {
			return unknown
		}
		t = own
	}
	if s.over != nil {
		return s.over.at(s, t)
	}
	if f := s.facts[t.index]; f != nil {
		return f
	}
	return unknown
}

// Of is what is known of a trait that rules read, at a position: unknown where
// there is no such position.
func (s Snapshot) Of(p *Position, name TraitOf) *Fact { return s.At(s.voc.Of(p, name)) }

// Decides is the trait that has to be read where another one is open: itself; the model
// where it is only said that nothing is there; and for a position that is not listed,
// whether the list is whole.
func (s Snapshot) Decides(t *Trait) *Trait {
	if t.at == nil {
		return t
	}
	model := s.voc.of[t.at.index][ModelTrait]
	if s.At(t).Grade == Unknown &&
		slices.ContainsFunc(s.At(model).Candidates(), func(v Value) bool { return v.Text == None }) &&
		s.Has(t.at) {
		return model
	}
	if s.Has(t.at) || !s.At(model).Unlisted {
		return t
	}
	if list := s.voc.Of(s.First(structureKind), ListComplete); list != nil {
		return list
	}
	return t
}

// Number is what stands of a number that rules read; ok is false where none does.
func (s Snapshot) Number(p *Position, name TraitOf) (n float64, ok bool) {
	f := s.Of(p, name)
	return f.Value.Number, f.Known()
}

// Says reports whether a trait that rules read stands at a value, whatever its
// grade.
func (s Snapshot) Says(p *Position, name TraitOf, value string) bool {
	f := s.Of(p, name)
	return f.Known() && fold(f.Value.Text) == fold(value)
}

// Fact is what is known of a trait. A trait outside the vocabulary is unknown.
func (s Snapshot) Fact(k Key) Fact {
	t, ok := s.voc.Trait(k)
	if !ok {
		return Fact{}
	}
	f := *s.At(t)
	f.Trait = t
	return f
}

// Vocabulary is what the snapshot is described in.
func (s Snapshot) Vocabulary() *Vocabulary { return s.voc }

// Structure is which positions the machine has.
func (s Snapshot) Structure() *Structure {
	if s.over != nil {
		return s.over.structure(s.structure)
	}
	return s.structure
}

// Has reports whether the machine has a position.
func (s Snapshot) Has(p *Position) bool { return s.Structure().Has(p) }

// Each lists the machine's positions for a kind of part, and for kinds like it.
func (s Snapshot) Each(kind string) []*Position { return s.Structure().Each(kind) }

// First is the machine's first position for a kind; nil when it has none.
func (s Snapshot) First(kind string) *Position { return s.Structure().First(kind) }

// Model is the model standing at a position: its name, None where it is known to
// be empty, or "" when that is unknown.
func (s Snapshot) Model(slot string) string {
	return s.Fact(KeyOf(slot, ModelTrait)).Value.Text
}

// ModelAt is Model of a position; "" where there is none.
func (s Snapshot) ModelAt(p *Position) string {
	if p == nil {
		return ""
	}
	return s.At(s.voc.of[p.index][ModelTrait]).Value.Text
}

// Holds reports whether a part is known to be at a position.
func (s Snapshot) Holds(p *Position) bool {
	m := s.ModelAt(p)
	return m != "" && m != None
}

// Named says what is at a position in a few words, and the fact that says it: the
// model, or where that is unknown the first two traits of which a value stands
// ("compiled, 2.0.8"), with the weaker of their grades. A bare yes or no names
// nothing.
func (s Snapshot) Named(slot string) (string, Fact) {
	f := s.Fact(KeyOf(slot, ModelTrait))
	if f.Grade != Unknown {
		return f.Value.Text, f
	}
	words := ""
	for _, t := range s.voc.TraitsAt(slot) {
		g := s.At(t)
		if t.Kind == YesNo || !g.Known() {
			continue
		}
		if words != "" {
			if g.Grade < f.Grade {
				f = *g
			}
			return words + ", " + t.Show(g.Value), f
		}
		words, f = t.Show(g.Value), *g
	}
	return words, f
}

// Fitted reports whether a part is known to be at the position of a key.
func (s Snapshot) Fitted(slot string) bool {
	m := s.Model(slot)
	return m != "" && m != None
}

// Is reports whether a trait stands at the given value, whatever its grade.
func (s Snapshot) Is(k Key, value string) bool {
	f := s.Fact(k)
	return f.Known() && fold(f.Value.Text) == fold(value)
}

// Conflicts lists the facts in conflict, in the vocabulary's order.
func (s Snapshot) Conflicts() []Fact {
	var out []Fact
	for _, f := range s.facts {
		if f != nil && len(f.Conflict) > 0 {
			out = append(out, *f)
		}
	}
	return out
}

// Same reports whether two snapshots are one, not only alike.
func (s Snapshot) Same(o Snapshot) bool {
	return s.voc == o.voc && s.over == o.over && len(s.facts) == len(o.facts) &&
		(len(s.facts) == 0 || &s.facts[0] == &o.facts[0])
}

// WithValue is the snapshot as it would be if a trait had a value, which then
// stands whatever else is on record.
func (s Snapshot) WithValue(k Key, v Value, grade Grade) Snapshot {
	t, ok := s.voc.Trait(k)
	if !ok {
		return s
	}
	out := s.Settled()
	out.facts = slices.Clone(out.facts)
	out.facts[t.index] = &Fact{Trait: t, Value: v, Grade: grade}
	return out
}
