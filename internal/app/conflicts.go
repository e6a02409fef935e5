package app

import (
	"context"
	"time"

	"wardifex/internal/core/machine"
	"wardifex/internal/store"
)

// Settle ends a conflict: the reading chosen stands, the others of its grade that say
// something else are set aside with the reason.
func (a *App) Settle(ctx context.Context, machineID int64, key machine.Key, chosen int64, why, by string,
	now time.Time) error {
	if err := machine.PlainText(why); err != nil {
		return refuse("a conflict is settled with a reason: %s", err)
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		m, err := a.store.LockedMachine(ctx, machineID)
		if err != nil {
			return err
		}
		aside, ok := m.Facts.Fact(key).Settle(chosen)
		if !ok {
			return &store.Conflict{Sentence: "this reading is no longer part of a conflict; look again"}
		}
		return a.store.SetAside(ctx, aside, "conflict settled: "+why, by, now)
	})
}
