package printfile_test

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"reflect"
	"strconv"
	"strings"
	"testing"
	"testing/iotest"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/dialect"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/printfile"
	"wardifex/internal/core/quantity/quantitytest"
	"wardifex/internal/core/settings"
)

func scan(t testing.TB, text string) *printfile.Profile {
	t.Helper()
	p, err := printfile.Scan(context.Background(), strings.NewReader(text), nil)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// usual is a file as it prints on an ordinary machine with a probe.
const usual = "; nozzle_diameter = 0.4\n; filament_type = PLA\nM140 S60\nM104 S215\nG28\nG29\nG92 E0\nG1 Z0.2 F3000\n" +
	"G1 X10 Y10 F9000\nG1 X200 Y10 E9.5\nG1 X200 Y200 E19\nG1 E18 F2100\nG0 X5 Y205\nM140 S0\nM104 S0\n"

func TestWhatAFileDoes(t *testing.T) {
	p := scan(t, usual)
	got := fmt.Sprintf("%d lines, %d moves, homed %d, probed %d, prints from %d, nozzle %g %s, %gmm", p.Lines, p.Moves,
		p.Homed, p.Probed, p.Extruded, p.Hints.Nozzle, p.Hints.Filament, p.Tools[0].Filament)
	if want := "15 lines, 6 moves, homed 5, probed 6, prints from 10, nozzle 0.4 PLA, 18mm"; got != want {
		t.Errorf("got %s, want %s", got, want)
	}
	for axis, want := range []string{"10 200", "10 200", "0.2 0.2"} {
		low, high, _ := p.Used.Bounds(axis)
		if got := fmt.Sprintf("%g %g", low, high); got != want {
			t.Errorf("used of axis %d: %s, want %s", axis, got, want)
		}
	}
	if low, high, _ := p.Reach.Bounds(0); low != 5 || high != 200 {
		t.Errorf("moves in X from %g to %g", low, high)
	}
}

// The forms in which slicers write the same: with and without blanks, relative, in inches, arcs, in
// small letters, with Windows line ends, with numbered lines.
func TestForms(t *testing.T) {
	for name, tt := range map[string]struct {
		text, want string // bounds of X, filament
	}{
		"no blanks":       {"G28\nG1X10Y5F600\nG1X20E1\n", "10 20 1"},
		"relative":        {"G28\nM83\nG91\nG1 X10 Y5\nG1 X10 E1\nG90\nG1 X5 E.5\n", "5 20 1.5"},
		"inches":          {"G20\nG28\nG1 X1 Y1\nG1 X2 E1\n", "25.4 50.8 25.4"},
		"Windows lines":   {"G28\r\nG1 X10 Y5\r\nG1 X20 E1\r\n", "10 20 1"},
		"numbered":        {"N1 G28\nN2 G1 X10 Y5 *7\nN3 G1 X20 E1 *99\n", "10 20 1"},
		"small letters":   {"g28\ng1 x10 y5\ng1 x20 e1", "10 20 1"},
		"blanks within":   {"G28\nG1 X 10 Y 5\nG1 X 20 E 1\nG1 X E2\n", "10 20 2"},
		"a mark before":   {"\ufeffM83\nG1 X10 Y5\nG1 X20 E1\nG1 X5 Y5 E1\n", "5 20 2"},
		"a curve":         {"M83\nG28\nG1 X10 Y5\nG5 X30 Y5 I2 J2 P-2 Q2 E1\n", "10 30 1"},
		"by radius":       {"G28\nM83\nG1 X10 Y0\nG3 X0 Y10 R10 E5\n", "0 10 5"},
		"half a circle":   {"G28\nM83\nG1 X10 Y5\nG3 X10 Y25 R10 E5\n", "10 20 5"},
		"the other half":  {"G28\nM83\nG1 X10 Y5\nG2 X10 Y25 R10 E5\n", "0 10 5"},
		"the longer arc":  {"G28\nM83\nG1 X10 Y0\nG3 X0 Y10 R-10 E5\n", "0 20 5"},
		"a full circle":   {"G28\nM83\nG1 X10 Y0\nG2 X10 Y0 I-10 J0 E5\n", "-10 10 5"},
		"a quarter":       {"G28\nM83\nG1 X10 Y0\nG3 X0 Y10 I-10 J0 E5\n", "0 10 5"},
		"reset":           {"G28\nG1 X1 Y1 E0\nG1 X2 E5\nG92 E0\nG1 X3 E2\n", "1 3 7"},
		"a second tool":   {"G28\nM83\nT1\nG1 X1 Y1\nG1 X2 E5\nT0\nG1 X3 E1\n", "1 3 1"},
		"only retracting": {"G28\nM83\nG1 X1 Y1\nG1 X5 Y2 E-1\nG1 X2 E2\n", "2 5 1"},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			p := scan(t, tt.text)
			low, high, _ := p.Used.Bounds(0)
			if got := fmt.Sprintf("%g %g %g", low, high, p.Tools[0].Filament); got != tt.want {
				t.Errorf("got %s, want %s", got, tt.want)
			}
		})
	}
}

// rated are the facts of a machine that usual prints on.
func rated(more map[string]string) map[string]string {
	known := map[string]string{"firmware.family": "compiled", "frame.x": "220", "frame.y": "220", "frame.z": "250",
		"hotend.rating": "300", "hotend.liner": "no", "probe.model": "Lodestar", "nozzle.bore": "0.4",
		"bed-heater.model": "x"}
	for k, v := range more {
		if known[k] = v; v == "" {
			delete(known, k)
		}
	}
	return known
}

func judged(t testing.TB, text string, known map[string]string, records ...calibration.Record) printfile.FileVerdict {
	t.Helper()
	return printfile.Judge(scan(t, text), printfile.Machine{Facts: machinetest.Facts(catalogue.Vocabulary(), rated(known)),
		Records: records, Words: settings.Shipped()})
}

var steps = calibration.Record{ID: 1, Kind: calibration.Steps, Subject: "head 1", Value: "415 steps/mm", Passed: true,
	Store: calibration.StoreSettings, At: time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)}

