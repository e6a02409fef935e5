package store

import (
	"context"
	"encoding/json"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/calibration"
)

type calibrationRow struct {
	ID          int64
	MachineID   int64
	Kind        string
	Subject     string
	Value       string
	Store       string
	Method      string
	Passed      bool
	Proof       []byte `gorm:"type:jsonb;default:'{}'"`
	DoneAt      time.Time
	DoneBy      string
	WorkOrderID *int64
}

func (calibrationRow) TableName() string { return "calibrations" }

// invalidRow is since when a record is no longer valid, of which of its subjects.
type invalidRow struct {
	ID            int64
	CalibrationID int64
	Subject       string
	Reason        string
	Remedy        string
	Causes        []byte `gorm:"type:jsonb;default:'[]'"`
	At            time.Time
	WorkOrderID   *int64
	UpkeepDoneID  *int64
	ReadingID     *int64
}

func (invalidRow) TableName() string { return "calibration_invalid" }

func (r calibrationRow) record() (calibration.Record, error) {
	out := calibration.Record{
		ID:      r.ID,
		Kind:    calibration.Kind(r.Kind),
		Subject: calibration.Subject(r.Subject),
		Value:   r.Value,
		Store:   r.Store,
		Method:  r.Method,
		Passed:  r.Passed,
		At:      r.DoneAt,
		By:      r.DoneBy,
	}
	return out, json.Unmarshal(r.Proof, &out.Proof)
}

func (r invalidRow) invalid(of *calibration.Record) (calibration.Invalid, error) {
	c, _ := calibration.Of(of.Kind)
	out := calibration.Invalid{
		Record:  of.ID,
		Kind:    of.Kind,
		Subject: calibration.Subject(r.Subject),
		Title:   c.Title,
		Value:   of.Value,
		Reason:  r.Reason,
		Remedy:  calibration.Remedy(r.Remedy),
	}
	return out, json.Unmarshal(r.Causes, &out.Causes)
}

// loadCalibrations loads the records of machines with what made them invalid, oldest
// first.
func loadCalibrations(tx *gorm.DB, at map[int64]*Machine, only func(column string) func(*gorm.DB) *gorm.DB) error {
	var rows []calibrationRow
	if err := tx.Scopes(only("machine_id")).Order("id").Find(&rows).Error; err != nil {
		return err
	}
	var gone []invalidRow
	err := tx.Table("calibration_invalid").
		Select("calibration_invalid.*").
		Joins("join calibrations c on c.id = calibration_id").
		Scopes(only("c.machine_id")).
		Order("calibration_invalid.id").
		Find(&gone).
		Error
	if err != nil {
		return err
	}
	of := map[int64][]invalidRow{}
	for _, r := range gone {
		of[r.CalibrationID] = append(of[r.CalibrationID], r)
	}
	for _, row := range rows {
		m := at[row.MachineID]
		if m == nil {
			continue
		}
		r, err := row.record()
		if err != nil {
			return err
		}
		for _, g := range of[row.ID] {
			v, err := g.invalid(&r)
			if err != nil {
				return err
			}
			r.Invalid = append(r.Invalid, v)
		}
		m.Records = append(m.Records, r)
	}
	return nil
}

// Cause is what made calibrations invalid: a work order, a maintenance task done, a
// reading; 0 where it was none.
type Cause struct{ Order, Done, Reading int64 }

// Invalidate marks records as no longer valid.
func (s *Store) Invalidate(ctx context.Context, list []calibration.Invalid, because Cause, at time.Time) error {
	for _, v := range list {
		causes, err := json.Marshal(append([]string{}, v.Causes...))
		if err != nil {
			return err
		}
		row := invalidRow{
			CalibrationID: v.Record,
			Subject:       string(v.Subject),
			Reason:        v.Reason,
			Remedy:        string(v.Remedy),
			Causes:        causes,
			At:            at,
			WorkOrderID:   orNil(because.Order),
			UpkeepDoneID:  orNil(because.Done),
			ReadingID:     orNil(because.Reading),
		}
		if err := s.from(ctx).Create(&row).Error; err != nil {
			return err
		}
	}
	return nil
}

// AddCalibration writes down a calibration of a machine, and the work order that made it;
// 0 for none.
func (s *Store) AddCalibration(ctx context.Context, machineID, order int64, r calibration.Record) error {
	proof, err := json.Marshal(r.Proof)
	if err != nil {
		return err
	}
	return s.from(ctx).Create(
		&calibrationRow{
			MachineID:   machineID,
			Kind:        string(r.Kind),
			Subject:     string(r.Subject),
			Value:       r.Value,
			Store:       r.Store,
			Method:      r.Method,
			Passed:      r.Passed,
			Proof:       proof,
			DoneAt:      r.At,
			DoneBy:      r.By,
			WorkOrderID: orNil(order),
		},
	).Error
}
