package machine

import (
	"errors"
	"strings"
)

// Key names one trait of one slot, "mainboard.flash".
type Key string

// Slot is the slot's part of a key.
func (k Key) Slot() string { slot, _, _ := strings.Cut(string(k), "."); return slot }

// Trait is the trait's part of a key.
func (k Key) Trait() string { _, trait, _ := strings.Cut(string(k), "."); return trait }

// KeyOf joins a slot and a trait.
func KeyOf(slot, trait string) Key { return Key(slot + "." + trait) }

// ModelTrait is the trait every slot has: the model that is fitted, or None.
const ModelTrait = "model"

// Trait is one property of a slot, with the ways to find it out.
type Trait struct {
	Slot string
	TraitDef
	Label string // with the slot, "Mainboard: flash"

	index int // in Vocabulary.Traits
}

// Key is the trait's full name.
func (t *Trait) Key() Key { return KeyOf(t.Slot, t.Name) }

// Vocabulary is a catalogue made ready for use: every kind's traits laid out
// over the slots of that kind, and indexed. It does not change once built and
// may be shared.
type Vocabulary struct {
	Catalogue Catalogue
	Slots     []Slot
	Traits    []*Trait

	slots       map[string]int
	kinds       map[string]int
	traits      map[Key]*Trait
	inspections map[string]int
	models      map[string]*resolved
}

// Vocabulary checks the catalogue and lays it out. The error names every fault.
func (c Catalogue) Vocabulary() (*Vocabulary, error) {
	if faults := c.Faults(); len(faults) > 0 {
		return nil, errors.New(strings.Join(faults, "; "))
	}
	v := &Vocabulary{Catalogue: c, Slots: c.Slots,
		slots: map[string]int{}, kinds: map[string]int{}, traits: map[Key]*Trait{}, inspections: map[string]int{}, models: map[string]*resolved{}}
	for i, in := range c.Inspections {
		v.inspections[in.Key] = i
	}
	for i, k := range c.Kinds {
		v.kinds[k.Key] = i
	}
	for i, s := range c.Slots {
		v.slots[s.Key] = i
		for _, def := range c.Kinds[v.kinds[s.Kind]].Traits {
			t := &Trait{Slot: s.Key, TraitDef: def, Label: s.Label + ": " + def.Short, index: len(v.Traits)}
			v.traits[t.Key()] = t
			v.Traits = append(v.Traits, t)
		}
	}
	for i := range c.Models {
		r, err := c.resolve(&c.Models[i])
		if err != nil {
			return nil, err
		}
		v.models[c.Models[i].id()] = r
	}
	return v, nil
}

// Trait finds a trait by its key.
func (v *Vocabulary) Trait(k Key) (*Trait, bool) { t, ok := v.traits[k]; return t, ok }

// Slot finds a slot by its key.
func (v *Vocabulary) Slot(key string) (Slot, bool) {
	if i, ok := v.slots[key]; ok {
		return v.Slots[i], true
	}
	return Slot{}, false
}

// Inspection finds an inspection by its key.
func (v *Vocabulary) Inspection(key string) (Inspection, bool) {
	if i, ok := v.inspections[key]; ok {
		return v.Catalogue.Inspections[i], true
	}
	return Inspection{}, false
}

// Kind finds a kind of part by its key.
func (v *Vocabulary) Kind(key string) (PartKind, bool) {
	if i, ok := v.kinds[key]; ok {
		return v.Catalogue.Kinds[i], true
	}
	return PartKind{}, false
}

// Model finds a catalogue model of a kind by its name, without regard to case.
func (v *Vocabulary) Model(kind, name string) (Model, bool) {
	if r := v.models[modelID(kind, name)]; r != nil {
		return *r.model, true
	}
	return Model{}, false
}

// DefaultsOf are a model's own and inherited defaults; nil when the catalogue
// has no such model.
func (v *Vocabulary) DefaultsOf(kind, name string) map[string]Value {
	if r := v.models[modelID(kind, name)]; r != nil {
		return r.defaults
	}
	return nil
}