// One file, and what each fact of a machine makes of it. Each limit has a case on either side. Source:
// common practice; 240 °C for a PTFE liner from memory.
func TestJudge(t *testing.T) {
	with := func(line string) string { return strings.Replace(usual, "G29\n", "G29\n"+line+"\n", 1) }
	for name, tt := range map[string]struct {
		text   string
		known  map[string]string
		answer printfile.Answer
		says   string
		line   int64
	}{
		"it prints":         {usual, nil, printfile.Prints, "", 0},
		"just large enough": {usual, map[string]string{"frame.x": "199.5"}, printfile.Prints, "", 0},
		"too small in X": {usual, map[string]string{"frame.x": "199.4"}, printfile.DoesNot,
			"prints-too-far 200 199.4", 10},
		"size not on record": {usual, map[string]string{"frame.z": ""}, printfile.LookFirst,
			"size-unknown 0.2", 0},
		"travels beyond": {usual, map[string]string{"frame.y": "203"},
			printfile.Prints, "stops-at-end 205", 13},
		"at the hotend's limit": {usual, map[string]string{"hotend.rating": "215"}, printfile.Prints, "", 0},
		"above it": {usual, map[string]string{"hotend.rating": "214"}, printfile.DoesNot,
			"hotend-rating 214", 4},
		"rating unknown": {usual, map[string]string{"hotend.rating": ""}, printfile.LookFirst, "hotend-rating-unknown",
			4},
		"at the liner's limit": {strings.Replace(usual, "S215", "S240", 1), map[string]string{"hotend.liner": "yes"},
			printfile.Prints, "", 0},
		"above the liner's": {strings.Replace(usual, "S215", "S241", 1), map[string]string{"hotend.liner": "yes"},
			printfile.DoesNot, "liner", 4},
		"liner unknown": {strings.Replace(usual, "S215", "S241", 1), map[string]string{"hotend.liner": ""},
			printfile.LookFirst, "liner-unknown", 4},
		"above the sensor's": {usual, map[string]string{"sensor.rating": "210"}, printfile.DoesNot,
			"sensor-range 210", 4},
		"above the plate's": {usual, map[string]string{"plate.rating": "59"},
			printfile.DoesNot, "plate-rating 59", 3},
		"at the plate's": {usual, map[string]string{"plate.rating": "60"}, printfile.Prints, "", 0},
		"never probes": {strings.Replace(usual, "G29\n", "", 1), nil, printfile.AfterRepair,
			"no-mesh", 5},
		"no probe to probe with": {usual, map[string]string{"probe.model": "none"}, printfile.AfterRepair,
			"no-probe", 6},
		"loads a mesh that is not on record": {strings.Replace(usual, "G29\n", "M420 S1\n", 1), nil, printfile.LookFirst,
			"stored-mesh", 6},
		"never homes": {strings.Replace(usual, "G28\n", "", 1), nil, printfile.DoesNot, "not-homed", 9},
		"other steps": {with("M92 E95"), nil, printfile.AfterRepair,
			"differs 95 415", 7},
		"the same steps":           {with("M92 E415"), nil, printfile.Prints, "as-on-record", 7},
		"steps in inches' company": {with("M92 E10541"), nil, printfile.AfterRepair, "differs 25.4", 7},
		"nothing on record": {with("M301 P20 I1 D70"), nil,
			printfile.LookFirst, "nothing-on-record", 7},
		"writes the store": {with("M500"), nil, printfile.AfterRepair, "stores", 7},
		"rejected by the hosted family": {with("M92 E415"), map[string]string{"firmware.family": "hosted"},
			printfile.AfterRepair, "unknown-word", 7},
		"of the hosted family": {with("START_PRINT BED=60"), nil, printfile.DoesNot, "another-family",
			7},
		"welcome in the hosted family": {with("START_PRINT BED=60"), map[string]string{"firmware.family": "hosted"},
			printfile.Prints, "", 0},
		"a macro of the configuration's own": {strings.Replace(strings.Replace(usual, "G28\n", "START_PRINT\n", 1), "G29\n",
			"", 1),
			map[string]string{"firmware.family": "hosted"}, printfile.LookFirst,
			"no-configuration", 5},
		"its own for the mesh": {strings.Replace(usual, "G29\n", "START_PRINT\n", 1),
			map[string]string{"firmware.family": "hosted"}, printfile.Prints, "no-configuration",
			6},
		"no word for a mesh in the hosted family": {strings.Replace(usual, "G29\n", "", 1),
			map[string]string{"firmware.family": "hosted"}, printfile.DoesNot, "no-mesh", 5},
		"another bore": {usual, map[string]string{"nozzle.bore": "0.6"}, printfile.DoesNot,
			"bore 0.4", 0},
		"a tool too many": {strings.Replace(usual, "G28\n", "G28\nT3\nM104 S200\n", 1), nil, printfile.DoesNot,
			"no-head 4", 7},
		"wears the nozzle": {strings.Replace(usual, "PLA", "PA-CF", 1), nil, printfile.LookFirst, "soft-nozzle",
			0},
		"hardened": {strings.Replace(usual, "PLA", "PA-CF", 1),
			map[string]string{"nozzle.material": "hardened"}, printfile.Prints, "", 0},
		"no end code": {strings.Replace(usual, "M104 S0\n", "", 1), nil, printfile.LookFirst,
			"left-hot 0 215", 4},
		"an object's end is no end": {strings.Replace(usual, "M104 S0\n", "EXCLUDE_OBJECT_END\n", 1),
			map[string]string{"firmware.family": "hosted"}, printfile.LookFirst, "left-hot", 4},
		"a chamber to wait for": {with("M191 S60"), nil, printfile.DoesNot, "waits-for-no-chamber-heater 60", 7},
		"a chamber to wish for": {with("M141 S60"), nil, printfile.LookFirst, "no-chamber-heater 60", 7},
		"a tool's own temperature": {with("G10 P0 S301 R150"), map[string]string{"firmware.family": "scripted"},
			printfile.DoesNot, "hotend-rating 300", 7},
		"in newer words": {with("M568 P0 S301 R150 A2"), map[string]string{"firmware.family": "scripted"},
			printfile.DoesNot, "hotend-rating 300", 7},
		"a retraction": {with("G10"), nil, printfile.Prints, "", 0},
		"worked out by the machine": {with("G1 X{move.axes[0].max}"), map[string]string{"firmware.family": "scripted"},
			printfile.LookFirst, "unreadable", 7},
		"a curve": {with("G5 X5 Y5 I1 J1 P0 Q0"), nil, printfile.LookFirst, "unreadable 5", 7},
		"a bore for each tool": {strings.Replace(usual, "= 0.4", "= 0.4,0.6", 1), nil, printfile.Prints,
			"", 0},
		"what the plate bears is unknown": {strings.Replace(usual, "S60", "S81", 1), nil, printfile.Prints,
			"plate-rating-unknown", 3},
		"any plate bears that": {strings.Replace(usual, "S60", "S80", 1), nil,
			printfile.Prints, "", 0},
		"what the sensor measures is unknown": {strings.Replace(usual, "S215", "S261", 1), nil, printfile.Prints,
			"sensor-range-unknown", 4},
		"any sensor measures that": {strings.Replace(usual, "S215", "S260", 1), nil, printfile.Prints,
			"", 0},
		"cut off before it prints": {"M104 S215\nG28\nG29\n", nil,
			printfile.DoesNot, "unreadable", 3},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			known := map[string]string{}
			for k, v := range tt.known {
				known[k] = v
			}
			full := rated(known)
			for k, v := range full {
				if v == "" {
					delete(full, k)
				}
			}
			v := printfile.Judge(scan(t, tt.text), printfile.Machine{Facts: machinetest.Facts(catalogue.Vocabulary(), full),
				Records: []calibration.Record{steps}, Words: settings.Shipped()})
			first := printfile.FileFinding{}
			if len(v.Findings) > 0 {
				first = v.Findings[0]
			}
			if v.Answer != tt.answer || !found(first, tt.says) || tt.says != "" && first.Line != tt.line {
				t.Errorf("%s: line %d, %q; want %s: line %d, %q", v.Answer, first.Line, first.Says, tt.answer, tt.line, tt.says)
			}
			if (first.Level == printfile.Mend) != (first.Repair != nil) {
				t.Errorf("%q has the repair %+v", first.Says, first.Repair)
			}
		})
	}
}

