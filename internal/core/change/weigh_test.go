package change_test

import (
	"strings"
	"testing"

	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
)

// A head twice as heavy resonates at 1/√2 and allows half the acceleration: a
// mass on a spring.
func TestConsequences(t *testing.T) {
	kit := fit.Kit{Key: "x", ToolheadGrams: 300, BedGrams: 100, AreaLoss: [3]float64{40, 0, -100}, NewBuild: "the new head", StartCode: []string{"M92 out"}, Slicer: []string{"print area"},
		Effects: []fit.Effect{{Slot: "tube", Model: "direct", Traits: map[string]string{"length": "40"}}, {Slot: "probe", Model: "none"}}}
	c, err := change.NewChange(kit, nil, facts(map[string]string{"toolhead.grams": "300", "frame.x": "235", "tube.length": "450", "tube.model": "long tube", "probe.model": "Sounder"}))
	if err != nil {
		t.Fatal(err)
	}
	said := ""
	for _, x := range c.Consequences(nil, nil) {
		said += x.What + ": " + x.Says + " " + x.Arithmetic + "\n"
	}
	for _, want := range []string{"must have: the new head", "about 71 %", "about 50 %", "√(300 ÷ 600) = 0.71", "235 − 40 = 195 mm", "100 mm more in Z", "from 450 to 40 mm: retraction from 1.2 mm", "M92 out", "Slicer: print area", "Moving mass, bed"} {
		if !strings.Contains(said, want) {
			t.Errorf("%q is not said:\n%s", want, said)
		}
	}
	if s := c.Spares(); len(s) != 2 || s[0].Model != "Sounder" && s[1].Model != "Sounder" {
		t.Errorf("set free: %+v", s)
	}
	plain, _ := change.NewChange(fit.Kit{Key: "y"}, nil, facts(nil))
	if len(plain.Consequences(nil, nil)) != 0 || len(plain.Spares()) != 0 {
		t.Error("a kit that changes nothing has consequences")
	}
}

// What the drive becomes: steps/mm from the parts (about 415 for a 3:1 dual
// drive with a 1.8° motor at 1/16 step; common practice), the motor's current,
// two motors on one driver, the resonance in Hz, and the budgets as sums.
func TestConsequencesOfTheDrive(t *testing.T) {
	kit := fit.Kit{Key: "x", Name: "x", ToolheadGrams: 100, Uses: []fit.Use{{Budget: "supply-watts", Amount: 20, For: "stronger heater"}},
		Needs: fit.Requirement{Label: "a board", Test: &fit.Test{Slot: "mainboard", Trait: "model", Op: fit.Present}},
		Effects: []fit.Effect{
			{Slot: "extruder", Model: "dual", Traits: map[string]string{"ratio": "3", "gear-diameter": "7.36"}},
			{Slot: "motor-e", Model: "stronger", Traits: map[string]string{"step-angle": "1.8", "current": "1"}},
			{Slot: "z-drive", Model: "two", Traits: map[string]string{"motors": "two on one driver"}}}}
	on := facts(map[string]string{"mainboard.model": "b", "toolhead.grams": "300", "driver-e.microsteps": "16", "motor-e.step-angle": "1.8", "motor-e.current": "0.8", "extruder.ratio": "1", "extruder.gear-diameter": "10.72",
		"motor-z.current": "0.8", "z-drive.motors": "one", "supply.watts": "350", "heater.watts": "40", "bed-heater.watts": "220", "plate.mains": "no"})
	c, err := change.NewChange(kit, nil, on)
	if err != nil {
		t.Fatal(err)
	}
	j, err := fit.NewJudge(kit, voc)
	if err != nil {
		t.Fatal(err)
	}
	shifts, err := j.Shifts(fit.Stand(on), nil)
	if err != nil {
		t.Fatal(err)
	}
	said := ""
	for _, x := range c.Consequences([]change.Record{{Kind: change.Resonance, Value: "52 Hz", Passed: true, At: now}}, shifts) {
		said += x.What + ": " + x.Says + " " + x.Arithmetic + "\n"
	}
	for _, want := range []string{"About 415 steps/mm follow from the parts, 95 before", "check the step rate", "rated 1 A, 0.8 A before: set more", "2 × 0.8 A = 1.6 A",
		"52 Hz × 0.87 = 45 Hz", "+100 g on 300 g", // √(300 ÷ 400)
		"Power left: It still suffices.", "− 20 this kit = 30 W left", "It stays"} {
		if !strings.Contains(said, want) {
			t.Errorf("%q is not said:\n%s", want, said)
		}
	}
}
