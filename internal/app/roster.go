package app

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/recovered"
	"wardifex/internal/core/roster"
	"wardifex/internal/core/schedule"
	"wardifex/internal/store"
)

// PlanJob is the background work that makes a plan.
type PlanJob struct {
	Run int64 `json:"run"`
}

// Kind names the work.
func (PlanJob) Kind() string { return "plan-weeks" }

// Bounds of a search. Source: from memory.
const (
	planRounds  = 20_000
	planTime    = 25 * time.Second
	keepTime    = 8 * time.Second
	pinTime     = 1500 * time.Millisecond
	progressGap = 500 * time.Millisecond
	beat        = 5 * time.Second  // an instance that makes a plan is heard of so often
	lostAfter   = 20 * time.Second // then the instance that made a plan is taken to be gone
)

// planDocument is what a run made, as it is kept.
type planDocument struct {
	Version int                 `json:"version"`
	Work    []store.PlannedWork `json:"work"`
	Blocked []BlockedWork       `json:"blocked"`
	Moved   []string            `json:"moved" doc:"Keys of what stands otherwise than it was planned"`
	Cost    float64             `json:"cost"`
	Was     float64             `json:"was"   doc:"What the plan in force costs, without what it lacks"`
}

const planVersion = 1

// AskForPlan asks for a plan, which is made in the background; with keep, what is planned stays
// where it can. While one is made no other is.
func (a *App) AskForPlan(ctx context.Context, keep bool, by string, now time.Time) (id int64, err error) {
	err = a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockPlannedWork(ctx); err != nil {
			return err
		}
		newest, err := a.store.NewestRun(ctx)
		switch {
		case errors.Is(err, store.ErrNotFound):
		case err != nil:
			return err
		case lost(newest, now):
			err = a.store.SetRun(ctx, newest.ID, map[string]any{"state": store.RunFailed, "ended_at": now, "says": brokeOff})
			if err != nil {
				return err
			}
		case newest.State == store.RunQueued || newest.State == store.RunRunning:
			return refuse("%s has asked for a plan, which is being made; stop it first", newest.AskedBy)
		}
		if id, err = a.store.AddRun(ctx, keep, by, now); err != nil {
			return err
		}
		return a.store.AddJob(ctx, PlanJob{Run: id})
	})
	return id, err
}

const brokeOff = "The server that made this plan went away. Ask for a plan again."

// lost reports whether nobody makes a run any more: nothing was heard of it for a while.
func lost(r store.Run, now time.Time) bool {
	heard := r.BegunAt
	if r.HeardAt != nil {
		heard = r.HeardAt
	}
	return r.State == store.RunRunning && heard != nil && now.Sub(*heard) > lostAfter
}

// keepHeard tells that a run is being made, until it is told to stop.
func (a *App) keepHeard(ctx context.Context, run int64) (stop func()) {
	ctx, cancel := context.WithCancel(ctx)
	done := make(chan struct{})
	go func() {
		defer close(done)
		for {
			select {
			case <-ctx.Done():
				return
			case <-time.After(beat):
				_ = recovered.From(func() error { // the next one tells again
					return a.store.SetRun(ctx, run, map[string]any{"heard_at": a.now()})
				})
			}
		}
	}()
	return func() { cancel(); <-done }
}

// StopRun asks a run to stop; what it has found is kept.
func (a *App) StopRun(ctx context.Context, id int64) error {
	return a.store.SetRun(ctx, id, map[string]any{"stop": true})
}

// MakePlan does the work of a run. It is begun anew where it broke off.
func (a *App) MakePlan(ctx context.Context, id int64) error {
	run, err := a.store.RunOf(ctx, id)
	if err != nil || run.State == store.RunDone || run.State == store.RunFailed {
		return err
	}
	now := a.now()
	basis, err := a.store.PlanVersion(ctx)
	if err != nil {
		return err
	}
	set := map[string]any{"state": store.RunRunning, "begun_at": now, "heard_at": now, "says": "Reading the fleet",
		"basis": basis}
	if err := a.store.SetRun(ctx, id, set); err != nil {
		return err
	}
	defer a.keepHeard(ctx, id)()
	s, err := a.workshop(ctx, now)
	if err == nil {
		err = a.searchPlan(ctx, run, s)
	}
	if err != nil && ctx.Err() == nil {
		err = errors.Join(err, a.store.SetRun(ctx, id, map[string]any{"state": store.RunFailed, "ended_at": a.now(),
			"says": "No plan could be made; the log says why."}))
	}
	return err
}

