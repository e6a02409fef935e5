package machine

import (
	"fmt"
	"regexp"
	"strings"
)

// Catalogue is what a fleet is described in, as people write and exchange it:
// kinds of part with their traits, the slots of a machine, the inspections by
// which traits are found, and models with what they are supposed to be.
type Catalogue struct {
	Kinds       []PartKind   `json:"kinds"`
	Slots       []Slot       `json:"slots"`
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
}

// TraitDef is one trait of a kind of part.
type TraitDef struct {
	Name    string   `json:"name"`
	Short   string   `json:"label" doc:"Without the slot: flash"`
	Kind    Kind     `json:"kind" enum:"number,choice,yes/no,text"`
	Unit    string   `json:"unit,omitempty" doc:"Numbers only"`
	Choices []string `json:"choices,omitempty"`
	Min     float64  `json:"min,omitempty" doc:"Numbers only; no bounds when max is not above min"`
	Max     float64  `json:"max,omitempty"`
	FindBy  []Way    `json:"findBy,omitempty"`
	// Safety says what may happen to people or the house while the trait is
	// not known; such traits are asked first.
	Safety string `json:"safety,omitempty" doc:"What may happen while it is not known; empty when nothing"`
	Hint   string `json:"hint,omitempty" doc:"Why it proves nothing: its readings are kept as marked at most"`
	Budget bool   `json:"budget,omitempty" doc:"Something that other parts use up: flash, watts, ways"`
	// Superseded traits keep their readings and are asked no more.
	Superseded string `json:"superseded,omitempty" doc:"Name of the trait of the same kind that took its place"`
}

// Slot is a place in a machine that holds one part.
type Slot struct {
	Key        string `json:"key"`
	Label      string `json:"label"`
	Group      string `json:"group" doc:"Where in the machine the slot is, for ordering on the sheet"`
	Kind       string `json:"kind" doc:"Kind of part it holds"`
	Sometimes  bool   `json:"sometimes,omitempty" doc:"Only some machines have it; shown where something is recorded"`
	Superseded string `json:"superseded,omitempty" doc:"Key of the slot that took its place"`
}

// Way is an inspection that answers a trait, and the grade its answer earns.
type Way struct {
	Inspection string `json:"inspection"`
	Grade      Grade  `json:"grade"`
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
	// Depth orders inspections as a machine is opened: 0 power on, at the
	// display; 1 power off, from outside; 2 cover off; 3 ribbon aside; 4 heat
	// sink off; 5 afterwards, power on again.
	Depth int `json:"depth" minimum:"0" maximum:"5" doc:"0 at the display, 1 power off, 2 cover off, 3 ribbon aside, 4 heat sink off, 5 power on again"`
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
	Markings []string          `json:"markings,omitempty" doc:"Beginnings of what is printed on it, for decoding"`
	Defaults map[string]string `json:"defaults,omitempty" doc:"By trait name, written as people write it"`
	Ports    []Port            `json:"ports,omitempty"`
	Note     string            `json:"note,omitempty"`
	// Superseded models stay readable and are proposed no more.
	Superseded string `json:"superseded,omitempty" doc:"Name of the model that took its place"`
}

// Port is a connector that a part offers.
type Port struct {
	Name string   `json:"name"`
	Ways int      `json:"ways" minimum:"1" maximum:"64"`
	Amps float64  `json:"amperes,omitempty" doc:"Rating of one contact, A"`
	Pins []string `json:"pins,omitempty" doc:"What each way is, in the header's order"`
}

func modelID(kind, name string) string { return kind + "/" + fold(name) }

func (m *Model) id() string { return modelID(m.Kind, m.Name) }

// resolved is a model with what it inherits, values parsed.
type resolved struct {
	model    *Model
	defaults map[string]Value
}

func (c Catalogue) kind(key string) *PartKind {
	for i := range c.Kinds {
		if c.Kinds[i].Key == key {
			return &c.Kinds[i]
		}
	}
	return nil
}

func (k *PartKind) trait(name string) *TraitDef {
	for i := range k.Traits {
		if k.Traits[i].Name == name {
			return &k.Traits[i]
		}
	}
	return nil
}

func (c Catalogue) model(id string) *Model {
	for i := range c.Models {
		if c.Models[i].id() == id {
			return &c.Models[i]
		}
	}
	return nil
}

