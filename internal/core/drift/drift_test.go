package drift_test

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"
	"testing/quick"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/dialect"
	"wardifex/internal/core/drift"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/settings"
)

func day(n int) time.Time { return time.Date(2026, 3, n, 12, 0, 0, 0, time.UTC) }

// source is a settings file as it was read.
func source(t testing.TB, n int64, family string, where drift.Where, text string) drift.Source {
	t.Helper()
	stated, err := settings.Shipped().Read(family, text)
	if err != nil {
		t.Fatal(err)
	}
	return drift.Source{
		Where:  where,
		Files:  []drift.SourceFile{{ID: n, Name: fmt.Sprintf("file%d", n), At: day(20), By: "x"}},
		Stated: stated,
	}
}

// parts415 give 3 × 200 × 16 ÷ (π × 7.36 mm) = 415 steps per mm. Source: common practice.
var parts415 = map[string]string{"motor-e.step-angle": "1.8", "driver-e.microsteps": "16", "extruder.ratio": "3",
	"extruder.gear-diameter": "7.36"}

func claimed(known map[string]string) map[string]string {
	out := map[string]string{}
	for k, v := range known {
		out[k] = v + "/claimed"
	}
	return out
}

// Which of several values is likely right, in the order: measured after the last change of what it
// depends on; computed from parts at least observed; the stronger grade; never newest alone; else
// measure. Each case says why. Source of the order: common practice.
func TestWhichIsLikelyRight(t *testing.T) {
	const header = "#define DEFAULT_AXIS_STEPS_PER_UNIT { 80, 80, 400, %s }\n"
	build := func(e string) [2]string { return [2]string{string(drift.BuildConfiguration), fmt.Sprintf(header, e)} }
	stored := func(line string) [2]string { return [2]string{string(drift.StoredSettings), line} }
	start := func(line string) [2]string { return [2]string{string(drift.StartCode), "G28\n" + line + "\n"} }
	card := func(line string) [2]string { return [2]string{string(drift.CardFile), line} }
	for name, tt := range map[string]struct {
		family   string
		known    map[string]string
		kind     calibration.Kind
		measured string // "" never
		on       int    // day of it; parts were changed on day 10
		files    [][2]string
		stands   string // "" measure; "agree" no disagreement
		inForce  drift.Where
		patched  int
	}{
		// Measured with the parts that are in now: what the build was made with is old.
		"measured since, against the build": {kind: calibration.Steps, measured: "415 steps/mm", on: 12,
			files: [][2]string{build("95")}, stands: "415 steps/mm", inForce: drift.BuildConfiguration, patched: 1},
		// The start code silently wins on every print; it is wrong all the same.
		"measured since, against start code": {kind: calibration.Steps, measured: "415 steps/mm", on: 12,
			files: [][2]string{stored("M92 E415"), start("M92 E95")}, stands: "415 steps/mm", inForce: drift.StartCode,
			patched: 1},
		// A measurement of the extruder before this one says nothing of this one; its parts do.
		"measured before the change": {known: parts415, kind: calibration.Steps, measured: "95 steps/mm", on: 2,
			files: [][2]string{stored("M92 E95")}, stands: "415.2 steps/mm", inForce: drift.StoredSettings, patched: 1},
		// The same, and of the parts only what a seller says is known.
		"measured before, parts claimed": {known: claimed(parts415), kind: calibration.Steps, measured: "95 steps/mm", on: 2,
			files: [][2]string{stored("M92 E415"), build("190")}, stands: "", inForce: drift.StoredSettings},
		// Nobody measured, the parts were looked at.
		"computed from observed parts": {known: parts415, kind: calibration.Steps,
			files: [][2]string{build("95"), stored("M92 E830")}, stands: "415.2 steps/mm", inForce: drift.StoredSettings,
			patched: 2},
		// A number within a twentieth of what the parts give is no disagreement with them.
		"computed and set, near": {known: parts415, kind: calibration.Steps,
			files: [][2]string{stored("M92 E420")}, stands: "agree"},
		// Two files, and nothing else: the one that was written last is not right for that.
		"never newest alone": {kind: calibration.Steps, files: [][2]string{build("95"), stored("M92 E415")},
			inForce: drift.StoredSettings},
		// A reading off the machine is stronger than what files say.
		"the stronger grade": {known: map[string]string{"extruder.steps": "415"}, kind: calibration.Steps,
			files: [][2]string{build("95")}, stands: "415 steps/mm", inForce: drift.BuildConfiguration, patched: 1},
		// Claims against claims.
		"claimed against files": {known: map[string]string{"extruder.steps": "415/claimed"}, kind: calibration.Steps,
			files: [][2]string{build("95")}, inForce: drift.BuildConfiguration},
		// The offset of another machine's card.
		"a card from elsewhere": {family: "scripted", kind: calibration.ZOffset, measured: "-2.70 mm", on: 12,
			files: [][2]string{card("G31 P500 Z1.85")}, stands: "-2.70 mm", inForce: drift.CardFile, patched: 1},
		// A trigger height is the offset with the other sign: the same.
		"trigger height": {family: "scripted", kind: calibration.ZOffset, measured: "-1.85 mm", on: 12,
			files: [][2]string{card("G31 P500 Z1.85")}, stands: "agree"},
		// 1131 mA peak are 0.8 A RMS in the scripted family.
		"peak and RMS": {family: "scripted", kind: calibration.Current, measured: "0.8 A", on: 12,
			files: [][2]string{card("M906 E1131")}, stands: "agree"},
		// The same number taken for RMS is a factor of 1.4.
		"peak taken for RMS": {kind: calibration.Current, measured: "0.8 A", on: 12,
			files: [][2]string{stored("M906 E1131")}, stands: "0.8 A", inForce: drift.StoredSettings, patched: 1},
		// 200 × 16 × 50/17 ÷ 22.67 = 415.2: the rotation distance that goes with it.
		"rotation distance": {family: "hosted", kind: calibration.Steps, measured: "415.2 steps/mm", on: 12,
			files: [][2]string{{string(drift.HostConfiguration), "[extruder]\nmicrosteps: 16\ngear_ratio: 50:17\n" +
				"rotation_distance: 22.67\n"}}, stands: "agree"},
		// Digits that a report rounds away are no disagreement.
		"rounded": {kind: calibration.HotendPID, measured: "P 21.704 I 1.602 D 74.1", on: 12,
			files: [][2]string{stored("M301 P21.70 I1.60 D74.10")}, stands: "agree"},
		"one of three numbers": {kind: calibration.HotendPID, measured: "P 21.7 I 1.6 D 74", on: 12,
			files: [][2]string{stored("M301 P21.7 I1.6 D84")}, stands: "P 21.7 I 1.6 D 74", inForce: drift.StoredSettings,
			patched: 1},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			family := tt.family
			if family == "" {
				family = "compiled"
			}
			known := map[string]string{"firmware.family": family}
			for k, v := range tt.known {
				known[k] = v
			}
			s := machinetest.Facts(catalogue.Vocabulary(), known)
			var records []calibration.Record
			if tt.measured != "" {
				records = append(records, calibration.Record{ID: 1, Kind: tt.kind, Subject: "head 1", Value: tt.measured,
					Store: calibration.StoreSettings, Passed: true, At: day(tt.on), By: "y"})
			}
			var sources []drift.Source
			for i, f := range tt.files {
				sources = append(sources, source(t, int64(i+1), family, drift.Where(f[0]), f[1]))
			}
			changed := func(slot string) time.Time {
				if tt.measured == "" {
					return time.Time{}
				}
				if slot == "extruder" || slot == "probe" || slot == "hotend" {
					return day(10)
				}
				return time.Time{}
			}
			var found *drift.DriftedValue
			for _, v := range drift.Of(s, records, changed, sources) {
				if v.Kind == tt.kind && v.Subject == "head 1" {
					found = &v
				}
			}
			if found == nil {
				if tt.stands != "agree" {
					t.Fatal("no disagreement was found")
				}
				return
			}
			if found.Stands != tt.stands || !strings.HasPrefix(found.InForce, string(tt.inForce)) ||
				len(found.Patches) != tt.patched {
				t.Errorf("stands %q (%s), in force %q, %d patches; want %q, %q, %d", found.Stands, found.Why, found.InForce,
					len(found.Patches), tt.stands, tt.inForce, tt.patched)
			}
			for _, p := range found.Patches {
				if p.Diff == "" && len(p.Lines) == 0 {
					t.Errorf("%+v changes nothing", p)
				}
			}
		})
	}
}

