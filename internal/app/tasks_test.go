package app_test

import (
	"errors"
	"slices"
	"testing"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// A shop writes its own tasks: the list of what is due goes by them, on every instance; a
// second editor is told; what was done keeps its name.
func TestTasksOfTheShop(t *testing.T) {
	t.Parallel()
	dsn := pgtest.Database(t)
	instance := func() *store.Store {
		s, err := store.Open(dsn)
		must(t, err)
		t.Cleanup(func() { s.Close() })
		must(t, s.Migrate(ctx))
		return s
	}
	s := instance()
	a := does(s)
	id := add(t, s, "Avocet", nil)
	later := now.AddDate(0, 0, 40)
	must(t, a.ReadMeters(ctx, id, "x", later, maintenance.HoursAt(now, 100), maintenance.HoursAt(later, 300)))
	other := instance()
	filter := maintenance.Task{Key: "filter", Title: "Air filter", Kind: "frame", Risk: maintenance.HurtsPeople,
		Limits: maintenance.Limits{Hours: 150}}
	must(t, a.SaveTask(ctx, filter, 0))
	due := func(a *app.App) string {
		list, err := a.Due(ctx, app.DueQuery{Task: "filter", Within: -1, Limit: 10}, later)
		if err != nil {
			t.Fatal(err)
		}
		for _, r := range list.Rows {
			return r.Title + " " + r.Used
		}
		return ""
	}
	must(t, a.MarkDone(ctx, []int64{id}, maintenance.Completion{Task: "filter", At: now}, "", "x", now))
	if got := due(a); got != "Air filter 200 / 150 h" {
		t.Errorf("due: %q", got)
	}
	must(t, other.Refresh(ctx))
	if got := due(does(other)); got != "Air filter 200 / 150 h" {
		t.Errorf("due on another instance: %q", got)
	}

	var conflict *app.Conflict
	if err := a.SaveTask(ctx, filter, 0); !errors.As(err, &conflict) || conflict.Current.(app.ShopTask).Version != 1 {
		t.Errorf("written over: %v", err)
	}
	filter.Hours = 0
	refused(t, a.SaveTask(ctx, filter, 1), "is due")
	refused(t, a.ResetTask(ctx, "filter", 1), "switch it off")
	filter.Hours, filter.Off = 150, true
	must(t, a.SaveTask(ctx, filter, 1))
	if got := due(a); got != "" {
		t.Errorf("switched off, and due: %q", got)
	}

	nozzle, _ := maintenance.Find(maintenance.Shipped(), "nozzle")
	nozzle.Hours = 77
	must(t, a.SaveTask(ctx, nozzle, 0))
	must(t, a.ResetTask(ctx, "nozzle", 1))
	tasks, err := a.Tasks(ctx)
	must(t, err)
	for _, is := range tasks {
		if is.Key == "nozzle" && (is.Hours != 300 || is.Version != 0 || !is.Ships) {
			t.Errorf("not as it ships: %+v", is)
		}
	}
}

// A task that changes a part changes it on the record: one of the shelf leaves it, one like the
// one before is taken to be as that was; the worn ones are scrapped and keep what they ran. It
// is done on all machines or on none.
func TestDoneWithAnotherPart(t *testing.T) {
	t.Parallel()
	a, s := open(t)
	fitted := map[string]string{"nozzle.model": "plain nozzle", "nozzle.bore": "0.6"}
	one, two := add(t, s, "Avocet", fitted), add(t, s, "Bittern", fitted)
	later := now.AddDate(0, 0, 1)
	spare, err := a.AddPart(ctx, "nozzle", "hard nozzle", store.PartFields{Shelf: "drawer 1"}, "x", now)
	must(t, err)
	nozzle := maintenance.Completion{Task: "nozzle", At: later, New: true}
	partAt := func(id int64) store.Part {
		held, err := s.HeldAt(ctx, id, "nozzle", "x", later)
		must(t, err)
		p, err := s.Part(ctx, held.Part)
		must(t, err)
		return p
	}
	worn := partAt(one)

	both := nozzle
	both.Spares = map[string]int64{"nozzle": spare}
	refused(t, a.MarkDone(ctx, []int64{one, two}, both, "", "x", later), "one machine at a time")
	must(t, a.MarkDone(ctx, []int64{one}, both, "", "x", later))
	if is := partAt(one); is.ID != spare || load(t, s, one).Facts.Model("nozzle") != "hard nozzle" {
		t.Errorf("in the machine: %+v", is)
	}
	old, err := s.Part(ctx, worn.ID)
	must(t, err)
	if old.ScrappedAt == nil || old.ScrappedWhy != "Change the nozzle" {
		t.Errorf("the worn one: %+v", old)
	}
	refused(t, a.UndoDone(ctx, one, "nozzle"), "new parts went in")
	var conflict *app.Conflict
	if err := a.MarkDone(ctx, []int64{two}, both, "", "x", later); !errors.As(err, &conflict) {
		t.Errorf("a part that is fitted elsewhere went in: %v", err)
	}

	was := partAt(two).ID
	must(t, a.MarkDone(ctx, []int64{two, one, two}, nozzle, "", "x", later.Add(time.Hour)))
	m := load(t, s, two)
	if bore := m.Facts.Fact("nozzle.bore"); partAt(two).ID == was || m.Facts.Model("nozzle") != "plain nozzle" ||
		bore.Value.Text != "0.6" || bore.Grade != machine.Claimed {
		t.Errorf("one like the one before: part %d, bore %+v", partAt(two).ID, bore)
	}
	if n := len(m.Done); n != 1 {
		t.Errorf("done %d times", n)
	}

	// All or none: a machine at which work is open refuses it for both.
	_, err = a.OpenSwap(ctx, one, "nozzle", "plain nozzle", 0, "worn", "x", later)
	must(t, err)
	refused(t, a.MarkDone(ctx, []int64{two, one}, nozzle, "", "x", later.AddDate(0, 0, 1)), "is open on Avocet")
	if n := len(load(t, s, two).Done); n != 1 {
		t.Errorf("done %d times though it was refused", n)
	}
}

// The whole record takes the shop's tasks, all meters and the parts that went in along.
func TestTasksAndMetersOnFile(t *testing.T) {
	t.Parallel()
	a, s := open(t)
	id := add(t, s, "Avocet", map[string]string{"nozzle.model": "plain nozzle"})
	belts, _ := maintenance.Find(maintenance.Shipped(), "belts")
	belts.Filament = 4000
	must(t, a.SaveTask(ctx, belts, 0))
	must(t, a.ReadMeters(ctx, id, "x", now, maintenance.HoursAt(now, 100),
		maintenance.Meter{Counter: maintenance.Filament, At: now, Amount: 900}))
	must(t, a.MarkDone(ctx, []int64{id}, maintenance.Completion{Task: "nozzle", At: now, New: true}, "", "x", now))
	file := recordOf(t, s)
	into := pgtest.Store(t)
	_, err := does(into).ImportRecord(ctx, store.ImportFile{}, file, "x", now)
	must(t, err)
	m := byName(t, into)["Avocet"]
	if got := maintenance.Counted(m.Meters, maintenance.Filament); len(m.Meters) != 2 || len(got) != 1 ||
		got[0].Amount != 900 {
		t.Errorf("meters: %+v", m.Meters)
	}
	if is, _ := maintenance.Find(into.Tasks(t.Context()), "belts"); is.Filament != 4000 {
		t.Errorf("the task: %+v", is)
	}
	if parts, err := into.LastDoneParts(ctx, m.ID, "nozzle"); err != nil || !slices.Equal(parts, []string{"nozzle"}) {
		t.Errorf("what went in: %v, %v", parts, err)
	}
}

// A step of the house's own that is kept from an order for a task is in the next one too.
func TestAStepIsKeptInATask(t *testing.T) {
	t.Parallel()
	a, s := open(t)
	id := add(t, s, "Avocet", map[string]string{"nozzle.model": "plain nozzle", "belts.model": "belt"})
	order, err := a.OpenTask(ctx, id, "belts", "", "x", now)
	must(t, err)
	o, err := a.Order(ctx, order)
	must(t, err)
	if !o.MayKeepSteps {
		t.Error("an order for a task keeps no steps")
	}
	after := ""
	for _, step := range o.StepList {
		if step.Phase == "Fit" {
			after = step.Key
		}
	}
	own := app.AddedStep{After: after, Title: "Look at the idlers", Do: "By hand.", Keep: true}
	must(t, a.AddStep(ctx, order, own, "x"))
	second := add(t, s, "Bittern", map[string]string{"belts.model": "belt"})
	order, err = a.OpenTask(ctx, second, "belts", "", "x", now)
	must(t, err)
	o, err = a.Order(ctx, order)
	must(t, err)
	if !slices.ContainsFunc(o.StepList, func(s store.OrderStep) bool { return s.Title == "Look at the idlers" }) {
		t.Errorf("not in the next order: %d steps", len(o.StepList))
	}
}
