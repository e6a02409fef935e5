package store

import (
	"bytes"
	"context"
	"slices"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/csvimport"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/quantity"
)

func (s *Store) existing(tx *gorm.DB) ([]csvimport.Existing, error) {
	fleet, err := s.fleetWith(tx, s.loadRemembered)
	if err != nil {
		return nil, err
	}
	var retired []machineRow
	if err := tx.Where("retired_at is not null").Find(&retired).Error; err != nil {
		return nil, err
	}
	out := make([]csvimport.Existing, 0, len(fleet)+len(retired))
	for _, m := range fleet {
		e := csvimport.Existing{
			ID:      m.ID,
			Version: m.Version,
			Fields:  fieldMap(m.Fields),
			Facts:   m.Facts,
			Meters:  m.Meters,
			Held:    map[machine.Key][]machine.Value{},
		}
		for _, r := range m.Readings {
			// A reading set aside was heard too: hearing it again adds nothing.
			e.Held[r.Key] = append(e.Held[r.Key], r.Value)
		}
		out = append(out, e)
	}
	nothing := machine.NewSnapshot(s.Vocabulary(), machine.Record{})
	for _, r := range retired {
		out = append(out, csvimport.Existing{ID: r.ID, Fields: fieldMap(r.fields()), Retired: true, Facts: nothing})
	}
	return out, nil
}

func fieldMap(f Fields) map[string]string {
	price := ""
	if f.Price != nil {
		price = quantity.Format(*f.Price)
	}
	return map[string]string{
		csvimport.Name:     f.Name,
		csvimport.Bay:      f.Bay,
		csvimport.Maker:    f.Maker,
		csvimport.Serial:   f.Serial,
		csvimport.Note:     f.Note,
		csvimport.Supplier: f.Supplier,
		csvimport.Price:    price,
		csvimport.Bought:   f.BoughtOn,
	}
}

// PlanRegister judges a register file against the fleet as it is now.
func (s *Store) PlanRegister(
	ctx context.Context,
	t csvimport.Table,
	d csvimport.Decisions,
	now time.Time,
) (csvimport.Plan, error) {
	fleet, err := s.existing(s.from(ctx))
	if err != nil {
		return csvimport.Plan{}, err
	}
	p, err := csvimport.NewPlan(t, d, fleet, s.Vocabulary(), now)
	if err != nil {
		return p, refuse("%s", err)
	}
	return p, nil
}

// Headings are what headings of registers were matched to by hand before.
func (s *Store) Headings(ctx context.Context) (csvimport.Remembered, error) {
	var rows []headingRow
	if err := s.from(ctx).Find(&rows).Error; err != nil {
		return nil, err
	}
	out := csvimport.Remembered{}
	for _, r := range rows {
		out[r.Heading] = r.Target
	}
	return out, nil
}

type headingRow struct {
	Heading string `gorm:"primaryKey"`
	Target  string
	SetBy   string
	SetAt   time.Time
}

func (headingRow) TableName() string { return "register_headings" }

// ImportRegister writes a register file as it was previewed, all in one transaction.
// fingerprint is the previewed plan's; when the fleet has changed since, the plan differs
// and nothing is written. Other writers go on meanwhile: only where one of them wrote the
// same machine or position is nothing written.
func (s *Store) ImportRegister(
	ctx context.Context,
	f ImportFile,
	t csvimport.Table,
	d csvimport.Decisions,
	fingerprint, by string,
	now time.Time,
) (csvimport.Plan, error) {
	before, err := s.Headings(ctx)
	if err != nil {
		return csvimport.Plan{}, err
	}
	var p csvimport.Plan
	err = s.tx(ctx, func(tx *gorm.DB) error {
		if err := tx.Exec("select pg_advisory_xact_lock(hashtext('wardifex import'))").Error; err != nil {
			return err
		}
		fleet, err := s.existing(tx)
		if err != nil {
			return err
		}
		if p, err = csvimport.NewPlan(t, d, fleet, s.Vocabulary(), now); err != nil {
			return refuse("%s", err)
		}
		switch {
		case p.Fingerprint != fingerprint:
			return fleetChanged()
		case p.Faulty > 0:
			return refuse("%d rows have faults; correct them or leave them out", p.Faulty)
		case len(p.Questions) > 0:
			return refuse("%s", p.Questions[0].Text)
		}
		in := registerImport{s: s, tx: tx, by: by, now: now}
		if err := in.write(p); err != nil {
			return err
		}
		if err := rememberHeadings(tx, t, d.Mapping, csvimport.Propose(t, s.Vocabulary(), before), by, now); err != nil {
			return err
		}
		return noteImport(
			tx,
			"register",
			f,
			map[string]int{"new": p.Created, "changed": p.Changed, "the same": p.Same, "left out": p.LeftOut},
			by,
			now,
		)
	})
	if isTwice(err) {
		return p, fleetChanged()
	}
	return p, err
}

// fleetChanged is the conflict of an import that is not what was previewed any more.
func fleetChanged() error {
	return &Conflict{
		Sentence: "the fleet or the file has changed since the preview; nothing was imported. Look at the new preview",
	}
}

// rememberHeadings keeps what was matched otherwise than proposed, for the next register.
func rememberHeadings(
	tx *gorm.DB,
	t csvimport.Table,
	mapping []string,
	proposed []csvimport.Match,
	by string,
	now time.Time,
) error {
	for i, m := range proposed {
		key := csvimport.HeadingKey(m.Heading)
		if i >= len(mapping) || mapping[i] == m.Target || key == "" || key == " " {
			continue
		}
		row := headingRow{Heading: key, Target: mapping[i], SetBy: by, SetAt: now}
		if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error; err != nil {
			return err
		}
	}
	return nil
}

// RegisterCSV writes the register of the fleet, retired machines left out.
func (s *Store) RegisterCSV(ctx context.Context) ([]byte, error) {
	fleet, err := s.existing(s.from(ctx))
	if err != nil {
		return nil, err
	}
	standing := slices.DeleteFunc(fleet, func(e csvimport.Existing) bool { return e.Retired })
	for i := range standing {
		if n := len(standing[i].Meters); n > 0 {
			m := standing[i].Meters[n-1]
			standing[i].Fields[csvimport.Hours] = quantity.Unmistakable(m.Hours)
			standing[i].Fields[csvimport.HoursOn] = civil.Of(m.At).String()
		}
	}
	var b bytes.Buffer
	if err := csvimport.Write(&b, standing, s.Vocabulary()); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}