// searchPlan looks for a plan, tells how far it is, and keeps the best so far.
func (a *App) searchPlan(ctx context.Context, run store.Run, s *rosterShop) error {
	current, err := a.store.PlannedWork(ctx)
	if err != nil {
		return err
	}
	was, pinned := s.placements(current)
	began, told := time.Now(), time.Now()
	longest := planTime
	if run.Keep && len(was) > 0 {
		longest = keepTime
	}
	stopped := false
	says := fmt.Sprintf("Placing %d jobs on %d people over %d days", len(s.jobs), len(s.people), s.set.Days)
	tell := func(share float64, p *roster.Plan) error {
		set := map[string]any{"share": share, "says": says}
		if p != nil {
			text, err := json.Marshal(planDocument{Version: planVersion, Work: s.work(*p, nil, nil)})
			if err != nil {
				return err
			}
			set["plan"] = text
		}
		return a.store.SetRun(ctx, run.ID, set)
	}
	if err := tell(0, nil); err != nil {
		return err
	}
	how := roster.Search{Seed: uint64(run.ID), Rounds: planRounds, Stop: func() bool {
		if stopped || ctx.Err() != nil || time.Since(began) > longest {
			return true
		}
		if time.Since(told) > progressGap {
			told = time.Now()
			if is, err := a.store.RunOf(ctx, run.ID); err == nil {
				stopped = is.Stop
			}
		}
		return stopped
	}}
	shown := time.Now()
	how.Seen = func(round int, p roster.Plan) {
		if time.Since(shown) > progressGap {
			shown = time.Now()
			share := max(float64(round)/planRounds, float64(time.Since(began))/float64(longest))
			_ = tell(min(1, share), &p) // the next one tells again
		}
	}
	var plan roster.Plan
	var moved []int
	if run.Keep && len(was) > 0 {
		again, err := roster.Replan(&s.problem, was, pinned, how)
		if err != nil {
			return err
		}
		plan, moved = again.Plan, again.Moved
	} else {
		if plan, _, err = roster.MakeAround(&s.problem, pinned, how); err != nil {
			return err
		}
		moved = roster.Moves(was, plan)
	}
	if err := ctx.Err(); err != nil {
		return err
	}
	doc := s.document(plan, current, moved)
	doc.Was = s.costOf(was)
	text, err := json.Marshal(doc)
	if err != nil {
		return err
	}
	says = fmt.Sprintf("%d of %d jobs are placed.", len(doc.Work), len(s.jobs))
	if stopped {
		says += " It was stopped: this is the best until then."
	}
	return a.store.SetRun(ctx, run.ID, map[string]any{"state": store.RunDone, "ended_at": a.now(), "share": 1.0,
		"says": says,
		"plan": text})
}

// PlanNow makes a plan in so many rounds, always the same from the same record, and puts it into force.
func (a *App) PlanNow(ctx context.Context, rounds int, by string, now time.Time) error {
	s, err := a.workshop(ctx, now)
	if err != nil {
		return err
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockPlannedWork(ctx); err != nil {
			return err
		}
		current, err := a.store.PlannedWork(ctx)
		if err != nil {
			return err
		}
		_, pinned := s.placements(current)
		plan, _, err := roster.MakeAround(&s.problem, pinned, roster.Search{Seed: 1, Rounds: rounds})
		if err != nil {
			return err
		}
		doc := s.document(plan, current, nil)
		text, err := json.Marshal(doc)
		if err != nil {
			return err
		}
		id, err := a.store.AddRun(ctx, false, by, now)
		if err == nil {
			err = a.store.SetRun(ctx, id, map[string]any{"state": store.RunDone, "begun_at": now, "ended_at": now, "share": 1.0,
				"says": fmt.Sprintf("%d of %d jobs are placed.", len(doc.Work), len(s.jobs)), "plan": text, "taken_at": now,
				"taken_by": by})
		}
		if err == nil {
			err = a.store.SavePlannedWork(ctx, doc.Work)
		}
		return err
	})
}

