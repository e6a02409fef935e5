package store

import (
	"context"
	"time"

	"gorm.io/gorm/clause"

	"wardifex/internal/core/csvimport"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/quantity"
)

// Existing is the fleet as an import meets it, retired machines too.
func (s *Store) Existing(ctx context.Context) ([]csvimport.Existing, error) {
	tx := s.from(ctx)
	fleet, err := s.cachedFleet(tx)
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
	nothing := machine.NewSnapshot(s.Vocabulary(ctx), machine.Record{})
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

// WriteRegister writes what a plan says of machines. ErrChanged where somebody else wrote
// one of them meanwhile.
func (s *Store) WriteRegister(ctx context.Context, p csvimport.Plan, by string, at time.Time) error {
	in := registerImport{s: s, ctx: ctx, tx: s.from(ctx), by: by, now: at}
	err := in.write(p)
	if isTwice(err) {
		return ErrChanged
	}
	return err
}

// RememberHeading keeps to what a heading of a register was matched by hand.
func (s *Store) RememberHeading(ctx context.Context, heading, target, by string, at time.Time) error {
	row := headingRow{Heading: heading, Target: target, SetBy: by, SetAt: at}
	return s.from(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error
}

// Metered is the fleet with the readings of its meters.
func (s *Store) Metered(ctx context.Context) ([]csvimport.Metered, error) {
	fleet, err := s.cachedFleet(s.from(ctx))
	if err != nil {
		return nil, err
	}
	out := make([]csvimport.Metered, len(fleet))
	for i, m := range fleet {
		out[i] = csvimport.Metered{ID: m.ID, Name: m.Name, Meters: m.Meters}
	}
	return out, nil
}
