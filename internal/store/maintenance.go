package store

import (
	"context"
	"time"

	"gorm.io/gorm/clause"

	"wardifex/internal/core/maintenance"
)

type meterRow struct {
	ID        int64
	MachineID int64
	Counter   maintenance.Counter
	ReadAt    time.Time
	Amount    float64
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
	NewParts  []string `gorm:"serializer:json"`
	// Planned is what was planned for it; nil where nothing was.
	Planned *PlannedWork `gorm:"serializer:json"`
}

func (doneRow) TableName() string { return "upkeep_done" }

// AddMeter writes down a reading of a print-hour meter.
func (s *Store) AddMeter(ctx context.Context, machineID int64, r maintenance.Meter, by string) error {
	return s.from(ctx).Create(&meterRow{MachineID: machineID, Counter: r.Counter, ReadAt: r.At, Amount: r.Amount,
		Reset: r.Reset, TakenBy: by}).Error
}

// MeterOf is a meter's reading with the machine that it is of.
type MeterOf struct {
	MachineID int64
	maintenance.Meter
}

// AddMeters writes down many readings of meters.
func (s *Store) AddMeters(ctx context.Context, list []MeterOf, by string) error {
	return insertAll(s.from(ctx), "meters",
		columnOf("machine_id", "bigint", list, func(r MeterOf) int64 { return r.MachineID }),
		columnOf("counter", "text", list, func(r MeterOf) string { return string(r.Counter) }),
		columnOf("amount", "double precision", list, func(r MeterOf) float64 { return r.Amount }),
		columnOf("read_at", "timestamptz", list, func(r MeterOf) time.Time { return r.At }),
		bulkColumn{"taken_by", "text", repeat(by, len(list))},
	)
}

// AddDone writes down that a task was done, with the positions of the parts that went in, and
// gives the number of that.
func (s *Store) AddDone(ctx context.Context, machineID int64, d maintenance.Done, parts []string, note, by string) (
	int64, error) {
	row := doneRow{MachineID: machineID, Task: d.Task, DoneAt: d.At, DoneBy: by, Note: note,
		NewParts: append([]string{}, parts...)}
	err := s.from(ctx).Create(&row).Error
	return row.ID, err
}

// LastDoneParts are the positions of the parts that went in when a task was done last.
func (s *Store) LastDoneParts(ctx context.Context, machineID int64, task string) ([]string, error) {
	var row doneRow
	err := s.from(ctx).Where("machine_id = ? and task = ?", machineID, task).Order("id desc").Limit(1).Find(&row).Error
	return row.NewParts, err
}

// DropPlannedFor takes away what was planned for a task that was done, and keeps it with that.
func (s *Store) DropPlannedFor(ctx context.Context, done int64, key string) error {
	var w []PlannedWork
	err := s.from(ctx).Clauses(clause.Returning{}).Where("key = ?", key).Delete(&w).Error
	if err != nil || len(w) == 0 {
		return err
	}
	return s.from(ctx).Model(&doneRow{ID: done}).Select("Planned").Updates(&doneRow{Planned: &w[0]}).Error
}

// PlannedForLastDone is what was planned for a task when it was marked done last; nil where nothing was.
func (s *Store) PlannedForLastDone(ctx context.Context, machineID int64, task string) (*PlannedWork, error) {
	var row doneRow
	err := s.from(ctx).Where("machine_id = ? and task = ?", machineID, task).Order("id desc").Limit(1).Find(&row).Error
	return row.Planned, err
}

// PlanAgain puts work back that was planned, unless other work stands under its key.
func (s *Store) PlanAgain(ctx context.Context, w PlannedWork) error {
	return s.from(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(&w).Error
}

// RemoveLastDone erases the newest time a task was marked done on a machine; ErrNotFound
// where it never was.
func (s *Store) RemoveLastDone(ctx context.Context, machineID int64, task string) error {
	gone := s.from(ctx).Exec("delete from upkeep_done where id = (select max(id) from upkeep_done where machine_id = ? "+
		"and task = ?)", machineID, task)
	if gone.Error == nil && gone.RowsAffected == 0 {
		return ErrNotFound
	}
	return gone.Error
}
