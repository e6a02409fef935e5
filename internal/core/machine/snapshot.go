package machine

import "sort"

// Model is a catalogue model of a part with the defaults of its traits. A
// default counts as claimed until somebody looks.
type Model struct {
	Slot     string
	Name     string
	Defaults map[string]Value // by trait name
}

// Snapshot is everything that is known of one machine at a moment.
type Snapshot struct {
	voc   *Vocabulary
	facts map[Key]Fact
}

// Take computes a machine's snapshot from the readings of the parts now
// fitted. Readings of parts that were taken out must be left out by the caller.
func Take(voc *Vocabulary, models []Model, readings []Reading) Snapshot {
	byKey := make(map[Key][]Reading, len(readings))
	for _, r := range readings {
		byKey[r.Key] = append(byKey[r.Key], r)
	}
	s := Snapshot{voc: voc, facts: make(map[Key]Fact, len(byKey))}
	for k, rs := range byKey {
		if t, ok := voc.Trait(k); ok {
			s.facts[k] = Standing(t, rs)
		}
	}
	for _, m := range models {
		fitted := s.facts[KeyOf(m.Slot, ModelTrait)]
		if !fitted.Known() || fold(fitted.Value.Text) != fold(m.Name) {
			continue
		}
		for name, v := range m.Defaults {
			k := KeyOf(m.Slot, name)
			if t, ok := voc.Trait(k); ok && s.facts[k].Grade == Unknown {
				s.facts[k] = Fact{Trait: t, Value: v, Grade: Claimed, FromModel: m.Name}
			}
		}
	}
	return s
}

// Fact is what is known of a trait. A trait outside the vocabulary is unknown.
func (s Snapshot) Fact(k Key) Fact {
	if f, ok := s.facts[k]; ok {
		return f
	}
	t, _ := s.voc.Trait(k)
	return Fact{Trait: t}
}

// Vocabulary is what the snapshot is described in.
func (s Snapshot) Vocabulary() *Vocabulary { return s.voc }

// Model is the model standing in a slot: its name, None for a slot known to be
// empty, or "" when that is unknown.
func (s Snapshot) Model(slot string) string {
	return s.facts[KeyOf(slot, ModelTrait)].Value.Text
}

// Named says what is in a slot in a few words, and the fact that says it: the
// model, or where that is unknown the first two traits of which a value stands
// ("compiled, 2.0.8"), with the weaker of their grades.
func (s Snapshot) Named(slot string) (string, Fact) {
	f := s.Fact(KeyOf(slot, ModelTrait))
	if f.Grade != Unknown {
		return f.Value.Text, f
	}
	words := ""
	for _, t := range s.voc.Traits {
		g, ok := s.facts[t.Key()]
		if t.Slot != slot || !ok || !g.Known() {
			continue
		}
		if words != "" {
			if g.Grade < f.Grade {
				f = g
			}
			return words + ", " + t.Show(g.Value), f
		}
		words, f = t.Show(g.Value), g
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
	f := s.facts[k]
	return f.Known() && fold(f.Value.Text) == fold(value)
}

// Conflicts lists the facts in conflict, in the vocabulary's order.
func (s Snapshot) Conflicts() []Fact {
	var out []Fact
	for _, t := range s.voc.Traits {
		if f, ok := s.facts[t.Key()]; ok && len(f.Conflict) > 0 {
			out = append(out, f)
		}
	}
	return out
}

// With returns a snapshot in which the parts of some slots were exchanged:
// all facts of each slot named are forgotten and replaced by the given ones.
func (s Snapshot) With(slots map[string]map[string]Value, grade Grade) Snapshot {
	out := Snapshot{voc: s.voc, facts: make(map[Key]Fact, len(s.facts))}
	for k, f := range s.facts {
		if _, gone := slots[f.Trait.Slot]; !gone {
			out.facts[k] = f
		}
	}
	for slot, traits := range slots {
		for name, v := range traits {
			if t, ok := s.voc.Trait(KeyOf(slot, name)); ok {
				out.facts[t.Key()] = Fact{Trait: t, Value: v, Grade: grade}
			}
		}
	}
	return out
}

// Difference is one trait that differs between two snapshots.
type Difference struct {
	Key    Key
	Label  string
	Before string
	After  string
}

// Diff lists what differs from a to b, in the vocabulary's order.
func Diff(a, b Snapshot) []Difference {
	var out []Difference
	for _, t := range a.voc.Traits {
		x, y := a.Fact(t.Key()), b.Fact(t.Key())
		if !t.Same(x.Value, y.Value) {
			out = append(out, Difference{Key: t.Key(), Label: t.Label, Before: t.Show(x.Value), After: t.Show(y.Value)})
		}
	}
	return out
}

// Keys lists the traits of which something is known, sorted.
func (s Snapshot) Keys() []Key {
	out := make([]Key, 0, len(s.facts))
	for k := range s.facts {
		out = append(out, k)
	}
	sort.Slice(out, func(i, j int) bool { return out[i] < out[j] })
	return out
}
