package app

import (
	"context"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/change"
	"wardifex/internal/core/machine"
)

// Calibrate records a calibration or proof of a subject, made outside a work order. data
// is judged as in the work order's step of that kind.
func (a *App) Calibrate(ctx context.Context, machineID int64, k calibration.Kind, x calibration.Subject,
	data change.Data, by string, now time.Time) error {
	if _, ok := calibration.Of(k); !ok {
		return ErrNotFound
	}
	return a.calibrate(ctx, machineID, func(on machine.Snapshot) (change.Result, error) {
		step, err := change.StepFor(on, k, x)
		if err != nil {
			return change.Result{}, err
		}
		return step.Check(data, "", true, on)
	}, by, now)
}

// CalibrateStep records what a step finds, whatever its form; for records of values that
// were found before they were kept here.
func (a *App) CalibrateStep(ctx context.Context, machineID int64, step change.Step, data change.Data, by string,
	now time.Time) error {
	check := func(on machine.Snapshot) (change.Result, error) { return step.Check(data, "", true, on) }
	return a.calibrate(ctx, machineID, check, by, now)
}

func (a *App) calibrate(ctx context.Context, machineID int64, check func(machine.Snapshot) (change.Result, error),
	by string, now time.Time) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		m, err := a.store.LockedMachine(ctx, machineID)
		if err != nil {
			return err
		}
		if m.OpenOrder != nil {
			return refuse("work order %d is open on this machine; record it at its step there", m.OpenOrder.ID)
		}
		result, err := check(m.Facts)
		if err != nil {
			return Refused(err)
		}
		return a.keepFound(ctx, m, change.FoundApart(result, m.Facts, by, now), 0, now)
	})
}
