package store

import (
	"context"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"wardifex/internal/core/shop"
)

// Roles, from least to most.
const (
	Member     = "member"
	Technician = "technician"
	Lead       = "lead"
)

// User is an account.
type User struct {
	ID           int64
	Name         string
	DisplayName  string
	Role         string
	PasswordHash string
	CreatedAt    time.Time
	Skills       []string     `gorm:"serializer:json"`
	Shifts       []shop.Hours `gorm:"serializer:json"` // when they work, every week
	DisabledAt   *time.Time   // when it was switched off; nil where it may sign in
	Version      int
}

// AddUser writes an account; ErrTaken when there is one of its name.
func (s *Store) AddUser(ctx context.Context, u User) (int64, error) {
	if u.Skills == nil {
		u.Skills = []string{}
	}
	if u.Shifts == nil {
		u.Shifts = []shop.Hours{}
	}
	written := s.from(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(&u)
	if written.Error == nil && written.RowsAffected == 0 {
		return 0, ErrTaken
	}
	return u.ID, written.Error
}

// User finds an account by its number.
func (s *Store) User(ctx context.Context, id int64) (User, error) {
	var u User
	err := s.from(ctx).First(&u, id).Error
	return u, found(err)
}

// UserNamed finds an account by the name that it signs in with.
func (s *Store) UserNamed(ctx context.Context, name string) (User, error) {
	var u User
	err := s.from(ctx).Where("name = ?", strings.ToLower(name)).First(&u).Error
	return u, found(err)
}

// Users are all accounts, by the name that they are shown under.
func (s *Store) Users(ctx context.Context) ([]User, error) {
	var users []User
	err := s.from(ctx).Order("lower(display_name), id").Find(&users).Error
	return users, err
}

// SaveUser writes an account over its version; ErrChanged when it is of another by now.
func (s *Store) SaveUser(ctx context.Context, u User) error {
	version := u.Version
	u.Version++
	written := s.from(ctx).Model(&User{}).Where("id = ? and version = ?", u.ID, version).
		Select("DisplayName", "Role", "Skills", "DisabledAt", "PasswordHash", "Version").Updates(&u)
	if written.Error == nil && written.RowsAffected == 0 {
		return ErrChanged
	}
	return written.Error
}

// LockUsers lets nobody else change an account until the transaction ends.
func (s *Store) LockUsers(ctx context.Context) error {
	return s.from(ctx).Exec("lock table users in share row exclusive mode").Error
}

// ForgetDevices lets an account be known on no device any more.
func (s *Store) ForgetDevices(ctx context.Context, account int64) error {
	return s.from(ctx).Exec("delete from devices where account_id = ?", account).Error
}

// FullBuckets are those in which as many tries have failed since a moment as may.
func (s *Store) FullBuckets(ctx context.Context, prefix string, most int, since time.Time) ([]string, error) {
	var names []string
	err := s.from(ctx).Raw(`select bucket from sign_in_tries where starts_with(bucket, ?) and at > ?
		group by bucket having count(*) >= ?`, prefix, since, most).Scan(&names).Error
	return names, err
}

// AccountNames are those under which people with an account are shown.
func (s *Store) AccountNames(ctx context.Context) ([]string, error) {
	names := []string{}
	err := s.from(ctx).Model(&User{}).Distinct("display_name").Order("display_name").Pluck("display_name", &names).Error
	return names, err
}

// HasUsers reports whether there is any account.
func (s *Store) HasUsers(ctx context.Context) (bool, error) {
	var n int64
	err := s.from(ctx).Model(&User{}).Limit(1).Count(&n).Error
	return n > 0, err
}

// Bucket is what tries to sign in are counted by, with how many may fail.
type Bucket struct {
	Name string
	Most int
}

// CountTry counts one more try in every bucket, or in none when one of them is full: then
// it gives since when that one has had as many as it may. Tries at the same time are
// counted one after the other.
func (s *Store) CountTry(
	ctx context.Context,
	buckets []Bucket,
	window time.Duration,
	now time.Time,
) (full *time.Time, err error) {
	err = s.tx(ctx, func(tx *gorm.DB) error {
		for _, b := range buckets { // in the caller's order, which is the same for all
			if err := tx.Exec("select pg_advisory_xact_lock(hashtextextended(?, 1))", b.Name).Error; err != nil {
				return err
			}
		}
		for _, b := range buckets {
			var at []time.Time
			err := tx.Raw("select at from sign_in_tries where bucket = ? and at > ? order by at desc offset ? limit 1",
				b.Name, now.Add(-window), b.Most-1).
				Scan(&at).
				Error
			if err != nil {
				return err
			}
			if len(at) > 0 {
				full = &at[0]
				return nil
			}
		}
		for _, b := range buckets {
			if err := tx.Exec("insert into sign_in_tries (bucket, at) values (?, ?)", b.Name, now).Error; err != nil {
				return err
			}
		}
		return nil
	})
	return full, err
}

// ForgetTries takes the tries of buckets back, after one that went well.
func (s *Store) ForgetTries(ctx context.Context, buckets []string) error {
	return s.from(ctx).Exec("delete from sign_in_tries where bucket in ?", buckets).Error
}

// KnowDevice notes that an account signed in from a device, by the hash of its token.
func (s *Store) KnowDevice(ctx context.Context, account int64, token Hash, now time.Time) error {
	return s.from(ctx).Exec(`insert into devices (account_id, token_hash, used_at) values (?, ?, ?)
		on conflict (token_hash) do update set account_id = excluded.account_id, used_at = excluded.used_at`, account,
		token[:], now).Error
}

// IsDeviceOf reports whether an account has signed in from a device before.
func (s *Store) IsDeviceOf(ctx context.Context, token Hash, name string) (bool, error) {
	var n int64
	err := s.from(ctx).
		Raw("select count(*) from devices d join users u on u.id = d.account_id where token_hash = ? and u.name = ?",
			token[:], strings.ToLower(name)).
		Scan(&n).
		Error
	return n > 0, err
}

// ForgetTry takes one try of a bucket back.
func (s *Store) ForgetTry(ctx context.Context, bucket string) error {
	return s.from(ctx).
		Exec("delete from sign_in_tries where id = (select max(id) from sign_in_tries where bucket = ?)", bucket).
		Error
}
