package store

import (
	"context"
	"crypto/sha256"
	"time"
)

// Token is what a program signs in with, for the account that made it.
type Token struct {
	ID        int64      `json:"id"`
	AccountID int64      `json:"-"`
	Name      string     `json:"name"`
	Role      string     `json:"role" enum:"member,technician"`
	Hash      []byte     `json:"-"`
	CreatedAt time.Time  `json:"createdAt"`
	ExpiresAt time.Time  `json:"expiresAt"`
	UsedAt    *time.Time `json:"usedAt,omitempty"`
	RevokedAt *time.Time `json:"revokedAt,omitempty"`
}

// TableName is that of the table.
func (Token) TableName() string { return "api_tokens" }

// AddToken writes a token down by the hash of its secret.
func (s *Store) AddToken(ctx context.Context, t Token, secret string) (int64, error) {
	t.Hash = secretHash(secret)
	err := s.from(ctx).Create(&t).Error
	return t.ID, err
}

// Tokens are all of them, the newest first.
func (s *Store) Tokens(ctx context.Context) ([]Token, error) {
	out := []Token{}
	err := s.from(ctx).Order("id desc").Find(&out).Error
	return out, err
}

// TokenOf finds the token of a secret; ErrNotFound where there is none.
func (s *Store) TokenOf(ctx context.Context, secret string) (Token, error) {
	var t Token
	err := s.from(ctx).Where("hash = ?", secretHash(secret)).First(&t).Error
	return t, found(err)
}

// NoteTokenUse writes down when a token was used, once a minute at most.
func (s *Store) NoteTokenUse(ctx context.Context, id int64, at time.Time) error {
	return s.from(ctx).Model(&Token{}).Where("id = ? and (used_at is null or used_at < ?)", id, at.Add(-time.Minute)).
		Update("used_at", at).Error
}

// RevokeToken ends a token; ErrNotFound where there is none that could still be used.
func (s *Store) RevokeToken(ctx context.Context, id int64, at time.Time) error {
	return gone(s.from(ctx).Model(&Token{}).Where("id = ? and revoked_at is null", id).Update("revoked_at", at))
}

// secretHash is what is kept of a secret.
func secretHash(secret string) []byte {
	hash := sha256.Sum256([]byte(secret))
	return hash[:]
}
