package change_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
)

var (
	voc = catalogue.Vocabulary()
	now = time.Date(2026, 5, 1, 12, 0, 0, 0, time.UTC)
)

func facts(values map[string]string) machine.Snapshot { return machinetest.Facts(voc, values) }

// records has one valid record of every calibration of a machine, kept where such a
// value usually is.
func records() []calibration.Record {
	var out []calibration.Record
	for i, c := range calibration.All() {
		store := calibration.StorePart
		switch c.Kind {
		case calibration.HotendPID,
			calibration.BedPID,
			calibration.Steps,
			calibration.ZOffset,
			calibration.Mesh,
			calibration.ProbeXY:
			store = calibration.StoreSettings
		case calibration.LoadLength:
			store = calibration.StoreCard
		}
		out = append(
			out,
			calibration.Record{
				ID:     int64(i + 1),
				Kind:   c.Kind,
				Value:  "1",
				Store:  store,
				Passed: true,
				At:     now.AddDate(0, -1, 0),
				By:     "x",
			},
		)
	}
	return out
}

func exchange(t *testing.T, before machine.Snapshot, slots ...string) change.Change {
	t.Helper()
	var kit fit.Kit
	for _, s := range slots {
		kit.Effects = append(kit.Effects, fit.Effect{Slot: s, Model: "another"})
	}
	c, err := change.NewChange(kit, nil, before)
	if err != nil {
		t.Fatal(err)
	}
	return c
}

// What is exchanged with a kit: a driver that the build states brings a new build, a
// part that it does not state leaves it alone.
func TestBuildFollows(t *testing.T) {
	for slot, flashed := range map[string]bool{"driver-e": true, "nozzle": false, "springs": false} {
		invalid := map[calibration.Kind]bool{}
		for _, v := range exchange(t, facts(map[string]string{"probe.model": "P", "probe.senses": "surface, by touch"}),
			slot).Invalidated(records()) {
			invalid[v.Kind] = true
		}
		if invalid[calibration.Protection] != flashed {
			t.Errorf("%s: protection invalid %v, want %v", slot, invalid[calibration.Protection], flashed)
		}
	}
}

// A configuration that is read at every start is another after it was changed, and with
// it the proofs; a setting of a compiled build that stays is not.
func TestReconfigured(t *testing.T) {
	for family, want := range map[string]bool{"hosted": true, "scripted": true, "compiled": false} {
		on := facts(map[string]string{"firmware.family": family})
		c, err := change.NewChange(
			fit.Kit{
				Key:     "k",
				Name:    "k",
				Effects: []fit.Effect{{Slot: "firmware", From: "firmware", Traits: map[string]string{"max-extrude": "600"}}},
			},
			nil,
			on,
		)
		if err != nil {
			t.Fatal(err)
		}
		invalid := false
		for _, v := range c.Invalidated(records()) {
			invalid = invalid || v.Kind == calibration.Protection
		}
		if invalid != want {
			t.Errorf("%s: the proof is invalid %v, want %v", family, invalid, want)
		}
	}
}

// Mass that a kit adds makes the resonance of what it moves invalid: of the head's axis,
// or of the bed's. Source: common practice.
func TestWeights(t *testing.T) {
	for name, tt := range map[string]struct {
		kit  fit.Kit
		want string
	}{
		"on the head":               {fit.Kit{Key: "h", Name: "h", ToolheadGrams: 40}, "axis x"},
		"on the bed":                {fit.Kit{Key: "b", Name: "b", BedGrams: 100}, "axis y"},
		"a plate that takes height": {fit.Kit{Key: "p", Name: "p", AreaLoss: [3]float64{0, 0, 5}}, ""},
	} {
		var got []string
		area := false
		for _, v := range changed(t, tt.kit, map[string]string{"frame.bed-moves": "along Y"}).Invalidated(records()) {
			if v.Kind == calibration.Resonance {
				got = append(got, string(v.Subject))
			}
			area = area || v.Kind == calibration.PrintArea
		}
		if area != (tt.kit.AreaLoss[2] > 0) {
			t.Errorf("%s: the print area is invalid %v", name, area)
		}
		if strings.Join(got, ",") != tt.want {
			t.Errorf("%s: %v, want %s", name, got, tt.want)
		}
	}
}

