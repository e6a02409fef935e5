package printfile_test

import (
	"encoding/json"
	"fmt"
	"maps"
	"math/rand/v2"
	"regexp"
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/printfile"
	"wardifex/internal/core/settings"
	"wardifex/internal/goldentest"
)

// drawnWords are what drawn files are made of; # is a number that is drawn too.
var drawnWords = []string{"G0 X# Y# Z#", "G1 X# Y# E# F3000", "G1 E# F1800", "G1 X# Y#", "G1 Z#", "G2 X# Y# I# J# E#",
	"G3 X# Y# R#", "G4 P#", "G10", "G11", "G20", "G21", "G28", "G28 X Y", "G29", "G29 A", "G90", "G91", "M82", "M83",
	"G92 E0", "G92 X# Y#", "G92 Z#", "M92 E#", "M104 S#", "M109 S#", "M140 S#", "M190 S#", "M141 S#", "M191 S#", "M106 S#",
	"M107", "T0", "T1", "T2", "M201 X#", "M203 E#", "M204 P#", "M205 X#", "M206 Z#", "M218 T1 X#", "M220 S#", "M221 S#",
	"M302 S#", "M302 P1", "M420 S0", "M420 S1", "M486 S1", "EXCLUDE_OBJECT_DEFINE NAME=a", "M500", "M501", "M502",
	"M600", "M84", "M851 Z#", "M900 K#", "M572 D0 S#", "M906 X#", "M907 E#", "M301 P#", "M304 P#", "M112", "M18",
	"M569 S1", "M665 L#", "M98 P\"0:/a.g\"", "M98 P#", "START_PRINT BED=# EXTRUDER=#", "SET_VELOCITY_LIMIT ACCEL=#",
	"SET_PRESSURE_ADVANCE ADVANCE=0.0#", "SET_HEATER_TEMPERATURE HEATER=extruder TARGET=#", "BED_MESH_CALIBRATE",
	"TURN_OFF_HEATERS", "; nozzle_diameter = 0.#", "; filament_type = PETG", "; layer_height = 0.2", ";LAYER:1",
	";TYPE:Skirt", "; printing object a", "(remark)", "N5 G1 X# Y# E#*7", "g1 x# y# e#", "no code at all", "M117 hello",
	"M5#", "G#", "; estimated printing time = #m"}

// drawFile writes a file of a usual beginning and end, with words drawn between them, or without either.
func drawFile(r *rand.Rand) string {
	var b strings.Builder
	if r.IntN(8) > 0 {
		b.WriteString("M140 S60\nM104 S215\nG28\nG29\n")
	}
	for range r.IntN(1 + r.IntN(8)) {
		word := drawnWords[r.IntN(len(drawnWords))]
		for strings.Contains(word, "#") {
			n := []string{"0", "1", "4", "12.5", "60", "100", "215", "236", "260", "301", "-3", "0.2", "9000"}[r.IntN(13)]
			word = strings.Replace(word, "#", n, 1)
		}
		b.WriteString(word + "\n")
	}
	b.WriteString("G92 E0\nG1 X10 Y10 Z0.2 F9000\nG1 X60 Y60 E2\n")
	if r.IntN(8) > 0 {
		b.WriteString("M140 S0\nM104 S0\nM84\n")
	}
	return b.String()
}

var figures = regexp.MustCompile(`[-−]?\d+(\.\d+)?`)

// What drawn files come to, on machines of each family: what they do, and each finding by its line, its level, its
// repair and its numbers.
func TestGoldenDrawnFiles(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(1, 2))
	var on []printfile.Machine
	for _, known := range []map[string]string{
		{"firmware.family": "compiled"},
		{"firmware.family": "hosted", "probe.model": "none", "frame.z": "100", "nozzle.bore": "0.6"},
		{"firmware.family": "scripted", "toolhead.grams": "300"},
		{"firmware.family": "compiled/claimed", "frame.x": "120", "hotend.liner": "yes"},
	} {
		on = append(on, printfile.Machine{Facts: machinetest.Facts(catalogue.Vocabulary(), rated(known)),
			Records: []calibration.Record{steps}, Words: settings.Shipped()})
	}
	answers := map[printfile.Answer]int{}
	var lines []goldentest.Line
	for i := range 500 {
		p, err := printfile.Scan(t.Context(), strings.NewReader(drawFile(r)), nil)
		if err != nil {
			lines = append(lines, goldentest.Line{Of: fmt.Sprintf("%03d", i), Says: "refused"})
			continue
		}
		does, err := json.Marshal(p)
		if err != nil {
			t.Fatal(err)
		}
		lines = append(lines, goldentest.Line{Of: fmt.Sprintf("%03d", i), Says: string(does)})
		for k, m := range on {
			v := printfile.Judge(p, m)
			answers[v.Answer]++
			var b strings.Builder
			fmt.Fprintf(&b, "%s", v.Answer)
			for _, f := range v.Findings {
				fmt.Fprintf(&b, "; %d %s%v", f.Line, f.Level, figures.FindAllString(f.Says, -1))
				if f.Hazard != "" {
					b.WriteString(" hazard")
				}
				if f.Repair != nil {
					fmt.Fprintf(&b, " %+v", *f.Repair)
				}
			}
			lines = append(lines, goldentest.Line{Of: fmt.Sprintf("%03d on %d", i, k),
				Says: strings.ReplaceAll(b.String(), "\n", "⏎")})
		}
	}
	if len(answers) < len(printfile.Answers()) {
		t.Errorf("the draw shows little: %v", slices.Collect(maps.Keys(answers)))
	}
	goldentest.Check(t, "drawn", lines)
}
