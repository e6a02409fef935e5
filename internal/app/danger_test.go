package app_test

import (
	"context"
	"slices"
	"strings"
	"testing"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/fleetquery"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/roster"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// danger is a shop with a proven machine of which a member reports smoke, and two that are built like it.
type dangerShop struct {
	*app.App
	s                    *store.Store
	avocet, fault        int64
	technician, lead, by int64
}

func inDanger(t *testing.T) dangerShop {
	t.Helper()
	s := pgtest.Store(t)
	d := dangerShop{App: does(s), s: s}
	d.avocet = add(t, s, "Avocet", map[string]string{"supply.model": "Gannet 360", "mainboard.model": "Brace board"})
	add(t, s, "Brant", map[string]string{"supply.model": "Gannet 360"})
	add(t, s, "Curlew", map[string]string{"supply.model": "Gannet 240"})
	for _, role := range []string{store.Technician, store.Lead, store.Member} {
		id, err := s.AddUser(ctx, store.User{Name: role, DisplayName: "The " + role, Role: role})
		must(t, err)
		switch role {
		case store.Technician:
			d.technician = id
		case store.Lead:
			d.lead = id
		default:
			d.by = id
		}
	}
	proof := calibration.Record{Kind: calibration.Protection, Passed: true, Method: "usb", At: now, By: "x",
		Value: "alarm after 40 s", Proof: calibration.Proof{Alarm: "heating failed", Seconds: 40}}
	must(t, d.s.AddCalibration(ctx, d.avocet, 0, proof))
	if m := load(t, s, d.avocet); !m.Protection(now).Proven {
		t.Fatal("the machine is not proven to begin with")
	}
	return d
}

func (d *dangerShop) report(t *testing.T) {
	t.Helper()
	as := store.WithActor(ctx, store.Actor{Account: d.by, Name: "The member", At: now})
	id, danger, err := d.ReportFault(as, d.avocet, "too-hot", "smoke at the back", "The member", now)
	must(t, err)
	if !danger {
		t.Fatal("smoke is no danger")
	}
	d.fault = id
}

func (d *dangerShop) notices(t *testing.T, account int64) []store.Notice {
	t.Helper()
	list, err := d.Notices(ctx, account)
	must(t, err)
	return list.Notices
}

// A report of danger closes the machine, doubts its protection, and tells every technician and lead with the
// machines that are built alike; nobody else is told.
func TestDangerIsToldAndClosesTheMachine(t *testing.T) {
	t.Parallel()
	d := inDanger(t)
	d.report(t)
	for _, account := range []int64{d.technician, d.lead} {
		list := d.notices(t, account)
		if len(list) != 1 || !list[0].Danger || !strings.Contains(list[0].Words, "Avocet") ||
			!strings.Contains(list[0].Words, "Gannet 360: Brant") || strings.Contains(list[0].Words, "Curlew") {
			t.Errorf("account %d is told %+v", account, list)
		}
	}
	if list := d.notices(t, d.by); len(list) != 0 {
		t.Errorf("the member is told %+v", list)
	}
	m := load(t, d.s, d.avocet)
	if p := m.Protection(now); p.Proven || slices.ContainsFunc(p.Heaters, func(h calibration.ProvenHeater) bool {
		return h.Proven
	}) {
		t.Errorf("its protection counts as proven: %+v", p)
	}
	usable, err := d.Usable(ctx, app.UsableQuery{}, 0, 10, now)
	must(t, err)
	for _, u := range usable.Machines {
		if (u.ID == d.avocet) == u.State.Usable() {
			t.Errorf("%s is %s", u.Name, u.State)
		}
	}
	must(t, d.SetUse(ctx, []int64{d.avocet}, maintenance.OutOfUse, "still", "x", now))
	refused(t, d.SetUse(ctx, []int64{d.avocet}, maintenance.InUse, "looks fine", "x", now), "Close fault 1")
	list, err := d.Dangers(ctx, d.technician, now.Add(4*time.Minute))
	must(t, err)
	if len(list) != 1 || !list[0].Waiting || list[0].Overdue || len(list[0].Sisters) != 1 {
		t.Errorf("after 4 minutes: %+v", list)
	}
	if list, _ = d.Dangers(ctx, d.technician, now.Add(5*time.Minute)); !list[0].Overdue {
		t.Error("after the shop's 5 minutes nobody is late")
	}
	if today, err := d.Today(ctx, d.technician, now); err != nil || len(today.Lines) == 0 ||
		today.Lines[0].About != "danger" {
		t.Errorf("today begins with %+v, %v", today.Lines, err)
	}
	answer, err := d.Ask(ctx, fleetquery.Question{Down: true, Columns: []string{fleetquery.NextColumn}}, now)
	must(t, err)
	if first := answer.Rows[0]; first.ID != d.avocet || strings.Contains(first.Cells[0].Text, "protection") {
		t.Errorf("the fleet begins with %+v", first)
	}
	due, err := d.Due(ctx, app.DueQuery{Within: -1, Limit: 100}, now)
	must(t, err)
	for _, r := range due.Rows {
		if r.Danger != (r.MachineID == d.avocet) {
			t.Errorf("%s on %s: danger %v", r.Task, r.Machine, r.Danger)
		}
	}
}

// What was closed is opened by closing the fault: then the proof counts again, and the use is for people to set.
// Opened again, the fault is the danger that it was.
func TestADangerEndsWithItsFault(t *testing.T) {
	t.Parallel()
	d := inDanger(t)
	d.report(t)
	must(t, d.CloseFault(ctx, d.fault, 1, "steam from wet filament; looked at, nothing burnt", "The technician", now))
	if m := load(t, d.s, d.avocet); !m.Protection(now).Proven || m.Use.Use != maintenance.OutOfUse {
		t.Errorf("proven %v, %s", m.Protection(now).Proven, m.Use.Use)
	}
	must(t, d.SetUse(ctx, []int64{d.avocet}, maintenance.InUse, "looked at", "The technician", now))
	must(t, d.CloseFault(ctx, d.fault, 2, "", "The technician", now))
	if m := load(t, d.s, d.avocet); m.Protection(now).Proven || m.Use.Use != maintenance.OutOfUse {
		t.Errorf("opened again: proven %v, %s", m.Protection(now).Proven, m.Use.Use)
	}
	if n := len(d.notices(t, d.lead)); n != 2 {
		t.Errorf("the lead is told %d times, want once for each opening", n)
	}
}

// A danger is told again until somebody has taken it, and one who opens its repair has.
func TestADangerIsToldAgainUntilItIsTaken(t *testing.T) {
	t.Parallel()
	d := inDanger(t)
	d.report(t)
	jobs := func() (n int) {
		t.Helper()
		must(t, d.s.SQL.QueryRow("select count(*) from river_job where kind = 'danger-reminder'").Scan(&n))
		return n
	}
	if jobs() != 1 {
		t.Fatalf("%d reminders are handed over with the report", jobs())
	}
	must(t, d.RemindOfDanger(ctx, app.DangerReminder{Fault: d.fault, Round: 1}, now.Add(5*time.Minute)))
	for _, account := range []int64{d.technician, d.lead} {
		if list := d.notices(t, account); len(list) != 2 || !strings.Contains(list[0].Words, "5 minutes") {
			t.Errorf("account %d is told %+v", account, list)
		}
	}
	if jobs() != 2 {
		t.Errorf("%d reminders; one more is handed over while nobody takes it", jobs())
	}
	as := store.WithActor(ctx, store.Actor{Account: d.technician, Name: "The technician", At: now})
	_, err := d.OpenRepair(as, d.fault, "The technician", now)
	must(t, err)
	must(t, d.RemindOfDanger(ctx, app.DangerReminder{Fault: d.fault, Round: 2}, now.Add(10*time.Minute)))
	if list := d.notices(t, d.lead); len(list) != 2 || jobs() != 2 {
		t.Errorf("told %d times and %d reminders after it was taken", len(list), jobs())
	}
	list, err := d.Dangers(ctx, d.technician, now)
	if err != nil || len(list) != 1 || list[0].Waiting || !list[0].Fault.Mine {
		t.Errorf("%+v, %v", list, err)
	}
}

// What was planned for a task stands there again when marking it done is undone.
func TestUndoneWorkIsPlannedAgain(t *testing.T) {
	t.Parallel()
	d := inDanger(t)
	work := store.PlannedWork{Key: roster.TaskKey(d.avocet, "belts"), MachineID: d.avocet, AccountID: d.technician,
		Starts: now, Ends: now.Add(time.Hour), Kind: "belts", Title: "Belts", Task: "belts"}
	must(t, d.s.SavePlannedWork(ctx, []store.PlannedWork{work}))
	must(t, d.MarkDone(ctx, []int64{d.avocet}, maintenance.Completion{Task: "belts", At: now}, "", "x", now))
	if list, err := d.s.PlannedWork(ctx); err != nil || len(list) != 0 {
		t.Fatalf("done, and planned still: %+v, %v", list, err)
	}
	must(t, d.UndoDone(ctx, d.avocet, "belts"))
	list, err := d.s.PlannedWork(ctx)
	if err != nil || len(list) != 1 || list[0].Key != work.Key || !list[0].Starts.Equal(now) ||
		list[0].AccountID != d.technician {
		t.Errorf("undone: %+v, %v", list, err)
	}
}

// Nothing else is begun on a dangerous machine, what was planned there is dropped, and it cannot be booked.
func TestNothingElseIsDoneOnADangerousMachine(t *testing.T) {
	t.Parallel()
	d := inDanger(t)
	must(t, d.s.InTx(ctx, func(ctx context.Context) error {
		return d.s.SavePlannedWork(ctx, []store.PlannedWork{{Key: "task/1/belts", MachineID: d.avocet,
			AccountID: d.technician, Starts: now, Ends: now.Add(time.Hour), Kind: "belts", Title: "Belts", Task: "belts"}})
	}))
	d.report(t)
	if work, err := d.s.PlannedWork(ctx); err != nil || len(work) != 0 {
		t.Errorf("planned there: %+v, %v", work, err)
	}
	_, err := d.OpenTask(ctx, d.avocet, "belts", "", "x", now)
	refused(t, err, "fault 1")
	_, err = d.OpenSwap(ctx, d.avocet, "supply", "Gannet 240", 0, "why", "x", now)
	refused(t, err, "fault 1")
	ask := app.BookingAsk{Machine: d.avocet, What: "a vase", From: now.Add(time.Hour), To: now.Add(2 * time.Hour),
		Attended: true}
	answer, err := d.CheckBooking(ctx, ask, 0, now)
	must(t, err)
	if len(answer.Refused) == 0 {
		t.Error("it can be booked")
	}
	for _, o := range answer.Offers {
		if o.ID == d.avocet {
			t.Errorf("offered when it is next free: %+v", o)
		}
	}
}
