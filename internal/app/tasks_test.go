package app_test

import (
	"errors"
	"testing"

	"wardifex/internal/app"
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
	must(t, a.MarkDone(ctx, id, maintenance.Completion{Task: "filter", At: now}, "", "x", now))
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
