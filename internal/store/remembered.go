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
