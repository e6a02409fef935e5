package store

import (
	"context"
	"time"

	"gorm.io/gorm/clause"

	"wardifex/internal/core/change"
)

type lockRow struct {
	ID          int64
	WorkOrderID int64
	AccountID   *int64
	Name        string
	PutOn       time.Time
	TakenOff    *time.Time
	TakenOffBy  string
	Why         string
}

func (lockRow) TableName() string { return "work_locks" }

// PutLock puts somebody's lock on an order's machine; nothing where it is on already.
func (s *Store) PutLock(ctx context.Context, order int64, by change.Person, at time.Time) error {
	row := lockRow{WorkOrderID: order, AccountID: orNil(by.Account), Name: by.Name, PutOn: at}
	return s.from(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(&row).Error
}

// TakeLockOff takes a lock off.
func (s *Store) TakeLockOff(ctx context.Context, lock int64, by, why string, at time.Time) error {
	return s.from(ctx).Model(&lockRow{}).Where("id = ? and taken_off is null", lock).
		Updates(map[string]any{"taken_off": at, "taken_off_by": by, "why": why}).Error
}

// Locks lists those of an order, those that are on first.
func (s *Store) Locks(ctx context.Context, order int64) ([]change.Lock, error) {
	var rows []lockRow
	err := s.from(ctx).Where("work_order_id = ?", order).Order("taken_off is not null, put_on, id").Find(&rows).Error
	out := make([]change.Lock, len(rows))
	for i, r := range rows {
		out[i] = change.Lock{ID: r.ID, Account: orZero(r.AccountID), Name: r.Name, PutOn: r.PutOn, Off: r.TakenOff,
			OffBy: r.TakenOffBy, Why: r.Why}
	}
	return out, err
}

// Park notes that an order is left for a while; nil that it goes on.
func (s *Store) Park(ctx context.Context, order int64, p *change.Parked, by string, at time.Time) error {
	set := map[string]any{"parked_at": nil, "parked_by": "", "parked_why": "", "parked_loose": "", "parked_screws": "",
		"parked_waits": ""}
	if p != nil {
		set = map[string]any{"parked_at": at, "parked_by": by, "parked_why": p.Why, "parked_loose": p.Loose,
			"parked_screws": p.Screws, "parked_waits": p.Waits}
	}
	return s.from(ctx).Model(&orderRow{}).Where("id = ?", order).Updates(set).Error
}
