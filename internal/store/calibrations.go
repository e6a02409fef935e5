package store

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/change"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
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

// cause is what made calibrations invalid besides the moment.
type cause struct{ order, done, reading *int64 }

// invalidate marks records as no longer valid.
func invalidate(tx *gorm.DB, list []calibration.Invalid, because cause, now time.Time) error {
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
			At:            now,
			WorkOrderID:   because.order,
			UpkeepDoneID:  because.done, ReadingID: because.reading,
		}
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
	}
	return nil
}

// validAgain takes back what readings made invalid that turned out wrong.
func validAgain(tx *gorm.DB, readings []int64) error {
	return tx.Where("reading_id in ?", readings).Delete(&invalidRow{}).Error
}

func recordCalibration(tx *gorm.DB, machineID int64, order *int64, r calibration.Record) error {
	proof, err := json.Marshal(r.Proof)
	if err != nil {
		return err
	}
	return tx.Create(
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
			WorkOrderID: order,
		},
	).Error
}

// refused is a refusal of what was typed: a question where the person may say that it is
// right all the same.
func refused(err error) error {
	if errors.Is(err, calibration.ErrAsk) {
		return &Refusal{Sentence: err.Error(), Ask: true}
	}
	return refuse("%s", err)
}

// Calibrate records a calibration or proof of a subject, made outside a work order. data
// is judged as in the work order's step of that kind.
func (s *Store) Calibrate(
	ctx context.Context,
	machineID int64,
	k calibration.Kind,
	x calibration.Subject,
	data change.Data,
	by string,
	now time.Time,
) error {
	if _, ok := calibration.Of(k); !ok {
		return ErrNotFound
	}
	return s.calibrate(ctx, machineID, func(on machine.Snapshot) (change.Result, error) {
		step, err := change.StepFor(on, k, x)
		if err != nil {
			return change.Result{}, err
		}
		return step.Check(data, "", true, on)
	}, by, now)
}

// CalibrateStep records what a step finds, whatever its form; for records of values that
// were found before they were kept here.
func (s *Store) CalibrateStep(
	ctx context.Context,
	machineID int64,
	step change.Step,
	data change.Data,
	by string,
	now time.Time,
) error {
	return s.calibrate(
		ctx,
		machineID,
		func(on machine.Snapshot) (change.Result, error) { return step.Check(data, "", true, on) },
		by,
		now,
	)
}

func (s *Store) calibrate(
	ctx context.Context,
	machineID int64,
	check func(machine.Snapshot) (change.Result, error),
	by string,
	now time.Time,
) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		if _, err := lockMachine(tx, machineID); err != nil {
			return err
		}
		m, err := s.machine(tx, machineID)
		if err != nil {
			return err
		}
		if m.OpenOrder != nil {
			return refuse("work order %d is open on this machine; record it at its step there", m.OpenOrder.ID)
		}
		res, err := check(m.Facts)
		if err != nil {
			return refused(err)
		}
		if err := s.read(tx, m, res.Readings, by, now); err != nil {
			return err
		}
		for _, r := range res.Calibrations {
			r.At, r.By, r.Proof.Build = now, by, proven(r, m.Facts)
			if err := recordCalibration(tx, machineID, nil, r); err != nil {
				return err
			}
			if err := testDone(tx, machineID, r, now); err != nil {
				return err
			}
		}
		return nil
	})
}

// proven names the build that a proof is of; empty where it is no proof.
func proven(r calibration.Record, s machine.Snapshot) string {
	run := s.First(parts.Firmware)
	if r.Kind != calibration.Protection || run == nil {
		return ""
	}
	name, _ := s.Named(run.Key)
	return name
}

// testDone marks the protection test as done, so that its counter starts again.
func testDone(tx *gorm.DB, machineID int64, r calibration.Record, now time.Time) error {
	if r.Kind != calibration.Protection {
		return nil
	}
	return tx.Create(&doneRow{MachineID: machineID, Task: protectionTask, DoneAt: now, DoneBy: r.By, Note: r.Value}).Error
}

// read records what a step read off the machine where that is not on record already, and
// what it makes invalid.
func (s *Store) read(tx *gorm.DB, m Machine, values map[machine.Key]string, by string, now time.Time) error {
	for key, text := range values {
		if f := m.Facts.Fact(key); f.Known() && f.Value.Text == text && f.Grade >= machine.Read {
			continue
		}
		r := machine.Reading{Grade: machine.Read, TakenAt: now, By: by, How: "read at a test"}
		t, v, err := s.parseReading(key, text, r, now)
		if err != nil {
			return err
		}
		if _, err := s.addReading(tx, m, t, v, r, Changed, now); err != nil {
			return err
		}
	}
	return nil
}
