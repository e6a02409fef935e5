package store

import (
	"context"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/plan"
)

// OpenPlan judges kits on a machine together, opens the work order of the first
// in the best order, and puts the others after it: they are judged again when
// their turn comes. It gives the number of the order opened.
func (s *Store) OpenPlan(
	ctx context.Context,
	machineID int64,
	kits []string,
	reason, by string,
	now time.Time,
) (int64, error) {
	var id int64
	err := s.tx(ctx, func(tx *gorm.DB) error {
		m, err := s.lockForNewOrder(tx, machineID, reason)
		if err != nil {
			return err
		}
		if len(m.Planned) > 0 {
			return refuse("%s is planned on %s already: begin it, or take it out of the plan first", m.Planned[0].Kit, m.Name)
		}
		// No kit is deleted or changed while it is put into a plan.
		if err := tx.Exec("lock table kits in share mode").Error; err != nil {
			return err
		}
		var all []*fit.Judge
		for _, key := range kits {
			j, err := s.judge(tx, key)
			if err != nil {
				return err
			}
			all = append(all, j)
		}
		p, err := plan.Judge(ctx, all, m.Facts, m.Records)
		if err != nil {
			return refuse("%s", err)
		}
		if p.Answer == fit.DoesNotFit {
			if len(p.Conflict) == 1 {
				return refuse("%s cannot be fitted to %s. %s", p.Conflict[0], m.Name, p.Why)
			}
			return refuse("%s cannot go together on %s. %s", strings.Join(p.Conflict, "; "), m.Name, p.Why)
		}
		if len(p.LookNow) > 0 {
			return refuse(
				"look first: %s. Nothing of a plan is begun before what can be looked at is settled",
				strings.Join(p.LookNow, ", "),
			)
		}
		for i, step := range p.Steps {
			j := fit.Find(all, step.Kit)
			row := orderRow{MachineID: machineID, KitKey: step.Kit, Reason: reason}
			if i == 0 {
				var rest []*fit.Judge
				for _, next := range p.Steps[1:] {
					rest = append(rest, fit.Find(all, next.Kit))
				}
				id, err = s.begin(ctx, tx, m, j, rest, row, by, now)
			} else {
				row.State, row.OpenedBy, row.OpenedAt, row.Closing = "planned", by, now, []byte("null")
				if err = row.judged(j.Kit, j.Verdict(m.Facts)); err == nil {
					err = tx.Create(&row).Error
				}
			}
			if err != nil {
				return err
			}
		}
		return nil
	})
	return id, err
}

// BeginPlanned opens a planned work order, the first of its machine's plan, once
// the work before it is done. The kit is judged on the machine as it is now.
func (s *Store) BeginPlanned(ctx context.Context, id int64, by string, now time.Time) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		var row orderRow
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).First(&row, id).Error; err != nil {
			return found(err)
		}
		if row.State != "planned" {
			return refuse("work order %d is %s already", id, row.State)
		}
		m, err := s.lockForNewOrder(tx, row.MachineID, row.Reason)
		if err != nil {
			return err
		}
		if first := m.Planned[0]; first.ID != id {
			return refuse("%s comes first in the plan for %s; begin it, or take it out of the plan", first.Kit, m.Name)
		}
		j, err := s.judge(tx, row.KitKey)
		if err != nil {
			return err
		}
		rest, err := s.plannedAfter(tx, m, id)
		if err != nil {
			return err
		}
		_, err = s.begin(ctx, tx, m, j, rest, row, by, now)
		return err
	})
}

// plannedAfter are the kits that a machine's plan has after an order.
func (s *Store) plannedAfter(tx *gorm.DB, m Machine, id int64) ([]*fit.Judge, error) {
	var keys []string
	err := tx.Raw("select kit_key from work_orders where machine_id = ? and state = 'planned' and id > ? order by id",
		m.ID, id).
		Scan(&keys).
		Error
	if err != nil {
		return nil, err
	}
	var out []*fit.Judge
	for _, key := range keys {
		j, err := s.judge(tx, key)
		if err != nil {
			return nil, err
		}
		out = append(out, j)
	}
	return out, nil
}
