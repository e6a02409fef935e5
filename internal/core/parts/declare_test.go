package parts_test

import (
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// spoilt is the shipped catalogue with a kind changed.
func spoilt(kind string, change func(k *machine.PartKind)) machine.Catalogue {
	c := catalogue.Shipped()
	for i := range c.Kinds {
		if c.Kinds[i].Key == kind {
			c.Kinds[i].Traits = slices.Clone(c.Kinds[i].Traits)
			change(&c.Kinds[i])
		}
	}
	return c
}

func traitIn(k *machine.PartKind, name string) int {
	return slices.IndexFunc(k.Traits, func(t machine.TraitDef) bool { return t.Name == name })
}

// Every trait that a rule reads: taken away, it is missed by the rule's name, and put
// back; kept as something else, it switches the rule off, and the catalogue can be
// used all the same.
func TestWhatRulesNeed(t *testing.T) {
	if faults := parts.Broken(catalogue.Shipped()); len(faults) > 0 {
		t.Fatalf("the shipped catalogue lacks: %q", faults)
	}
	for _, d := range parts.Declared() {
		gone := spoilt(d.Kind, func(k *machine.PartKind) {
			k.Traits = slices.Delete(k.Traits, traitIn(k, d.Name), traitIn(k, d.Name)+1)
		})
		faults := parts.Broken(gone)
		if len(faults) == 0 || !strings.Contains(faults[0], "has to stay: ") || !strings.HasSuffix(faults[0], " need it") {
			t.Errorf("%s.%s is gone, and it is said: %q", d.Kind, d.Name, faults)
		}
		back, restored, off := parts.Restore(gone, catalogue.Shipped())
		if len(restored) != 1 || len(off) > 0 || len(parts.Broken(back)) > 0 {
			t.Errorf("%s.%s is put back: %q; off: %q", d.Kind, d.Name, restored, off)
		}
		if d.Name == machine.ModelTrait {
			continue // a kind without a model is refused by the catalogue itself
		}
		unit := map[bool]string{true: "mm", false: "°C"}[d.Unit == "°C"]
		other := spoilt(d.Kind, func(k *machine.PartKind) {
			was := &k.Traits[traitIn(k, d.Name)]
			*was = machine.TraitDef{Name: was.Name, Short: was.Short, Kind: machine.Number, Unit: unit, Max: 9}
		})
		other.Models = nil // none of them states it in this unit
		kept, _, off := parts.Restore(other, catalogue.Shipped())
		voc, err := kept.Vocabulary()
		if err != nil || len(off) == 0 {
			t.Errorf("%s.%s in %s: off: %q, %v", d.Kind, d.Name, unit, off, err)
			continue
		}
		for i := range voc.Slots {
			if p := &voc.Slots[i]; p.Kind == d.Kind && voc.Of(p, d) != nil {
				t.Errorf("%s.%s in %s is read by the rule all the same", d.Kind, d.Name, unit)
			}
		}
	}
}

// A choice that a rule asks for has to stay, and can be called otherwise.
func TestChoicesOfRules(t *testing.T) {
	for _, d := range parts.Declared() {
		for _, code := range d.Choices {
			c := spoilt(d.Kind, func(k *machine.PartKind) {
				at := &k.Traits[traitIn(k, d.Name)]
				at.Choices = slices.DeleteFunc(slices.Clone(at.Choices), func(s string) bool { return s == code })
			})
			if faults := parts.Broken(c); len(faults) != 1 || !strings.Contains(faults[0], code) ||
				!strings.Contains(faults[0], "can be given another name") {
				t.Errorf("%s.%s without %q: %q", d.Kind, d.Name, code, faults)
			}
			called := spoilt(d.Kind, func(k *machine.PartKind) {
				k.Traits[traitIn(k, d.Name)].Labels = map[string]string{code: "what this shop calls it"}
			})
			if faults := parts.Broken(called); len(faults) > 0 {
				t.Errorf("%s.%s with %q called otherwise: %q", d.Kind, d.Name, code, faults)
			}
			voc, err := called.Vocabulary()
			if err != nil {
				t.Fatal(err)
			}
			for _, tr := range voc.Traits {
				if !tr.Is(d) {
					continue
				}
				if v, err := tr.Parse("What this shop calls it"); err != nil || v.Text != code ||
					tr.Show(v) != "what this shop calls it" {
					t.Errorf("%s reads and shows %q as %q and %q: %v", tr.Key(), code, v.Text, tr.Show(v), err)
				}
			}
		}
	}
}