func TestTheNewestRecordCounts(t *testing.T) {
	rs := []calibration.Record{
		{ID: 1, Kind: calibration.ZOffset, Value: "old", At: now.AddDate(0, -2, 0), Passed: true},
		{ID: 2, Kind: calibration.ZOffset, Value: "new", At: now.AddDate(0, -1, 0), Passed: true},
		{ID: 3, Kind: calibration.Tramming, At: now, Passed: true, Invalid: []calibration.Invalid{{}}},
	}
	v := exchange(t, facts(nil), "springs").Invalidated(rs)
	if len(v) != 1 || v[0].Value != "new" {
		t.Errorf("got %+v; want the newest Z offset alone", v)
	}
}

func probeChange(t *testing.T, values map[string]string) change.Change {
	t.Helper()
	c, err := change.NewChange(catalogue.MustKit("plumbline-probe"), nil, facts(values))
	if err != nil {
		t.Fatal(err)
	}
	return c
}

var compiled = map[string]string{
	"firmware.family":  "compiled",
	"firmware.version": "2.0",
	"mainboard.upload": "memory card",
	"probe.model":      "none",
	"z-endstop.model":  "lever",
}

func TestWorkOrderOrder(t *testing.T) {
	c := probeChange(t, compiled)
	steps := c.WorkOrder(records())
	at := map[string]int{}
	phases := []string{}
	for i, s := range steps {
		if _, twice := at[s.Key]; twice {
			t.Errorf("step %s is there twice", s.Key)
		}
		at[s.Key] = i
		if len(phases) == 0 || phases[len(phases)-1] != s.Phase {
			phases = append(phases, s.Phase)
		}
		if s.Title == "" || s.Do == "" {
			t.Errorf("step %s says nothing", s.Key)
		}
	}
	if want := "[Prepare Fit Wire Firmware Prove Calibrate Verify]"; fmt.Sprint(phases) != want {
		t.Errorf("phases %v, want %s", phases, want)
	}
	// Source: common practice, the order after work and the order of calibrations.
	order := []string{
		"record-settings",
		"plug-out",
		"photograph",
		"fit-1",
		"wire-1",
		"make-build",
		"flash",
		"defaults",
		"re-enter",
		"start-code",
		"protection-head-1", // without mains
		"protection-bed",
		"first-power",
		"cold",
		"heaters",
		"switches",
		"direction",
		"home",
		"fans",
		"probe-offset",
		"z-offset",
		"mesh",
		"resonance-axis-x",
		"first-layer",
		"test-print",
	}
	last := -1
	for _, key := range order {
		i, ok := at[key]
		if !ok {
			t.Errorf("no step %s", key)
			continue
		}
		if i <= last {
			t.Errorf("step %s comes too early", key)
		}
		last = i
	}
	for key, caution := range map[string]string{"plug-out": "Mains", "protection-bed": "unattended",
		"direction": "kills drivers", "z-offset": "burns"} {
		if !strings.Contains(strings.Join(steps[at[key]].Cautions, " "), caution) {
			t.Errorf("step %s lacks the caution about %q: %v", key, caution, steps[at[key]].Cautions)
		}
	}
	if name := steps[at["file-name"]]; name.Form != change.FileNameForm || at["file-name"] > at["write-card"] {
		t.Error("flashing by card does not ask for the file's name before the card is written")
	}
	if asks := strings.Join(steps[at["make-build"]].Lines, "\n"); !strings.Contains(
		asks,
		"Probe: senses: surface, by touch",
	) {
		t.Errorf("the build is made without what the probe asks of it:\n%s", asks)
	}
	lines := strings.Join(steps[at["re-enter"]].Lines, "\n")
	if !strings.Contains(lines, "steps per mm: 1") || strings.Contains(lines, "Z offset") {
		t.Errorf("to be entered again: the steps, and not the Z offset that is measured anew:\n%s", lines)
	}
}