// Of several values on one line only the one that is wrong is patched.
func TestOneOfSeveralOnALine(t *testing.T) {
	s := machinetest.Facts(catalogue.Vocabulary(), map[string]string{
		"firmware.family": "compiled", "probe.model": "Lodestar"})
	records := []calibration.Record{
		{ID: 1, Kind: calibration.ProbeXY, Subject: "head 1", Value: "X −44 Y −8 mm", Passed: true, At: day(12)},
		{ID: 2, Kind: calibration.ZOffset, Subject: "head 1", Value: "−1.85 mm", Passed: true, At: day(12)},
		{ID: 3, Kind: calibration.Current, Subject: "axis x", Value: "0.8 A", Passed: true, At: day(12)},
		{ID: 4, Kind: calibration.Current, Subject: "head 1", Value: "0.9 A", Passed: true, At: day(12)},
	}
	for text, want := range map[string]string{
		"M851 X-40 Y-8 Z-1.85\n":                              "+M851 X-44 Y-8 Z-1.85\n",
		"M851 X-44 Y-8 Z-2\n":                                 "+M851 X-44 Y-8 Z-1.85\n",
		"M906 X700 Y800 E900\n":                               "+M906 X800 Y800 E900\n",
		"M906 X800 Y800 E1200\n":                              "+M906 X800 Y800 E900\n",
		"#define NOZZLE_TO_PROBE_OFFSET { -40, -8, -1.85 }\n": "+#define NOZZLE_TO_PROBE_OFFSET { -44, -8, -1.85 }\n",
	} {
		values := drift.Of(s, records, nil, []drift.Source{source(t, 1, "compiled", drift.CardFile, text)})
		if len(values) != 1 || len(values[0].Patches) != 1 || !strings.Contains(values[0].Patches[0].Diff, want) {
			t.Errorf("%q: %+v", text, values)
		}
	}
}

