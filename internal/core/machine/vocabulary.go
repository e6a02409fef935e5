package machine

import "fmt"

// Key names one trait of one slot, "mainboard.flash".
type Key string

// KeyOf joins a slot and a trait.
func KeyOf(slot, trait string) Key { return Key(slot + "." + trait) }

// ModelTrait is the trait every slot has: the model that is fitted, or None.
const ModelTrait = "model"

// Slot is a place in a machine that holds one part.
type Slot struct {
	Key   string `json:"key"`
	Label string `json:"label"`
	Group string `json:"group" doc:"Where in the machine the slot is, for ordering on the sheet"`
}

// Trait is one property of a slot, with the ways to find it out.
type Trait struct {
	Slot    string
	Name    string
	Label   string // with the slot, "Mainboard: flash"
	Short   string // without the slot, "flash"
	Kind    Kind
	Unit    string
	Choices []string
	Min     float64 // numbers only; no bounds when Max ≤ Min
	Max     float64
	FindBy  []Way

	index int // in Vocabulary.Traits
}

// Key is the trait's full name.
func (t *Trait) Key() Key { return KeyOf(t.Slot, t.Name) }

// Way is an inspection that answers a trait, and the grade its answer earns.
type Way struct {
	Inspection string
	Grade      Grade
}

// Inspection is something a person does to learn traits: look at the display,
// take the cover off. Minutes include putting things back.
type Inspection struct {
	Key      string   `json:"key"`
	Title    string   `json:"title"`
	How      string   `json:"how"`
	Minutes  int      `json:"minutes"`
	Risk     string   `json:"risk,omitempty"`
	Cautions []string `json:"cautions"`
}

// Vocabulary is the set of slots, traits and inspections that a fleet is
// described in. It does not change once built and may be shared.
type Vocabulary struct {
	Slots       []Slot
	Traits      []*Trait
	Inspections []Inspection

	slots       map[string]int
	traits      map[Key]*Trait
	inspections map[string]int
}

// NewVocabulary checks and indexes slots, traits and inspections. Every slot
// gets its model trait unless one is given.
func NewVocabulary(slots []Slot, traits []Trait, inspections []Inspection) (*Vocabulary, error) {
	v := &Vocabulary{Slots: slots, Inspections: inspections,
		slots: map[string]int{}, traits: map[Key]*Trait{}, inspections: map[string]int{}}
	for i, in := range inspections {
		if in.Cautions == nil {
			inspections[i].Cautions = []string{}
		}
		v.inspections[in.Key] = i
	}
	for i, s := range slots {
		if _, twice := v.slots[s.Key]; twice {
			return nil, fmt.Errorf("slot %q is there twice", s.Key)
		}
		v.slots[s.Key] = i
	}
	for i := range traits {
		t := traits[i]
		at, ok := v.slots[t.Slot]
		if !ok {
			return nil, fmt.Errorf("trait %s: there is no slot %q", t.Key(), t.Slot)
		}
		if _, twice := v.traits[t.Key()]; twice {
			return nil, fmt.Errorf("trait %s is there twice", t.Key())
		}
		if t.Kind == Choice && len(t.Choices) == 0 {
			return nil, fmt.Errorf("trait %s is a choice without choices", t.Key())
		}
		for _, w := range t.FindBy {
			if _, ok := v.inspections[w.Inspection]; !ok {
				return nil, fmt.Errorf("trait %s: there is no inspection %q", t.Key(), w.Inspection)
			}
		}
		t.index = len(v.Traits)
		t.Label = slots[at].Label + ": " + t.Short
		v.traits[t.Key()] = &t
		v.Traits = append(v.Traits, &t)
	}
	for _, s := range slots {
		if v.traits[KeyOf(s.Key, ModelTrait)] == nil {
			return nil, fmt.Errorf("slot %q lacks its model trait", s.Key)
		}
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
		return v.Inspections[i], true
	}
	return Inspection{}, false
}
