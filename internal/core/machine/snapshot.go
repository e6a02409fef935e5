package machine

// Snapshot is everything that is known of one machine at a moment.
type Snapshot struct {
	voc   *Vocabulary
	facts []*Fact // by the traits' place in the vocabulary; nil where nothing is known
}

// Take computes a machine's snapshot from the readings of the parts now
// fitted. Readings of parts that were taken out must be left out by the caller.
// Where nothing is read, the fitted model's defaults count as claimed. The
// snapshot refers to the readings, which are not to be changed afterwards.
func Take(voc *Vocabulary, readings []Reading) Snapshot {
	s := Snapshot{voc: voc, facts: make([]*Fact, len(voc.Traits))}
	// Readings are laid out trait by trait in one list, without copying them.
	at := make([]int, len(readings))
	ends := make([]int, len(voc.Traits)+1)
	for i := range readings {
		at[i] = -1
		if t, ok := voc.Trait(readings[i].Key); ok {
			at[i] = t.index
			ends[t.index+1]++
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
	next := append([]int(nil), ends...)
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
	for _, slot := range voc.Slots {
		model := s.Model(slot.Key)
		if model == "" || len(voc.models) == 0 {
			continue
		}
		for name, v := range voc.DefaultsOf(slot.Kind, model) {
			if t, ok := voc.Trait(KeyOf(slot.Key, name)); ok && s.At(t).Grade == Unknown {
				s.facts[t.index] = &Fact{Trait: t, Value: v, Grade: Claimed, FromModel: model}
			}
		}
	}
	return s
}

// unknown is what is known of a trait of which nothing is recorded.
var unknown = &Fact{}

// At is what is known of a trait; it is not to be changed, and carries no
// Trait where nothing is known. It is fastest for traits of the snapshot's own
// vocabulary; those of an edited one are found by their key.
func (s Snapshot) At(t *Trait) *Fact {
	if t.index >= len(s.facts) || s.voc.Traits[t.index] != t {
		own, ok := s.voc.Trait(t.Key())
		if !ok {
			return unknown
		}
		t = own
	}
	if f := s.facts[t.index]; f != nil {
		return f
	}
	return unknown
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

// Model is the model standing in a slot: its name, None for a slot known to be
// empty, or "" when that is unknown.
func (s Snapshot) Model(slot string) string {
	return s.Fact(KeyOf(slot, ModelTrait)).Value.Text
}

// Named says what is in a slot in a few words, and the fact that says it: the
// model, or where that is unknown the first two traits of which a value stands
// ("compiled, 2.0.8"), with the weaker of their grades. A bare yes or no names
// nothing.
func (s Snapshot) Named(slot string) (string, Fact) {
	f := s.Fact(KeyOf(slot, ModelTrait))
	if f.Grade != Unknown {
		return f.Value.Text, f
	}
	words := ""
	for _, t := range s.voc.Traits {
		g := s.At(t)
		if t.Slot != slot || t.Kind == YesNo || !g.Known() {
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

// Fitted reports whether a part is known to be in the slot.
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
	return s.voc == o.voc && len(s.facts) == len(o.facts) && (len(s.facts) == 0 || &s.facts[0] == &o.facts[0])
}

// With returns a snapshot in which the parts of some slots were exchanged:
// all facts of each slot named are forgotten and replaced by the given ones.
func (s Snapshot) With(slots map[string]map[string]Value, grade Grade) Snapshot {
	out := Snapshot{voc: s.voc, facts: make([]*Fact, len(s.facts))}
	for i, f := range s.facts {
		if _, gone := slots[s.voc.Traits[i].Slot]; !gone {
			out.facts[i] = f
		}
	}
	for slot, traits := range slots {
		for name, v := range traits {
			if t, ok := s.voc.Trait(KeyOf(slot, name)); ok {
				out.facts[t.index] = &Fact{Trait: t, Value: v, Grade: grade}
			}
		}
	}
	return out
}

// Assume returns the snapshot as it would be if a trait had a value, which then
// stands whatever else is on record.
func (s Snapshot) Assume(k Key, v Value, grade Grade) Snapshot {
	t, ok := s.voc.Trait(k)
	if !ok {
		return s
	}
	out := Snapshot{voc: s.voc, facts: append([]*Fact(nil), s.facts...)}
	out.facts[t.index] = &Fact{Trait: t, Value: v, Grade: grade}
	return out
}
