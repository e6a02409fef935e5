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
	// turn is held by who loads more than a few machines.
	turn chan struct{}
}

// stampede is from how many machines on one loads after the other.
const stampede = 20

type memory struct {
	// revision is the machine's when it was loaded: it goes up with every change of what is
	// fitted or known, and no number of one comes again.
	revision int64
	readings []machine.Reading
	facts    machine.Snapshot
}

// loadRemembered gives machines their readings: from memory where nothing was
// added since, from the database elsewhere.
func (s *Store) loadRemembered(tx *gorm.DB, at map[int64]*Machine) error {
	// Their revisions were read before the readings are: what is added in between is loaded
	// under the older one, and loaded again next time.
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
		if k, ok := known[id]; ok && k.revision == m.Revision {
			m.Readings, m.Facts = k.readings, k.facts
			continue
		}
		changed[id] = m
		ids = append(ids, id)
	}
	if len(ids) > stampede {
		// One loads for all who wait: together they would take the memory of many fleets.
		select {
		case s.remembered.turn <- struct{}{}:
			defer func() { <-s.remembered.turn }()
		case <-tx.Statement.Context.Done():
			return tx.Statement.Context.Err()
		}
		var err error
		if changed, ids, err = s.stillChanged(tx, voc, at); err != nil {
			return err
		}
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
		now[id] = memory{m.Revision, m.Readings, m.Facts}
	}
	s.remembered.mu.Lock()
	s.remembered.voc, s.remembered.machines = voc, now
	s.remembered.mu.Unlock()
	return nil
}

// stillChanged looks again, after a wait, which machines are not remembered as they are now.
func (s *Store) stillChanged(
	tx *gorm.DB, voc *machine.Vocabulary, at map[int64]*Machine,
) (changed map[int64]*Machine, ids []int64, err error) {
	var rows []struct{ ID, Revision int64 }
	if err := tx.Raw("select id, revision from machines").Scan(&rows).Error; err != nil {
		return nil, nil, err
	}
	s.remembered.mu.Lock()
	known := s.remembered.machines
	if s.remembered.voc != voc {
		known = nil
	}
	s.remembered.mu.Unlock()
	changed = map[int64]*Machine{}
	for _, r := range rows {
		m := at[r.ID]
		if m == nil {
			continue
		}
		m.Revision = r.Revision
		if k, ok := known[r.ID]; ok && k.revision == m.Revision {
			m.Readings, m.Facts = k.readings, k.facts
			continue
		}
		changed[r.ID] = m
		ids = append(ids, r.ID)
	}
	return changed, ids, nil
}
