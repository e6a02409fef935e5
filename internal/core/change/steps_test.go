package change_test

import (
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
)

// The steps of one part for another on a compiled machine without records: only those that
// the change needs, in the order of the trade. Source: common practice.
func TestStepsOfOnePartForAnother(t *testing.T) {
	for slot, tt := range map[string]struct{ why, steps string }{
		"surface": {
			"no cover, no wire; the height is another one",
			"cool fit-1 fit-2 first-power home z-offset first-layer",
		},
		"springs": {
			"the bed hangs otherwise, so that it is levelled again",
			"cool fit-1 fit-2 first-power home heat-once tramming z-offset first-layer",
		},
		"plate": {
			"the bed heats and lies otherwise",
			"cool fit-1 fit-2 first-power heaters home heat-once bed-pid tramming z-offset " +
				"first-layer",
		},
		"nozzle": {
			"hot, in the filament's path; no wire",
			"baseline filament-out plug-out fit-1 fit-2 first-power home heat-once z-offset " +
				"retraction first-layer test-print",
		},
		"hotend": {
			"hot, in the filament's path, heats otherwise",
			"baseline filament-out plug-out fit-1 fit-2 first-power hotend-fan heaters home heat-once " +
				"hotend-pid z-offset retraction first-layer test-print",
		},
		"heater": {
			"wired: the watch over it is proven before mains is applied",
			"baseline filament-out plug-out photograph fit-1 wire-1 wire-2 protection-head-1 " +
				"first-power cover-on hotend-fan heaters home fans hotend-pid first-layer test-print",
		},
		"sensor": {
			"what it shows is believed before anything heats",
			"baseline filament-out plug-out photograph fit-1 wire-1 wire-2 protection-head-1 " +
				"first-power cold cover-on hotend-fan heaters home fans hotend-pid first-layer test-print",
		},
		"tube": {
			"the filament's path alone",
			"baseline filament-out plug-out fit-1 fit-2 first-power home retraction first-layer " +
				"test-print",
		},
		"extruder": {
			"old files may override its steps",
			"baseline filament-out plug-out fit-1 fit-2 start-code first-power home heat-once " +
				"steps-per-mm retraction first-layer test-print",
		},
		"motor-e": {
			"current before direction, direction before anything is fed",
			"baseline plug-out photograph fit-1 wire-1 wire-2 first-power motor-current-head-1 " +
				"cover-on hotend-fan direction home fans steps-per-mm first-layer test-print",
		},
		"driver-e": {
			"the build states it; its marking is hidden afterwards",
			"check-kit record-settings baseline plug-out photograph fit-1 wire-1 wire-2 make-build file-name write-card " +
				"card-in flash " +
				"defaults re-enter protection-head-1 protection-bed first-power cold motor-current-head-1 " +
				"cover-on hotend-fan heaters switches direction home fans steps-per-mm first-layer " +
				"test-print",
		},
		"fan-duct": {
			"another draught on the block",
			"baseline filament-out plug-out photograph fit-1 wire-1 wire-2 first-power cover-on " +
				"hotend-fan heaters home fans hotend-pid first-layer test-print",
		},
		"case-fan": {
			"nothing prints otherwise",
			"plug-out photograph fit-1 wire-1 wire-2 first-power cover-on fans look",
		},
		"display": {
			"nothing moves, heats or prints otherwise",
			"plug-out photograph fit-1 wire-1 wire-2 first-power cover-on look",
		},
		"mainboard": {
			"everything that hangs on it; what is hidden afterwards is read in the hand",
			"check-kit record-settings baseline plug-out photograph fit-1 wire-1 wire-2 make-build way-in flash " +
				"defaults re-enter protection-head-1 protection-bed first-power cold motor-current-head-1 " +
				"motor-current-axis-x motor-current-axis-y motor-current-axis-z cover-on hotend-fan " +
				"heaters switches direction home fans first-layer test-print",
		},
		"supply": {
			"every heater has another voltage",
			"baseline filament-out plug-out photograph fit-1 wire-1 wire-2 first-power cover-on " +
				"hotend-fan heaters heat-once hotend-pid bed-pid first-layer test-print",
		},
		"belts": {
			"nothing is wired; resonance where one is on record",
			"plug-out fit-1 fit-2 first-power home look",
		},
		"frame": {
			"the area and the level",
			"plug-out fit-1 fit-2 first-power home print-area tramming first-layer",
		},
		"probe": {
			"its plug is under the cover",
			"baseline plug-out photograph fit-1 wire-1 start-code first-power cover-on hotend-fan " +
				"switches home fans probe-offset heat-once z-offset mesh first-layer test-print",
		},
		"z-endstop": {
			"read by hand before homing relies on it",
			"baseline plug-out photograph fit-1 wire-1 wire-2 first-power cover-on switches home " +
				"z-offset first-layer test-print",
		},
		"runout": {
			"the build states it; its marking is hidden afterwards",
			"record-settings baseline filament-out plug-out photograph fit-1 wire-1 wire-2 make-build file-name " +
				"write-card card-in flash defaults re-enter protection-head-1 protection-bed first-power cold cover-on " +
				"hotend-fan heaters switches direction home fans filament-change first-layer test-print",
		},
		"card": {
			"the settings that it carries are the way back",
			"record-settings plug-out fit-1 fit-2 first-power look",
		},
		"host": {
			"its card is the way back",
			"record-settings plug-out fit-1 fit-2 first-power look",
		},
		"carriage": {
			"the area",
			"plug-out fit-1 fit-2 first-power home print-area look",
		},
		"z-drive": {
			"the level",
			"plug-out fit-1 fit-2 first-power home tramming first-layer",
		},
		"motor-x": {
			"current before direction, the cover on before homing",
			"baseline plug-out photograph fit-1 wire-1 wire-2 first-power motor-current-axis-x " +
				"cover-on direction home first-layer test-print",
		},
		"mod-1": {
			"whatever it is, it rides on the frame",
			"plug-out fit-1 fit-2 first-power home look",
		},
		"relay": {
			"mains; no sensor and no build",
			"baseline plug-out photograph fit-1 wire-1 wire-2 first-power cover-on home first-layer " +
				"test-print",
		},
		"bed-heater": {
			"its own watch and its own PID",
			"baseline plug-out photograph fit-1 wire-1 wire-2 protection-bed first-power cover-on " +
				"heaters home bed-pid first-layer test-print",
		},
		"toolhead-board": {
			"what hangs on it",
			"baseline plug-out photograph fit-1 wire-1 wire-2 first-power cover-on hotend-fan home " +
				"fans first-layer test-print",
		},
	} {
		t.Run(slot, func(t *testing.T) {
			if got := keysOf(exchange(t, facts(compiled), slot).WorkOrder(nil)); got != tt.steps {
				t.Errorf("%s:\n got %s\nwant %s", tt.why, got, tt.steps)
			}
		})
	}
}