// What a macro of the host's configuration does is held against what the file leaves to it.
func TestStartMacro(t *testing.T) {
	text := strings.Replace(strings.Replace(usual, "G28\n", "START_PRINT\n", 1), "G29\n", "", 1)
	for name, tt := range map[string]struct {
		configuration string
		known         map[string]string
		answer        printfile.Answer
		says          string
	}{
		"homes and probes": {"  G28\n  BED_MESH_CALIBRATE\n", nil, printfile.Prints, ""},
		"homes and loads":  {"  G28\n  BED_MESH_PROFILE LOAD=a\n", nil, printfile.Prints, ""},
		"homes only":       {"  G28\n", nil, printfile.LookFirst, "macro-no-mesh"},
		"no probe to probe": {"  G28\n", map[string]string{"probe.model": "none"},
			printfile.Prints, ""},
		"probes without one": {"  G28\n  G29\n", map[string]string{"probe.model": "none"}, printfile.LookFirst,
			"macro-probes-without-probe"},
		"does not home": {"  G29\n", nil, printfile.DoesNot, "macro-does-not-home"},
		"homes perhaps": {"  {% if x %}\n  G28\n  {% endif %}\n  G29\n", nil, printfile.Prints,
			"homes-on-condition"},
		"another machine's": {"", nil, printfile.LookFirst, "macro-unknown"},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			config := "[extruder]\nnozzle_diameter: 0.4\n"
			if tt.configuration != "" {
				config += "[gcode_macro START_PRINT]\ngcode:\n" + tt.configuration
			}
			d, err := dialect.Read(dialect.Sections, config)
			if err != nil {
				t.Fatal(err)
			}
			known := rated(tt.known)
			known["firmware.family"] = "hosted"
			// What the host itself has is no macro, wherever it stands.
			with := "EXCLUDE_OBJECT_DEFINE NAME=a\nSET_VELOCITY_LIMIT ACCEL=3000\n" + text
			v := printfile.Judge(scan(t, with), printfile.Machine{Facts: machinetest.Facts(catalogue.Vocabulary(), known),
				Words: settings.Shipped(), Macros: settings.MacrosOf(d)})
			if v.Answer != tt.answer || !found(firstOf(v), tt.says) || tt.says == "" && len(v.Findings) > 0 {
				t.Errorf("%s: %+v; want %s, %q", v.Answer, v.Findings, tt.answer, tt.says)
			}
		})
	}
}

// What a script on the machine's card does is held against what the file leaves to it, as macros are.
func TestStartScript(t *testing.T) {
	text := strings.Replace(strings.Replace(usual, "G28\n", "M98 P\"0:/macros/Begin.g\"\n", 1), "G29\n", "", 1)
	for name, tt := range map[string]struct {
		family, script string
		answer         printfile.Answer
		says           string
	}{
		"homes and probes": {"scripted", "G28\nG29\n", printfile.Prints, ""},
		"axis by axis":     {"scripted", "G28 X Y\nG28 Z\nG29 S1\n", printfile.Prints, ""},
		"homes two axes":   {"scripted", "G28 X Y\nG29\n", printfile.DoesNot, "macro-does-not-home 98"},
		"calls another":    {"scripted", "M98 P\"other.g\"\nG29\n", printfile.Prints, ""},
		"homes on a condition": {"scripted", "if !move.axes[0].homed\n  G28\nG29\n",
			printfile.Prints, "homes-on-condition"},
		"only in a comment":   {"scripted", "; G28\nG29\n", printfile.DoesNot, "macro-does-not-home"},
		"another on record":   {"scripted", "other", printfile.LookFirst, "script-unknown"},
		"not on record":       {"scripted", "", printfile.LookFirst, "no-configuration"},
		"family unknown":      {"", "", printfile.LookFirst, "no-configuration"},
		"no word of compiled": {"compiled", "G28\nG29\n", printfile.DoesNot, "not-homed"},
	} {
		var macros *settings.Macros
		if tt.script != "" {
			files := []dialect.File{{Name: "begin.g", Text: tt.script}, {Name: "other.g", Text: "G28 ; all\n"}}
			if tt.script == "other" {
				files = files[1:]
			}
			d, err := dialect.ReadAll(dialect.GCode, files)
			if err != nil {
				t.Fatal(err)
			}
			macros = settings.MacrosOf(d)
		}
		v := printfile.Judge(scan(t, text), printfile.Machine{Words: settings.Shipped(), Macros: macros,
			Facts: machinetest.Facts(catalogue.Vocabulary(), rated(map[string]string{"firmware.family": tt.family}))})
		if v.Answer != tt.answer || !found(firstOf(v), tt.says) || tt.says == "" && len(v.Findings) > 0 {
			t.Errorf("%s: %s: %+v; want %s, %q", name, v.Answer, v.Findings, tt.answer, tt.says)
		}
	}
}