// resolve gathers a model's defaults, nearest first along what it is based on.
func (c Catalogue) resolve(m *Model) (*resolved, error) {
	r := &resolved{model: m, defaults: map[string]Value{}}
	kind := c.kind(m.Kind)
	seen := map[string]bool{}
	for at := m; at != nil; at = c.model(modelID(m.Kind, at.BasedOn)) {
		if seen[at.id()] {
			return nil, fmt.Errorf("model %s is based on itself, by way of %s", m.Name, at.BasedOn)
		}
		seen[at.id()] = true
		for name, written := range at.Defaults {
			if _, nearer := r.defaults[name]; nearer {
				continue
			}
			def := kind.trait(name)
			if def == nil {
				return nil, fmt.Errorf("model %s: a %s has no trait %q", m.Name, kind.Label, name)
			}
			v, err := (&Trait{TraitDef: *def, Label: m.Name + ", " + def.Short}).Parse(written)
			if err != nil {
				return nil, err
			}
			r.defaults[name] = v
		}
		if at.BasedOn == "" {
			break
		}
	}
	return r, nil
}

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
	chain(say, "slot", c.Slots, func(s Slot) (string, string) { return s.Key, s.Superseded })
	for i := range c.Kinds {
		c.kindFaults(&c.Kinds[i], inspections, say)
	}
	for _, s := range c.Slots {
		c.keyFault("slot", s.Key, s.Label, say)
		if c.kind(s.Kind) == nil {
			say("slot %q: there is no kind of part %q", s.Key, s.Kind)
		}
	}
	if len(out) == 0 {
		c.modelFaults(say)
	}
	return out
}

func (c Catalogue) keyFault(what, key, label string, say func(string, ...any)) {
	if !keyForm.MatchString(key) {
		say("%s %q: a key has small letters, digits and hyphens, at most 40, and begins with a letter", what, clip(key))
	}
	if err := PlainText(label); err != nil {
		say("%s %q: its name: %s", what, key, err)
	}
}

func (c Catalogue) kindFaults(k *PartKind, inspections map[string]bool, say func(string, ...any)) {
	c.keyFault("kind", k.Key, k.Label, say)
	if k.trait(ModelTrait) == nil {
		say("kind %q lacks its model trait", k.Key)
	}
	chain(say, "trait of "+k.Key, k.Traits, func(t TraitDef) (string, string) { return t.Name, t.Superseded })
	for _, t := range k.Traits {
		where := k.Key + "." + t.Name
		c.keyFault("trait", t.Name, t.Short, say)
		switch t.Kind {
		case Number:
			if !KnownUnit(t.Unit) {
				say("trait %s: %q is no unit that is known here; use one of %s", where, clip(t.Unit), Units())
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
			say("trait %s: %q is no kind of value; there are number, choice, yes/no and text", where, clip(string(t.Kind)))
		}
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

func (c Catalogue) modelFaults(say func(string, ...any)) {
	seen := map[string]bool{}
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
			if other != "" && c.model(modelID(m.Kind, other)) == nil {
				say("model %q: there is no model %q of kind %s", m.Name, other, m.Kind)
			}
		}
		if _, err := c.resolve(m); err != nil {
			say("%s", err)
		}
		for _, p := range m.Ports {
			if p.Ways < 1 || p.Ways > 64 || p.Amps < 0 || len(p.Pins) > 0 && len(p.Pins) != p.Ways || strings.TrimSpace(p.Name) == "" {
				say("model %q, port %q: give a name, 1 to 64 ways, a contact rating that is not negative, and no pins or one for each way", m.Name, p.Name)
			}
		}
	}
	chain(say, "model", c.Models, func(m Model) (string, string) {
		if m.Superseded == "" {
			return m.id(), ""
		}
		return m.id(), modelID(m.Kind, m.Superseded)
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
	for key := range to {
		at := to[key]
		for steps := 0; at != ""; steps++ {
			if _, there := to[at]; !there {
				if to[key] == at {
					say("%s %q refers to %q, which is not there", what, key, at)
				}
				break
			}
			if at == key || steps > len(to) {
				say("%s %q refers to itself, by way of %q: break the circle", what, key, to[key])
				break
			}
			at = to[at]
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
			text += " of " + FormatNumber(p.Amps) + " A"
		}
		out = append(out, text)
	}
	return out
}

// PortsOf are a model's ports, or those of the model it is based on.
func (v *Vocabulary) PortsOf(kind, name string) []Port {
	for range len(v.models) {
		m, ok := v.Model(kind, name)
		if !ok {
			return nil
		}
		if len(m.Ports) > 0 {
			return m.Ports
		}
		name = m.BasedOn
	}
	return nil
}
