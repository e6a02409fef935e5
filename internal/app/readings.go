package app

import (
	"context"
	"maps"
	"slices"
	"time"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/change"
	"wardifex/internal/core/inspection"
	"wardifex/internal/core/machine"
	"wardifex/internal/store"
)

// AddReading records a reading of a trait of what is now fitted, and gives the number of
// the reading. A complete processor marking brings pins, flash, package and temperature
// range with it.
func (a *App) AddReading(ctx context.Context, machineID int64, key machine.Key, text string, r machine.Reading,
	now time.Time) (int64, error) {
	return a.AddDiffering(ctx, machineID, key, text, r, machine.NotSaid, now)
}

// AddDiffering is AddReading with what the reader says of a value that differs from the
// one that stands. It makes invalid what depends on that, unless the reader says that the
// record was wrong.
func (a *App) AddDiffering(ctx context.Context, machineID int64, key machine.Key, text string, r machine.Reading,
	differs machine.Differs, now time.Time) (int64, error) {
	t, v, err := a.parseReading(ctx, key, text, r, now)
	if err != nil {
		return 0, err
	}
	var id int64
	err = a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockMachine(ctx, machineID); err != nil {
			return err
		}
		calibrated, err := a.store.HasCalibrations(ctx, machineID)
		if err != nil {
			return err
		}
		m := store.Machine{ID: machineID}
		if calibrated || differs != machine.NotSaid {
			if m, err = a.store.Machine(ctx, machineID); err != nil {
				return err
			}
		}
		id, err = a.addReading(ctx, m, t, v, r, differs, now)
		return err
	})
	return id, err
}

// parseReading checks a reading as it is written.
func (a *App) parseReading(ctx context.Context, key machine.Key, text string, r machine.Reading, now time.Time) (
	t *machine.Trait, v machine.Value, err error) {
	t, ok := a.store.Vocabulary(ctx).Trait(key)
	switch {
	case !ok:
		return nil, v, refuse("there is no trait %s", key)
	case t.Superseded != "":
		return nil, v, refuse("%s is superseded; record %s instead", t.Label, t.Superseded)
	}
	if v, err = t.Parse(text); err != nil {
		return nil, v, Refused(err)
	}
	if err := machine.CheckReading(t, r, now); err != nil {
		return nil, v, Refused(err)
	}
	return t, v, nil
}

// addReading writes a reading down, sets aside what it says is no longer so, and marks
// what it makes invalid. m is the machine before; one without calibrations need not be
// loaded where nothing is said of what differs.
func (a *App) addReading(ctx context.Context, m store.Machine, t *machine.Trait, v machine.Value, r machine.Reading,
	differs machine.Differs, now time.Time) (int64, error) {
	at := now
	if r.TakenAt.Before(at) {
		at = r.TakenAt
	}
	of, err := a.store.HeldAt(ctx, m.ID, t.Slot, r.By, at)
	if err != nil {
		return 0, err
	}
	aside, why := differs.SupersededBy(m.Readings, t, v, r.Grade)
	if err := asideOnce(a.store.SetAside(ctx, aside, why, r.By, now)); err != nil {
		return 0, err
	}
	if differs == machine.WasWrong && len(aside) > 0 {
		if err := a.store.ValidAgain(ctx, aside); err != nil {
			return 0, err
		}
	}
	id, err := a.keepReading(ctx, of, t, v, r, func() (machine.Snapshot, error) {
		m, err := a.store.Machine(ctx, m.ID)
		return m.Facts, err
	})
	if err != nil || differs == machine.WasWrong || len(m.Records) == 0 {
		return id, err
	}
	after, err := a.store.Machine(ctx, m.ID)
	if err != nil {
		return id, err
	}
	invalid := calibration.ReadAnew(m.Facts, after.Facts, t, r.TakenAt).Invalidated(m.Records)
	return id, a.store.Invalidate(ctx, invalid, store.Cause{Reading: id}, now)
}

