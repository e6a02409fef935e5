package app

import (
	"cmp"
	"context"
	"slices"
	"time"

	"wardifex/internal/core/change"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/roster"
	"wardifex/internal/core/schedule"
	"wardifex/internal/store"
)

// rosterSlot is how long a slot of a plan is.
const rosterSlot = 15 * time.Minute

// rosterJob is a job of the planner with what it is of in the record.
type rosterJob struct {
	roster.Job
	title string
	task  string
	order int64
	fault int64
	waits string // for what an order is left
}

// rosterShop is the shop as the planner sees it.
type rosterShop struct {
	problem roster.Problem
	jobs    []rosterJob
	fleet   []store.Machine
	people  []store.User
	set     Planning
	in      *time.Location
	used    map[string]int // pieces that placed jobs take, by model
}

// workshop loads the shop as the planner sees it: all due and coming work within the days that it
// plans, who works when, and what is booked.
func (a *App) workshop(ctx context.Context, now time.Time) (*rosterShop, error) {
	s := &rosterShop{in: a.store.Location()}
	var err error
	if s.set, err = a.PlanningSettings(ctx); err != nil {
		return nil, err
	}
	if s.fleet, err = a.store.Fleet(ctx); err != nil {
		return nil, err
	}
	if err = a.store.Wear(ctx, s.fleet); err != nil {
		return nil, err
	}
	from := now.Truncate(rosterSlot)
	if from.Before(now) {
		from = from.Add(rosterSlot)
	}
	first := civil.Of(from.In(s.in))
	last := first + civil.Day(s.set.Days) - 1
	to := (last + 1).Start(s.in)
	s.problem = roster.Problem{From: from, Slot: rosterSlot, Slots: int(to.Sub(from) / rosterSlot), In: s.in,
		Weights: s.set.Weights, Circuits: map[string]float64{}}
	for _, load := range []func() error{
		func() error { return a.loadCalendar(ctx, s, first, last) },
		func() error { return a.loadMachines(ctx, s, schedule.Span{From: from, To: to}, now) },
		func() error { return a.loadJobs(ctx, s, now) },
		func() error { return a.loadStock(ctx, s) },
	} {
		if err := load(); err != nil {
			return nil, err
		}
	}
	for i := range s.jobs {
		s.problem.Jobs = append(s.problem.Jobs, s.jobs[i].Job)
	}
	return s, nil
}

// loadCalendar loads when the shop is open and who works when.
func (a *App) loadCalendar(ctx context.Context, s *rosterShop, first, last civil.Day) error {
	set, err := a.store.Shop(ctx)
	if err != nil {
		return err
	}
	closed, err := a.store.Closures(ctx, first)
	if err != nil {
		return err
	}
	s.problem.Open, _ = schedule.Opening(set.Settings, closed, first, last, s.in)
	leaves, err := a.store.Leaves(ctx, first)
	if err != nil {
		return err
	}
	users, err := a.store.Users(ctx)
	for _, u := range users {
		if u.DisabledAt != nil || u.Role == store.Member || len(u.Shifts) == 0 {
			continue
		}
		w := schedule.Worker{Account: u.ID, Name: u.DisplayName, Skills: u.Skills, Shifts: u.Shifts, Leave: leaves[u.ID]}
		s.people = append(s.people, u)
		s.problem.People = append(s.problem.People, roster.Person{Name: u.DisplayName, Skills: u.Skills,
			Works: w.Works(first, last, s.in)})
	}
	return err
}