// What is asked about: numbers that differ by √2, 2, 25.4 or 1000, or by their sign; nothing else.
func TestFactors(t *testing.T) {
	for _, tt := range []struct {
		a, b float64
		asks bool
	}{{0.8, 1.131, true}, {1131, 800, true}, {95, 190, true}, {1, 25.4, true}, {800, 0.8, true}, {95, 415, false},
		{-1, 2, false}, {0, 5, false}, {2, 2.005, false}, {100, 200.5, false}, {100, 200.3, true},
		{-1.85, 1.85, true}, {1.85, -1.86, false}, {-40, 40.05, true}} {
		if got := calibration.Factor(tt.a, tt.b); (got != "") != tt.asks {
			t.Errorf("%g and %g: %q", tt.a, tt.b, got)
		}
	}
}

// Scripts that something calls set nothing that lasts, where the one that runs at start is on record; what the
// machine saved itself counts over that one.
func TestScriptsThatAreCalled(t *testing.T) {
	s := machinetest.Facts(catalogue.Vocabulary(), map[string]string{"firmware.family": "scripted"})
	files := []drift.KeptFile{
		{SourceFile: drift.SourceFile{ID: 1, Name: "begin.g"}, Text: "M906 E400\nM92 E1\n"},
		{SourceFile: drift.SourceFile{ID: 2, Name: "Config.g"}, Text: "M906 E800\nM98 P\"more.g\"\n"},
		{SourceFile: drift.SourceFile{ID: 3, Name: "config-override.g"}, Text: "M92 E420\n"},
		{SourceFile: drift.SourceFile{ID: 4, Name: "more.g"}, Text: "M92 E415\n"},
	}
	found := func(family string, files []drift.KeptFile) string {
		sources, faults := drift.Read(settings.Shipped(), family, drift.StoredSettings, files)
		if len(faults) > 0 {
			t.Fatal(faults)
		}
		out := ""
		for _, f := range drift.Found(s, sources) {
			out += f.Value + " of " + fmt.Sprint(f.File) + "; "
		}
		return out
	}
	if got, want := found("scripted", files), "0.566 A of 2; 420 steps/mm of 3; "; got != want {
		t.Errorf("with the start script: %s, want %s", got, want)
	}
	if got, want := found("scripted", files[:1]), "0.283 A of 1; 1 steps/mm of 1; "; got != want {
		t.Errorf("without it: %s, want %s", got, want)
	}
	if got, want := found("compiled", files[:1]), "0.4 A of 1; 1 steps/mm of 1; "; got != want {
		t.Errorf("of another family: %s, want %s", got, want)
	}
}

