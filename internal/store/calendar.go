package store

import (
	"context"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/schedule"
	"wardifex/internal/core/shop"
)

// stretch is a row of days, from the first to the last.
type stretch struct {
	ID        int64
	AccountID int64 `gorm:"default:null"`
	FirstDay  time.Time
	LastDay   time.Time
	Why       string
}

func dateAt(d civil.Day) time.Time { return d.Start(time.UTC) }

// Closures are those that end on a day or later, in their order.
func (s *Store) Closures(ctx context.Context, from civil.Day) ([]schedule.Closure, error) {
	var rows []stretch
	err := s.from(ctx).Table("closures").Select("id, first_day, last_day, why").Where("last_day >= ?", dateAt(from)).
		Order("first_day, id").Scan(&rows).Error
	out := make([]schedule.Closure, len(rows))
	for i, r := range rows {
		out[i] = schedule.Closure{ID: r.ID, From: civil.Of(r.FirstDay), To: civil.Of(r.LastDay), Why: r.Why}
	}
	return out, err
}

// AddClosure writes a closure down, and gives its number.
func (s *Store) AddClosure(ctx context.Context, c schedule.Closure) (id int64, err error) {
	err = s.from(ctx).Raw("insert into closures (first_day, last_day, why) values (?, ?, ?) returning id",
		dateAt(c.From), dateAt(c.To), c.Why).Scan(&id).Error
	return id, err
}

// DropClosure takes a closure away; ErrNotFound where there is none.
func (s *Store) DropClosure(ctx context.Context, id int64) error {
	return gone(s.from(ctx).Exec("delete from closures where id = ?", id))
}

// Leaves are everybody's that end on a day or later, by account.
func (s *Store) Leaves(ctx context.Context, from civil.Day) (map[int64][]schedule.Leave, error) {
	var rows []stretch
	err := s.from(ctx).Table("leaves").Where("last_day >= ?", dateAt(from)).Order("first_day, id").Scan(&rows).Error
	out := map[int64][]schedule.Leave{}
	for _, r := range rows {
		out[r.AccountID] = append(out[r.AccountID],
			schedule.Leave{ID: r.ID, From: civil.Of(r.FirstDay), To: civil.Of(r.LastDay), Why: r.Why})
	}
	return out, err
}

// AddLeave writes somebody's leave down, and gives its number.
func (s *Store) AddLeave(ctx context.Context, account int64, l schedule.Leave) (id int64, err error) {
	err = s.from(ctx).Raw("insert into leaves (account_id, first_day, last_day, why) values (?, ?, ?, ?) returning id",
		account, dateAt(l.From), dateAt(l.To), l.Why).Scan(&id).Error
	return id, err
}

// DropLeave takes a leave of an account away; ErrNotFound where it has none of this number.
func (s *Store) DropLeave(ctx context.Context, account, id int64) error {
	return gone(s.from(ctx).Exec("delete from leaves where id = ? and account_id = ?", id, account))
}

// SaveShifts writes when somebody works every week, over those of a version of the account.
func (s *Store) SaveShifts(ctx context.Context, account int64, shifts []shop.Hours, version int) error {
	written := s.from(ctx).Model(&User{}).Where("id = ? and version = ?", account, version).
		Select("shifts", "version").Updates(&User{Shifts: shifts, Version: version + 1})
	if written.Error == nil && written.RowsAffected == 0 {
		return ErrChanged
	}
	return written.Error
}

// gone is the error of a write that took something away, or would have.
func gone(done *gorm.DB) error {
	if done.Error == nil && done.RowsAffected == 0 {
		return ErrNotFound
	}
	return done.Error
}
