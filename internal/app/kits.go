package app

import (
	"context"
	"fmt"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/store"
)

// DeleteKit takes a kit out of the catalogue, as its editor saw it: back is true when it
// stands again as it came with the application. One that another kit asks for, or that is
// planned somewhere, stays.
func (a *App) DeleteKit(ctx context.Context, key string, version int) (back bool, err error) {
	err = a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockKits(ctx); err != nil {
			return err
		}
		e, err := a.store.KitEntry(ctx, key)
		if err != nil {
			return err
		}
		if e.Version != version {
			return &store.Conflict{
				Sentence: fmt.Sprintf("somebody changed %s while you were looking at it; it was not deleted. Open it again",
					e.Kit.Name),
				Current: e.Kit,
			}
		}
		others, err := a.store.Kits(ctx)
		if err != nil {
			return err
		}
		planned, err := a.store.PlannedWith(ctx, key)
		if err != nil {
			return err
		}
		if err := e.Kit.Delete(e.Shipped, e.Returns, others, planned); err != nil {
			return store.Refused(err)
		}
		if shipped, ok := catalogue.Kit(key); ok {
			back = true
			return a.store.WriteKit(ctx, store.KitEntry{Kit: shipped, Version: version + 1, Shipped: true})
		}
		return a.store.RemoveKit(ctx, key)
	})
	return back, err
}