// The scripted family reads its settings from scripts at every start: the patch is of the script, where another
// family is sent lines to store.
func TestStoredInScripts(t *testing.T) {
	records := []calibration.Record{{ID: 1, Kind: calibration.Steps, Subject: "head 1", Value: "95.4 steps/mm",
		Passed: true, Store: calibration.StoreSettings, At: day(12)}}
	for family, want := range map[string]string{
		"scripted": "+M92 E95.4 ; steps Put the file back on the card, and start the machine with it. []",
		"compiled": "Send the lines, then read the settings back (M503). [M92 E95.4 M500]",
	} {
		s := machinetest.Facts(catalogue.Vocabulary(), map[string]string{"firmware.family": family})
		values := drift.Of(s, records, nil, []drift.Source{source(t, 1, family, drift.StoredSettings, "M92 E415 ; steps\n")})
		if len(values) != 1 || len(values[0].Patches) != 1 {
			t.Fatalf("%s: %+v", family, values)
		}
		p := values[0].Patches[0]
		got := strings.TrimSpace(fmt.Sprint(p.Then, " ", p.Lines))
		if at := strings.Index(p.Diff, "+M92"); at >= 0 {
			got = strings.TrimSpace(p.Diff[at:]) + " " + got
		}
		if got != want {
			t.Errorf("%s: %q, want %q", family, got, want)
		}
	}
}

// Of a value of several numbers those that differ are asked about, and only where each has a reason.
func TestFactorsOfSeveral(t *testing.T) {
	s := machinetest.Facts(catalogue.Vocabulary(), map[string]string{"firmware.family": "compiled", "probe.model": "x"})
	for text, asks := range map[string]bool{
		"M851 X40 Y-10 Z-1.5\n": true,
		"M851 X40 Y10 Z-1.5\n":  true,
		"M851 X40 Y-11 Z-1.5\n": false,
	} {
		values := drift.Of(s, nil, nil, []drift.Source{
			source(t, 1, "compiled", drift.BuildConfiguration, "#define NOZZLE_TO_PROBE_OFFSET { -40, -10, -1.5 }\n"),
			source(t, 2, "compiled", drift.StoredSettings, text),
		})
		if len(values) != 1 || strings.Contains(values[0].Says, "in their sign alone") != asks {
			t.Errorf("%q: %+v", text, values)
		}
	}
}

// Patched, then read, a file states the wanted value, whatever its number: in every place and
// family, with its unit, its sign and its gears.
func TestPatchedIsRead(t *testing.T) {
	for name, tt := range map[string]struct{ family, text string }{
		"header":            {"compiled", "// x\r\n#define DEFAULT_AXIS_STEPS_PER_UNIT { 80, 80, \\\r\n 400, 95 } // e\r\n"},
		"report":            {"compiled", "echo:  M92 X80.00 Y80.00 Z400.00 E95.00\n"},
		"rotation distance": {"hosted", "[extruder]\nmicrosteps: 16\ngear_ratio: 50:10, 3:1\nrotation_distance: 7 # mm\n"},
		"scripted":          {"scripted", "M350 X16\nM92 X80 E420:417 ; steps\n"},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			stated, err := settings.Shipped().Read(tt.family, tt.text)
			if err != nil {
				t.Fatal(err)
			}
			st := stated.Calibrations[0]
			c, _ := calibration.Of(st.Kind)
			err = quick.Check(func(n uint16, hundredths uint8) bool {
				want := 10 + float64(n%2000) + math.Round(float64(hundredths)/2.56)/100
				edits, err := stated.Set(st, fmt.Sprintf("%g steps/mm", want))
				if err != nil {
					return false
				}
				text, err := dialect.Apply(tt.text, edits)
				if err != nil {
					return false
				}
				again, err := settings.Shipped().Read(tt.family, text)
				if err != nil {
					return false
				}
				got := c.Numbers(st.Subject, again.Calibrations[0].Value)[0]
				return math.Abs(got/want-1) < 1e-4
			}, nil)
			if err != nil {
				t.Error(err)
			}
		})
	}
}

// The steps of an axis follow from its screw, or from its belt and pulley where those are on record: of Y they
// decide, X agrees. 360 ÷ 1.8 × 16 ÷ 8 = 400; 360 ÷ 1.8 × 16 ÷ (20 × 2) = 80. Source: common practice.
func TestAxisSteps(t *testing.T) {
	sources := []drift.Source{
		source(t, 1, "compiled", drift.BuildConfiguration, "#define DEFAULT_AXIS_STEPS_PER_UNIT { 80, 80, 200, 95 }\n"),
		source(t, 2, "compiled", drift.StoredSettings, "M92 X80 Y160 Z400\n"),
	}
	for teeth, want := range map[string]string{
		"":   "axis y: ;axis z: 400 steps/mm;",
		"20": "axis y: 80 steps/mm;axis z: 400 steps/mm;",
		"16": "axis x: 100 steps/mm;axis y: 100 steps/mm;axis z: 400 steps/mm;",
	} {
		facts := map[string]string{"firmware.family": "compiled", "z-drive.lead": "8", "motor-z.step-angle": "1.8",
			"driver-z.microsteps": "16", "motor-x.step-angle": "1.8", "motor-y.step-angle": "1.8",
			"driver-x.microsteps": "16", "driver-y.microsteps": "16", "belts.pitch": "2"}
		if teeth != "" {
			facts["belts.pulley-teeth"] = teeth
		}
		got := ""
		for _, v := range drift.Of(machinetest.Facts(catalogue.Vocabulary(), facts), nil, nil, sources) {
			got += fmt.Sprintf("%s: %s;", string(v.Subject), v.Stands)
			for _, p := range v.Patches {
				if teeth == "" && !strings.Contains(p.Diff, "{ 80, 80, 400, 95 }") {
					t.Errorf("%+v", p)
				}
			}
		}
		if got != want {
			t.Errorf("teeth %q: got %s, want %s", teeth, got, want)
		}
	}
}

