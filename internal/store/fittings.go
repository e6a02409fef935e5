package store

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/change"
	"wardifex/internal/core/machine"
)

type fittingRow struct {
	ID          int64
	MachineID   int64
	Slot        string
	FittedAt    time.Time
	RemovedAt   *time.Time
	WorkOrderID *int64
	PartID      *int64 // nil of a run of a build
	Why         string
	MovedBy     string
}

func (fittingRow) TableName() string { return "fittings" }

// Held is what a reading is of: a part, or a run of a build by its fitting.
type Held struct{ Part, Fitting int64 }

func (f fittingRow) held() Held {
	if f.PartID != nil {
		return Held{Part: *f.PartID}
	}
	return Held{Fitting: f.ID}
}

// part is the number of the part; 0 of a run.
func (f fittingRow) part() int64 { return f.held().Part }

func (h Held) partID() *int64    { return orNil(h.Part) }
func (h Held) fittingID() *int64 { return orNil(h.Fitting) }

func orZero(id *int64) int64 {
	if id == nil {
		return 0
	}
	return *id
}

func orNil(id int64) *int64 {
	if id == 0 {
		return nil
	}
	return &id
}

// NewFitting is something that is put at a position of a machine.
type NewFitting struct {
	MachineID int64
	Slot      string
	Part      int64 // 0 for one that is not on record yet, and for a build
	At        time.Time
	Why, By   string
	Order     int64 // the work order that fitted it; 0 for none
}

func (f NewFitting) row() fittingRow {
	return fittingRow{MachineID: f.MachineID, Slot: f.Slot, PartID: orNil(f.Part), FittedAt: f.At, Why: f.Why,
		MovedBy: f.By, WorkOrderID: orNil(f.Order)}
}

// HeldAt finds what is at a position now, or enters something of which nothing was
// recorded yet.
func (s *Store) HeldAt(ctx context.Context, machineID int64, slot, by string, at time.Time) (Held, error) {
	tx := s.from(ctx)
	row, err := openAt(tx, machineID, slot)
	if err != nil || row.ID != 0 {
		return row.held(), err
	}
	row, err = s.enter(tx, fittingRow{MachineID: machineID, Slot: slot, FittedAt: at, MovedBy: by})
	return row.held(), err
}

// openAt is what is at a position now; its number is 0 where nothing is on record.
func openAt(tx *gorm.DB, machineID int64, slot string) (fittingRow, error) {
	var row fittingRow
	err := tx.Where("machine_id = ? and slot = ? and removed_at is null", machineID, slot).Limit(1).Find(&row).Error
	return row, err
}

// enter enters a part at its position, a new one where it has no number; or a run of a
// build. What the machine did not have on its list is on it from now on.
func (s *Store) enter(tx *gorm.DB, f fittingRow) (fittingRow, error) {
	at, ok := s.vocabularyOf(tx).Position(f.Slot)
	if !ok {
		return f, fmt.Errorf("there is no position %s", f.Slot)
	}
	if err := s.listed(tx, f.MachineID, f.Slot, f.MovedBy, f.FittedAt); err != nil {
		return f, err
	}
	if s.vocabularyOf(tx).Software(at.Kind) {
		return f, s.runs(tx, &f)
	}
	if f.PartID == nil {
		part := partRow{Kind: at.Kind, Version: 1, ChangedBy: f.MovedBy, ChangedAt: f.FittedAt}
		if err := tx.Create(&part).Error; err != nil {
			return f, err
		}
		f.PartID = &part.ID
	}
	return f, tx.Create(&f).Error
}

// Enter enters something at a position where nothing is.
func (s *Store) Enter(ctx context.Context, f NewFitting) error {
	_, err := s.enter(s.from(ctx), f.row())
	return err
}

// Fit takes out what is at a position, and enters what is fitted there now with what is
// known of it and what it takes.
func (s *Store) Fit(ctx context.Context, f NewFitting, part change.Fitting) error {
	tx := s.from(ctx)
	if err := closeFitting(tx, f.MachineID, f.Slot, f.At); err != nil {
		return err
	}
	at, err := s.enter(tx, f.row())
	if err != nil {
		return err
	}
	// What is read off the part at its fitting has seen already what it takes.
	if err := takes(tx, at.MachineID, &at.ID, part.Takes); err != nil {
		return err
	}
	for _, known := range []struct {
		traits   map[string]string
		grade    machine.Grade
		asFitted bool
		how      string
	}{
		{part.Traits, machine.Observed, true, at.Why},
		{part.Found, machine.Observed, false, at.Why},
		{part.Carried, machine.Claimed, false, "carried over from the one before, not read again"},
	} {
		for _, trait := range slices.Sorted(maps.Keys(known.traits)) {
			grade := known.grade
			if known.asFitted {
				grade = machine.StatedGrade(trait, known.traits[trait])
			}
			r := readingOf(at.held(), trait, known.traits[trait], grade, at.FittedAt, at.MovedBy, known.how)
			r.AsFitted = known.asFitted
			if err := tx.Create(&r).Error; err != nil {
				return err
			}
		}
	}
	return s.name(tx, at.held())
}

