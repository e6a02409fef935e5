package store

import (
	"context"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/change"
)

type calibrationRow struct {
	ID                int64
	MachineID         int64
	Kind              string
	Value             string
	Store             string
	Method            string
	Passed            bool
	DoneAt            time.Time
	DoneBy            string
	WorkOrderID       *int64
	VoidReason        string
	VoidRemedy        string
	VoidAt            *time.Time
	VoidByWorkOrderID *int64
}

func (calibrationRow) TableName() string { return "calibrations" }

func (r calibrationRow) record() change.Record {
	out := change.Record{ID: r.ID, Kind: change.Kind(r.Kind), Value: r.Value, Store: r.Store, Method: r.Method, Passed: r.Passed, At: r.DoneAt, By: r.DoneBy}
	if r.VoidAt != nil {
		cal, _ := change.CalibrationOf(out.Kind)
		out.Void = &change.Voided{Kind: out.Kind, Title: cal.Title, Value: r.Value, Reason: r.VoidReason, Remedy: change.Remedy(r.VoidRemedy)}
	}
	return out
}

// void marks the newest record of each kind as no longer good.
func void(tx *gorm.DB, machineID int64, order *int64, voided []change.Voided, records []change.Record, now time.Time) error {
	newest := change.Newest(records)
	for _, v := range voided {
		err := tx.Model(&calibrationRow{}).Where("id = ? and machine_id = ?", newest[v.Kind].ID, machineID).
			Updates(map[string]any{"void_reason": v.Reason, "void_remedy": string(v.Remedy), "void_at": now, "void_by_work_order_id": order}).Error
		if err != nil {
			return err
		}
	}
	return nil
}

func recordCalibration(tx *gorm.DB, machineID int64, order *int64, r change.Record) error {
	return tx.Create(&calibrationRow{MachineID: machineID, Kind: string(r.Kind), Value: r.Value, Store: r.Store, Method: r.Method,
		Passed: r.Passed, DoneAt: r.At, DoneBy: r.By, WorkOrderID: order}).Error
}

// Calibrate records a calibration or proof done outside a work order. data is
// judged as in the work order's step of that kind.
func (s *Store) Calibrate(ctx context.Context, machineID int64, step change.Step, data change.Data, by string, now time.Time) error {
	res, err := step.Check(data, "", true, s.Vocabulary())
	if err != nil {
		return refuse("%s", err)
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
			return refuse("work order %d is open on this machine; record it at its step there", m.OpenOrder.ID)
		}
		r := *res.Calibration
		r.At, r.By = now, by
		if err := recordCalibration(tx, machineID, nil, r); err != nil {
			return err
		}
		if r.Kind == change.Protection {
			return tx.Create(&doneRow{MachineID: machineID, Task: protectionTask, DoneAt: now, DoneBy: by, Note: r.Value}).Error
		}
		return nil
	})
}
