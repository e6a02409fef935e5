package store

import (
	"context"
	"maps"
	"slices"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/identify"
	"wardifex/internal/core/machine"
)

type fittingRow struct {
	ID          int64
	MachineID   int64
	Slot        string
	FittedAt    time.Time
	RemovedAt   *time.Time
	WorkOrderID *int64
	PartID      int64
	Why         string
	MovedBy     string
}

func (fittingRow) TableName() string { return "fittings" }

// fittedPart finds the part now in a slot, or enters one of which nothing was
// recorded yet.
func (s *Store) fittedPart(tx *gorm.DB, machineID int64, slot, by string, now time.Time) (int64, error) {
	var row fittingRow
	err := tx.Where("machine_id = ? and slot = ? and removed_at is null", machineID, slot).Limit(1).Find(&row).Error
	if err != nil || row.ID != 0 {
		return row.PartID, err
	}
	return s.fitNew(tx, fittingRow{MachineID: machineID, Slot: slot, FittedAt: now, MovedBy: by})
}

// fitNew enters a part that was not on record, in its slot.
func (s *Store) fitNew(tx *gorm.DB, f fittingRow) (int64, error) {
	at, ok := s.Vocabulary().Slot(f.Slot)
	if !ok {
		return 0, refuse("there is no slot %s", f.Slot)
	}
	part := partRow{Kind: at.Kind, Version: 1, ChangedBy: f.MovedBy, ChangedAt: f.FittedAt}
	if err := tx.Create(&part).Error; err != nil {
		return 0, err
	}
	f.PartID = part.ID
	return part.ID, tx.Create(&f).Error
}

// AddReading records a reading of a trait of the part now fitted, and gives the
// number of the reading. A complete processor marking brings pins, flash,
// package and temperature range with it.
func (s *Store) AddReading(ctx context.Context, machineID int64, key machine.Key, text string, r machine.Reading, now time.Time) (int64, error) {
	voc := s.Vocabulary()
	t, ok := voc.Trait(key)
	if !ok {
		return 0, refuse("there is no trait %s", key)
	}
	if t.Superseded != "" {
		return 0, refuse("%s is superseded; record %s instead", t.Label, t.Superseded)
	}
	v, err := t.Parse(text)
	if err != nil {
		return 0, refuse("%s", err)
	}
	if err := machine.CheckReading(t, r, now); err != nil {
		return 0, refuse("%s", err)
	}
	var id int64
	err = s.tx(ctx, func(tx *gorm.DB) error {
		if _, err := lockMachine(tx, machineID); err != nil {
			return err
		}
		part, err := s.fittedPart(tx, machineID, t.Slot, r.By, minTime(r.TakenAt, now))
		if err != nil {
			return err
		}
		row := readingRow{PartID: part, Trait: t.Name, Value: v.Text, Grade: int16(r.Grade), TakenAt: r.TakenAt, TakenBy: r.By, How: r.How, Note: r.Note}
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
		id = row.ID
		m, err := s.machine(tx, machineID)
		if err != nil {
			return err
		}
		more, err := identify.Decode(key, v.Text, m.Facts)
		if err != nil {
			return refuse("%s", err)
		}
		for _, k := range slices.Sorted(maps.Keys(more)) {
			decoded, ok := voc.Trait(k)
			if !ok {
				continue
			}
			row := readingRow{PartID: part, Trait: decoded.Name, Value: more[k], Grade: int16(r.Grade),
				TakenAt: r.TakenAt, TakenBy: r.By, How: "decoded from the marking " + v.Text}
			if err := tx.Create(&row).Error; err != nil {
				return err
			}
		}
		return nil
	})
	return id, err
}

func minTime(a, b time.Time) time.Time {
	if a.Before(b) {
		return a
	}
	return b
}

// TakeBack sets a reading aside; it is never erased.
func (s *Store) TakeBack(ctx context.Context, readingID int64, why, by string, now time.Time) error {
	if err := machine.PlainText(why); err != nil {
		return refuse("say why it is taken back: %s", err)
	}
	return s.tx(ctx, func(tx *gorm.DB) error { return setAside(tx, []int64{readingID}, machine.WhyTakenBack(why), by, now) })
}

func setAside(tx *gorm.DB, ids []int64, why, by string, now time.Time) error {
	done := tx.Model(&readingRow{}).Where("id in ? and set_aside_why = ''", ids).
		Updates(map[string]any{"set_aside_why": why, "set_aside_by": by, "set_aside_at": now})
	if done.Error == nil && done.RowsAffected != int64(len(ids)) {
		return &Conflict{Sentence: "somebody has set one of these readings aside already; look again"}
	}
	return done.Error
}

