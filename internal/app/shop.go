package app

import (
	"context"
	"errors"
	"time"

	"golang.org/x/text/currency"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/shop"
	"wardifex/internal/store"
)

// SaveShop sets what the shop sets for itself, and the time zone in which days are kept from
// now on. Days on record stay as they are; where nothing is on record yet, the time zone holds
// from the beginning. version is that of the settings that the editor began from.
func (a *App) SaveShop(
	ctx context.Context,
	settings shop.Settings,
	zone string,
	version int,
	by string,
	now time.Time,
) (store.Shop, error) {
	if err := civil.CheckZone(zone); err != nil {
		return store.Shop{}, Refused(err)
	}
	unit, err := currency.ParseISO(settings.Currency)
	if err != nil {
		return store.Shop{}, refuse("%q is no currency; write its three letters, such as EUR or USD", settings.Currency)
	}
	settings.Currency = unit.String()
	if settings, err = settings.Check(); err != nil {
		return store.Shop{}, Refused(err)
	}
	var out store.Shop
	err = a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockShop(ctx); err != nil {
			return err
		}
		is, err := a.store.Shop(ctx)
		if err != nil {
			return err
		}
		err = a.store.SaveShop(ctx, settings, version)
		if errors.Is(err, store.ErrChanged) {
			return &Conflict{Sentence: "somebody else changed the shop's settings meanwhile; nothing was saved", Current: is}
		}
		if err == nil && is.TimeZone != zone {
			err = a.setZone(ctx, zone, by, now)
		}
		if err == nil {
			out, err = a.store.Shop(ctx)
		}
		return err
	})
	if err != nil {
		return out, err
	}
	return out, a.store.Refresh(ctx)
}

func (a *App) setZone(ctx context.Context, zone, by string, now time.Time) error {
	some, err := a.store.HasMachines(ctx)
	if err != nil {
		return err
	}
	since := &now
	if !some {
		since = nil
	}
	return a.store.AddZone(ctx, zone, since, by, now)
}
