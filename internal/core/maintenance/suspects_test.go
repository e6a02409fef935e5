package maintenance_test

import (
	"slices"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/maintenance"
)

// With a symptom the difference that can cause it comes first; the others stay in their order.
func TestRank(t *testing.T) {
	voc := catalogue.Vocabulary()
	a := machinetest.Facts(voc, map[string]string{
		"supply.watts": "350", "surface.thickness": "3.8", "toolhead.grams": "300", "tube.length": "450",
		"driver-x.silent": "yes", "mainboard.bootloader": "yes", "firmware.file": "a.bin", "springs.stiff": "no",
	})
	b := machinetest.Facts(voc, map[string]string{
		"supply.watts": "240", "surface.thickness": "2.4", "toolhead.grams": "460", "tube.length": "600",
		"driver-x.silent": "no", "mainboard.bootloader": "no", "firmware.file": "b.bin",
	})
	for symptom, first := range map[string]machine.Key{
		"first-layer-high": "surface.thickness", "ringing": "toolhead.grams", "extruder-clicks": "tube.length",
		"salmon-skin": "driver-x.silent", "wont-update": "firmware.file",
	} {
		t.Run(symptom, func(t *testing.T) {
			ranked := maintenance.Rank(voc, symptom, machine.Diff(a, b))
			if got := ranked[0]; got.Trait.Key() != first || got.Why == "" {
				t.Errorf("first comes %s, because %q; want %s", got.Trait.Key(), got.Why, first)
			}
			for _, r := range ranked {
				if r.Trait.Key() == "supply.watts" && r.Why != "" {
					t.Errorf("the supply's watts: %q", r.Why)
				}
				if r.Trait.Key() == "springs.stiff" && r.Why != "" {
					t.Error("what is unknown on one side causes something")
				}
			}
		})
	}
	var before, after []machine.Key
	for _, d := range machine.Diff(a, b) {
		before = append(before, d.Trait.Key())
	}
	for _, r := range maintenance.Rank(voc, "", machine.Diff(a, b)) {
		after = append(after, r.Trait.Key())
	}
	if !slices.Equal(before, after) {
		t.Errorf("without a symptom the order is %v, was %v", after, before)
	}
}

// Every symptom has suspects, and each names a kind and a trait that there are.
func TestSuspectsAreThere(t *testing.T) {
	voc := catalogue.Vocabulary()
	for _, s := range maintenance.Symptoms() {
		list := maintenance.SuspectsOf(s.Key)
		if len(list) < 2 {
			t.Errorf("%s has %d suspects", s.Key, len(list))
		}
		for _, of := range list {
			there := slices.ContainsFunc(voc.Traits, func(t *machine.Trait) bool {
				return t.Position().Kind == of[0] && (of[1] == "" || t.Name == of[1])
			})
			if !there {
				t.Errorf("%s suspects %s.%s, which there is not", s.Key, of[0], of[1])
			}
		}
	}
}