// document is a plan as it is kept, with why each job stands where it does.
func (s *rosterShop) document(plan roster.Plan, current []store.PlannedWork, moved []int) planDocument {
	pins := map[string]store.PlannedWork{}
	for _, w := range current {
		if w.Pinned {
			pins[w.Key] = w
		}
	}
	doc := planDocument{Version: planVersion, Blocked: []BlockedWork{}, Moved: []string{},
		Cost: float64(plan.Cost) / 1000}
	doc.Work = s.work(plan, roster.Reasons(&s.problem, plan), pins)
	s.used = map[string]int{}
	for _, x := range plan.Placed {
		for model, n := range s.jobs[x.Job].Parts {
			s.used[model] += n
		}
	}
	for _, b := range roster.Blocks(&s.problem, plan) {
		doc.Blocked = append(doc.Blocked, s.blocked(b))
	}
	for _, j := range moved {
		doc.Moved = append(doc.Moved, s.jobs[j].Key)
	}
	return doc
}

// work is a plan as rows of the record.
func (s *rosterShop) work(plan roster.Plan, reasons []roster.Reason,
	pins map[string]store.PlannedWork) []store.PlannedWork {
	out := make([]store.PlannedWork, 0, len(plan.Placed))
	for i, x := range plan.Placed {
		j := &s.jobs[x.Job]
		w := store.PlannedWork{Key: j.Key, MachineID: s.fleet[j.Machine].ID, AccountID: s.people[x.Person].ID, Starts: x.From,
			Ends: x.To, Kind: j.Kind, Title: j.title, Task: j.task, Why: []string{}, Parts: j.Parts}
		pin, pinned := pins[j.Key]
		w.Pinned = pinned && pin.AccountID == w.AccountID && pin.Starts.Equal(w.Starts)
		if j.order != 0 {
			w.OrderID = &j.order
		}
		if j.fault != 0 {
			w.FaultID = &j.fault
		}
		if i < len(reasons) {
			w.Why = s.why(reasons[i], x)
		}
		out = append(out, w)
	}
	return out
}

// placements are rows of the record as the planner has them: all, and those that are pinned. What is
// no work any more is left out.
func (s *rosterShop) placements(work []store.PlannedWork) (all, pinned []roster.Placement) {
	for _, w := range work {
		j := slices.IndexFunc(s.jobs, func(j rosterJob) bool { return j.Key == w.Key })
		p := slices.IndexFunc(s.people, func(u store.User) bool { return u.ID == w.AccountID })
		if j < 0 {
			continue
		}
		at := roster.Placement{Job: j, Person: p, From: w.Starts, To: w.Ends}
		if all = append(all, at); w.Pinned {
			pinned = append(pinned, at)
		}
	}
	return all, pinned
}

func (s *rosterShop) costOf(placed []roster.Placement) float64 {
	return roster.Cost(&s.problem, placed)
}

// TakeRun puts a plan into force: what is planned is as it says.
func (a *App) TakeRun(ctx context.Context, id int64, by string, now time.Time) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		run, err := a.store.RunOf(ctx, id)
		if err != nil {
			return err
		}
		var doc planDocument
		switch {
		case run.State != store.RunDone:
			return refuse("this plan is not ready")
		case run.TakenAt != nil:
			return refuse("this plan was put into force already")
		}
		if err := json.Unmarshal(run.Plan, &doc); err != nil {
			return err
		}
		// Nobody books one of them while the plan is looked at.
		if err := a.store.LockMachines(ctx, machinesOf(doc.Work)...); err != nil {
			return err
		}
		if err := a.store.LockPlannedWork(ctx); err != nil {
			return err
		}
		current, err := a.store.PlannedWork(ctx)
		if err != nil {
			return err
		}
		version, err := a.store.PlanVersion(ctx)
		if err != nil {
			return err
		}
		if run.Basis == nil || *run.Basis != version {
			return &Conflict{Sentence: "the schedule was changed since this plan was made; nothing was changed. Plan again"}
		}
		work, err := a.stillAhead(ctx, doc.Work)
		if err == nil {
			err = a.store.SavePlannedWork(ctx, work)
		}
		if err == nil {
			err = a.store.SetRun(ctx, id, map[string]any{"taken_at": now, "taken_by": by})
		}
		if err == nil {
			err = a.tellPlanned(ctx, current, work, by, now)
		}
		return err
	})
}

