package fit_test

import (
	"strings"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
)

// An additional change is judged on the machine with it made: one that cures a need and
// breaks another, of whatever moment, is no cure; and where that cannot be told, it is
// looked at.
func TestNoCureThatBreaksAnother(t *testing.T) {
	shop := catalogue.Shipped()
	shop.Models = append(shop.Models, machine.Model{
		Kind: "carriage", Name: "Raised carriage",
		Needs: []machine.Need{{Key: "clearance", That: asksOf("surface", "thickness", fit.AtMost, "1")}},
		Uses:  []machine.Use{{Capacity: "print-height", Amount: 30, Keep: 0}},
	})
	voc, err := shop.Vocabulary()
	if err != nil {
		t.Fatal(err)
	}
	holes := fit.Requirement{Label: "Two tapped holes", Otherwise: "A carriage with holes would change that.",
		Test: &fit.Test{
			Slot:   "carriage",
			Trait:  "bracket-holes",
			Op:     fit.Equal,
			Values: []string{"yes"},
			Least:  machine.Observed,
		}}
	long := fit.Requirement{
		Label: "A long tube",
		Test:  &fit.Test{Slot: "tube", Trait: "length", Op: fit.AtLeast, Values: []string{"300"}, Least: machine.Observed},
	}
	kit := fit.Kit{
		Key:     "bracket",
		Needs:   fit.Requirement{Label: "A bracket", All: []fit.Requirement{holes, long}},
		Effects: []fit.Effect{{Slot: "bracket", Model: "Any bracket"}},
		Options: []fit.AdditionalChange{{
			Key: "raise", Title: "raised carriage", Price: 20,
			Effects: []fit.Effect{
				{Slot: "carriage", Model: "Raised carriage", Traits: map[string]string{"bracket-holes": "yes"}},
			},
		}},
	}
	j, err := fit.NewJudge(kit, voc)
	if err != nil {
		t.Fatal(err)
	}
	for _, tt := range []struct {
		holes, thickness, length string
		answer, lean             fit.Answer
		says                     string
	}{
		{"yes", "1.2", "400", fit.Fits, "", ""},
		{"no", "1", "400", fit.FitsIf, "", "raised carriage"},
		{"no", "1.1", "400", fit.DoesNotFit, "", "raised carriage would meet it, and then this would not be so"},
		{"no", "", "400", fit.LookFirst, fit.NoLean, "Build surface: thickness"},
		{"no", "0.8/claimed", "400", fit.LookFirst, fit.FitsIf, "Build surface: thickness"},
		{"no", "1.2/claimed", "400", fit.LookFirst, fit.DoesNotFit, "Build surface: thickness"},
		{"", "1", "400", fit.LookFirst, fit.FitsIf, "two tapped holes"}, // it fits either way: the look may save the change
		{"", "1.2", "400", fit.LookFirst, fit.NoLean, "two tapped holes"},
		{"no", "1", "200", fit.DoesNotFit, "", "A long tube"}, // a need that it does not bear on is as it was
		{"no", "1.1", "200", fit.DoesNotFit, "", ""},
	} {
		known := map[string]string{"carriage.model": "Early carriage", "frame.z": "250"}
		for key, v := range map[string]string{"carriage.bracket-holes": tt.holes, "surface.thickness": tt.thickness,
			"tube.length": tt.length} {
			if v != "" {
				known[key] = v
			}
		}
		v := j.Verdict(machinetest.Facts(voc, known))
		if v.Answer != tt.answer || v.Lean != tt.lean || !strings.Contains(v.Headline, tt.says) {
			t.Errorf(
				"holes %q, %q mm, tube %q: %s, leans %q (%s)",
				tt.holes,
				tt.thickness,
				tt.length,
				v.Answer,
				v.Lean,
				v.Headline,
			)
		}
		if v.Answer == fit.FitsIf && (len(v.Additional) != 1 || v.Additional[0].Key != "raise") {
			t.Errorf("with %+v", v.Additional)
		}
		if (tt.holes == "" && tt.thickness == "1") != v.Saves {
			t.Errorf("holes %q, %q mm: saves %v", tt.holes, tt.thickness, v.Saves)
		}
	}
}
