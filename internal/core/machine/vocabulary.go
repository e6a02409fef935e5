package machine

import (
	"errors"
	"slices"
	"strings"
	"sync"
)

// Key names one trait of one position, "mainboard.flash".
type Key string

// Slot is the position's part of a key.
func (k Key) Slot() string { slot, _, _ := strings.Cut(string(k), "."); return slot }

// Trait is the trait's part of a key.
func (k Key) Trait() string { _, trait, _ := strings.Cut(string(k), "."); return trait }

// KeyOf joins a position and a trait.
func KeyOf(slot, trait string) Key { return Key(slot + "." + trait) }

// ModelTrait is the trait every position has: the model that is fitted, or None.
const ModelTrait = "model"

// Trait is one property of what is at a position, with the ways to find it out.
type Trait struct {
	Slot string
	TraitDef
	Label string // with the position, "Mainboard: flash"

	key    Key // empty of a trait of a part by itself
	index  int // in Vocabulary.Traits
	at     *Position
	voc    *Vocabulary
	called map[string]string // a model's names, folded, by its name; of model traits
}

// Key is the trait's full name.
func (t *Trait) Key() Key {
	if t.key != "" {
		return t.key
	}
	return KeyOf(t.Slot, t.Name)
}

// Is reports whether the trait is one that rules read, of whatever part of the kind.
func (t *Trait) Is(name TraitOf) bool {
	return t.voc != nil && t.voc.Of(t.at, name) == t && t.voc.Is(t.at.Kind, name.Kind)
}

// Position is where what has the trait is; nil for a trait of a part by itself.
func (t *Trait) Position() *Position { return t.at }

// TraitOf names a trait that rules read of every part of a kind, and of kinds
// that are like it, with what they take for granted of it.
type TraitOf struct {
	Kind, Name string
	Value      Kind
	Unit       string
	Choices    []string // those that rules ask for
}

// Vocabulary is a catalogue made ready for use: every kind's traits laid out
// over the positions of that kind, and indexed. It does not change once built and
// may be shared.
type Vocabulary struct {
	Catalogue Catalogue
	Slots     []Position // the usual ones, and those that single machines have besides
	Traits    []*Trait

	slots       map[string]int
	kinds       map[string]int
	likes       map[string][]string // a kind and those it is like, nearest first
	traits      map[Key]*Trait
	of          []map[string]*Trait // by position, by name
	signs       [][]*Trait          // by position: of which a value tells that a part is there
	inspections map[string]int
	models      map[string]*resolved
	absences    [Proven + 1][]*Fact // of models, by grade and position
	structures  sync.Map            // by signature
	derived     sync.Map            // what other packages made of it, by their keys
}

// Derived is what somebody made of the vocabulary once, to be used again as long as it
// is: make is called for the first who asks by a key. Keys are of unexported types of
// their packages.
func (v *Vocabulary) Derived(key any, make func() any) any {
	if known, ok := v.derived.Load(key); ok {
		return known
	}
	kept, _ := v.derived.LoadOrStore(key, make())
	return kept
}

// Vocabulary checks the catalogue and lays it out, over the usual positions and
// those that single machines have besides. The error names every fault. A position
// of a kind that is not there is left out.
func (c Catalogue) Vocabulary(besides ...Position) (*Vocabulary, error) {
	if faults := c.Faults(); len(faults) > 0 {
		return nil, errors.New(strings.Join(faults, "; "))
	}
	v := &Vocabulary{Catalogue: c, slots: map[string]int{}, kinds: map[string]int{}, likes: map[string][]string{},
		traits: map[Key]*Trait{}, inspections: map[string]int{}, models: map[string]*resolved{}}
	for i, in := range c.Inspections {
		v.inspections[in.Key] = i
	}
	for i, k := range c.Kinds {
		v.kinds[k.Key] = i
	}
	for _, k := range c.Kinds {
		for at := k.Key; at != ""; at = c.Kinds[v.kinds[at]].Like {
			v.likes[k.Key] = append(v.likes[k.Key], at)
		}
	}
	var err error
	if v.models, err = c.resolveModels(); err != nil {
		return nil, err
	}
	v.lay(besides)
	return v, nil
}