// What settings state of a part is put right in each place as that place takes it: edits of a build's file, lines that
// are sent to the machine.
func TestWhatIsStatedOfAPart(t *testing.T) {
	sources := []drift.Source{
		source(t, 1, "compiled", drift.BuildConfiguration, "#define E0_MICROSTEPS 32\n"),
		source(t, 2, "compiled", drift.StoredSettings, "M350 E64\n"),
	}
	s := machinetest.Facts(catalogue.Vocabulary(), map[string]string{"firmware.family": "compiled",
		"driver-e.microsteps": "16"})
	list := drift.Of(s, nil, nil, sources)
	if len(list) != 1 || list[0].Stands != "16" || len(list[0].Patches) != 2 {
		t.Fatalf("%+v", list)
	}
	for _, p := range list[0].Patches {
		got := p.Diff + strings.Join(p.Lines, ";")
		if want := map[drift.Where]string{drift.BuildConfiguration: "+#define E0_MICROSTEPS 16",
			drift.StoredSettings: "M350 E16;M500"}[p.Where]; p.Fault != "" || !strings.Contains(got, want) {
			t.Errorf("%s: %+v, want %q", p.Where, p, want)
		}
	}
}

// Dropped from start code, a value is no longer set, and what else the line does it does still.
func TestDroppedFromStartCode(t *testing.T) {
	for text, want := range map[string]string{
		"G28\nM92 E95 ; steps\nG29\n": "G28\n; M92 E95 ; steps\nG29\n",
		"M92 X80 E95 Y80\n":           "M92 X80 Y80\n",
		"M92 T0 E95\r\n":              "; M92 T0 E95\r\n",
	} {
		src := source(t, 1, "compiled", drift.StartCode, text)
		at := slices.IndexFunc(src.Stated.Calibrations, func(st settings.ValueStatement) bool {
			return st.Kind == calibration.Steps
		})
		got, err := dialect.Apply(text, src.Stated.Drop(src.Stated.Calibrations[at]))
		if err != nil || got != want {
			t.Errorf("%q became %q, want %q (%v)", text, got, want, err)
		}
	}
}

// A thousand machines of two dozen values in three places each.
func BenchmarkDriftOver1000Machines(b *testing.B) {
	s := machinetest.Facts(catalogue.Vocabulary(), map[string]string{"firmware.family": "compiled",
		"extruder.steps": "415"})
	records := []calibration.Record{{ID: 1, Kind: calibration.Steps, Subject: "head 1", Value: "415 steps/mm",
		Passed: true,
		Store:  calibration.StoreSettings, At: day(12)}}
	sources := []drift.Source{
		source(b, 1, "compiled", drift.BuildConfiguration, "#define DEFAULT_AXIS_STEPS_PER_UNIT { 80, 80, 400, 95 }\n"+
			"#define DEFAULT_Kp 21\n#define DEFAULT_Ki 1\n#define DEFAULT_Kd 70\n#define X_BED_SIZE 235\n"),
		source(b, 2, "compiled", drift.StoredSettings, "M92 X80 Y80 Z400 E415\nM301 P21.7 I1.6 D74\nM851 X-44 Y-8 Z-1.85\n"+
			"M906 X800 Y800 Z800 E900\nM304 P70 I1.5 D600\n"),
		source(b, 3, "compiled", drift.StartCode, "G28\nG29\nM92 E95\n"),
	}
	for b.Loop() {
		found := 0
		for range 1000 {
			found += len(drift.Of(s, records, nil, sources))
		}
		if found == 0 {
			b.Fatal("no drift")
		}
	}
	took := b.Elapsed().Seconds() / float64(b.N)
	b.ReportMetric(took, "s/1000-machines")
}
