package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"time"
)

// Sessions keeps the sessions of the server in the database, their tokens hashed. Every
// call ends with its context, also when the database stands still.
type Sessions struct{ s *Store }

// Sessions is the place of the server's sessions.
func (s *Store) Sessions() Sessions { return Sessions{s} }

func hashed(token string) string {
	h := sha256.Sum256([]byte(token))
	return hex.EncodeToString(h[:])
}

// FindCtx gives a session's data by its token.
func (k Sessions) FindCtx(ctx context.Context, token string) ([]byte, bool, error) {
	var rows [][]byte
	err := k.s.db.WithContext(ctx).
		Raw("select data from sessions where token = ? and expiry > now()", hashed(token)).
		Scan(&rows).
		Error
	if err != nil || len(rows) == 0 {
		return nil, false, err
	}
	return rows[0], true, nil
}

// CommitCtx writes a session's data.
func (k Sessions) CommitCtx(ctx context.Context, token string, data []byte, expiry time.Time) error {
	return k.s.db.WithContext(ctx).Exec(`insert into sessions (token, data, expiry) values (?, ?, ?)
		on conflict (token) do update set data = excluded.data, expiry = excluded.expiry`, hashed(token), data, expiry).Error
}

// DeleteCtx ends a session.
func (k Sessions) DeleteCtx(ctx context.Context, token string) error {
	return k.s.db.WithContext(ctx).Exec("delete from sessions where token = ?", hashed(token)).Error
}

// Find is FindCtx without an end; the server's own calls have a context.
func (k Sessions) Find(token string) ([]byte, bool, error) {
	return k.FindCtx(context.Background(), token)
}

// Commit is CommitCtx without an end.
func (k Sessions) Commit(token string, data []byte, expiry time.Time) error {
	return k.CommitCtx(context.Background(), token, data, expiry)
}

// Delete is DeleteCtx without an end.
func (k Sessions) Delete(token string) error { return k.DeleteCtx(context.Background(), token) }
