package app

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/roster"
	"wardifex/internal/core/schedule"
	"wardifex/internal/store"
)

// Minutes that work takes of which nobody has said it. Source: from memory.
const (
	usualTask   = 15
	usualOrder  = 60
	usualRepair = 45
	rosterSlot  = 15 * time.Minute
)

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
		state, _ := readiness(m, now).Available()
		s.problem.Machines = append(s.problem.Machines, roster.Machine{Name: m.Name, Place: m.Bay,
			Booked: schedule.Join(booked[m.ID]...),
			Down:   state == maintenance.TakenOut, Locked: m.OpenOrder != nil, Circuit: on[m.ID], Prints: heats(m)})
	}
	if s.problem.Floors, _, err = a.abilities(ctx, s.fleet, now); err != nil {
		return err
	}
	s.problem.Busy, err = a.busyHours(ctx, s, now)
	return err
}

// usualHeats is what a machine draws while it heats, where its heaters' power is not known, W.
// Source: from memory.
const usualHeats = 300

// heats is what a machine draws while it heats, W.
func heats(m *store.Machine) float64 {
	sum := 0.0
	for _, p := range m.Facts.Each(parts.Heater) {
		if w, ok := m.Facts.Number(p, parts.HeaterWatts); ok {
			sum += w
		}
	}
	if sum == 0 {
		return usualHeats
	}
	return sum
}

// Busy hours are told from the bookings of some weeks before: an hour in which no machine was
// booked still counts a quarter of the busiest, and one in which the shop is closed nothing.
const (
	busyWeeks = 8
	quiet     = 0.25
)

// busyHours is how busy each hour of the week is, from 0 to 1.
func (a *App) busyHours(ctx context.Context, s *rosterShop, now time.Time) (busy [7][24]float64, err error) {
	times, err := a.bookedTimes(ctx, schedule.Span{From: now.AddDate(0, 0, -7*busyWeeks), To: now})
	if err != nil {
		return busy, err
	}
	most := 0.0
	for _, t := range times {
		for at := t.From.Truncate(time.Hour); at.Before(t.To); at = at.Add(time.Hour) {
			local := at.In(s.in)
			busy[local.Weekday()][local.Hour()]++
			most = max(most, busy[local.Weekday()][local.Hour()])
		}
	}
	open := [7][24]bool{}
	for _, span := range s.problem.Open {
		for at := span.From.Truncate(time.Hour); at.Before(span.To); at = at.Add(time.Hour) {
			local := at.In(s.in)
			open[local.Weekday()][local.Hour()] = true
		}
	}
	for d := range busy {
		for h := range busy[d] {
			switch {
			case !open[d][h]:
				busy[d][h] = 0
			case most == 0:
				busy[d][h] = 1
			default:
				busy[d][h] = quiet + (1-quiet)*busy[d][h]/most
			}
		}
	}
	return busy, nil
}

// riskOf is how grave it is when a task is late, from 1 to 4.
func riskOf(r maintenance.Risk) int {
	return len(maintenance.Risks()) - max(0, slices.Index(maintenance.Risks(), r))
}

func taskKey(machine int64, task string) string { return fmt.Sprintf("task/%d/%s", machine, task) }
func orderKey(order int64) string               { return fmt.Sprintf("order/%d", order) }
func faultKey(fault int64) string               { return fmt.Sprintf("fault/%d", fault) }

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
	mended := map[int64]bool{}
	ordered := map[string]bool{}
	last := map[int]int{}
	for _, w := range ahead {
		m, here := index[w.MachineID]
		if !here {
			continue
		}
		mended[w.FaultID] = true
		ordered[taskKey(w.MachineID, w.Task)] = w.Task != ""
		job := orderJob(w, m)
		// A kit says in words what its fitter has done before; it is a rule where somebody here has it as a skill.
		if w.State == store.Planned && slices.ContainsFunc(s.people, func(u store.User) bool {
			return slices.Contains(u.Skills, w.Skill)
		}) {
			job.Skill = w.Skill
		}
		if before, chained := last[m]; chained {
			job.After = []int{before}
		}
		last[m] = len(s.jobs)
		s.jobs = append(s.jobs, job)
	}
	faults, err := a.store.Faults(ctx, store.FaultFilter{Show: "open"})
	if err != nil {
		return err
	}
	for _, f := range faults {
		if m, here := index[f.MachineID]; here && !mended[f.ID] {
			s.jobs = append(s.jobs, faultJob(f, m, s.fleet[m].Use.Use == maintenance.OutOfUse))
		}
	}
	s.dueJobs(ordered, now)
	return nil
}

