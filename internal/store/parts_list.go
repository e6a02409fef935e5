package store

import (
	"context"
	"strings"

	"gorm.io/gorm"

	"wardifex/internal/core/machine"
)

// PartsQuery says which parts are wanted; what is empty narrows nothing.
type PartsQuery struct {
	Where         string // shelf, machine or scrap
	Kinds         []string
	Text          string // in its model, tag, serial number, supplier, note, shelf or machine
	Tagged        bool
	Offset, Limit int
}

// PartsPage is a page of the parts that are wanted.
type PartsPage struct {
	Parts  []Part         `json:"parts"`
	Total  int            `json:"total" doc:"How many there are of what was asked"`
	Counts map[string]int `json:"counts" doc:"How many there are in all, by where they are: shelf, machine, scrap"`
}

// partPlace is where a part is, in the words of PartsQuery.
const partPlace = `case when f.id is not null then 'machine'
  when p.scrapped_at is not null then 'scrap' else 'shelf' end`

// realParts are the parts without placeholders of what is known to be empty, and without
// builds that earlier versions kept as parts.
func (s *Store) realParts(tx *gorm.DB) *gorm.DB {
	software := []string{""}
	for _, k := range s.Vocabulary().Catalogue.Kinds {
		if k.Software {
			software = append(software, k.Key)
		}
	}
	return tx.Table("parts p").
		Joins("left join fittings f on f.part_id = p.id and f.removed_at is null").
		Joins("left join machines m on m.id = f.machine_id").
		Where("p.kind not in ?", software).
		Where(`not exists (select from readings r where r.part_id = p.id and r.trait = ? and r.value = ? and
			r.set_aside_why = ''
			and not exists (select from readings o where o.part_id = p.id and o.trait = r.trait and o.value <> r.value
				and o.set_aside_why = '' and (o.grade, o.taken_at, o.id) > (r.grade, r.taken_at, r.id)))`, machine.ModelTrait,
			machine.None)
}

// ListParts gives a page of the parts that are wanted, in the order in which they came,
// with how many there are.
func (s *Store) ListParts(ctx context.Context, q PartsQuery) (PartsPage, error) {
	out := PartsPage{Parts: []Part{}, Counts: map[string]int{"shelf": 0, "machine": 0, "scrap": 0}}
	var counts []struct {
		Place string
		N     int
	}
	tx := s.from(ctx)
	if err := s.realParts(tx).Select(partPlace +
		" as place, count(*) as n").Group("place").Scan(&counts).Error; err != nil {
		return out, err
	}
	for _, c := range counts {
		out.Counts[c.Place] = c.N
	}
	wanted := s.realParts(tx)
	if q.Where != "" {
		wanted = wanted.Where(partPlace+" = ?", q.Where)
	}
	if len(q.Kinds) > 0 {
		wanted = wanted.Where("p.kind in ?", q.Kinds)
	}
	if q.Tagged {
		wanted = wanted.Where("p.tag <> ''")
	}
	if q.Text != "" {
		like := "%" + strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(q.Text) + "%"
		wanted = wanted.Where(`concat_ws(' ', p.tag, p.serial, p.supplier, p.note, p.shelf, m.name, f.slot) ilike ?
			or exists (select from readings r where r.part_id = p.id and r.trait = ? and r.set_aside_why = '' and r.value
				ilike ?)`,
			like, machine.ModelTrait, like)
	}
	var rows []struct {
		ID    int64
		Total int
	}
	if err := wanted.Select("p.id, count(*) over () as total").Order("p.id").Offset(q.Offset).Limit(q.Limit).Scan(
		&rows).Error; err != nil {
		return out, err
	}
	if len(rows) == 0 {
		return out, nil
	}
	ids := make([]int64, len(rows))
	for i, r := range rows {
		ids[i], out.Total = r.ID, r.Total
	}
	var err error
	out.Parts, err = s.parts(tx, ids...)
	return out, err
}
