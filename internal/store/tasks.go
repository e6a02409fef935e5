package store

import (
	"context"
	"encoding/json"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"wardifex/internal/core/maintenance"
)

type taskRow struct {
	Key        string `gorm:"primaryKey"`
	Definition []byte `gorm:"type:jsonb"`
	Version    int
}

func (taskRow) TableName() string { return "tasks" }

// OwnTask is one that the shop keeps as its own.
type OwnTask struct {
	maintenance.Task
	Version int
}

// OwnTasks are those that the shop keeps as its own, in the order of their keys.
func (s *Store) OwnTasks(ctx context.Context) ([]OwnTask, error) { return ownTasks(s.from(ctx)) }

func ownTasks(tx *gorm.DB) ([]OwnTask, error) {
	var rows []taskRow
	if err := tx.Order("key").Find(&rows).Error; err != nil {
		return nil, err
	}
	out := make([]OwnTask, len(rows))
	for i, r := range rows {
		out[i].Version = r.Version
		if err := json.Unmarshal(r.Definition, &out[i].Task); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// loadTasks are all the tasks of the shop.
func loadTasks(tx *gorm.DB) ([]maintenance.Task, error) {
	own, err := ownTasks(tx)
	if err != nil {
		return nil, err
	}
	tasks := make([]maintenance.Task, len(own))
	for i := range own {
		tasks[i] = own[i].Task
	}
	return maintenance.In(tasks), nil
}

// SaveTask writes a task over the shop's own of a version, 0 where it has none yet of this key;
// ErrChanged when it is of another by now.
func (s *Store) SaveTask(ctx context.Context, t maintenance.Task, version int) error {
	text, err := json.Marshal(t)
	if err != nil {
		return err
	}
	row := taskRow{Key: t.Key, Definition: text, Version: version + 1}
	tx := s.from(ctx)
	written := tx.Clauses(clause.OnConflict{DoNothing: true})
	if version == 0 {
		written = written.Create(&row)
	} else {
		written = tx.Model(&taskRow{}).Where("key = ? and version = ?", t.Key, version).Select("*").Updates(&row)
	}
	if written.Error == nil && written.RowsAffected == 0 {
		return ErrChanged
	}
	if written.Error != nil {
		return written.Error
	}
	return s.tasksChanged(ctx)
}

// RemoveTask erases the shop's own task of a key and a version: a shipped one is in its place again.
func (s *Store) RemoveTask(ctx context.Context, key string, version int) error {
	gone := s.from(ctx).Where("key = ? and version = ?", key, version).Delete(&taskRow{})
	if gone.Error == nil && gone.RowsAffected == 0 {
		return ErrChanged
	}
	if gone.Error != nil {
		return gone.Error
	}
	return s.tasksChanged(ctx)
}

// TaskUsed reports whether a task was ever done, or work is open for it.
func (s *Store) TaskUsed(ctx context.Context, key string) (bool, error) {
	var n int64
	err := s.from(ctx).Raw("select (select count(*) from upkeep_done where task = ?) + "+
		"(select count(*) from work_orders where task = ?)", key, key).Scan(&n).Error
	return n > 0, err
}

// tasksChanged lets every instance read the tasks anew, this one at once.
func (s *Store) tasksChanged(ctx context.Context) error {
	if err := bumpCatalogue(s.from(ctx)); err != nil {
		return err
	}
	return s.reload(s.from(ctx))
}