func orderJob(w store.WorkAhead, m int) rosterJob {
	minutes := w.Minutes
	if minutes == 0 {
		minutes = usualOrder
	}
	if w.Steps > 0 {
		minutes *= float64(w.Steps-w.Done) / float64(w.Steps)
	}
	job := rosterJob{title: w.Title, task: w.Task, order: w.ID, waits: w.Waits, Job: roster.Job{Key: orderKey(w.ID),
		Machine: m,
		Kind:    "order", Minutes: max(5, int(minutes)), Risk: 2, Pause: true}}
	if w.Task != "" {
		job.Kind = w.Task
	}
	if w.State == store.Opened {
		job.Unlocks, job.Due = true, w.OpenedAt.AddDate(0, 0, 1)
		return job
	}
	for _, model := range w.Models {
		if model != "" && model != machine.None {
			job.need(model)
		}
	}
	return job
}

func faultJob(f store.ReportedFault, m int, out bool) rosterJob {
	title := f.Words
	if s, ok := maintenance.SymptomOf(f.Symptom); ok {
		title = s.Title
	}
	job := rosterJob{title: "Repair: " + title, fault: f.ID, Job: roster.Job{Key: faultKey(f.ID), Machine: m,
		Kind:    "repair",
		Minutes: usualRepair, Risk: 2, Due: f.At.AddDate(0, 0, 1), Pause: true}}
	if minutes := maintenance.RepairMinutes(f.Symptom); minutes > 0 {
		job.Minutes = int(minutes)
	}
	if out || maintenance.IsDanger(f.Symptom, f.Words) {
		job.Risk = 4
	}
	return job
}

// need asks for a piece of a model.
func (j *rosterJob) need(model string) {
	if j.Parts == nil {
		j.Parts = map[string]int{}
	}
	j.Parts[model]++
}

// usualInterval is of a task of which nobody knows when it was done last. Source: from memory.
const usualInterval = 90 * 24 * time.Hour

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
			if !known || ordered[taskKey(m.ID, d.Task)] {
				continue
			}
			job := s.dueJob(m, i, task, d, now)
			switch {
			case d.State == maintenance.Unproven:
				job.Due = now
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

func (s *rosterShop) dueJob(m *store.Machine, i int, task maintenance.Task, d maintenance.Due,
	now time.Time) rosterJob {
	job := rosterJob{title: d.Title, task: d.Task, Job: roster.Job{Key: taskKey(m.ID, d.Task), Machine: i, Kind: d.Task,
		Minutes: usualTask, Skill: task.Skill, Pause: task.Pause, Risk: riskOf(task.Risk), Interval: usualInterval}}
	if task.Minutes > 0 {
		job.Minutes = int(task.Minutes)
	}
	if !task.Cold {
		job.Heats = heats(m)
	}
	if d.On != nil {
		job.Due = d.On.End(s.in)
		if d.LastDone != nil && *d.On > *d.LastDone {
			job.Interval = time.Duration(*d.On-*d.LastDone) * 24 * time.Hour
		}
		if job.Risk >= 3 && job.Due.After(now) {
			job.Limit = (*d.On + 1).Start(s.in)
		}
	}
	if task.Renews != "" && task.Always {
		if model := m.Facts.ModelAt(m.Facts.First(task.Renews)); model != "" && model != machine.None {
			job.need(model)
		}
	}
	return job
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
	orders, err := a.store.Purchases(ctx)
	in := a.store.Location()
	for _, o := range orders {
		if o.ClosedAt != nil {
			continue
		}
		day, err := civil.ParseDay(o.ExpectedOn, civil.Unsaid)
		for _, line := range o.Lines {
			for i, k := range line.Kept {
				if i >= len(line.Progress) || line.Progress[i].ToCome <= 0 || k.Model == "" {
					continue
				}
				s := out[k.Model]
				if o.ExpectedOn != "" && err == nil {
					s.Arriving = append(s.Arriving, roster.Arrival{At: (day + 1).Start(in), Count: line.Progress[i].ToCome})
				}
				out[k.Model] = s
			}
		}
	}
	return out, err
}