func machinesOf(work []store.PlannedWork) []int64 {
	var out []int64
	for _, w := range work {
		out = append(out, w.MachineID)
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// notBooked refuses work that somebody has booked over meanwhile; nobody books its machines until the transaction ends.
func (a *App) notBooked(ctx context.Context, was, is []store.PlannedWork) error {
	before := map[string]store.PlannedWork{}
	for _, w := range was {
		before[w.Key] = w
	}
	is = slices.DeleteFunc(slices.Clone(is), func(w store.PlannedWork) bool {
		b, known := before[w.Key]
		return known && b.Starts.Equal(w.Starts) && b.Ends.Equal(w.Ends)
	})
	if err := a.store.LockMachines(ctx, machinesOf(is)...); err != nil {
		return err
	}
	for _, w := range is {
		span := schedule.Span{From: w.Starts, To: w.Ends}
		times, err := a.bookedTimes(ctx, span, w.MachineID)
		if err != nil {
			return err
		}
		if len(times) > 0 {
			return &Conflict{Sentence: "somebody booked a machine of this work meanwhile; nothing was changed. Try again"}
		}
	}
	return nil
}

// stillAhead is what of a plan is not done meanwhile, not booked meanwhile and has not begun. What is left has to keep
// every rule, as the shop is now.
func (a *App) stillAhead(ctx context.Context, work []store.PlannedWork) ([]store.PlannedWork, error) {
	s, err := a.workshop(ctx, a.now())
	if err != nil {
		return nil, err
	}
	work = slices.DeleteFunc(slices.Clone(work), func(w store.PlannedWork) bool {
		j := slices.IndexFunc(s.jobs, func(j rosterJob) bool { return j.Key == w.Key })
		if j < 0 || w.Starts.Before(s.problem.From) {
			return true
		}
		booked := s.problem.Machines[s.jobs[j].Machine].Booked.And(schedule.Spans{{From: w.Starts, To: w.Ends}})
		return len(booked) > 0 && s.jobs[j].Stage != roster.DangerRepair
	})
	placed, _ := s.placements(work)
	var says []string
	for _, b := range roster.Check(&s.problem, placed) {
		job := &s.jobs[b.Job]
		why := "this person has no shifts now"
		if b.Person >= 0 {
			why = s.broken(b.Rule, job, b.Placement)
		}
		says = append(says, fmt.Sprintf("%s, %s: %s", s.fleet[job.Machine].Name, job.title, why))
	}
	if len(says) > 0 {
		return nil, &Conflict{Sentence: fmt.Sprintf("the shop has changed since this plan was made, and %d of its %d jobs "+
			"can't stand where they are (%s); nothing was changed. Plan again", len(says), len(placed),
			strings.Join(says[:min(3, len(says))], "; "))}
	}
	return work, nil
}

// tellPlanned tells those whose work was planned otherwise.
func (a *App) tellPlanned(ctx context.Context, was, is []store.PlannedWork, by string, now time.Time) error {
	changed := map[int64]int{}
	before := map[string]store.PlannedWork{}
	for _, w := range was {
		before[w.Key] = w
	}
	for _, w := range is {
		if b, known := before[w.Key]; !known || b.AccountID != w.AccountID || !b.Starts.Equal(w.Starts) {
			changed[w.AccountID]++
		}
		delete(before, w.Key)
	}
	for _, account := range slices.Sorted(maps.Keys(changed)) {
		if account == store.AccountOf(ctx) {
			continue
		}
		n := store.Notice{AccountID: account, At: now, Link: "/plan",
			Words: fmt.Sprintf("%s planned %s for you", by, pieces(changed[account]))}
		if err := a.store.AddNotice(ctx, n); err != nil {
			return err
		}
	}
	return nil
}

func pieces(n int) string {
	if n == 1 {
		return "1 piece of work"
	}
	return fmt.Sprintf("%d pieces of work", n)
}

// Pin is where somebody wants a piece of work.
type Pin struct {
	Key     string    `json:"key"`
	Account int64     `json:"account"`
	From    time.Time `json:"from"`
}

// PinWork puts a piece of work where somebody wants it, where no rule is against it. As few others
// as can be make room; it gives how many were moved.
func (a *App) PinWork(ctx context.Context, pin Pin, by string, now time.Time) (moved int, err error) {
	s, err := a.workshop(ctx, now)
	if err != nil {
		return 0, err
	}
	j := slices.IndexFunc(s.jobs, func(j rosterJob) bool { return j.Key == pin.Key })
	if j < 0 {
		return 0, refuse("this work is done, or not due any more")
	}
	person := slices.IndexFunc(s.people, func(u store.User) bool { return u.ID == pin.Account })
	if person < 0 {
		return 0, refuse("whoever it is given to has told no shifts")
	}
	// The plan is made before anything is taken: its machines come before what is planned.
	version, err := a.store.PlanVersion(ctx)
	if err != nil {
		return 0, err
	}
	current, err := a.store.PlannedWork(ctx)
	if err != nil {
		return 0, err
	}
	was, pinned := s.placements(current)
	pinned = slices.DeleteFunc(pinned, func(x roster.Placement) bool { return x.Job == j })
	at := roster.Placement{Job: j, Person: person, From: pin.From}
	if at, err = s.fitted(at, pinned); err != nil {
		return 0, err
	}
	began := time.Now()
	again, err := roster.Replan(&s.problem, was, append(pinned, at), roster.Search{Seed: 1, Rounds: planRounds,
		Stop: func() bool { return time.Since(began) > pinTime || ctx.Err() != nil }})
	if err != nil {
		return 0, err
	}
	if slices.Contains(again.Loose, j) {
		return 0, refuse("it cannot stand there: what comes before it would not be done")
	}
	doc := s.document(again.Plan, current, again.Moved)
	for i := range doc.Work {
		doc.Work[i].Pinned = doc.Work[i].Pinned || doc.Work[i].Key == pin.Key
	}
	err = a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.notBooked(ctx, current, doc.Work); err != nil {
			return err
		}
		if err := a.store.LockPlannedWork(ctx); err != nil {
			return err
		}
		if is, err := a.store.PlanVersion(ctx); err != nil || is != version {
			return cmp.Or[error](err, &Conflict{Sentence: "somebody changed the schedule meanwhile; nothing was changed. " +
				"Try again"})
		}
		if err := a.store.SavePlannedWork(ctx, doc.Work); err != nil {
			return err
		}
		return a.tellPlanned(ctx, current, doc.Work, by, now)
	})
	return len(again.Moved), err
}

