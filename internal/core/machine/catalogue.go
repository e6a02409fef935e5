package machine

import (
	"fmt"
	"maps"
	"math"
	"regexp"
	"slices"
	"strings"

	"wardifex/internal/core/quantity"
)

// Catalogue is what a fleet is described in, as people write and exchange it:
// kinds of part with their traits, the slots of a machine, the inspections by
// which traits are found, and models with what they are supposed to be.
type Catalogue struct {
	Kinds       []PartKind   `json:"kinds"`
	Slots       []Position   `json:"slots"`
	Inspections []Inspection `json:"inspections"`
	Models      []Model      `json:"models"`
}

// Complete gives every list that is missing its empty one, so that a catalogue
// is written as its schema says.
func (c *Catalogue) Complete() {
	c.Kinds, c.Slots = listOrEmpty(c.Kinds), listOrEmpty(c.Slots)
	c.Inspections, c.Models = listOrEmpty(c.Inspections), listOrEmpty(c.Models)
	for i := range c.Kinds {
		c.Kinds[i].Traits = listOrEmpty(c.Kinds[i].Traits)
	}
	for i := range c.Inspections {
		c.Inspections[i].Cautions = listOrEmpty(c.Inspections[i].Cautions)
	}
}

func listOrEmpty[T any](list []T) []T {
	if list == nil {
		return []T{}
	}
	return list
}

// PartKind is a kind of part, such as a driver, with the traits that every
// part of the kind has.
type PartKind struct {
	Key        string     `json:"key"`
	Label      string     `json:"label"`
	Traits     []TraitDef `json:"traits" doc:"The model first"`
	Superseded string     `json:"superseded,omitempty" doc:"Key of the kind that took its place"`
	// Software is no thing: taken out of a machine it lies on no shelf.
	Software bool `json:"software,omitempty" doc:"No thing that lies on a shelf, such as a build"`
	// Like is a kind whose traits this one has too, and all of whose rules, sums
	// and calibrations hold for it.
	Like string `json:"like,omitempty" doc:"Key of a kind whose traits and rules hold for it too"`
	// OnePer says of what there is only one of it; empty where there can be several.
	// Empty when there can be several.
	OnePer string `json:"onePer,omitempty" enum:"machine,place," doc:"Of what there is one only"`
	// FedBy and RidesOn are kinds on which it usually hangs: the one at its own
	// place, or the one that serves the whole machine. The first that is there counts.
	FedBy   []string `json:"fedBy,omitempty" doc:"Kinds that usually feed it"`
	RidesOn []string `json:"ridesOn,omitempty" doc:"Kinds that it usually rides on"`
	Serves  []Place  `json:"serves,omitempty" doc:"Places where it usually is; the first is proposed"`
	// Needs hold for every part of the kind as long as it is fitted. nil where they were
	// written before there were any: then they are those that ship.
	Needs    []Need    `json:"needs,omitempty" doc:"What every part of the kind needs as long as it is fitted"`
	Features []Feature `json:"features,omitempty" doc:"Of a kind of build: what can be compiled in"`
}

// TraitDef is one trait of a kind of part.
type TraitDef struct {
	Name  string `json:"name"`
	Short string `json:"label" doc:"Without the slot: flash"`
	Kind  Kind   `json:"kind" enum:"number,choice,yes/no,text"`
	Unit  string `json:"unit,omitempty" doc:"Numbers only"`
	// Choices are codes: what readings and rules keep. A shop that calls one
	// otherwise writes a label for it, and the words it is also read by.
	Choices []string            `json:"choices,omitempty"`
	Labels  map[string]string   `json:"labels,omitempty" doc:"What a choice is called, where that is not its code"`
	Aliases map[string][]string `json:"aliases,omitempty" doc:"Other words that mean a choice"`
	// Possible is what can physically be, by kind of place ("" for any other): what
	// is not known is taken to lie there. Min and Max only bound what is typed.
	Possible map[PlaceKind]Range `json:"possible,omitempty" doc:"What can physically be, by kind of place; empty for any"`
	// Nominal are values that a number stands for when it is near one: a measured 24.1 V
	// is a 24 V supply. Sums use what was measured.
	Nominal *Nominal `json:"nominal,omitempty" doc:"Values that a number near them stands for in comparisons"`
	Min     float64  `json:"min,omitempty" doc:"Numbers only; no bounds when max is not above min"`
	Max     float64  `json:"max,omitempty"`
	FindBy  []Way    `json:"findBy,omitempty"`
	// Safety says what may happen to people or the house while the trait is
	// not known; such traits are asked first.
	Safety string `json:"safety,omitempty" doc:"What may happen while it is not known; empty when nothing"`
	Hint   string `json:"hint,omitempty" doc:"Why it proves nothing: its readings are kept as marked at most"`
	Budget bool   `json:"budget,omitempty" doc:"Something that other parts use up: flash, watts, pins"`
	// Superseded traits keep their readings and are asked no more.
	Superseded string `json:"superseded,omitempty" doc:"Name of the trait of the same kind that took its place"`
}

