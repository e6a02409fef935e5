package app_test

import (
	"context"
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
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// calibrate records a calibration of each of its subjects.
func calibrate(t *testing.T, s *store.Store, id int64, k calibration.Kind, d change.Data) {
	t.Helper()
	c, _ := calibration.Of(k)
	for _, x := range c.Subjects(load(t, s, id).Facts) {
		must(t, does(s).Calibrate(ctx, id, k, x, d, "x", now.AddDate(0, -1, 0)))
	}
}

// current is the record that counts for a subject.
func current(m store.Machine, k calibration.Kind, x calibration.Subject) calibration.State {
	c, _ := calibration.Of(k)
	return calibration.StateOf(m.Facts, m.Records, c, x)
}

func TestWorkFromVerdictToRecord(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", fitting)
	calibrate(t, s, id, calibration.Steps, change.Data{Value: "95", Store: calibration.StoreSettings})
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
	calibrate(t, s, id, calibration.Protection, tested)
	if m := load(t, s, id); !m.Protection(now).Proven {
		t.Fatal("a test that alarmed proves protection")
	}

	_, err := does(s).AddReading(
		ctx,
		id,
		"toolhead.grams",
		"350",
		machine.Reading{Grade: machine.Observed, TakenAt: now, By: "x"},
		now,
	)
	must(t, err)

	_, err = does(s).OpenWork(ctx, id, "plumbline-probe", "", "x", now)
	refused(t, err, "left alone")
	order, err := does(s).OpenWork(ctx, id, "plumbline-probe", "a feature somebody needs", "x", now)
	must(t, err)
	_, err = does(s).OpenWork(ctx, id, "bollard-springs", "wear", "x", now)
	refused(t, err, "locked out")
	refused(t, does(s).ReplacePart(ctx, id, "nozzle", "another", "", "x", now), "work order")
	refused(t, does(s).Retire(ctx, id, "old", "x", now), "work is open")
	refused(
		t,
		does(s).Calibrate(ctx, id, calibration.Tramming, "bed", change.Data{Value: "1", Store: calibration.StoreBuild},
			"x", now),
		"work order",
	)

	o, err := does(s).Order(ctx, order)
	must(t, err)
	figures := func(o app.Order) (out []string) {
		for _, st := range o.StepList {
			if len(st.Takes) > 0 {
				out = append(out, st.Key+": "+strings.Join(st.Takes, " "))
			}
		}
		return out
	}
	if _, err := s.SQL.Exec("update work_steps set step = step - 'takes'"); err != nil { // as earlier versions kept them
		t.Fatal(err)
	}
	older, err := does(s).Order(ctx, order)
	must(t, err)
	if got, want := figures(older), figures(o); len(want) == 0 || !slices.Equal(got, want) {
		t.Errorf("figures of an older order: %v, want %v", got, want)
	}
	last := o.StepList[len(o.StepList)-1]
	refused(t, does(s).SaveStep(ctx, order, last.Key, app.StepChange{Version: 1, Do: "tick"}, "x", now), "comes first")
	refused(t, does(s).SaveStep(ctx, order, last.Key, app.StepChange{Version: 1, Do: "skip", Why: "late"}, "x", now),
		"comes first")
	_, err = does(s).Finish(ctx, order, 0, "x", now)
	refused(t, err, "still open")

	for _, st := range o.StepList {
		data, note := changetest.Fill(st.Step)
		// Half-typed, then left; another device goes on.
		must(t, does(s).SaveStep(ctx, order, st.Key, app.StepChange{Version: 1, Data: data, Note: note, Do: "save"}, "x",
			now))
		var conflict *app.Conflict
		if err := does(s).SaveStep(ctx, order, st.Key, app.StepChange{Version: 1, Note: "stale", Do: "save"}, "y",
			now); !errors.As(
			err,
			&conflict,
		) {
			t.Fatalf("%s: a stale save was taken: %v", st.Key, err)
		}
		must(t, does(s).SaveStep(ctx, order, st.Key, app.StepChange{Version: 2, Data: data, Note: note, Do: "tick"}, "x",
			now))
		if st.Touches {
			refused(t, does(s).Abandon(ctx, order, "x", now), "no longer as it was")
		}
	}
	first := o.StepList[0].Key
	refused(t, does(s).SaveStep(ctx, order, first, app.StepChange{Version: 3, Do: "undo"}, "x", now), "later steps")
	closing, err := does(s).Finish(ctx, order, 0, "x", now)
	must(t, err)

	m := load(t, s, id)
	for key, want := range map[machine.Key]struct {
		value string
		grade machine.Grade
	}{
		"probe.model":  {"Plumbline contact probe", machine.Marked},
		"probe.senses": {"surface, by touch", machine.Claimed}, // the kit's word: nobody looked
		// What somebody took out or read off the machine.
		"z-endstop.model": {"none", machine.Observed}, "firmware.version": {"2.1", machine.Observed},
		"firmware.family": {"compiled", machine.Observed}, "firmware.file": {"new.bin", machine.Observed},
	} {
		if f := m.Facts.Fact(key); f.Value.Text != want.value || f.Grade != want.grade {
			t.Errorf("as fitted: %s is %q (%s), want %q (%s)", key, f.Value.Text, f.Grade, want.value, want.grade)
		}
	}
	if f := m.Facts.Fact("toolhead.grams"); f.Value.Text != "366" || f.Grade != machine.Observed ||
		!strings.Contains(f.HowCarried(), "350 observed, + 16 Plumbline contact probe kit = 366 g") ||
		!slices.Contains(closing.Recorded, "Toolhead: mass: 350 + 16 = 366 g") {
		t.Errorf("the head is 16 g heavier: %+v, recorded %v", f, closing.Recorded)
	}
	if st := current(m, calibration.ZOffset, "head 1"); st.Word != calibration.Valid || st.Record.Value != "-2.70 mm" {
		t.Errorf("Z offset on record: %+v", st)
	}
	if st := current(m, calibration.Protection, "bed"); st.Record.Proof.Alarm != "Heating failed" ||
		st.Record.Proof.Seconds != 190 ||
		!strings.Contains(st.Record.Proof.Build, "build of") {
		t.Errorf("what proves the bed's protection: %+v", st.Record)
	}
	if st := current(m, calibration.Steps, "head 1"); st.Word != calibration.Valid || st.Record.Value != "95 steps/mm" ||
		!strings.Contains(st.Record.Method, "entered again") {
		t.Errorf("the steps were entered again: %+v", st)
	}
	if !m.Protection(now).Proven || m.OpenOrder != nil {
		t.Errorf("after finishing: %+v, order %v", m.Protection(now), m.OpenOrder)
	}
	var invalid []string
	for _, v := range closing.Invalid {
		invalid = append(invalid, string(v.Kind))
	}
	if got := strings.Join(invalid, " "); got != "protection protection steps-per-mm z-offset" {
		t.Errorf("invalid: %s", got)
	}
	if missing := strings.Join(closing.Missing, "\n"); !strings.Contains(missing, "self-test") {
		t.Errorf("the new probe's self-test is not asked for:\n%s", missing)
	}
	history, err := s.History(ctx, id)
	must(t, err)
	if len(history) != 3 { // endstop, firmware, and the empty probe slot
		t.Errorf("taken out: %+v", history)
	}
	refused(t, does(s).SaveStep(ctx, order, first, app.StepChange{Version: 3, Do: "undo"}, "x", now), "finished")
	v, err := does(s).Judge(ctx, "plumbline-probe")
	must(t, err)
	if got := v.Truth(m.Facts); got.Answer() != fit.LookFirst || got.Lean() != fit.DoesNotFit {
		t.Errorf("a second probe before anybody looked at the first: %s, leans to %s", got.Answer(), got.Lean())
	}
	must(t, reads(s, id, "probe.senses", "surface, by touch",
		machine.Reading{Grade: machine.Observed, TakenAt: now, By: "x"}, now))
	m = load(t, s, id)
	if got := v.Verdict(m.Facts).Answer; got != fit.DoesNotFit {
		t.Errorf("a second probe %s", got)
	}
}

func TestSkippedProofLeavesTheMachineUnproven(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", fitting)
	calibrate(t, s, id, calibration.Protection, tested)
	order, err := does(s).OpenWork(ctx, id, "plumbline-probe", "wear", "x", now)
	must(t, err)
	o, err := does(s).Order(ctx, order)
	must(t, err)
	for _, st := range o.StepList {
		data, note := changetest.Fill(st.Step)
		do := "tick"
		if st.Calibration != "" {
			do = "skip"
		}
		must(
			t,
			does(s).SaveStep(
				ctx,
				order,
				st.Key,
				app.StepChange{Version: 1, Data: data, Note: note, Do: do, Why: "no time"},
				"x",
				now,
			),
		)
	}
	_, err = does(s).Finish(ctx, order, 0, "x", now)
	must(t, err)
	m := load(t, s, id)
	if m.Protection(now).Proven {
		t.Error("a new build without a test counts as proven")
	}
	if d := maintenance.DueList(m.Subject(now), now)[0]; d.State != maintenance.Unproven {
		t.Errorf("first on the list: %+v", d)
	}
}

func TestAbandon(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", fitting)
	order, err := does(s).OpenWork(ctx, id, "plumbline-probe", "wear", "x", now)
	must(t, err)
	must(t, does(s).Abandon(ctx, order, "x", now))
	if m := load(t, s, id); m.OpenOrder != nil || m.Facts.Model("probe") != "none" {
		t.Error("an abandoned order changes nothing and locks nothing")
	}
	second, err := does(s).OpenWork(ctx, id, "plumbline-probe", "wear", "x", now)
	must(t, err)
	list, err := s.Orders(ctx, store.Cut{})
	must(t, err)
	heads := list.Rows
	if len(heads) != 2 || heads[0].ID != second || heads[0].State != "open" || heads[0].Machine != "Avocet" ||
		heads[0].Kit != "Plumbline contact probe kit" ||
		heads[0].Steps == 0 ||
		heads[1].State != "abandoned" {
		t.Errorf("the list of orders: %+v", heads)
	}
}

func TestOpenWorkNeedsAVerdictThatFits(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", map[string]string{"firmware.family": "compiled"})
	_, err := does(s).OpenWork(ctx, id, "plumbline-probe", "wear", "x", now)
	refused(t, err, "look first")
}

func TestExchangeByHandVoids(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", map[string]string{"sensor.model": "old", "sensor.type": "100k thermistor"})
	calibrate(t, s, id, calibration.Protection, tested)
	must(t, does(s).ReplacePart(ctx, id, "sensor", "new", "broke", "x", now))
	m := load(t, s, id)
	if m.Facts.Fact("sensor.type").Known() || m.Protection(now).Proven {
		t.Error("a new sensor starts without readings and voids the proof")
	}
}

var fitting = map[string]string{
	"probe.model": "none", "z-endstop.model": "lever", "mainboard.probe-port": "yes", "carriage.bracket-holes": "yes",
	"carriage.hole-spacing": "18", "firmware.family": "compiled", "firmware.version": "1.0",
	"mainboard.chip-maker": "first source", "mainboard.processor": "RET6", "firmware.size": "186",
	"firmware.file": "old.bin",
}

// tested is a protection test that alarmed.
var tested = change.Data{TestMethod: "no-heat", Alarm: "190", AlarmText: "Heating failed"}

// A nozzle for a new one of the same and another model for the one that is in are orders of
// their own, which leave the record behind as a kit's does; another build is one too.
func TestAChangeOfItsOwnMakesAnOrder(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", map[string]string{"nozzle.model": "plain", "nozzle.bore": "0.4",
		"firmware.family": "compiled"})
	calibrate(t, s, id, calibration.Retraction, change.Data{Value: "6", Store: calibration.StoreSettings})
	open := func(order int64, err error) app.Order {
		t.Helper()
		must(t, err)
		o, err := does(s).Order(ctx, order)
		must(t, err)
		return o
	}
	finish := func(o app.Order) {
		t.Helper()
		for _, step := range o.StepList {
			ch := app.StepChange{Version: step.Version, Do: "skip", Why: "a trial"}
			must(t, does(s).SaveStep(ctx, o.ID, step.Key, ch, "x", now))
		}
		_, err := does(s).Finish(ctx, o.ID, 10, "x", now)
		must(t, err)
	}
	_, err := does(s).OpenSwap(ctx, id, "nozzle", "plain", 0, "", "x", now)
	refused(t, err, "say why")
	_, err = does(s).OpenSwap(ctx, id, "ghost", "plain", 0, "worn", "x", now)
	refused(t, err, "no position")
	_, err = does(s).OpenSwap(ctx, id, "firmware", "plain", 0, "worn", "x", now)
	refused(t, err, "no position")

	same := open(does(s).OpenSwap(ctx, id, "nozzle", "plain", 0, "worn at 300 h", "x", now))
	if same.OrderHead.Kit != "new nozzle" || len(same.StepList) > 16 {
		t.Errorf("%q with %d steps", same.OrderHead.Kit, len(same.StepList))
	}
	_, err = does(s).OpenFlash(ctx, id, "", "a feature", "x", now)
	refused(t, err, "locked out")
	finish(same)
	if m := load(t, s, id); m.Facts.Model("nozzle") != "plain" || current(m, calibration.Retraction,
		"head 1").Invalid == nil {
		t.Errorf("after it %q is in, and the retraction is still valid", m.Facts.Model("nozzle"))
	}
	finish(open(does(s).OpenSwap(ctx, id, "nozzle", "hard 0.6", 0, "abrasive filament", "x", now)))
	if m := load(t, s, id); m.Facts.Model("nozzle") != "hard 0.6" || m.OpenOrder != nil {
		t.Errorf("%q is in", m.Facts.Model("nozzle"))
	}
	flash := open(does(s).OpenFlash(ctx, id, "mesh levelling", "a feature that is needed", "x", now))
	var keys []string
	for _, step := range flash.StepList {
		keys = append(keys, step.Key)
	}
	if !slices.Contains(keys, "flash") || slices.Contains(keys, "photograph") {
		t.Errorf("the steps of a flash: %v", keys)
	}
}