func firstOf(v printfile.FileVerdict) printfile.FileFinding {
	if len(v.Findings) == 0 {
		return printfile.FileFinding{}
	}
	return v.Findings[0]
}

// found reports whether a finding has a key, and the figures that stand behind it: "bore 0.6". Nothing asked, all is
// right.
func found(f printfile.FileFinding, want string) bool {
	key, figures, _ := strings.Cut(want, " ")
	return want == "" || f.Key == key && (figures == "" || quantitytest.Holds(f.Says, figures))
}

// What switches the heaters off at the end is a matter of the family and of the machine's own code.
func TestHowItEnds(t *testing.T) {
	macros := func(text string) *settings.Macros {
		d, err := dialect.ReadAll(dialect.Sections, []dialect.File{{Name: "host.cfg", Text: text}})
		if err != nil {
			t.Fatal(err)
		}
		return settings.MacrosOf(d)
	}
	end := func(body string) *settings.Macros {
		return macros("[gcode_macro END_PRINT]\ngcode:\n" + body)
	}
	for name, tt := range map[string]struct {
		family, with string
		macros       *settings.Macros
		answer       printfile.Answer
		says         string
	}{
		"compiled waits":      {"compiled", "M0\n", nil, printfile.LookFirst, "left-hot-waiting 0"},
		"compiled cuts power": {"compiled", "M81\n", nil, printfile.Prints, ""},
		"scripted stops":      {"scripted", "M0\n", nil, printfile.Prints, ""},
		"scripted by a script": {"scripted", "m98 p\"End.g\"\n", nil,
			printfile.Prints, "left-hot-perhaps 98"},
		"family unknown":     {"", "M0\n", nil, printfile.Prints, ""},
		"hosted, off":        {"hosted", "END_PRINT\n", end("  TURN_OFF_HEATERS\n"), printfile.Prints, ""},
		"hosted, to nothing": {"hosted", "END_PRINT\n", end("  M104 S0\n"), printfile.Prints, ""},
		"hosted, only the bed": {"hosted", "END_PRINT\n", end("  M140 S0\n"),
			printfile.LookFirst, "left-hot-by-macro"},
		"hosted, to 180": {"hosted", "END_PRINT\n", end("  M104 S180\n"),
			printfile.LookFirst, "left-hot-by-macro"},
		"hosted, perhaps": {"hosted", "END_PRINT\n", end("  {% if x %}\n  M104 S0\n  {% endif %}\n"),
			printfile.Prints, "left-hot-on-condition"},
		"hosted, two macros": {"hosted", "PARK_HEAD\nEND_PRINT\n", macros("[gcode_macro PARK_HEAD]\ngcode:\n  G1 X0\n" +
			"[gcode_macro END_PRINT]\ngcode:\n  M104 S0\n"),
			printfile.Prints, ""},
		"hosted, another's": {"hosted", "FINISH_IT\n", end("  M104 S0\n"),
			printfile.LookFirst, "left-hot-macro-unknown"},
		"hosted, not on record": {"hosted", "END_PRINT\n", nil, printfile.Prints, "left-hot-perhaps"},
		"hosted, its own word": {"hosted", "SET_HEATER_TEMPERATURE HEATER=extruder TARGET=0\n", nil,
			printfile.Prints, ""},
		"hosted, no target": {"hosted", "SET_HEATER_TEMPERATURE HEATER=extruder\n", nil, printfile.Prints, ""},
		"hosted, another head": {"hosted", "SET_HEATER_TEMPERATURE HEATER=extruder1\n", nil,
			printfile.LookFirst, "left-hot 0 215"},
		"hosted, M0 is no word": {"hosted", "M0\n", nil, printfile.LookFirst, "left-hot"},
		"an object's end": {"hosted", "EXCLUDE_OBJECT_END\n", nil,
			printfile.LookFirst, "left-hot"},
		"goes on afterwards": {"scripted", "M0\nG1 X150 Y150 E20\n", nil,
			printfile.LookFirst, "left-hot"},
	} {
		text := strings.NewReplacer("M104 S0\n", tt.with, "M140 S60\n", "").Replace(usual)
		if tt.family == "hosted" {
			text = strings.Replace(text, "G29\n", "BED_MESH_CALIBRATE\n", 1)
		}
		v := printfile.Judge(scan(t, text), printfile.Machine{Words: settings.Shipped(), Macros: tt.macros,
			Facts: machinetest.Facts(catalogue.Vocabulary(), rated(map[string]string{"firmware.family": tt.family}))})
		if v.Answer != tt.answer || !found(firstOf(v), tt.says) || tt.says == "" && len(v.Findings) > 0 {
			t.Errorf("%s: %s: %+v; want %s, %q", name, v.Answer, v.Findings, tt.answer, tt.says)
		}
	}
}