// Range is where a number can physically lie, in the trait's unit.
type Range struct {
	Min float64 `json:"min"`
	Max float64 `json:"max"`
}

// Nominal are values that things are made for, in the trait's unit.
type Nominal struct {
	Values []float64 `json:"values"`
	// 0.1 for a tenth.
	Within float64 `json:"within" minimum:"0" maximum:"0.2" doc:"How far off a number may be, as a part of the value"`
}

// Position is a place in a machine that holds one part. The catalogue lists the
// usual ones; which of them a machine has, and which besides, is the machine's own.
type Position struct {
	Key   string `json:"key"`
	Label string `json:"label"`
	Group string `json:"group" doc:"Where in the machine the position is, for ordering on the sheet"`
	Kind  string `json:"kind" doc:"Kind of part it holds"`
	// Electronics or shop; empty while it is not placed.
	Serves Place `json:"serves,omitempty" doc:"What it serves: axis z, head 2, bed, frame, enclosure"`
	// 0 counts as 1.
	N          int    `json:"n,omitempty" minimum:"0" maximum:"50" doc:"Which of its kind at that place it is, from 1"`
	RidesOn    *Link  `json:"ridesOn,omitempty" doc:"What it rides on, where that is not as usual"`
	FedBy      *Link  `json:"fedBy,omitempty" doc:"What feeds it, where that is not as usual"`
	Sometimes  bool   `json:"sometimes,omitempty" doc:"Only some machines have it"`
	Superseded string `json:"superseded,omitempty" doc:"Key of the position that took its place"`

	index int // in Vocabulary.Slots
}

// Index is the place of the position among those of its vocabulary.
func (p *Position) Index() int { return p.index }

// SamePlace reports whether two positions are named alike and serve the same place.
func (p *Position) SamePlace(o Position) bool {
	return p.Label == o.Label && p.Serves == o.Serves && p.Ordinal() == o.Ordinal()
}

// Ordinal is which of its kind at its place the position is, from 1.
func (p *Position) Ordinal() int { return max(p.N, 1) }

// Way is an inspection that answers a trait, and the grade its answer earns.
type Way struct {
	Inspection string `json:"inspection"`
	Grade      Grade  `json:"grade"`
}

// Depths are the states in which a machine is inspected, in the order in which it is
// opened: at the display, from outside, under the cover, under the ribbon, under the heat
// sink; and closed again.
func Depths() []string {
	return []string{"Power on", "Power off", "Cover off", "Ribbon aside", "Heat sink off", "Power on again"}
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
	// Depth orders inspections as a machine is opened: its place in Depths.
	Depth int `json:"depth" minimum:"0" maximum:"5" doc:"0 at the display, 1 power off, 2 cover off, 3 ribbon aside"`
	// Within names the inspection that is done on the way to this one.
	Within string `json:"within,omitempty" doc:"Inspection that is done on the way to this one"`
}

// Model is a catalogue model of a part with what its maker or seller says of
// it. A default counts as claimed until somebody looks.
type Model struct {
	Kind     string            `json:"kind"`
	Name     string            `json:"name"`
	Maker    string            `json:"maker,omitempty"`
	BasedOn  string            `json:"basedOn,omitempty" doc:"Model of the same kind whose defaults and ports it shares"`
	Aliases  []string          `json:"aliases,omitempty" doc:"Other names that mean it, such as the one it had before"`
	Markings []string          `json:"markings,omitempty" doc:"Beginnings of what is printed on it, for decoding"`
	Defaults map[string]string `json:"defaults,omitempty" doc:"By trait name, written as people write it"`
	Ports    []Port            `json:"ports,omitempty"`
	Note     string            `json:"note,omitempty"`
	Needs    []Need            `json:"needs,omitempty" doc:"What a part of it needs as long as it is fitted"`
	Uses     []Use             `json:"uses,omitempty" doc:"What a part of it takes of the machine's capacities"`
	// Positions are what a machine of this model has, for kinds that are a whole
	// machine.
	Positions []Position `json:"positions,omitempty" doc:"Of a model of machine: the positions that it has"`
	// Superseded models stay readable and are proposed no more.
	Superseded string `json:"superseded,omitempty" doc:"Name of the model that took its place"`
	// A shop hides the models that it will never have; what carries one keeps it.
	Hidden bool `json:"hidden,omitempty" doc:"Not proposed in this shop"`
}

