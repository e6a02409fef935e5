package change_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

func TestProgress(t *testing.T) {
	steps := func(states string) change.Progress {
		var p change.Progress
		for i, s := range states { // d done, s skipped, . open; the third step touches the machine
			p = append(
				p,
				change.Progressed{
					Step:    change.Step{Title: string(rune('A' + i)), Touches: i == 2},
					Done:    s == 'd',
					Skipped: s == 's',
				},
			)
		}
		return p
	}
	for _, tt := range []struct {
		name  string
		err   error
		fault string // "" when it may
	}{
		{"the first", steps("....").MaySettle(0), ""},
		{"the next", steps("ds..").MaySettle(2), ""},
		{"one too far", steps("d...").MaySettle(2), `"B" comes first`},
		{"the last done", steps("dd..").MayUndo(1), ""},
		{"one with later ones", steps("dd..").MayUndo(0), `rest on "A"`},
		{"one with a later one skipped", steps("ds..").MayUndo(0), `rest on "A"`},
		{"finish with all settled", steps("dsds").MayFinish(), ""},
		{"finish with one open", steps("dsd.").MayFinish(), `"D" is still open`},
		{"abandon while only prepared", steps("dd..").MayAbandon(), ""},
		{"abandon with the touching step skipped", steps("dds.").MayAbandon(), ""},
		{"abandon when the machine is no longer as it was", steps("ddd.").MayAbandon(), `"C" is done`},
	} {
		if (tt.err == nil) != (tt.fault == "") || tt.err != nil && !strings.Contains(tt.err.Error(), tt.fault) {
			t.Errorf("%s: %v, want %q", tt.name, tt.err, tt.fault)
		}
	}
}

func TestAsFitted(t *testing.T) {
	kit := catalogue.MustKit("plumbline-probe")
	further := []fit.AdditionalChange{
		{Key: "f", Price: 18, Minutes: 45, Effects: []fit.Effect{{Slot: "carriage", Model: "drilled"}}},
	}
	c, err := change.NewChange(kit, further, facts(compiled))
	if err != nil {
		t.Fatal(err)
	}
	build := change.Step{Title: "Flash", Form: change.BuildForm}
	read, err := build.Check(change.Data{Version: "2.1", Size: "190 KB"}, "", false, facts(nil))
	if err != nil {
		t.Fatal(err)
	}
	got := map[string]map[string]string{}
	for _, f := range c.AsFitted([]change.Result{{}, read}, now) {
		got[f.Slot] = f.Traits
		for name, value := range f.Found {
			got[f.Slot][name] = value
		}
	}
	for slot, want := range map[string]map[string]string{
		"carriage":  {"model": "drilled"},
		"probe":     {"model": "Plumbline contact probe", "senses": "surface, by touch"},
		"z-endstop": {"model": "none"},
		"firmware":  {"model": "build of 1 May 2026", "family": "compiled", "version": "2.1", "size": "190"},
	} {
		for trait, value := range want {
			if got[slot][trait] != value {
				t.Errorf("%s.%s is %q, want %q", slot, trait, got[slot][trait], value)
			}
		}
	}
	if price, minutes := c.Cost(); price != kit.Price+18 || minutes != kit.Minutes+45 {
		t.Errorf("cost %g, %d min", price, minutes)
	}
	// Another part came than the kit states: what it states of its own is not so of that.
	other := change.Result{Readings: map[machine.Key]string{"probe.model": "Kedge contact probe"}}
	for _, f := range c.AsFitted([]change.Result{other}, now) {
		if f.Slot == "probe" && (len(f.Traits) != 1 || f.Traits["model"] != "Kedge contact probe") {
			t.Errorf("another probe was found: recorded as %v", f.Traits)
		}
	}
	springs, err := change.NewChange(catalogue.MustKit("bollard-springs"), nil, facts(compiled))
	if err != nil {
		t.Fatal(err)
	}
	if fitted := springs.AsFitted(nil, now); len(fitted) != 1 || fitted[0].Slot != "springs" {
		t.Errorf("springs leave the build alone: %+v", fitted)
	}
}

// A part that is moved is not set free, one that stays is not exchanged; what
// rests on either is void, but for a setting of the build that runs.
func TestMovedAndSetParts(t *testing.T) {
	before := facts(
		map[string]string{
			"heater.model":        "Forge",
			"heater-2.model":      "Old",
			"driver-e.microsteps": "16",
			"probe.model":         "none",
		},
	)
	kit := fit.Kit{
		Key:  "k",
		Name: "kit",
		Effects: []fit.Effect{
			{Slot: "heater-2", From: "heater"},
			{Slot: "driver-e", From: "driver-e", Traits: map[string]string{"microsteps": "32"}},
			{Slot: "firmware", From: "firmware", Traits: map[string]string{"max-extrude": "600"}},
		},
	}
	c, err := change.NewChange(kit, nil, before)
	if err != nil {
		t.Fatal(err)
	}
	var says []string
	for _, x := range c.PartChanges {
		says = append(says, fmt.Sprintf("%s: %s → %s", x.Label, x.Before, x.After))
	}
	if got := strings.Join(says, "; "); got != "Driver E: microsteps: 16 → 32; Firmware build: largest single "+
		"extrusion: unknown → 600 mm; Hotend heater: Forge → none; Hotend heater 2: Old → Forge" {
		t.Errorf("changed: %s", got)
	}
	if spares := c.Spares(); len(spares) != 1 || spares[0].Model != "Old" {
		t.Errorf("set free: %+v", spares)
	}
	if fitted := c.AsFitted(nil, now); len(fitted) != 2 || fitted[0].From != "heater" || fitted[0].Slot != "heater-2" ||
		fitted[1].Slot != "heater" ||
		fitted[1].Traits["model"] != "none" {
		t.Errorf("as fitted: %+v", fitted)
	}
	var kinds []string
	for _, due := range c.Needed(nil) {
		if kind := string(due.Calibration.Kind); !slices.Contains(kinds, kind) {
			kinds = append(kinds, kind)
		}
	}
	if got := strings.Join(kinds, " "); got != "protection hotend-pid steps-per-mm" {
		t.Errorf("needed: %s", got)
	}
	if c.Flashes() || c.After.Fact("firmware.max-extrude").Value.Text != "600" {
		t.Error("a setting is no new build, and is set")
	}
}

func TestEnteredAgain(t *testing.T) {
	rs := records()
	invalid := exchange(t, facts(nil), "firmware").Invalidated(rs)
	for _, r := range calibration.EnteredAgain(invalid, rs, "Ann", now) {
		switch {
		case r.Kind == calibration.Protection || r.Kind == calibration.Direction:
			t.Errorf("%s is to be proven anew, not entered", r.Kind)
		case r.Value != "1" || r.By != "Ann" || !r.At.Equal(now) || len(r.Invalid) > 0 ||
			!strings.Contains(r.Method, "entered again"):
			t.Errorf("entered again: %+v", r)
		}
	}
	if n := len(calibration.EnteredAgain(invalid, rs, "Ann", now)); n != 5 {
		t.Errorf("%d values are entered again, want the four kept in the stored settings and the one on the card", n)
	}
}
