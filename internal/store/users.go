package store

import (
	"context"
	"errors"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"
	"gorm.io/gorm"

	"wardifex/internal/core/machine"
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
}

// leastPassword is the shortest password. Source: from memory (NIST SP
// 800-63B asks for eight at least).
const leastPassword = 10

// AddUser makes an account. There is no default password.
func (s *Store) AddUser(ctx context.Context, name, display, role, password string, now time.Time) error {
	name = strings.ToLower(strings.TrimSpace(name))
	switch {
	case machine.PlainText(name) != nil || strings.ContainsAny(name, " \t"):
		return refuse("%q cannot be an account's name; use letters and digits without blanks", name)
	case role != Member && role != Technician && role != Lead:
		return refuse("%q is not a role; it is one of member, technician, lead", role)
	case len([]rune(password)) < leastPassword:
		return refuse("the password has %d characters; at least %d are needed", len([]rune(password)), leastPassword)
	}
	if display == "" {
		display = name
	}
	hash, err := argon2id.CreateHash(password, argon2id.DefaultParams)
	if err != nil {
		return err
	}
	return s.tx(ctx, func(tx *gorm.DB) error {
		var n int64
		if err := tx.Model(&User{}).Where("name = ?", name).Count(&n).Error; err != nil {
			return err
		}
		if n > 0 {
			return refuse("there is an account named %s already", name)
		}
		return tx.Create(&User{Name: name, DisplayName: display, Role: role, PasswordHash: hash, CreatedAt: now}).Error
	})
}

// User finds an account by its number.
func (s *Store) User(ctx context.Context, id int64) (User, error) {
	var u User
	err := s.db.WithContext(ctx).First(&u, id).Error
	return u, found(err)
}

// AccountNames are those under which people with an account are shown.
func (s *Store) AccountNames(ctx context.Context) ([]string, error) {
	names := []string{}
	err := s.db.WithContext(ctx).Model(&User{}).Order("display_name").Pluck("display_name", &names).Error
	return names, err
}

// HasUsers reports whether there is any account.
func (s *Store) HasUsers(ctx context.Context) (bool, error) {
	var n int64
	err := s.db.WithContext(ctx).Model(&User{}).Limit(1).Count(&n).Error
	return n > 0, err
}

// Limits on failed sign-ins.
const (
	attemptWindow  = 15 * time.Minute
	triesByName    = 5
	triesByAddress = 30
)

// ErrBadLogin is a wrong name or password.
var ErrBadLogin = errors.New("name or password is wrong")

// ErrTooManyTries is a sign-in refused for too many failures.
var ErrTooManyTries = errors.New("too many failed sign-ins; wait a quarter of an hour and try again")

// absent is hashed against when there is no such account, so that the answer
// takes as long.
var absent, _ = argon2id.CreateHash("nobody has this", argon2id.DefaultParams)

// hashing bounds how many passwords are checked at once: each takes 64 MiB.
var hashing = make(chan struct{}, 4)

// SignIn checks a name and password; failures are counted by name and address.
func (s *Store) SignIn(ctx context.Context, name, password, address string, now time.Time) (User, error) {
	name = strings.ToLower(strings.TrimSpace(name))
	db := s.db.WithContext(ctx)
	since := now.Add(-attemptWindow)
	var byName, byAddress int64
	if err := db.Table("failed_logins").Where("name = ? and at > ?", name, since).Count(&byName).Error; err != nil {
		return User{}, err
	}
	if err := db.Table("failed_logins").Where("address = ? and at > ?", address, since).Count(&byAddress).Error; err != nil {
		return User{}, err
	}
	if byName >= triesByName || byAddress >= triesByAddress {
		return User{}, ErrTooManyTries
	}
	var u User
	err := db.Where("name = ?", name).First(&u).Error
	if err != nil && !errors.Is(err, gorm.ErrRecordNotFound) {
		return User{}, err
	}
	hash := u.PasswordHash
	if err != nil {
		hash = absent
	}
	hashing <- struct{}{}
	ok, hashErr := argon2id.ComparePasswordAndHash(password, hash)
	<-hashing
	if hashErr != nil {
		return User{}, hashErr
	}
	if err == nil && ok {
		return u, db.Exec("delete from failed_logins where name = ? or at < ?", name, since).Error
	}
	if err := db.Exec("insert into failed_logins (name, address, at) values (?, ?, ?)", name, address, now).Error; err != nil {
		return User{}, err
	}
	return User{}, ErrBadLogin
}
