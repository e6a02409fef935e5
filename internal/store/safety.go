package store

import (
	"context"
	"encoding/json"
	"time"

	"gorm.io/gorm/clause"

	"wardifex/internal/core/safety"
)

type safetyRow struct {
	Day      time.Time
	Document []byte `gorm:"type:jsonb"`
}

func (safetyRow) TableName() string { return "safety_files" }

// KeepSafetyFile keeps the file of a day, once: the first of a day stays.
func (s *Store) KeepSafetyFile(ctx context.Context, f safety.DayFile) error {
	day, err := dateOf(f.Day)
	if err != nil {
		return err
	}
	text, err := json.Marshal(f)
	if err != nil {
		return err
	}
	return s.from(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(&safetyRow{Day: *day, Document: text}).Error
}

// SafetyFile is the newest file that was kept on a day or before it; ErrNotFound where none was.
func (s *Store) SafetyFile(ctx context.Context, day string) (safety.DayFile, error) {
	var row safetyRow
	if err := s.from(ctx).Where("day <= ?", day).Order("day desc").First(&row).Error; err != nil {
		return safety.DayFile{}, found(err)
	}
	var f safety.DayFile
	return f, json.Unmarshal(row.Document, &f)
}

// SafetyDays lists the days of which a file was kept, the newest first.
func (s *Store) SafetyDays(ctx context.Context) ([]string, error) {
	out := []string{}
	err := s.from(ctx).Raw("select to_char(day, 'YYYY-MM-DD') from safety_files order by day desc").Scan(&out).Error
	return out, err
}

// MainsWork lists the mains work that was done on machines, by machine, the newest first.
func (s *Store) MainsWork(ctx context.Context) (map[int64][]safety.MainsWork, error) {
	var rows []struct {
		MachineID     int64
		What, Who, By string
		Earth         string
		Instrument    string
		DoneAt        time.Time
	}
	err := s.from(ctx).Raw(`select o.machine_id, w.step->>'title' as what, w.data->>'licensed' as who, w.done_by as by,
			w.done_at, coalesce(w.data->>'earth', '') as earth, coalesce(w.data->>'instrument', '') as instrument
		from work_steps w join work_orders o on o.id = w.work_order_id
		where coalesce(w.data->>'licensed', '') <> '' and w.done_at is not null order by w.done_at desc`).Scan(&rows).Error
	out := map[int64][]safety.MainsWork{}
	for _, r := range rows {
		out[r.MachineID] = append(out[r.MachineID], safety.MainsWork{What: r.What, Who: r.Who, On: r.DoneAt, By: r.By,
			Earth: r.Earth, Instrument: r.Instrument})
	}
	return out, err
}

// LocksOn lists whose locks are on, by machine.
func (s *Store) LocksOn(ctx context.Context) (map[int64][]string, error) {
	var rows []struct {
		MachineID int64
		Name      string
	}
	err := s.from(ctx).Raw(`select o.machine_id, l.name from work_locks l join work_orders o on o.id = l.work_order_id
		where l.taken_off is null order by l.put_on, l.id`).Scan(&rows).Error
	out := map[int64][]string{}
	for _, r := range rows {
		out[r.MachineID] = append(out[r.MachineID], r.Name)
	}
	return out, err
}
