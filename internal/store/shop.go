package store

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgtype"
	"gorm.io/gorm"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/shop"
)

// Shop is what is set for the shop as a whole.
type Shop struct {
	shop.Settings
	TimeZone string `json:"timeZone" doc:"In which days are kept, as in the tz database: Europe/Oslo, UTC"`
	Version  int    `json:"version"`
	// Before are the time zones that were in force earlier, with their ends.
	Before []PastZone `json:"before"`
}

// PastZone is a time zone that was in force until a moment.
type PastZone struct {
	TimeZone string    `json:"timeZone"`
	Until    time.Time `json:"until"`
}

type zoneRow struct {
	ID    int64
	Since *time.Time
	Zone  string
	SetBy string
	SetAt time.Time
}

func (zoneRow) TableName() string { return "shop_zones" }

func loadZones(tx *gorm.DB) ([]civil.Zone, error) {
	var rows []zoneRow
	if err := tx.Order("id").Find(&rows).Error; err != nil {
		return nil, err
	}
	out := make([]civil.Zone, len(rows))
	for i, r := range rows {
		out[i].Name = r.Zone
		if r.Since != nil {
			out[i].From = *r.Since
		}
	}
	return out, nil
}

type shopRow struct {
	ID        int
	Name      string
	Currency  string
	WeekStart shop.WeekStart
	Opening   []shop.Hours `gorm:"serializer:json"`
	Contact   string
	// DangerMinutes is after how long a danger is told again.
	DangerMinutes int
	Version       int
}

func (shopRow) TableName() string { return "shop" }

// Shop is what is set for the shop.
func (s *Store) Shop(ctx context.Context) (Shop, error) {
	var row shopRow
	tx := s.from(ctx)
	if err := tx.First(&row).Error; err != nil {
		return Shop{}, err
	}
	zones, err := loadZones(tx)
	out := Shop{
		Settings: shop.Settings{
			Name: row.Name, Currency: row.Currency, WeekStart: row.WeekStart, Opening: row.Opening, Contact: row.Contact,
			DangerMinutes: row.DangerMinutes,
		},
		TimeZone: "UTC",
		Version:  row.Version,
		Before:   []PastZone{},
	}
	for _, z := range zones {
		if !z.From.IsZero() {
			out.Before = append(out.Before, PastZone{TimeZone: out.TimeZone, Until: z.From})
		}
		out.TimeZone = z.Name
	}
	return out, err
}

// LockShop lets nobody else set anything for the shop until the transaction ends.
func (s *Store) LockShop(ctx context.Context) error {
	return s.from(ctx).Exec("select 1 from shop for update").Error
}

// SaveShop writes the shop's settings over those of a version; ErrChanged when they are of
// another by now.
func (s *Store) SaveShop(ctx context.Context, set shop.Settings, version int) error {
	row := shopRow{
		Name: set.Name, Currency: set.Currency, WeekStart: set.WeekStart, Opening: set.Opening, Contact: set.Contact,
		DangerMinutes: set.DangerMinutes,
		Version:       version + 1,
	}
	written := s.from(ctx).Model(&shopRow{}).Where("id = 1 and version = ?", version).Select("*").Omit("id").Updates(&row)
	if written.Error == nil && written.RowsAffected == 0 {
		return ErrChanged
	}
	return written.Error
}

// AddZone sets the time zone from a moment on; nil is from the beginning.
func (s *Store) AddZone(ctx context.Context, zone string, since *time.Time, by string, at time.Time) error {
	if err := s.from(ctx).Create(&zoneRow{Since: since, Zone: zone, SetBy: by, SetAt: at}).Error; err != nil {
		return err
	}
	return bumpCatalogue(s.from(ctx)) // every instance reads the settings with the catalogue
}

// HasMachines reports whether any machine is on record.
func (s *Store) HasMachines(ctx context.Context) (bool, error) {
	var n int64
	err := s.from(ctx).Model(&machineRow{}).Limit(1).Count(&n).Error
	return n > 0, err
}

// keepTime makes a connection read moments in the shop's time, so that their days are
// the shop's wherever they are shown.
func (s *Store) keepTime(_ context.Context, c *pgx.Conn) error {
	c.TypeMap().
		RegisterType(&pgtype.Type{Name: "timestamptz", OID: pgtype.TimestamptzOID, Codec: &shopTime{location: s.Location}})
	return nil
}

// shopTime reads moments in a time zone that may be set otherwise meanwhile.
type shopTime struct {
	pgtype.TimestamptzCodec
	location func() *time.Location
}

func (c *shopTime) PlanScan(m *pgtype.Map, oid uint32, format int16, target any) pgtype.ScanPlan {
	if plan := c.TimestamptzCodec.PlanScan(m, oid, format, target); plan != nil {
		return &scanShopTime{plan, c.location}
	}
	return nil
}

type scanShopTime struct {
	pgtype.ScanPlan
	location func() *time.Location
}

func (s *scanShopTime) Scan(src []byte, dst any) error {
	if scanner, ok := dst.(pgtype.TimestamptzScanner); ok {
		dst = &relocated{scanner, s.location()}
	}
	return s.ScanPlan.Scan(src, dst)
}

type relocated struct {
	pgtype.TimestamptzScanner
	location *time.Location
}

func (r *relocated) ScanTimestamptz(v pgtype.Timestamptz) error {
	if v.Valid && v.InfinityModifier == pgtype.Finite {
		v.Time = v.Time.In(r.location)
	}
	return r.TimestamptzScanner.ScanTimestamptz(v)
}
