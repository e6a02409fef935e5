package fit_test

import (
	"strings"
	"testing"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

func formulaJudge(text string) (*fit.Judge, error) {
	return fit.NewJudge(
		fit.Kit{Key: "f", Needs: fit.Requirement{Label: "formula", Formula: &fit.Formula{Text: text,
			Least: machine.Observed}}},
		voc,
	)
}

func TestFormula(t *testing.T) {
	known := map[string]string{
		"motor-e.shaft":              "22",
		"extruder-bracket.thickness": "4",
		"heater.watts":               "40",
		"heater.volts":               "24",
		"supply.volts":               "24",
		"mainboard.flash":            "256",
		"motor-z.current":            "0.8",
		"tool-plate.contact-amperes": "1.5",
	}
	for _, tt := range []struct {
		text string
		but  map[string]string
		want fit.Answer
	}{
		{"motor-e.shaft - extruder-bracket.thickness >= 18 mm", nil, fit.Fits},
		{"motor-e.shaft − extruder-bracket.thickness > 18 mm", nil, fit.DoesNotFit},
		{"motor-e.shaft >= 2.2 cm", nil, fit.Fits}, // units are turned into each other
		{"motor-e.shaft >= 22000 \u00b5m", nil, fit.Fits},
		{"motor-e.shaft > 22000 \u03bcm", nil, fit.DoesNotFit},
		{"mainboard.flash >= 0.25 MiB", nil, fit.Fits},
		{"mainboard.flash > 256 KB", nil, fit.DoesNotFit},
		{"heater.volts × heater.volts / heater.watts >= 14400 mΩ", nil, fit.Fits},
		{"heater.wire >= 24 AWG", map[string]string{"heater.wire": "0.25"}, fit.Fits},       // 0.205 mm²
		{"heater.wire >= 22 AWG", map[string]string{"heater.wire": "0.25"}, fit.DoesNotFit}, // 0.326 mm²
		// 0.405 mm across. Source: ASTM B258
		{"nozzle.bore >= 26 AWG", map[string]string{"nozzle.bore": "0.4"}, fit.DoesNotFit},
		{"heater.volts = supply.volts", nil, fit.Fits},
		{"heater.volts = supply.volts", map[string]string{"supply.volts": "12"}, fit.DoesNotFit},
		{"heater.watts / heater.volts <= 1667 mA", nil, fit.Fits},                         // 40 W ÷ 24 V = 1.6667 A
		{"heater.watts ÷ heater.volts ≤ tool-plate.contact-amperes", nil, fit.DoesNotFit}, // 1.67 A on 1.5 A
		{"heater.volts × heater.volts / heater.watts >= 14.4 Ω", nil, fit.Fits},           // R = V² ÷ P
		{"2 × motor-z.current <= 2 A", map[string]string{"motor-z.current": "0.8|1.2"}, fit.LookFirst},
		{"2 * (motor-z.current + 0.1 A) < 2 A", nil, fit.Fits},
		{"motor-e.shaft >= 8 mm", map[string]string{"motor-e.shaft": "22/claimed"}, fit.LookFirst},
		// no shaft is shorter than 2 mm
		{"motor-e.shaft >= 1 mm", map[string]string{"motor-e.shaft": ""}, fit.Fits},
		// no bracket: nothing
		{"extruder-bracket.thickness <= 1 mm",
			map[string]string{"extruder-bracket.model": "none", "extruder-bracket.thickness": ""}, fit.Fits},
		// a division by zero decides nothing
		{"heater.watts / extruder-bracket.thickness >= 1 W / 1 mm",
			map[string]string{"extruder-bracket.model": "none", "extruder-bracket.thickness": ""}, fit.LookFirst},
	} {
		j, err := formulaJudge(tt.text)
		if err != nil {
			t.Errorf("%s: %v", tt.text, err)
			continue
		}
		facts2 := map[string]string{}
		for k, v := range known {
			facts2[k] = v
		}
		for k, v := range tt.but {
			if facts2[k] = v; v == "" {
				delete(facts2, k)
			}
		}
		v := j.Verdict(facts(t, facts2))
		if v.Answer != tt.want || arithmetics(v.Reasons) == "" {
			t.Errorf("%s with %v: %s (%s), want %s", tt.text, tt.but, v.Answer, arithmetics(v.Reasons), tt.want)
		}
		if strings.Contains(tt.text, "1 W / 1 mm") && !strings.Contains(v.Reasons.Parts[0].Problem, "division by zero") {
			t.Errorf("the division by zero is not named: %q", v.Reasons.Parts[0].Problem)
		}
	}
	j, _ := formulaJudge("motor-e.shaft - extruder-bracket.thickness >= 8 mm")
	if a := arithmetics(j.Verdict(facts(t, known)).Reasons); a != "22 mm (Extruder motor: shaft length) − 4 mm "+
		"(Extruder bracket: thickness) ≥ 8 mm: 18 mm against 8 mm" {
		t.Errorf("the arithmetic: %s", a)
	}
}

// Rules are checked as they are written; a hostile one is refused, in no time.
func TestFormulasRefused(t *testing.T) {
	for part, text := range map[string]string{
		"there is no fact":        "motor-e.length >= 8 mm",
		"cannot be compared":      "motor-e.shaft >= 8 V",
		"cannot be added":         "motor-e.shaft + heater.volts >= 8 mm",
		"is no unit":              "motor-e.shaft >= 8 furlongs",
		"a comparison":            "motor-e.shaft + 8 mm",
		"breaks off":              "motor-e.shaft >=",
		"opened and not closed":   "(motor-e.shaft + 1 mm >= 8 mm",
		"too many":                "motor-e.shaft >= 8 mm mm",
		"\")\" too many":          "motor-e.shaft >= 8 mm )",
		"is no number that":       "probe.senses >= 8 mm",
		"asks for no fact":        "1 mm >= 0.5 mm",
		"nests deeper":            strings.Repeat("(", 60) + "motor-e.shaft" + strings.Repeat(")", 60) + " >= 1 mm",
		"longer than 400":         strings.Repeat("motor-e.shaft + ", 4000) + "1 mm >= 1 mm",
		"there is no fact \"os.":  "os.Exit(1) >= $(rm)",
		"a division by zero":      "supply.volts / (3 mm - 3 mm) >= 1 V / 1 mm",
		"the formula is never so": "motor-e.shaft >= 900 mm", // no shaft is longer than 100 mm
		"before \"motor-e.shaft":  "2 motor-e.shaft >= 1 mm",
	} {
		if _, err := formulaJudge(text); err == nil || !strings.Contains(err.Error(), part) {
			t.Errorf("%.60s: want %q, got %v", text, part, err)
		}
	}
	// One that is asked of each part of a kind is checked by that kind, whatever a machine has.
	of := func(kind, text string) error {
		_, err := fit.NewJudge(fit.Kit{Key: "k", Needs: fit.Requirement{Label: "x", Formula: &fit.Formula{Text: text,
			Of: &machine.Selector{Kind: kind}, Least: machine.Marked}}}, voc)
		return err
	}
	if err := of("heater", "part.watts >= 10 W"); err != nil {
		t.Errorf("of every heater: %v", err)
	}
	for kind, text := range map[string]string{"heater": "part.shaft >= 10 mm", "motor": "part.watts >= 10 W",
		"ghost": "part.watts >= 10 W"} {
		if of(kind, text) == nil {
			t.Errorf("%q of every %s is taken", text, kind)
		}
	}
}

// A rule that can never hold is refused as it is written.
func TestNever(t *testing.T) {
	test := func(slot, trait string, op fit.Op, values ...string) fit.Requirement {
		return fit.Requirement{
			Label: trait + " " + string(op),
			Test:  &fit.Test{Slot: slot, Trait: trait, Op: op, Values: values, Least: machine.Observed},
		}
	}
	for name, tt := range map[string]struct {
		need  fit.Requirement
		never bool
	}{
		"two families at once": {fit.Requirement{Label: "x",
			All: []fit.Requirement{test("firmware", "family", fit.Equal, "hosted"),
				test("firmware", "family", fit.OneOf, "compiled", "scripted")}}, true},
		"more than at most": {fit.Requirement{Label: "x",
			All: []fit.Requirement{test("supply", "volts", fit.AtLeast, "24"),
				test("supply", "volts", fit.AtMost, "12")}}, true},
		"fitted and empty": {fit.Requirement{Label: "x",
			All: []fit.Requirement{test("probe", "model", fit.Present), test("probe", "model", fit.Absent)}}, true},
		"any of which one can": {fit.Requirement{Label: "x",
			Any: []fit.Requirement{test("firmware", "family", fit.Equal, "hosted"),
				{Label: "y", All: []fit.Requirement{test("supply", "volts", fit.AtLeast, "24"),
					test("supply", "volts", fit.AtMost, "12")}}}}, false},
		"asked for and barred": {fit.Requirement{Label: "x",
			All: []fit.Requirement{{Label: "y", All: []fit.Requirement{test("supply", "volts", fit.AtLeast, "24")}},
				{Label: "z", None: []fit.Requirement{test("supply", "volts", fit.AtLeast, "20")}}}}, true},
		"a part of it barred": {fit.Requirement{Label: "x",
			All: []fit.Requirement{test("supply", "volts", fit.AtLeast, "20"),
				{Label: "z", None: []fit.Requirement{test("supply", "volts", fit.AtLeast, "24")}}}}, false},
		"one of what is too little": {fit.Requirement{Label: "x",
			All: []fit.Requirement{test("supply", "volts", fit.OneOf, "5", "12"),
				test("supply", "volts", fit.AtLeast, "24")}}, true},
		"one of which some will do": {fit.Requirement{Label: "x",
			All: []fit.Requirement{test("supply", "volts", fit.OneOf, "12", "24"),
				test("supply", "volts", fit.Between, "20", "30")}}, false},
		"within a span, barred": {fit.Requirement{Label: "x",
			All: []fit.Requirement{test("supply", "volts", fit.Between, "13", "20"),
				{Label: "z", None: []fit.Requirement{test("supply", "volts", fit.OneOf, "12", "24")}}}}, false},
		"a word that the name lacks": {fit.Requirement{Label: "x",
			All: []fit.Requirement{test("probe", "model", fit.Equal, "Plumbline"),
				test("probe", "model", fit.Contains, "Kedge")}}, true},
		"an old version of a line": {fit.Requirement{Label: "x",
			All: []fit.Requirement{test("firmware", "version", fit.Equal, "1.9"),
				test("firmware", "version", fit.Compatible, "2.1")}}, true},
		"something of an empty slot": {fit.Requirement{Label: "x",
			All: []fit.Requirement{test("probe", "model", fit.Absent),
				test("probe", "senses", fit.Equal, "surface, by touch")}}, true},
		"nothing of an empty slot": {fit.Requirement{Label: "x",
			All: []fit.Requirement{test("probe", "model", fit.Absent),
				{Label: "z", None: []fit.Requirement{test("probe", "senses", fit.Equal, "surface, by touch")}}}}, false},
		"each choice shut out": {fit.Requirement{Label: "x",
			All: []fit.Requirement{test("firmware", "family", fit.Equal, "hosted"),
				{Label: "y", Any: []fit.Requirement{test("firmware", "family", fit.Equal, "compiled"),
					{Label: "z", All: []fit.Requirement{test("firmware", "family", fit.Equal, "scripted"),
						test("supply", "volts", fit.AtLeast, "24")}}}}}}, true},
		"one choice left": {fit.Requirement{Label: "x",
			All: []fit.Requirement{test("firmware", "family", fit.Equal, "hosted"),
				{Label: "y", Any: []fit.Requirement{test("firmware", "family", fit.Equal, "compiled"),
					test("supply", "volts", fit.AtLeast, "24")}}}}, false},
		"a span within the bounds": {fit.Requirement{Label: "x",
			All: []fit.Requirement{test("supply", "volts", fit.AtLeast, "12"),
				test("supply", "volts", fit.AtMost, "24")}}, false},
	} {
		_, err := fit.NewJudge(fit.Kit{Key: "k", Needs: tt.need}, voc)
		if (err != nil) != tt.never {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, err := fit.NewJudge(fit.Kit{Key: "k", Needs: test("probe", "model", fit.Known),
		Uses: []fit.Use{{Capacity: "tea"}}}, voc); err == nil ||
		!strings.Contains(err.Error(), "no capacity") {
		t.Errorf("a budget that there is not: %v", err)
	}
}

func FuzzFormula(f *testing.F) {
	for _, s := range []string{"motor-e.shaft - bracket.thickness >= 8 mm", "((1", "2 × heater.volts / 0 = 1",
		"−1 mm >= surface.thickness"} {
		f.Add(s)
	}
	s := facts(f, map[string]string{"motor-e.shaft": "22"})
	f.Fuzz(func(t *testing.T, text string) {
		if j, err := formulaJudge(text); err == nil {
			j.Verdict(s)
		}
	})
}
