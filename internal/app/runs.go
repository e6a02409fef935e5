package app

import (
	"context"
	"maps"
	"slices"
	"time"

	"wardifex/internal/core/change"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/store"
)

// NewRun is a build that a board runs from a day on.
type NewRun struct {
	Board   string // key of the position of the board
	Head    int    // the head that carries it, where a head carries a build of its own; else 0
	BuildID int64  // 0: nobody knows which
	From    time.Time
	Grade   machine.Grade
	How     string
	// MadeFor says that it was made for the machine as it is.
	MadeFor bool
}

// StartRun records that a board runs another build from a day on: what it ran before ends
// then. What depends on the build is no longer valid.
func (a *App) StartRun(ctx context.Context, machineID int64, r NewRun, by string, now time.Time) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		m, err := a.store.LockedMachine(ctx, machineID)
		if err != nil {
			return err
		}
		if err := placeOf(m).Free(); err != nil {
			return Refused(err)
		}
		slot, err := a.runAt(ctx, m, r, by, now)
		if err != nil {
			return err
		}
		if m, err = a.store.Machine(ctx, machineID); err != nil {
			return err
		}
		name, traits, err := a.buildOf(ctx, r.BuildID)
		if err != nil {
			return err
		}
		if err := a.endRun(ctx, m, slot, name, r.From, now); err != nil {
			return err
		}
		was, err := a.store.RunningAt(ctx, machineID, slot)
		if err != nil {
			return err
		}
		at := store.NewFitting{MachineID: machineID, Slot: slot, At: r.From, Why: r.How, By: by}
		if err := a.store.Fit(ctx, at, change.Fitting{}); err != nil {
			return err
		}
		run, err := a.store.RunningAt(ctx, machineID, slot)
		if err != nil {
			return err
		}
		// What was read since is of what runs since.
		if err := a.store.MoveReadings(ctx, was, run, r.From); err != nil {
			return err
		}
		if r.BuildID != 0 {
			if err := a.store.SetRunBuild(ctx, run, r.BuildID); err != nil {
				return err
			}
			if err := a.readAsBuild(ctx, run, name, traits, r.Grade, r.From, by); err != nil {
				return err
			}
		}
		if r.MadeFor {
			return a.store.BuildFor(ctx, machineID, firmware.Configuration(m.Facts), false)
		}
		return nil
	})
}

// endRun marks what depends on the build that runs at a position until another begins.
func (a *App) endRun(ctx context.Context, m store.Machine, slot, name string, from, now time.Time) error {
	others, err := a.store.RunsAt(ctx, m.ID, slot, 0)
	if err != nil {
		return err
	}
	invalid, err := change.StartRun(slot, name, from, others, m.Facts, m.Records, now)
	if err != nil {
		return Refused(err)
	}
	return a.store.Invalidate(ctx, invalid, store.Cause{}, now)
}

// buildOf is what a build on record is called, and what is known of it; 0 is another one.
func (a *App) buildOf(ctx context.Context, id int64) (name string, traits map[string]string, err error) {
	if id == 0 {
		return "another build", map[string]string{}, nil
	}
	b, err := a.store.Build(ctx, id)
	return b.Name, b.Traits(), err
}

// runAt is the position of what a board runs, or of what a head carries; it is listed where
// the machine does not have it.
func (a *App) runAt(ctx context.Context, m store.Machine, r NewRun, by string, now time.Time) (string, error) {
	p, listed, err := change.RunAt(m.Facts, r.Board, r.Head, by)
	if err != nil {
		return "", Refused(err)
	}
	if listed {
		return p.Key, nil
	}
	if p, err = newPosition(m, p); err != nil {
		return "", err
	}
	return p.Key, a.store.AddPositions(ctx, m.ID, []machine.Position{p}, by, now)
}

// CorrectedRun is what is corrected of a run.
type CorrectedRun struct {
	BuildID int64
	Grade   machine.Grade
	From    time.Time
	To      *time.Time // nil while it runs
}

