package store

import (
	"context"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

type fittingRow struct {
	ID          int64
	MachineID   int64
	Slot        string
	FittedAt    time.Time
	RemovedAt   *time.Time
	WorkOrderID *int64
}

func (fittingRow) TableName() string { return "fittings" }

// fitting finds what is now in a slot, or opens an entry for a part of which
// nothing was recorded yet.
func fitting(tx *gorm.DB, machineID int64, slot string, now time.Time) (int64, error) {
	var row fittingRow
	err := tx.Where("machine_id = ? and slot = ? and removed_at is null", machineID, slot).Limit(1).Find(&row).Error
	if err != nil || row.ID != 0 {
		return row.ID, err
	}
	row = fittingRow{MachineID: machineID, Slot: slot, FittedAt: now}
	err = tx.Create(&row).Error
	return row.ID, err
}

// AddReading records a reading of a trait of the part now fitted. A complete
// processor marking brings pins, flash, package and temperature range with it.
func (s *Store) AddReading(ctx context.Context, machineID int64, key machine.Key, text string, r machine.Reading, now time.Time) error {
	t, ok := s.voc.Trait(key)
	if !ok {
		return refuse("there is no trait %s", key)
	}
	v, err := t.Parse(text)
	if err != nil {
		return refuse("%s", err)
	}
	if err := machine.CheckReading(r, now); err != nil {
		return refuse("%s", err)
	}
	values := map[machine.Key]string{key: v.Text}
	how := map[machine.Key]string{key: r.How}
	return s.tx(ctx, func(tx *gorm.DB) error {
		if _, err := lockMachine(tx, machineID); err != nil {
			return err
		}
		if key == "mainboard.processor" {
			on, err := s.machine(tx, machineID)
			if err != nil {
				return err
			}
			decoded, err := bench.MarkingReadings(v.Text, on.Facts)
			if err != nil {
				return refuse("%s", err)
			}
			for k, text := range decoded {
				values[k], how[k] = text, "decoded from the marking "+v.Text
			}
		}
		id, err := fitting(tx, machineID, t.Slot, now)
		if err != nil {
			return err
		}
		for k, value := range values {
			trait, ok := s.voc.Trait(k)
			if !ok {
				continue
			}
			row := readingRow{MachineID: machineID, FittingID: id, Slot: trait.Slot, Trait: trait.Name, Value: value, Grade: int16(r.Grade),
				TakenAt: r.TakenAt, TakenBy: r.By, How: how[k], Note: r.Note}
			if err := tx.Create(&row).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

// TakeBack sets a reading aside; it is never erased.
func (s *Store) TakeBack(ctx context.Context, readingID int64, why, by string, now time.Time) error {
	if err := machine.PlainText(why); err != nil {
		return refuse("say why it is taken back: %s", err)
	}
	return s.tx(ctx, func(tx *gorm.DB) error { return setAside(tx, []int64{readingID}, "taken back: "+why, by, now) })
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

// Exchange records that a part was changed outside a work order: the old one's
// readings go with it, and what rested on it is void.
func (s *Store) Exchange(ctx context.Context, machineID int64, slot, model, how, by string, now time.Time) error {
	if err := machine.PlainText(model); err != nil {
		return refuse("model: %s; write none for an emptied slot", err)
	}
	if _, ok := s.voc.Slot(slot); !ok {
		return refuse("there is no slot %s", slot)
	}
	return s.tx(ctx, func(tx *gorm.DB) error {
		if _, err := lockMachine(tx, machineID); err != nil {
			return err
		}
		m, err := s.machine(tx, machineID)
		if err != nil {
			return err
		}
		if m.OpenOrder != nil {
			return refuse("work order %d is open on this machine; record the exchange there, or finish it first", m.OpenOrder.ID)
		}
		kit := fit.Kit{Key: "by-hand", Effects: []fit.Effect{{Slot: slot, Model: model}}}
		c, err := change.NewChange(kit, nil, m.Facts)
		if err != nil {
			return refuse("%s", err)
		}
		if err := exchange(tx, machineID, nil, slot, map[string]string{machine.ModelTrait: model}, how, by, now); err != nil {
			return err
		}
		return void(tx, machineID, nil, c.Void(m.Records), m.Records, now)
	})
}

// exchange closes what is in a slot and fits a new part with its readings.
func exchange(tx *gorm.DB, machineID int64, order *int64, slot string, traits map[string]string, how, by string, now time.Time) error {
	if err := tx.Model(&fittingRow{}).Where("machine_id = ? and slot = ? and removed_at is null", machineID, slot).Update("removed_at", now).Error; err != nil {
		return err
	}
	row := fittingRow{MachineID: machineID, Slot: slot, FittedAt: now, WorkOrderID: order}
	if err := tx.Create(&row).Error; err != nil {
		return err
	}
	for trait, value := range traits {
		r := readingRow{MachineID: machineID, FittingID: row.ID, Slot: slot, Trait: trait, Value: value, Grade: int16(machine.Read), TakenAt: now, TakenBy: by, How: how}
		if err := tx.Create(&r).Error; err != nil {
			return err
		}
	}
	return nil
}

// History lists the parts a machine has carried in each slot, newest first.
func (s *Store) History(ctx context.Context, machineID int64) ([]Fitted, error) {
	var out []Fitted
	err := s.db.WithContext(ctx).Raw(`
		select f.slot, f.fitted_at, f.removed_at, f.work_order_id,
		  coalesce((select r.value from readings r where r.fitting_id = f.id and r.trait = 'model' and r.set_aside_why = ''
		            order by r.grade desc, r.taken_at desc, r.id desc limit 1), '') as model
		from fittings f where f.machine_id = ? and f.removed_at is not null order by f.removed_at desc, f.id desc`, machineID).Scan(&out).Error
	return out, err
}

// Fitted is a part that was in a slot.
type Fitted struct {
	Slot        string
	Model       string
	FittedAt    time.Time
	RemovedAt   *time.Time
	WorkOrderID *int64
}