func TestWorkOrderAsksOnlyForWhatIsNeeded(t *testing.T) {
	c, err := change.NewChange(catalogue.MustKit("bollard-springs"), nil, facts(compiled))
	if err != nil {
		t.Fatal(err)
	}
	var keys []string
	for _, s := range c.WorkOrder(nil) {
		keys = append(keys, s.Key)
	}
	for _, absent := range []string{"flash", "protection", "mesh", "direction", "resonance", "plug-out", "photograph",
		"baseline"} {
		if slices.Contains(keys, absent) {
			t.Errorf("springs ask for %s on a machine without probe: %v", absent, keys)
		}
	}
	for _, present := range []string{"cool", "tramming", "z-offset", "first-layer"} {
		if !slices.Contains(keys, present) {
			t.Errorf("springs do not ask for %s: %v", present, keys)
		}
	}
}

// What was never recorded is asked for after a change of what it rests on all the
// same, but for what a shop may do without. Source: common practice.
func TestNeededThoughNeverRecorded(t *testing.T) {
	for slot, want := range map[string]string{
		"hotend-2": "hotend-pid z-offset retraction nozzle-to-nozzle",
		"motor-e":  "motor-direction motor-current steps-per-mm",
		"supply":   "hotend-pid bed-pid",
		"tube":     "retraction",
		"carriage": "print-area",
		"runout":   "protection motor-direction sensor-sanity filament-change", // a build states it
		"belts":    "",
	} {
		var kinds []string
		for _, due := range exchange(t, facts(compiled), slot).Needed(nil) {
			if kind := string(due.Calibration.Kind); !slices.Contains(kinds, kind) {
				kinds = append(kinds, kind)
			}
		}
		if got := strings.Join(kinds, " "); got != want {
			t.Errorf("%s: needed %q, want %q", slot, got, want)
		}
	}
}

func TestHostedWorkOrderDoesNotRestoreDefaults(t *testing.T) {
	hosted := map[string]string{"firmware.family": "hosted", "probe.model": "none"}
	for _, s := range probeChange(t, hosted).WorkOrder(nil) {
		if s.Key == "defaults" {
			t.Error("a hosted machine has no stored settings to restore")
		}
	}
}

func TestNewBuildCarriesOver(t *testing.T) {
	c := probeChange(t, compiled)
	if !c.Build || !c.After.Is("firmware.family", "compiled") || !c.After.Is("firmware.model", fit.NewBuildModel) {
		t.Error("after flashing another build of the same family runs")
	}
	if was, is := c.Before.Fact("firmware.version"), c.After.Fact("firmware.version"); was.Value != is.Value {
		t.Errorf("version %q, before %q", is.Value.Text, was.Value.Text)
	}
	if !c.After.Fitted("probe") || c.After.Model("z-endstop") != machine.None {
		t.Error("the probe is fitted and the endstop is gone")
	}
}

