package settings_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/dialect"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/settings"
	"wardifex/internal/goldentest"
)

var drawnValues = []string{"80", "415.5", "-2.7", "0.4", "{80, 80, 400, 93}", "{ 1, 2 }", "200", "1", "0", "true",
	"false", "24", "16", "40", "3:1", "50:17", "-0.5, 1.25", "22.68", "(2 * 3)", "580", "", "abc", "\"text\"", "1e3",
	"12,5"}

// drawSettings writes a text of one form with words that are known and others, some twice, some commented out.
func drawSettings(r *rand.Rand, form dialect.Form, words []settings.Word) string {
	var b strings.Builder
	value := func() string { return drawnValues[r.IntN(len(drawnValues))] }
	section := ""
	for range 2 + r.IntN(12) {
		w := words[r.IntN(len(words))]
		switch form {
		case dialect.Header:
			b.WriteString([]string{"#define ", "#define ", "#define ", "//#define ", "  # define ", "#undef "}[r.IntN(6)])
			fmt.Fprintf(&b, "%s %s", w.Word, value())
			if r.IntN(8) == 0 {
				b.WriteString("\n#if ENABLED(NOTHING)\n#define " + w.Word + " 7\n#else\n#define " + w.Word + " 8\n#endif")
			}
		case dialect.Sections:
			at := strings.NewReplacer("{n}", []string{"", "1", "2"}[r.IntN(3)], "{axis}", []string{"x", "y", "z"}[r.IntN(3)],
				"*", "any").Replace(w.Section)
			if at != section || r.IntN(6) == 0 {
				section = at
				fmt.Fprintf(&b, "\n[%s]\n", at)
			}
			fmt.Fprintf(&b, "%s%s%s %s", []string{"", "", "", "#"}[r.IntN(4)], w.Word, []string{":", " ="}[r.IntN(2)], value())
			if r.IntN(6) == 0 {
				b.WriteString("\nmicrosteps: 16\nrotation_distance: 40\ngear_ratio: 3:1")
			}
		default:
			fmt.Fprintf(&b, "%s%s", []string{"", "", "", "; ", "echo: "}[r.IntN(5)], w.Word)
			for range 1 + r.IntN(3) {
				letter := w.Letter
				if letter == "" || r.IntN(4) == 0 {
					letter = string("XYZEPSTI"[r.IntN(8)])
				}
				fmt.Fprintf(&b, " %s%s", letter, value())
			}
		}
		b.WriteString([]string{"\n", "\n", " ; remark\n", " // remark\n", "\r\n"}[r.IntN(5)])
	}
	return b.String()
}

// What drawn settings of each form state, and how they stand against a machine.
func TestGoldenDrawnSettings(t *testing.T) {
	t.Parallel()
	r := rand.New(rand.NewPCG(3, 4))
	var lines []goldentest.Line
	of := map[string][]settings.Word{}
	records := []calibration.Record{
		{ID: 1, Kind: calibration.Steps, Subject: "head 1", Value: "415.5 steps/mm"},
		{ID: 2, Kind: calibration.AxisSteps, Subject: "axis x", Value: "80 steps/mm"},
	}
	for i := range records {
		records[i].Passed, records[i].Store, records[i].At = true, calibration.StoreSettings, machinetest.Day
	}
	forms := []struct {
		family string
		form   dialect.Form
	}{{"compiled", dialect.Header}, {"compiled", dialect.GCode}, {"hosted", dialect.Sections}, {"scripted", dialect.GCode}}
	for _, w := range settings.Shipped().List() {
		of[w.Family+string(w.Form)] = append(of[w.Family+string(w.Form)], w)
	}
	for _, f := range forms {
		s := machinetest.Facts(catalogue.Vocabulary(), map[string]string{"firmware.family": f.family, "frame.x": "220",
			"heater.watts": "40", "nozzle.bore": "0.4"})
		for i := range 250 {
			key := fmt.Sprintf("%s %s %03d", f.family, f.form, i)
			text := drawSettings(r, f.form, of[f.family+string(f.form)])
			st, err := settings.Shipped().ReadAs(f.family, f.form, text)
			if err != nil {
				lines = append(lines, goldentest.Line{Of: key, Says: "refused"})
				continue
			}
			var b strings.Builder
			for _, c := range st.Calibrations {
				fmt.Fprintf(&b, "%s %s %q from %q line %d, also %q; ", c.Kind, c.Subject, c.Value, c.Word, c.Line, c.Also)
			}
			for _, x := range st.Traits {
				fmt.Fprintf(&b, "%s.%s %s %g %q from %q line %d; ", x.Kind, x.Trait, x.Place, x.Value, x.Choice, x.Word, x.Line)
			}
			for _, c := range st.Cautions() {
				fmt.Fprintf(&b, "caution %s %d; ", c.Word, c.Line)
			}
			for _, x := range settings.Compare(s, records, st) {
				fmt.Fprintf(&b, "%s %s is %s %q; ", x.Kind, x.Subject, x.Is, x.OnRecord)
			}
			fmt.Fprintf(&b, "twice %d, faults", len(st.SetTwice()))
			for _, x := range st.Document.Faults {
				fmt.Fprintf(&b, " %d", x.Line)
			}
			_, secrets := settings.Mask(text + "password: hunter2\n")
			fmt.Fprintf(&b, ", %d secrets", secrets)
			lines = append(lines, goldentest.Line{Of: key, Says: strings.ReplaceAll(b.String(), "\n", "⏎")})
		}
	}
	goldentest.Check(t, "drawn", lines)
}