// What a file can do to people and machines, each with its line; a case beside each that does no harm. The machine has
// 220 × 220 × 250 mm.
func TestFilesThatHurt(t *testing.T) {
	const prints, repair, look, stop = printfile.Prints, printfile.AfterRepair, printfile.LookFirst, printfile.DoesNot
	start := "G28\nG29\nM104 S200\nM83\nG1 X10 Y10 Z5\n" // 5 lines
	end := "G1 X20 Y10 E1\nG1 Z10\nM104 S0\n"
	for name, tt := range map[string]struct {
		family, text string
		answer       printfile.Answer
		says         string
		line         int64
	}{
		"below the bed":           {"", start + "G1 Z-0.1 E1\nG1 X50 E2\n" + end, stop, "prints-below-bed", 7},
		"on the bed":              {"", start + "G1 Z0\nG1 X50 E2\n" + end, look, "prints-on-bed", 7},
		"a first layer":           {"", start + "G1 Z0.1\nG1 X50 E2\n" + end, prints, "", 0},
		"moves below the bed":     {"", start + "G1 Z-2\nG1 Z1\n" + end, look, "moves-below-bed −2", 6},
		"renamed, into the bed":   {"", start + "G92 Z10\nG1 Z4\nG1 Z10\n" + end, stop, "moves-below-bed 6", 7},
		"renamed, in the air":     {"", start + "G92 Z0\nG1 Z0.2\n" + end, prints, "", 0},
		"renamed and back":        {"", start + "G92 Z10\nG92 Z5\nG1 Z0.2\n" + end, prints, "", 0},
		"renamed, homed again":    {"", start + "G92 Z10\nG28 Z\nG1 Z0.2\n" + end, prints, "", 0},
		"renamed, taken back":     {"", start + "G92 Z10\nG92.1\nG1 Z0.2\n" + end, prints, "", 0},
		"renamed, beyond the end": {"", start + "G92 X0\nG1 X215\nG1 X5\n" + end, stop, "moves-too-far 225", 7},
		"renamed, below the end":  {"", start + "G92 X20\nG1 X5\nG1 X20\n" + end, stop, "moves-too-far −5", 7},
		"renamed, below in Y":     {"", start + "G92 Y20\nG1 Y5\nG1 Y20\n" + end, stop, "moves-too-far −5", 7},
		"renamed, prints beyond":  {"", start + "G92 X0\nG1 X215 E1\n" + end, stop, "prints-too-far 225", 7},
		"renamed, still within":   {"", start + "G92 X0\nG1 X205\n" + end, prints, "", 0},
		"renamed, relative moves": {"", start + "G92 Z50\nG91\nG1 Z-1\nG90\nG92 Z4\n" + end, prints, "", 0},
		"homes elsewhere":         {"", "M206 Z3\n" + start + "G1 Z1\n" + end, stop, "prints-below-bed 1", 8},
		"homes hardly elsewhere":  {"", "M206 Z-0.1\n" + start + "G1 Z0.2\n" + end, prints, "", 0},
		"a host's offset": {"hosted", "SET_GCODE_OFFSET Z=-1 MOVE=1\n" + start + "G1 Z0.2\n" + end,
			stop, "prints-below-bed", 8},
		"in two steps": {"hosted", "SET_GCODE_OFFSET Z=-.1\nSET_GCODE_OFFSET Z_ADJUST=-0.2\n" + start +
			"G1 Z0.2\n" + end, stop, "prints-below-bed", 9},
		"work begins elsewhere": {"scripted", start + "G10 L2 P1 Z-3\nG1 Z1\n" + end, stop, "prints-below-bed 6", 8},
		"nudged, then lowered":  {"", start + "M290 Z-0.5\nG1 Z0.2\nG1 X30 E1\n" + end, stop, "prints-below-bed 6", 8},
		"nudged up":             {"", start + "G1 Z0.2\nM290 Z0.1\nG1 X30 E1\n" + end, prints, "", 0},
		"nudged up and lowered": {"", start + "M290 Z0.5\nG1 Z-0.3\nG1 X30 E1\n" + end, prints, "", 0},
		"nudged":                {"", start + "G1 Z0.2\nM290 Z-0.5\nG1 X30 E1\n" + end, stop, "prints-below-bed 7", 8},

		"cold extrusion":            {"", "M302 P1\n" + start + end, repair, "cold-extrusion", 1},
		"from nothing":              {"", "M302 S0 ; any\n" + start + end, repair, "cold-extrusion", 1},
		"cold extrusion, forbidden": {"", "M302 P0\n" + start + end, prints, "", 0},
		"from what is warm":         {"", "M302 S170\n" + start + end, prints, "", 0},
		"alone":                     {"", "M302\n" + start + end, look, "cold-extrusion-perhaps", 1},

		"the mesh out of force": {"", start + "M420 S0\nG1 Z0.2\n" + end, repair, "mesh-off", 6},
		"and in force again":    {"", start + "M420 S0\nM420 S1\nG1 Z0.2\n" + end, prints, "", 0},
		"before the mesh":       {"", "M420 S0\n" + start + "G1 Z0.2\n" + end, prints, "", 0},
		"at the end":            {"", start + "G1 Z0.2\n" + end + "M420 S0\n", prints, "", 0},
		"while it prints": {"", start + "G1 X30 E1\nM420 S0\nG1 X40 E1\nM420 S1\n" + end, repair,
			"mesh-off", 7},
		"of another family": {"scripted", start + "M420 S0\n" + end, prints, "", 0},
		"a card's own word": {"scripted", start + "G29 S2\n" + end, repair, "mesh-off", 6},
		"a host's word": {"hosted", strings.Replace(start, "G29", "BED_MESH_CALIBRATE", 1) + "BED_MESH_CLEAR\n" + end,
			repair, "mesh-off", 6},

		"the bed stays hot": {"", "M140 S60\n" + start + end, look, "left-hot 60", 1},
		"the chamber stays hot": {"hosted", "SET_HEATER_TEMPERATURE HEATER=chamber TARGET=50\n" + start + end,
			look, "", 1},
		"everything off by a word": {"hosted", "M140 S60\n" + start + end + "TURN_OFF_HEATERS\n", prints, "", 0},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			known := rated(map[string]string{"plate.rating": "120"})
			if known["firmware.family"] = "compiled"; tt.family != "" {
				known["firmware.family"] = tt.family
			}
			m := printfile.Machine{Words: settings.Shipped(), Facts: machinetest.Facts(catalogue.Vocabulary(), known)}
			v := printfile.Judge(scan(t, tt.text), m)
			var first printfile.FileFinding
			if len(v.Findings) > 0 {
				first = v.Findings[0]
			}
			if v.Answer != tt.answer || tt.answer != prints &&
				(first.Line != tt.line || !found(first, tt.says)) {
				t.Errorf("%s, line %d: %q; want %s, line %d: %q", v.Answer, first.Line, first.Says, tt.answer, tt.line, tt.says)
			}
			if tt.answer == repair && first.Repair == nil {
				t.Errorf("%q has no repair", first.Says)
			}
			// However the file is cut into pieces, the same is read.
			whole, err := printfile.ScanPlain(t.Context(), strings.NewReader(tt.text))
			for size := 20; err == nil && size < 100; size += 7 {
				var cut *printfile.Profile
				if cut, err = printfile.ScanBy(t.Context(), strings.NewReader(tt.text), nil, size); err == nil &&
					!reflect.DeepEqual(printfile.Judge(cut, m), printfile.Judge(whole, m)) {
					t.Errorf("in pieces of %d bytes: %+v, whole: %+v", size, printfile.Judge(cut, m), printfile.Judge(whole, m))
				}
			}
			if err != nil {
				t.Fatal(err)
			}
		})
	}
}

