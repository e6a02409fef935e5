package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/store"
)

// SaveKit adds a kit (version 0) or writes it over the version that its editor saw. It is
// then the shop's own.
func (a *App) SaveKit(ctx context.Context, k fit.Kit, version int) error {
	if err := k.CheckTyped(a.store.Vocabulary(ctx)); err != nil {
		return Refused(err)
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockKits(ctx); err != nil {
			return err
		}
		if _, err := a.CheckKit(ctx, k); err != nil {
			return err
		}
		here, err := a.store.KitEntry(ctx, k.Key)
		switch {
		case errors.Is(err, ErrNotFound) && version == 0:
		case err != nil:
			return err
		case version == 0:
			return refuse("there is a kit of the key %s already; open it to change it", k.Key)
		case here.Version != version:
			return kitChanged(here, "somebody changed %s while you were editing; nothing was overwritten. Open it again "+
				"beside yours", k.Name)
		}
		return a.store.WriteKit(ctx, store.KitEntry{Kit: k, Version: version + 1})
	})
}

// kitChanged is the conflict of who acts on a kit with who changed it since.
func kitChanged(here store.KitEntry, sentence, name string) error {
	return &Conflict{Sentence: fmt.Sprintf(sentence, name), Current: here.Kit}
}

// lockedKit loads a kit while nobody else writes kits; sentence is the conflict of who saw
// another version of it.
func (a *App) lockedKit(ctx context.Context, key string, version int, sentence string) (store.KitEntry, error) {
	if err := a.store.LockKits(ctx); err != nil {
		return store.KitEntry{}, err
	}
	e, err := a.store.KitEntry(ctx, key)
	if err == nil && e.Version != version {
		err = kitChanged(e, sentence, e.Kit.Name)
	}
	return e, err
}

// DeleteKit takes a kit out of the catalogue, as its editor saw it: back is true when it
// stands again as it came with the application. One that another kit asks for, or that is
// planned somewhere, stays.
func (a *App) DeleteKit(ctx context.Context, key string, version int) (back bool, err error) {
	err = a.store.InTx(ctx, func(ctx context.Context) error {
		e, err := a.lockedKit(ctx, key, version,
			"somebody changed %s while you were looking at it; it was not deleted. Open it again")
		if err != nil {
			return err
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
			return Refused(err)
		}
		if shipped, ok := catalogue.Kit(key); ok {
			back = true
			return a.store.WriteKit(ctx, store.KitEntry{Kit: shipped, Version: version + 1, Shipped: true})
		}
		return a.store.RemoveKit(ctx, key)
	})
	return back, err
}

// HideKit takes a kit that a shop will never fit out of its lists, or shows it again. Work
// that is planned with it goes on.
func (a *App) HideKit(ctx context.Context, key string, hidden bool) error {
	return a.store.InTx(ctx, func(ctx context.Context) error { return a.store.HideKit(ctx, key, hidden) })
}

// MoveLasting moves needs of a kit to the model that it fits: there they hold as long as a
// part of it is fitted, whoever fitted it. at are their places among the kit's needs, as
// its editor saw them.
func (a *App) MoveLasting(ctx context.Context, key string, version int, at []int, by string, now time.Time) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockCatalogue(ctx); err != nil {
			return err
		}
		e, err := a.lockedKit(ctx, key, version,
			"somebody changed %s while you were looking at it; nothing was moved. Open it again")
		if err != nil {
			return err
		}
		c, err := a.store.CatalogueNow(ctx)
		if err != nil {
			return err
		}
		left, model, ok := e.Kit.MoveLasting(at, func(kind, name string) (machine.Model, bool) {
			wanted := catalogue.ModelKey(machine.Model{Kind: kind, Name: name})
			i := slices.IndexFunc(c.Models, func(m machine.Model) bool { return catalogue.ModelKey(m) == wanted })
			if i < 0 {
				return machine.Model{}, false
			}
			return c.Models[i], true
		}, a.store.Vocabulary(ctx))
		if !ok {
			return refuse("none of these needs of %s can be moved to what it fits", e.Kit.Name)
		}
		if err := a.store.WriteKit(ctx, store.KitEntry{Kit: left, Version: version + 1}); err != nil {
			return err
		}
		return a.merge(ctx, machine.Catalogue{Models: []machine.Model{model}}, by, now)
	})
}