func keysOf(steps []change.Step) string {
	keys := make([]string, len(steps))
	for i, s := range steps {
		keys[i] = s.Key
	}
	return strings.Join(keys, " ")
}

// A sheet of another thickness: by what finds Z 0, the endstop or the offset is set before
// power goes on, with the sum done; a probe that touches follows by itself. Source: common
// practice.
func TestAnotherSheet(t *testing.T) {
	for name, tt := range map[string]struct {
		on        map[string]string
		key, says string
	}{
		"an endstop": {map[string]string{"probe.model": "none", "z-endstop.model": "lever"}, "endstop-of-surface",
			"2.4 − 4 = −1.6 mm"},
		"a probe that senses metal": {map[string]string{"probe.model": "P", "probe.senses": "metal, without touch"},
			"offset-of-surface",
			"2.4 − 4 = −1.6 mm"},
		"a probe that touches": {map[string]string{"probe.model": "P", "probe.senses": "surface, by touch"}, "", ""},
	} {
		t.Run(name, func(t *testing.T) {
			tt.on["surface.model"], tt.on["surface.thickness"] = "glass", "4"
			kit := fit.Kit{Key: "k", Name: "k", Effects: []fit.Effect{{Slot: "surface", Model: "sheet",
				Traits: map[string]string{"thickness": "2.4"}}}}
			steps := changed(t, kit, tt.on).WorkOrder(nil)
			at := slices.IndexFunc(steps, func(s change.Step) bool { return strings.HasSuffix(s.Key, "-of-surface") })
			switch power := slices.IndexFunc(steps, func(s change.Step) bool { return s.Key == "first-power" }); {
			case tt.key == "" && at >= 0:
				t.Errorf("asked for %s", steps[at].Key)
			case tt.key == "":
			case at < 0 || steps[at].Key != tt.key || at > power:
				t.Errorf("no %s before power goes on: %s", tt.key, keysOf(steps))
			case !strings.Contains(steps[at].Do, tt.says) || len(steps[at].Cautions) > 0 || steps[at].Given["after"] != "2.4":
				t.Errorf("%s %v", steps[at].Do, steps[at].Given)
			}
		})
	}
}