// Each tool of a file is held against its own nozzle and filament.
func TestEachTool(t *testing.T) {
	text := "; nozzle_diameter = 0.4,0.6\n; filament_type = PLA;PA-CF\nM104 T0 S200\nM104 T1 S210\nG28\nG29\nM83\n" +
		"G1 X10 Y10\nG1 X20 E1\nT1\nG1 X30 E1\nM104 T0 S0\nM104 T1 S0\n"
	voc := catalogue.Vocabulary()
	for bore, want := range map[string]string{"0.6": "soft-nozzle", "0.4": "bore 0.6"} {
		facts := machinetest.Facts(voc, rated(map[string]string{"nozzle-2.bore": bore, "hotend-2.rating": "300",
			"hotend-2.liner": "no"}))
		v := printfile.Judge(scan(t, text), printfile.Machine{Facts: facts, Words: settings.Shipped()})
		if len(v.Findings) == 0 || !found(v.Findings[0], want) {
			t.Errorf("with %s mm: %+v, want %q", bore, v, want)
		}
	}
}

// A repaired file is what the patch says, and prints.
func TestRepaired(t *testing.T) {
	text := strings.Replace(usual, "G29\n", "M92 E95 ; old\nM500\n", 1)
	v := judged(t, text, nil, steps)
	repaired, at := "", int64(0)
	for _, r := range v.Repairs() {
		repaired += text[at:r.At] + r.Insert
		at = r.At
	}
	repaired += text[at:]
	if want := strings.Replace(usual, "G29\n", "G29\n; M92 E95 ; old\n; M500\n", 1); repaired != want {
		t.Errorf("got\n%s", repaired)
	}
	if again := judged(t, repaired, nil, steps); again.Answer != printfile.Prints {
		t.Errorf("repaired it %s: %+v", again.Answer, again.Findings)
	}
	want := "--- a/x.gcode\n+++ b/x.gcode\n@@ -5,0 +6 @@\n+G29\n@@ -6 +7 @@\n-M92 E95 ; old\n+; M92 E95 ; old\n" +
		"@@ -7 +8 @@\n-M500\n+; M500\n"
	if got := printfile.Patch("x.gcode", v); got != want {
		t.Errorf("patch\n%s", got)
	}
}

func TestWhatIsNoFile(t *testing.T) {
	for name, tt := range map[string]struct {
		from io.Reader
		says string
	}{
		"empty":      {strings.NewReader(""), "empty"},
		"prose":      {strings.NewReader("; hello\n; world\n"), "no line of the file is G-code"},
		"binary":     {strings.NewReader("G28\nGCDE\x00\x01\x00\n"), "line 2 holds bytes that are no text"},
		"broken off": {io.MultiReader(strings.NewReader(usual), iotest.ErrReader(errors.New("gone"))), "broke off after"},
	} {
		_, err := printfile.Scan(context.Background(), tt.from, nil)
		if err == nil || !strings.Contains(err.Error(), tt.says) {
			t.Errorf("%s: %v", name, err)
		}
	}
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	if _, err := printfile.Scan(ctx, strings.NewReader(usual), nil); !errors.Is(err, context.Canceled) {
		t.Errorf("cancelled: %v", err)
	}
}

// A line of 50 MB is passed over, with a sentence, and what follows is read; no repair is offered
// whose place in the file would be wrong.
func TestALongLine(t *testing.T) {
	long := "M117 " + strings.Repeat("x", 50<<20) + "\n"
	p := scan(t, strings.Replace(usual, "G28\n", "M92 E1\n"+long+"G28\n", 1))
	if p.Lines != 17 || p.Extruded != 12 || len(p.Faults) != 1 || p.Faults[0].Line != 6 {
		t.Errorf("%d lines, prints from %d, %+v", p.Lines, p.Extruded, p.Faults)
	}
	if p.HomedEnd != -1 || p.Overrides[0].From != -1 {
		t.Errorf("repairs are offered at %d and %d", p.HomedEnd, p.Overrides[0].From)
	}
}

// A line just short enough is read, one byte more is passed over and told; wherever blocks end.
func TestTheLongestLine(t *testing.T) {
	for _, begin := range []string{"M117 ", "G1 X5 Y5 "} {
		for _, size := range []int{64, 1000, 70_000, 1 << 20} {
			for more, faults := range map[int]int{-1: 0, 0: 1, 1: 1, 2: 1, 5000: 1} {
				line := begin + strings.Repeat(" ", printfile.Longest+more-len(begin))
				text := strings.Replace(usual, "G28\n", line+"\nG28\n", 1)
				p, err := printfile.ScanBy(context.Background(), strings.NewReader(text), nil, size)
				if err != nil || len(p.Faults) != faults || p.Lines != 16 || p.Extruded != 11 {
					t.Errorf("%s, %d more, by %d: %v, %+v", begin, more, size, err, p)
				}
			}
		}
	}
}

