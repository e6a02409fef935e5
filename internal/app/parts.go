package app

import (
	"context"
	"errors"
	"strings"
	"time"

	"wardifex/internal/core/change"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine"
	"wardifex/internal/store"
)

// AddPart puts a part on the shelf, with its model as a claim of its supplier, and gives
// its number.
func (a *App) AddPart(ctx context.Context, kind, model string, f store.PartFields, by string, now time.Time) (
	int64, error) {
	voc := a.store.Vocabulary(ctx)
	if k, ok := voc.Kind(kind); !ok {
		return 0, refuse("there is no kind of part %q", kind)
	} else if voc.Software(kind) {
		return 0, refuse("a %s lies on no shelf: boards run it. Record the build by itself, and on a machine that its "+
			"board runs it", strings.ToLower(k.Label))
	}
	if err := checkPart(&f, now); err != nil {
		return 0, err
	}
	if err := machine.PlainText(model); err != nil || model == machine.None {
		return 0, refuse("name the part's model as its supplier does")
	}
	var id int64
	err := a.store.InTx(ctx, func(ctx context.Context) error {
		err := a.checkFor(ctx, f)
		if err != nil {
			return err
		}
		if id, err = a.store.AddPart(ctx, kind, f, by, now); err != nil {
			return tagTaken(err, f.Tag)
		}
		bought := machine.Reading{Grade: machine.Claimed, TakenAt: now, By: by, How: "as bought"}
		_, err = a.store.AddReading(ctx, store.Held{Part: id}, machine.ModelTrait, model, bought)
		return err
	})
	return id, err
}

// checkPart checks what was written about a part, and writes the day as ISO 8601.
func checkPart(f *store.PartFields, now time.Time) error {
	err := checkTexts([]named{{"tag", f.Tag}, {"serial number", f.Serial}, {"supplier", f.Supplier}, {"note", f.Note},
		{"shelf", f.Shelf}, {"lot", f.Lot}})
	if err == nil {
		f.BoughtOn, err = checkBought(f.BoughtOn, now)
	}
	return err
}

// checkFor refuses a part for a machine that there is none of.
func (a *App) checkFor(ctx context.Context, f store.PartFields) error {
	if f.ForMachine == nil {
		return nil
	}
	_, err := a.store.Machine(ctx, *f.ForMachine)
	return err
}

type named struct{ what, text string }

// checkTexts refuses what is no plain text; what is empty is left out.
func checkTexts(list []named) error {
	for _, t := range list {
		if t.text == "" {
			continue
		}
		if err := machine.PlainText(t.text); err != nil {
			return refuse("%s: %s", t.what, err)
		}
	}
	return nil
}

// checkBought reads the day on which something was bought, as typed, and writes it as ISO
// 8601; empty where it is empty.
func checkBought(text string, now time.Time) (string, error) {
	if text == "" {
		return "", nil
	}
	day, err := civil.ParseDay(text, civil.Unsaid)
	if err != nil {
		return "", refuse("bought on: %s", err)
	}
	if day > civil.Of(now) {
		return "", refuse("bought on %s, which is still to come; it is %s now", day.Show(), now.Format(civil.Shown))
	}
	return day.String(), nil
}

func tagTaken(err error, tag string) error {
	if errors.Is(err, store.ErrTaken) {
		return refuse("there is a part tagged %s already; tags tell parts apart", tag)
	}
	return err
}

// ChangePart writes a part's fields over the version that the editor saw.
func (a *App) ChangePart(ctx context.Context, id int64, version int, f store.PartFields, by string,
	now time.Time) error {
	if err := checkPart(&f, now); err != nil {
		return err
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		p, err := a.store.LockPart(ctx, id)
		if err != nil {
			return err
		}
		if p.Version != version {
			return editedMeanwhile("part", p.ChangedBy, p.ChangedAt, p.PartFields)
		}
		if err := a.checkFor(ctx, f); err != nil {
			return err
		}
		return tagTaken(a.store.WritePart(ctx, id, f, by, now), f.Tag)
	})
}

