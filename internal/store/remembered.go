package store

import (
	"sync"

	"gorm.io/gorm"

	"wardifex/internal/core/machine"
)

// remembered keeps what was read of each machine, so that after one reading only
// that machine is loaded anew: a fleet's readings are by far the most of what is
// on record. It holds committed readings only.
type remembered struct {
	mu       sync.Mutex
	voc      *machine.Vocabulary
	machines map[int64]memory
}

type memory struct {
	stamp    stamp
	readings []machine.Reading
	facts    machine.Snapshot
}

// stamp tells whether a machine's readings are still those that were loaded.
// Readings are added and set aside, never changed or erased, and parts are
// exchanged, so that no earlier stamp comes again.
type stamp struct {
	Count    int64 // readings of the parts now fitted
	Newest   int64 // the greatest of their numbers
	Aside    int64 // the sum of the numbers of those set aside
	AsideAt  float64
	Fittings int64 // the sum of the numbers of the fittings
	// Structure is the version of the positions and of what is taken.
	Structure int `gorm:"-"`
}

// loadRemembered gives machines their readings: from memory where nothing was
// added since, from the database elsewhere.
func (s *Store) loadRemembered(tx *gorm.DB, at map[int64]*Machine) error {
	// The stamps are read before the readings: what is added in between is loaded
	// under the older stamp, and loaded again next time.
	var rows []struct {
		MachineID int64
		Stamp     stamp `gorm:"embedded"`
	}
	err := tx.Raw(`
		select machine_id, count(id) as count, coalesce(max(id), 0) as newest,
		  coalesce(sum(id) filter (where set_aside_why <> ''), 0) as aside,
		  coalesce(max(extract(epoch from set_aside_at)), 0) as aside_at, sum(fitting) as fittings
		from (
		  select f.machine_id, f.id as fitting, r.id, r.set_aside_why, r.set_aside_at
		  from fittings f left join readings r on r.part_id = f.part_id where f.removed_at is null and f.part_id is not null
		  union all
		  select f.machine_id, f.id, r.id, r.set_aside_why, r.set_aside_at
		  from fittings f left join readings r on r.fitting_id = f.id where f.removed_at is null and f.part_id is null
		) now group by machine_id`).Scan(&rows).Error
	if err != nil {
		return err
	}
	stamps := make(map[int64]stamp, len(rows))
	for _, r := range rows {
		stamps[r.MachineID] = r.Stamp
	}
	for id, m := range at {
		stamp := stamps[id]
		stamp.Structure = m.Structure
		stamps[id] = stamp
	}
	voc := s.Vocabulary()
	s.remembered.mu.Lock()
	known := s.remembered.machines
	if s.remembered.voc != voc {
		known = nil
	}
	s.remembered.mu.Unlock()

	changed := map[int64]*Machine{}
	var ids []int64
	for id, m := range at {
		if k, ok := known[id]; ok && k.stamp == stamps[id] {
			m.Readings, m.Facts = k.readings, k.facts
			continue
		}
		changed[id] = m
		ids = append(ids, id)
	}
	if len(ids) > 0 {
		if len(ids) == len(at) {
			ids = nil
		}
		if err := s.loadReadings(tx, voc, changed, ids); err != nil {
			return err
		}
	}
	now := make(map[int64]memory, len(at))
	for id, m := range at {
		now[id] = memory{stamps[id], m.Readings, m.Facts}
	}
	s.remembered.mu.Lock()
	s.remembered.voc, s.remembered.machines = voc, now
	s.remembered.mu.Unlock()
	return nil
}
