package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/printfile"
)

type printFileRow struct {
	ID        int64
	Name      string
	Bytes     int64
	Profile   []byte `gorm:"type:jsonb"`
	Answers   []byte `gorm:"type:jsonb"`
	AccountID *int64
	AddedBy   string
	AddedAt   time.Time
	EndedAt   *time.Time
}

func (printFileRow) TableName() string { return "print_files" }

// PrintFile is a sliced file as it was read.
type PrintFile struct {
	ID      int64              `json:"id"`
	Name    string             `json:"name"`
	Bytes   int64              `json:"bytes" doc:"As it was sent"`
	Profile *printfile.Profile `json:"-"`
	// Answers are those of each machine when the file was judged first, by its number.
	Answers   map[int64]printfile.Answer `json:"-"`
	AccountID int64                      `json:"-"`
	AddedBy   string                     `json:"addedBy"`
	AddedAt   time.Time                  `json:"addedAt"`
}

// AddPrintFile writes down what a file does, and gives its number; one of the same name that the
// same account sent ends.
func (s *Store) AddPrintFile(ctx context.Context, f PrintFile) (int64, error) {
	profile, err := json.Marshal(f.Profile)
	if err != nil {
		return 0, err
	}
	answers, err := json.Marshal(f.Answers)
	if err != nil {
		return 0, err
	}
	row := printFileRow{Name: f.Name, Bytes: f.Bytes, Profile: profile, Answers: answers, AddedBy: f.AddedBy,
		AddedAt: f.AddedAt}
	if f.AccountID != 0 {
		row.AccountID = &f.AccountID
	}
	tx := s.from(ctx)
	err = tx.Exec("update print_files set ended_at = ? where ended_at is null and name = ? and account_id is not "+
		"distinct from ?",
		f.AddedAt, f.Name, row.AccountID).Error
	if err == nil {
		err = tx.Create(&row).Error
	}
	return row.ID, err
}

// KnownPrintFiles lists the numbers of the files that are known, the newest first.
func (s *Store) KnownPrintFiles(ctx context.Context, c Cut) (Listed[int64], error) {
	out := Listed[int64]{Rows: []int64{}}
	known := s.from(ctx).Model(&printFileRow{}).Where("ended_at is null").Session(&gorm.Session{})
	var found int64
	if err := known.Count(&found).Error; err != nil {
		return out, err
	}
	out.Found = int(found)
	return out, known.Order("added_at desc, id desc").Offset(c.Offset).Limit(c.rows()).Pluck("id", &out.Rows).Error
}

// PrintFiles loads files of these numbers, whether they are known still or were taken off the list.
func (s *Store) PrintFiles(ctx context.Context, ids []int64) ([]PrintFile, error) {
	var rows []printFileRow
	err := s.from(ctx).Find(&rows, "id in ?", ids).Error
	out := make([]PrintFile, 0, len(rows))
	for _, r := range rows {
		f, err := r.file()
		if err != nil {
			return nil, err
		}
		out = append(out, f)
	}
	return out, err
}

// PrintFile loads one that is known.
func (s *Store) PrintFile(ctx context.Context, id int64) (PrintFile, error) {
	var row printFileRow
	if err := s.from(ctx).Where("ended_at is null").First(&row, id).Error; err != nil {
		return PrintFile{}, found(err)
	}
	return row.file()
}

func (r printFileRow) file() (PrintFile, error) {
	f := PrintFile{ID: r.ID, Name: r.Name, Bytes: r.Bytes, AddedBy: r.AddedBy, AddedAt: r.AddedAt}
	if r.AccountID != nil {
		f.AccountID = *r.AccountID
	}
	if err := json.Unmarshal(r.Answers, &f.Answers); err != nil {
		return f, fmt.Errorf("answers of file %d: %w", r.ID, err)
	}
	if err := json.Unmarshal(r.Profile, &f.Profile); err != nil {
		return f, fmt.Errorf("profile of file %d: %w", r.ID, err)
	}
	if f.Profile.Version > printfile.ProfileVersion {
		return f, fmt.Errorf("the profile of file %d is of a newer version of the program", r.ID)
	}
	return f, nil
}

// KeepPrintFile knows a file again that was forgotten, where its account has sent none of its name since; ErrNotFound
// where it was not forgotten, or another took its place.
func (s *Store) KeepPrintFile(ctx context.Context, id, account int64, staff bool) error {
	return gone(s.from(ctx).Exec(`update print_files f set ended_at = null where id = ? and ended_at is not null
		and (? or account_id = ?) and not exists (select 1 from print_files o where o.ended_at is null and o.name = f.name
			and o.account_id is not distinct from f.account_id)`, id, staff, account))
}

// EndPrintFile forgets a file; ErrNotFound where it is not known.
func (s *Store) EndPrintFile(ctx context.Context, id int64, now time.Time) error {
	return gone(s.from(ctx).Exec("update print_files set ended_at = ? where id = ? and ended_at is null", now, id))
}
