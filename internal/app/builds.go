package app

import (
	"context"
	"errors"
	"maps"
	"slices"
	"time"

	"wardifex/internal/core/firmware"
	"wardifex/internal/core/machine"
	"wardifex/internal/store"
)

// AddBuild records a build, and gives its number.
func (a *App) AddBuild(ctx context.Context, b firmware.Build, by string, now time.Time) (int64, error) {
	if err := b.Check(a.store.Vocabulary(ctx)); err != nil {
		return 0, Refused(err)
	}
	var id int64
	err := a.store.InTx(ctx, func(ctx context.Context) error {
		var err error
		id, err = a.store.AddBuild(ctx, b, by, now)
		return buildTaken(err, b.Name)
	})
	return id, err
}

func buildTaken(err error, name string) error {
	if errors.Is(err, store.ErrTaken) {
		return refuse("there is a build named %s already; names tell builds apart", name)
	}
	return err
}

// SaveBuild writes a build over the version that the editor saw. What is recorded of the
// boards that run it follows; the machines are as they were.
func (a *App) SaveBuild(ctx context.Context, id int64, version int, b firmware.Build, by string,
	now time.Time) error {
	if err := b.Check(a.store.Vocabulary(ctx)); err != nil {
		return Refused(err)
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.lockRunning(ctx, id); err != nil {
			return err
		}
		old, err := a.store.LockBuild(ctx, id)
		if err != nil {
			return err
		}
		if old.Revision != version {
			return editedMeanwhile("build", old.ChangedBy, old.ChangedAt, old.Name)
		}
		if err := a.store.WriteBuild(ctx, id, version+1, b, by, now); err != nil {
			return buildTaken(err, b.Name)
		}
		runs, err := a.store.RunningBuilds(ctx, id, asBuild(old.Name))
		if err != nil {
			return err
		}
		for _, r := range runs {
			if err := a.store.LockMachine(ctx, r.MachineID); err != nil {
				return err
			}
			err := a.store.SetAsideFoundBy(ctx, r.Run, asBuild(old.Name), "the record of the build was corrected", by, now)
			if err != nil {
				return err
			}
			if err := a.readAsBuild(ctx, r.Run, b.Name, b.Traits(), r.Grade, now, by); err != nil {
				return err
			}
			if err := a.store.StructureChanged(ctx, r.MachineID); err != nil {
				return err
			}
		}
		return nil
	})
}

// lockRunning takes the machines that run a build, before the build itself is taken.
func (a *App) lockRunning(ctx context.Context, build int64) error {
	runs, err := a.store.RunningBuilds(ctx, build, "")
	if err != nil {
		return err
	}
	var machines []int64
	for _, r := range runs {
		machines = append(machines, r.MachineID)
	}
	return a.store.LockMachines(ctx, machines...)
}

// asBuild is how a reading was found that follows from which build runs.
func asBuild(name string) string { return "as the build " + name + " is recorded" }

// readAsBuild records of a run what is known of its build.
func (a *App) readAsBuild(ctx context.Context, run int64, name string, traits map[string]string,
	grade machine.Grade, at time.Time, by string) error {
	r := machine.Reading{Grade: grade, TakenAt: at, By: by, How: asBuild(name)}
	for _, trait := range slices.Sorted(maps.Keys(traits)) {
		if _, err := a.store.AddReading(ctx, store.Held{Fitting: run}, trait, traits[trait], r); err != nil {
			return err
		}
	}
	return nil
}

// DeleteBuild takes a build off the record that never ran anywhere.
func (a *App) DeleteBuild(ctx context.Context, id int64) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		b, err := a.store.LockBuild(ctx, id)
		if err != nil {
			return err
		}
		if b.Ran > 0 {
			return refuse("it ran on %d boards: what ran where stays on record", b.Ran)
		}
		return a.store.RemoveBuild(ctx, id)
	})
}
