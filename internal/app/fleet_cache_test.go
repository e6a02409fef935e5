package app_test

import (
	"reflect"
	"testing"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/change"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// Whatever is done to a machine, the fleet shows it as a machine loaded by itself does:
// each kind of write counts its revision up.
func TestTheFleetShowsWhateverIsWritten(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	a := does(s)
	id := add(t, s, "Avocet", fitting)
	other := add(t, s, "Bittern", fitting)
	build, err := a.AddBuild(ctx, tallBuild, "x", now)
	must(t, err)
	var part, fault, order int64
	later := now.Add(time.Hour)
	structure := func() app.ChangedStructure {
		return app.ChangedStructure{Version: load(t, s, id).Structure, By: "x", At: now}
	}
	for _, step := range []struct {
		name string
		do   func() error
	}{
		{"nothing", func() error { return nil }},
		{"a reading", func() error {
			_, err := a.AddReading(ctx, id, "nozzle.bore", "0.4",
				machine.Reading{Grade: machine.Observed, TakenAt: now, By: "x"}, now)
			return err
		}},
		{"a calibration", func() error {
			return a.Calibrate(ctx, id, calibration.Tramming, "bed", change.Data{Value: "0.1 mm",
				Store: calibration.StorePart}, "x", now)
		}},
		{"what makes it invalid", func() error { return a.ReplacePart(ctx, id, "springs", "stiff", "", "x", now) }},
		{"a meter", func() error { return a.ReadMeters(ctx, id, "x", now, maintenance.HoursAt(now, 90)) }},
		{"a task done", func() error {
			return a.MarkDone(ctx, []int64{id}, maintenance.Completion{Task: "belts", At: now}, "", "x", now)
		}},
		{"and undone", func() error { return a.UndoDone(ctx, id, "belts") }},
		{"a fault", func() (err error) { fault, _, err = a.ReportFault(ctx, id, "", "it clicks", "x", now); return err }},
		{"its answer", func() error { return a.CloseFault(ctx, fault, 1, "a screw", "x", now) }},
		{"out of use", func() error { return a.SetUse(ctx, []int64{id}, maintenance.OutOfUse, "it smells", "x", now) }},
		{"a part", func() (err error) {
			part, err = a.AddPart(ctx, "nozzle", "Spire", store.PartFields{}, "x", now)
			return err
		}},
		{"moved in", func() error {
			return a.MovePart(ctx, part, change.Move{To: change.ToMachine, MachineID: id, Slot: "nozzle", Why: "worn",
				Replaces: true}, "x", now)
		}},
		{"and its fields", func() error {
			return a.ChangePart(ctx, part, 1, store.PartFields{BoughtOn: "2026-01-02"}, "x", now)
		}},
		{"a build that runs", func() error {
			return a.StartRun(ctx, id, app.NewRun{Board: "mainboard", BuildID: build, From: later, Grade: machine.Observed}, "x",
				later)
		}},
		{"the build corrected", func() error {
			b := tallBuild
			b.ConfiguredFor = map[machine.Key]string{"probe.senses": "metal, without touch"}
			return a.SaveBuild(ctx, build, 1, b, "x", now)
		}},
		{"a position", func() error {
			_, err := a.AddPosition(ctx, id, machine.Position{Kind: "case-fan", Serves: "frame"}, structure())
			return err
		}},
		{"saved as it was", func() error {
			return a.ChangeMachine(ctx, id, 1, store.Fields{Name: "Avocet", Bay: "Quay"}, "y", now)
		}},
		{"another name", func() error {
			return a.ChangeMachine(ctx, id, 2, store.Fields{Name: "Zebra", Bay: "Quay"}, "y", now)
		}},
		{"work", func() (err error) {
			order, err = a.OpenWork(ctx, other, "plumbline-probe", "wear", "x", now)
			return err
		}},
		{"work abandoned", func() error { return a.Abandon(ctx, order, "x", now) }},
		{"retired", func() error { return a.Retire(ctx, other, "sold", "x", now) }},
		{"and back", func() error { return a.Retire(ctx, other, "", "x", now) }},
	} {
		if err := step.do(); err != nil {
			t.Fatalf("%s: %v", step.name, err)
		}
		fleet, err := s.Fleet(ctx)
		must(t, err)
		must(t, s.Wear(ctx, fleet))
		for _, m := range fleet {
			alone := []store.Machine{load(t, s, m.ID)}
			must(t, s.Wear(ctx, alone))
			if got, want := shown(m), shown(alone[0]); !reflect.DeepEqual(got, want) {
				t.Errorf("after %s, %s in the fleet:\n%+v\nby itself:\n%+v", step.name, m.Name, got, want)
			}
		}
	}
	if is := load(t, s, id).Configured["probe.senses"]; is != "metal, without touch" {
		t.Errorf("the build that was corrected is configured for %q", is)
	}
}

// shown is all that is shown of a machine: its facts by their text in place of how they
// are kept, and its lives by what they add up to.
func shown(m store.Machine) []any {
	facts, worn := map[machine.Key]string{}, map[string]float64{}
	for _, t := range m.Facts.Vocabulary().Traits {
		if f := m.Facts.Fact(t.Key()); f.Known() || len(f.Conflict) > 0 {
			facts[t.Key()] = f.Value.Text + " " + f.Grade.String()
		}
	}
	for slot, p := range m.Worn {
		worn[slot] = maintenance.WearOf(p, "nozzle", maintenance.Hours).Amount
	}
	m.Facts, m.Worn = machine.Snapshot{}, nil
	return []any{m, facts, worn}
}