// MovePart moves a part from where it is into a machine, onto the shelf or to scrap. What
// depended on the part in the machine that it leaves, and on what was at the position that
// it enters, is no longer valid.
func (a *App) MovePart(ctx context.Context, id int64, m change.Move, by string, now time.Time) error {
	if err := machine.PlainText(m.Why); err != nil {
		return refuse("say why the part is moved: %s", err)
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		// Machines before parts, and each in the order of their numbers, as everywhere: who
		// moves parts to and fro at the same time waits, and nobody for one another.
		if err := a.store.LockMachines(ctx, m.From.MachineID, m.MachineID); err != nil {
			return err
		}
		p, err := a.store.LockPart(ctx, id)
		if err != nil {
			return err
		}
		is := change.Origin{}
		if at := p.Now(); at != nil {
			is = change.Origin{MachineID: at.MachineID, Slot: at.Slot}
		}
		if is != m.From {
			return &Conflict{Sentence: "somebody moved this part meanwhile; nothing was moved. Look where it is now",
				Current: is}
		}
		if err := a.mayMove(ctx, p, m); err != nil {
			return err
		}
		if is.MachineID != 0 {
			if err := a.empty(ctx, is, m.Why, by, now); err != nil {
				return err
			}
		}
		switch m.To {
		case change.ToScrap:
			return a.store.LayDown(ctx, id, m.Shelf, m.Why, by, now)
		case change.ToShelf:
			return a.store.LayDown(ctx, id, m.Shelf, "", by, now)
		}
		on, err := a.store.Machine(ctx, m.MachineID) // as it is once the part has left it
		if err != nil {
			return err
		}
		if err := a.replace(ctx, on, m.Slot, p.Model, now); err != nil {
			return err
		}
		if err := a.store.CloseFitting(ctx, on.ID, m.Slot, now); err != nil {
			return err
		}
		return a.store.Enter(ctx, store.NewFitting{MachineID: on.ID, Slot: m.Slot, Part: id, At: now, Why: m.Why, By: by})
	})
}

func (a *App) mayMove(ctx context.Context, p store.Part, m change.Move) error {
	movable := change.Movable{Kind: p.Kind, ScrappedAt: p.ScrappedAt, ScrappedWhy: p.ScrappedWhy}
	var at *change.Place
	if m.To == change.ToMachine {
		on, err := a.store.Machine(ctx, m.MachineID)
		if err != nil {
			return err
		}
		at = placeOf(on)
	}
	if err := m.Check(movable, at); err != nil {
		return Refused(err)
	}
	return nil
}

func placeOf(m store.Machine) *change.Place {
	p := change.Place{Name: m.Name, Facts: m.Facts}
	if m.OpenOrder != nil {
		p.OpenOrder = m.OpenOrder.ID
	}
	return &p
}

// empty takes a part out of its position, which is then known to be empty.
func (a *App) empty(ctx context.Context, from change.Origin, why, by string, now time.Time) error {
	return a.exchange(ctx, from.MachineID, from.Slot, machine.None, why, by, now)
}

// ReplacePart records that a part was changed outside a work order: the old one goes to the
// shelf with its readings, and what depends on it is no longer valid.
func (a *App) ReplacePart(ctx context.Context, machineID int64, slot, model, how, by string, now time.Time) error {
	if err := machine.PlainText(model); err != nil {
		return refuse("model: %s; write none for an emptied position", err)
	}
	if _, ok := a.store.Vocabulary(ctx).Position(slot); !ok {
		return refuse("there is no position %s", slot)
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		return a.exchange(ctx, machineID, slot, model, how, by, now)
	})
}

func (a *App) exchange(ctx context.Context, machineID int64, slot, model, how, by string, now time.Time) error {
	m, err := a.store.LockedMachine(ctx, machineID)
	if err != nil {
		return err
	}
	if err := placeOf(m).Free(); err != nil {
		return Refused(err)
	}
	if err := a.replace(ctx, m, slot, model, now); err != nil {
		return err
	}
	return a.store.Fit(ctx, store.NewFitting{MachineID: m.ID, Slot: slot, At: now, Why: how, By: by},
		change.Fitting{Found: map[string]string{machine.ModelTrait: model}})
}

// replace marks what depends on a position whose part is replaced by one of a model.
func (a *App) replace(ctx context.Context, m store.Machine, slot, model string, now time.Time) error {
	r, err := change.Replace(slot, model, m.Facts, m.Records)
	if err != nil {
		return Refused(err)
	}
	if err := a.store.BuildFor(ctx, m.ID, r.BuiltFor, true); err != nil {
		return err
	}
	if err := a.store.Invalidate(ctx, r.Invalid, store.Cause{}, now); err != nil {
		return err
	}
	for _, run := range r.EndedRuns {
		if err := a.store.CloseFitting(ctx, m.ID, run, now); err != nil {
			return err
		}
	}
	return nil
}

// LogWork records time spent on a machine outside a work order.
func (a *App) LogWork(ctx context.Context, machineID int64, minutes int, what, by string, at time.Time) error {
	if minutes <= 0 || minutes > 24*60 {
		return refuse("%d minutes of work cannot be right; write 1 to 1440", minutes)
	}
	if err := machine.PlainText(what); err != nil {
		return refuse("what was done: %s", err)
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockMachine(ctx, machineID); err != nil {
			return err
		}
		return a.store.AddLabour(ctx, machineID, 0, minutes, what, by, at)
	})
}