// Port is a connector that a part offers.
type Port struct {
	Name string   `json:"name"`
	Ways int      `json:"ways" minimum:"1" maximum:"64"`
	Amps float64  `json:"amperes,omitempty" doc:"Rating of one contact, A"`
	Pins []string `json:"pins,omitempty" doc:"What each pin is, in the header's order"`
}

func modelID(kind, name string) string { return kind + "/" + fold(name) }

func (m *Model) id() string { return modelID(m.Kind, m.Name) }

// resolved is a model with what it inherits, values parsed.
type resolved struct {
	model    *Model
	defaults map[string]Value
	ports    []Port
	needs    []Need
	replaces []string // keys of its needs, those dropped among them
	uses     []Use
	depth    int // how many it is based on, one on the next
}

func (c Catalogue) kind(key string) *PartKind {
	if key == "" {
		return nil
	}
	for i := range c.Kinds {
		if c.Kinds[i].Key == key {
			return &c.Kinds[i]
		}
	}
	return nil
}

func (c Catalogue) modelIndex(id string) int {
	return slices.IndexFunc(c.Models, func(m Model) bool { return m.id() == id })
}

func (k *PartKind) trait(name string) *TraitDef {
	for i := range k.Traits {
		if k.Traits[i].Name == name {
			return &k.Traits[i]
		}
	}
	return nil
}

// MostBased is how many models deep one may be based on another.
const MostBased = 4000

// resolveModels gathers every model's defaults, nearest first along what it is
// based on: each model once, from what it is based on.
func (c Catalogue) resolveModels() (map[string]*resolved, error) {
	at := make(map[string]*Model, len(c.Models))
	for i := range c.Models {
		for _, alias := range c.Models[i].Aliases {
			at[modelID(c.Models[i].Kind, alias)] = &c.Models[i]
		}
	}
	for i := range c.Models { // a name of its own goes before another's alias
		at[c.Models[i].id()] = &c.Models[i]
	}
	out := make(map[string]*resolved, len(c.Models))
	kinds := c.traitsByKind()
	for i := range c.Models {
		var path []*Model // from the model to what is resolved already
		seen := map[string]bool{}
		m := &c.Models[i]
		for ; m != nil && out[m.id()] == nil; m = at[modelID(m.Kind, m.BasedOn)] {
			if seen[m.id()] {
				return nil, fmt.Errorf("model %s is based on itself, by way of %s", c.Models[i].Name, m.Name)
			}
			seen[m.id()] = true
			path = append(path, m)
			if m.BasedOn == "" {
				m = nil
				break
			}
		}
		var base *resolved
		if m != nil {
			base = out[m.id()]
		}
		for k := len(path) - 1; k >= 0; k-- {
			r, err := resolve(path[k], base, kinds[path[k].Kind])
			if err != nil {
				return nil, err
			}
			out[path[k].id()], base = r, r
		}
	}
	for id, m := range at { // by other names too
		out[id] = out[m.id()]
	}
	return out, nil
}