// lay lays the kinds' traits out over the positions.
func (v *Vocabulary) lay(besides []Position) {
	v.Slots = slices.Clone(v.Catalogue.Slots)
	known := map[string]bool{}
	for _, p := range v.Slots {
		known[p.Key] = true
	}
	for _, p := range besides {
		if _, ok := v.kinds[p.Kind]; ok && !known[p.Key] {
			known[p.Key] = true
			p.Sometimes, p.RidesOn, p.FedBy = true, nil, nil
			v.Slots = append(v.Slots, p)
		}
	}
	called := map[string]map[string]string{}
	traits := map[string][]TraitDef{}
	for _, k := range v.Catalogue.Kinds {
		called[k.Key] = v.Catalogue.namesOf(k.Key)
		traits[k.Key] = v.traitsOf(k.Key)
	}
	v.of = make([]map[string]*Trait, len(v.Slots))
	for i := range v.Slots {
		p := &v.Slots[i]
		p.index = i
		v.slots[p.Key] = i
		v.of[i] = map[string]*Trait{}
		v.signs = append(v.signs, nil)
		for _, def := range traits[p.Kind] {
			t := &Trait{
				Slot:     p.Key,
				TraitDef: def,
				Label:    p.Label + ": " + def.Short,
				key:      KeyOf(p.Key, def.Name),
				index:    len(v.Traits),
				at:       p,
				voc:      v,
			}
			if def.Name == ModelTrait {
				t.called = called[p.Kind]
			}
			v.traits[t.Key()], v.of[i][def.Name] = t, t
			if def.Name != ModelTrait && t.Kind != YesNo && t.Hint == "" {
				v.signs[i] = append(v.signs[i], t)
			}
			v.Traits = append(v.Traits, t)
		}
	}
	for g := Claimed; g <= Proven; g++ {
		for i := range v.Slots {
			none := Fact{Trait: v.of[i][ModelTrait], Value: Value{Text: None}, Grade: g, Unlisted: true}
			v.absences[g] = append(v.absences[g], &none)
		}
	}
}

// traitsOf are a kind's own traits and those it has of the kinds it is like.
func (v *Vocabulary) traitsOf(kind string) []TraitDef {
	var out []TraitDef
	for _, key := range v.likes[kind] {
		for _, def := range v.Catalogue.Kinds[v.kinds[key]].Traits {
			if !slices.ContainsFunc(out, func(o TraitDef) bool { return o.Name == def.Name }) {
				out = append(out, def)
			}
		}
	}
	return out
}

// feeds and carries are the kinds that usually feed a kind, and that it rides on:
// its own word, or that of the nearest kind it is like.
// FedBy are the kinds that usually feed parts of a kind, its own or those of the kind it is
// like; nil where it hangs on nothing.
func (v *Vocabulary) FedBy(k PartKind) []string { return v.feeds(k) }

func (v *Vocabulary) feeds(k PartKind) []string {
	return v.nearest(k, func(k PartKind) []string { return k.FedBy })
}

func (v *Vocabulary) carries(k PartKind) []string {
	return v.nearest(k, func(k PartKind) []string { return k.RidesOn })
}

func (v *Vocabulary) nearest(k PartKind, says func(PartKind) []string) []string {
	for _, key := range v.likes[k.Key] {
		if said := says(v.Catalogue.Kinds[v.kinds[key]]); len(said) > 0 {
			return said
		}
	}
	return nil
}

// Places are where parts of a kind usually are: as it says, or the nearest kind that
// it is like.
func (v *Vocabulary) Places(kind string) []Place {
	for _, key := range v.likes[kind] {
		if serves := v.Catalogue.Kinds[v.kinds[key]].Serves; len(serves) > 0 {
			return serves
		}
	}
	return nil
}

