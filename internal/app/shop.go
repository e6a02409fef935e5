package app

import (
	"context"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/store"
)

// SetTimeZone sets the time zone in which days are kept from now on. Days on record stay as
// they are. Where nothing is on record yet, it holds from the beginning. version is that of
// the shop's settings that the editor began from.
func (a *App) SetTimeZone(ctx context.Context, zone string, version int, by string, now time.Time) (store.Shop, error) {
	if err := civil.CheckZone(zone); err != nil {
		return store.Shop{}, Refused(err)
	}
	var out store.Shop
	err := a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockShop(ctx); err != nil {
			return err
		}
		is, err := a.store.Shop(ctx)
		if err != nil {
			return err
		}
		if is.Version != version {
			return &Conflict{
				Sentence: "somebody else set the time zone to " + is.TimeZone + " meanwhile; nothing was changed",
				Current:  is,
			}
		}
		if is.TimeZone == zone {
			out = is
			return nil
		}
		some, err := a.store.HasMachines(ctx)
		if err != nil {
			return err
		}
		since := &now
		if !some {
			since = nil
		}
		if err := a.store.AddZone(ctx, zone, since, by, now); err != nil {
			return err
		}
		out, err = a.store.Shop(ctx)
		return err
	})
	if err != nil {
		return out, err
	}
	return out, a.store.Refresh(ctx)
}