// keepReading writes a reading of a part down, with what its marking tells. facts are those
// of the machine, or of the part, with the reading among them.
func (a *App) keepReading(ctx context.Context, of store.Held, t *machine.Trait, v machine.Value, r machine.Reading,
	facts func() (machine.Snapshot, error)) (int64, error) {
	id, err := a.store.AddReading(ctx, of, t.Name, v.Text, r)
	if err != nil || !inspection.Decodes(t, a.store.Vocabulary(ctx)) {
		return id, err
	}
	on, err := facts()
	if err != nil {
		return 0, err
	}
	more, err := inspection.Decode(t.Key(), v.Text, on)
	if err != nil {
		return 0, Refused(err)
	}
	decoded := machine.Reading{Grade: r.Grade, TakenAt: r.TakenAt, By: r.By, How: bench.DecodedFrom + v.Text}
	for _, k := range slices.Sorted(maps.Keys(more)) {
		if told, ok := a.store.Vocabulary(ctx).Trait(k); ok {
			if _, err := a.store.AddReading(ctx, of, told.Name, more[k], decoded); err != nil {
				return 0, err
			}
		}
	}
	return id, nil
}

// AddPartReading records a reading of a part that lies on the shelf, and gives the number
// of the reading. What is in a machine is read there.
func (a *App) AddPartReading(ctx context.Context, part int64, trait, text string, r machine.Reading, now time.Time) (
	int64, error) {
	var id int64
	err := a.store.InTx(ctx, func(ctx context.Context) error {
		p, err := a.store.LockPart(ctx, part)
		if err != nil {
			return err
		}
		voc := a.store.Vocabulary(ctx)
		at := voc.First(p.Kind)
		switch now := p.Now(); {
		case p.ScrappedAt != nil:
			return refuse("this part was scrapped; nothing of it is read any more")
		case now != nil:
			return refuse("this part is in %s: record it on the sheet of that machine", now.Machine)
		case at == nil:
			return refuse("no machine has a place for parts of this kind; add one to the catalogue first")
		}
		t, v, err := a.parseReading(ctx, machine.KeyOf(at.Key, trait), text, r, now)
		if err != nil {
			return err
		}
		id, err = a.keepReading(ctx, store.Held{Part: part}, t, v, r, func() (machine.Snapshot, error) {
			var known []machine.Reading
			for _, old := range p.Readings {
				old.Key = machine.KeyOf(at.Key, old.Key.Trait())
				known = append(known, old)
			}
			known = append(known, machine.Reading{Key: t.Key(), Value: v, Grade: r.Grade, TakenAt: r.TakenAt, By: r.By})
			return machine.NewSnapshot(voc, machine.Record{Readings: known}), nil
		})
		return err
	})
	return id, err
}

// MarkReadable undoes the newest MarkUnreadable of a trait and an inspection; ErrNotFound where there is none.
func (a *App) MarkReadable(ctx context.Context, machineID int64, key machine.Key, inspection string) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockMachine(ctx, machineID); err != nil {
			return err
		}
		return a.store.DropUnreadable(ctx, machineID, key, inspection)
	})
}

// MarkUnreadable records that somebody tried an inspection and could not read a trait by
// it.
func (a *App) MarkUnreadable(ctx context.Context, machineID int64, key machine.Key, inspection, why, by string,
	now time.Time) error {
	t, ok := a.store.Vocabulary(ctx).Trait(key)
	if !ok {
		return refuse("there is no trait %s", key)
	}
	if _, ok := a.store.Vocabulary(ctx).Inspection(inspection); !ok {
		return refuse("there is no inspection %q", inspection)
	}
	if why != "" {
		if err := machine.PlainText(why); err != nil {
			return refuse("why: %s", err)
		}
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockMachine(ctx, machineID); err != nil {
			return err
		}
		of, err := a.store.HeldAt(ctx, machineID, t.Slot, by, now)
		if err != nil {
			return err
		}
		return a.store.AddUnreadable(ctx, of, t.Name, inspection, why, by, now)
	})
}

// keepFound records what a step found: what was read is news, and a protection test starts
// its counter again. order is the work order, 0 for none.
func (a *App) keepFound(ctx context.Context, m store.Machine, f change.Found, order int64, now time.Time) error {
	news := f.News(m.Facts)
	for _, key := range slices.Sorted(maps.Keys(news)) {
		r := machine.Reading{Grade: machine.Observed, TakenAt: now, By: f.By, How: "read at a test"}
		t, v, err := a.parseReading(ctx, key, news[key], r, now)
		if err != nil {
			return err
		}
		if _, err := a.addReading(ctx, m, t, v, r, machine.Changed, now); err != nil {
			return err
		}
	}
	for _, c := range f.Calibrations {
		if err := a.store.AddCalibration(ctx, m.ID, order, c); err != nil {
			return err
		}
		if test, ok := change.TestDone(c, now); ok {
			if _, err := a.store.AddDone(ctx, m.ID, test, nil, c.Value, c.By); err != nil {
				return err
			}
		}
	}
	return nil
}
