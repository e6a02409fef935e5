package app_test

import (
	"slices"
	"strings"
	"testing"

	"wardifex/internal/app"
	"wardifex/internal/core/bench"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// until settles the steps of an order, one after the other, until the one of a key is done:
// ticked where nothing has to be typed, else skipped.
func until(t *testing.T, s *store.Store, order int64, last string) app.Order {
	t.Helper()
	for {
		o, err := does(s).Order(ctx, order)
		must(t, err)
		at := slices.IndexFunc(o.StepList, func(st store.OrderStep) bool { return st.DoneAt == nil && st.SkippedWhy == "" })
		if at < 0 {
			return o
		}
		st := o.StepList[at]
		ch := app.StepChange{Version: st.Version, Do: "tick"}
		switch st.Form {
		case change.TickForm:
		case change.NoteForm:
			ch.Note = "the gear was worn; a new one is in"
		default:
			ch.Do, ch.Why = "skip", "a trial"
		}
		must(t, does(s).SaveStep(ctx, order, st.Key, ch, "Ansa", now))
		if st.Key == last {
			return o
		}
	}
}

// A repair from a fault closes it with what was done; a part that turned out to be the cause is
// fitted with it, and what depends on it is no longer valid.
func TestARepairFromAFault(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", map[string]string{"extruder.model": "plain", "probe.model": "none", "surface.model": "pei"})
	calibrate(t, s, id, calibration.Steps, change.Data{Value: "95", Store: calibration.StoreSettings})
	fault, _, err := does(s).ReportFault(ctx, id, "extruder-clicks", "it clicks", "Tomke", now)
	must(t, err)
	order, err := does(s).OpenRepair(ctx, fault, "Ansa", now)
	must(t, err)
	_, err = does(s).OpenRepair(ctx, fault, "Joren", now)
	refused(t, err, "is open since")
	until(t, s, order, "fit-1")
	refused(t, does(s).FitOther(ctx, order, "nowhere", "geared", "Ansa", now), "no position")
	must(t, does(s).FitOther(ctx, order, "extruder", "geared", "Ansa", now))
	o := until(t, s, order, "")
	if !slices.ContainsFunc(o.StepList, func(st store.OrderStep) bool { return st.Calibration == calibration.Steps }) {
		t.Error("nobody is asked for the steps of the new extruder")
	}
	_, err = does(s).Finish(ctx, order, 30, "Ansa", now)
	must(t, err)
	m := load(t, s, id)
	if m.Facts.Model("extruder") != "geared" || current(m, calibration.Steps, "head 1").Invalid == nil {
		t.Errorf("%q is in, its steps are %+v", m.Facts.Model("extruder"), current(m, calibration.Steps, "head 1"))
	}
	f, err := s.Fault(ctx, fault)
	must(t, err)
	if f.ClosedAt == nil || !strings.HasPrefix(f.Answer, "the gear was worn") || f.ClosedBy != "Ansa" {
		t.Errorf("the fault: %+v", f)
	}
	_, err = does(s).OpenRepair(ctx, fault, "Ansa", now)
	refused(t, err, "this fault is closed")
}

// A task as an order counts as done with it, puts the same model in and asks for the height
// again; rolled back, it counts for nothing, and what was apart is to be measured all the same.
func TestATaskAsAnOrder(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", map[string]string{"nozzle.model": "brass 0.4", "probe.model": "none"})
	round := []bench.ZOffsetRound{bench.NextZOffset(-1.2, 0, true)}
	height := change.Data{BedTemperature: "60", SoakMinutes: "5", Store: calibration.StoreSettings, Rounds: round}
	for name, back := range map[string]bool{"done": false, "rolled back": true} {
		calibrate(t, s, id, calibration.ZOffset, height)
		order, err := does(s).OpenTask(ctx, id, "nozzle", "", "Ansa", now)
		must(t, err)
		before := len(load(t, s, id).Done)
		if back {
			refused(t, does(s).RollBack(ctx, order, "no spare", "Ansa", now), "nothing was done")
			until(t, s, order, "fit-1")
			refused(t, does(s).Abandon(ctx, order, "Ansa", now), "no longer as it was")
			must(t, does(s).RollBack(ctx, order, "the new one leaks", "Ansa", now))
			refused(t, does(s).RollBack(ctx, order, "again", "Ansa", now), "already")
			refused(t, does(s).FitOther(ctx, order, "nozzle", "steel", "Ansa", now), "rolled back")
		}
		o := until(t, s, order, "")
		if got := o.StepList[len(o.StepList)-1].Key; strings.HasPrefix(got, "back-") != back {
			t.Errorf("%s: the last step is %s", name, got)
		}
		_, err = does(s).Finish(ctx, order, 0, "Ansa", now)
		must(t, err)
		m := load(t, s, id)
		if m.OpenOrder != nil || m.Facts.Model("nozzle") != "brass 0.4" {
			t.Errorf("%s: %v, %q", name, m.OpenOrder, m.Facts.Model("nozzle"))
		}
		if counted := len(m.Done) > before; counted == back {
			t.Errorf("%s: it counts as done: %v", name, counted)
		}
		if o, err = does(s).Order(ctx, order); err != nil || (o.State == store.Abandoned) != back {
			t.Errorf("%s: the order is %s, %v", name, o.State, err)
		}
		c, _ := calibration.Of(calibration.ZOffset)
		if x := c.Subjects(m.Facts)[0]; current(m, calibration.ZOffset, x).Invalid == nil {
			t.Errorf("%s: the height is still valid", name)
		}
	}
}

// A batch has one order a machine; where one refuses, the others are opened; their steps stand
// side by side, and each is ticked by itself.
func TestABatchOfOrders(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	kit := hood()
	kit.Steps = []fit.FittingStep{{Title: "Put the hood on", Do: "Over the frame."}, {Title: "Close it", Do: "By hand."}}
	must(t, does(s).SaveKit(ctx, kit, 0))
	var ids []int64
	for _, name := range []string{"Avocet", "Bittern", "Curlew"} {
		ids = append(ids, add(t, s, name, map[string]string{"mainboard.model": "Brace 4"}))
	}
	busy, err := does(s).OpenFlash(ctx, ids[1], "", "a feature that is needed", "Ansa", now)
	must(t, err)
	made, err := does(s).OpenBatch(ctx, ids, kit.Key, "a feature somebody needs", "Ansa", now)
	must(t, err)
	if made.Opened != 2 || len(made.Refused) != 1 || made.Refused[0].MachineID != ids[1] || busy == 0 {
		t.Fatalf("%+v", made)
	}
	b, err := does(s).Batch(ctx, made.Batch)
	must(t, err)
	first := b.Rows[0]
	if len(b.Orders) != 2 || first.Cells[0].State != "next" || first.Cells[1].State != "next" ||
		b.Rows[1].Cells[0].State != "open" {
		t.Fatalf("%+v", b.Rows)
	}
	must(t, does(s).SaveStep(ctx, b.Orders[1].ID, first.Key, app.StepChange{Version: first.Cells[1].Version, Do: "skip",
		Why: "found otherwise"}, "Ansa", now))
	b, err = does(s).Batch(ctx, made.Batch)
	must(t, err)
	if c := b.Rows[0].Cells; c[0].State != "next" || c[1].State != "skipped" || c[1].Note != "found otherwise" {
		t.Errorf("%+v", c)
	}
	if _, err := does(s).Batch(ctx, busy); err == nil {
		t.Error("an order by itself is a batch")
	}
	// A step that is kept is in every later order of the kit.
	at := b.Rows[slices.IndexFunc(b.Rows, func(r app.BatchStep) bool { return r.Phase == "Fit" })].Key
	added := app.AddedStep{After: at, Title: "oil the hinge", Keep: true}
	must(t, does(s).AddStep(ctx, b.Orders[0].ID, added, "Ansa"))
	e, err := s.KitEntry(ctx, kit.Key)
	must(t, err)
	if n := len(e.Kit.Steps); n == 0 || e.Kit.Steps[n-1].Title != "oil the hinge" {
		t.Errorf("the kit's steps: %+v", e.Kit.Steps)
	}
	flash, err := does(s).Order(ctx, busy)
	must(t, err)
	added.After = flash.StepList[0].Key
	refused(t, does(s).AddStep(ctx, busy, added, "Ansa"), "only steps of fitting")
}

// A value of another machine is a start: it is recorded once somebody has measured it here.
func TestAnothersValueIsAStart(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	parts := map[string]string{"nozzle.model": "brass", "extruder.model": "plain", "hotend.model": "short"}
	avocet, bittern := add(t, s, "Avocet", parts), add(t, s, "Bittern", parts)
	calibrate(t, s, avocet, calibration.Retraction, change.Data{Value: "6", Store: calibration.StoreSettings})
	c, _ := calibration.Of(calibration.Retraction)
	x := c.Subjects(load(t, s, bittern).Facts)[0]
	five := change.Data{Value: "5", Store: calibration.StoreSettings}
	must(t, does(s).Calibrate(ctx, avocet, calibration.Retraction, x, five, "x", now))
	h, err := does(s).CalibrationHistory(ctx, bittern, calibration.Retraction, x, now)
	must(t, err)
	if len(h.Made) != 0 || len(h.Sisters) != 1 || h.Sisters[0].Machine != "Avocet" || h.Sisters[0].Value != "5 mm" {
		t.Fatalf("%+v", h)
	}
	d := change.Data{Value: h.Sisters[0].Value, From: "Avocet", Store: calibration.StoreSettings}
	refused(t, does(s).Calibrate(ctx, bittern, calibration.Retraction, x, d, "x", now), "measure it on this machine")
	d.Measured = true
	must(t, does(s).Calibrate(ctx, bittern, calibration.Retraction, x, d, "x", now))
	h, err = does(s).CalibrationHistory(ctx, avocet, calibration.Retraction, x, now)
	must(t, err)
	if len(h.Made) != 2 || h.Made[0].Value != "6 mm" || h.Made[1].Number == nil || *h.Made[1].Number != 5 ||
		!slices.Contains(h.Made[1].Context, "Extruder: plain") {
		t.Errorf("%+v", h.Made)
	}
	if r := current(load(t, s, bittern), calibration.Retraction, x).Record; !strings.Contains(r.Method, "Avocet") {
		t.Errorf("the method: %q", r.Method)
	}
}
