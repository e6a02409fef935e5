package app

import (
	"context"
	"time"

	"wardifex/internal/core/csvimport"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/store"
)

// MarkDone records that a maintenance task was done; its counter starts again. What
// depends on parts that went in anew is no longer valid.
func (a *App) MarkDone(ctx context.Context, machineID int64, c maintenance.Completion, note, by string,
	now time.Time) error {
	if _, err := c.Check(a.store.Tasks(), now); err != nil {
		return Refused(err)
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		m, err := a.store.LockedMachine(ctx, machineID)
		if err != nil {
			return err
		}
		if m.RetiredAt != nil {
			return refuse("%s is retired", m.Name)
		}
		invalid, err := c.Complete(a.store.Tasks(), m.Facts, m.Records, now)
		if err != nil {
			return Refused(err)
		}
		done, err := a.store.AddDone(ctx, machineID, maintenance.Done{Task: c.Task, At: c.At}, note, by)
		if err != nil {
			return err
		}
		return a.store.Invalidate(ctx, invalid, store.Cause{Done: done}, c.At)
	})
}

// UndoDone takes back the newest time a task was marked done on a machine.
func (a *App) UndoDone(ctx context.Context, machineID int64, task string) error {
	if task == maintenance.ProtectionTask {
		return refuse("a test that was made is not undone; record another")
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockMachine(ctx, machineID); err != nil {
			return err
		}
		return a.store.RemoveLastDone(ctx, machineID, task)
	})
}

// ReadMeters records readings of a machine's meters, all or none. The same reading again changes
// nothing.
func (a *App) ReadMeters(ctx context.Context, machineID int64, by string, now time.Time,
	readings ...maintenance.Meter) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		m, err := a.store.LockedMachine(ctx, machineID)
		if err != nil {
			return err
		}
		for _, r := range readings {
			known, err := maintenance.Take(m.Meters, r, now)
			if err != nil {
				return Refused(err)
			}
			if known {
				continue
			}
			if err := a.store.AddMeter(ctx, machineID, r, by); err != nil {
				return err
			}
		}
		return nil
	})
}

// PlanMeters judges a file of meter readings against those on record.
func (a *App) PlanMeters(ctx context.Context, t csvimport.Table, d csvimport.Decisions, now time.Time) (
	csvimport.MeterPlan, error) {
	metered, err := a.store.Metered(ctx)
	if err != nil {
		return csvimport.MeterPlan{}, err
	}
	p, err := csvimport.PlanMeters(t, d, metered, a.store.Vocabulary(), now)
	if err != nil {
		return p, Refused(err)
	}
	return p, nil
}

// ImportMeters records the rows of a file of meter readings that have no fault, all in one
// transaction; what is wrong with the others is in the plan.
func (a *App) ImportMeters(ctx context.Context, f store.ImportFile, t csvimport.Table, d csvimport.Decisions,
	by string, now time.Time) (csvimport.MeterPlan, error) {
	var plan csvimport.MeterPlan
	err := a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockImports(ctx); err != nil {
			return err
		}
		var err error
		if plan, err = a.PlanMeters(ctx, t, d, now); err != nil {
			return err
		}
		if len(plan.Questions) > 0 {
			return refuse("%s", plan.Questions[0].Text)
		}
		if len(plan.Rows) == 0 {
			return nil
		}
		// Others read these machines' meters before or after, not meanwhile.
		ids := make([]int64, len(plan.Rows))
		for i, r := range plan.Rows {
			ids[i] = r.MachineID
		}
		if err := a.store.LockMachines(ctx, ids...); err != nil {
			return err
		}
		if plan, err = a.PlanMeters(ctx, t, d, now); err != nil {
			return err
		}
		rows := make([]store.MeterOf, len(plan.Rows))
		for i, r := range plan.Rows {
			rows[i] = store.MeterOf{MachineID: r.MachineID, Meter: maintenance.Meter{
				Counter: maintenance.Hours, At: r.At, Amount: r.Hours}}
		}
		if err := a.store.AddMeters(ctx, rows, by); err != nil {
			return err
		}
		counts := map[string]int{"new": len(plan.Rows), "the same": plan.Same, "faulty": len(plan.Faults)}
		return a.store.NoteImport(ctx, "meters", f, counts, by, now)
	})
	return plan, err
}
