package store

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"sync/atomic"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
	"gorm.io/gorm"
)

// Actor is who writes, and as part of what: it goes on record with every change.
type Actor struct {
	Account int64  // 0 where no account does it
	Name    string // as shown, or "the command line", "the application"
	Action  string // the operation, such as "move-part"
	At      time.Time
}

type actorKey struct{}

// WithActor says who writes with this context.
func WithActor(ctx context.Context, a Actor) context.Context {
	return context.WithValue(ctx, actorKey{}, a)
}

func actorOf(ctx context.Context) Actor {
	a, ok := ctx.Value(actorKey{}).(Actor)
	if !ok {
		return Actor{Name: "the application"}
	}
	return a
}

// AccountOf is the account that writes with this context; 0 where none does.
func AccountOf(ctx context.Context) int64 { return actorOf(ctx).Account }

type txKey struct{}

// transaction is one that is open, with the store that it is of.
type transaction struct {
	store *Store
	db    *gorm.DB
	// own is the catalogue as the transaction itself has read or written it; nil while it works with its context's.
	own *atomic.Pointer[current]
}

// ErrUnknownCommit is a write of which it cannot be told whether it was kept: the
// database broke off while it was being committed.
var ErrUnknownCommit = errors.New(
	"the database broke off while this was being saved, so it is not known whether it was",
)

const mostTries = 8

// InTx does all that do does in one transaction: every method of the store that is given
// the context takes part in it. What met another writer in a deadlock is done again from
// the start, so do begins anew at each call. Inside another transaction it is part of
// that one.
func (s *Store) InTx(ctx context.Context, do func(ctx context.Context) error) error {
	if s.inTx(ctx) != nil {
		return do(ctx)
	}
	for try := 1; ; try++ {
		err := s.once(ctx, do)
		if !isContended(err) && !errors.Is(err, ErrOutdated) || try == mostTries {
			return err
		}
		pause := time.NewTimer(time.Duration(rand.IntN(20*try)+1) * time.Millisecond)
		select {
		case <-pause.C:
		case <-ctx.Done():
			pause.Stop()
			return ctx.Err()
		}
	}
}

// tx is InTx for what cannot be begun anew.
func (s *Store) tx(ctx context.Context, do func(tx *gorm.DB) error) error {
	if tx := s.inTx(ctx); tx != nil {
		return do(tx)
	}
	return s.once(ctx, func(ctx context.Context) error { return do(s.inTx(ctx)) })
}

// within is the context inside a transaction.
func (s *Store) within(ctx context.Context, tx *gorm.DB) context.Context {
	return context.WithValue(ctx, txKey{}, transaction{s, tx, new(atomic.Pointer[current])})
}

// inTx is the transaction of this store that the context is in; nil outside of any.
func (s *Store) inTx(ctx context.Context) *gorm.DB {
	if t, ok := ctx.Value(txKey{}).(transaction); ok && t.store == s {
		return t.db.WithContext(ctx)
	}
	return nil
}

// from is where the context reads: its transaction, or the database.
func (s *Store) from(ctx context.Context) *gorm.DB {
	if tx := s.inTx(ctx); tx != nil {
		return tx
	}
	return s.db.WithContext(ctx)
}

func (s *Store) once(ctx context.Context, do func(ctx context.Context) error) (err error) {
	if err := s.writers.Acquire(ctx, 1); err != nil {
		return err
	}
	defer s.writers.Release(1)
	tx := s.db.WithContext(ctx).Begin()
	if tx.Error != nil {
		return tx.Error
	}
	done := false
	defer func() {
		if done {
			return
		}
		tx.Rollback()
	}()
	version, err := introduce(tx, actorOf(ctx))
	if err != nil {
		return err
	}
	inside := s.within(ctx, tx)
	own := inside.Value(txKey{}).(transaction).own
	if known := s.current(ctx).version; known >= 0 && known != version {
		if err := s.reload(s.inTx(inside)); err != nil {
			return err
		}
	}
	if err := do(inside); err != nil {
		return err
	}
	if err := tx.Commit().Error; err != nil {
		var refused *pgconn.PgError
		if errors.As(err, &refused) && refused.SQLState()[:2] != "57" && refused.SQLState()[:2] != "08" {
			return err // PostgreSQL itself says that it did not commit
		}
		return fmt.Errorf("%w: %w", ErrUnknownCommit, err)
	}
	done = true
	s.publish(ctx, own.Load())
	return nil
}

// introduce tells the database who writes in this transaction; its triggers note it. It returns the version of
// the catalogue.
func introduce(tx *gorm.DB, a Actor) (version int64, err error) {
	at := ""
	if !a.At.IsZero() {
		at = a.At.Format(time.RFC3339Nano)
	}
	account := ""
	if a.Account != 0 {
		account = fmt.Sprint(a.Account)
	}
	var told [5]string
	err = tx.Raw(`select set_config('lock_timeout', ?, true),
		set_config('wardifex.account', ?, true), set_config('wardifex.actor', ?, true),
		set_config('wardifex.action', ?, true), set_config('wardifex.at', ?, true), coalesce((select version from
		catalogue_state), 0)`,
		lockTimeout, account, a.Name, a.Action, at).Row().Scan(&told[0], &told[1], &told[2], &told[3], &told[4], &version)
	return version, err
}

// isContended reports whether a write failed only because of another writer at the same
// time, and would go well when it is done again.
func isContended(err error) bool {
	var pg *pgconn.PgError
	// Source: PostgreSQL manual, appendix A: deadlock_detected, serialization_failure.
	return errors.As(err, &pg) && (pg.Code == "40P01" || pg.Code == "40001")
}
