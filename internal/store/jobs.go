package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/rivermigrate"
)

// jobsLock is the advisory lock under which one instance makes the tables of background work.
const jobsLock = 7_040_211

// prepareJobs makes the tables of background work, which a library keeps.
func (s *Store) prepareJobs(ctx context.Context) (err error) {
	tx, err := s.SQL.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, tx.Commit()) }()
	if _, err := tx.ExecContext(ctx, "select pg_advisory_xact_lock($1)", jobsLock); err != nil {
		return err
	}
	m, err := rivermigrate.New(riverdatabasesql.New(s.SQL), nil)
	if err != nil {
		return err
	}
	_, err = m.Migrate(ctx, rivermigrate.DirectionUp, nil)
	return err
}

// AddJob hands background work over, as part of the transaction of the context: it begins when
// that is committed, on any instance.
func (s *Store) AddJob(ctx context.Context, job river.JobArgs) error { return s.AddJobIn(ctx, job, 0) }

// AddJobIn is AddJob for work that begins after some time.
func (s *Store) AddJobIn(ctx context.Context, job river.JobArgs, after time.Duration) error {
	client, err := river.NewClient(riverdatabasesql.New(s.SQL), &river.Config{})
	if err != nil {
		return err
	}
	tx, ok := s.from(ctx).Statement.ConnPool.(*sql.Tx)
	if !ok {
		return fmt.Errorf("%s is handed over outside of a transaction", job.Kind())
	}
	_, err = client.InsertTx(ctx, tx, job, &river.InsertOpts{ScheduledAt: time.Now().Add(after)})
	return err
}
