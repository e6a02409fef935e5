package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"slices"
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

// OwnedSession is a session of an account, as it is shown to its owner.
type OwnedSession struct {
	Token   string // hashed
	BeganAt *time.Time
	Expiry  time.Time
	Address string
	Agent   string
}

// Own notes whose a session is and where it began.
func (k Sessions) Own(ctx context.Context, token string, account int64, address, agent string, now time.Time) error {
	return k.s.from(ctx).Exec("update sessions set account_id = ?, address = ?, agent = ?, began_at = ? where token = ?",
		account, address, agent, now, hashed(token)).Error
}

// Of are the sessions of an account, the newest first, and which of them has a token.
func (k Sessions) Of(ctx context.Context, account int64, token string) (all []OwnedSession, mine int, err error) {
	err = k.s.from(ctx).Raw(`select token, began_at, expiry, address, agent from sessions
		where account_id = ? and expiry > now() order by began_at desc nulls last, token`, account).Scan(&all).Error
	return all, slices.IndexFunc(all, func(o OwnedSession) bool { return o.Token == hashed(token) }), err
}

// Counts are how many sessions each account has.
func (k Sessions) Counts(ctx context.Context) (map[int64]int, error) {
	var rows []struct {
		AccountID int64
		N         int
	}
	err := k.s.from(ctx).Raw(`select account_id, count(*) as n from sessions
		where account_id is not null and expiry > now() group by 1`).Scan(&rows).Error
	counts := map[int64]int{}
	for _, r := range rows {
		counts[r.AccountID] = r.N
	}
	return counts, err
}

// EndAll ends the sessions of an account, but that with the token kept; all where it is empty.
func (k Sessions) EndAll(ctx context.Context, account int64, kept string) error {
	return k.s.from(ctx).Exec("delete from sessions where account_id = ? and token <> ?", account, hashed(kept)).Error
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
