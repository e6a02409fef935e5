package store

import (
	"context"
	"maps"
	"slices"
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
	Lot           string
	Sort, Group   string // of PartColumns; empty for the order in which they came
	Down          bool
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
	for _, k := range s.vocabularyOf(tx).Catalogue.Kinds {
		if k.Software {
			software = append(software, k.Key)
		}
	}
	return tx.Table("parts p").
		Joins("left join fittings f on f.part_id = p.id and f.removed_at is null").
		Joins("left join machines m on m.id = f.machine_id").
		Where("p.kind not in ?", software).
		Where("p.standing_model <> ?", machine.None)
}

// partColumns are what parts are sorted and grouped by. What has nothing there comes last.
var partColumns = map[string]string{
	"model": "nullif(lower(p.standing_model), '')", "tag": "nullif(lower(p.tag), '')", "kind": "p.kind",
	"where":    "coalesce(lower(m.name), nullif(lower(p.shelf), ''))",
	"supplier": "nullif(lower(p.supplier), '')", "price": "p.price", "lot": "nullif(p.lot, '')", "bought": "p.bought_on",
}

// PartColumns are the names of what parts can be sorted and grouped by.
func PartColumns() []string { return slices.Sorted(maps.Keys(partColumns)) }

// Modelled is a kind and a model of part.
type Modelled struct{ Kind, Model string }

// OnShelf counts the parts that lie on the shelf, by kind and model.
func (s *Store) OnShelf(ctx context.Context) (map[Modelled]int, error) {
	var rows []struct {
		Modelled
		N int
	}
	err := s.from(ctx).Raw(`select p.kind, p.standing_model as model, count(*) as n from parts p
		where p.standing_model <> '' and p.scrapped_at is null and not exists (
			select from fittings f where f.part_id = p.id and f.removed_at is null)
		group by 1, 2`).Scan(&rows).Error
	counts := map[Modelled]int{}
	for _, r := range rows {
		counts[r.Modelled] = r.N
	}
	return counts, err
}

// Answerer is who answers for what is claimed of a part at a position.
type Answerer struct {
	MachineID int64
	Slot      string
	Supplier  string
}

// Answerers lists, of parts that are in machines, those for which another answers than who
// supplied the machine: with a supplier of their own, or come from another machine.
func (s *Store) Answerers(ctx context.Context) ([]Answerer, error) {
	var out []Answerer
	err := s.from(ctx).Raw(`
		select f.machine_id, f.slot, coalesce(nullif(p.supplier, ''), (
			select o.supplier from fittings b join machines o on o.id = b.machine_id
			where b.part_id = p.id order by b.fitted_at, b.id limit 1), '') as supplier
		from fittings f join parts p on p.id = f.part_id where f.removed_at is null
			and (p.supplier <> '' or p.id in (select part_id from fittings where removed_at is not null))`).Scan(&out).Error
	return out, err
}

// PartsOutside lists the parts that are in no machine of the fleet: on the shelf, scrapped,
// in a retired machine.
func (s *Store) PartsOutside(ctx context.Context) ([]Part, error) {
	tx := s.from(ctx)
	var ids []int64
	if err := s.realParts(tx).Where("f.id is null or m.retired_at is not null").Pluck("p.id", &ids).Error; err != nil ||
		len(ids) == 0 {
		return nil, err
	}
	return s.parts(tx, ids...)
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
		wanted = wanted.Where("concat_ws(' ', p.standing_model, p.tag, p.serial, p.supplier, p.note, p.shelf, p.lot, "+
			"m.name, f.slot) ilike ?", like)
	}
	if q.Lot != "" {
		wanted = wanted.Where("p.lot = ?", q.Lot)
	}
	if by, ok := partColumns[q.Group]; ok {
		wanted = wanted.Order(by + " nulls last")
	}
	if by, ok := partColumns[q.Sort]; ok && q.Down {
		wanted = wanted.Order(by + " desc nulls last")
	} else if ok {
		wanted = wanted.Order(by + " nulls last")
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
	parts, err := s.parts(tx, ids...)
	at := make(map[int64]int, len(ids))
	for i, id := range ids {
		at[id] = i
	}
	slices.SortFunc(parts, func(a, b Part) int { return at[a.ID] - at[b.ID] })
	out.Parts = parts
	return out, err
}