// resolve is a model with what it inherits. Where it states nothing of its own,
// it shares what it is based on.
func resolve(m *Model, base *resolved, traits map[string]TraitDef) (*resolved, error) {
	r := &resolved{model: m}
	if base != nil {
		r.defaults, r.ports, r.depth = base.defaults, base.ports, base.depth+1
		r.needs, r.uses, r.replaces = base.needs, base.uses, base.replaces
	}
	if r.depth > MostBased {
		return nil, fmt.Errorf(
			"model %s is based on more than %d others, one on the next; base it on one nearer to the first",
			m.Name,
			MostBased,
		)
	}
	if len(m.Ports) > 0 {
		r.ports = m.Ports
	}
	if len(m.Uses) > 0 {
		r.uses = m.Uses
	}
	if len(m.Needs) > 0 {
		r.replaces = slices.Clone(r.replaces)
		for _, n := range m.Needs {
			r.replaces = append(r.replaces, n.Key)
		}
	}
	if r.needs = inherit(m.Needs, r.needs); len(r.needs) > MostInherited {
		return nil, fmt.Errorf(
			"model %s has %d needs with those that it inherits; at most %d are right",
			m.Name,
			len(r.needs),
			MostInherited,
		)
	}
	if len(m.Defaults) == 0 && r.defaults != nil {
		return r, nil
	}
	r.defaults = maps.Clone(r.defaults)
	if r.defaults == nil {
		r.defaults = map[string]Value{}
	}
	for name, written := range m.Defaults {
		def, ok := traits[name]
		if !ok {
			return nil, fmt.Errorf("model %s: a part of kind %s has no trait %q", m.Name, m.Kind, name)
		}
		v, err := (&Trait{TraitDef: def, Label: m.Name + ", " + def.Short}).ParseRecorded(written)
		if err != nil {
			return nil, err
		}
		r.defaults[name] = v
	}
	return r, nil
}

// traitsByKind are the traits of every kind by name, those of kinds it is like
// among them.
func (c Catalogue) traitsByKind() map[string]map[string]TraitDef {
	out := map[string]map[string]TraitDef{}
	for i := range c.Kinds {
		traits := map[string]TraitDef{}
		steps := 0
		for k := &c.Kinds[i]; k != nil && steps <= len(c.Kinds); k, steps = c.kind(k.Like), steps+1 {
			for _, t := range k.Traits {
				if _, nearer := traits[t.Name]; !nearer {
					traits[t.Name] = t
				}
			}
		}
		out[c.Kinds[i].Key] = traits
	}
	return out
}

// namesOf are the names of a kind's models, and of models of kinds it is like:
// from every way of writing one to the name it has now.
func (c Catalogue) namesOf(kind string) map[string]string {
	out := map[string]string{}
	for _, m := range c.Models {
		if m.Kind == kind {
			for _, alias := range m.Aliases {
				out[fold(alias)] = m.Name
			}
		}
	}
	for _, m := range c.Models { // a name of its own goes before another's alias
		if m.Kind == kind {
			delete(out, fold(m.Name))
		}
	}
	return out
}

// longestKey is the most characters that a key has.
const longestKey = 40

var keyForm = regexp.MustCompile(`^[a-z][a-z0-9-]{0,39}$`)

// Faults lists everything that is wrong with a catalogue, each in a sentence
// that says what would be right; nil when it can be used.
func (c Catalogue) Faults() []string {
	var out []string
	say := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	inspections := map[string]bool{}
	for _, in := range c.Inspections {
		if inspections[in.Key] {
			say("inspection %q is there twice", in.Key)
		}
		inspections[in.Key] = true
		c.keyFault("inspection", in.Key, in.Title, say)
		if in.Depth < 0 || in.Depth > 5 || in.Minutes < 0 {
			say("inspection %q: depth is 0 to 5 and minutes are not negative", in.Key)
		}
	}
	chain(say, "inspection", c.Inspections, func(in Inspection) (string, string) { return in.Key, in.Within })
	chain(say, "kind", c.Kinds, func(k PartKind) (string, string) { return k.Key, k.Superseded })
	chain(say, "kind", c.Kinds, func(k PartKind) (string, string) { return k.Key, k.Like })
	chain(say, "usual position", c.Slots, func(s Position) (string, string) { return s.Key, s.Superseded })
	for i := range c.Kinds {
		c.kindFaults(&c.Kinds[i], inspections, say)
	}
	for _, p := range c.Slots {
		for _, fault := range c.PositionFaults(p) {
			say("usual position %s", fault)
		}
	}
	if len(out) == 0 {
		c.modelFaults(say)
	}
	return out
}

// PositionFaults lists what is wrong with one position by itself.
func (c Catalogue) PositionFaults(p Position) []string {
	var out []string
	say := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	c.keyFault("", p.Key, p.Label, func(format string, args ...any) {
		say("%s", strings.TrimPrefix(fmt.Sprintf(format, args...), " "))
	})
	if c.kind(p.Kind) == nil {
		say("%q: there is no kind of part %q", p.Key, p.Kind)
	}
	if _, err := ParsePlace(string(p.Serves)); err != nil {
		say("%q: %s", p.Key, err)
	}
	if p.N < 0 || p.N > MostOfAKind {
		say("%q: it is number %d of its kind at its place; 1 to %d are right", p.Key, p.N, MostOfAKind)
	}
	return out
}

