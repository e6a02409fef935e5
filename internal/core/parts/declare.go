package parts

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"wardifex/internal/core/machine"
)

// declaration is a trait with the rule that reads it.
type declaration struct {
	machine.TraitOf
	rule string
}

var declared []declaration

func declare(rule string, t machine.TraitOf) machine.TraitOf {
	declared = append(declared, declaration{t, rule})
	return t
}

func number(kind, name, unit, rule string) machine.TraitOf {
	return declare(rule, machine.TraitOf{Kind: kind, Name: name, Value: machine.Number, Unit: unit})
}

func choice(kind, name, rule string, asked ...string) machine.TraitOf {
	return declare(rule, machine.TraitOf{Kind: kind, Name: name, Value: machine.Choice, Choices: asked})
}

func yesNo(kind, name, rule string) machine.TraitOf {
	return declare(rule, machine.TraitOf{Kind: kind, Name: name, Value: machine.YesNo})
}

func text(kind, name, rule string) machine.TraitOf {
	return declare(rule, machine.TraitOf{Kind: kind, Name: name, Value: machine.Text})
}

// declarations are all of them, in a fixed order.
func declarations() []declaration {
	out := slices.Clone(declared)
	for _, t := range []machine.TraitOf{machine.ListComplete, machine.HeadsMode, machine.HeadMounted} {
		out = append(out, declaration{t, lists})
	}
	for _, kind := range slices.Sorted(maps.Keys(models)) {
		t := machine.TraitOf{Kind: kind, Name: machine.ModelTrait, Value: machine.Text}
		out = append(out, declaration{t, strings.Join(models[kind], "; ")})
	}
	slices.SortStableFunc(out, func(a, b declaration) int { return cmp.Compare(a.Kind, b.Kind) })
	return out
}

// Declared lists the traits that rules read.
func Declared() []machine.TraitOf {
	var out []machine.TraitOf
	for _, d := range declarations() {
		out = append(out, d.TraitOf)
	}
	return out
}

// Broken lists what rules need and a catalogue lacks or has otherwise, each in a
// sentence that names the rule and says what would be right; nil when all is there.
func Broken(c machine.Catalogue) []string {
	var out []string
	kinds := kindsOf(c)
	gone := map[string]bool{}
	for _, d := range declarations() {
		kind := kinds[d.Kind]
		switch {
		case kind == nil && !gone[d.Kind]:
			gone[d.Kind] = true
			out = append(out, fmt.Sprintf("the kind %q has to stay: %s need it", d.Kind, d.rule))
		case kind != nil:
			out = append(out, d.faults(*kind)...)
		}
	}
	return out
}

func kindsOf(c machine.Catalogue) map[string]*machine.PartKind {
	out := map[string]*machine.PartKind{}
	for i := range c.Kinds {
		out[c.Kinds[i].Key] = &c.Kinds[i]
	}
	return out
}

// faults says what of a kind the rule cannot work with.
func (d declaration) faults(kind machine.PartKind) []string {
	i := slices.IndexFunc(kind.Traits, func(t machine.TraitDef) bool { return t.Name == d.Name })
	if i < 0 {
		return []string{fmt.Sprintf("%s: the trait %q has to stay: %s need it", kind.Label, d.Name, d.rule)}
	}
	t := kind.Traits[i]
	var out []string
	switch {
	case t.Kind != d.Value:
		out = append(
			out,
			fmt.Sprintf("%s, %s: it has to stay a %s, as %s take it, not a %s", kind.Label, t.Short, d.Value, d.rule, t.Kind),
		)
	case t.Unit != d.Unit:
		out = append(out, fmt.Sprintf("%s, %s: its unit has to stay %s, as %s take it, not %s",
			kind.Label, t.Short, orPlain(d.Unit), d.rule, orPlain(t.Unit)))
	}
	for _, code := range d.Choices {
		if t.Kind == machine.Choice && !slices.Contains(t.Choices, code) {
			out = append(
				out,
				fmt.Sprintf(
					"%s, %s: the choice %q has to stay, since %s ask for it; it can be given another name",
					kind.Label,
					t.Short,
					code,
					d.rule,
				),
			)
		}
	}
	return out
}

func orPlain(unit string) string {
	if unit == "" {
		return "none"
	}
	return unit
}

// Restore adds to a catalogue what rules need and it lacks: kinds, traits and
// choices, as the shipped catalogue has them. What it has otherwise stays as it is,
// and switches the rules off that would read it; off says which, and why.
func Restore(c, shipped machine.Catalogue) (out machine.Catalogue, restored, off []string) {
	out = c
	out.Kinds = slices.Clone(c.Kinds)
	from := kindsOf(shipped)
	for _, d := range declarations() {
		source := from[d.Kind]
		if source == nil {
			continue
		}
		kind := kindsOf(out)[d.Kind]
		if kind == nil {
			out.Kinds = append(out.Kinds, *source)
			restored = append(restored, "the kind "+source.Label)
			continue
		}
		i := slices.IndexFunc(kind.Traits, func(t machine.TraitDef) bool { return t.Name == d.Name })
		s := slices.IndexFunc(source.Traits, func(t machine.TraitDef) bool { return t.Name == d.Name })
		if i < 0 && s >= 0 {
			kind.Traits = append(slices.Clone(kind.Traits), source.Traits[s])
			restored = append(restored, kind.Label+": "+source.Traits[s].Short)
			continue
		}
		if i < 0 {
			continue
		}
		kind.Traits = slices.Clone(kind.Traits)
		t := &kind.Traits[i]
		if t.Kind == machine.Choice && d.Value == machine.Choice {
			for _, code := range d.Choices {
				if !slices.Contains(t.Choices, code) {
					t.Choices = append(slices.Clone(t.Choices), code)
					restored = append(restored, fmt.Sprintf("%s, %s: the choice %s", kind.Label, t.Short, code))
				}
			}
		}
		if faults := d.faults(*kind); len(faults) > 0 {
			off = append(off, faults...)
		}
	}
	return out, restored, off
}