// Shift moves the part of a position, with its readings and what it takes, to another one
// of the same machine; what was there comes out. A part that nobody has recorded is moved
// without a name.
func (s *Store) Shift(ctx context.Context, from string, f NewFitting, takings []machine.Taking) error {
	tx := s.from(ctx)
	of, err := s.HeldAt(ctx, f.MachineID, from, f.By, f.At)
	if err != nil {
		return err
	}
	was, err := openAt(tx, f.MachineID, from)
	if err != nil {
		return err
	}
	for _, slot := range []string{from, f.Slot} {
		if err := closeFitting(tx, f.MachineID, slot, f.At); err != nil {
			return err
		}
	}
	f.Part = of.Part
	to, err := s.enter(tx, f.row())
	if err != nil {
		return err
	}
	if err := tx.Exec("update takings set fitting_id = ? where fitting_id = ?", to.ID, was.ID).Error; err != nil {
		return err
	}
	return takes(tx, f.MachineID, &to.ID, takings)
}

// CloseFitting ends what is at a position, and with it what that takes.
func (s *Store) CloseFitting(ctx context.Context, machineID int64, slot string, at time.Time) error {
	return closeFitting(s.from(ctx), machineID, slot, at)
}

func closeFitting(tx *gorm.DB, machineID int64, slot string, at time.Time) error {
	if err := tx.Model(&fittingRow{}).Where("machine_id = ? and slot = ? and removed_at is null", machineID,
		slot).Update("removed_at", at).Error; err != nil {
		return err
	}
	err := tx.Exec(`update takings set until_reading = (select coalesce(max(id), 0) from readings)
		where fitting_id in (select id from fittings where machine_id = ? and slot = ? and removed_at = ?)`, machineID,
		slot, at).Error
	if err != nil {
		return err
	}
	return structureChanged(tx, machineID)
}

// History lists the parts a machine has carried in each slot, newest first.
func (s *Store) History(ctx context.Context, machineID int64) ([]Fitted, error) {
	var out []Fitted
	err := s.from(ctx).Raw(`
		select f.slot, coalesce(f.part_id, 0) as part_id, f.fitted_at, f.removed_at, f.work_order_id,
		  coalesce(b.name, nullif(u.standing_model, ''), p.standing_model, '') as model
		from fittings f left join parts p on p.id = f.part_id left join build_runs u on u.fitting_id = f.id
		  left join builds b on b.id = u.build_id
		where f.machine_id = ? and f.removed_at is not null order by f.removed_at desc, f.id desc`,
		machineID).Scan(&out).Error
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

// SinceOf tells since when parts of a machine are at their positions that took the place
// of others. What was there first is as old as the record of it, and changed nothing.
func (s *Store) SinceOf(ctx context.Context, machineID int64) (calibration.Since, error) {
	each, err := s.sinceEach(s.from(ctx).Where("machine_id = ?", machineID))
	return sinceIn(each[machineID]), err
}

// SinceEach is SinceOf for every machine.
func (s *Store) SinceEach(ctx context.Context) (func(machineID int64) calibration.Since, error) {
	each, err := s.sinceEach(s.from(ctx))
	return func(id int64) calibration.Since { return sinceIn(each[id]) }, err
}

func (s *Store) sinceEach(of *gorm.DB) (map[int64]map[string]time.Time, error) {
	var rows []fittingRow
	err := of.Where(`removed_at is null and exists (
		select from fittings before where before.machine_id = fittings.machine_id and before.slot = fittings.slot
			and before.removed_at <= fittings.fitted_at)`).Find(&rows).Error
	out := map[int64]map[string]time.Time{}
	for _, r := range rows {
		if out[r.MachineID] == nil {
			out[r.MachineID] = map[string]time.Time{}
		}
		out[r.MachineID][r.Slot] = r.FittedAt
	}
	return out, err
}

func sinceIn(at map[string]time.Time) calibration.Since {
	return func(slot string) time.Time { return at[slot] }
}
