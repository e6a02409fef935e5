package store

import (
	"context"
	"maps"
	"slices"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/inspection"
	"wardifex/internal/core/machine"
)

// AddPartReading records a reading of a part that lies on the shelf, and gives the number
// of the reading. What is in a machine is read there.
func (s *Store) AddPartReading(
	ctx context.Context, part int64, trait, text string, r machine.Reading, now time.Time,
) (int64, error) {
	var id int64
	err := s.tx(ctx, func(tx *gorm.DB) error {
		if _, err := lockPart(tx, part); err != nil {
			return err
		}
		found, err := s.parts(tx, part)
		if err != nil {
			return err
		}
		p := &found[0]
		voc := s.Vocabulary()
		at := voc.First(p.Kind)
		switch now := p.Now(); {
		case p.ScrappedAt != nil:
			return refuse("this part was scrapped; nothing of it is read any more")
		case now != nil:
			return refuse("this part is in %s: record it on the sheet of that machine", now.Machine)
		case at == nil:
			return refuse("no machine has a place for parts of this kind; add one to the catalogue first")
		}
		t, v, err := s.parseReading(machine.KeyOf(at.Key, trait), text, r, now)
		if err != nil {
			return err
		}
		id, err = s.keepReading(tx, held{part: part}, t, v, r, func() (machine.Snapshot, error) {
			var known []machine.Reading
			for _, old := range p.Readings {
				old.Key = machine.KeyOf(at.Key, old.Key.Trait())
				known = append(known, old)
			}
			known = append(known, machine.Reading{ID: id, Key: t.Key(), Value: v, Grade: r.Grade, TakenAt: r.TakenAt, By: r.By})
			return machine.NewSnapshot(voc, machine.Record{Readings: known}), nil
		})
		return err
	})
	return id, err
}

// parseReading checks a reading as it is written.
func (s *Store) parseReading(
	key machine.Key, text string, r machine.Reading, now time.Time,
) (t *machine.Trait, v machine.Value, err error) {
	t, ok := s.Vocabulary().Trait(key)
	if !ok {
		return nil, v, refuse("there is no trait %s", key)
	}
	if t.Superseded != "" {
		return nil, v, refuse("%s is superseded; record %s instead", t.Label, t.Superseded)
	}
	if v, err = t.Parse(text); err != nil {
		return nil, v, refuse("%s", err)
	}
	if err := machine.CheckReading(t, r, now); err != nil {
		return nil, v, refuse("%s", err)
	}
	return t, v, nil
}

// keepReading writes a reading of a part down, with what it brings along: a complete
// processor marking tells pins, flash, package and temperature range. facts are those of
// the machine, or of the part, with the reading among them.
func (s *Store) keepReading(
	tx *gorm.DB, of held, t *machine.Trait, v machine.Value, r machine.Reading, facts func() (machine.Snapshot, error),
) (int64, error) {
	row := readingRow{
		PartID: of.partID(), FittingID: of.fittingID(), Trait: t.Name, Value: v.Text, Grade: int16(r.Grade),
		TakenAt: r.TakenAt, TakenBy: r.By, How: r.How, Note: r.Note,
	}
	if err := tx.Create(&row).Error; err != nil {
		return 0, err
	}
	on, err := facts()
	if err != nil {
		return 0, err
	}
	more, err := inspection.Decode(t.Key(), v.Text, on)
	if err != nil {
		return 0, refuse("%s", err)
	}
	for _, k := range slices.Sorted(maps.Keys(more)) {
		decoded, ok := s.Vocabulary().Trait(k)
		if !ok {
			continue
		}
		row := readingRow{
			PartID: of.partID(), FittingID: of.fittingID(), Trait: decoded.Name, Value: more[k], Grade: int16(r.Grade),
			TakenAt: r.TakenAt, TakenBy: r.By, How: bench.DecodedFrom + v.Text,
		}
		if err := tx.Create(&row).Error; err != nil {
			return 0, err
		}
	}
	return row.ID, nil
}
