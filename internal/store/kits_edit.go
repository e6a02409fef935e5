package store

import (
	"context"
	"encoding/json"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
)

// KitEntry is a kit with what is known of its editing.
type KitEntry struct {
	Kit     fit.Kit `json:"kit"`
	Version int     `json:"version"`
	Shipped bool    `json:"shipped"`
	Returns bool    `json:"returns" doc:"One of this key comes with the application: deleted, it stands again as it came"`
}

// KitEntry loads one kit for editing.
func (s *Store) KitEntry(ctx context.Context, key string) (KitEntry, error) {
	var row kitRow
	if err := s.from(ctx).Where("key = ?", key).First(&row).Error; err != nil {
		return KitEntry{}, found(err)
	}
	e := KitEntry{Version: row.Version, Shipped: row.Shipped}
	_, e.Returns = catalogue.Kit(key)
	return e, json.Unmarshal(row.Definition, &e.Kit)
}

// LockKits lets nobody else write kits until the transaction ends.
func (s *Store) LockKits(ctx context.Context) error {
	return s.from(ctx).Exec("lock table kits in share row exclusive mode").Error
}

// HoldKits lets nobody write kits until the transaction ends; several may hold them.
func (s *Store) HoldKits(ctx context.Context) error {
	return s.from(ctx).Exec("lock table kits in share mode").Error
}

// PlannedWith lists the orders of a kit, for whichever head, that wait their turn.
func (s *Store) PlannedWith(ctx context.Context, key string) ([]fit.PlannedWork, error) {
	var out []fit.PlannedWork
	err := s.from(ctx).Raw("select w.id, m.name as machine from work_orders w join machines m on m.id = "+
		"w.machine_id where "+
		"(w.kit_key = ? or starts_with(w.kit_key, ?)) and w.state = 'planned' order by w.id", key, key+"@").Scan(&out).Error
	return out, err
}

// OpenKit is the kit of a work order that is not ended, as the order keeps it.
type OpenKit struct {
	ID      int64
	Machine string
	Kit     json.RawMessage
}

// OpenKits are the kits of work that is planned or open.
func (s *Store) OpenKits(ctx context.Context) ([]OpenKit, error) {
	var out []OpenKit
	err := s.from(ctx).Raw(`select w.id, m.name as machine, w.kit from work_orders w join machines m on m.id = w.machine_id
		where w.state in ('planned', 'open') and w.kit is not null order by w.id`).Scan(&out).Error
	return out, err
}

// WriteKit writes a kit over the one of its key, which stays hidden where it was.
func (s *Store) WriteKit(ctx context.Context, e KitEntry) error {
	text, err := json.Marshal(e.Kit)
	if err != nil {
		return err
	}
	row := kitRow{Key: e.Kit.Key, Definition: text, Shipped: e.Shipped, Version: e.Version}
	return s.from(ctx).Clauses(clause.OnConflict{
		Columns:   []clause.Column{{Name: "key"}},
		DoUpdates: clause.AssignmentColumns([]string{"definition", "shipped", "version"}),
	}).Create(&row).Error
}

// RemoveKit takes a kit out of the catalogue.
func (s *Store) RemoveKit(ctx context.Context, key string) error {
	return s.from(ctx).Delete(&kitRow{}, "key = ?", key).Error
}

// bringKitIn writes a kit of a file, over the one of its key.
func bringKitIn(tx *gorm.DB, k fit.Kit) error {
	text, err := json.Marshal(k)
	if err != nil {
		return err
	}
	return tx.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "key"}},
		DoUpdates: clause.Assignments(map[string]any{
			"definition": text, "shipped": false, "version": gorm.Expr("kits.version + 1")})}).
		Create(&kitRow{Key: k.Key, Definition: text, Version: 1}).
		Error
}

// KitDocument is a kit as it is kept.
type KitDocument struct {
	Key  string
	JSON []byte
}

// KitDocuments lists the kits by name that the shop looks at, as they are kept.
func (s *Store) KitDocuments(ctx context.Context) ([]KitDocument, error) {
	var rows []kitRow
	err := s.from(ctx).Where("not hidden").Order("definition->>'name'").Find(&rows).Error
	out := make([]KitDocument, len(rows))
	for i, r := range rows {
		out[i] = KitDocument{r.Key, r.Definition}
	}
	return out, err
}
