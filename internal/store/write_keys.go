package store

import (
	"bytes"
	"context"
	"errors"
)

// ErrOtherBody is a key of a write that was used for another one.
var ErrOtherBody = errors.New("this key was sent before with something else in it; send a new key with what is new")

// ClaimKey takes a key for a write of an account, in the write's own transaction. Where
// the same was written before, it gives what was answered then; a write under the same
// key that is in hand is waited for.
func (s *Store) ClaimKey(
	ctx context.Context,
	account int64,
	key string,
	fingerprint []byte,
) (answer []byte, before bool, err error) {
	tx := s.from(ctx)
	claimed := tx.Exec(
		"insert into write_keys (account_id, key, fingerprint) values (?, ?, ?) on conflict do nothing",
		account,
		key,
		fingerprint,
	)
	if claimed.Error != nil || claimed.RowsAffected == 1 {
		return nil, false, claimed.Error
	}
	var row struct{ Fingerprint, Answer []byte }
	if err := tx.Raw("select fingerprint, answer from write_keys where account_id = ? and key = ?", account,
		key).Scan(&row).Error; err != nil {
		return nil, false, err
	}
	if !bytes.Equal(row.Fingerprint, fingerprint) {
		return nil, false, ErrOtherBody
	}
	return row.Answer, true, nil
}

// KeepAnswer keeps what a write answers, for when it is sent again.
func (s *Store) KeepAnswer(ctx context.Context, account int64, key string, answer []byte) error {
	return s.from(ctx).
		Exec("update write_keys set answer = ? where account_id = ? and key = ?", answer, account, key).
		Error
}
