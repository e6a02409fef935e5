package app_test

import (
	"context"
	"slices"
	"strings"
	"testing"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/fleetquery"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/roster"
	"wardifex/internal/core/schedule"
	"wardifex/internal/core/shop"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// everyDay are shifts of the same hours on every day.
func everyDay(from, to string) (out []shop.Hours) {
	for d := range 7 {
		out = append(out, shop.Hours{Day: time.Weekday(d), From: from, To: to})
	}
	return out
}

// staffed is a shop with two machines, and two technicians of whom one may touch mains.
func staffed(t *testing.T) (*app.App, *store.Store, []int64, []app.Booker) {
	t.Helper()
	s := pgtest.Store(t)
	a := does(s)
	people := []app.Booker{account(t, s, "ansa", store.Lead, "mains wiring"), account(t, s, "joren", store.Technician)}
	for _, p := range people {
		must(t, a.SaveShifts(ctx, p.Account, everyDay("13:00", "17:00"), 0))
	}
	return a, s, []int64{add(t, s, "Avocet", large), add(t, s, "Bittern", large)}, people
}

func plan(t *testing.T, a *app.App) app.PlanView {
	t.Helper()
	must(t, a.PlanNow(ctx, 200, "Ansa", now))
	view, err := a.PlanOf(ctx, now)
	must(t, err)
	return view
}

// Proofs that are lacking are planned first; the plan keeps out of bookings, names why each stands
// where it does, and what is done is off it.
func TestThePlanOfTheWeeks(t *testing.T) {
	t.Parallel()
	a, s, machines, people := staffed(t)
	booked := ask(machines[0], 13, 16)
	booked.From, booked.To = now.Add(time.Hour), now.Add(4*time.Hour) // 13:00 to 16:00 today
	_, err := a.Book(ctx, booked, people[1], now)
	must(t, err)
	view := plan(t, a)
	proofs := 0
	for _, w := range view.Work {
		if w.From.Before(now) || w.From.Hour() < 13 || w.To.Hour() > 17 {
			t.Errorf("%s is out of the shifts: %v to %v", w.Key, w.From, w.To)
		}
		if w.MachineID == machines[0] && w.From.Before(booked.To) && w.To.After(booked.From) {
			t.Errorf("%s is planned over a booking", w.Key)
		}
		if len(w.Why) == 0 {
			t.Errorf("%s does not say why", w.Key)
		}
		if w.Task == maintenance.ProtectionTask {
			proofs++
			if civil.Of(w.From) != civil.Of(now) {
				t.Errorf("the proof of %s is left until %v", w.Machine, w.From)
			}
		}
	}
	if proofs != 2 {
		t.Fatalf("%d proofs are planned: %+v", proofs, view.Work)
	}
	done := maintenance.Completion{Task: "fans", At: now}
	must(t, a.MarkDone(ctx, machines[:1], done, "", "Joren", now))
	for _, w := range mustPlan(t, a).Work {
		if w.MachineID == machines[0] && w.Task == "fans" {
			t.Error("what is done is still planned")
		}
	}
	_ = s
}

func mustPlan(t *testing.T, a *app.App) app.PlanView {
	t.Helper()
	view, err := a.PlanOf(ctx, now)
	must(t, err)
	return view
}

// A piece of work is pinned where a person wants it, where no rule is against it, and stays there
// when others fall ill.
func TestPinnedWork(t *testing.T) {
	t.Parallel()
	a, s, machines, people := staffed(t)
	view := plan(t, a)
	i := slices.IndexFunc(view.Work, func(w app.ShownWork) bool {
		return w.Task == maintenance.ProtectionTask && w.MachineID == machines[0]
	})
	key := view.Work[i].Key
	at := time.Date(2026, 5, 3, 14, 0, 0, 0, time.UTC)
	for name, c := range map[string]struct {
		pin  app.Pin
		says string
	}{
		"in no shift":      {app.Pin{Key: key, Account: people[1].Account, From: at.Add(5 * time.Hour)}, "does not work"},
		"in the past":      {app.Pin{Key: key, Account: people[1].Account, From: now.Add(-time.Hour)}, "has passed"},
		"somebody without": {app.Pin{Key: key, Account: 999, From: at}, "told no shifts"},
		"what is no work":  {app.Pin{Key: "task/1/nothing", Account: people[1].Account, From: at}, "is done, or not due"},
	} {
		_, err := a.PinWork(ctx, c.pin, "Ansa", now)
		refused(t, err, c.says)
		if t.Failed() {
			t.Fatal(name)
		}
	}
	moved, err := a.PinWork(ctx, app.Pin{Key: key, Account: people[1].Account, From: at}, "Ansa", now)
	must(t, err)
	if moved > 1 {
		t.Errorf("%d moved for a pin", moved)
	}
	must(t, a.TakeLeave(ctx, people[0].Account, schedule.Leave{From: civil.Of(now), To: civil.Of(now) + 20, Why: "ill"}))
	id, err := a.AskForPlan(ctx, true, "Ansa", now)
	must(t, err)
	_, err = a.AskForPlan(ctx, true, "Ansa", now)
	refused(t, err, "is being made")
	must(t, a.StopRun(ctx, id))
	must(t, a.MakePlan(ctx, id))
	must(t, a.TakeRun(ctx, id, "Ansa", now))
	refused(t, a.TakeRun(ctx, id, "Ansa", now), "already")
	for _, w := range mustPlan(t, a).Work {
		if w.Account == people[0].Account && civil.Of(w.From) <= civil.Of(now)+20 {
			t.Errorf("%s is given to somebody who is ill", w.Key)
		}
		if w.Key == key && (!w.Pinned || !w.From.Equal(at)) {
			t.Errorf("the pin did not hold: %+v", w)
		}
	}
	must(t, a.LetGo(ctx, key))
	id, err = a.AskForPlan(ctx, false, "Ansa", now)
	must(t, err)
	must(t, a.MakePlan(ctx, id))
	_, err = a.PinWork(ctx, app.Pin{Key: key, Account: people[1].Account, From: at}, "Ansa", now)
	must(t, err)
	if err := a.TakeRun(ctx, id, "Ansa", now); err == nil || !strings.Contains(err.Error(), "Plan again") {
		t.Errorf("a plan from before a pin is taken: %v", err)
	}
	// The pinned time passes without the work: it is planned anew, and pinned no more.
	later := at.AddDate(0, 0, 2)
	must(t, app.New(s, func() time.Time { return later }).PlanNow(ctx, 100, "Ansa", later))
	for _, w := range mustPlan(t, a).Work {
		if w.Key == key && (w.Pinned || w.From.Before(later)) {
			t.Errorf("%+v", w)
		}
	}
}

// A plan that is put into force keeps the rules as they are by then, and is made from what is in force: the second of
// two leads is told. A run whose instance went away does not stand in the way of the next.
func TestAPlanIsTakenAsTheShopIs(t *testing.T) {
	t.Parallel()
	a, s, _, people := staffed(t)
	made := func() int64 {
		t.Helper()
		id, err := a.AskForPlan(ctx, false, "Ansa", now)
		must(t, err)
		must(t, a.StopRun(ctx, id))
		must(t, a.MakePlan(ctx, id))
		return id
	}
	first, second := made(), made()
	must(t, a.TakeRun(ctx, second, "Ansa", now))
	if err := a.TakeRun(ctx, first, "Joren", now); !isConflict(err) {
		t.Errorf("the second lead is not told: %v", err)
	}
	third := made()
	// Nobody works on the days of the plan any more.
	for _, p := range people {
		must(t, a.TakeLeave(ctx, p.Account, schedule.Leave{From: civil.Of(now), To: civil.Of(now) + 60, Why: "away"}))
	}
	before := len(mustPlan(t, a).Work)
	if err := a.TakeRun(ctx, third, "Ansa", now); !isConflict(err) || !strings.Contains(err.Error(), "does not work") {
		t.Errorf("work on days off is put into force: %v", err)
	}
	if after := len(mustPlan(t, a).Work); after != before {
		t.Errorf("%d jobs are planned, it were %d", after, before)
	}
	lost, err := a.AskForPlan(ctx, false, "Ansa", now)
	must(t, err)
	must(t, s.SetRun(ctx, lost, map[string]any{"state": store.RunRunning, "begun_at": now.Add(-time.Minute),
		"heard_at": now}))
	_, err = a.AskForPlan(ctx, false, "Joren", now.Add(10*time.Second))
	refused(t, err, "is being made")
	_, err = a.AskForPlan(ctx, false, "Joren", now.Add(29*time.Second))
	must(t, err)
	if run, err := s.RunOf(ctx, lost); err != nil || run.State != store.RunFailed {
		t.Errorf("%+v, %v", run, err)
	}
	must(t, a.MakePlan(ctx, lost)) // begun anew by the library: it is over
	if run, _ := s.RunOf(ctx, lost); run.State != store.RunFailed {
		t.Errorf("%+v", run)
	}
}

// What cannot be planned says what stands in its way and what would let it be.
func TestWhatBlocksWork(t *testing.T) {
	t.Parallel()
	a, s, machines, people := staffed(t)
	must(t, a.SaveShifts(ctx, people[0].Account, nil, 1))
	// Terminals need the skill that only the first has, who works no more.
	terminals, _ := maintenance.Find(maintenance.Shipped(), "terminals")
	terminals.Limits, terminals.Fitted, terminals.Kind, terminals.When = maintenance.Limits{Days: 10}, false, "frame", nil
	must(t, s.SaveTask(ctx, terminals, 0))
	must(t, s.Refresh(ctx))
	must(t, a.MarkDone(ctx, machines, maintenance.Completion{Task: "terminals", At: now.AddDate(0, 0, -8)}, "", "x", now))
	view := plan(t, a)
	var found *app.BlockedWork
	for i, b := range view.Offer.Blocked {
		if b.Title == terminals.Title {
			found = &view.Offer.Blocked[i]
		}
	}
	if found == nil || !strings.Contains(strings.Join(found.Why, "; "), "mains wiring") ||
		!strings.Contains(strings.Join(found.Unblock, "; "), "somebody with the skill") {
		t.Errorf("%+v of %+v", found, view.Offer.Blocked)
	}
	// Nobody works at all.
	must(t, a.SaveShifts(ctx, people[1].Account, nil, 1))
	view = plan(t, a)
	if len(view.Work) != 0 || len(view.Offer.Blocked) == 0 ||
		!strings.Contains(view.Offer.Blocked[0].Why[0], "nobody has told when they work") {
		t.Errorf("%d planned, %+v", len(view.Work), view.Offer.Blocked[:min(2, len(view.Offer.Blocked))])
	}
}

// Floors and circuits are kept, and refused where they contradict themselves.
func TestPlanningSettings(t *testing.T) {
	t.Parallel()
	a, _, machines, _ := staffed(t)
	wide, err := a.SaveQuestion(ctx, store.SavedQuestion{Name: "Wide",
		Question: fleetquery.Question{Columns: []string{"frame.x"},
			Where: []fleetquery.Filter{{Of: "frame.x", Test: fleetquery.AtLeast, Value: "200"}}}}, "Ansa", now)
	must(t, err)
	is, err := a.PlanningSettings(ctx)
	must(t, err)
	good := app.Planning{Days: 14, Weights: roster.Usual(), Version: is.Version, Floors: []store.Floor{{QuestionID: wide,
		Least: 2}},
		Circuits: []store.Circuit{{Name: "Wall", Watts: 3600, Machines: machines}}}
	for says, change := range map[string]func(*app.Planning){
		"no such question":   func(p *app.Planning) { p.Floors = []store.Floor{{QuestionID: 99, Least: 1}} },
		"two floors for one": func(p *app.Planning) { p.Floors = append(p.Floors, p.Floors[0]) },
		"a name of its own": func(p *app.Planning) {
			p.Circuits = []store.Circuit{{Name: "Wall", Watts: 1}, {Name: "wall", Watts: 1}}
		},
		"hangs on one circuit": func(p *app.Planning) {
			p.Circuits = []store.Circuit{{Name: "A", Watts: 1, Machines: machines}, {Name: "B", Watts: 1, Machines: machines}}
		},
		"name of a circuit": func(p *app.Planning) { p.Circuits = []store.Circuit{{Name: " ", Watts: 1}} },
	} {
		p := good
		p.Floors, p.Circuits = slices.Clone(good.Floors), slices.Clone(good.Circuits)
		change(&p)
		refused(t, a.SavePlanning(ctx, p), says)
	}
	must(t, a.SavePlanning(ctx, good))
	if err := a.SavePlanning(ctx, good); err == nil {
		t.Error("saved over another version")
	}
	view := plan(t, a)
	if len(view.Floors) != 1 || view.Floors[0].Ability != "Wide" || view.Floors[0].Of != 2 || view.Floors[0].Up != 2 {
		t.Errorf("%+v", view.Floors)
	}
	// Hours are not told: the shop counts as open always, and no machine of two may go down.
	for _, w := range view.Work {
		t.Errorf("%s breaks the floor", w.Key)
	}
}

// A person's day tells what others did since they were here, and how the fleet stands: what is as it should be
// takes one line.
func TestToday(t *testing.T) {
	t.Parallel()
	a, s, machines, people := staffed(t)
	must(t, a.Visit(ctx, people[0].Account, now.Add(-24*time.Hour)))
	// Both are shown by one name: what one did is news for the other all the same.
	by := func(who app.Booker) context.Context {
		return store.WithActor(ctx, store.Actor{Account: who.Account, Name: "Ansa", At: now.Add(-time.Hour)})
	}
	_, _, err := a.ReportFault(by(people[1]), machines[0], "", "it squeaks", "Ansa", now.Add(-time.Hour))
	must(t, err)
	_, _, err = a.ReportFault(by(people[0]), machines[1], "", "it squeaks too", "Ansa", now.Add(-time.Hour))
	must(t, err)
	day, err := a.Today(ctx, people[0].Account, now)
	must(t, err)
	if len(day.News) != 1 || day.News[0].Words != "1 fault was reported: Avocet" {
		t.Errorf("what others did: %+v", day.News)
	}
	if len(day.Lines) != 2 || day.Lines[0].Words != "Machines that can be used: 2 of 2" ||
		day.Lines[1].Words != "No week has been planned yet" {
		t.Errorf("before a plan: %+v", day.Lines)
	}
	plan(t, a)
	day, err = a.Today(ctx, people[0].Account, now)
	must(t, err)
	work := len(day.NextWork)
	for _, stop := range day.Stops {
		work += len(stop.Work)
		if stop.Bay != "Quay" {
			t.Errorf("a stop at %q", stop.Bay)
		}
	}
	if work == 0 || !day.Planned || len(day.Works) != 1 {
		t.Errorf("%d pieces of work, %+v", work, day)
	}
	other, err := a.Today(ctx, people[1].Account, now)
	must(t, err)
	if other.Since != nil || len(other.News) != 0 {
		t.Errorf("somebody who was never here is told %+v", other.News)
	}

	// Who wants to print sees until when a machine is taken, and when next.
	soon := ask(machines[0], 10, 12)
	soon.From, soon.To = now, now.Add(2*time.Hour)
	must(t, s.SavePlannedWork(ctx, nil))
	_, err = a.Book(ctx, soon, people[1], now)
	must(t, err)
	_, err = a.Book(ctx, ask(machines[0], 14, 15), people[1], now)
	must(t, err)
	list, err := a.Usable(ctx, app.UsableQuery{}, 0, 10, now)
	must(t, err)
	if last := list.Machines[1]; last.Name != "Avocet" || last.Taken == nil || !last.Taken.Equal(soon.To) ||
		last.Next == nil ||
		!last.Next.Equal(tomorrow(14)) || list.Machines[0].Taken != nil {
		t.Errorf("%+v", list.Machines)
	}
	if list, err = a.Usable(ctx, app.UsableQuery{Only: true}, 0, 10, now); err != nil || len(list.Machines) != 1 {
		t.Errorf("%d can be used now, %v", len(list.Machines), err)
	}
}

// What is short is what the shelf should hold and the plan takes, less what is there and on order.
func TestSpares(t *testing.T) {
	t.Parallel()
	a, s := open(t)
	must(t, a.SetSpareLevel(ctx, store.SpareLevel{Model: "hard nozzle", Least: 4}))
	shelf := store.PartFields{Shelf: "tin", Lot: "L7"}
	for range 2 {
		id, err := a.AddPart(ctx, "nozzle", "hard nozzle", shelf, "x", now)
		must(t, err)
		if id == 0 {
			t.Fatal("no part")
		}
	}
	_, err := a.PlaceOrders(ctx, []app.NewPurchase{{PurchaseFields: store.PurchaseFields{Supplier: "Kelp",
		ExpectedOn: "2026-05-09"},
		Lines: []app.NewPurchaseLine{{Kind: "nozzle", What: "hard nozzle", Count: 1}}}}, "x", now)
	must(t, err)
	rows, err := a.Spares(ctx)
	must(t, err)
	if len(rows) != 1 || rows[0].Shelf != 2 || rows[0].OnOrder != 1 || rows[0].Expected != "2026-05-09" ||
		rows[0].Short != 1 ||
		len(rows[0].Lots) != 1 || rows[0].Lots[0].Lot != "L7" {
		t.Errorf("%+v", rows)
	}
	_, err = a.PlaceOrders(ctx, []app.NewPurchase{{PurchaseFields: store.PurchaseFields{Supplier: "Kelp",
		ExpectedOn: "2026-04-01"},
		Lines: []app.NewPurchaseLine{{What: "x", Count: 1}}}}, "x", now)
	refused(t, err, "cannot be expected")
	must(t, a.SetSpareLevel(ctx, store.SpareLevel{Model: "hard nozzle"}))
	if rows, err = a.Spares(ctx); err != nil || rows[0].Short != 0 {
		t.Errorf("%+v, %v", rows, err)
	}
	_ = s
}

// The record's numbers are those of its rows: out of use for half of a week, one fault mended in a day.
func TestReliabilityOfTheRecord(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	early := app.New(s, func() time.Time { return now.AddDate(0, 0, -14) })
	id, err := early.AddMachine(ctx, store.Fields{Name: "Avocet", Bay: "Quay"}, app.Like{}, "x", now.AddDate(0, 0, -14))
	must(t, err)
	monday := civil.Of(now) - 11 // 20 April 2026
	at := func(days int) time.Time { return (monday + civil.Day(days)).Start(time.UTC) }
	must(t, s.AddUse(ctx, id, maintenance.OutOfUse, "x", "x", at(0)))
	must(t, s.AddUse(ctx, id, maintenance.InUse, "x", "x", at(3).Add(12*time.Hour)))
	fault, _, err := early.ReportFault(ctx, id, "", "it squeaks", "x", at(1))
	must(t, err)
	must(t, early.CloseFault(ctx, fault, 1, "oiled", "x", at(2)))
	list, err := does(s).ReliabilityBy(ctx, monday, monday+6, "bay", now)
	must(t, err)
	r := list.All
	if r.Available == nil || *r.Available != 0.5 || r.Failures != 1 || r.ToRepair == nil || *r.ToRepair != 24 ||
		r.Between == nil || *r.Between != 84 || list.Told {
		t.Errorf("%+v", r)
	}
	text, err := app.ReliabilityCSV(list)
	must(t, err)
	if !strings.Contains(string(text), "\r\nQuay,1,168.000,84.000,0.500,1,84.000,1,24.000,0.000,0.000\r\n") {
		t.Errorf("%s", text)
	}
	_, err = does(s).ReliabilityBy(ctx, monday, monday-1, "bay", now)
	refused(t, err, "a last one after it")
}