func TestStepCheck(t *testing.T) {
	step := func(k calibration.Kind) change.Step {
		s, err := change.StepFor(facts(map[string]string{"probe.model": "P"}), k, only[k])
		if err != nil {
			t.Fatal(err)
		}
		return s
	}
	older := change.Step{
		Title:       "Cold",
		Form:        change.ColdForm,
		Calibration: calibration.Sensors,
	} // of an order of an earlier version
	build := change.Step{Key: "flash", Title: "Flash", Form: change.BuildForm}
	rounds := []bench.ZOffsetRound{bench.NextZOffset(0, 2.7, false), bench.NextZOffset(-2.7, 0, true)}
	tests := []struct {
		name  string
		step  change.Step
		data  change.Data
		fault string // "" when it passes
		value string // recorded
	}{
		{"build without version", build, change.Data{Label: "x"}, "version", ""},
		{"same file name", build, change.Data{Version: "2", File: "LAST.BIN"}, "ignored in silence", ""},
		{"build", build, change.Data{Version: "2", File: "new.bin", Size: "190 KB"}, "", ""},
		{"note empty", change.Step{Title: "N", Form: change.NoteForm}, change.Data{}, "note is empty", ""},
		{
			"cold",
			step(calibration.Sensors),
			change.Data{Room: "21", Shown: []string{"22,5", "20 °C"}},
			"",
			"room 21, Hotend sensor 22.5, Bed sensor 20 °C",
		},
		{
			"cold, in a step of an earlier version",
			older,
			change.Data{Room: "21", Nozzle: "22,5", Bed: "20 °C"},
			"",
			"room 21, nozzle 22.5, bed 20 °C",
		},
		{
			"cold and wrong",
			step(calibration.Sensors),
			change.Data{Room: "21", Shown: []string{"70", "20"}},
			"do not heat",
			"",
		},
		{"cold without room", step(calibration.Sensors), change.Data{Shown: []string{"70", "20"}}, "the room", ""},
		{"no school", step(calibration.Protection), change.Data{Alarm: "190"}, "which test", ""},
		{
			"alarm",
			step(calibration.Protection),
			change.Data{TestMethod: "no-heat", Alarm: "190", AlarmText: "Heating failed"},
			"",
			"alarm after 190 s, no-heat test over USB",
		},
		{
			"alarm without its text",
			step(calibration.Protection),
			change.Data{TestMethod: "no-heat", Alarm: "190"},
			"text of the alarm",
			"",
		},
		{
			"another alarm",
			step(calibration.Protection),
			change.Data{TestMethod: "no-heat", Alarm: "190", AlarmText: "MINTEMP triggered"},
			"another watch",
			"",
		},
		{
			"alarm at the last second of the window",
			step(calibration.Protection),
			change.Data{
				TestMethod: "no-heat", Alarm: "300", AlarmText: "Heating failed", Store: calibration.StorePart,
				Configuration: "that of 3 May",
			},
			"",
			"",
		},
		{
			"alarm a second after it",
			step(calibration.Protection),
			change.Data{TestMethod: "no-heat", Alarm: "301", AlarmText: "Heating failed", Store: calibration.StorePart},
			"later than any window",
			"",
		},
		{
			"alarm too late",
			step(calibration.Protection),
			change.Data{TestMethod: "no-heat", Alarm: "900", Store: calibration.StorePart},
			"later than any window",
			"",
		},
		{
			"neither alarm nor silence",
			step(calibration.Protection),
			change.Data{TestMethod: "heater-lead", Store: calibration.StorePart},
			"seconds until the alarm",
			"",
		},
		{
			"Z offset",
			step(calibration.ZOffset),
			change.Data{BedTemperature: "60", SoakMinutes: "5", Rounds: rounds, Store: calibration.StoreCard},
			"",
			"-2.70 mm",
		},
		{
			"Z offset without place",
			step(calibration.ZOffset),
			change.Data{BedTemperature: "60", SoakMinutes: "5", Rounds: rounds},
			"where the value is kept",
			"",
		},
		{
			"Z offset on a cold bed",
			step(calibration.ZOffset),
			change.Data{BedTemperature: "60", SoakMinutes: "1", Rounds: rounds, Store: calibration.StoreCard},
			"at least 3 minutes",
			"",
		},
		{
			"Z offset unfinished",
			step(calibration.ZOffset),
			change.Data{BedTemperature: "60", SoakMinutes: "5", Rounds: rounds[:1], Store: calibration.StoreCard},
			"once more",
			"",
		},
		{"steps", step(calibration.Steps), change.Data{Value: "415", Store: calibration.StoreBuild}, "", "415 steps/mm"},
		{
			"steps that are a slip",
			step(calibration.Steps),
			change.Data{Value: "1,2", Store: calibration.StoreBuild},
			"is that right",
			"",
		},
		{
			"and are right all the same",
			step(calibration.Steps),
			change.Data{Value: "1,2", Store: calibration.StoreBuild, Sure: true},
			"",
			"1.2 steps/mm",
		},
		{
			"three numbers",
			step(calibration.HotendPID),
			change.Data{Numbers: []string{"21.7", "1.6", "74"}, Store: calibration.StoreBuild},
			"",
			"P 21.7 I 1.6 D 74",
		},
		{
			"two of three",
			step(calibration.HotendPID),
			change.Data{Numbers: []string{"21.7", "1.6"}, Store: calibration.StoreBuild},
			"Hotend PID, D",
			"",
		},
		{"nothing typed", step(calibration.Mesh), change.Data{Store: calibration.StoreBuild}, "type the value", ""},
		{"direction", step(calibration.Direction), change.Data{}, "", "checked"},
	}
	for _, tt := range tests {
		res, err := tt.step.Check(tt.data, "last.bin", false, facts(nil))
		if (err == nil) != (tt.fault == "") || err != nil && !strings.Contains(err.Error(), tt.fault) {
			t.Errorf("%s: %v, want fault with %q", tt.name, err, tt.fault)
			continue
		}
		if tt.value != "" &&
			(len(res.Calibrations) == 0 || res.Calibrations[0].Value != tt.value || !res.Calibrations[0].Passed) {
			t.Errorf("%s: recorded %+v, want %q", tt.name, res.Calibrations, tt.value)
		}
	}
	res, err := step(
		calibration.Protection,
	).Check(change.Data{TestMethod: "no-heat", NoAlarm: true}, "", false, facts(nil))
	if err != nil || res.Calibrations[0].Passed {
		t.Errorf("silence is recorded as unprotected: %+v, %v", res.Calibrations, err)
	}
	res, err = build.Check(change.Data{Version: "2.1", Size: "190 KB"}, "", false, facts(nil))
	if err != nil || res.Readings["firmware.size"] != "190" || res.Readings["firmware.version"] != "2.1" {
		t.Errorf("readings of the build: %v, %v", res.Readings, err)
	}
}

