package app

import (
	"context"
	"errors"
	"time"

	"wardifex/internal/core/csvimport"
	"wardifex/internal/core/machine"
	"wardifex/internal/store"
)

// Like says after what a new machine is built: another machine, or a model of the
// catalogue; the usual positions where both are empty.
type Like struct {
	Machine int64  `json:"machine,omitempty" doc:"Number of a machine that is built alike"`
	Model   string `json:"model,omitempty" doc:"Name of a model of machine in the catalogue"`
}

// AddMachine puts a machine into the register, with positions like another's, and gives
// its number.
func (a *App) AddMachine(ctx context.Context, f store.Fields, like Like, by string, now time.Time) (int64, error) {
	if err := checkMachine(&f, now); err != nil {
		return 0, err
	}
	var id int64
	err := a.store.InTx(ctx, func(ctx context.Context) error {
		var err error
		if id, err = a.store.AddMachine(ctx, f, by, now); err != nil {
			return nameTaken(err, f.Name)
		}
		list, err := a.positionsLike(ctx, like)
		if err != nil {
			return err
		}
		return a.store.AddPositions(ctx, id, list, by, now)
	})
	return id, err
}

// mostAtOnce is how many alike machines are added at once.
const mostAtOnce = 200

// AddMachines adds machines that differ in their names alone: all of them, or none.
func (a *App) AddMachines(
	ctx context.Context,
	names []string,
	f store.Fields,
	like Like,
	by string,
	now time.Time,
) ([]int64, error) {
	if len(names) == 0 || len(names) > mostAtOnce {
		return nil, refuse("write one to %d names, each on a line of its own", mostAtOnce)
	}
	ids := make([]int64, 0, len(names))
	err := a.store.InTx(ctx, func(ctx context.Context) error {
		ids = ids[:0]
		for _, name := range names {
			one := f
			one.Name = name
			id, err := a.AddMachine(ctx, one, like, by, now)
			if err != nil {
				return err
			}
			ids = append(ids, id)
		}
		return nil
	})
	return ids, err
}

// checkMachine checks what was written about a machine, and writes the day as ISO 8601.
func checkMachine(f *store.Fields, now time.Time) error {
	if err := csvimport.CheckName(f.Name); err != nil {
		return refuse("name: %s", err)
	}
	err := checkTexts([]named{{"bay", f.Bay}, {"maker", f.Maker}, {"serial number", f.Serial}, {"note", f.Note},
		{"supplier", f.Supplier}})
	if err == nil {
		f.BoughtOn, err = checkBought(f.BoughtOn, now)
	}
	return err
}

// positionsLike are the positions of a new machine.
func (a *App) positionsLike(ctx context.Context, like Like) ([]machine.Position, error) {
	voc := a.store.Vocabulary(ctx)
	switch {
	case like.Machine != 0:
		return a.store.PositionsOf(ctx, like.Machine)
	case like.Model != "":
		for _, k := range voc.Catalogue.Kinds {
			if m, ok := voc.Model(k.Key, like.Model); ok && len(m.Positions) > 0 {
				return m.Positions, nil
			}
		}
		return nil, refuse("the catalogue has no model of machine named %s with positions", like.Model)
	}
	return voc.Usual(func(machine.Position) bool { return false }), nil
}

func nameTaken(err error, name string) error {
	if errors.Is(err, store.ErrTaken) {
		return refuse("there is a machine named %s already; names tell machines apart", name)
	}
	return err
}

// EditedMachine is a machine's fields with their version.
type EditedMachine struct {
	Version int          `json:"version"`
	Fields  store.Fields `json:"fields"`
}

// ChangeMachine writes a machine's fields over the version that the editor saw. When it is
// no longer that version, Conflict carries the fields as they are now, as EditedMachine.
func (a *App) ChangeMachine(ctx context.Context, id int64, version int, f store.Fields, by string,
	now time.Time) error {
	if err := checkMachine(&f, now); err != nil {
		return err
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		m, err := a.store.LockedMachine(ctx, id)
		if err != nil {
			return err
		}
		if m.Version != version {
			return editedMeanwhile("machine", m.ChangedBy, m.ChangedAt, EditedMachine{m.Version, m.Fields})
		}
		return nameTaken(a.store.WriteMachine(ctx, id, f, by, now), f.Name)
	})
}

// Retire takes a machine out of the fleet; its record stays. An empty reason brings it
// back.
func (a *App) Retire(ctx context.Context, id int64, why, by string, now time.Time) error {
	if why != "" {
		if err := machine.PlainText(why); err != nil {
			return refuse("reason: %s", err)
		}
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		m, err := a.store.LockedMachine(ctx, id)
		if err != nil {
			return err
		}
		if m.OpenOrder != nil {
			return refuse("work is open on %s; finish or close it before the machine is retired", m.Name)
		}
		return a.store.SetRetired(ctx, id, why, by, now)
	})
}
