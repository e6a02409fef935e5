package store

import (
	"bytes"
	"context"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/csvimport"
	"wardifex/internal/core/machine"
)

func (s *Store) existing(tx *gorm.DB) ([]csvimport.Existing, error) {
	fleet, err := s.fleet(tx)
	if err != nil {
		return nil, err
	}
	var retired []machineRow
	if err := tx.Where("retired_at is not null").Find(&retired).Error; err != nil {
		return nil, err
	}
	out := make([]csvimport.Existing, 0, len(fleet)+len(retired))
	for _, m := range fleet {
		e := csvimport.Existing{ID: m.ID, Fields: fieldMap(m.Fields), Facts: m.Facts, Held: map[machine.Key][]machine.Value{}}
		for _, r := range m.Readings {
			// A reading set aside was heard too: hearing it again adds nothing.
			e.Held[r.Key] = append(e.Held[r.Key], r.Value)
		}
		out = append(out, e)
	}
	for _, r := range retired {
		out = append(out, csvimport.Existing{ID: r.ID, Fields: fieldMap(r.fields()), Retired: true, Facts: machine.NewSnapshot(s.Vocabulary(), machine.Record{})})
	}
	return out, nil
}

func fieldMap(f Fields) map[string]string {
	return map[string]string{csvimport.Name: f.Name, csvimport.Bay: f.Bay, csvimport.Maker: f.Maker, csvimport.Serial: f.Serial, csvimport.Note: f.Note}
}

// PlanRegister judges a register file against the fleet as it is now.
func (s *Store) PlanRegister(ctx context.Context, t csvimport.Table, mapping []string, leaveOut []int) (csvimport.Plan, error) {
	fleet, err := s.existing(s.db.WithContext(ctx))
	if err != nil {
		return csvimport.Plan{}, err
	}
	p, err := csvimport.NewPlan(t, mapping, leaveOut, fleet, s.Vocabulary())
	if err != nil {
		return p, refuse("%s", err)
	}
	return p, nil
}

// BringIn writes a register file as it was previewed, all in one transaction.
// fingerprint is the previewed plan's; when the fleet has changed since, the
// plan differs and nothing is written.
func (s *Store) BringIn(ctx context.Context, t csvimport.Table, mapping []string, leaveOut []int, fingerprint, by string, now time.Time) (csvimport.Plan, error) {
	var p csvimport.Plan
	err := s.tx(ctx, func(tx *gorm.DB) error {
		if err := tx.Exec("lock table machines, parts, fittings, readings in share row exclusive mode").Error; err != nil {
			return err
		}
		fleet, err := s.existing(tx)
		if err != nil {
			return err
		}
		if p, err = csvimport.NewPlan(t, mapping, leaveOut, fleet, s.Vocabulary()); err != nil {
			return refuse("%s", err)
		}
		if p.Fingerprint != fingerprint {
			return &Conflict{Sentence: "the fleet or the file has changed since the preview; nothing was brought in. Look at the new preview"}
		}
		if p.Faulty > 0 {
			return refuse("%d rows have faults; mend them or leave them out", p.Faulty)
		}
		return s.write(tx, p, by, now)
	})
	return p, err
}

func (s *Store) write(tx *gorm.DB, p csvimport.Plan, by string, now time.Time) error {
	var created []*machineRow
	ids := make([]*int64, len(p.Rows))
	for i := range p.Rows {
		row := &p.Rows[i]
		switch row.Action {
		case csvimport.Create:
			m := &machineRow{Name: row.Name, Since: now, Version: 1, ChangedBy: by, ChangedAt: now}
			m.set(row.Changes)
			created = append(created, m)
			ids[i] = &m.ID
		case csvimport.Change:
			ids[i] = &row.MachineID
			m := machineRow{}
			if err := tx.First(&m, row.MachineID).Error; err != nil {
				return err
			}
			if m.set(row.Changes) {
				m.Version, m.ChangedBy, m.ChangedAt = m.Version+1, by, now
				if err := tx.Save(&m).Error; err != nil {
					return err
				}
			}
		}
	}
	if len(created) > 0 {
		if err := tx.CreateInBatches(created, 1000).Error; err != nil {
			return err
		}
		if err := s.listUsual(tx, created, by, now); err != nil {
			return err
		}
	}
	return s.writeClaims(tx, p, ids, by, now)
}

// set takes over the fields among the changes and reports whether there were any.
func (m *machineRow) set(changes []csvimport.Written) (any bool) {
	for _, w := range changes {
		field, ok := map[string]*string{csvimport.Bay: &m.Bay, csvimport.Maker: &m.Maker, csvimport.Serial: &m.Serial, csvimport.Note: &m.Note}[w.Target]
		if ok {
			*field, any = w.After, true
		}
	}
	return any
}