func (c Catalogue) keyFault(what, key, label string, say func(string, ...any)) {
	if !keyForm.MatchString(key) {
		say(
			"%s %q: a key has small letters, digits and hyphens, at most 40, and begins with a letter",
			what,
			quantity.Clip(key),
		)
	}
	if err := PlainText(label); err != nil {
		say("%s %q: its name: %s", what, key, err)
	}
}

func (c Catalogue) kindFaults(k *PartKind, inspections map[string]bool, say func(string, ...any)) {
	c.keyFault("kind", k.Key, k.Label, say)
	if k.trait(ModelTrait) == nil && k.Like == "" {
		say("kind %q lacks its model trait", k.Key)
	}
	needFaults("kind "+k.Key, k.Needs, say)
	k.featureFaults(say)
	chain(say, "trait of "+k.Key, k.Traits, func(t TraitDef) (string, string) { return t.Name, t.Superseded })
	for _, t := range k.Traits {
		where := k.Key + "." + t.Name
		c.keyFault("trait", t.Name, t.Short, say)
		switch t.Kind {
		case Number:
			if !quantity.Known(t.Unit) {
				say("trait %s: %q is no unit that is known here; use one of %s", where, quantity.Clip(t.Unit), quantity.Names())
			}
		case Choice:
			if len(t.Choices) == 0 {
				say("trait %s is a choice without choices", where)
			}
			seen := map[string]bool{}
			for _, choice := range t.Choices {
				if err := PlainText(choice); err != nil {
					say("trait %s: a choice: %s", where, err)
				}
				if seen[fold(choice)] {
					say("trait %s: the choice %q is there twice", where, choice)
				}
				seen[fold(choice)] = true
			}
		case YesNo, Text:
		default:
			say(
				"trait %s: %q is no kind of value; there are number, choice, yes/no and text",
				where,
				quantity.Clip(string(t.Kind)),
			)
		}
		t.rangeFaults(where, say)
		if t.Name == ModelTrait && t.Kind != Text {
			say("trait %s: a model is a text", where)
		}
		if t.Kind != Number && t.Unit != "" {
			say("trait %s: only numbers have a unit", where)
		}
		for _, w := range t.FindBy {
			if !inspections[w.Inspection] {
				say("trait %s: there is no inspection %q", where, w.Inspection)
			}
			if w.Grade < Claimed || w.Grade > Proven {
				say("trait %s: its way %q has no grade; use claimed, marked, read or proven", where, w.Inspection)
			}
		}
	}
}

// rangeFaults names what is wrong with the words and ranges of a trait.
func (t TraitDef) rangeFaults(where string, say func(string, ...any)) {
	for code, label := range t.Labels {
		if !slices.Contains(t.Choices, code) {
			say("trait %s: there is no choice %q to be called %q", where, quantity.Clip(code), quantity.Clip(label))
		}
		if err := PlainText(label); err != nil {
			say("trait %s: the name of %q: %s", where, quantity.Clip(code), err)
		}
	}
	words := map[string]string{}
	for _, code := range t.Choices {
		for _, word := range slices.Concat([]string{t.Labels[code]}, t.Aliases[code]) {
			if other, twice := words[fold(word)]; word != "" && twice && other != code {
				say("trait %s: %q means both %q and %q", where, quantity.Clip(word), quantity.Clip(other), quantity.Clip(code))
			}
			words[fold(word)] = code
		}
	}
	if n := t.Nominal; n != nil {
		if t.Kind != Number || !(n.Within >= 0 && n.Within <= 0.2) || len(n.Values) == 0 ||
			slices.ContainsFunc(n.Values, func(v float64) bool { return !(v > 0) }) {
			say("trait %s: nominal values are numbers above 0, and a number stands for one within 0 to 0.2 of it", where)
		}
	}
	for place, r := range t.Possible {
		if t.Kind != Number || !(r.Min <= r.Max) || math.IsInf(r.Min, 0) || math.IsInf(r.Max, 0) {
			say(
				"trait %s: what is possible at %q lies between two numbers, the smaller one first",
				where,
				quantity.Clip(string(place)),
			)
		}
	}
}

