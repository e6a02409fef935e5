package store

import (
	"slices"
	"strings"

	"gorm.io/gorm"

	"wardifex/internal/core/machine"
)

// modelReading is a reading of a model with the kind of what it is of.
type modelReading struct {
	Reading readingRow `gorm:"embedded"`
	Kind    string
}

// nameParts notes what stands as the model of parts; of all of them without ids.
func (s *Store) nameParts(tx *gorm.DB, ids ...int64) error {
	var rows []modelReading
	q := tx.Table("readings r").Select("r.*, p.kind").Joins("join parts p on p.id = r.part_id").
		Where("r.trait = ?", machine.ModelTrait).Order("r.part_id, r.id")
	if len(ids) > 0 {
		q = q.Where("r.part_id = any(?::bigint[])", arrayOf(ids))
	}
	if err := q.Scan(&rows).Error; err != nil {
		return err
	}
	of, models := s.standingModels(rows, func(r readingRow) int64 { return *r.PartID })
	_, err := tx.Statement.ConnPool.ExecContext(tx.Statement.Context, `
		update parts set standing_model = u.model from unnest($1::bigint[], $2::text[]) u(id, model)
		where parts.id = u.id and parts.standing_model <> u.model`, of, models)
	return err
}

// nameRuns notes what stands as the model of runs of builds, by their fittings; of all of
// them without ids.
func (s *Store) nameRuns(tx *gorm.DB, ids ...int64) error {
	var rows []modelReading
	q := tx.Table("readings r").Select("r.*, f.slot as kind").Joins("join fittings f on f.id = r.fitting_id").
		Where("r.trait = ?", machine.ModelTrait).Order("r.fitting_id, r.id")
	if len(ids) > 0 {
		q = q.Where("r.fitting_id = any(?::bigint[])", arrayOf(ids))
	}
	if err := q.Scan(&rows).Error; err != nil {
		return err
	}
	for i := range rows {
		p, _ := s.Vocabulary().Position(rows[i].Kind)
		rows[i].Kind = p.Kind
	}
	of, models := s.standingModels(rows, func(r readingRow) int64 { return *r.FittingID })
	_, err := tx.Statement.ConnPool.ExecContext(tx.Statement.Context, `
		update build_runs set standing_model = u.model from unnest($1::bigint[], $2::text[]) u(id, model)
		where build_runs.fitting_id = u.id and build_runs.standing_model <> u.model`, of, models)
	return err
}

// standingModels finds what stands among readings that are together by what they are of.
func (s *Store) standingModels(rows []modelReading, id func(readingRow) int64) (of []int64, models []string) {
	voc := s.Vocabulary()
	for len(rows) > 0 {
		this := id(rows[0].Reading)
		n := slices.IndexFunc(rows, func(r modelReading) bool { return id(r.Reading) != this })
		if n < 0 {
			n = len(rows)
		}
		model := ""
		if t := traitOfKind(voc, rows[0].Kind, machine.ModelTrait); t != nil {
			readings := make([]machine.Reading, n)
			for i, r := range rows[:n] {
				readings[i] = r.Reading.reading(t)
			}
			model = machine.Standing(t, readings).Value.Text
		}
		of, models, rows = append(of, this), append(models, model), rows[n:]
	}
	return of, models
}

// name notes what stands as the model of what something is of.
func (s *Store) name(tx *gorm.DB, of Held) error {
	if of.Part != 0 {
		return s.nameParts(tx, of.Part)
	}
	return s.nameRuns(tx, of.Fitting)
}

// nameOfReadings is name for what readings are of, as far as they tell a model.
func (s *Store) nameOfReadings(tx *gorm.DB, ids []int64) error {
	var rows []readingRow
	err := tx.Where("id in ? and trait = ?", ids, machine.ModelTrait).Find(&rows).Error
	for i := 0; err == nil && i < len(rows); i++ {
		err = s.name(tx, rows[i].held())
	}
	return err
}

// nameEverything notes what stands as the model of all that is on record.
func (s *Store) nameEverything(tx *gorm.DB) error {
	if err := s.nameParts(tx); err != nil {
		return err
	}
	return s.nameRuns(tx)
}

// nameAgain notes anew what stands as the model of parts that were read to be of models
// whose names are others now.
func (s *Store) nameAgain(tx *gorm.DB, models []machine.Model) error {
	var names []string
	for _, m := range models {
		for _, name := range append([]string{m.Name}, m.Aliases...) {
			names = append(names, strings.ToLower(name))
		}
	}
	var ids []int64
	err := tx.Model(&readingRow{}).Distinct("part_id").Where("part_id is not null and trait = ? and lower(value) in ?",
		machine.ModelTrait, names).Pluck("part_id", &ids).Error
	if err != nil || len(ids) == 0 {
		return err
	}
	return s.nameParts(tx, ids...)
}