// loadMachines loads the machines with their bookings, circuits and floors, and how busy the shop is.
func (a *App) loadMachines(ctx context.Context, s *rosterShop, within schedule.Span, now time.Time) error {
	times, err := a.bookedTimes(ctx, within)
	if err != nil {
		return err
	}
	booked := map[int64][]schedule.Span{}
	for _, t := range times {
		booked[t.Machine] = append(booked[t.Machine], t.Span)
	}
	on := map[int64]string{}
	for _, c := range s.set.Circuits {
		s.problem.Circuits[c.Name] = c.Watts
		for _, m := range c.Machines {
			on[m] = c.Name
		}
	}
	for i := range s.fleet {
		m := &s.fleet[i]
		state, _ := a.readiness(m, now).Available()
		s.problem.Machines = append(s.problem.Machines, roster.Machine{Name: m.Name, Place: m.Bay,
			Booked: schedule.Join(booked[m.ID]...),
			Down:   state == maintenance.TakenOut, Locked: m.OpenOrder != nil, Circuit: on[m.ID], Prints: roster.Heats(m.Facts)})
	}
	if s.problem.Floors, _, err = a.abilities(ctx, s.fleet, now); err != nil {
		return err
	}
	s.problem.Busy, err = a.busyHours(ctx, s, now)
	return err
}

// busyWeeks is from how many weeks of bookings it is told how busy the shop is.
const busyWeeks = 8

// busyHours is how busy each hour of the week is, from 0 to 1.
func (a *App) busyHours(ctx context.Context, s *rosterShop, now time.Time) ([7][24]float64, error) {
	times, err := a.bookedTimes(ctx, schedule.Span{From: now.AddDate(0, 0, -7*busyWeeks), To: now})
	booked := make([]schedule.Span, len(times))
	for i, t := range times {
		booked[i] = t.Span
	}
	return schedule.Busy(s.problem.Open, booked, s.in), err
}

// loadJobs makes jobs of all work that is due within the days that are planned, of the orders that
// are open or wait, and of the faults that nobody mends yet.
func (a *App) loadJobs(ctx context.Context, s *rosterShop, now time.Time) error {
	index := map[int64]int{}
	for i := range s.fleet {
		index[s.fleet[i].ID] = i
	}
	ahead, err := a.store.WorkAhead(ctx)
	if err != nil {
		return err
	}
	var skills []string
	for _, u := range s.people {
		skills = append(skills, u.Skills...)
	}
	mended := map[int64]bool{}
	ordered := map[string]bool{}
	last := map[int]int{}
	faults, err := a.store.Faults(ctx, store.FaultFilter{Show: "open"})
	if err != nil {
		return err
	}
	dangers := map[int64]bool{}
	for _, f := range faults.Rows {
		dangers[f.ID] = f.Danger
	}
	for _, w := range ahead {
		m, here := index[w.MachineID]
		if !here {
			continue
		}
		mended[w.FaultID] = true
		ordered[roster.TaskKey(w.MachineID, w.Task)] = w.Task != ""
		job, err := a.orderJob(ctx, w, dangers[w.FaultID], &s.fleet[m], skills)
		if err != nil {
			return err
		}
		job.Machine = m
		if before, chained := last[m]; chained {
			job.After = []int{before}
		}
		last[m] = len(s.jobs)
		s.jobs = append(s.jobs, job)
	}
	for _, f := range faults.Rows {
		if m, here := index[f.MachineID]; here && !mended[f.ID] {
			out := s.fleet[m].Use.Use == maintenance.OutOfUse
			job := rosterJob{title: "Repair: " + faultTitle(f), fault: f.ID, Job: roster.RepairJob(f.ID, f.Symptom, f.Danger,
				out, f.At)}
			job.Machine = m
			s.jobs = append(s.jobs, job)
		}
	}
	s.dueJobs(ordered, now)
	return nil
}

func (a *App) orderJob(ctx context.Context, w store.WorkAhead, danger bool, m *store.Machine, skills []string) (
	rosterJob, error) {
	o := roster.WorkOrder{ID: w.ID, Task: w.Task, Open: w.State == store.Opened, Since: w.OpenedAt, Minutes: w.Minutes,
		Done:    w.Done,
		Repairs: w.FaultID != 0, Danger: danger,
		Steps: w.Steps, Mains: w.Mains, Experience: w.Experience, Models: w.Models}
	if !o.Open { // its steps are not written yet
		stored, err := a.store.Order(ctx, w.ID)
		if err != nil {
			return rosterJob{}, err
		}
		c, err := change.NewChange(stored.Kit, stored.Additional, m.Facts)
		o.Mains = err != nil || c.TouchesMains() // what cannot be told is for who may touch it
	}
	return rosterJob{Job: roster.OrderJob(o, skills), title: w.Title, task: w.Task, order: w.ID, waits: w.Waits}, nil
}

