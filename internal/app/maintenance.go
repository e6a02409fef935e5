package app

import (
	"context"
	"time"

	"wardifex/internal/core/maintenance"
	"wardifex/internal/store"
)

// MarkDone records that a maintenance task was done; its counter starts again. What
// depends on parts that went in anew is no longer valid.
func (a *App) MarkDone(ctx context.Context, machineID int64, c maintenance.Completion, note, by string,
	now time.Time) error {
	if _, err := c.Check(now); err != nil {
		return store.Refused(err)
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		m, err := a.store.LockedMachine(ctx, machineID)
		if err != nil {
			return err
		}
		if m.RetiredAt != nil {
			return refuse("%s is retired", m.Name)
		}
		invalid, err := c.Complete(m.Facts, m.Records, now)
		if err != nil {
			return store.Refused(err)
		}
		return a.store.AddDone(ctx, machineID, maintenance.Done{Task: c.Task, At: c.At}, note, by, invalid)
	})
}
