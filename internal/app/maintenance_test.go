package app_test

import (
	"errors"
	"math"
	"testing"
	"time"

	"wardifex/internal/core/change"
	"wardifex/internal/core/csvimport"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

func TestMetersAndTasks(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", nil)
	at := now.AddDate(0, 0, -20)
	must(t, does(s).ReadMeters(ctx, id, "x", now, maintenance.HoursAt(at, 100)))
	must(t, does(s).ReadMeters(ctx, id, "x", now, maintenance.HoursAt(at, 100))) // the same again
	refused(t, does(s).ReadMeters(ctx, id, "x", now, maintenance.HoursAt(now, 90)), "backwards")
	refused(t, does(s).ReadMeters(ctx, id, "x", now, maintenance.HoursAt(now, -90)), "starts at 0")
	reset := maintenance.HoursAt(now, 10)
	reset.Reset = true
	must(t, does(s).ReadMeters(ctx, id, "x", now, reset))
	if m := load(t, s, id); len(m.Meters) != 2 || maintenance.NewLife(m.Meters).At(now) != 110 {
		t.Errorf("meters %+v", m.Meters)
	}
	must(t, does(s).MarkDone(ctx, []int64{id}, maintenance.Completion{Task: "belts", At: now}, "", "x", now))
	refused(t, does(s).MarkDone(ctx, []int64{id}, maintenance.Completion{Task: "belts", At: now.AddDate(0, 0, 1)}, "", "x",
		now), "still to come")
	refused(t, does(s).MarkDone(ctx, []int64{id}, maintenance.Completion{Task: "juggling", At: now}, "", "x", now),
		"no maintenance task")
	refused(t, does(s).MarkDone(ctx, []int64{id}, maintenance.Completion{Task: maintenance.ProtectionTask, At: now},
		"", "x",
		now), "with its result")
	must(t, does(s).UndoDone(ctx, id, "belts"))
	if err := does(s).UndoDone(ctx, id, "belts"); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("undone twice: %v", err)
	}
	// One bad row blocks no other.
	tb, _ := table(t, "machine,date,hours\nAvocet,2026-04-20,150\nNobody,2026-04-20,1\nAvocet,2026-04-25,160\n")
	p, err := does(s).ImportMeters(ctx, store.ImportFile{Name: "meters.csv"}, tb, csvimport.Decisions{}, "x", now)
	must(t, err)
	if len(p.Rows) != 2 || len(p.Faults) != 1 || len(load(t, s, id).Meters) != 4 {
		t.Errorf("imported %+v", p)
	}
	if p, err = does(s).ImportMeters(ctx, store.ImportFile{}, tb, csvimport.Decisions{}, "x", now); err != nil ||
		p.Same != 2 ||
		len(p.Rows) != 0 {
		t.Errorf("the same file twice: %+v, %v", p, err)
	}
}

// A part's wear goes with it from machine to machine, retired ones too.
func TestWearGoesWithThePart(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	from, to := add(t, s, "Avocet", nil), add(t, s, "Bittern", nil)
	start := now.AddDate(0, 0, -100)
	at := func(day int) time.Time { return start.AddDate(0, 0, day) }
	for _, m := range []struct {
		id    int64
		day   int
		hours float64
	}{{from, 0, 0}, {from, 50, 250}, {to, 0, 1000}, {to, 90, 1180}} { // 5 and 2 h a day
		must(t, does(s).ReadMeters(ctx, m.id, "x", now, maintenance.HoursAt(at(m.day), m.hours)))
	}
	nozzle, err := does(s).AddPart(ctx, "nozzle", "Spire", store.PartFields{BoughtOn: at(0).Format(time.DateOnly)},
		"x", at(0))
	must(t, err)
	must(
		t,
		does(s).MovePart(
			ctx,
			nozzle,
			fromHere(t, s, nozzle, change.Move{To: "machine", MachineID: from, Slot: "nozzle", Why: "x"}),
			"x",
			at(10),
		),
	)
	must(
		t,
		does(s).MovePart(
			ctx,
			nozzle,
			fromHere(t, s, nozzle, change.Move{To: "machine", MachineID: to, Slot: "nozzle", Why: "x"}),
			"x",
			at(40),
		),
	)
	must(t, does(s).Retire(ctx, from, "sold", "x", at(60)))
	fleet, err := s.Fleet(ctx)
	must(t, err)
	must(t, s.Wear(ctx, fleet))
	w := maintenance.WearOf(fleet[0].Worn["nozzle"], "nozzle", maintenance.Hours)
	if math.Abs(w.Amount-250) > 0.01 || w.AtLeast || len(fleet) != 1 { // 30 days at 5 h, 50 at 2 h
		t.Errorf("worn %g h, at least: %v", w.Amount, w.AtLeast)
	}
}
