package store

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

type entryRow struct {
	Section    string `gorm:"primaryKey"`
	Key        string `gorm:"primaryKey"`
	Position   int
	Definition []byte `gorm:"type:jsonb"`
	Shipped    bool
	Version    int
	ChangedBy  string
	ChangedAt  *time.Time
}

func (entryRow) TableName() string { return "catalogue_entries" }

// entries lists a catalogue's entries as rows, in its order.
func entries(c machine.Catalogue) ([]entryRow, error) {
	var out []entryRow
	add := func(section, key string, position int, thing any) error {
		text, err := json.Marshal(thing)
		out = append(out, entryRow{Section: section, Key: key, Position: position, Definition: text})
		return err
	}
	for i, k := range c.Kinds {
		if err := add("kind", k.Key, i, k); err != nil {
			return nil, err
		}
	}
	for i, s := range c.Slots {
		if err := add("slot", s.Key, i, s); err != nil {
			return nil, err
		}
	}
	for i, in := range c.Inspections {
		if err := add("inspection", in.Key, i, in); err != nil {
			return nil, err
		}
	}
	for i, m := range c.Models {
		if err := add("model", catalogue.ModelKey(m), i, m); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// loadCatalogue reads the catalogue as it stands, with its rows.
func loadCatalogue(tx *gorm.DB) (machine.Catalogue, []entryRow, error) {
	var c machine.Catalogue
	var rows []entryRow
	if err := tx.Order("section, position, key").Find(&rows).Error; err != nil {
		return c, nil, err
	}
	for _, r := range rows {
		var err error
		switch r.Section {
		case "kind":
			c.Kinds, err = appendEntry(c.Kinds, r)
		case "slot":
			c.Slots, err = appendEntry(c.Slots, r)
		case "inspection":
			c.Inspections, err = appendEntry(c.Inspections, r)
		case "model":
			c.Models, err = appendEntry(c.Models, r)
		}
		if err != nil {
			return c, rows, fmt.Errorf("catalogue entry %s %s: %w", r.Section, r.Key, err)
		}
	}
	c = catalogue.Upgraded(c)
	c.Complete()
	return c, rows, nil
}

func appendEntry[T any](list []T, r entryRow) ([]T, error) {
	var x T
	err := json.Unmarshal(r.Definition, &x)
	return append(list, x), err
}

// shipCatalogue puts what comes with the application into the catalogue.
// Entries that a shop has edited stay as they are; a kind that it has edited
// gets the traits that it lacks, since shipped kits may ask for them.
func (s *Store) shipCatalogue(ctx context.Context) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		if err := lockCatalogue(tx); err != nil {
			return err
		}
		now, rows, err := loadCatalogue(tx)
		if err != nil {
			return err
		}
		at := map[string]*entryRow{}
		for i := range rows {
			at[rows[i].Section+" "+rows[i].Key] = &rows[i]
		}
		shipped := catalogue.Shipped()
		restored, _, _ := parts.Restore(now, shipped)
		for i := range shipped.Kinds {
			if here := at["kind "+shipped.Kinds[i].Key]; here != nil && !here.Shipped {
				shipped.Kinds[i] = withTraitsOf(restored, shipped.Kinds[i])
			}
		}
		wanted, err := entries(shipped)
		if err != nil {
			return err
		}
		changed := false
		for _, w := range wanted {
			w.Shipped, w.Version = true, 1
			here := at[w.Section+" "+w.Key]
			switch {
			case here == nil && w.Section == "model" && renamed(now, w.Key):
				continue // the shop has given it another name
			case here == nil:
			case here.Shipped || w.Section == "kind":
				if sameJSON(here.Definition, w.Definition) && (here.Position == w.Position || !here.Shipped) {
					continue
				}
				w.Shipped, w.Version, w.ChangedBy, w.ChangedAt = here.Shipped, here.Version, here.ChangedBy, here.ChangedAt
			default:
				continue
			}
			changed = true
			if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&w).Error; err != nil {
				return err
			}
		}
		if changed {
			if err := bumpCatalogue(tx); err != nil {
				return err
			}
		}
		return s.reload(tx)
	})
}

// renamed reports whether a model of the catalogue had a key before.
func renamed(c machine.Catalogue, key string) bool {
	return slices.ContainsFunc(c.Models, func(m machine.Model) bool {
		return slices.ContainsFunc(
			m.Aliases,
			func(name string) bool { return catalogue.ModelKey(machine.Model{Kind: m.Kind, Name: name}) == key },
		)
	})
}