func faultTitle(f store.ReportedFault) string {
	if s, ok := maintenance.SymptomOf(f.Symptom); ok {
		return s.Title
	}
	return f.Words
}

// dueJobs makes jobs of the tasks that are due within the days that are planned; those whose start
// is unknown when their first round comes.
func (s *rosterShop) dueJobs(ordered map[string]bool, now time.Time) {
	end := civil.Of(now.In(s.in)) + civil.Day(s.set.Days)
	var unknown []rosterJob
	waiting := map[string]int{}
	for i := range s.fleet {
		m := &s.fleet[i]
		for _, d := range maintenance.DueList(m.Subject(now), now) {
			task, known := maintenance.Find(m.Tasks, d.Task)
			if !known || ordered[roster.TaskKey(m.ID, d.Task)] {
				continue
			}
			job := rosterJob{title: d.Title, task: d.Task, Job: roster.TaskJob(m.ID, m.Facts, task, d, now, s.in)}
			job.Machine = i
			switch {
			case d.State == maintenance.Unproven:
			case d.State == maintenance.StartUnknown:
				waiting[d.Task]++
				unknown = append(unknown, job)
				continue
			case d.On == nil || *d.On >= end:
				continue
			}
			s.jobs = append(s.jobs, job)
		}
	}
	slices.SortStableFunc(unknown, func(a, b rosterJob) int { return cmp.Compare(a.task, b.task) })
	for _, r := range maintenance.FirstRounds(s.tasks(), waiting, civil.Of(now.In(s.in))) {
		due := (r.From + civil.Day(7*r.Weeks)).Start(s.in)
		if due.After(end.Start(s.in)) {
			continue
		}
		for _, job := range unknown {
			if job.task == r.Task {
				job.Due = due
				s.jobs = append(s.jobs, job)
			}
		}
	}
}

func (s *rosterShop) tasks() []maintenance.Task {
	if len(s.fleet) == 0 {
		return nil
	}
	return s.fleet[0].Tasks
}

// loadStock counts the spares of the models that work asks for, and when more arrive. A model that
// the shop keeps no count of stands in no job's way.
func (a *App) loadStock(ctx context.Context, s *rosterShop) error {
	stock, err := a.spareStock(ctx)
	if err != nil {
		return err
	}
	s.problem.Stock = map[string]roster.Stock{}
	for i := range s.jobs {
		for model := range s.jobs[i].Parts {
			of, kept := stock[model]
			if !kept {
				delete(s.jobs[i].Parts, model)
				continue
			}
			s.problem.Stock[model] = of
		}
	}
	return nil
}

// spareStock is what is on the shelf and on order, by model: of those that the shop keeps a count
// of, because it has some, waits for some, or has said how many there should be.
func (a *App) spareStock(ctx context.Context) (map[string]roster.Stock, error) {
	out := map[string]roster.Stock{}
	shelf, err := a.store.OnShelf(ctx)
	if err != nil {
		return nil, err
	}
	for of, n := range shelf {
		s := out[of.Model]
		s.Now += n
		out[of.Model] = s
	}
	levels, err := a.store.SpareLevels(ctx)
	if err != nil {
		return nil, err
	}
	for _, l := range levels {
		if _, kept := out[l.Model]; !kept {
			out[l.Model] = roster.Stock{} // a count is kept, if only of none
		}
	}
	ordered, err := a.sparesOnOrder(ctx)
	for _, o := range ordered {
		s := out[o.model]
		if o.expected != nil { // what comes on a day can be used from the next on
			s.Arriving = append(s.Arriving, roster.Arrival{At: (*o.expected + 1).Start(a.store.Location()), Count: o.count})
		}
		out[o.model] = s
	}
	return out, err
}
