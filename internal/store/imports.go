package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"time"
)

// ImportFile is a file that is imported.
type ImportFile struct {
	Name string
	Data []byte
}

type importRow struct {
	ID         int64
	What       string
	File       string
	SHA256     string `gorm:"column:sha256"`
	Result     []byte `gorm:"type:jsonb"`
	ImportedBy string
	ImportedAt time.Time
}

func (importRow) TableName() string { return "imports" }

// LockImports lets nobody else import a file of machines until the transaction ends.
func (s *Store) LockImports(ctx context.Context) error {
	return s.from(ctx).Exec("select pg_advisory_xact_lock(hashtext('wardifex import'))").Error
}

// NoteImport records who imported which file.
func (s *Store) NoteImport(ctx context.Context, what string, f ImportFile, result map[string]int, by string,
	now time.Time) error {
	text, err := json.Marshal(result)
	if err != nil {
		return err
	}
	sum := sha256.Sum256(f.Data)
	return s.from(ctx).Create(
		&importRow{
			What:       what,
			File:       f.Name,
			SHA256:     hex.EncodeToString(sum[:]),
			Result:     text,
			ImportedBy: by,
			ImportedAt: now,
		},
	).Error
}

// Import is a file that somebody imported.
type Import struct {
	What   string         `json:"what"`
	File   string         `json:"file"`
	Result map[string]int `json:"result" doc:"How many of what came of it"`
	By     string         `json:"by"`
	At     time.Time      `json:"at"`
}

// Imports lists what was imported, newest first.
func (s *Store) Imports(ctx context.Context, c Cut) (Listed[Import], error) {
	var rows []importRow
	var out Listed[Import]
	if err := s.from(ctx).Order("id desc").Offset(c.Offset).Limit(c.rows()).Find(&rows).Error; err != nil {
		return out, err
	}
	out.Rows = make([]Import, len(rows))
	for i, r := range rows {
		out.Rows[i] = Import{What: r.What, File: r.File, By: r.ImportedBy, At: r.ImportedAt}
		if err := json.Unmarshal(r.Result, &out.Rows[i].Result); err != nil {
			return out, err
		}
	}
	return out, s.from(ctx).Raw("select count(*) from imports").Scan(&out.Found).Error
}
