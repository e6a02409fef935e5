package app

import (
	"context"
	"fmt"
	"strings"
	"time"

	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/roster"
	"wardifex/internal/store"
)

// OpenRepair opens a work order for a fault; finishing it closes the fault with what was done.
func (a *App) OpenRepair(ctx context.Context, fault int64, by string, now time.Time) (int64, error) {
	var id int64
	err := a.store.InTx(ctx, func(ctx context.Context) error {
		f, err := a.store.Fault(ctx, fault)
		switch {
		case err != nil:
			return err
		case f.ClosedAt != nil:
			return refuse("this fault is closed: %s", f.Answer)
		}
		m, err := a.lockForRepair(ctx, f.MachineID, "a fault it cures")
		if err != nil {
			return err
		}
		if f.Danger && f.TakenBy == "" {
			if err := a.store.TakeFault(ctx, fault, store.AccountOf(ctx), by, now); err != nil {
				return err
			}
		}
		var symptom *maintenance.Symptom
		if s, ok := maintenance.SymptomOf(f.Symptom); ok {
			symptom = &s
		}
		id, err = a.writeOrder(ctx, m, change.Repair(f.Words, symptom), fit.Verdict{Answer: fit.Fits},
			store.NewOrder{Reason: "a fault it cures", By: by, At: now, Fault: fault})
		return err
	})
	return id, err
}

// OpenTask opens a work order for a task of maintenance: what the parts that go in make
// invalid is measured again in it. model is that of parts whose model is not on record.
func (a *App) OpenTask(ctx context.Context, machineID int64, task, model, by string, now time.Time) (int64, error) {
	t, ok := maintenance.Find(a.store.Tasks(ctx), task)
	switch {
	case !ok:
		return 0, refuse("there is no maintenance task %q", task)
	case task == maintenance.ProtectionTask:
		return 0, refuse("a protection test is recorded with its result: which test, and when the alarm came")
	}
	if err := checkTexts([]named{{"model", model}}); err != nil {
		return 0, err
	}
	return a.openOwn(ctx, machineID, "wear", by, now, store.NewOrder{Task: task}, func(m store.Machine) (fit.Kit, error) {
		return change.Maintain(t, m.Facts, strings.TrimSpace(model))
	})
}

// OpenMount opens a work order for another head on a machine whose heads are changed by hand.
func (a *App) OpenMount(ctx context.Context, machineID int64, head int, reason, by string, now time.Time) (
	int64, error) {
	return a.openOwn(ctx, machineID, reason, by, now, store.NewOrder{}, func(m store.Machine) (fit.Kit, error) {
		return change.Mount(m.Facts, head)
	})
}

// openOwn opens a work order for a change that is no kit of the catalogue.
func (a *App) openOwn(ctx context.Context, machineID int64, reason, by string, now time.Time, o store.NewOrder,
	kitFor func(store.Machine) (fit.Kit, error)) (int64, error) {
	var id int64
	err := a.store.InTx(ctx, func(ctx context.Context) error {
		m, err := a.lockForNewOrder(ctx, machineID, reason)
		if err != nil {
			return err
		}
		kit, err := kitFor(m)
		if err != nil {
			return Refused(err)
		}
		o.Reason, o.By, o.At = reason, by, now
		id, err = a.writeOrder(ctx, m, kit, fit.Verdict{Answer: fit.Fits}, o)
		return err
	})
	return id, err
}

// settleOrigin settles what a finished order was opened for: its fault is closed with what was
// done, its task counts as done. Work that was rolled back settles nothing.
func (a *App) settleOrigin(ctx context.Context, o order, by string, now time.Time) error {
	if o.Back != nil {
		return nil
	}
	if o.Task != "" {
		done := maintenance.Done{Task: o.Task, At: now}
		if _, err := a.store.AddDone(ctx, o.MachineID, done, nil, inOrder(o.ID), by); err != nil {
			return err
		}
		if err := a.store.DropPlannedWork(ctx, roster.TaskKey(o.MachineID, o.Task)); err != nil {
			return err
		}
	}
	if o.Fault == 0 {
		return nil
	}
	f, err := a.store.Fault(ctx, o.Fault)
	if err != nil || f.ClosedAt != nil {
		return err // somebody has closed it meanwhile, with their own words
	}
	answer := fmt.Sprintf("Work order %d.", o.ID)
	for _, s := range o.StepList {
		if s.Key == change.WhatItWas && s.DoneAt != nil {
			answer = strings.TrimSpace(s.Note) + " (work order " + fmt.Sprint(o.ID) + ")"
		}
	}
	return a.answerFault(ctx, o.Fault, answer, by, now)
}

// FitOther says that at a position another part went in than was written, or that one was
// changed at all; "none" leaves the position empty. What has to be measured again because of
// it joins the order, and is done again where it was done before.
func (a *App) FitOther(ctx context.Context, id int64, slot, model, by string, now time.Time) error {
	if err := machine.PlainText(model); err != nil {
		return refuse("model: %s; write none where the position is left empty", err)
	}
	return a.withOpen(ctx, id, func(ctx context.Context, o order) error {
		if o.Back != nil {
			return refuse("this work is being rolled back: the parts that came out go in again")
		}
		if at := positionOf(o.machine, slot); at == nil || a.store.Vocabulary(ctx).Software(at.Kind) {
			return refuse("%s has no position %q whose part could be changed", o.machine.Name, slot)
		}
		if err := notParked(o); err != nil {
			return err
		}
		kit := change.Amend(o.Kit, slot, model)
		c, err := change.NewChange(kit, o.Additional, o.machine.Facts)
		if err != nil {
			return Refused(err)
		}
		steps, err := c.Rewrite(o.progress(), slot, o.machine.Records)
		if err != nil {
			return Refused(err)
		}
		if err := a.store.WriteOrderKit(ctx, id, kit); err != nil {
			return err
		}
		return a.store.WriteSteps(ctx, id, o.rewritten(steps))
	})
}

func (o order) rewritten(list []change.Rewritten) []store.OrderStep {
	out := make([]store.OrderStep, len(list))
	for i, r := range list {
		if r.Was >= 0 {
			out[i] = o.StepList[r.Was]
		}
		out[i].Step = r.Step
		if r.Redo {
			out[i].DoneBy, out[i].DoneAt, out[i].SkippedWhy = "", nil, ""
		}
	}
	return out
}

// RollBack gives an open order the steps that put its machine back as it was; what was done
// stays on record. Finished, the order is cancelled.
func (a *App) RollBack(ctx context.Context, id int64, why, by string, now time.Time) error {
	if err := machine.PlainText(why); err != nil {
		return refuse("say why the work is rolled back: %s", err)
	}
	return a.withOpen(ctx, id, func(ctx context.Context, o order) error {
		switch {
		case o.Back != nil:
			return refuse("this work is being rolled back already")
		case o.progress().MayAbandon() == nil:
			return refuse("nothing was done to the machine yet: cancel the order instead")
		}
		if err := notParked(o); err != nil {
			return err
		}
		var steps []store.OrderStep
		for i, s := range o.StepList {
			if o.progress()[i].Settled() {
				steps = append(steps, s)
			}
		}
		for _, s := range o.change.RollBack(o.progress(), o.machine.Records) {
			steps = append(steps, store.OrderStep{Step: s})
		}
		if err := a.store.WriteSteps(ctx, id, steps); err != nil {
			return err
		}
		return a.store.RollBack(ctx, id, store.RolledBack{Why: why, By: by, At: now})
	})
}