// comparable is a profile as far as it must not depend on where pieces end.
func comparable(p *printfile.Profile) string {
	q := *p
	q.Seconds = 0
	// Of very many ever further coordinates some are dropped, and which depends on the order within a line.
	for _, b := range []*printfile.Box{&q.Used, &q.Reach} {
		for axis := range 3 {
			for _, list := range []*[]printfile.Extreme{&b.Low[axis], &b.High[axis]} {
				if n := len(*list); n > 200 {
					*list = (*list)[n-1:]
				}
			}
		}
	}
	q.Tools = append([]printfile.Tool{}, q.Tools...)
	for i := range q.Tools {
		q.Tools[i].Filament = math.Round(q.Tools[i].Filament)
	}
	text, _ := json.Marshal(q)
	return string(text)
}

// apart tells where two texts part.
func apart(whole, pieces string) string {
	i := 0
	for i < min(len(whole), len(pieces)) && whole[i] == pieces[i] {
		i++
	}
	around := func(s string) string { return s[max(0, i-60):min(len(s), i+60)] }
	return around(whole) + "\nin pieces\n" + around(pieces)
}

// random writes a file of all kinds of lines.
func random(n uint64, lines int) string {
	r := rand.New(rand.NewPCG(n, 1))
	var b bytes.Buffer
	for range lines {
		x, y, e := r.Float64()*300-20, r.Float64()*300-20, r.Float64()*4
		switch r.IntN(32) {
		case 0:
			fmt.Fprintf(&b, "G1 Z%.2f F%d\n", r.Float64()*20, r.IntN(9000))
		case 1:
			b.WriteString([]string{"G90", "G91", "M82", "M83", "G20", "G21", "G28", "G28 X", "G92 E0", "G92 X5"}[r.IntN(10)] +
				"\n")
		case 2:
			fmt.Fprintf(&b, "T%d\nM104 S%d\nM140 S%d\n", r.IntN(3), 180+r.IntN(60), r.IntN(90))
		case 3:
			fmt.Fprintf(&b, "G2 X%.2f Y%.2f I%.2f J%.2f E%.3f\n", x, y, r.Float64()*9, r.Float64()*9, e)
		case 4:
			b.WriteString([]string{"G29", "M92 E95", "M500", "START_PRINT", "; TIME:77", "M486 S1", "rubbish", "", "G1 X",
				"G1 X1 Y"}[r.IntN(10)] + "\n")
		case 5:
			fmt.Fprintf(&b, "G1X%.1fY%.1f;x\r\ng1 x %.2f y%.2f e %.2f\nG1 X{x} Y1\nG5 X%.1f Y5 E1\nG3 X%.1f Y9 R%.1f E2\n", x, y,
				x, y, e, x, y, x)
		case 6:
			fmt.Fprintf(&b, "G1 F%d X%.3f E-%.3f\n", r.IntN(9999), x, e)
		case 7:
			fmt.Fprintf(&b, "G1 X%.2f E%.2f;Y5 X%.0f Y3 E1\nG1 X%.0f Ex Y%.0f\nG1 E-%.1f X%.1f\nG1 X1 Y2 E%.2f (X900 Y900)\n", x,
				e, y, x, y, e, x, e)
		case 8:
			fmt.Fprintf(&b, "G1 X%.0f Y%.0f F%d E%.12f\nG1 X.5 Y-.25 E.%d\nG1 X+5 Y5. E1\n", x, y, r.IntN(9000), e, r.IntN(99))
		case 9:
			b.WriteString("M83\n")
			for range 1 + r.IntN(20) {
				fmt.Fprintf(&b, "G1 X%.3f Y-%.3f E%.5f\r\nG1 X-%.3f Y%.2f E-.%d F%d\nG1 F%d\nG1 E%.2f F%d\n", x, y, e-2, y, x,
					r.IntN(99), r.IntN(9000), r.IntN(9000), e-2, r.IntN(9000))
			}
		case 10:
			for range 1 + r.IntN(9) {
				fmt.Fprintf(&b, "G1 X--%.1f Y%.1f E1\nG1 X%.2f Y%.2f E--%.1f\nG0 X%.1f\r\nG1 X%s E2\n", x, y, x, y, e, y,
					strings.Repeat("-", 80))
			}
		case 11: // as slicers write it that say with each move what it is
			for range 1 + r.IntN(9) {
				fmt.Fprintf(&b, "G1 X%.3f Y%.3f E%.5f ; wall\nG1 X%.3f Y%.3f E%.5f;wall\r\n", x, y, e, y, x, e)
				fmt.Fprintf(&b, "G1 X%.1f Y%.0f ;\tgo\nG1 E%.4f F%d ; up\n", y, x, e, r.IntN(9000))
			}
		case 12: // absolute extrusion with numbers too long to be read at once, and a wipe
			b.WriteString("M82\n")
			for range 1 + r.IntN(9) {
				fmt.Fprintf(&b, "G1 X%.3f Y%.3f E%.5f\nG1 E%.5f F2400\n", x, y, 1000+e, 1000+e-1)
				fmt.Fprintf(&b, "G1 X%.0f Y%.3f E%.4f\nG1 X%.3f Y-%.3f E-%.2f\n", y, x, 99+e, y, x, e)
			}
		case 13: // hops
			fmt.Fprintf(&b, "G1 Z%.1f\nG0 X%.3f Y%.3f F9000\nG1 Z%.2f F600\nG1 Z5 E1\n", e, x, y, e/2)
		case 14:
			b.WriteString([]string{";TYPE:x\n", ";WIDTH:.4\r\n", ";WIPE\tEND\n", "; Z:2 \n", ";\n", ";time\x01:5\n",
				";Z\rG1 X500\n"}[r.IntN(7)])
		case 15: // words that are only counted
			for range 1 + r.IntN(5) {
				text := []string{"M204 S#\n", "m204 P#\r\n", "M106 S#\n", "SET_VELOCITY_LIMIT ACCEL=#\n", "G11 ;#\n",
					"EXCLUDE_OBJECT_END NAME=#\n", "M204;#\n", "G4 P#\n", "M205 X1 Y1 (#\n", "G-1 X#\n"}[r.IntN(10)]
				b.WriteString(strings.Replace(text, "#", strconv.Itoa(r.IntN(900)), 1))
			}
		case 16: // arcs within what was printed, and whole circles
			fmt.Fprintf(&b, "G2 X%.3f Y%.3f I1.5 J-2.25 E%.4f\nG3 X%.3f I%.2f E.1 F%d\n", x, y, e, y, e, r.IntN(9000))
			fmt.Fprintf(&b, "G3 I2 J1 E1\nG2 X%.2f Y%.2f J3\n", y, x)
		default:
			for range 1 + r.IntN(6) {
				fmt.Fprintf(&b, "G1 X%.3f Y%.3f E%.5f\n", r.Float64()*300, r.Float64()*300, e)
			}
		}
	}
	return b.String()
}