// A second technician works with a lock of their own; the work is left with what is loose, a
// third goes on, and nobody finishes it while another's lock is on.
func TestLocksAndHandOver(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", map[string]string{"nozzle.model": "plain"})
	order, err := does(s).OpenSwap(ctx, id, "nozzle", "plain", 0, "worn", "Ansa", now)
	must(t, err)
	get := func() app.Order {
		t.Helper()
		o, err := does(s).Order(ctx, order)
		must(t, err)
		return o
	}
	step := func(at int, by string) error {
		o := get()
		ch := app.StepChange{Version: o.StepList[at].Version, Do: "skip", Why: "a trial"}
		return does(s).SaveStep(ctx, order, o.StepList[at].Key, ch, by, now)
	}
	must(t, step(0, "Ansa"))
	must(t, step(1, "Joren"))
	if o := get(); len(o.Locks) != 0 {
		t.Fatalf("ticking steps added locks: %+v", o.Locks)
	}
	must(t, does(s).PutLock(ctx, order, "Ansa", now))
	must(t, does(s).PutLock(ctx, order, "Joren", now))
	first, count := get().StepList, len(get().StepList)
	refused(t, does(s).AddStep(ctx, order, app.AddedStep{After: first[0].Key, Title: "oil the rail"}, "Ansa"),
		"done already")
	oil := app.AddedStep{After: first[1].Key, Title: "oil the rail", Do: "two drops"}
	must(t, does(s).AddStep(ctx, order, oil, "Ansa"))
	if list := get().StepList; len(list) != count+1 || list[2].Title != "oil the rail" || list[3].Key != first[2].Key {
		t.Errorf("%d steps, the third %q", len(list), list[2].Title)
	}
	if o := get(); len(o.Locks) != 2 || !o.Locks[0].On() || !o.Locks[1].On() {
		t.Fatalf("%+v", o.Locks)
	}
	refused(t, does(s).Park(ctx, order, change.Parked{Why: "waits for a nozzle"}, "Ansa", now), "what is loose")
	must(t, does(s).Park(ctx, order, change.Parked{Why: "waits for a nozzle", Loose: "the nozzle is out",
		Screws: "tin on the shelf"}, "Ansa", now))
	refused(t, step(2, "Joren"), "parked")
	if o := get(); o.Parked == nil || o.Parked.Screws != "tin on the shelf" || o.Locked != order {
		t.Errorf("%+v, locked by %d", o.Parked, o.Locked)
	}
	must(t, does(s).Resume(ctx, order, "Tove", now))
	if slices.ContainsFunc(get().Locks, func(l change.Lock) bool { return l.Name == "Tove" }) {
		t.Error("resuming added a lock")
	}
	must(t, does(s).PutLock(ctx, order, "Tove", now))
	for at := 2; at < len(get().StepList); at++ {
		must(t, step(at, "Tove"))
	}
	_, err = does(s).Finish(ctx, order, 5, "Tove", now)
	refused(t, err, "lock of Joren is on")
	var lock int64
	for _, l := range get().Locks {
		if l.Name == "Joren" {
			lock = l.ID
		}
	}
	refused(t, does(s).TakeLock(ctx, order, lock, false, true, "ill", "Tove", now), "or a lead")
	refused(t, does(s).TakeLock(ctx, order, lock, true, false, "ill", "Ansa", now), "reach Joren first")
	must(t, does(s).TakeLock(ctx, order, lock, true, true, "went home ill", "Ansa", now))
	_, err = does(s).Finish(ctx, order, 5, "Tove", now)
	must(t, err)
	for _, l := range get().Locks {
		if l.On() {
			t.Errorf("the lock of %s is still on", l.Name)
		}
	}
}