// withTraitsOf is the kind as the shop has it, with what it lacks of a shipped one.
func withTraitsOf(now machine.Catalogue, shipped machine.PartKind) machine.PartKind {
	for _, k := range now.Kinds {
		if k.Key != shipped.Key {
			continue
		}
		names := map[string]bool{}
		for _, t := range k.Traits {
			names[t.Name] = true
		}
		for _, t := range shipped.Traits {
			if !names[t.Name] {
				k.Traits = append(k.Traits, t)
			}
		}
		return k
	}
	return shipped
}

// sameJSON compares two definitions as values: the database writes its own blanks.
func sameJSON(a, b []byte) bool {
	var x, y any
	if json.Unmarshal(a, &x) != nil || json.Unmarshal(b, &y) != nil {
		return false
	}
	p, _ := json.Marshal(x)
	q, _ := json.Marshal(y)
	return string(p) == string(q)
}

func lockCatalogue(tx *gorm.DB) error {
	return tx.Exec("select version from catalogue_state for update").Error
}

func bumpCatalogue(tx *gorm.DB) error {
	return tx.Exec("update catalogue_state set version = version + 1").Error
}

// CatalogueEntry is one entry with what is known of its editing.
type CatalogueEntry struct {
	Section   string `json:"section"`
	Key       string `json:"key"`
	Version   int    `json:"version"`
	Shipped   bool   `json:"shipped" doc:"As it came with the application"`
	ChangedBy string `json:"changedBy,omitempty"`
	Used      int    `json:"used" doc:"Parts on record that depend on it"`
}

// Catalogue is the catalogue as it stands, with what is known of its entries.
func (s *Store) Catalogue(ctx context.Context) (machine.Catalogue, []CatalogueEntry, error) {
	tx := s.from(ctx)
	c, rows, err := loadCatalogue(tx)
	if err != nil {
		return c, nil, err
	}
	used, err := usedEntries(tx)
	out := make([]CatalogueEntry, len(rows))
	for i, r := range rows {
		out[i] = CatalogueEntry{
			Section:   r.Section,
			Key:       r.Key,
			Version:   r.Version,
			Shipped:   r.Shipped,
			ChangedBy: r.ChangedBy,
			Used:      used[r.Section+" "+r.Key],
		}
	}
	return c, out, err
}

// usedEntries counts what is on record of kinds, positions and models, by section and key.
func usedEntries(tx *gorm.DB) (map[string]int, error) {
	var counts []struct {
		Section, Kind, Key string
		N                  int
	}
	err := tx.Raw(`
		select 'slot' as section, '' as kind, slot as key, count(*) as n from fittings group by slot
		union all select 'kind', '', kind, count(*) from parts group by kind
		union all select 'model', kind, standing_model, count(*) from parts where standing_model <> ''
			group by kind, standing_model`).Scan(&counts).Error
	used := map[string]int{}
	for _, c := range counts {
		key := c.Key
		if c.Section == "model" {
			key = catalogue.ModelKey(machine.Model{Kind: c.Kind, Name: c.Key})
		}
		used[c.Section+" "+key] += c.N
	}
	return used, err
}

