package store

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"sync"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
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

// compiled keeps the kits as they were made ready last.
type compiled struct {
	mu     sync.Mutex
	voc    *machine.Vocabulary
	rows   []kitRow
	ready  []*fit.Judge
	broken []string
}

// Judges makes every kit ready, by name. A kit that the catalogue no longer bears
// out is named among the broken; the others are judged all the same. While
// neither kits nor catalogue change, the same judges are given again.
func (s *Store) Judges(ctx context.Context) (ready []*fit.Judge, broken []string, err error) {
	var rows []kitRow
	if err := s.from(ctx).Order("definition->>'name'").Find(&rows).Error; err != nil {
		return nil, nil, err
	}
	voc := s.Vocabulary()
	s.compiled.mu.Lock()
	defer s.compiled.mu.Unlock()
	c := &s.compiled
	same := func(a, b kitRow) bool { return a.Key == b.Key && bytes.Equal(a.Definition, b.Definition) }
	if c.voc == voc && slices.EqualFunc(c.rows, rows, same) {
		return c.ready, c.broken, nil
	}
	all, err := kitsOf(rows)
	if err != nil {
		return nil, nil, err
	}
	ready, broken = []*fit.Judge{}, []string{}
	for _, k := range fit.Mutual(all) {
		j, err := fit.NewJudge(k, voc)
		if err != nil {
			broken = append(broken, k.Name+": "+err.Error())
			continue
		}
		ready = append(ready, j)
	}
	c.voc, c.rows, c.ready, c.broken = voc, rows, ready, broken
	return ready, broken, nil
}

// CheckKit says what is wrong with a kit as written, beside the others.
func (s *Store) CheckKit(ctx context.Context, k fit.Kit) (*fit.Judge, error) {
	return s.checkKit(s.from(ctx), k)
}

func (s *Store) checkKit(tx *gorm.DB, k fit.Kit) (*fit.Judge, error) {
	if err := k.Check(); err != nil {
		return nil, refuse("%s", err)
	}
	others, err := kits(tx)
	if err != nil {
		return nil, err
	}
	j, err := fit.NewJudge(k.Beside(others), s.Vocabulary())
	if err != nil {
		return nil, refuse("%s", err)
	}
	all := []fit.Kit{k}
	for _, o := range others {
		if o.Key != k.Key {
			all = append(all, o)
		}
	}
	if err := fit.CheckTogether(all); err != nil {
		return nil, refuse("%s", err)
	}
	return j, nil
}

// SaveKit adds a kit (version 0) or writes it over the version that its editor
// saw. It is then the shop's own.
func (s *Store) SaveKit(ctx context.Context, k fit.Kit, version int) error {
	if err := k.CheckTyped(s.Vocabulary()); err != nil {
		return refuse("%s", err)
	}
	return s.tx(ctx, func(tx *gorm.DB) error {
		if err := tx.Exec("lock table kits in share row exclusive mode").Error; err != nil {
			return err
		}
		if _, err := s.checkKit(tx, k); err != nil {
			return err
		}
		var here []kitRow
		if err := tx.Where("key = ?", k.Key).Find(&here).Error; err != nil {
			return err
		}
		switch {
		case len(here) > 0 && version == 0:
			return refuse("there is a kit of the key %s already; open it to change it", k.Key)
		case len(here) == 0 && version != 0:
			return ErrNotFound
		case len(here) > 0 && here[0].Version != version:
			return &Conflict{
				Sentence: fmt.Sprintf(
					"somebody changed %s while you were editing; nothing was overwritten. Open it again beside yours",
					k.Name,
				),
				Current: json.RawMessage(here[0].Definition),
			}
		}
		text, err := json.Marshal(k)
		if err != nil {
			return err
		}
		return tx.Clauses(clause.OnConflict{UpdateAll: true}).
			Create(&kitRow{Key: k.Key, Definition: text, Shipped: false, Version: version + 1}).
			Error
	})
}

// LockKits lets nobody else write kits until the transaction ends.
func (s *Store) LockKits(ctx context.Context) error {
	return s.from(ctx).Exec("lock table kits in share row exclusive mode").Error
}

// PlannedWith lists the orders of a kit, for whichever head, that wait their turn.
func (s *Store) PlannedWith(ctx context.Context, key string) ([]fit.PlannedWork, error) {
	var out []fit.PlannedWork
	err := s.from(ctx).Raw("select w.id, m.name as machine from work_orders w join machines m on m.id = "+
		"w.machine_id where "+
		"(w.kit_key = ? or starts_with(w.kit_key, ?)) and w.state = 'planned' order by w.id", key, key+"@").Scan(&out).Error
	return out, err
}

// WriteKit writes a kit over the one of its key.
func (s *Store) WriteKit(ctx context.Context, e KitEntry) error {
	text, err := json.Marshal(e.Kit)
	if err != nil {
		return err
	}
	row := kitRow{Key: e.Kit.Key, Definition: text, Shipped: e.Shipped, Version: e.Version}
	return s.from(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error
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

// MoveLasting moves needs of a kit to the model that it fits: there they hold as long as
// a part of it is fitted, whoever fitted it. at are their places among the kit's needs, as
// its editor saw them.
func (s *Store) MoveLasting(ctx context.Context, key string, version int, at []int, by string, now time.Time) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		if err := lockCatalogue(tx); err != nil {
			return err
		}
		if err := tx.Exec("lock table kits in share row exclusive mode").Error; err != nil {
			return err
		}
		var row kitRow
		if err := tx.Where("key = ?", key).First(&row).Error; err != nil {
			return found(err)
		}
		var k fit.Kit
		if err := json.Unmarshal(row.Definition, &k); err != nil {
			return err
		}
		if row.Version != version {
			return &Conflict{
				Sentence: fmt.Sprintf("somebody changed %s while you were looking at it; nothing was moved. Open it again", k.Name),
				Current:  json.RawMessage(row.Definition),
			}
		}
		c, _, err := loadCatalogue(tx)
		if err != nil {
			return err
		}
		var model *machine.Model
		for _, o := range k.Lasting(s.Vocabulary()) {
			if !slices.Contains(at, o.At) {
				continue
			}
			if model == nil {
				model = &machine.Model{Kind: o.Kind, Name: o.Model}
				if i := slices.IndexFunc(c.Models,
					func(m machine.Model) bool { return catalogue.ModelKey(m) == catalogue.ModelKey(*model) }); i >= 0 {
					own := c.Models[i]
					model = &own
				}
				model.Needs = slices.Clone(model.Needs)
			}
			for slices.ContainsFunc(model.Needs, func(n machine.Need) bool { return n.Key == o.Need.Key }) {
				o.Need.Key += "-2"
			}
			model.Needs = append(model.Needs, o.Need)
		}
		if model == nil {
			return refuse("none of these needs of %s can be moved to what it fits", k.Name)
		}
		left := k.WithoutNeeds(at...)
		text, err := json.Marshal(left)
		if err != nil {
			return err
		}
		if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&kitRow{Key: key, Definition: text,
			Version: version + 1}).Error; err != nil {
			return err
		}
		p, err := s.planCatalogue(tx, machine.Catalogue{Models: []machine.Model{*model}}, nil)
		if err != nil {
			return err
		}
		return s.writeCatalogue(tx, p, by, now)
	})
}