// The offset that is entered has the sign of the machine's family, in the sentence and in the sum.
func TestAnotherSheetInTheFamilysSign(t *testing.T) {
	for family, want := range map[string]struct{ says, given string }{
		"compiled": {"−2.7 − 1.6 = −4.3 mm", "-2.7"},
		"hosted":   {"2.7 + 1.6 = 4.3 mm", "2.7"},
		"scripted": {"2.7 + 1.6 = 4.3 mm", "2.7"},
	} {
		on := map[string]string{"firmware.family": family, "probe.model": "P", "probe.senses": "metal, without touch",
			"surface.model": "glass", "surface.thickness": "4"}
		kit := fit.Kit{Key: "k", Name: "k", Effects: []fit.Effect{{Slot: "surface", Model: "sheet",
			Traits: map[string]string{"thickness": "2.4"}}}}
		found := []calibration.Record{{Kind: calibration.ZOffset, Value: "−2.70 mm", Passed: true}}
		steps := changed(t, kit, on).WorkOrder(found)
		at := slices.IndexFunc(steps, func(s change.Step) bool { return s.Key == "offset-of-surface" })
		if at < 0 || !strings.Contains(steps[at].Do, want.says) || steps[at].Given["offset"] != want.given {
			t.Errorf("%s: %+v", family, steps[max(at, 0)])
			continue
		}
		sum, _ := bench.Find(steps[at].Sum)
		r, err := sum.Work(steps[at].Given)
		if err != nil || !strings.Contains(want.says, "= "+r.Figures[0].Shown+" mm") {
			t.Errorf("%s: the sum comes to %+v, %v", family, r.Figures, err)
		}
	}
}

// Each sum that a step names is one of the bench, and what is given is asked for there.
func TestSumsOfSteps(t *testing.T) {
	kinds := map[string]bool{}
	for _, on := range []map[string]string{compiled, {"firmware.family": "hosted", "extruder.ratio": "3",
		"extruder.gear-diameter": "7.36", "motor-e.step-angle": "1.8", "driver-e.microsteps": "16"}} {
		axes := []calibration.Record{
			{ID: 1, Kind: calibration.AxisSteps, Subject: "axis x", Value: "80 steps/mm", Passed: true},
			{ID: 2, Kind: calibration.AxisSteps, Subject: "axis z", Value: "400 steps/mm", Passed: true},
		}
		slots := []string{"extruder", "motor-e", "mainboard", "runout", "springs", "probe", "motor-x", "motor-z"}
		for _, slot := range slots {
			for _, s := range exchange(t, facts(on), slot).WorkOrder(axes) {
				if s.Sum == "" {
					continue
				}
				kinds[s.Sum] = true
				c, ok := bench.Find(s.Sum)
				if !ok {
					t.Errorf("%s: there is no sum %q", s.Key, s.Sum)
				}
				checkTaken(t, s, c)
				for given := range s.Given {
					if !slices.ContainsFunc(c.Inputs, func(i bench.Input) bool { return i.Key == given }) {
						t.Errorf("%s is given %s, which it does not ask for", s.Sum, given)
					}
				}
			}
		}
	}
	for _, want := range []string{"steps-feed", "rotation-feed", "voltage-for-current", "mesh", "filament-change",
		"axis-belt", "axis-screw"} {
		if !kinds[want] {
			t.Errorf("no step helps with %s: %v", want, kinds)
		}
	}
}

