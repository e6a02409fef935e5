package store

import (
	"context"
	"encoding/json"
	"time"

	"gorm.io/gorm/clause"

	"wardifex/internal/core/fleetquery"
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

// WriteWireSheet writes a sheet over the one of its head.
func (s *Store) WriteWireSheet(ctx context.Context, machineID int64, w WireSheet) error {
	text, err := json.Marshal(w.Sheet)
	if err != nil {
		return err
	}
	row := wireRow{MachineID: machineID, Head: w.Head, Definition: text, Version: w.Version, ChangedBy: w.ChangedBy,
		ChangedAt: w.ChangedAt}
	return s.from(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error
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

// LockQuestions lets nobody else write questions until the transaction ends.
func (s *Store) LockQuestions(ctx context.Context) error {
	return s.from(ctx).Exec("lock table questions in share row exclusive mode").Error
}

// WriteQuestion writes a question over the one of its number; 0 is a new one. It gives the
// number; ErrTaken where another has its name.
func (s *Store) WriteQuestion(ctx context.Context, q SavedQuestion, at time.Time) (int64, error) {
	text, err := json.Marshal(q.Question)
	if err != nil {
		return 0, err
	}
	row := questionRow{ID: q.ID, Name: q.Name, Definition: text, Version: q.Version, ChangedBy: q.ChangedBy,
		ChangedAt: at}
	err = s.from(ctx).Save(&row).Error
	return row.ID, taken(err)
}

// RemoveQuestion forgets a saved question; ErrNotFound where there is none.
func (s *Store) RemoveQuestion(ctx context.Context, id int64) error {
	done := s.from(ctx).Delete(&questionRow{}, id)
	if done.Error == nil && done.RowsAffected == 0 {
		return ErrNotFound
	}
	return done.Error
}