// Wherever the pieces end that are read beside each other, and whatever the lines are, the same is
// found as in one piece.
func TestPiecesAreTheWhole(t *testing.T) {
	for n := range uint64(25) {
		text := random(n, 700)
		whole, err := printfile.ScanPlain(context.Background(), strings.NewReader(text))
		if err != nil {
			t.Fatal(err)
		}
		for _, size := range []int{50, 333, 4096, 1 << 20} {
			got, err := printfile.ScanBy(context.Background(), strings.NewReader(text), nil, size)
			if err != nil {
				t.Fatal(err)
			}
			if a, b := comparable(whole), comparable(got); a != b {
				t.Fatalf("file %d by %d bytes: %s", n, size, apart(a, b))
			}
			// How long the first move of a piece takes is not known: there is one piece here, of lines read fast.
			if size == 1<<20 && math.Abs(float64(whole.Seconds-got.Seconds)) > 1 {
				t.Fatalf("file %d by %d bytes takes %d s, in one piece %d s", n, size, got.Seconds, whole.Seconds)
			}
		}
	}
}

// An arc takes as long as it is, not as its ends are apart: here at 1 mm/s. Source: 2 π r.
func TestTimeOfArcs(t *testing.T) {
	for text, want := range map[string]int64{
		"G3 X-10 Y0 I-10 J0 E1": 31, "G2 X-10 Y0 I-10 J0 E1": 31, "G3 X0 Y10 I-10 J0 E1": 15, "G2 X0 Y10 I-10 J0 E1": 47,
		"G2 X10 Y0 I-10 J0 E1": 62, "G3 X0 Y10 R10 E1": 15, "G3 X0 Y10 R-10 E1": 47, "G3 X10 Y0 Z20 I-10 J0": 65,
		"G1 X-10 Y0 E1": 20,
	} {
		// Alone, and among lines that are read fast.
		for _, before := range []string{"", "G1 X50 Y50 E1\nG1 X-50 Y-50 E2\nG1 X10 Y0\n"} {
			from := scan(t, "M83\nG28\nG1 X10 Y0 Z0 F60\n"+before+"G4\n"+strings.Repeat(";\n", 99)).Seconds
			got := scan(t, "M83\nG28\nG1 X10 Y0 Z0 F60\n"+before+text+"\n"+strings.Repeat(";\n", 99)).Seconds - from
			if got < want || got > want+1 {
				t.Errorf("%q after %q takes %d s, want %d", text, before, got, want)
			}
		}
	}
}

// How long a file takes does not depend on where its pieces end, but for the first move of each.
func TestTimeOfPieces(t *testing.T) {
	var b strings.Builder
	b.WriteString("M83\nG28\nG1 X0 Y0 Z.2 F1200\nG1 X200 Y200 E1\n")
	for i := range 20_000 {
		fmt.Fprintf(&b, "G1 X%.2f Y%.2f E.%03d\n", 100+90*math.Sin(float64(i)/90), 100+90*math.Cos(float64(i)/90), 1+i%99)
	}
	var all []int64
	for _, size := range []int{1 << 20, 9000} {
		p, err := printfile.ScanBy(context.Background(), strings.NewReader(b.String()), nil, size)
		if err != nil {
			t.Fatal(err)
		}
		all = append(all, p.Seconds)
	}
	// 20,000 mm at 20 mm/s.
	if all[0] < 1000 || all[0] > 1040 || math.Abs(float64(all[0]-all[1])) > 10 {
		t.Errorf("in one piece it takes %d s, in many %d", all[0], all[1])
	}
}

// Cut anywhere, a file gives a profile or a sentence.
func TestCutAnywhere(t *testing.T) {
	for i := range usual {
		_, err := printfile.Scan(context.Background(), strings.NewReader(usual[:i]), nil)
		if err != nil && len(err.Error()) < 10 {
			t.Errorf("cut at %d: %v", i, err)
		}
	}
}

func FuzzScan(f *testing.F) {
	f.Add(usual, 7)
	f.Add("G1 X1\x00", 1)
	f.Add("G91\nG1 Z9e9 E99999999999999999999999\nM104 S1e9 T-1\nG2 I1\n", 3)
	f.Fuzz(func(t *testing.T, text string, size int) {
		whole, err := printfile.ScanPlain(context.Background(), strings.NewReader(text))
		pieces, again := printfile.ScanBy(context.Background(), strings.NewReader(text), nil, 20+int(uint16(size)))
		if (err == nil) != (again == nil) {
			t.Fatalf("%v in one piece, %v in several", err, again)
		}
		if err != nil {
			return
		}
		if a, b := comparable(whole), comparable(pieces); a != b {
			t.Fatal(apart(a, b))
		}
		s := machinetest.Facts(catalogue.Vocabulary(), rated(nil))
		v := printfile.Judge(whole, printfile.Machine{Facts: s, Words: settings.Shipped()})
		for _, r := range v.Repairs() {
			if r.At < 0 || r.At > int64(len(text))+1 {
				t.Fatalf("%+v in %d bytes", r, len(text))
			}
		}
	})
}