// CorrectRun says which build a run is of, and from when to when it ran: the record was
// wrong, and nothing that depends on the build is touched.
func (a *App) CorrectRun(ctx context.Context, machineID, id int64, c CorrectedRun, by string, now time.Time) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockMachine(ctx, machineID); err != nil {
			return err
		}
		slot, was, err := a.store.Run(ctx, machineID, id)
		if err != nil {
			return err
		}
		others, err := a.store.RunsAt(ctx, machineID, slot, id)
		if err != nil {
			return err
		}
		r := firmware.Run{Slot: slot, From: c.From}
		if c.To != nil {
			r.To = *c.To
		}
		if err := firmware.CheckRun(r, others, now); err != nil {
			return Refused(err)
		}
		if was != c.BuildID {
			if err := a.identify(ctx, id, was, c, by, now); err != nil {
				return err
			}
		}
		return a.store.SetPeriod(ctx, machineID, id, c.From, c.To)
	})
}

// identify says which build a run is of: what was recorded of it as another one no longer
// counts.
func (a *App) identify(ctx context.Context, run, was int64, c CorrectedRun, by string, now time.Time) error {
	if was != 0 {
		name, _, err := a.buildOf(ctx, was)
		if err != nil {
			return err
		}
		if err := a.store.SetAsideFoundBy(ctx, run, asBuild(name), "it is another build", by, now); err != nil {
			return err
		}
	}
	if c.BuildID == 0 {
		return a.store.SetRunBuild(ctx, run, 0)
	}
	name, traits, err := a.buildOf(ctx, c.BuildID)
	if err != nil {
		return err
	}
	if err := a.store.SetRunBuild(ctx, run, c.BuildID); err != nil {
		return err
	}
	// What it was called before nobody knew which build it is names nothing.
	err = a.store.SetAsideOf(ctx, store.Held{Fitting: run}, []string{machine.ModelTrait},
		"identified as the build "+name, by, now)
	if err != nil {
		return err
	}
	return a.readAsBuild(ctx, run, name, traits, c.Grade, now, by)
}

// checkFlashed refuses a build that is recorded otherwise than what a step read off the
// machine, and the name of a new one that another has.
func (a *App) checkFlashed(ctx context.Context, r change.Result) error {
	if r.BuildName != "" {
		has, err := a.store.HasBuildNamed(ctx, r.BuildName)
		if err == nil && has {
			err = buildTaken(store.ErrTaken, r.BuildName)
		}
		return err
	}
	if r.Build == 0 {
		return nil
	}
	b, err := a.store.Build(ctx, r.Build)
	if err != nil {
		return err
	}
	if err := b.CheckShown(r.Readings, a.store.Vocabulary(ctx)); err != nil {
		return Refused(err)
	}
	return nil
}

// flashed says which build an order flashed, and records it where it is a new one. What
// the step read of it stays what was read.
func (a *App) flashed(ctx context.Context, m store.Machine, r change.Result, by string, now time.Time) error {
	at := m.Facts.First(parts.Firmware)
	if at == nil {
		return nil
	}
	of, err := a.store.HeldAt(ctx, m.ID, at.Key, by, now)
	if err != nil || of.Fitting == 0 {
		return err
	}
	id := r.Build
	if id == 0 {
		family, err := a.store.ReadOf(ctx, of.Fitting, parts.FirmwareFamily.Name)
		if err != nil {
			return err
		}
		b := r.NewBuild(family)
		if err := b.Check(a.store.Vocabulary(ctx)); err != nil {
			return Refused(err)
		}
		if id, err = a.store.AddBuild(ctx, b, by, now); err != nil {
			return buildTaken(err, b.Name)
		}
	}
	name, traits, err := a.buildOf(ctx, id)
	if err != nil {
		return err
	}
	if err := a.store.SetRunBuild(ctx, of.Fitting, id); err != nil {
		return err
	}
	for key := range r.Readings {
		delete(traits, key.Trait())
	}
	// The name it got at the flash, and what it should have kept of the build before, give
	// way to what is on record of it.
	known := slices.Collect(maps.Keys(traits))
	if err := a.store.SetAsideOf(ctx, of, known, "it is the build "+name, by, now); err != nil {
		return err
	}
	return a.readAsBuild(ctx, of.Fitting, name, traits, machine.Observed, now, by)
}
