package change_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"wardifex/internal/core/bench"
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

// records has one good record of every kind, kept where it usually is.
func records() []change.Record {
	var out []change.Record
	for i, c := range change.Calibrations() {
		store := change.StorePart
		switch c.Kind {
		case change.HotendPID, change.BedPID, change.Steps, change.ZOffset, change.Mesh, change.ProbeXY:
			store = change.StoreSettings
		case change.LoadLength:
			store = change.StoreCard
		}
		out = append(out, change.Record{ID: int64(i + 1), Kind: c.Kind, Value: "1", Store: store, Passed: true, At: now.AddDate(0, -1, 0), By: "x"})
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

// What voids what. Source: common practice.
func TestWhatVoidsWhat(t *testing.T) {
	contact := map[string]string{"probe.model": "P", "probe.senses": "surface, by touch"}
	inductive := map[string]string{"probe.model": "P", "probe.senses": "metal, without touch"}
	tests := []struct {
		name  string
		facts map[string]string
		slot  string
		want  string // kinds to measure again, then after a bar those to enter again
	}{
		{"springs", contact, "springs", "tramming z-offset mesh |"},
		{"nozzle", contact, "nozzle", "z-offset retraction nozzle-to-nozzle |"},
		{"surface under a contact probe keeps the offset", contact, "surface", "mesh |"},
		{"surface under a probe that senses metal does not", inductive, "surface", "z-offset mesh |"},
		{"surface without a probe: the endstop does not follow", map[string]string{"probe.model": "none"}, "surface", "z-offset mesh |"},
		{"sensor", contact, "sensor", "protection sensor-sanity hotend-pid |"},
		{"heater", contact, "heater", "protection hotend-pid |"},
		{"supply", contact, "supply", "hotend-pid bed-pid |"},
		{"extruder", contact, "extruder", "steps-per-mm retraction |"},
		{"belts", contact, "belts", "resonance |"},
		{"card", contact, "card", "| filament-change"},
		{"build", contact, "firmware", "protection motor-direction sensor-sanity | hotend-pid bed-pid steps-per-mm probe-offset z-offset mesh"},
		{"board", contact, "mainboard", "protection motor-direction motor-current sensor-sanity | hotend-pid bed-pid steps-per-mm probe-offset z-offset mesh"},
		{"display", contact, "display", "|"},
		{"plate", contact, "plate", "bed-pid tramming z-offset mesh resonance |"},
		{"frame", contact, "frame", "tramming mesh resonance print-area |"},
		{"Z drive", contact, "z-drive", "tramming mesh |"},
		{"probe", contact, "probe", "probe-offset z-offset mesh |"},
		{"bracket", contact, "bracket", "probe-offset z-offset |"},
		{"endstop", map[string]string{"probe.model": "none", "z-endstop.model": "lever"}, "z-endstop", "z-offset |"},
		{"toolhead", contact, "toolhead", "probe-offset resonance print-area |"},
		{"hotend", contact, "hotend", "hotend-pid probe-offset z-offset retraction nozzle-to-nozzle |"},
		{"tube", contact, "tube", "retraction filament-change |"},
		{"tool plate", contact, "tool-plate", "print-area |"},
		{"extruder's motor", contact, "motor-e", "motor-direction motor-current steps-per-mm |"},
		{"its driver, which a build states", contact, "driver-e", "protection motor-direction motor-current sensor-sanity steps-per-mm | hotend-pid bed-pid probe-offset z-offset mesh"},
		{"fan duct", contact, "fan-duct", "hotend-pid |"},
		{"bed's heater", contact, "bed-heater", "protection bed-pid |"},
		{"bed's sensor", contact, "bed-sensor", "protection sensor-sanity bed-pid |"},
	}
	for _, tt := range tests {
		var again, enter []string
		for _, v := range exchange(t, facts(tt.facts), tt.slot).Void(records()) {
			if v.Reason == "" {
				t.Errorf("%s: %s is void without a reason", tt.name, v.Kind)
			}
			if v.Remedy == change.EnterAgain {
				enter = append(enter, string(v.Kind))
			} else {
				again = append(again, string(v.Kind))
			}
		}
		got := strings.TrimSpace(strings.Join(again, " ")+" |") + " " + strings.Join(enter, " ")
		if strings.TrimSpace(got) != tt.want {
			t.Errorf("%s: void\n got %s\nwant %s", tt.name, got, tt.want)
		}
	}
}

func TestVoidLeavesVoidAndOldRecordsAlone(t *testing.T) {
	rs := []change.Record{
		{ID: 1, Kind: change.Mesh, Value: "old", At: now.AddDate(0, -2, 0), Passed: true},
		{ID: 2, Kind: change.Mesh, Value: "new", At: now.AddDate(0, -1, 0), Passed: true},
		{ID: 3, Kind: change.Tramming, At: now, Passed: true, Void: &change.Voided{}},
	}
	v := exchange(t, facts(nil), "springs").Void(rs)
	if len(v) != 1 || v[0].Value != "new" {
		t.Errorf("got %+v; want the newest mesh alone", v)
	}
}

func probeChange(t *testing.T, values map[string]string) change.Change {
	t.Helper()
	c, err := change.NewChange(catalogue.ContactProbe(), nil, facts(values))
	if err != nil {
		t.Fatal(err)
	}
	return c
}

var compiled = map[string]string{"firmware.family": "compiled", "firmware.version": "2.0", "mainboard.upload": "memory card", "probe.model": "none", "z-endstop.model": "lever"}

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
	order := []string{"record-settings", "plug-out", "photograph", "fit-1", "wire-1", "make-build", "flash", "defaults", "re-enter", "start-code",
		"first-power", "cold", "heaters", "switches", "direction", "home", "fans", "protection", "probe-offset", "z-offset", "mesh", "resonance", "first-layer", "test-print"}
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
	for key, caution := range map[string]string{"plug-out": "Mains", "protection": "unattended", "direction": "kills drivers", "z-offset": "burns"} {
		if !strings.Contains(strings.Join(steps[at[key]].Cautions, " "), caution) {
			t.Errorf("step %s lacks the caution about %q: %v", key, caution, steps[at[key]].Cautions)
		}
	}
	if !strings.Contains(steps[at["flash"]].Do, "must differ from the last one") {
		t.Error("flashing by card does not say that the name must differ")
	}
	lines := strings.Join(steps[at["re-enter"]].Lines, "\n")
	if !strings.Contains(lines, "steps per mm: 1") || strings.Contains(lines, "Z offset") {
		t.Errorf("to be entered again: the steps, and not the Z offset that is measured anew:\n%s", lines)
	}
}

func TestWorkOrderAsksOnlyForWhatIsNeeded(t *testing.T) {
	c, err := change.NewChange(catalogue.StiffSprings(), nil, facts(compiled))
	if err != nil {
		t.Fatal(err)
	}
	var keys []string
	for _, s := range c.WorkOrder(nil) {
		keys = append(keys, s.Key)
	}
	for _, absent := range []string{"flash", "protection", "mesh", "direction", "resonance"} {
		if slices.Contains(keys, absent) {
			t.Errorf("springs ask for %s on a machine without probe: %v", absent, keys)
		}
	}
	for _, present := range []string{"plug-out", "tramming", "z-offset", "first-layer"} {
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
		for _, cal := range exchange(t, facts(compiled), slot).Needed(nil) {
			kinds = append(kinds, string(cal.Kind))
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

func TestProtection(t *testing.T) {
	proof := change.Record{Kind: change.Protection, Passed: true, At: now.AddDate(0, 0, -183), Value: "alarm after 190 s", By: "x"}
	void, silent, stale := proof, proof, proof
	void.Void = &change.Voided{Reason: "new build"}
	silent.Passed = false
	stale.At = now.AddDate(0, 0, -184)
	for _, tt := range []struct {
		name   string
		record *change.Record
		proven bool
		why    string
	}{
		{"never tested", nil, false, "never"}, {"good to the day", &proof, true, "190 s"}, {"void", &void, false, "new build"},
		{"silent", &silent, false, "unprotected"}, {"stale", &stale, false, "184 days old"},
	} {
		if p := change.ProtectionOf(tt.record, now); p.Proven != tt.proven || !strings.Contains(p.Why, tt.why) {
			t.Errorf("%s: %+v", tt.name, p)
		}
	}
}

func TestStepCheck(t *testing.T) {
	step := func(k change.Kind) change.Step { s, _ := change.StepFor(k); return s }
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
		{"cold", step(change.Cold), change.Data{Room: "21", Nozzle: "22,5", Bed: "20 °C"}, "", "room 21, nozzle 22.5, bed 20 °C"},
		{"cold and wrong", step(change.Cold), change.Data{Room: "21", Nozzle: "70", Bed: "20"}, "do not heat", ""},
		{"cold without room", step(change.Cold), change.Data{Nozzle: "70", Bed: "20"}, "the room", ""},
		{"no school", step(change.Protection), change.Data{Alarm: "190"}, "which test", ""},
		{"alarm", step(change.Protection), change.Data{School: "no-heat", Alarm: "190", Store: change.StorePart}, "", "alarm after 190 s, no-heat test over USB"},
		{"alarm too late", step(change.Protection), change.Data{School: "no-heat", Alarm: "900", Store: change.StorePart}, "later than any window", ""},
		{"neither alarm nor silence", step(change.Protection), change.Data{School: "heater-lead", Store: change.StorePart}, "seconds until the alarm", ""},
		{"Z offset", step(change.ZOffset), change.Data{BedTemperature: "60", SoakMinutes: "5", Rounds: rounds, Store: change.StoreCard}, "", "-2.70 mm"},
		{"Z offset without place", step(change.ZOffset), change.Data{BedTemperature: "60", SoakMinutes: "5", Rounds: rounds}, "where the value is kept", ""},
		{"Z offset on a cold bed", step(change.ZOffset), change.Data{BedTemperature: "60", SoakMinutes: "1", Rounds: rounds, Store: change.StoreCard}, "at least 3 minutes", ""},
		{"Z offset unfinished", step(change.ZOffset), change.Data{BedTemperature: "60", SoakMinutes: "5", Rounds: rounds[:1], Store: change.StoreCard}, "once more", ""},
		{"steps", step(change.Steps), change.Data{Value: "415", Store: change.StoreBuild}, "", "415 steps/mm"},
		{"nothing typed", step(change.Mesh), change.Data{Store: change.StoreBuild}, "type the value", ""},
		{"direction", step(change.Direction), change.Data{}, "", "checked"},
	}
	for _, tt := range tests {
		res, err := tt.step.Check(tt.data, "last.bin", false, voc)
		if (err == nil) != (tt.fault == "") || err != nil && !strings.Contains(err.Error(), tt.fault) {
			t.Errorf("%s: %v, want fault with %q", tt.name, err, tt.fault)
			continue
		}
		if tt.value != "" && (res.Calibration == nil || res.Calibration.Value != tt.value || !res.Calibration.Passed) {
			t.Errorf("%s: recorded %+v, want %q", tt.name, res.Calibration, tt.value)
		}
	}
	res, err := step(change.Protection).Check(change.Data{School: "no-heat", Silent: true, Store: change.StorePart}, "", false, voc)
	if err != nil || res.Calibration.Passed {
		t.Errorf("silence is recorded as unprotected: %+v, %v", res.Calibration, err)
	}
	res, err = build.Check(change.Data{Version: "2.1", Size: "190 KB"}, "", false, voc)
	if err != nil || res.Readings["firmware.size"] != "190" || res.Readings["firmware.version"] != "2.1" {
		t.Errorf("readings of the build: %v, %v", res.Readings, err)
	}
}

func TestMissing(t *testing.T) {
	rs := records()
	s := facts(map[string]string{"probe.model": "P", "firmware.model": "b", "firmware.version": "2", "probe.self-test": "yes"})
	if m := change.Missing(s, rs); len(m) != 0 {
		t.Errorf("a complete machine lacks %v", m)
	}
	rs[0].Void = &change.Voided{Reason: "new build", Remedy: change.MeasureAgain}
	m := strings.Join(change.Missing(facts(map[string]string{"probe.model": "P"}), rs[:1]), "\n")
	for _, want := range []string{"protection: measure again (new build)", "Mesh: never recorded", "passes its self-test: unknown"} {
		if !strings.Contains(m, want) {
			t.Errorf("missing lacks %q:\n%s", want, m)
		}
	}
	if strings.Contains(m, "Resonance") {
		t.Error("an optional calibration that was never done is not missing")
	}
}