// listUsual gives new machines the usual positions.
func (s *Store) listUsual(tx *gorm.DB, created []*machineRow, by string, now time.Time) error {
	usual := s.Vocabulary().Usual(func(machine.Position) bool { return false })
	rows := make([]positionRow, 0, len(created)*len(usual))
	for _, m := range created {
		for _, p := range usual {
			row, err := positionOf(m.ID, p, by, now)
			if err != nil {
				return err
			}
			rows = append(rows, row)
		}
	}
	return tx.CreateInBatches(rows, 1000).Error
}

// listFitted enters the positions of many fittings on their machines' lists, where
// they are not on them.
func (s *Store) listFitted(tx *gorm.DB, fittings []*fittingRow, by string, now time.Time) error {
	listed, err := listedNow(tx, nil)
	if err != nil {
		return err
	}
	on := map[place]bool{}
	for id, list := range listed {
		for _, p := range list {
			on[place{id, p.Key}] = true
		}
	}
	for _, f := range fittings {
		if p, ok := s.Vocabulary().Position(f.Slot); ok && !on[place{f.MachineID, f.Slot}] {
			if err := addPositions(tx, f.MachineID, []machine.Position{p}, by, now); err != nil {
				return err
			}
		}
	}
	return nil
}

type place struct {
	machine int64
	slot    string
}

func (s *Store) writeClaims(tx *gorm.DB, p csvimport.Plan, ids []*int64, by string, now time.Time) error {
	var open []fittingRow
	if err := tx.Where("removed_at is null").Find(&open).Error; err != nil {
		return err
	}
	at := make(map[place]*fittingRow, len(open))
	for i := range open {
		at[place{open[i].MachineID, open[i].Slot}] = &open[i]
	}
	var fittings []*fittingRow
	var parts []*partRow // of fittings, by index
	var runs []*fittingRow
	var readings []*readingRow
	var of []*fittingRow // of readings, by index
	for i := range p.Rows {
		if ids[i] == nil {
			continue
		}
		for _, w := range p.Rows[i].Changes {
			t, ok := s.Vocabulary().Trait(machine.Key(w.Target))
			if !ok {
				continue
			}
			where := place{*ids[i], t.Slot}
			if at[where] == nil {
				slot, _ := s.Vocabulary().Position(where.slot)
				at[where] = &fittingRow{MachineID: where.machine, Slot: where.slot, FittedAt: now, MovedBy: by}
				if s.software(slot.Kind) {
					runs = append(runs, at[where])
				} else {
					fittings = append(fittings, at[where])
					parts = append(parts, &partRow{Kind: slot.Kind, Version: 1, ChangedBy: by, ChangedAt: now})
				}
			}
			readings = append(readings, &readingRow{Trait: t.Name, Value: w.Value.Text,
				Grade: int16(machine.Claimed), TakenAt: now, TakenBy: by, How: "brought in with the register"})
			of = append(of, at[where])
		}
	}
	if len(readings) == 0 {
		return nil
	}
	if len(fittings) > 0 {
		if err := tx.CreateInBatches(parts, 1000).Error; err != nil {
			return err
		}
		for i := range fittings {
			fittings[i].PartID = &parts[i].ID
		}
		if err := tx.CreateInBatches(fittings, 1000).Error; err != nil {
			return err
		}
		if err := s.listFitted(tx, fittings, by, now); err != nil {
			return err
		}
	}
	if err := s.startRuns(tx, runs, by, now); err != nil {
		return err
	}
	for i := range readings {
		readings[i].PartID, readings[i].FittingID = of[i].held().partID(), of[i].held().fittingID()
	}
	return tx.CreateInBatches(readings, 1000).Error
}

// startRuns enters builds of which only a register tells that boards run them.
func (s *Store) startRuns(tx *gorm.DB, runs []*fittingRow, by string, now time.Time) error {
	if len(runs) == 0 {
		return nil
	}
	if err := s.listFitted(tx, runs, by, now); err != nil {
		return err
	}
	if err := tx.CreateInBatches(runs, 1000).Error; err != nil {
		return err
	}
	rows := make([]runRow, len(runs))
	listed, err := listedNow(tx, nil)
	if err != nil {
		return err
	}
	for i, f := range runs {
		rows[i] = runRow{FittingID: f.ID, Board: s.boardOf(listed[f.MachineID], f.Slot), Configured: []byte("{}")}
	}
	return tx.CreateInBatches(rows, 1000).Error
}

// RegisterCSV writes the register of the fleet, retired machines left out.
func (s *Store) RegisterCSV(ctx context.Context) ([]byte, error) {
	fleet, err := s.existing(s.db.WithContext(ctx))
	if err != nil {
		return nil, err
	}
	standing := fleet[:0]
	for _, e := range fleet {
		if !e.Retired {
			standing = append(standing, e)
		}
	}
	var b bytes.Buffer
	if err := csvimport.Write(&b, standing, s.Vocabulary()); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}
