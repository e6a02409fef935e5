package store

import (
	"context"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
)

type faultRow struct {
	ID         int64
	MachineID  int64
	Symptom    string
	Words      string
	ReportedBy string
	ReportedAt time.Time
	ClosedAt   *time.Time
	ClosedBy   string
	Answer     string
	Version    int
}

func (faultRow) TableName() string { return "faults" }

type useRow struct {
	ID        int64
	MachineID int64
	Use       string
	Why       string
	At        time.Time
	By        string
}

func (useRow) TableName() string { return "machine_uses" }

// ReportedFault is a fault as somebody reported it.
type ReportedFault struct {
	ID        int64      `json:"id"`
	MachineID int64      `json:"machineId"`
	Machine   string     `json:"machine,omitempty"`
	Symptom   string     `json:"symptom" doc:"Key of a symptom, or empty"`
	Words     string     `json:"words"`
	By        string     `json:"by"`
	At        time.Time  `json:"at"`
	ClosedAt  *time.Time `json:"closedAt,omitempty"`
	ClosedBy  string     `json:"closedBy,omitempty"`
	Answer    string     `json:"answer,omitempty" doc:"What it was and what was done"`
	Version   int        `json:"version"`
	Photos    []int64    `json:"photos"`
}

// UseSince is what a machine may be used for, since when and why.
type UseSince struct {
	Use maintenance.Use `json:"use" enum:"in use,attended only,out of use"`
	Why string          `json:"why,omitempty"`
	At  *time.Time      `json:"at,omitempty" doc:"Empty when it was never said otherwise"`
	By  string          `json:"by,omitempty"`
}

const maxWords = 2000

// ReportFault records a fault on a machine. Anybody signed in may.
func (s *Store) ReportFault(
	ctx context.Context,
	machineID int64,
	symptom, words, by string,
	now time.Time,
) (int64, error) {
	words = strings.TrimSpace(words)
	if words == "" || len([]rune(words)) > maxWords {
		return 0, refuse("say what is wrong, in at most %d characters", maxWords)
	}
	if _, ok := maintenance.SymptomOf(symptom); symptom != "" && !ok {
		return 0, refuse("there is no symptom %q", symptom)
	}
	row := faultRow{MachineID: machineID, Symptom: symptom, Words: words, ReportedBy: by, ReportedAt: now, Version: 1}
	err := s.tx(ctx, func(tx *gorm.DB) error {
		if _, err := lockMachine(tx, machineID); err != nil {
			return err
		}
		return tx.Create(&row).Error
	})
	return row.ID, err
}

// CloseFault says what a fault was and what was done; an empty answer opens it
// again.
func (s *Store) CloseFault(ctx context.Context, id int64, version int, answer, by string, now time.Time) error {
	answer = strings.TrimSpace(answer)
	if len([]rune(answer)) > maxWords {
		return refuse("say it in at most %d characters", maxWords)
	}
	return s.tx(ctx, func(tx *gorm.DB) error {
		var row faultRow
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).First(&row, id).Error; err != nil {
			return found(err)
		}
		if row.Version != version {
			return &Conflict{Sentence: "somebody else answered this fault meanwhile; nothing was overwritten. Look again"}
		}
		set := map[string]any{"version": version + 1, "answer": answer, "closed_by": by, "closed_at": now}
		if answer == "" {
			set["closed_by"], set["closed_at"] = "", nil
		}
		return tx.Model(&row).Updates(set).Error
	})
}

// Faults lists faults, open ones first, then the newest; of one machine when
// its number is given.
func (s *Store) Faults(ctx context.Context, machineID int64) ([]ReportedFault, error) {
	tx := s.from(ctx)
	var rows []struct {
		Fault   faultRow `gorm:"embedded"`
		Machine string
	}
	q := tx.Table("faults").
		Select("faults.*, machines.name as machine").
		Joins("join machines on machines.id = faults.machine_id")
	if machineID != 0 {
		q = q.Where("machine_id = ?", machineID)
	}
	if err := q.Order("closed_at is null desc, coalesce(closed_at, reported_at) desc, faults.id desc").Limit(
		500).Scan(&rows).Error; err != nil {
		return nil, err
	}
	ids := make([]int64, len(rows))
	for i, r := range rows {
		ids[i] = r.Fault.ID
	}
	photos, err := photoIDs(tx, "fault_id", ids)
	out := make([]ReportedFault, len(rows))
	for i, r := range rows {
		f := r.Fault
		out[i] = ReportedFault{
			ID:        f.ID,
			MachineID: f.MachineID,
			Machine:   r.Machine,
			Symptom:   f.Symptom,
			Words:     f.Words,
			By:        f.ReportedBy,
			At:        f.ReportedAt,
			ClosedAt:  f.ClosedAt,
			ClosedBy:  f.ClosedBy,
			Answer:    f.Answer,
			Version:   f.Version,
			Photos:    photos[f.ID],
		}
		if out[i].Photos == nil {
			out[i].Photos = []int64{}
		}
	}
	return out, err
}

// SetUse says what a machine may be used for from now on, and why.
func (s *Store) SetUse(ctx context.Context, machineID int64, use maintenance.Use, why, by string, now time.Time) error {
	if !slices.Contains(maintenance.Uses(), use) {
		return refuse("%q is none of %v", use, maintenance.Uses())
	}
	if err := machine.PlainText(why); err != nil {
		return refuse("say why: %s", err)
	}
	return s.tx(ctx, func(tx *gorm.DB) error {
		if _, err := lockMachine(tx, machineID); err != nil {
			return err
		}
		return tx.Create(&useRow{MachineID: machineID, Use: string(use), Why: why, At: now, By: by}).Error
	})
}

// loadUses gives each machine what it may be used for, and its open faults.
func loadUses(tx *gorm.DB, at map[int64]*Machine) error {
	for _, m := range at {
		m.Use = UseSince{Use: maintenance.InUse}
	}
	var rows []useRow
	if err := tx.Session(&gorm.Session{}).Order("at, id").Find(&rows).Error; err != nil {
		return err
	}
	for _, r := range rows {
		if m := at[r.MachineID]; m != nil {
			when := r.At
			m.Use = UseSince{Use: maintenance.Use(r.Use), Why: r.Why, At: &when, By: r.By}
		}
	}
	var counts []struct {
		MachineID int64
		N         int
	}
	if err := tx.Session(&gorm.Session{}).Table("faults").Select("machine_id, count(*) as n").Where(
		"closed_at is null").Group("machine_id").Scan(&counts).Error; err != nil {
		return err
	}
	for _, c := range counts {
		if m := at[c.MachineID]; m != nil {
			m.OpenFaults = c.N
		}
	}
	return nil
}
