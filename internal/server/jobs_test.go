package server_test

import (
	"io"
	"log/slog"
	"testing"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/core/shop"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/server"
	"wardifex/internal/store"
)

// Two instances share background work: a plan that was asked for is made once, by one of them.
func TestInstancesShareAPlan(t *testing.T) {
	t.Parallel()
	st := pgtest.Store(t)
	a := app.New(st, time.Now)
	account, err := st.AddUser(t.Context(), store.User{Name: "ansa", DisplayName: "Ansa", Role: store.Technician})
	if err != nil {
		t.Fatal(err)
	}
	var hours []shop.Hours
	for day := range 7 {
		hours = append(hours, shop.Hours{Day: time.Weekday(day), From: "00:00", To: "24:00"})
	}
	if err := a.SaveShifts(t.Context(), account, hours, 0); err != nil {
		t.Fatal(err)
	}
	if _, err := a.AddMachine(t.Context(), store.Fields{Name: "Avocet"}, app.Like{}, "x", time.Now()); err != nil {
		t.Fatal(err)
	}
	instance := func() *server.Server {
		s := server.New(server.Config{Store: st, Clock: time.Now, Log: slog.New(slog.NewTextHandler(io.Discard, nil))})
		if err := s.StartJobs(); err != nil {
			t.Fatal(err)
		}
		t.Cleanup(s.Close)
		return s
	}
	done := func(id int64) store.Run {
		t.Helper()
		end := time.Now().Add(time.Minute)
		for range time.Tick(50 * time.Millisecond) {
			if time.Now().After(end) {
				break
			}
			run, err := st.RunOf(t.Context(), id)
			if err != nil {
				t.Fatal(err)
			}
			if run.State == store.RunDone || run.State == store.RunFailed {
				return run
			}
			if run.State == store.RunRunning && !run.Stop {
				_ = a.StopRun(t.Context(), id)
			}
		}
		t.Fatal("no plan was made within a minute")
		return store.Run{}
	}
	instance()
	instance()
	id, err := a.AskForPlan(t.Context(), false, "Ansa", time.Now())
	if err != nil {
		t.Fatal(err)
	}
	if run := done(id); run.State != store.RunDone {
		t.Errorf("%+v", run)
	}
	var attempts, jobs int
	err = st.SQL.QueryRow("select count(*), max(attempt) from river_job where kind = 'plan-weeks'").Scan(&jobs, &attempts)
	if err != nil || jobs != 1 || attempts != 1 {
		t.Errorf("%d jobs, tried %d times, %v", jobs, attempts, err)
	}
	if err := a.TakeRun(t.Context(), id, "Ansa", time.Now()); err != nil {
		t.Fatal(err)
	}
	view, err := a.PlanOf(t.Context(), time.Now())
	if err != nil || len(view.Work) == 0 {
		t.Errorf("%d pieces of work, %v", len(view.Work), err)
	}
}
