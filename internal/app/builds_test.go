package app_test

import (
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/core/bench"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/change"
	"wardifex/internal/core/change/changetest"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

var tallBuild = firmware.Build{Name: "Tall 2.1", Family: "compiled", Version: "2.1", Label: "TALL", KiB: 191,
	Features: map[string]string{
		"contact probe": "yes",
		"arc moves":     "no",
	}, ConfiguredFor: map[machine.Key]string{"probe.senses": "surface, by touch"}}

func runs(t *testing.T, s *store.Store, id int64) []store.RunOnRecord {
	t.Helper()
	out, err := s.Runs(ctx, id, 0)
	must(t, err)
	return out
}

// A board runs a build from a day on, which ends what it ran before; the build is an
// entity by itself, and what is read of it on one machine changes no other.
func TestBoardsRunBuilds(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	a := add(t, s, "Avocet", map[string]string{"probe.model": "P", "probe.senses": "metal, without touch"})
	b := add(t, s, "Bittern", nil)
	for key, value := range map[machine.Key]string{"firmware.family": "compiled", "firmware.version": "2.0"} {
		must(t, reads(s, a, key, value, machine.Reading{Grade: machine.Observed, TakenAt: now.AddDate(0, 0, -50), By: "x"},
			now))
	}
	calibrate(t, s, a, calibration.Protection, tested)
	calibrate(t, s, a, calibration.Steps, change.Data{Value: "95", Store: calibration.StoreSettings})

	build, err := does(s).AddBuild(ctx, tallBuild, "x", now)
	must(t, err)
	_, err = does(s).AddBuild(ctx, firmware.Build{Name: "tall 2.1"}, "x", now)
	refused(t, err, "named tall 2.1 already")
	_, err = does(s).AddBuild(ctx, firmware.Build{Name: "H", Family: "compiled", HostVersion: "0.12"}, "x", now)
	refused(t, err, "goes with builds of the hosted family")
	_, err = does(s).AddBuild(ctx, firmware.Build{Name: "F", Features: map[string]string{"mesh": "perhaps"}}, "x", now)
	refused(t, err, "write yes or no")
	_, err = does(s).AddBuild(
		ctx,
		firmware.Build{Name: "C", ConfiguredFor: map[machine.Key]string{"nozzle.bore": "0.4"}},
		"x",
		now,
	)
	refused(t, err, "not configured for")

	from := now.AddDate(0, 0, -10)
	run := app.NewRun{Board: "mainboard", BuildID: build, From: from, Grade: machine.Observed, How: "information screen"}
	refused(t, does(s).StartRun(ctx, a, app.NewRun{Board: "probe", From: from, Grade: machine.Observed}, "x", now),
		"no board")
	refused(
		t,
		does(s).StartRun(ctx, a, app.NewRun{Board: "mainboard", Head: 7, From: from, Grade: machine.Observed}, "x", now),
		"no head 7",
	)
	refused(
		t,
		does(s).StartRun(ctx, a, app.NewRun{Board: "mainboard", From: now.AddDate(0, 0, 3), Grade: machine.Observed}, "x",
			now),
		"has come",
	)
	before := run
	before.From = now.AddDate(0, 0, -55)
	refused(t, does(s).StartRun(ctx, a, before, "x", now), "one build at a time")
	must(t, does(s).CorrectRun(ctx, a, runs(t, s, a)[0].ID, app.CorrectedRun{From: now.AddDate(0, 0, -60)}, "x", now))
	must(
		t,
		reads(
			s,
			a,
			"firmware.max-extrude",
			"600",
			machine.Reading{Grade: machine.Observed, TakenAt: now.AddDate(0, 0, -5), By: "x"},
			now,
		),
	)
	must(t, does(s).StartRun(ctx, a, run, "x", now))

	m := load(t, s, a)
	if f := m.Facts.Fact("firmware.max-extrude"); f.Value.Text != "600" {
		t.Errorf("what was read since is of what runs since: %+v", f)
	}
	for key, want := range map[machine.Key]string{"firmware.model": "Tall 2.1", "firmware.version": "2.1",
		"firmware.size": "191", "firmware.features": "contact probe, no arc moves"} {
		if f := m.Facts.Fact(key); f.Value.Text != want || f.Grade != machine.Observed {
			t.Errorf("%s is %q (%s)", key, f.Value.Text, f.Grade)
		}
	}
	if st := current(m, calibration.Protection, "bed"); st.Word != calibration.NotValid {
		t.Errorf("another build runs, and the bed's proof is %s", st.Word)
	}
	if st := current(m, calibration.Steps, "head 1"); st.Invalid == nil || st.Invalid.Remedy != calibration.EnterAgain {
		t.Errorf("the steps were in the stored settings: %+v", st.Invalid)
	}
	list := runs(t, s, a)
	if len(list) != 2 || list[0].BuildID != build || list[0].Board != "mainboard" || list[1].To == nil ||
		!list[1].To.Equal(from) ||
		!strings.Contains(list[1].Name, "compiled") {
		t.Fatalf("runs: %+v", list)
	}
	if against := firmware.Mismatches(m.Facts, m.Configured); len(against) != 1 || against[0].Key != "probe.senses" {
		t.Errorf("built for another probe: %+v", against)
	}

	// A run ends after it begins, and no board runs two builds at once.
	early, late := now.AddDate(0, 0, -20), now.AddDate(0, 0, -2)
	older := list[1]
	refused(t, does(s).CorrectRun(ctx, a, older.ID, app.CorrectedRun{From: from, To: &early}, "x", now),
		"before it begins")
	refused(t, does(s).CorrectRun(ctx, a, older.ID, app.CorrectedRun{From: early, To: &late}, "x", now),
		"one build at a time")
	must(t, does(s).CorrectRun(ctx, a, older.ID, app.CorrectedRun{From: early, To: &from}, "x", now))

	// An unidentified run is never merged by name: only somebody says which it is.
	must(t, reads(s, b, "firmware.model", "Tall 2.1", machine.Reading{Grade: machine.Observed, TakenAt: now, By: "x"},
		now))
	if r := runs(t, s, b)[0]; r.BuildID != 0 {
		t.Error("a run was taken for a build because of its name")
	}
	must(t, reads(s, a, "firmware.label", "OTHER", machine.Reading{Grade: machine.Proven, TakenAt: now, By: "x"}, now))
	if f := load(t, s, b).Facts.Fact("firmware.label"); f.Known() {
		t.Error("a reading on one machine changes another")
	}
	must(
		t,
		does(s).CorrectRun(
			ctx,
			b,
			runs(t, s, b)[0].ID,
			app.CorrectedRun{BuildID: build, Grade: machine.Marked, From: runs(t, s, b)[0].From},
			"x",
			now,
		),
	)
	if f := load(t, s, b).Facts.Fact("firmware.version"); f.Value.Text != "2.1" || f.Grade != machine.Marked {
		t.Errorf("identified: %+v", f)
	}

	// The record of the build is corrected, and follows on the boards that run it.
	corrected := tallBuild
	corrected.Features = map[string]string{"contact probe": "yes", "arc moves": "no", "filament change": "yes"}
	var conflict *app.Conflict
	must(t, does(s).SaveBuild(ctx, build, 1, corrected, "y", now))
	if err := does(s).SaveBuild(ctx, build, 1, tallBuild, "x", now); err == nil || !errors.As(err, &conflict) {
		t.Errorf("a stale save was taken: %v", err)
	}
	for _, id := range []int64{a, b} {
		if f := load(t, s, id).Facts.Fact(
			"firmware.features"); f.Value.Text != "contact probe, filament change, no arc moves" ||
			len(f.Conflict) > 0 {
			t.Errorf("features: %+v", f)
		}
	}
	refused(t, does(s).DeleteBuild(ctx, build), "stays on record")

	// Which machines had this build a week ago?
	histories, err := s.Histories(ctx)
	must(t, err)
	for id, want := range map[int64]string{a: "Tall 2.1", b: ""} {
		if got := histories[id].At(now.AddDate(0, 0, -7)).Model("firmware"); got != want {
			t.Errorf("a week ago machine %d ran %q, want %q", id, got, want)
		}
	}

	// The record goes out and comes back with it.
	file := recordOf(t, s)
	if len(file.Builds) != 1 || len(file.Machines[0].Runs) != 2 || file.Machines[0].Runs[1].Build != "Tall 2.1" {
		t.Fatalf("on file: %+v", file.Machines[0].Runs)
	}
	other := pgtest.Store(t)
	_, err = does(other).ImportRecord(ctx, store.ImportFile{}, file, "x", now)
	must(t, err)
	again, err := other.Runs(ctx, 0, 0)
	must(t, err)
	if len(again) != 3 || again[0].Machine != "Bittern" && again[0].Machine != "Avocet" {
		t.Errorf("brought in: %+v", again)
	}
	if f := byName(t, other)["Avocet"].Facts.Fact(
		"firmware.features"); f.Value.Text != "contact probe, filament change, no arc moves" {
		t.Errorf("brought in: %q", f.Value.Text)
	}
	if against := firmware.Mismatches(byName(t, other)["Avocet"].Facts, byName(t, other)["Avocet"].Configured); len(
		against,
	) != 1 {
		t.Errorf("brought in, built for: %v", against)
	}
}

// A head can carry a build of its own, and a toolhead board runs one of its own.
func TestEachBoardAndHeadItsOwnBuild(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(
		t,
		s,
		"Avocet",
		map[string]string{"firmware.version": "2.0", "toolhead-board.model": "Lance board", "hotend-2.model": "H"},
	)
	must(
		t,
		does(s).StartRun(ctx, id, app.NewRun{Board: "toolhead-board", From: now, Grade: machine.Observed, How: "flashed"},
			"x", now),
	)
	must(
		t,
		does(s).StartRun(
			ctx,
			id,
			app.NewRun{Board: "mainboard", Head: 2, From: now, Grade: machine.Observed, How: "on its card"},
			"x",
			now,
		),
	)
	list := runs(t, s, id)
	boards := map[string]string{}
	for _, r := range list {
		boards[r.Slot] = r.Board
	}
	if len(list) != 3 || len(boards) != 3 {
		t.Fatalf("runs: %+v", list)
	}
	m := load(t, s, id)
	if v := m.Facts.Fact("firmware.version").Value.Text; v != "2.0" {
		t.Errorf("the mainboard's own build is %q", v)
	}
	if n := len(calibration.Runs(m.Facts, m.Facts.Vocabulary().At("toolhead-board"))); n != 1 {
		t.Errorf("the toolhead board runs %d builds", n)
	}
}

// A part that is exchanged by hand leaves the build as it was: it is built for another
// part than is fitted, until the next build.
func TestBuiltForOtherParts(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(
		t,
		s,
		"Avocet",
		map[string]string{"firmware.version": "2.0", "sensor.model": "glass bead", "sensor.type": "100k thermistor"},
	)
	must(t, does(s).ReplacePart(ctx, id, "sensor", "rod", "broke", "x", now))
	if m := load(t, s, id); len(firmware.Mismatches(m.Facts, m.Configured)) != 0 {
		t.Error("what the new sensor is, nobody knows")
	}
	must(
		t,
		reads(
			s,
			id,
			"sensor.type",
			"104 thermistor",
			machine.Reading{Grade: machine.Observed, TakenAt: now.Add(time.Minute), By: "x"},
			now.Add(time.Hour),
		),
	)
	m := load(t, s, id)
	against := firmware.Mismatches(m.Facts, m.Configured)
	if len(against) != 1 ||
		!strings.Contains(against[0].Says, "configured for 100k thermistor, and 104 thermistor is fitted") ||
		against[0].Hazard == "" {
		t.Fatalf("built for: %+v", against)
	}
	must(
		t,
		does(s).StartRun(
			ctx,
			id,
			app.NewRun{Board: "mainboard", From: now.Add(time.Hour), Grade: machine.Observed, How: "flashed", MadeFor: true},
			"x",
			now.Add(time.Hour),
		),
	)
	if m := load(t, s, id); len(firmware.Mismatches(m.Facts, m.Configured)) != 0 {
		t.Error("a build made for it is configured for other parts")
	}
}

// A reading that differs says whether the machine was changed or the record was wrong.
func TestDifferingReading(t *testing.T) {
	t.Parallel()
	for differs, want := range map[machine.Differs]calibration.StateWord{machine.Changed: calibration.NotValid,
		machine.WasWrong: calibration.Valid, machine.NotSaid: calibration.NotValid} {
		s := pgtest.Store(t)
		id := add(t, s, "Avocet", map[string]string{"driver-e.microsteps": "16"})
		calibrate(t, s, id, calibration.Steps, change.Data{Value: "95", Store: calibration.StoreSettings})
		_, err := does(s).AddDiffering(
			ctx,
			id,
			"driver-e.microsteps",
			"32",
			machine.Reading{Grade: machine.Observed, TakenAt: now, By: "x"},
			differs,
			now,
		)
		must(t, err)
		m := load(t, s, id)
		if st := current(m, calibration.Steps, "head 1"); st.Word != want {
			t.Errorf("%q: %s, want %s", differs, st.Word, want)
		}
		if differs == machine.NotSaid { // settled for what stood before, nothing has changed
			f := m.Facts.Fact("driver-e.microsteps")
			before := slices.IndexFunc(f.Conflict, func(r machine.Reading) bool { return r.Value.Text == "16" })
			must(t, does(s).Settle(ctx, id, "driver-e.microsteps", f.Conflict[before].ID, "looked again", "x", now))
			if st := current(load(t, s, id), calibration.Steps, "head 1"); st.Word != calibration.Valid {
				t.Errorf("settled for 16: %s", st.Word)
			}
			_, err := does(s).AddDiffering(
				ctx,
				id,
				"driver-e.microsteps",
				"64",
				machine.Reading{Grade: machine.Proven, TakenAt: now, By: "x"},
				machine.NotSaid,
				now,
			)
			must(t, err)
			if st := current(load(t, s, id), calibration.Steps, "head 1"); st.Word != calibration.NotValid {
				t.Errorf("proven to be 64: %s", st.Word)
			}
			wrong := load(t, s, id).Facts.Fact("driver-e.microsteps").Stands.ID
			must(t, does(s).Retract(ctx, wrong, "another machine's", "x", now))
			if st := current(load(t, s, id), calibration.Steps, "head 1"); st.Word != calibration.Valid {
				t.Errorf("taken back: %s", st.Word)
			}
		}
		if f := m.Facts.Fact("driver-e.microsteps"); (len(f.Conflict) > 0) != (differs == machine.NotSaid) ||
			differs != machine.NotSaid && f.Value.Text != "32" {
			t.Errorf("%q: %+v", differs, f)
		}
	}
}

// A nozzle changed as maintenance makes invalid what depends on it; a surface only where
// it was changed. Taken back, nothing is.
func TestMaintenanceRenews(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", map[string]string{"probe.model": "none"})
	calibrate(
		t,
		s,
		id,
		calibration.ZOffset,
		change.Data{
			BedTemperature: "60",
			SoakMinutes:    "5",
			Store:          calibration.StoreSettings,
			Rounds:         []bench.ZOffsetRound{bench.NextZOffset(-1.2, 0, true)},
		},
	)
	valid := func(what string, want bool) {
		t.Helper()
		if st := current(load(t, s, id), calibration.ZOffset, "head 1"); (st.Word == calibration.Valid) != want {
			t.Errorf("%s: the Z offset is %s (%+v)", what, st.Word, st.Invalid)
		}
	}
	must(t, does(s).MarkDone(ctx, []int64{id}, maintenance.Completion{Task: "belts", At: now}, "", "x", now))
	must(t, does(s).MarkDone(ctx, []int64{id}, maintenance.Completion{Task: "surface", At: now}, "", "x", now))
	valid("a surface that was only cleaned", true)
	refused(t, does(s).MarkDone(ctx, []int64{id},
		maintenance.Completion{Task: "nozzle", At: now, Slots: []string{"probe"}},
		"", "x", now), "no position")
	must(t, does(s).MarkDone(ctx, []int64{id}, maintenance.Completion{Task: "nozzle", At: now}, "", "x", now))
	valid("another nozzle", false)
	must(t, does(s).UndoDone(ctx, id, "nozzle"))
	valid("taken back", true)
	yes := true
	must(t, does(s).MarkDone(ctx, []int64{id}, maintenance.Completion{Task: "surface", At: now, Renewed: &yes}, "", "x",
		now))
	valid("another surface, without a probe", false)
	if task, ok := maintenance.Find(maintenance.Shipped(), "nozzle"); !ok || !task.Always {
		t.Error("changing the nozzle is its task")
	}
}

// The order that flashes a build says which it is, or records it; the machine proves what
// runs, and the run is configured for what is fitted then.
func TestAnOrderFlashesABuild(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	old, err := does(s).AddBuild(ctx, firmware.Build{Name: "Old", Family: "compiled", Version: "1.0"}, "x", now)
	must(t, err)
	id := add(t, s, "Avocet", fitting)
	order, err := does(s).OpenWork(ctx, id, "plumbline-probe", "a feature somebody needs", "x", now)
	must(t, err)
	o, err := does(s).Order(ctx, order)
	must(t, err)
	for _, st := range o.StepList {
		data, note := changetest.Fill(st.Step)
		if st.Form == change.BuildForm {
			data.Build = old
			refused(
				t,
				does(s).SaveStep(ctx, order, st.Key, app.StepChange{Version: 1, Data: data, Do: "tick"}, "x", now),
				"The machine proves what runs",
			)
			data.Build, data.BuildName = 0, "old"
			refused(
				t,
				does(s).SaveStep(ctx, order, st.Key, app.StepChange{Version: 1, Data: data, Do: "tick"}, "x", now),
				"named old already",
			)
			data.BuildName = "Avocet with probe"
		}
		must(t, does(s).SaveStep(ctx, order, st.Key, app.StepChange{Version: 1, Data: data, Note: note, Do: "tick"}, "x",
			now))
	}
	_, err = does(s).Finish(ctx, order, 0, "x", now)
	must(t, err)
	builds, err := s.Builds(ctx)
	must(t, err)
	if len(builds) != 2 || builds[0].Name != "Avocet with probe" || builds[0].Build.Version != "2.1" ||
		builds[0].KiB != 191 ||
		builds[0].Running != 1 {
		t.Fatalf("builds: %+v", builds)
	}
	m := load(t, s, id)
	if list := runs(t, s, id); list[0].Name != "Avocet with probe" || list[0].BuildID != builds[0].ID ||
		m.Facts.Model("firmware") != "Avocet with probe" {
		t.Errorf("runs: %+v, %s", list[0], m.Facts.Model("firmware"))
	}
	if m.Configured["probe.senses"] != "surface, by touch" || m.Configured["z-endstop.model"] != machine.None {
		t.Errorf("configured for %v", m.Configured)
	}
}

// A board that is exchanged by hand takes with it what it ran: what the new one runs,
// somebody has to read.
func TestAnotherBoardRunsAnotherBuild(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(
		t,
		s,
		"Avocet",
		map[string]string{"mainboard.model": "Brace board", "firmware.version": "2.0", "firmware.family": "compiled"},
	)
	must(t, does(s).ReplacePart(ctx, id, "nozzle", "another", "", "x", now))
	if f := load(t, s, id).Facts.Fact("firmware.version"); f.Value.Text != "2.0" {
		t.Errorf("another nozzle, and the build is %q", f.Value.Text)
	}
	must(t, does(s).ReplacePart(ctx, id, "mainboard", "Brace 5 board", "broke", "x", now))
	list := runs(t, s, id)
	if f := load(t, s, id).Facts.Fact("firmware.version"); f.Known() || len(list) != 1 || list[0].To == nil {
		t.Errorf("another board, and it runs %q: %+v", f.Value.Text, list)
	}
	later := now.Add(time.Hour)
	must(t, reads(s, id, "firmware.version", "2.1", machine.Reading{Grade: machine.Observed, TakenAt: later, By: "x"},
		later))
	if list := runs(t, s, id); len(list) != 2 || list[0].To != nil ||
		load(t, s, id).Facts.Fact("firmware.version").Value.Text != "2.1" {
		t.Errorf("read since: %+v", list)
	}
}
