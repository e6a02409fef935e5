package machine

import (
	"fmt"
	"slices"
)

// Usage is what the record of a fleet uses of a catalogue.
type Usage struct {
	// Values counts readings by kind of part, trait and value as text.
	Values map[string]map[string]map[string]int
	Slots  map[string]int // parts that are or were in a slot
	Parts  map[string]int // parts of a kind
	Listed map[string]int // positions for a kind that machines have or had
	// Models are the machines that have a part of a model, by kind and model; an empty name is a part on
	// a shelf, or that was fitted once.
	Models map[string]map[string][]string
	// Positions are those that machines have beside the usual ones: kits and questions may name them.
	Positions []Position
}

// Bearing says what bears a name of a model: machines, parts beside them, readings of what was there.
func (u Usage) Bearing(kind, name string) []string {
	var out []string
	parts := false
	for model, machines := range u.Models[kind] {
		if fold(model) != fold(name) {
			continue
		}
		for _, m := range machines {
			if parts = parts || m == ""; m != "" {
				out = append(out, m)
			}
		}
	}
	slices.Sort(out)
	if parts {
		out = append(out, "parts that are fitted nowhere")
	}
	for value, n := range u.Values[kind]["model"] {
		if len(out) == 0 && fold(value) == fold(name) && n > 0 {
			out = append(out, fmt.Sprintf("%d readings", n))
		}
	}
	return out
}

func (u Usage) readings(kind, trait string) (n int) {
	for _, k := range u.Values[kind][trait] {
		n += k
	}
	return n
}

// CheckChange lists what would be lost if a catalogue took the place of
// another: what is in use can be superseded, but not deleted, nor turned into
// something that its readings do not say.
func CheckChange(before, after Catalogue, use Usage) []string {
	var out []string
	say := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	for _, s := range before.Slots {
		i := slices.IndexFunc(after.Slots, func(x Position) bool { return x.Key == s.Key })
		switch n := use.Slots[s.Key]; {
		case n == 0:
		case i < 0:
			say("usual position %s is in use: %d parts are or were in it. Supersede it instead of deleting it", s.Label, n)
		case after.Slots[i].Kind != s.Kind:
			say(
				"usual position %s is in use: what is in it are parts of kind %s. Add another position for parts of kind %s",
				s.Label,
				s.Kind,
				after.Slots[i].Kind,
			)
		}
	}
	for _, k := range before.Kinds {
		now := after.kind(k.Key)
		if now == nil {
			if n := use.Parts[k.Key]; n > 0 {
				say("kind %s is in use: there are %d parts of it. Supersede it instead of deleting it", k.Label, n)
			} else if n := use.Listed[k.Key]; n > 0 {
				say("kind %s is in use: %d positions of machines are for it. Supersede it instead of deleting it", k.Label, n)
			}
			continue
		}
		for _, t := range k.Traits {
			if n := use.readings(k.Key, t.Name); n > 0 {
				traitChange(k, t, now.trait(t.Name), n, use.Values[k.Key][t.Name], say)
			}
		}
	}
	return out
}

func traitChange(k PartKind, before TraitDef, after *TraitDef, n int, values map[string]int, say func(string, ...any)) {
	name := k.Label + ", " + before.Short
	switch {
	case after == nil:
		say("%s is in use: there are %d readings of it. Supersede it instead of deleting it", name, n)
	case after.Kind != before.Kind:
		say(
			"%s is in use as %s: its %d readings would not be %s. Supersede it and add another trait",
			name,
			before.Kind,
			n,
			after.Kind,
		)
	case after.Unit != before.Unit:
		say(
			"%s is recorded in %s: its %d readings would be wrong in %s. Supersede it and add another trait",
			name,
			orNone(before.Unit),
			n,
			orNone(after.Unit),
		)
	case after.Kind == Choice:
		for _, c := range before.Choices {
			if values[c] > 0 && !slices.Contains(after.Choices, c) {
				say("%s: the choice %q is in use in %d readings; keep it", name, c, values[c])
			}
		}
	}
}

func orNone(unit string) string {
	if unit == "" {
		return "plain numbers"
	}
	return unit
}
