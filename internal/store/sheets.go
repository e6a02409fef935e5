package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"wardifex/internal/core/fleetquery"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/wiring"
)

type wireRow struct {
	MachineID  int64  `gorm:"primaryKey"`
	Head       string `gorm:"primaryKey"`
	Definition []byte `gorm:"type:jsonb"`
	Version    int
	ChangedBy  string
	ChangedAt  time.Time
}

func (wireRow) TableName() string { return "wire_sheets" }

// WireSheet is the wiring of a machine, or of one of its heads.
type WireSheet struct {
	Head      string      `json:"head" doc:"Empty for the machine itself"`
	Sheet     wiring.Loom `json:"sheet"`
	Version   int         `json:"version"`
	ChangedBy string      `json:"changedBy"`
	ChangedAt time.Time   `json:"changedAt"`
}

// WireSheets lists a machine's wire sheets, its own first.
func (s *Store) WireSheets(ctx context.Context, machineID int64) ([]WireSheet, error) {
	var rows []wireRow
	if err := s.from(ctx).Where("machine_id = ?", machineID).Order("head").Find(&rows).Error; err != nil {
		return nil, err
	}
	out := make([]WireSheet, len(rows))
	for i, r := range rows {
		out[i] = WireSheet{Head: r.Head, Version: r.Version, ChangedBy: r.ChangedBy, ChangedAt: r.ChangedAt}
		if err := json.Unmarshal(r.Definition, &out[i].Sheet); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// SaveWireSheet writes a sheet over the version that its editor saw; version 0
// is a new one.
func (s *Store) SaveWireSheet(
	ctx context.Context,
	machineID int64,
	head string,
	version int,
	sheet wiring.Loom,
	by string,
	now time.Time,
) error {
	if head != "" {
		if err := machine.PlainText(head); err != nil {
			return refuse("head: %s", err)
		}
	}
	if _, err := wiring.Check(sheet); err != nil {
		return refuse("%s", err)
	}
	text, err := json.Marshal(sheet)
	if err != nil {
		return err
	}
	return s.tx(ctx, func(tx *gorm.DB) error {
		if _, err := lockMachine(tx, machineID); err != nil {
			return err
		}
		var here wireRow
		if err := tx.Where("machine_id = ? and head = ?", machineID, head).Limit(1).Find(&here).Error; err != nil {
			return err
		}
		if here.Version != version {
			return &Conflict{
				Sentence: fmt.Sprintf(
					"%s changed this wire sheet meanwhile; what you typed is kept here, open the sheet beside it and compare",
					here.ChangedBy,
				),
				Current: json.RawMessage(here.Definition),
			}
		}
		row := wireRow{
			MachineID:  machineID,
			Head:       head,
			Definition: text,
			Version:    version + 1,
			ChangedBy:  by,
			ChangedAt:  now,
		}
		return tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error
	})
}

type questionRow struct {
	ID         int64
	Name       string
	Definition []byte `gorm:"type:jsonb"`
	Version    int
	ChangedBy  string
	ChangedAt  time.Time
}

func (questionRow) TableName() string { return "questions" }

// SavedQuestion is a question that is asked again and again.
type SavedQuestion struct {
	ID        int64               `json:"id"`
	Name      string              `json:"name"`
	Question  fleetquery.Question `json:"question"`
	Version   int                 `json:"version"`
	ChangedBy string              `json:"changedBy"`
}

// Questions lists the saved questions by name.
func (s *Store) Questions(ctx context.Context) ([]SavedQuestion, error) {
	var rows []questionRow
	if err := s.from(ctx).Order("lower(name)").Find(&rows).Error; err != nil {
		return nil, err
	}
	out := make([]SavedQuestion, len(rows))
	for i, r := range rows {
		out[i] = SavedQuestion{ID: r.ID, Name: r.Name, Version: r.Version, ChangedBy: r.ChangedBy}
		if err := json.Unmarshal(r.Definition, &out[i].Question); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// SaveQuestion keeps a question under a name; id 0 is a new one.
func (s *Store) SaveQuestion(ctx context.Context, q SavedQuestion, by string, now time.Time) (int64, error) {
	if err := machine.PlainText(q.Name); err != nil {
		return 0, refuse("name: %s", err)
	}
	if _, err := fleetquery.Ask(q.Question, nil, s.Vocabulary(), now); err != nil {
		return 0, refuse("%s", err)
	}
	text, err := json.Marshal(q.Question)
	if err != nil {
		return 0, err
	}
	row := questionRow{ID: q.ID, Name: q.Name, Definition: text, Version: q.Version + 1, ChangedBy: by, ChangedAt: now}
	err = s.tx(ctx, func(tx *gorm.DB) error {
		if err := tx.Exec("lock table questions in share row exclusive mode").Error; err != nil {
			return err
		}
		var same []questionRow
		if err := tx.Where("lower(name) = lower(?) or id = ?", q.Name, q.ID).Find(&same).Error; err != nil {
			return err
		}
		there := false
		for _, r := range same {
			switch {
			case r.ID != q.ID:
				return refuse("there is a question named %s already; choose another name", q.Name)
			case r.Version != q.Version:
				return &Conflict{
					Sentence: fmt.Sprintf(
						"%s changed this question meanwhile; nothing was overwritten. Save yours under another name",
						r.ChangedBy,
					),
				}
			}
			there = true
		}
		if q.ID != 0 && !there {
			return ErrNotFound
		}
		return tx.Save(&row).Error
	})
	return row.ID, err
}

// DeleteQuestion forgets a saved question.
func (s *Store) DeleteQuestion(ctx context.Context, id int64) error {
	done := s.from(ctx).Delete(&questionRow{}, id)
	if done.Error == nil && done.RowsAffected == 0 {
		return ErrNotFound
	}
	return done.Error
}
