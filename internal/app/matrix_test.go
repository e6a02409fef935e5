package app_test

import (
	"reflect"
	"testing"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// Who is short of patience gets the page that was asked for, whole, and counts of what is
// judged so far; the rest is judged in the background, and the matrix is then the one that
// a patient person gets.
func TestAMatrixIsJudgedInTheBackground(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	manyMachines(t, s)
	a := does(s)
	q := app.MatrixQuery{Offset: 200, Limit: 10, Patience: time.Nanosecond}
	first, err := a.Matrix(ctx, q)
	must(t, err)
	if len(first.Machines) != 10 || first.Machines[0].Name != "Pier 201" || first.MachinesFound != 400 {
		t.Errorf("the page: %d machines from %q of %d", len(first.Machines), first.Machines[0].Name, first.MachinesFound)
	}
	if first.Judged < 10 || first.Judged == first.AllMachines {
		t.Errorf("judged at once: %d of %d", first.Judged, first.AllMachines)
	}
	late := first
	for end := time.Now().Add(time.Minute); late.Judged < late.AllMachines; {
		if time.Now().After(end) {
			t.Fatalf("after a minute %d of %d are judged", late.Judged, late.AllMachines)
		}
		late, err = a.Matrix(ctx, q)
		must(t, err)
	}
	q.Patience = 0
	whole, err := does(s).Matrix(ctx, q)
	must(t, err)
	if !reflect.DeepEqual(late, whole) {
		t.Error("judged in the background it is another matrix")
	}
}

// Tasks without a date are counted for the whole fleet, and the first machines of each given.
func TestUndatedTasksAreCounted(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	manyMachines(t, s)
	due, err := does(s).Due(ctx, app.DueQuery{Within: -1, Limit: 3}, time.Now())
	must(t, err)
	if len(due.Undated) == 0 {
		t.Fatal("no task of a new fleet is without a date")
	}
	rows := map[app.UndatedDue]int{}
	for _, r := range due.Rows {
		rows[app.UndatedDue{State: r.State, Task: r.Task}]++
	}
	for _, u := range due.Undated {
		if u.Machines != 400 || u.Task != "" && rows[app.UndatedDue{State: u.State, Task: u.Task}] != app.UndatedShown {
			t.Errorf("%s %s: %d machines are counted", u.State, u.Task, u.Machines)
		}
	}
}

// manyMachines puts four hundred machines of which nothing is known into the register.
func manyMachines(t *testing.T, s *store.Store) {
	t.Helper()
	_, err := s.SQL.Exec(`insert into machines (name, bay, since, changed_by, changed_at)
		select 'Pier ' || lpad(i::text, 3, '0'), 'Bay ' || i % 7, now(), 'x', now() from generate_series(1, 400) i`)
	must(t, err)
}