// fitted is a placement with its end, where no rule is against it beside what is pinned.
func (s *rosterShop) fitted(at roster.Placement, pinned []roster.Placement) (roster.Placement, error) {
	at.From = at.From.Truncate(rosterSlot)
	if at.From.Before(s.problem.From) {
		return at, refuse("this time has passed: choose a later one")
	}
	at, rule := roster.Try(&s.problem, pinned, at)
	if rule != "" {
		return at, refuse("it cannot stand there: %s", s.broken(rule, &s.jobs[at.Job], at))
	}
	return at, nil
}

// LetGo lets a pinned piece of work be moved again.
func (a *App) LetGo(ctx context.Context, key string) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockPlannedWork(ctx); err != nil {
			return err
		}
		current, err := a.store.PlannedWork(ctx)
		if err != nil {
			return err
		}
		i := slices.IndexFunc(current, func(w store.PlannedWork) bool { return w.Key == key })
		if i < 0 {
			return ErrNotFound
		}
		current[i].Pinned = false
		return a.store.SavePlannedWork(ctx, current)
	})
}

// plannedWork is what is planned, by machine, for those who judge bookings: what is pinned stands in
// their way; the rest is planned around them.
func (a *App) plannedWork(ctx context.Context) (map[int64][]schedule.Work, error) {
	all, err := a.store.PlannedWork(ctx)
	out := map[int64][]schedule.Work{}
	in := a.store.Location()
	for _, w := range all {
		out[w.MachineID] = append(out[w.MachineID], schedule.Work{What: w.Title,
			Span: inZone(schedule.Span{From: w.Starts, To: w.Ends}, in)})
	}
	return out, err
}