func TestMissing(t *testing.T) {
	rs := records()
	s := facts(
		map[string]string{"probe.model": "P", "firmware.model": "b", "firmware.version": "2", "probe.self-test": "yes"},
	)
	if m := change.Missing(s, rs); len(m) != 0 {
		t.Errorf("a complete machine lacks %v", m)
	}
	rs[0].Invalid = []calibration.Invalid{{Reason: "new build", Remedy: calibration.MeasureAgain}}
	m := strings.Join(change.Missing(facts(map[string]string{"probe.model": "P"}), rs[:1]), "\n")
	for _, want := range []string{"protection: measure again (new build)", "Mesh: never recorded",
		"passes its self-test: unknown"} {
		if !strings.Contains(m, want) {
			t.Errorf("missing lacks %q:\n%s", want, m)
		}
	}
	if strings.Contains(m, "Resonance") {
		t.Error("an optional calibration that was never done is not missing")
	}
}

// A value of several numbers is entered again as it was.
func TestEnteredAsItWas(t *testing.T) {
	on := facts(nil)
	step, err := change.StepFor(on, calibration.HotendPID, "head 1")
	if err != nil {
		t.Fatal(err)
	}
	was := calibration.Record{Value: "p=21,7 i=1.6 d=74", Store: calibration.StoreSettings}
	res, err := step.Check(step.Again(was), "", false, on)
	if err != nil || res.Calibrations[0].Value != "P 21.7 I 1.6 D 74" || res.Calibrations[0].Store != was.Store {
		t.Errorf("%+v, %v", res.Calibrations, err)
	}
}

// only names the subject of those of which a usual machine has several.
var only = map[calibration.Kind]calibration.Subject{calibration.Protection: "head 1", calibration.Resonance: "axis x"}

// A subject that a machine does not have is refused by name, and one that is needed is
// asked for.
func TestStepForSubjects(t *testing.T) {
	s := facts(map[string]string{"probe.model": "none", "plate.mains": "yes"})
	for _, tt := range []struct {
		k    calibration.Kind
		x    calibration.Subject
		want string // "" it is taken
	}{
		{calibration.HotendPID, "", ""}, {calibration.HotendPID, "head 1", ""}, {calibration.HotendPID, "head 2",
			"no head 2 now; it has head 1"},
		{calibration.Protection, "", "say of which"}, {calibration.Mesh, "", "does not apply"}, {"ghost", "",
			"no calibration"}, {calibration.Direction, "", ""},
	} {
		if _, err := change.StepFor(s, tt.k, tt.x); (err == nil) != (tt.want == "") ||
			err != nil && !strings.Contains(err.Error(), tt.want) {
			t.Errorf("%s of %q: %v, want %q", tt.k, tt.x, err, tt.want)
		}
	}
	bed, err := change.StepFor(s, calibration.Protection, "bed")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := bed.Check(change.Data{TestMethod: "heater-lead", Alarm: "9", AlarmText: "Heating failed"}, "", false,
		s); err == nil ||
		!strings.Contains(err.Error(), "mains") {
		t.Errorf("the lead of a mains bed is unplugged for a test: %v", err)
	}
}
