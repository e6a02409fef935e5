package app

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/plan"
	"wardifex/internal/store"
)

func inOrder(id int64) string  { return fmt.Sprintf("work order %d", id) }
func fittedIn(id int64) string { return "fitted in " + inOrder(id) }

// OpenPlan judges kits on a machine together, opens the work order of the first in the
// best order, and puts the others after it: they are judged again when their turn comes.
// It gives the number of the order opened.
func (a *App) OpenPlan(ctx context.Context, machineID int64, kits []string, reason, by string, now time.Time) (
	int64, error) {
	var id int64
	err := a.store.InTx(ctx, func(ctx context.Context) error {
		m, err := a.lockForNewOrder(ctx, machineID, reason)
		if err != nil {
			return err
		}
		if len(m.Planned) > 0 {
			return refuse("%s is planned on %s already: begin it, or take it out of the plan first", m.Planned[0].Kit, m.Name)
		}
		// No kit is deleted or changed while it is put into a plan.
		if err := a.store.HoldKits(ctx); err != nil {
			return err
		}
		all, err := a.judgesOf(ctx, kits)
		if err != nil {
			return err
		}
		p, err := plan.Judge(ctx, all, m.Facts, m.Records)
		if err != nil {
			return Refused(err)
		}
		if err := mayBegin(p, m.Name); err != nil {
			return err
		}
		id, err = a.writePlan(ctx, m, p, all, store.NewOrder{Reason: reason, By: by, At: now})
		return err
	})
	return id, err
}

// mayBegin says why a plan is not begun on a machine.
func mayBegin(p plan.PlanVerdict, name string) error {
	switch {
	case p.Answer == fit.DoesNotFit && len(p.Conflict) == 1:
		return refuse("%s cannot be fitted to %s. %s", p.Conflict[0], name, p.Why)
	case p.Answer == fit.DoesNotFit:
		return refuse("%s cannot go together on %s. %s", strings.Join(p.Conflict, "; "), name, p.Why)
	case len(p.LookNow) > 0:
		return refuse("look first: %s. Nothing of a plan is begun before what can be looked at is settled",
			strings.Join(p.LookNow, ", "))
	}
	return nil
}

// writePlan opens the first order of a plan and writes the others after it.
func (a *App) writePlan(ctx context.Context, m store.Machine, p plan.PlanVerdict, all []*fit.Judge,
	o store.NewOrder) (int64, error) {
	var rest []*fit.Judge
	for _, step := range p.Steps[1:] {
		rest = append(rest, fit.Find(all, step.Kit))
	}
	id, err := a.begin(ctx, m, fit.Find(all, p.Steps[0].Kit), rest, o)
	for i := 0; err == nil && i < len(rest); i++ {
		j := rest[i]
		next := store.NewOrder{MachineID: m.ID, KitKey: p.Steps[i+1].Kit, Kit: j.Kit, Verdict: j.Verdict(m.Facts),
			Reason: o.Reason, State: store.Planned, By: o.By, At: o.At}
		_, err = a.store.WriteOrder(ctx, next)
	}
	return id, err
}

// BeginPlanned opens a planned work order, the first of its machine's plan, once the work
// before it is done. The kit is judged on the machine as it is now.
func (a *App) BeginPlanned(ctx context.Context, id int64, by string, now time.Time) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		state, err := a.store.LockOrder(ctx, id)
		if err != nil {
			return err
		}
		if state != store.Planned {
			return refuse("work order %d is %s already", id, state)
		}
		o, err := a.store.Order(ctx, id)
		if err != nil {
			return err
		}
		m, err := a.lockForNewOrder(ctx, o.MachineID, o.Reason)
		if err != nil {
			return err
		}
		if first := m.Planned[0]; first.ID != id {
			return refuse("%s comes first in the plan for %s; begin it, or take it out of the plan", first.Kit, m.Name)
		}
		j, err := a.Judge(ctx, o.KitKey)
		if err != nil {
			return err
		}
		after, err := a.store.PlannedAfter(ctx, m.ID, id)
		if err != nil {
			return err
		}
		rest, err := a.judgesOf(ctx, after)
		if err != nil {
			return err
		}
		_, err = a.begin(ctx, m, j, rest, store.NewOrder{ID: id, Reason: o.Reason, By: by, At: now})
		return err
	})
}

// ReplanOrder puts an order back into the plan of its machine after Abandon took it out.
func (a *App) ReplanOrder(ctx context.Context, id int64) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if _, err := a.store.LockOrder(ctx, id); err != nil {
			return err
		}
		err := a.store.ReplanOrder(ctx, id)
		if errors.Is(err, store.ErrNotFound) {
			return refuse("work order %d can't go back into the plan: it was not taken out of one, its machine is retired, "+
				"or other work was begun there since", id)
		}
		return err
	})
}

// judgesOf makes kits ready, in the order of their keys.
func (a *App) judgesOf(ctx context.Context, keys []string) ([]*fit.Judge, error) {
	var out []*fit.Judge
	for _, key := range keys {
		j, err := a.Judge(ctx, key)
		if err != nil {
			return nil, err
		}
		out = append(out, j)
	}
	return out, nil
}