// Two people may be shown by one name: each holds a lock of their own, and neither finishes over
// the other's.
func TestNamesakesHoldALockEach(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", map[string]string{"nozzle.model": "plain"})
	as := func(signIn string) context.Context {
		t.Helper()
		account, err := s.AddUser(ctx, store.User{Name: signIn, DisplayName: "Ansa", Role: store.Technician})
		must(t, err)
		return store.WithActor(ctx, store.Actor{Account: account, Name: "Ansa", At: now})
	}
	one, other := as("ansa.a"), as("ansa.b")
	order, err := does(s).OpenSwap(one, id, "nozzle", "plain", 0, "worn", "Ansa", now)
	must(t, err)
	for range 2 {
		must(t, does(s).PutLock(one, order, "Ansa", now))
		must(t, does(s).PutLock(other, order, "Ansa", now))
	}
	o, err := does(s).Order(one, order)
	must(t, err)
	if len(o.Locks) != 2 || o.Locks[0].Account == o.Locks[1].Account {
		t.Fatalf("%+v", o.Locks)
	}
	refused(t, does(s).TakeLock(one, order, o.Locks[1].ID, false, true, "", "Ansa", now), "or a lead")
	must(t, does(s).Park(one, order, change.Parked{Why: "waits", Loose: "nothing"}, "Ansa", now))
	o, err = does(s).Order(one, order)
	must(t, err)
	for _, l := range o.Locks {
		if l.On() != (l.Account == store.AccountOf(other)) {
			t.Errorf("lock of account %d: on %v", l.Account, l.On())
		}
	}
}