func (c Catalogue) modelFaults(say func(string, ...any)) {
	seen, there := map[string]bool{}, map[string]bool{}
	for i := range c.Models {
		there[c.Models[i].id()] = true
		for _, alias := range c.Models[i].Aliases {
			there[modelID(c.Models[i].Kind, alias)] = true
		}
	}
	if _, err := c.resolveModels(); err != nil {
		say("%s", err)
	}
	for i := range c.Models {
		m := &c.Models[i]
		if c.kind(m.Kind) == nil {
			say("model %q: there is no kind of part %q", m.Name, m.Kind)
			continue
		}
		if err := PlainText(m.Name); err != nil {
			say("a model of kind %s: its name: %s", m.Kind, err)
		}
		if seen[m.id()] {
			say("model %q of kind %s is there twice", m.Name, m.Kind)
		}
		seen[m.id()] = true
		for _, other := range []string{m.BasedOn, m.Superseded} {
			if other != "" && !there[modelID(m.Kind, other)] {
				say("model %q: there is no model %q of kind %s", m.Name, other, m.Kind)
			}
		}
		needFaults(fmt.Sprintf("model %q", m.Name), m.Needs, say)
		for _, alias := range m.Aliases {
			if err := PlainText(alias); err != nil {
				say("model %q: another name of it: %s", m.Name, err)
			}
		}
		if len(m.Positions) > MostPositions {
			say("model %q has %d positions; at most %d are right", m.Name, len(m.Positions), MostPositions)
		}
		for _, p := range m.Positions {
			for _, fault := range c.PositionFaults(p) {
				say("model %q, position %s", m.Name, fault)
			}
		}
		for _, p := range m.Ports {
			if p.Ways < 1 || p.Ways > 64 || p.Amps < 0 || len(p.Pins) > 0 && len(p.Pins) != p.Ways ||
				strings.TrimSpace(p.Name) == "" {
				say(
					"model %q, port %q: give a name, 1 to 64 pins, a contact rating that is not negative, and no pins or one "+
						"for each pin",
					m.Name,
					p.Name,
				)
			}
		}
	}
	named := map[string]string{} // what each name means
	for i := range c.Models {
		for _, alias := range c.Models[i].Aliases {
			named[modelID(c.Models[i].Kind, alias)] = c.Models[i].id()
		}
	}
	chain(say, "model", c.Models, func(m Model) (string, string) {
		next := modelID(m.Kind, m.Superseded)
		if now, other := named[next]; other && c.modelIndex(next) < 0 {
			next = now
		}
		if m.Superseded == "" {
			next = ""
		}
		return m.id(), next
	})
}

// chain finds doubles, and references that lead nowhere or back to where they
// began.
func chain[T any](say func(string, ...any), what string, items []T, ends func(T) (key, next string)) {
	to := map[string]string{}
	for _, it := range items {
		key, next := ends(it)
		if _, twice := to[key]; twice && what != "model" && what != "inspection" {
			say("%s %q is there twice", what, key)
		}
		to[key] = next
	}
	settled := map[string]bool{} // leads to an end, or was spoken of
	for _, it := range items {
		key, _ := ends(it)
		walked := map[string]bool{}
		for at := key; at != "" && !settled[at]; at = to[at] {
			next := to[at]
			if _, there := to[next]; next != "" && !there {
				say("%s %q refers to %q, which is not there", what, at, next)
			}
			if walked[at] = true; walked[next] {
				say("%s %q refers to itself, by way of %q: break the circle", what, at, next)
				break
			}
		}
		for at := range walked {
			settled[at] = true
		}
	}
}

// Budgets are what a model offers for other parts to use up: its budget traits
// and the ways of its ports, in the kind's order, written for people.
func (v *Vocabulary) Budgets(m Model) []string {
	out := []string{}
	kind, _ := v.Kind(m.Kind)
	defaults := v.DefaultsOf(m.Kind, m.Name)
	for _, def := range kind.Traits {
		if value, ok := defaults[def.Name]; ok && def.Budget {
			out = append(out, def.Short+" "+(&Trait{TraitDef: def}).Show(value))
		}
	}
	for _, p := range v.PortsOf(m.Kind, m.Name) {
		text := fmt.Sprintf("%s: %d ways", p.Name, p.Ways)
		if p.Amps > 0 {
			text += " of " + quantity.Format(p.Amps) + " A"
		}
		out = append(out, text)
	}
	return out
}

// PortsOf are a model's ports, or those of the model it is based on.
func (v *Vocabulary) PortsOf(kind, name string) []Port {
	if r := v.model(kind, name); r != nil {
		return r.ports
	}
	return nil
}
