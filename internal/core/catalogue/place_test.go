package catalogue_test

import (
	"maps"
	"math/rand"
	"slices"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
)

// A part of which everything is known comes out as a kit does that fits just this part and
// needs nothing besides; and one of which nothing is known is never decided to fit where
// some part of its kind would not.
func TestALoosePartIsJudgedLikeAKitOfIt(t *testing.T) {
	voc := catalogue.Vocabulary()
	random := rand.New(rand.NewSource(31))
	keys := slices.Sorted(maps.Keys(known))
	answers := map[fit.Answer]int{}
	for range 30 {
		s := machinetest.Facts(voc, about(random, keys))
		for _, m := range voc.Catalogue.Models {
			p := voc.First(m.Kind)
			if p == nil || !s.Has(p) || voc.Is(m.Kind, "firmware") {
				continue
			}
			part := fit.Loose{
				Kind:  m.Kind,
				Facts: map[string]machine.Fact{machine.ModelTrait: {Value: machine.Value{Text: m.Name}, Grade: machine.Observed}},
			}
			traits := map[string]string{}
			for name, v := range voc.DefaultsOf(m.Kind, m.Name) {
				if _, ok := voc.Trait(machine.KeyOf(p.Key, name)); !ok {
					continue
				}
				part.Facts[name] = machine.Fact{Value: v, Grade: machine.Observed}
				traits[name] = v.Text
			}
			placed, err := fit.PartAt(s, p.Key, part)
			if err != nil {
				t.Fatal(err)
			}
			j, err := fit.NewJudge(
				fit.Kit{Key: "it", Name: m.Name, Effects: []fit.Effect{{Slot: p.Key, Model: m.Name, Traits: traits}}},
				voc,
			)
			if err != nil {
				t.Fatal(err)
			}
			kit := j.Verdict(s)
			answers[placed.Answer]++
			switch {
			case placed.Answer == kit.Answer && placed.Lean == kit.Lean:
			// what is not stated can be looked at on the shelf
			case placed.Answer == fit.LookFirst && kit.Answer == fit.Fits && len(kit.Delivery) > 0:
			case placed.Answer == fit.LookFirst && kit.Answer == fit.LookFirst && len(kit.Delivery) > 0:
			default:
				t.Errorf("%s at %s: %s, leans %q (%s); as a kit %s, leans %q (%s)",
					m.Name, p.Label, placed.Answer, placed.Lean, placed.Headline, kit.Answer, kit.Lean, kit.Headline)
			}
			unknown, err := fit.PartAt(s, p.Key, fit.Loose{Kind: m.Kind, Facts: map[string]machine.Fact{}})
			if err != nil {
				t.Fatal(err)
			}
			if placed.Answer == fit.DoesNotFit && unknown.Answer == fit.Fits && unknown.Lean == "" && placed.Headline != "" &&
				byKind(voc, m) {
				t.Errorf("a part at %s of which nothing is known fits, and %s does not (%s)", p.Label, m.Name, placed.Headline)
			}
		}
	}
	for _, a := range []fit.Answer{fit.Fits, fit.LookFirst, fit.DoesNotFit} {
		if answers[a] < 30 {
			t.Errorf("%d parts come out as %s: that shows little", answers[a], a)
		}
	}
}

// byKind reports whether all that a model needs is what every part of its kind needs.
func byKind(voc *machine.Vocabulary, m machine.Model) bool {
	return len(voc.NeedsOf(m.Kind, m.Name)) == 0 && len(m.Uses) == 0
}

// What cannot be asked is refused in a sentence.
func TestWhereAPartCannotBe(t *testing.T) {
	voc := catalogue.Vocabulary()
	s := machinetest.Facts(voc, known)
	for slot, kind := range map[string]string{"attic": "probe", "probe": "surface", "surface": "heater"} {
		if v, err := fit.PartAt(s, slot, fit.Loose{Kind: kind}); err == nil {
			t.Errorf("a %s at %s: %s", kind, slot, v.Answer)
		}
	}
}
