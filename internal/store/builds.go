package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/machine"
)

type buildRow struct {
	ID           int64
	Name         string
	Family       string
	BuildVersion string
	HostVersion  string
	Label        string
	File         string
	KiB          *float64 `gorm:"column:kib"`
	Features     []byte   `gorm:"type:jsonb"`
	Configured   []byte   `gorm:"type:jsonb"`
	Note         string
	Version      int
	ChangedBy    string
	ChangedAt    time.Time
}

func (buildRow) TableName() string { return "builds" }

func (r buildRow) build() (firmware.Build, error) {
	b := firmware.Build{
		Name:          r.Name,
		Family:        r.Family,
		Version:       r.BuildVersion,
		HostVersion:   r.HostVersion,
		Label:         r.Label,
		File:          r.File,
		Note:          r.Note,
		Features:      map[string]string{},
		ConfiguredFor: map[machine.Key]string{},
	}
	if r.KiB != nil {
		b.KiB = *r.KiB
	}
	if err := json.Unmarshal(r.Features, &b.Features); err != nil {
		return b, err
	}
	return b, json.Unmarshal(r.Configured, &b.ConfiguredFor)
}

// row is the build as it is kept.
func (s *Store) buildRow(b firmware.Build, by string, now time.Time) (buildRow, error) {
	if err := b.Check(s.Vocabulary()); err != nil {
		return buildRow{}, refuse("%s", err)
	}
	r := buildRow{
		Name:         b.Name,
		Family:       b.Family,
		BuildVersion: b.Version,
		HostVersion:  b.HostVersion,
		Label:        b.Label,
		File:         b.File,
		Note:         b.Note,
		Version:      1,
		ChangedBy:    by,
		ChangedAt:    now,
	}
	if b.KiB > 0 {
		r.KiB = &b.KiB
	}
	if b.Features == nil {
		b.Features = map[string]string{}
	}
	if b.ConfiguredFor == nil {
		b.ConfiguredFor = map[machine.Key]string{}
	}
	var err error
	if r.Features, err = json.Marshal(b.Features); err != nil {
		return r, err
	}
	r.Configured, err = json.Marshal(b.ConfiguredFor)
	return r, err
}

// BuildOnRecord is a build with where it runs.
type BuildOnRecord struct {
	ID int64 `json:"id"`
	firmware.Build
	Revision  int       `json:"version" doc:"How often it was written"`
	ChangedBy string    `json:"changedBy"`
	ChangedAt time.Time `json:"changedAt"`
	Running   int       `json:"running" doc:"On how many boards it runs now"`
	Ran       int       `json:"ran" doc:"On how many it runs or ran"`
}

// Builds lists the builds by name; with an id only that one.
func (s *Store) Builds(ctx context.Context, id int64) ([]BuildOnRecord, error) {
	var rows []struct {
		Build        buildRow `gorm:"embedded"`
		Running, Ran int
	}
	q := s.from(ctx).
		Table("builds b").
		Select("b.*, count(f.id) as ran, count(f.id) filter (where f.removed_at is null) as running").
		Joins("left join build_runs u on u.build_id = b.id").
		Joins("left join fittings f on f.id = u.fitting_id").
		Group("b.id").
		Order("lower(b.name)")
	if id != 0 {
		q = q.Where("b.id = ?", id)
	}
	if err := q.Scan(&rows).Error; err != nil {
		return nil, err
	}
	out := make([]BuildOnRecord, len(rows))
	for i, r := range rows {
		b, err := r.Build.build()
		if err != nil {
			return nil, err
		}
		out[i] = BuildOnRecord{
			ID:        r.Build.ID,
			Build:     b,
			Revision:  r.Build.Version,
			ChangedBy: r.Build.ChangedBy,
			ChangedAt: r.Build.ChangedAt,
			Running:   r.Running,
			Ran:       r.Ran,
		}
	}
	if id != 0 && len(out) == 0 {
		return nil, ErrNotFound
	}
	return out, nil
}

func buildNameFree(tx *gorm.DB, name string, except int64) error {
	if err := tx.Exec("select pg_advisory_xact_lock(hashtext('build names'))").Error; err != nil {
		return err
	}
	var n int64
	if err := tx.Model(&buildRow{}).Where("lower(name) = lower(?) and id <> ?", name, except).Count(&n).Error; err != nil {
		return err
	}
	if n > 0 {
		return refuse("there is a build named %s already; names tell builds apart", name)
	}
	return nil
}

// AddBuild records a build.
func (s *Store) AddBuild(ctx context.Context, b firmware.Build, by string, now time.Time) (int64, error) {
	row, err := s.buildRow(b, by, now)
	if err != nil {
		return 0, err
	}
	err = s.tx(ctx, func(tx *gorm.DB) error {
		if err := buildNameFree(tx, b.Name, 0); err != nil {
			return err
		}
		return tx.Create(&row).Error
	})
	return row.ID, err
}

// SaveBuild writes a build over the version that the editor saw. What is recorded of the
// boards that run it follows; the machines are as they were.
func (s *Store) SaveBuild(
	ctx context.Context,
	id int64,
	version int,
	b firmware.Build,
	by string,
	now time.Time,
) error {
	set, err := s.buildRow(b, by, now)
	if err != nil {
		return err
	}
	return s.tx(ctx, func(tx *gorm.DB) error {
		var old buildRow
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).First(&old, id).Error; err != nil {
			return found(err)
		}
		if old.Version != version {
			return &Conflict{
				Sentence: fmt.Sprintf(
					"%s changed this build on %s while you were editing; nothing of yours was overwritten or lost",
					old.ChangedBy,
					old.ChangedAt.Format(civil.Moment),
				),
				Current: old.Name,
			}
		}
		if err := buildNameFree(tx, b.Name, id); err != nil {
			return err
		}
		set.ID, set.Version = id, version+1
		if err := tx.Save(&set).Error; err != nil {
			return err
		}
		var runs []fittingRow
		if err := tx.Where("id in (select fitting_id from build_runs where build_id = ?) and removed_at is null",
			id).Order("machine_id, id").Find(&runs).Error; err != nil {
			return err
		}
		for _, r := range runs {
			if _, err := lockMachine(tx, r.MachineID); err != nil {
				return err
			}
			var grade int16
			if err := tx.Raw("select coalesce(max(grade), 1) from readings where fitting_id = ? and how = ? and "+
				"set_aside_why = ''", r.ID, asBuild(old.Name)).Scan(&grade).Error; err != nil {
				return err
			}
			if err := asideAsBuild(tx, r.ID, old.Name, "the record of the build was corrected", by, now); err != nil {
				return err
			}
			if err := readAsBuild(tx, r.ID, b.Name, b.Traits(), machine.Grade(grade), now, by); err != nil {
				return err
			}
			if err := structureChanged(tx, r.MachineID); err != nil {
				return err
			}
		}
		return nil
	})
}

// DeleteBuild takes a build off the record that never ran anywhere.
func (s *Store) DeleteBuild(ctx context.Context, id int64) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		var n int64
		if err := tx.Model(&runRow{}).Where("build_id = ?", id).Count(&n).Error; err != nil {
			return err
		}
		if n > 0 {
			return refuse("it ran on %d boards: what ran where stays on record", n)
		}
		gone := tx.Delete(&buildRow{}, id)
		if gone.Error == nil && gone.RowsAffected == 0 {
			return ErrNotFound
		}
		return gone.Error
	})
}
