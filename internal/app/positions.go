package app

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/machine"
	"wardifex/internal/store"
)

// ChangedStructure is a change of a machine's positions over the version that its editor
// saw.
type ChangedStructure struct {
	Version int       `json:"version" doc:"Of the structure that the editor saw"`
	By      string    `json:"-"`
	At      time.Time `json:"-"`
}

// lockStructure takes a machine for a change of its positions.
func (a *App) lockStructure(ctx context.Context, machineID int64, c ChangedStructure) (store.Machine, error) {
	// A new position changes what the fleet is described in.
	if err := a.store.LockCatalogue(ctx); err != nil {
		return store.Machine{}, err
	}
	m, err := a.store.LockedMachine(ctx, machineID)
	switch {
	case err != nil:
	case m.RetiredAt != nil:
		err = refuse("%s is retired; bring it back before its positions are changed", m.Name)
	case m.OpenOrder != nil:
		err = refuse("work order %d is open on %s; finish it before its positions are changed", m.OpenOrder.ID, m.Name)
	case m.Structure != c.Version:
		err = &Conflict{
			Sentence: fmt.Sprintf("somebody changed the positions of %s while you were editing; nothing was overwritten. "+
				"Look at the list again", m.Name),
			Current: m.Facts.Structure().Listed(),
		}
	}
	return m, err
}

// AddPosition lists one more position on a machine, and gives its key: that follows from
// its kind and place; p.N 0 takes the next number that is free there.
func (a *App) AddPosition(ctx context.Context, machineID int64, p machine.Position, c ChangedStructure) (
	key string, err error) {
	err = a.store.InTx(ctx, func(ctx context.Context) error {
		m, err := a.lockStructure(ctx, machineID, c)
		if err != nil {
			return err
		}
		if p, err = newPosition(m, p); err != nil {
			return err
		}
		key = p.Key
		return a.store.AddPositions(ctx, machineID, []machine.Position{p}, c.By, c.At)
	})
	return key, err
}

// newPosition checks a position that is to be listed, and gives it its ordinal, key, label
// and group.
func newPosition(m store.Machine, p machine.Position) (machine.Position, error) {
	p, err := m.Facts.Structure().NewPosition(p, catalogue.KeyFor)
	if err != nil {
		return p, Refused(err)
	}
	return p, checkPosition(m.Facts.Vocabulary(), p)
}

func checkPosition(voc *machine.Vocabulary, p machine.Position) error {
	if faults := voc.Catalogue.PositionFaults(p); len(faults) > 0 {
		return refuse("position %s", strings.Join(faults, "; "))
	}
	return nil
}

// ChangePosition places a position of a machine otherwise, names it otherwise, or says what
// it rides on and what feeds it. What a key stands for is the same on every machine: a
// position that was not placed is placed, and any is named otherwise, wherever it is
// listed; one that is placed otherwise gets the key of its new place, with all that was
// fitted there since it is listed.
func (a *App) ChangePosition(ctx context.Context, machineID int64, p machine.Position, c ChangedStructure) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		m, err := a.lockStructure(ctx, machineID, c)
		if err != nil {
			return err
		}
		was := p.Key
		known := a.store.Vocabulary(ctx).At(was)
		if p, err = m.Facts.Structure().Changed(p, catalogue.KeyFor); err != nil {
			return Refused(err)
		}
		if err := checkPosition(m.Facts.Vocabulary(), p); err != nil {
			return err
		}
		same := p.Key == was && known != nil && known.SamePlace(p)
		if p.Key == was && !same && known != nil {
			if err := a.everywhere(ctx, p, c); err != nil {
				return err
			}
		}
		if err := a.store.WritePosition(ctx, machineID, was, p, c.By, c.At); err != nil || same {
			return err // linked otherwise is the machine's own affair
		}
		return a.store.CatalogueChanged(ctx)
	})
}

// everywhere places and names a position wherever it is listed.
func (a *App) everywhere(ctx context.Context, p machine.Position, c ChangedStructure) error {
	slots := a.store.Vocabulary(ctx).Catalogue.Slots
	if i := slices.IndexFunc(slots, func(o machine.Position) bool { return o.Key == p.Key }); i >= 0 {
		one := slots[i]
		one.Label, one.Serves, one.N = p.Label, p.Serves, p.N
		if err := a.merge(ctx, machine.Catalogue{Slots: []machine.Position{one}}, c.By, c.At); err != nil {
			return err
		}
	}
	return a.store.NamePosition(ctx, p)
}

// RemovePosition takes a position off a machine's list; nothing may be fitted there.
func (a *App) RemovePosition(ctx context.Context, machineID int64, key string, c ChangedStructure) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		m, err := a.lockStructure(ctx, machineID, c)
		if err != nil {
			return err
		}
		if err := m.Facts.MayRemove(key); err != nil {
			return Refused(err)
		}
		return a.store.EndPosition(ctx, machineID, key, c.At)
	})
}