// Software reports whether a kind is no thing that lies on a shelf: boards run it.
func (v *Vocabulary) Software(kind string) bool {
	return slices.ContainsFunc(v.likes[kind], func(like string) bool {
		return v.Catalogue.Kinds[v.kinds[like]].Software
	})
}

// Is reports whether a kind is another one, or is like it.
func (v *Vocabulary) Is(kind, other string) bool { return slices.Contains(v.likes[kind], other) }

// Trait finds a trait by its key.
func (v *Vocabulary) Trait(k Key) (*Trait, bool) { t, ok := v.traits[k]; return t, ok }

// TraitsAt lists the traits of what is at a position, in the order of its kind.
func (v *Vocabulary) TraitsAt(slot string) []*Trait {
	at, ok := v.slots[slot]
	if !ok {
		return nil
	}
	var out []*Trait
	for _, t := range v.of[at] {
		out = append(out, t)
	}
	slices.SortFunc(out, func(a, b *Trait) int { return a.index - b.index })
	return out
}

// Of is a trait that rules read, at a position. It is nil where the position is
// nil, or the catalogue has the trait otherwise than the rules take it.
func (v *Vocabulary) Of(p *Position, name TraitOf) *Trait {
	if p == nil || p.index >= len(v.of) {
		return nil
	}
	t := v.of[p.index][name.Name]
	if t == nil || t.Kind != name.Value || t.Unit != name.Unit {
		return nil
	}
	return t
}

// ModelAt is the trait that says what is at a position.
func (v *Vocabulary) ModelAt(p *Position) *Trait { return v.of[p.index][ModelTrait] }

// At finds a position by its key; nil when there is none.
func (v *Vocabulary) At(key string) *Position {
	if i, ok := v.slots[key]; ok {
		return &v.Slots[i]
	}
	return nil
}

// First is the first position of a kind, or of a kind like it; nil when there is none.
func (v *Vocabulary) First(kind string) *Position {
	for i := range v.Slots {
		if v.Is(v.Slots[i].Kind, kind) {
			return &v.Slots[i]
		}
	}
	return nil
}

// Position finds a position by its key.
func (v *Vocabulary) Position(key string) (Position, bool) {
	if i, ok := v.slots[key]; ok {
		return v.Slots[i], true
	}
	return Position{}, false
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

// TraitsOf are a kind's traits, with those it has of the kinds it is like.
func (v *Vocabulary) TraitsOf(kind string) []TraitDef { return v.traitsOf(kind) }

// TraitOfKind is a trait of a kind of part, at no position; nil where the kind has none of
// that name.
func (v *Vocabulary) TraitOfKind(kind, name string) *Trait {
	k, ok := v.Kind(kind)
	if !ok {
		return nil
	}
	for _, def := range v.TraitsOf(kind) {
		if def.Name == name {
			return &Trait{Slot: "part", TraitDef: def, Label: k.Label + ": " + def.Short}
		}
	}
	return nil
}

// SameModel reports whether two names mean the same model of a kind, by any of its names.
func (v *Vocabulary) SameModel(kind, a, b string) bool {
	if m := v.model(kind, a); m != nil {
		return m == v.model(kind, b)
	}
	return v.model(kind, b) == nil && fold(a) == fold(b)
}

// Model finds a catalogue model of a kind by its name or another name of it,
// without regard to case.
func (v *Vocabulary) Model(kind, name string) (Model, bool) {
	if r := v.model(kind, name); r != nil {
		return *r.model, true
	}
	return Model{}, false
}

func (v *Vocabulary) model(kind, name string) *resolved {
	for _, k := range v.likes[kind] {
		if r := v.models[modelID(k, name)]; r != nil {
			return r
		}
	}
	return nil
}

// DefaultsOf are a model's own and inherited defaults; nil when the catalogue
// has no such model.
func (v *Vocabulary) DefaultsOf(kind, name string) map[string]Value {
	if r := v.model(kind, name); r != nil {
		return r.defaults
	}
	return nil
}