// checkTaken holds the figures that a step takes over against those that its calculator gives
// of common values, in the unit in which the step records them.
func checkTaken(t *testing.T, s change.Step, c bench.Calculator) {
	t.Helper()
	typed := map[string]string{"mesh": "0 0.1 0.2\n0 0.1 0.2\n0 0.1 0.2", "old": "93", "asked": "100", "delivered": "97",
		"rms": "0.8", "rs": "0.1", "path": "700", "short": "60", "purge": "40", "motor": "1", "pitch": "2", "teeth": "20"}
	if s.Sum == "filament-change" {
		delete(typed, "old") // a temperature there
	}
	result, err := c.Work(typed)
	if err != nil {
		t.Errorf("%s: %v", s.Sum, err)
	}
	for i, key := range s.Takes {
		at := slices.IndexFunc(result.Figures, func(f bench.Figure) bool { return f.Key == key })
		unit := s.Unit
		if len(s.Parts) > 0 {
			unit = s.Parts[i].Unit
		}
		switch {
		case at < 0:
			t.Errorf("%s takes %s, which %s does not give", s.Key, key, s.Sum)
		case unit != "" && result.Figures[at].Unit != unit, s.Calibration == calibration.Mesh && key != "spread":
			t.Errorf("%s records %s and takes %s, %s", s.Key, unit, key, result.Figures[at].Unit)
		}
	}
	if len(s.Parts) > 0 && len(s.Takes) != 0 && len(s.Takes) != len(s.Parts) {
		t.Errorf("%s has %d parts and takes %d", s.Key, len(s.Parts), len(s.Takes))
	}
}

// No step speaks to a family in the words of another.
func TestWordsOfTheFamily(t *testing.T) {
	for family, never := range map[string][]string{
		"hosted":   {"M503", "M119", "M502", "M500", "M851"},
		"scripted": {"M503", "M502", "configuration file"},
	} {
		for _, slot := range []string{"mainboard", "probe", "driver-e"} {
			for _, s := range exchange(t, facts(map[string]string{"firmware.family": family}), slot).WorkOrder(nil) {
				text := s.Do + strings.Join(s.Lines, " ")
				for _, word := range never {
					if strings.Contains(text, word) {
						t.Errorf("%s, %s, %s: %q", family, slot, s.Key, word)
					}
				}
			}
		}
	}
}

// Where there is no probe no step speaks of one: what finds Z 0 is the endstop, and no offset is
// stored for it.
func TestWordsWithoutAProbe(t *testing.T) {
	on := map[string]string{"firmware.family": "compiled", "probe.model": "none", "z-endstop.model": "lever",
		"surface.model": "glass", "surface.thickness": "4"}
	found := []calibration.Record{{Kind: calibration.ZOffset, Subject: "head 1", Value: "−1.85 mm", Passed: true,
		Store: "stored settings"}}
	seen := 0
	for _, slot := range []string{"mainboard", "nozzle", "hotend", "surface", "plate", "springs", "z-endstop"} {
		for _, s := range exchange(t, facts(on), slot).WorkOrder(found) {
			text := s.Title + s.Do + strings.Join(s.Lines, " ") + strings.Join(s.Cautions, " ")
			if strings.Contains(strings.ToLower(text), "probe") || strings.Contains(text, "M851") {
				t.Errorf("%s, %s: %s", slot, s.Key, text)
			}
			if s.Form != change.ZOffsetForm {
				continue
			}
			seen++
			rounds := []bench.ZOffsetRound{bench.MoveEndstop(0, 0.7, false), bench.MoveEndstop(-0.7, 0, true)}
			r, err := s.Check(change.Data{BedTemperature: "60", SoakMinutes: "5", Rounds: rounds}, "", false, facts(on))
			if err != nil || r.Calibrations[0].Value != "-0.70 mm" || r.Calibrations[0].Store != calibration.StorePart {
				t.Errorf("%s: %+v, %v", slot, r.Calibrations, err)
			}
		}
	}
	if seen < 4 {
		t.Errorf("%d steps set the endstop", seen)
	}
}

