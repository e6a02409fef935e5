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
			m.Meters = append(m.Meters, maintenance.Meter{Counter: r.Counter, At: r.ReadAt,
				Amount: r.Amount, Reset: r.Reset})
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

// loadHappened gives machines what happened to them after which tasks may be due: finished
// orders that changed parts, faults that were closed, and builds that began to run on a board
// that was there.
func loadHappened(tx *gorm.DB, at map[int64]*Machine, one func(string) func(*gorm.DB) *gorm.DB) error {
	events := map[maintenance.Event]bool{}
	for _, m := range at {
		for _, t := range m.Tasks {
			for _, e := range t.After {
				events[e] = !t.Off || events[e]
			}
		}
		break // all are of one shop
	}
	for _, e := range []struct {
		event maintenance.Event
		query *gorm.DB
	}{
		{maintenance.AfterUpgrade, tx.Table("work_orders").
			Select("machine_id, closed_at as at, 'work order ' || id as says").
			Where("state = 'finished' and jsonb_array_length(coalesce(nullif(closing->'exchanges', 'null'), '[]')) > 0")},
		{maintenance.AfterFault, tx.Table("faults").
			Select("machine_id, closed_at as at, 'fault ' || id as says").Where("closed_at is not null")},
		{maintenance.AfterBuild, tx.Table("build_runs u").
			Select("f.machine_id, f.fitted_at as at, 'another build' as says").
			Joins("join fittings f on f.id = u.fitting_id").Joins("join machines m on m.id = f.machine_id").
			Where("f.fitted_at > m.since")},
	} {
		if !events[e.event] {
			continue
		}
		var rows []struct {
			MachineID int64
			At        time.Time
			Says      string
		}
		if err := e.query.Scopes(one("machine_id")).Scan(&rows).Error; err != nil {
			return err
		}
		for _, r := range rows {
			if m := at[r.MachineID]; m != nil {
				m.Happened = append(m.Happened, maintenance.Happened{Event: e.event, At: r.At, Says: r.Says})
			}
		}
	}
	for _, m := range at {
		slices.SortStableFunc(m.Happened, func(a, b maintenance.Happened) int { return a.At.Compare(b.At) })
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

// loadStays gives machines where their parts that wear have been.
func loadStays(tx *gorm.DB, at map[int64]*Machine, one func(string) func(*gorm.DB) *gorm.DB) error {
	slots := map[string]bool{}
	for _, m := range at {
		maps.Copy(slots, maintenance.Wearing(m.Tasks, m.Facts))
	}
	var rows []stayRow
	err := tx.Table("fittings now").
		Select("now.machine_id as here, now.slot as at, f.machine_id, m.since, f.fitted_at, f.removed_at, p.bought_on").
		Joins("join parts p on p.id = now.part_id").
		Joins("join fittings f on f.part_id = p.id").
		Joins("join machines m on m.id = f.machine_id").
		Where("now.removed_at is null and now.slot in ?", slices.Collect(maps.Keys(slots))).
		Scopes(one("now.machine_id")).
		Order("now.machine_id, now.slot, f.fitted_at, f.id").
		Scan(&rows).Error
	for _, r := range rows {
		m := at[r.Here]
		if m == nil {
			continue
		}
		if m.stays == nil {
			m.stays = map[string][]stayRow{}
		}
		m.stays[r.At] = append(m.stays[r.At], r)
	}
	return err
}

// Wear gives machines the lives of their parts that wear: over all the machines that
// each was in, whatever became of those.
func (s *Store) Wear(ctx context.Context, machines []Machine) error {
	lives := make(map[int64]*Machine, len(machines))
	for i := range machines {
		lives[machines[i].ID] = &machines[i]
	}
	if err := loadLives(s.from(ctx), lives, machines); err != nil {
		return err
	}
	life := map[int64]maintenance.Lives{}
	for id, m := range lives {
		life[id] = maintenance.NewLives(m.Meters)
	}
	for i := range machines {
		m := &machines[i]
		m.Worn = make(map[string]maintenance.Part, len(m.stays))
		for slot, stays := range m.stays {
			first := stays[0]
			// One that was there when the machine came had a life before.
			p := maintenance.Part{New: first.BoughtOn != nil || first.FittedAt.After(first.Since.AddDate(0, 0, 1))}
			for _, r := range stays {
				stay := maintenance.Installation{From: r.FittedAt, Lives: life[r.MachineID], Done: lives[r.MachineID].Done}
				if r.RemovedAt != nil {
					stay.To = *r.RemovedAt
				}
				p.Stays = append(p.Stays, stay)
			}
			m.Worn[slot] = p
		}
	}
	return nil
}

// loadLives adds the counters of machines that parts were in and that are not loaded.
func loadLives(tx *gorm.DB, lives map[int64]*Machine, machines []Machine) error {
	others := map[int64]*Machine{}
	for i := range machines {
		for _, stays := range machines[i].stays {
			for _, r := range stays {
				if lives[r.MachineID] == nil {
					others[r.MachineID] = &Machine{ID: r.MachineID}
				}
			}
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