// Settle ends a conflict: the reading chosen stands, the others of its grade
// that say something else are set aside with the reason.
func (s *Store) Settle(ctx context.Context, machineID int64, key machine.Key, chosen int64, why, by string, now time.Time) error {
	if err := machine.PlainText(why); err != nil {
		return refuse("a conflict is settled with a reason: %s", err)
	}
	return s.tx(ctx, func(tx *gorm.DB) error {
		if _, err := lockMachine(tx, machineID); err != nil {
			return err
		}
		m, err := s.machine(tx, machineID)
		if err != nil {
			return err
		}
		f := m.Facts.Fact(key)
		var keep *machine.Reading
		for i := range f.Conflict {
			if f.Conflict[i].ID == chosen {
				keep = &f.Conflict[i]
			}
		}
		if keep == nil {
			return &Conflict{Sentence: "this reading is no longer part of a conflict; look again"}
		}
		var others []int64
		for _, r := range f.Conflict {
			if !f.Trait.Same(r.Value, keep.Value) {
				others = append(others, r.ID)
			}
		}
		return setAside(tx, others, "conflict settled: "+why, by, now)
	})
}

// Exchange records that a part was changed outside a work order: the old one
// goes to the shelf with its readings, and what rested on it is void.
func (s *Store) Exchange(ctx context.Context, machineID int64, slot, model, how, by string, now time.Time) error {
	if err := machine.PlainText(model); err != nil {
		return refuse("model: %s; write none for an emptied slot", err)
	}
	if _, ok := s.Vocabulary().Slot(slot); !ok {
		return refuse("there is no slot %s", slot)
	}
	return s.tx(ctx, func(tx *gorm.DB) error {
		m, err := s.untouched(tx, machineID)
		if err != nil {
			return err
		}
		if err := s.voidBy(tx, m, slot, model, now); err != nil {
			return err
		}
		return s.exchange(tx, machineID, nil, slot, map[string]string{machine.ModelTrait: model}, how, by, now)
	})
}

// exchange closes what is in a slot and fits a new part with its readings.
func (s *Store) exchange(tx *gorm.DB, machineID int64, order *int64, slot string, traits map[string]string, how, by string, now time.Time) error {
	if err := closeFitting(tx, machineID, slot, now); err != nil {
		return err
	}
	part, err := s.fitNew(tx, fittingRow{MachineID: machineID, Slot: slot, FittedAt: now, WorkOrderID: order, Why: how, MovedBy: by})
	if err != nil {
		return err
	}
	for trait, value := range traits {
		r := readingRow{PartID: part, Trait: trait, Value: value, Grade: int16(machine.Read), TakenAt: now, TakenBy: by, How: how}
		if err := tx.Create(&r).Error; err != nil {
			return err
		}
	}
	return nil
}

// shift moves the part of a slot, with its readings, into another one of the same
// machine; what was there comes out. A part that nobody has recorded is moved
// without a name.
func (s *Store) shift(tx *gorm.DB, from string, to fittingRow) (err error) {
	if to.PartID, err = s.fittedPart(tx, to.MachineID, from, to.MovedBy, to.FittedAt); err != nil {
		return err
	}
	for _, slot := range []string{from, to.Slot} {
		if err := closeFitting(tx, to.MachineID, slot, to.FittedAt); err != nil {
			return err
		}
	}
	return tx.Create(&to).Error
}

// alter records what work made of a fact of a part that stays: the readings of
// what it was before no longer count.
func (s *Store) alter(tx *gorm.DB, m Machine, a fit.Altered, how, by string, now time.Time) error {
	trait := m.Facts.Fact(a.Key).Trait
	part, err := s.fittedPart(tx, m.ID, trait.Slot, by, now)
	if err != nil {
		return err
	}
	if err := tx.Model(&readingRow{}).Where("part_id = ? and trait = ? and set_aside_why = ''", part, trait.Name).
		Updates(map[string]any{"set_aside_why": how, "set_aside_by": by, "set_aside_at": now}).Error; err != nil {
		return err
	}
	return tx.Create(&readingRow{PartID: part, Trait: trait.Name, Value: a.Value.Text, Grade: int16(a.Grade), TakenAt: now, TakenBy: by, How: how}).Error
}

// History lists the parts a machine has carried in each slot, newest first.
func (s *Store) History(ctx context.Context, machineID int64) ([]Fitted, error) {
	var out []Fitted
	err := s.db.WithContext(ctx).Raw(`
		select f.slot, f.part_id, f.fitted_at, f.removed_at, f.work_order_id,
		  coalesce((select r.value from readings r where r.part_id = f.part_id and r.trait = 'model' and r.set_aside_why = ''
		            order by r.grade desc, r.taken_at desc, r.id desc limit 1), '') as model
		from fittings f where f.machine_id = ? and f.removed_at is not null order by f.removed_at desc, f.id desc`, machineID).Scan(&out).Error
	return out, err
}

// Fitted is a part that was in a slot.
type Fitted struct {
	Slot        string
	PartID      int64
	Model       string
	FittedAt    time.Time
	RemovedAt   *time.Time
	WorkOrderID *int64
}
