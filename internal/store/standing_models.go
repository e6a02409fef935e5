package store

import (
	"fmt"
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
	return s.nameHolders(tx, holders{table: "parts", key: "id", reading: "part_id",
		kind: "p.kind", join: "join parts p on p.id = r.part_id",
		id:     func(r readingRow) int64 { return *r.PartID },
		kindOf: func(kind string) string { return kind }}, ids)
}

// nameRuns notes what stands as the model of runs of builds, by their fittings; of all of
// them without ids.
func (s *Store) nameRuns(tx *gorm.DB, ids ...int64) error {
	return s.nameHolders(tx, holders{table: "build_runs", key: "fitting_id", reading: "fitting_id",
		kind: "f.slot as kind", join: "join fittings f on f.id = r.fitting_id",
		id: func(r readingRow) int64 { return *r.FittingID },
		kindOf: func(slot string) string {
			p, _ := s.vocabularyOf(tx).Position(slot)
			return p.Kind
		}}, ids)
}

// holders are what readings are of, as the database has them.
type holders struct {
	table, key string // where what stands is kept
	reading    string // column of a reading that says of which it is
	kind, join string // what tells its kind
	id         func(readingRow) int64
	kindOf     func(string) string
}

func (s *Store) nameHolders(tx *gorm.DB, h holders, ids []int64) error {
	var rows []modelReading
	q := tx.Table("readings r").Select("r.*, "+h.kind).Joins(h.join).
		Where("r.trait = ?", machine.ModelTrait).Order("r." + h.reading + ", r.id")
	if len(ids) > 0 {
		q = q.Where("r."+h.reading+" = any(?::bigint[])", arrayOf(ids))
	}
	if err := q.Scan(&rows).Error; err != nil {
		return err
	}
	for i := range rows {
		rows[i].Kind = h.kindOf(rows[i].Kind)
	}
	of, models := standingModels(s.vocabularyOf(tx), rows, h.id)
	_, err := tx.Statement.ConnPool.ExecContext(tx.Statement.Context, fmt.Sprintf(`
		update %[1]s set standing_model = u.model from unnest($1::bigint[], $2::text[]) u(id, model)
		where %[1]s.%[2]s = u.id and %[1]s.standing_model <> u.model`, h.table, h.key), of, models)
	return err
}

// standingModels finds what stands among readings that are together by what they are of.
func standingModels(voc *machine.Vocabulary, rows []modelReading, id func(readingRow) int64) (of []int64,
	models []string) {
	for len(rows) > 0 {
		this := id(rows[0].Reading)
		n := slices.IndexFunc(rows, func(r modelReading) bool { return id(r.Reading) != this })
		if n < 0 {
			n = len(rows)
		}
		model := ""
		if t := voc.TraitOfKind(rows[0].Kind, machine.ModelTrait); t != nil {
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
