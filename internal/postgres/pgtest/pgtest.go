// Package pgtest gives each test a database of its own on a PostgreSQL server
// that the test binary starts and stops.
package pgtest

import (
	"context"
	"errors"
	"fmt"
	"os"
	"regexp"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/jackc/pgx/v5"

	"wardifex/internal/postgres"
	"wardifex/internal/store"
)

var (
	cluster    *postgres.Cluster
	count      atomic.Int64
	filling    sync.Once
	errFilling error
)

// The databases that those of tests are copied from.
const (
	template = "template_wardifex"
	filled   = "template_filled"
)

// Main starts the server, runs the tests, and stops the server.
func Main(m *testing.M) {
	os.Exit(run(m))
}

func run(m *testing.M) int {
	ctx := context.Background()
	var err error
	if cluster, err = postgres.Start(ctx, postgres.Options{}); err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer cluster.Stop()
	if err := migrated(ctx); err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	return m.Run()
}

func migrated(ctx context.Context) error {
	if err := cluster.CreateDatabase(ctx, template, ""); err != nil {
		return err
	}
	s, err := store.Open(cluster.DSN(template))
	if err != nil {
		return err
	}
	defer s.Close()
	return s.Migrate(ctx)
}

// Cluster is the running server, for tests that stop or restart it.
func Cluster() *postgres.Cluster { return cluster }

// Database makes an empty database, without the schema, and gives its address.
func Database(t testing.TB) string { return database(t, "") }

func database(t testing.TB, from string) string {
	t.Helper()
	name := fmt.Sprintf("t%d_%s", count.Add(1), strings.ToLower(strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' {
			return r
		}
		return '_'
	}, t.Name())))
	if len(name) > 60 {
		name = name[:60]
	}
	if err := cluster.CreateDatabase(context.Background(), name, from); err != nil {
		t.Fatal(err)
	}
	return cluster.DSN(name)
}

// Restored opens a database made from what pg_dump --inserts wrote, and migrates it.
func Restored(t testing.TB, dump []byte) *store.Store {
	t.Helper()
	ctx := context.Background()
	dsn := database(t, "")
	conn, err := pgx.Connect(ctx, dsn)
	if err != nil {
		t.Fatal(err)
	}
	// Lines for the interactive client are not SQL.
	sql := regexp.MustCompile(`(?m)^\\.*$`).ReplaceAllString(string(dump), "")
	_, err = conn.PgConn().Exec(ctx, sql).ReadAll()
	if err := errors.Join(err, conn.Close(ctx)); err != nil {
		t.Fatal(err)
	}
	s := open(t, dsn)
	if err := s.Migrate(ctx); err != nil {
		t.Fatal(err)
	}
	return s
}

// Store opens a fresh, migrated database.
func Store(t testing.TB) *store.Store {
	t.Helper()
	return open(t, database(t, template))
}

// Again opens the database of a store once more, as another instance of the application does.
func Again(t testing.TB, s *store.Store, options ...func(*pgx.ConnConfig)) *store.Store {
	t.Helper()
	var name string
	if err := s.SQL.QueryRow("select current_database()").Scan(&name); err != nil {
		t.Fatal(err)
	}
	return open(t, cluster.DSN(name), options...)
}

// Filled opens a database of the test's own with what fill writes. It is written once, when
// the first test asks for it, and copied for each: one function a test binary.
func Filled(t testing.TB, fill func(context.Context, *store.Store) error) *store.Store {
	t.Helper()
	filling.Do(func() {
		errFilling = func() error {
			ctx := context.Background()
			if err := cluster.CreateDatabase(ctx, filled, template); err != nil {
				return err
			}
			s, err := store.Open(cluster.DSN(filled))
			if err != nil {
				return err
			}
			return errors.Join(fill(ctx, s), s.Close())
		}()
	})
	if errFilling != nil {
		t.Fatal(errFilling)
	}
	return open(t, database(t, filled))
}

func open(t testing.TB, dsn string, options ...func(*pgx.ConnConfig)) *store.Store {
	t.Helper()
	s, err := store.Open(dsn, options...)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s
}