func usage(tx *gorm.DB) (machine.Usage, error) {
	use := machine.Usage{
		Values: map[string]map[string]map[string]int{},
		Slots:  map[string]int{},
		Parts:  map[string]int{},
		Listed: map[string]int{},
	}
	var values []struct {
		Kind, Trait, Value string
		N                  int
	}
	if err := tx.Raw(`select coalesce(p.kind, s.kind) as kind, r.trait, r.value, count(*) as n from readings r left
		join parts p on p.id = r.part_id
		left join fittings f on f.id = r.fitting_id left join positions s on s.machine_id = f.machine_id and s.key =
			f.slot and s.to_at is null
		where coalesce(p.kind, s.kind) is not null group by 1, 2, 3`).Scan(&values).Error; err != nil {
		return use, err
	}
	for _, v := range values {
		if use.Values[v.Kind] == nil {
			use.Values[v.Kind] = map[string]map[string]int{}
		}
		if use.Values[v.Kind][v.Trait] == nil {
			use.Values[v.Kind][v.Trait] = map[string]int{}
		}
		use.Values[v.Kind][v.Trait][v.Value] = v.N
	}
	besides, err := everyPosition(tx)
	if err != nil {
		return use, err
	}
	use.Positions = besides
	var bearing []struct{ Kind, Model, Machine string }
	if err := tx.Raw(`select distinct p.kind, p.standing_model as model, coalesce(m.name, '') as machine from parts p
		left join fittings f on f.part_id = p.id and f.removed_at is null left join machines m on m.id = f.machine_id
		where p.standing_model <> '' order by 3`).Scan(&bearing).Error; err != nil {
		return use, err
	}
	use.Models = map[string]map[string][]string{}
	for _, b := range bearing {
		if use.Models[b.Kind] == nil {
			use.Models[b.Kind] = map[string][]string{}
		}
		use.Models[b.Kind][b.Model] = append(use.Models[b.Kind][b.Model], b.Machine)
	}
	var counts []struct {
		What, Key string
		N         int
	}
	err = tx.Raw("select 'slot' as what, slot as key, count(*) as n from fittings group by 2 union all select " +
		"'kind', kind, count(*) from parts group by 2 union all select 'listed', kind, count(*) from positions group by 2").
		Scan(&counts).
		Error
	for _, c := range counts {
		map[string]map[string]int{"slot": use.Slots, "kind": use.Parts, "listed": use.Listed}[c.What][c.Key] = c.N
	}
	return use, err
}

// LockCatalogue lets nobody else write the catalogue until the transaction ends.
func (s *Store) LockCatalogue(ctx context.Context) error { return lockCatalogue(s.from(ctx)) }

// CatalogueNow is the catalogue as it stands, and Usage what of it is used on record.
func (s *Store) CatalogueNow(ctx context.Context) (machine.Catalogue, error) {
	c, _, err := loadCatalogue(s.from(ctx))
	return c, err
}

// Usage is what of the catalogue is used on record.
func (s *Store) Usage(ctx context.Context) (machine.Usage, error) { return usage(s.from(ctx)) }

// StoredEntry is a catalogue entry as it is kept.
type StoredEntry struct {
	Version    int
	ChangedBy  string
	Definition json.RawMessage
}

// Entry loads an entry; ErrNotFound where there is none.
func (s *Store) Entry(ctx context.Context, section, key string) (StoredEntry, error) {
	var row entryRow
	err := s.from(ctx).Where("section = ? and key = ?", section, key).First(&row).Error
	return StoredEntry{row.Version, row.ChangedBy, row.Definition}, found(err)
}

// RemoveEntry takes an entry out of the catalogue.
func (s *Store) RemoveEntry(ctx context.Context, section, key string) error {
	return s.from(ctx).Where("section = ? and key = ?", section, key).Delete(&entryRow{}).Error
}

// CatalogueChanged tells every instance to make its vocabulary anew, and makes this one's.
func (s *Store) CatalogueChanged(ctx context.Context) error {
	if err := bumpCatalogue(s.from(ctx)); err != nil {
		return err
	}
	return s.reload(s.from(ctx))
}

// WriteCatalogue writes a plan's entries and kits, and makes the vocabulary anew.
func (s *Store) WriteCatalogue(ctx context.Context, p catalogue.MergePlan, by string, now time.Time) error {
	tx := s.from(ctx)
	rows, err := entries(p.After)
	if err != nil {
		return err
	}
	touched := map[string]bool{}
	for _, e := range append(append([]catalogue.Entry(nil), p.Added...), p.Changed...) {
		touched[e.Section+" "+e.Key] = true
	}
	for _, r := range rows {
		if !touched[r.Section+" "+r.Key] {
			continue
		}
		r.Version, r.ChangedBy, r.ChangedAt = 1, by, &now
		err := tx.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "section"}, {Name: "key"}},
			DoUpdates: clause.Assignments(map[string]any{
				"definition": r.Definition, "shipped": false, "version": gorm.Expr(
					"catalogue_entries.version + 1"), "changed_by": by, "changed_at": now})}).
			Create(&r).
			Error
		if err != nil {
			return err
		}
	}
	for _, k := range p.Kits {
		if touched["kit "+k.Key] {
			if err := bringKitIn(tx, k); err != nil {
				return err
			}
		}
	}
	if err := s.CatalogueChanged(ctx); err != nil {
		return err
	}
	models := slices.DeleteFunc(slices.Clone(p.After.Models), func(m machine.Model) bool {
		return !touched["model "+catalogue.ModelKey(m)]
	})
	if len(models) == 0 {
		return nil
	}
	return s.nameAgain(tx, models)
}
