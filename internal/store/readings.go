package store

import (
	"context"
	"slices"
	"time"

	"wardifex/internal/core/machine"
)

func (r readingRow) held() Held {
	if r.PartID != nil {
		return Held{Part: *r.PartID}
	}
	return Held{Fitting: *r.FittingID}
}

func readingOf(of Held, trait, value string, grade machine.Grade, at time.Time, by, how string) readingRow {
	return readingRow{PartID: of.partID(), FittingID: of.fittingID(), Trait: trait, Value: value, Grade: int16(grade),
		TakenAt: at, TakenBy: by, How: how}
}

// AddReading writes down a reading of what it is of, its value as text, and gives its
// number.
func (s *Store) AddReading(ctx context.Context, of Held, trait, value string, r machine.Reading) (int64, error) {
	row := readingOf(of, trait, value, r.Grade, r.TakenAt, r.By, r.How)
	row.Note = r.Note
	if err := s.from(ctx).Create(&row).Error; err != nil || trait != machine.ModelTrait {
		return row.ID, err
	}
	return row.ID, s.name(s.from(ctx), of)
}

// SetAside sets readings aside with a reason; ErrChanged where somebody has set one of
// them aside already.
func (s *Store) SetAside(ctx context.Context, ids []int64, why, by string, at time.Time) error {
	if len(ids) == 0 {
		return nil
	}
	done := s.from(ctx).Model(&readingRow{}).Where("id in ? and set_aside_why = ''", ids).
		Updates(map[string]any{"set_aside_why": why, "set_aside_by": by, "set_aside_at": at})
	if done.Error == nil && done.RowsAffected != int64(len(ids)) {
		return ErrChanged
	}
	if done.Error != nil {
		return done.Error
	}
	return s.nameOfReadings(s.from(ctx), ids)
}

// SetAsideOf sets aside all readings of some traits of what they are of.
func (s *Store) SetAsideOf(ctx context.Context, of Held, traits []string, why, by string, at time.Time) error {
	err := s.from(ctx).Model(&readingRow{}).
		Where("(part_id = ? or fitting_id = ?) and trait in ? and set_aside_why = ''", of.Part, of.Fitting, traits).
		Updates(map[string]any{"set_aside_why": why, "set_aside_by": by, "set_aside_at": at}).Error
	if err != nil || !slices.Contains(traits, machine.ModelTrait) {
		return err
	}
	return s.name(s.from(ctx), of)
}

// ValidAgain takes back what readings made invalid that turned out wrong.
func (s *Store) ValidAgain(ctx context.Context, readings []int64) error {
	return s.from(ctx).Where("reading_id in ?", readings).Delete(&invalidRow{}).Error
}

// HasCalibrations reports whether any calibration of a machine is on record.
func (s *Store) HasCalibrations(ctx context.Context, machineID int64) (has bool, err error) {
	err = s.from(ctx).Raw("select exists (select from calibrations where machine_id = ?)", machineID).Scan(&has).Error
	return has, err
}

// HasReading reports whether there is a reading of a number.
func (s *Store) HasReading(ctx context.Context, id int64) (bool, error) {
	var n int64
	err := s.from(ctx).Model(&readingRow{}).Where("id = ?", id).Count(&n).Error
	return n > 0, err
}
