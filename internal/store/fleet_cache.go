package store

import (
	"sync"

	"gorm.io/gorm"

	"wardifex/internal/core/machine"
)

// fleetCache keeps each machine as it was loaded last: after a change of one machine only
// that one is loaded anew. Its entries are read by many at once and never written.
type fleetCache struct {
	mu  sync.Mutex
	voc *machine.Vocabulary
	// machines are kept with their revisions: a machine's goes up with every change of what
	// is shown of it, and no number comes twice.
	machines map[int64]Machine
	// turn is held by who loads more than a few machines.
	turn chan struct{}
}

// stampede is from how many machines on one loads after the other.
const stampede = 20

// known are the machines as they are kept for a vocabulary.
func (c *fleetCache) known(voc *machine.Vocabulary) map[int64]Machine {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.voc != voc {
		return nil
	}
	return c.machines
}

func (c *fleetCache) keep(voc *machine.Vocabulary, fleet []Machine) {
	now := make(map[int64]Machine, len(fleet))
	for _, m := range fleet {
		now[m.ID] = m
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	c.voc, c.machines = voc, now
}

// cachedFleet gives the machines that are not retired, by name: those that did not change
// since they were loaded, as they are kept.
func (s *Store) cachedFleet(tx *gorm.DB) ([]Machine, error) {
	voc := s.vocabularyOf(tx)
	out, changed, err := s.keptFleet(tx, voc)
	if err != nil {
		return nil, err
	}
	if len(changed) > stampede {
		// One loads for all who wait: together they would take the memory of many fleets.
		select {
		case s.fleets.turn <- struct{}{}:
			defer func() { <-s.fleets.turn }()
		case <-tx.Statement.Context.Done():
			return nil, tx.Statement.Context.Err()
		}
		if out, changed, err = s.keptFleet(tx, voc); err != nil {
			return nil, err
		}
	}
	if len(changed) == 0 {
		return out, nil
	}
	ids := changed
	if len(changed) == len(out) {
		ids = nil
	}
	loaded, err := s.fleet(tx, ids...)
	if err != nil {
		return nil, err
	}
	at := make(map[int64]Machine, len(loaded))
	for _, m := range loaded {
		at[m.ID] = m
	}
	fleet := out[:0]
	for _, m := range out {
		if m.Facts.Vocabulary() == nil {
			var there bool
			if m, there = at[m.ID]; !there || m.RetiredAt != nil {
				continue // gone since
			}
		}
		fleet = append(fleet, m)
	}
	s.fleets.keep(voc, fleet)
	return fleet, nil
}

// keptFleet gives the machines that are not retired, by name, as far as they are kept as
// they are; of the others it lists the numbers, and has nothing but those.
func (s *Store) keptFleet(tx *gorm.DB, voc *machine.Vocabulary) (fleet []Machine, changed []int64, err error) {
	var rows []machineRow
	// Saved as it was, a machine is of the next version and shows nothing new.
	err = tx.Select("id, revision, version, structure").Where("retired_at is null").Order("lower(name), id").
		Find(&rows).Error
	if err != nil {
		return nil, nil, err
	}
	known := s.fleets.known(voc)
	fleet = make([]Machine, len(rows))
	for i, r := range rows {
		k, ok := known[r.ID]
		if ok && k.Revision == r.Revision && k.Version == r.Version && k.Structure == r.Structure {
			fleet[i] = k
			continue
		}
		fleet[i].ID = r.ID
		changed = append(changed, r.ID)
	}
	return fleet, changed, nil
}
