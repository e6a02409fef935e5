package store

import (
	"context"
	"maps"
	"slices"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/maintenance"
)

// loadCounters gives machines their meters' readings and what was done to them.
func loadCounters(tx *gorm.DB, at map[int64]*Machine, one func(string) func(*gorm.DB) *gorm.DB) error {
	var meters []meterRow
	if err := tx.Scopes(one("machine_id")).Order("read_at, id").Find(&meters).Error; err != nil {
		return err
	}
	for _, r := range meters {
		if m := at[r.MachineID]; m != nil {
			m.Meters = append(m.Meters, maintenance.Meter{At: r.ReadAt, Hours: r.Hours, Reset: r.Reset})
		}
	}
	var done []doneRow
	if err := tx.Scopes(one("machine_id")).Order("done_at, id").Find(&done).Error; err != nil {
		return err
	}
	for _, r := range done {
		if m := at[r.MachineID]; m != nil {
			m.Done = append(m.Done, maintenance.Done{Task: r.Task, At: r.DoneAt})
		}
	}
	return nil
}

// stayRow is a time that a part now fitted was in a machine.
type stayRow struct {
	Here      int64 // the machine that it is in
	At        string
	MachineID int64
	Since     time.Time // that machine's entry in the register
	FittedAt  time.Time
	RemovedAt *time.Time
	BoughtOn  *time.Time
}

// Wear gives machines the lives of their parts that wear: over all the machines that
// each was in, whatever became of those.
func (s *Store) Wear(ctx context.Context, machines []Machine) error {
	tx := s.from(ctx)
	lives := make(map[int64]*Machine, len(machines))
	slots := map[string]bool{}
	for i := range machines {
		m := &machines[i]
		lives[m.ID], m.Worn = m, map[string]maintenance.Part{}
		maps.Copy(slots, maintenance.Wearing(m.Facts))
	}
	var rows []stayRow
	err := tx.Raw(`
		select now.machine_id as here, now.slot as at, f.machine_id, m.since, f.fitted_at, f.removed_at, p.bought_on
		from fittings now join parts p on p.id = now.part_id join fittings f on f.part_id = p.id join machines m on m.id
			= f.machine_id
		where now.removed_at is null and now.slot in ? and now.machine_id in ?
		order by now.machine_id, now.slot, f.fitted_at, f.id`, slices.Collect(maps.Keys(slots)), slices.Collect(
		maps.Keys(lives))).Scan(&rows).Error
	if err != nil {
		return err
	}
	if err := loadLives(tx, lives, rows); err != nil {
		return err
	}
	life := map[int64]maintenance.Life{}
	for id, m := range lives {
		life[id] = maintenance.NewLife(m.Meters)
	}
	for _, r := range rows {
		worn := lives[r.Here].Worn
		p := worn[r.At]
		if len(p.Stays) == 0 {
			// One that was there when the machine came had a life before.
			p.New = r.BoughtOn != nil || r.FittedAt.After(r.Since.AddDate(0, 0, 1))
		}
		stay := maintenance.Stay{From: r.FittedAt, Life: life[r.MachineID], Done: lives[r.MachineID].Done}
		if r.RemovedAt != nil {
			stay.To = *r.RemovedAt
		}
		p.Stays = append(p.Stays, stay)
		worn[r.At] = p
	}
	return nil
}

// loadLives adds the counters of machines that parts were in and that are not loaded.
func loadLives(tx *gorm.DB, lives map[int64]*Machine, rows []stayRow) error {
	others := map[int64]*Machine{}
	for _, r := range rows {
		if lives[r.MachineID] == nil {
			others[r.MachineID] = &Machine{ID: r.MachineID}
		}
	}
	if len(others) == 0 {
		return nil
	}
	ids := slices.Collect(maps.Keys(others))
	of := func(column string) func(*gorm.DB) *gorm.DB {
		return func(q *gorm.DB) *gorm.DB { return q.Where(column+" in ?", ids) }
	}
	if err := loadCounters(tx, others, of); err != nil {
		return err
	}
	maps.Copy(lives, others)
	return nil
}
