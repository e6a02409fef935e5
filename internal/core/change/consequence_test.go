package change_test

import (
	"strings"
	"testing"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
)

// A head twice as heavy resonates at 1/√2 and allows half the acceleration: a
// mass on a spring.
func TestConsequences(t *testing.T) {
	kit := fit.Kit{
		Key:           "x",
		ToolheadGrams: 300,
		BedGrams:      100,
		AreaLoss:      [3]float64{40, 0, -100},
		NewBuild:      "the new head",
		StartCode:     []string{"M92 out"},
		Slicer:        []string{"print area"},
		Effects: []fit.Effect{
			{Slot: "tube", Model: "direct", Traits: map[string]string{"length": "40"}},
			{Slot: "probe", Model: "none"},
		},
	}
	c, err := change.NewChange(
		kit,
		nil,
		facts(
			map[string]string{
				"toolhead.grams": "300",
				"frame.x":        "235",
				"tube.length":    "450",
				"tube.model":     "long tube",
				"probe.model":    "Sounder",
			},
		),
	)
	if err != nil {
		t.Fatal(err)
	}
	said := ""
	for _, x := range c.Consequences(nil) {
		said += x.What + ": " + x.Says + " " + x.Arithmetic + "\n"
	}
	for _, want := range []string{"must have: the new head", "about 71 %", "about 50 %", "√(300 ÷ 600) = 0.71",
		"235 − 40 = 195 mm", "100 mm more in Z", "from 450 to 40 mm: retraction from 1.2 mm", "M92 out",
		"Slicer: print area", "Moving mass, bed"} {
		if !strings.Contains(said, want) {
			t.Errorf("%q is not said:\n%s", want, said)
		}
	}
	if s := c.Spares(); len(s) != 2 || s[0].Model != "Sounder" && s[1].Model != "Sounder" {
		t.Errorf("set free: %+v", s)
	}
	plain, _ := change.NewChange(fit.Kit{Key: "y"}, nil, facts(nil))
	if len(plain.Consequences(nil)) != 0 || len(plain.Spares()) != 0 {
		t.Error("a kit that changes nothing has consequences")
	}
}

// What the drive becomes: steps/mm from the parts (about 415 for a 3:1 dual
// drive with a 1.8° motor at 1/16 step; common practice), the motor's current,
// two motors on one driver, the resonance in Hz, and the budgets as sums.
func TestConsequencesOfTheDrive(t *testing.T) {
	kit := fit.Kit{
		Key:           "x",
		Name:          "x",
		ToolheadGrams: 100,
		Uses:          []fit.Use{{Capacity: "supply-watts", Amount: 20, For: "stronger heater"}},
		Needs:         fit.Requirement{Label: "a board", Test: &fit.Test{Slot: "mainboard", Trait: "model", Op: fit.Present}},
		Effects: []fit.Effect{
			{Slot: "extruder", Model: "dual", Traits: map[string]string{"ratio": "3", "gear-diameter": "7.36"}},
			{Slot: "motor-e", Model: "stronger", Traits: map[string]string{"step-angle": "1.8", "current": "1"}},
			{Slot: "z-drive", Model: "two", Traits: map[string]string{"motors": "two on one driver"}}},
	}
	on := facts(
		map[string]string{
			"mainboard.model":        "b",
			"toolhead.grams":         "300",
			"driver-e.microsteps":    "16",
			"motor-e.step-angle":     "1.8",
			"motor-e.current":        "0.8",
			"extruder.ratio":         "1",
			"extruder.gear-diameter": "10.72",
			"motor-z.current":        "0.8",
			"z-drive.motors":         "one",
			"supply.watts":           "350",
			"heater.watts":           "40",
			"bed-heater.watts":       "220",
			"plate.mains":            "no",
		},
	)
	c, err := change.NewChange(kit, nil, on)
	if err != nil {
		t.Fatal(err)
	}
	said := ""
	for _, x := range c.Consequences([]calibration.Record{{Kind: calibration.Resonance, Value: "52 Hz", Passed: true,
		At: now}}) {
		said += x.What + ": " + x.Says + " " + x.Arithmetic + "\n"
	}
	for _, want := range []string{"About 415 steps/mm follow from the parts, 95 before", "check the step rate",
		"rated 1 A, 0.8 A before: set more", "2 × 0.8 A = 1.6 A",
		"52 Hz × 0.87 = 45 Hz", "+100 g on 300 g", // √(300 ÷ 400)
		"Power left: Still enough.", "− 20 stronger heater", "= 30 W left", "It stays"} {
		if !strings.Contains(said, want) {
			t.Errorf("%q is not said:\n%s", want, said)
		}
	}
}

// Another surface: what touches follows it, what senses metal or is an endstop
// does not. Source: common practice.
func TestZeroFollowsTheSurface(t *testing.T) {
	kit := func(thick string) fit.Kit {
		return fit.Kit{
			Key:     "k",
			Name:    "k",
			Effects: []fit.Effect{{Slot: "surface", Model: "sheet", Traits: map[string]string{"thickness": thick}}},
		}
	}
	old := []calibration.Record{{Kind: calibration.ZOffset, Value: "-0.84 mm", Passed: true, At: now}}
	for name, tt := range map[string]struct {
		thick string
		on    map[string]string
		want  string
	}{
		"a probe that touches": {"1.2", map[string]string{"probe.model": "P", "probe.senses": "surface, by touch"},
			"the offset stays"},
		"a probe for metal": {"2.4", map[string]string{"probe.model": "P", "probe.senses": "metal, without touch"},
			"moves by −1.40 mm. 2.4 − 3.8 = −1.40 mm; −0.84 −1.40 = −2.24 mm"},
		"an endstop, thinner":    {"1.2", map[string]string{"probe.model": "none"}, "Lower the Z endstop by 2.60 mm"},
		"an endstop, thicker":    {"4", map[string]string{"probe.model": "none"}, "Raise the Z endstop by 0.20 mm"},
		"nobody knows the probe": {"4", nil, ""},
		"the same thickness":     {"3.8", map[string]string{"probe.model": "none"}, ""},
	} {
		on := map[string]string{"surface.thickness": "3.8", "surface.model": "glass"}
		for k, v := range tt.on {
			on[k] = v
		}
		said := ""
		for _, x := range changed(t, kit(tt.thick), on).Consequences(old) {
			if x.What == "Zero of Z" {
				said = x.Says + " " + x.Arithmetic
			}
		}
		if tt.want == "" && said != "" || !strings.Contains(said, tt.want) {
			t.Errorf("%s: %q, want %q", name, said, tt.want)
		}
	}
}

// A tool plate's heads carry a build or values; both are served.
func TestHeadsCarryTheirSettings(t *testing.T) {
	for carries, want := range map[string]string{"its own build": "swaps the card",
		"its own values": "enters its offsets", "": "Decide whether"} {
		head := fit.Effect{Slot: "toolhead", Model: "head"}
		if carries != "" {
			head.Traits = map[string]string{"carries": carries}
		}
		said := ""
		for _, x := range changed(t, fit.Kit{Key: "k", Name: "k",
			Effects: []fit.Effect{{Slot: "tool-plate", Model: "plate"}, head}}, nil).Consequences(nil) {
			said += x.What + ": " + x.Says + "\n"
		}
		if !strings.Contains(said, want) {
			t.Errorf("%q: %s", carries, said)
		}
	}
}