// Hands on mains: the wiring names who did it; a bed of low voltage does not.
func TestMainsIsLicensedPractice(t *testing.T) {
	for name, tt := range map[string]struct {
		kit  string
		slot string
		want bool
	}{
		"a bed heated from the mains": {kit: "hearth-230", want: true},
		"a relay":                     {slot: "relay", want: true},
		"a supply":                    {slot: "supply", want: true},
		"a mainboard":                 {slot: "mainboard"},
		"a sheet":                     {slot: "surface"},
		"a hotend heater":             {slot: "heater"},
	} {
		t.Run(name, func(t *testing.T) {
			var c change.Change
			if tt.kit != "" {
				c = changed(t, catalogue.MustKit(tt.kit), compiled)
			} else {
				c = exchange(t, facts(compiled), tt.slot)
			}
			licensed := 0
			for _, s := range c.WorkOrder(nil) {
				if !s.Licensed {
					continue
				}
				licensed++
				if _, err := s.Check(change.Data{}, "", true, c.After); err == nil {
					t.Errorf("%s is ticked without who did it", s.Key)
				}
				if _, err := s.Check(change.Data{Licensed: "E. Lind, licence 88"}, "", true, c.After); err != nil {
					t.Errorf("%s: %v", s.Key, err)
				}
			}
			if (licensed > 0) != tt.want {
				t.Errorf("%d steps of licensed practice: %s", licensed, keysOf(c.WorkOrder(nil)))
			}
		})
	}
}

// A measured earth has its instrument and is within the limit; one that was not measured is
// not asked for. Source of the limit: from memory.
func TestEarthContinuity(t *testing.T) {
	var step change.Step
	for _, s := range exchange(t, facts(compiled), "supply").WorkOrder(nil) {
		if s.Licensed {
			step = s
			break
		}
	}
	for name, tt := range map[string]struct{ earth, instrument, fault string }{
		"not measured":       {"", "", ""},
		"without instrument": {"0.1", "", "with which instrument"},
		"good":               {"0.08 Ω", "tester 4", ""},
		"at the limit":       {"0.5", "tester 4", ""},
		"over it":            {"0.51", "tester 4", "no good earth"},
		"negative":           {"-1", "tester 4", "type ohms"},
		"words":              {"fine", "tester 4", "type ohms"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := step.Check(change.Data{Licensed: "E. Lind, licence 88", Earth: tt.earth, Instrument: tt.instrument}, "",
				true, facts(compiled))
			if (err == nil) != (tt.fault == "") || err != nil && !strings.Contains(err.Error(), tt.fault) {
				t.Errorf("got %v, want %q", err, tt.fault)
			}
		})
	}
}

// What was found on a delivered board stands against what was advertised: typed values become
// readings of the board, and none of them one of the build.
func TestFoundAgainstAdvertised(t *testing.T) {
	kit := catalogue.MustKit("brace-5-board")
	c := changed(t, kit, compiled)
	step := c.WorkOrder(nil)[0]
	if step.Key != "check-kit" || len(step.Found) == 0 {
		t.Fatalf("the first step: %+v", step)
	}
	// Where nothing came that could be read, it asks to read nothing.
	own := fit.Kit{Key: "k", Parts: []string{"a bag"}, Effects: []fit.Effect{{Slot: "springs", Model: "none"}}}
	plain := changed(t, own, compiled).WorkOrder(nil)[0]
	if plain.Key != "check-kit" || len(plain.Found) > 0 || len(plain.Do) >= len(step.Do) {
		t.Errorf("with nothing to read: %+v", plain)
	}
	board := map[string]string{}
	for _, f := range step.Found {
		board[string(f.Key)] = f.Advertised
	}
	if board["mainboard.model"] == "" {
		t.Errorf("advertised: %v", board)
	}
	for name, tt := range map[string]struct {
		found map[string]string
		want  int
		fault string
	}{
		"nothing typed":     {nil, 0, ""},
		"blank":             {map[string]string{"mainboard.revision": " "}, 0, ""},
		"a revision":        {map[string]string{"mainboard.revision": "5.1"}, 1, ""},
		"a fact not asked":  {map[string]string{"nozzle.bore": "0.4"}, 0, ""},
		"what is no answer": {map[string]string{"mainboard.model": "x\x00"}, 0, "model"},
	} {
		t.Run(name, func(t *testing.T) {
			r, err := step.Check(change.Data{Found: tt.found}, "", false, c.After)
			if (err == nil) != (tt.fault == "") || err == nil && len(r.Readings) != tt.want {
				t.Errorf("%v, %v", r.Readings, err)
			}
		})
	}
}
