package store

import (
	"context"
	"encoding/json"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
)

type kitRow struct {
	Key        string `gorm:"primaryKey"`
	Definition []byte `gorm:"type:jsonb"`
	Shipped    bool
	Version    int
	Hidden     bool // the shop does not want to see it
}

func (kitRow) TableName() string { return "kits" }

// shipKits puts the kits that come with the application into the catalogue,
// newer definitions over older ones.
func (s *Store) shipKits(ctx context.Context) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		for _, k := range catalogue.Kits() {
			if _, err := fit.NewJudge(k, s.vocabularyOf(tx)); err != nil {
				return err
			}
			text, err := json.Marshal(k)
			if err != nil {
				return err
			}
			row := kitRow{Key: k.Key, Definition: text, Shipped: true, Version: 1}
			err = tx.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "key"}},
				DoUpdates: clause.AssignmentColumns([]string{"definition"}),
				Where:     clause.Where{Exprs: []clause.Expression{gorm.Expr("kits.shipped")}}}).
				Create(&row).
				Error
			if err != nil {
				return err
			}
		}
		return nil
	})
}

// ListedKits lists by name the kits that the shop looks at, or those that it has hidden.
func (s *Store) ListedKits(ctx context.Context, hidden bool) ([]fit.Kit, error) {
	return kits(s.from(ctx).Where("hidden = ?", hidden))
}

// HideKit hides a kit in this shop, or shows it again; ErrNotFound where there is none.
func (s *Store) HideKit(ctx context.Context, key string, hidden bool) error {
	written := s.from(ctx).Model(&kitRow{}).Where("key = ?", key).Update("hidden", hidden)
	if written.Error == nil && written.RowsAffected == 0 {
		return ErrNotFound
	}
	return written.Error
}

// Kits lists the catalogue's kits by name, hidden ones too: rules are about all of them.
func (s *Store) Kits(ctx context.Context) ([]fit.Kit, error) { return kits(s.from(ctx)) }

func kits(tx *gorm.DB) ([]fit.Kit, error) {
	var rows []kitRow
	if err := tx.Order("definition->>'name'").Find(&rows).Error; err != nil {
		return nil, err
	}
	return kitsOf(rows)
}

func kitsOf(rows []kitRow) ([]fit.Kit, error) {
	out := make([]fit.Kit, len(rows))
	for i, r := range rows {
		if err := json.Unmarshal(r.Definition, &out[i]); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// KitsNaming lists the kit of a key and all that name it.
func (s *Store) KitsNaming(ctx context.Context, key string) ([]fit.Kit, error) {
	var rows []kitRow
	if err := s.from(ctx).Where("key = ? or position(to_jsonb(?::text)::text in definition::text) > 0", key,
		key).Find(&rows).Error; err != nil {
		return nil, err
	}
	return kitsOf(rows)
}
