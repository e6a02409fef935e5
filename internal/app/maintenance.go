package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/change"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/csvimport"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/roster"
	"wardifex/internal/store"
)

// MarkDone records that a maintenance task was done on machines, on all of them or on none; its
// counter starts again. Parts that went in are the parts that are there now, and those of the
// shelf leave it; what depends on what went in anew is no longer valid. Parts of the shelf are
// named for one machine at a time.
func (a *App) MarkDone(ctx context.Context, machines []int64, c maintenance.Completion, note, by string,
	now time.Time) error {
	t, err := c.Check(a.store.Tasks(ctx), now)
	if err != nil {
		return Refused(err)
	}
	slices.Sort(machines)
	machines = slices.Compact(machines)
	if len(machines) > 1 && len(c.Spares) > 0 {
		return refuse("parts of the shelf go into one machine at a time: record it machine by machine")
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockMachines(ctx, machines...); err != nil {
			return err
		}
		for _, id := range machines {
			if err := a.markDone(ctx, id, t, c, note, by, now); err != nil {
				return err
			}
		}
		return nil
	})
}

func (a *App) markDone(ctx context.Context, id int64, t maintenance.Task, c maintenance.Completion, note, by string,
	now time.Time) error {
	m, err := a.store.Machine(ctx, id)
	if err != nil {
		return err
	}
	if m.RetiredAt != nil {
		return refuse("%s is retired", m.Name)
	}
	at, err := c.NewAt(t, m.Facts)
	if err != nil {
		return Refused(fmt.Errorf("%s: %w", m.Name, err))
	}
	invalid, err := c.Complete(a.store.Tasks(ctx), m.Facts, m.Records, now)
	if err != nil {
		return Refused(err)
	}
	for _, slot := range at {
		if err := a.renew(ctx, m, slot, c.Spares[slot], t.Title, by, c.At); err != nil {
			return err
		}
	}
	done, err := a.store.AddDone(ctx, id, maintenance.Done{Task: c.Task, At: c.At}, at, note, by)
	if err != nil {
		return err
	}
	if err := a.store.DropPlannedFor(ctx, done, roster.TaskKey(id, c.Task)); err != nil {
		return err
	}
	return a.store.Invalidate(ctx, invalid, store.Cause{Done: done}, c.At)
}

// renew puts another part in the place of a worn one, which is scrapped: one of the shelf, or
// one like the one before.
func (a *App) renew(ctx context.Context, m store.Machine, slot string, spare int64, why, by string,
	at time.Time) error {
	if err := placeOf(m).Free(); err != nil {
		return Refused(err)
	}
	held, err := a.store.HeldAt(ctx, m.ID, slot, by, at)
	if err != nil {
		return err
	}
	old, err := a.store.Part(ctx, held.Part)
	if err != nil {
		return err
	}
	if is := old.Now(); is != nil && is.From.After(at) {
		return refuse("the part that is in %s now was fitted on %s, later than that day", m.Name,
			is.From.Format(civil.Shown))
	}
	if spare == 0 {
		if err := a.replace(ctx, m, slot, m.Facts.Model(slot), at); err != nil {
			return err
		}
		if err := a.store.Fit(ctx, store.NewFitting{MachineID: m.ID, Slot: slot, At: at, Why: why, By: by},
			change.LikeBefore(slot, m.Facts)); err != nil {
			return err
		}
		return a.store.LayDown(ctx, held.Part, "", why, by, at)
	}
	p, err := a.store.LockPart(ctx, spare)
	if err != nil {
		return err
	}
	if p.Now() != nil {
		return &Conflict{Sentence: "somebody fitted this part meanwhile; nothing was recorded. Choose another"}
	}
	into := change.Move{To: change.ToMachine, MachineID: m.ID, Slot: slot, Why: why, Replaces: true}
	if err := a.mayMove(ctx, p, into); err != nil {
		return err
	}
	if err := a.replace(ctx, m, slot, p.Model, at); err != nil {
		return err
	}
	if err := a.store.CloseFitting(ctx, m.ID, slot, at); err != nil {
		return err
	}
	if err := a.store.Enter(ctx, store.NewFitting{MachineID: m.ID, Slot: slot, Part: spare, At: at, Why: why,
		By: by}); err != nil {
		return err
	}
	return a.store.LayDown(ctx, held.Part, "", why, by, at)
}

// UndoDone takes back the newest time a task was marked done on a machine; what was planned for it stands there
// again.
func (a *App) UndoDone(ctx context.Context, machineID int64, task string) error {
	if task == maintenance.ProtectionTask {
		return refuse("a test that was made is not undone; record another")
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockMachine(ctx, machineID); err != nil {
			return err
		}
		parts, err := a.store.LastDoneParts(ctx, machineID, task)
		if err != nil {
			return err
		}
		if len(parts) > 0 {
			return refuse("new parts went in with it, and stay: record at their positions what is there instead")
		}
		planned, err := a.store.PlannedForLastDone(ctx, machineID, task)
		if err != nil {
			return err
		}
		if err := a.store.RemoveLastDone(ctx, machineID, task); err != nil || planned == nil {
			return err
		}
		return a.store.PlanAgain(ctx, *planned)
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

// of is a refusal that says of which machine it is; other errors stay as they are.
func of(machine string, err error) error {
	if r, ok := errors.AsType[*Refusal](err); ok {
		return refuse("%s: %s", machine, r.Sentence)
	}
	return err
}

// MachineReading is what the meters of a machine of a name show.
type MachineReading struct {
	Machine  string
	Readings []maintenance.Meter
}

// ReadMetersOf records readings of the meters of several machines, all or none.
func (a *App) ReadMetersOf(ctx context.Context, list []MachineReading, by string, now time.Time) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		fleet, err := a.store.Metered(ctx)
		if err != nil {
			return err
		}
		byName := map[string]int64{}
		for _, m := range fleet {
			byName[strings.ToLower(m.Name)] = m.ID
		}
		ids := make([]int64, len(list))
		for i, r := range list {
			id, ok := byName[strings.ToLower(strings.TrimSpace(r.Machine))]
			if !ok {
				return refuse("no machine in use has the name %q; nothing was recorded", r.Machine)
			}
			ids[i] = id
		}
		if err := a.store.LockMachines(ctx, ids...); err != nil {
			return err
		}
		for i, r := range list {
			if err := a.ReadMeters(ctx, ids[i], by, now, r.Readings...); err != nil {
				return of(r.Machine, err)
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
	p, err := csvimport.PlanMeters(ctx, t, d, metered, a.store.Vocabulary(ctx), now)
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
			rows[i] = store.MeterOf{MachineID: r.MachineID, Meter: r.Reading}
		}
		if err := a.store.AddMeters(ctx, rows, by); err != nil {
			return err
		}
		counts := map[string]int{"new": len(plan.Rows), "the same": plan.Same, "faulty": len(plan.Faults)}
		return a.store.NoteImport(ctx, "meters", f, counts, by, now)
	})
	return plan, err
}
