package store

import (
	"context"
	"encoding/json"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

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

	ConfigVersion string
	APIVersion    string `gorm:"column:api_version"`
	PageVersion   string
	AddOns        string
	Sha256        string `gorm:"column:sha256"`
	Processor     string
	StartOffset   *float64
	BuiltBy       string
	BuiltOn       string

	AdvertisedVersion    string
	AdvertisedBootloader string
	AdvertisedBy         string
	FoundBootloader      string

	Version   int
	ChangedBy string
	ChangedAt time.Time
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
		ConfigVersion: r.ConfigVersion,
		APIVersion:    r.APIVersion,
		PageVersion:   r.PageVersion,
		AddOns:        r.AddOns,
		SHA256:        r.Sha256,
		Processor:     r.Processor,
		Offset:        r.StartOffset,
		BuiltBy:       r.BuiltBy,
		BuiltOn:       r.BuiltOn,
	}
	sold := firmware.Advertised{Version: r.AdvertisedVersion, Bootloader: r.AdvertisedBootloader, Supplier: r.AdvertisedBy,
		Found: r.FoundBootloader}
	if sold != (firmware.Advertised{}) {
		b.Advertised = &sold
	}
	if r.KiB != nil {
		b.KiB = *r.KiB
	}
	if err := json.Unmarshal(r.Features, &b.Features); err != nil {
		return b, err
	}
	return b, json.Unmarshal(r.Configured, &b.ConfiguredFor)
}

// rowOf is the build as it is kept.
func rowOf(b firmware.Build, by string, now time.Time) (buildRow, error) {
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

		ConfigVersion: b.ConfigVersion,
		APIVersion:    b.APIVersion,
		PageVersion:   b.PageVersion,
		AddOns:        b.AddOns,
		Sha256:        b.SHA256,
		Processor:     b.Processor,
		StartOffset:   b.Offset,
		BuiltBy:       b.BuiltBy,
		BuiltOn:       b.BuiltOn,
	}
	if sold := b.Advertised; sold != nil {
		r.AdvertisedVersion, r.AdvertisedBootloader = sold.Version, sold.Bootloader
		r.AdvertisedBy, r.FoundBootloader = sold.Supplier, sold.Found
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

// Build loads a build.
func (s *Store) Build(ctx context.Context, id int64) (BuildOnRecord, error) {
	all, err := s.builds(ctx, func(q *gorm.DB) *gorm.DB { return q.Where("b.id = ?", id) })
	if err == nil && len(all) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return BuildOnRecord{}, err
	}
	return all[0], nil
}

// PlainBuilds are builds without where they run.
func PlainBuilds(of []BuildOnRecord) []firmware.Build {
	out := make([]firmware.Build, len(of))
	for i, b := range of {
		out[i] = b.Build
	}
	return out
}

// Builds lists the builds by name.
func (s *Store) Builds(ctx context.Context) ([]BuildOnRecord, error) {
	return s.builds(ctx, func(q *gorm.DB) *gorm.DB { return q })
}

func (s *Store) builds(ctx context.Context, only func(*gorm.DB) *gorm.DB) ([]BuildOnRecord, error) {
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
	if err := q.Scopes(only).Scan(&rows).Error; err != nil {
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
	return out, nil
}

// LockBuild takes a build for the transaction, and loads it.
func (s *Store) LockBuild(ctx context.Context, id int64) (BuildOnRecord, error) {
	var row buildRow
	if err := s.from(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).First(&row, id).Error; err != nil {
		return BuildOnRecord{}, found(err)
	}
	return s.Build(ctx, id)
}

// AddBuild writes a build; ErrTaken where another has its name.
func (s *Store) AddBuild(ctx context.Context, b firmware.Build, by string, at time.Time) (int64, error) {
	row, err := rowOf(b, by, at)
	if err != nil {
		return 0, err
	}
	err = s.from(ctx).Create(&row).Error
	return row.ID, taken(err)
}

// WriteBuild writes a build over the one of its number as a version; ErrTaken where another
// has its name.
func (s *Store) WriteBuild(ctx context.Context, id int64, version int, b firmware.Build, by string,
	at time.Time) error {
	row, err := rowOf(b, by, at)
	if err != nil {
		return err
	}
	row.ID, row.Version = id, version
	return taken(s.from(ctx).Save(&row).Error)
}

// HasBuildNamed reports whether a build of a name is on record, however it is written.
func (s *Store) HasBuildNamed(ctx context.Context, name string) (bool, error) {
	var n int64
	err := s.from(ctx).Model(&buildRow{}).Where("lower(name) = lower(?)", name).Count(&n).Error
	return n > 0, err
}

// RemoveBuild takes a build off the record.
func (s *Store) RemoveBuild(ctx context.Context, id int64) error {
	return s.from(ctx).Delete(&buildRow{}, id).Error
}

// SetBuildHash writes down the checksum of a build's file.
func (s *Store) SetBuildHash(ctx context.Context, id int64, hash string) error {
	return s.from(ctx).Exec("update builds set sha256 = ? where id = ? and sha256 <> ?", hash, id, hash).Error
}
