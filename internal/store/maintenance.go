package store

import (
	"context"
	"maps"
	"slices"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/csvimport"
	"wardifex/internal/core/maintenance"
)

const protectionTask = maintenance.ProtectionTask

type meterRow struct {
	ID        int64
	MachineID int64
	ReadAt    time.Time
	Hours     float64
	Reset     bool
	TakenBy   string
}

func (meterRow) TableName() string { return "meters" }

type doneRow struct {
	ID        int64
	MachineID int64
	Task      string
	DoneAt    time.Time
	DoneBy    string
	Note      string
}

func (doneRow) TableName() string { return "upkeep_done" }

// ReadMeter records a print-hour meter's reading. The same reading again
// changes nothing.
func (s *Store) ReadMeter(ctx context.Context, machineID int64, r maintenance.Meter, by string, now time.Time) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		if _, err := lockMachine(tx, machineID); err != nil {
			return err
		}
		m, err := s.machine(tx, machineID)
		if err != nil {
			return err
		}
		for _, on := range m.Meters {
			if on.At.Equal(r.At) {
				if on.Hours == r.Hours {
					return nil
				}
				return refuse("the meter was already read at this moment, at %g h; choose another moment or day", on.Hours)
			}
		}
		if err := maintenance.CheckMeter(m.Meters, r, now); err != nil {
			return refuse("%s", err)
		}
		return tx.Create(&meterRow{MachineID: machineID, ReadAt: r.At, Hours: r.Hours, Reset: r.Reset, TakenBy: by}).Error
	})
}

// PlanMeters judges a file of meter readings against those on record.
func (s *Store) PlanMeters(
	ctx context.Context,
	t csvimport.Table,
	d csvimport.Decisions,
	now time.Time,
) (csvimport.MeterPlan, error) {
	return s.planMeters(s.from(ctx), t, d, now)
}

func (s *Store) planMeters(
	tx *gorm.DB,
	t csvimport.Table,
	d csvimport.Decisions,
	now time.Time,
) (csvimport.MeterPlan, error) {
	fleet, err := s.fleetWith(tx, s.loadRemembered)
	if err != nil {
		return csvimport.MeterPlan{}, err
	}
	metered := make([]csvimport.Metered, len(fleet))
	for i, m := range fleet {
		metered[i] = csvimport.Metered{ID: m.ID, Name: m.Name, Meters: m.Meters}
	}
	p, err := csvimport.PlanMeters(t, d, metered, s.Vocabulary(), now)
	if err != nil {
		return p, refuse("%s", err)
	}
	return p, nil
}

// ImportMeters records the rows of a file of meter readings that have no fault, all in
// one transaction; what is wrong with the others is in the plan.
func (s *Store) ImportMeters(
	ctx context.Context,
	f ImportFile,
	t csvimport.Table,
	d csvimport.Decisions,
	by string,
	now time.Time,
) (csvimport.MeterPlan, error) {
	var plan csvimport.MeterPlan
	err := s.tx(ctx, func(tx *gorm.DB) error {
		if err := tx.Exec("select pg_advisory_xact_lock(hashtext('wardifex import'))").Error; err != nil {
			return err
		}
		var err error
		if plan, err = s.planMeters(tx, t, d, now); err != nil {
			return err
		}
		if len(plan.Questions) > 0 {
			return refuse("%s", plan.Questions[0].Text)
		}
		if len(plan.Rows) == 0 {
			return nil
		}
		// Others read these machines' meters before or after, not meanwhile.
		machines := map[int64]bool{}
		for _, r := range plan.Rows {
			machines[r.MachineID] = true
		}
		if err := tx.Exec("select id from machines where id in ? order by id for update",
			slices.Collect(maps.Keys(machines))).Error; err != nil {
			return err
		}
		if plan, err = s.planMeters(tx, t, d, now); err != nil {
			return err
		}
		var id []int64
		var hours []float64
		var at []time.Time
		for _, r := range plan.Rows {
			id, hours, at = append(id, r.MachineID), append(hours, r.Hours), append(at, r.At)
		}
		err = insertAll(
			tx,
			"meters",
			bulkColumn{"machine_id", "bigint", id},
			bulkColumn{"hours", "double precision", hours},
			bulkColumn{"read_at", "timestamptz", at},
			bulkColumn{"taken_by", "text", repeat(by, len(id))},
		)
		if err != nil {
			return err
		}
		return noteImport(
			tx,
			"meters",
			f,
			map[string]int{"new": len(plan.Rows), "the same": plan.Same, "faulty": len(plan.Faults)},
			by,
			now,
		)
	})
	return plan, err
}

// AddDone records that a task was done, with what that made invalid.
func (s *Store) AddDone(
	ctx context.Context, machineID int64, d maintenance.Done, note, by string, invalid []calibration.Invalid,
) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		row := doneRow{MachineID: machineID, Task: d.Task, DoneAt: d.At, DoneBy: by, Note: note}
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
		return invalidate(tx, invalid, cause{done: &row.ID}, d.At)
	})
}

// UndoDone takes back the newest time a task was marked done on a machine.
func (s *Store) UndoDone(ctx context.Context, machineID int64, task string) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		if _, err := lockMachine(tx, machineID); err != nil {
			return err
		}
		if task == maintenance.ProtectionTask {
			return refuse("a test that was made is not undone; record another")
		}
		gone := tx.Exec(
			"delete from upkeep_done where id = (select max(id) from upkeep_done where machine_id = ? and task = ?)",
			machineID,
			task,
		)
		if gone.Error == nil && gone.RowsAffected == 0 {
			return ErrNotFound
		}
		return gone.Error
	})
}