// A step that is ticked without a connection was done when its device says, not before the order and not after now; one
// that somebody undid meanwhile is not overridden.
func TestATickWithItsOwnTime(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", fitting)
	order, err := does(s).OpenWork(ctx, id, "plumbline-probe", "a feature somebody needs", "x", now)
	must(t, err)
	later := now.Add(3 * time.Hour)
	step := func() store.OrderStep {
		o, err := does(s).Order(ctx, order)
		must(t, err)
		return o.StepList[0]
	}
	key := step().Key
	tick := func(version int, at time.Time) error {
		st := step()
		return does(s).SaveStep(ctx, order, key, app.StepChange{Version: version, Data: st.Data, Do: "tick", At: &at}, "x",
			later)
	}
	undo := func() {
		must(t, does(s).SaveStep(ctx, order, key, app.StepChange{Version: step().Version, Do: "undo"}, "y", later))
	}
	for _, c := range []struct{ says, want time.Time }{{now.Add(time.Hour), now.Add(time.Hour)},
		{later.Add(time.Hour), later}, {now.AddDate(-1, 0, 0), later}} {
		must(t, tick(step().Version, c.says))
		if got := step().DoneAt; got == nil || !got.Equal(c.want) {
			t.Errorf("done at %v, want %v", got, c.want)
		}
		undo()
	}
	seen := step().Version
	must(t, tick(seen, later)) // a colleague's
	undo()
	if err := tick(seen, later); !isConflict(err) || step().DoneAt != nil {
		t.Errorf("what was undone meanwhile is ticked: %v", err)
	}
}
