package store

import (
	"context"
	"encoding/json"
	"fmt"

	"gorm.io/gorm"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// upgrades are what the application makes of the record of an older version, each
// once and in this order.
var upgrades = []struct {
	name string
	do   func(s *Store, tx *gorm.DB) error
}{
	{"positions of every machine", (*Store).listOlderPositions},
	{"takings of finished orders", (*Store).takeForOlderOrders},
	{"standing models", (*Store).nameEverything},
}

func (s *Store) upgrade(ctx context.Context) error {
	for _, u := range upgrades {
		err := s.tx(ctx, func(tx *gorm.DB) error {
			// Several instances may start at once.
			if err := tx.Exec("select pg_advisory_xact_lock(hashtext('upgrades'))").Error; err != nil {
				return err
			}
			done := tx.Exec("insert into upgrades (name) values (?) on conflict do nothing", u.name)
			if done.Error != nil || done.RowsAffected == 0 {
				return done.Error
			}
			return u.do(s, tx)
		})
		if err != nil {
			return fmt.Errorf("%s: %w", u.name, err)
		}
	}
	return nil
}

// listOlderPositions gives every machine of an older version a list of its own: the
// usual positions, and those of which something was ever recorded.
func (s *Store) listOlderPositions(tx *gorm.DB) error {
	var machines []machineRow
	if err := tx.Where("id not in (select machine_id from positions)").Find(&machines).Error; err != nil {
		return err
	}
	var held []struct {
		MachineID int64
		Slot      string
	}
	if err := tx.Raw("select distinct machine_id, slot from fittings").Scan(&held).Error; err != nil {
		return err
	}
	recorded := map[place]bool{}
	for _, h := range held {
		recorded[place{h.MachineID, h.Slot}] = true
	}
	for _, m := range machines {
		list := s.vocabularyOf(tx).Usual(func(p machine.Position) bool { return recorded[place{m.ID, p.Key}] })
		if err := addPositions(tx, m.ID, list, m.ChangedBy, m.Since); err != nil {
			return err
		}
	}
	return nil
}

// takeForOlderOrders records what the parts that were fitted by finished orders take:
// the older version rewrote what was noted as left, and forgot the rest. What it
// rewrote counts as observed then; taking such a part out gives back what it took.
func (s *Store) takeForOlderOrders(tx *gorm.DB) error {
	var orders []orderRow
	if err := tx.Where("state = 'finished' and id not in (select work_order_id from fittings join takings on " +
		"takings.fitting_id = fittings.id where work_order_id is not null)").
		Order("id").Find(&orders).Error; err != nil {
		return err
	}
	for _, o := range orders {
		kit, changes, err := o.kit()
		if err != nil {
			return err
		}
		m, err := s.machine(tx, o.MachineID)
		if err != nil {
			return err
		}
		taken, err := fit.Takings(m.Facts, kit, changes)
		if err != nil {
			continue // it names what is no longer in the catalogue: nothing can be told of it
		}
		var fittings []fittingRow
		if err := tx.Where("work_order_id = ?", o.ID).Find(&fittings).Error; err != nil {
			return err
		}
		at := map[string]*int64{}
		for i := range fittings {
			at[fittings[i].Slot] = &fittings[i].ID
		}
		for _, t := range taken {
			fitting, ok := at[t.Slot]
			if !ok && t.Key != "" {
				continue // taken for good, and noted as such then
			}
			// What the older version noted at that moment has seen it.
			if err := takesAfter(tx, o.MachineID, fitting, 0, []machine.Taking{t}); err != nil {
				return err
			}
		}
	}
	return nil
}

// kit is the kit of an order with its additional changes, as it was judged.
func (o orderRow) kit() (kit fit.Kit, changes []fit.AdditionalChange, err error) {
	if err = json.Unmarshal(o.Kit, &kit); err == nil {
		err = json.Unmarshal(o.Further, &changes)
	}
	return kit, changes, err
}
