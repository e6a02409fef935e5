package app

import (
	"context"
	"errors"
	"time"

	"wardifex/internal/core/machine"
	"wardifex/internal/store"
)

// Settle ends a conflict: the reading chosen stands, the others of its grade that say
// something else are set aside with the reason. What those made invalid is valid again.
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
			return &Conflict{Sentence: "this reading is no longer part of a conflict; look again"}
		}
		return a.setAside(ctx, aside, "conflict settled: "+why, by, now)
	})
}

// Retract sets a reading aside that was a mistake; it is never erased. What it made
// invalid is valid again.
func (a *App) Retract(ctx context.Context, reading int64, why, by string, now time.Time) error {
	if err := machine.PlainText(why); err != nil {
		return refuse("say why it is taken back: %s", err)
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		return a.setAside(ctx, []int64{reading}, machine.WhyRetracted(why), by, now)
	})
}

// setAside sets readings aside that say nothing any more; what they made invalid is valid
// again.
func (a *App) setAside(ctx context.Context, ids []int64, why, by string, now time.Time) error {
	if err := asideOnce(a.store.SetAside(ctx, ids, why, by, now)); err != nil {
		return err
	}
	return a.store.ValidAgain(ctx, ids)
}

// asideOnce is the conflict of two who set one reading aside.
func asideOnce(err error) error {
	if errors.Is(err, store.ErrChanged) {
		return &Conflict{Sentence: "somebody has set one of these readings aside already; look again"}
	}
	return err
}
