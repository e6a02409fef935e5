package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strconv"
	"strings"
	"sync"
)

// SchemaVersion is the newest schema that this program knows.
var SchemaVersion = sync.OnceValue(func() int64 {
	var newest int64
	files, _ := fs.Glob(migrations, "migrations/*.sql") // the pattern is well formed
	for _, f := range files {
		number, _, _ := strings.Cut(strings.TrimPrefix(f, "migrations/"), "_")
		if n, err := strconv.ParseInt(number, 10, 64); err == nil {
			newest = max(newest, n)
		}
	}
	return newest
})

// schemaOf is the version of a database's schema; 0 of one that is empty.
func schemaOf(ctx context.Context, db interface {
	QueryRowContext(context.Context, string, ...any) *sql.Row
}) (int64, error) {
	var there bool
	if err := db.QueryRowContext(ctx, "select to_regclass('goose_db_version') is not null").Scan(&there); err != nil ||
		!there {
		return 0, err
	}
	var v int64
	err := db.QueryRowContext(ctx, "select coalesce(max(version_id), 0) from goose_db_version where is_applied").Scan(&v)
	return v, err
}

// refuseNewer refuses a database that a newer program has brought to its own schema.
func (s *Store) refuseNewer(ctx context.Context) error {
	v, err := schemaOf(ctx, s.SQL)
	if err == nil && v > SchemaVersion() {
		err = fmt.Errorf(
			"this database has schema version %d, and this program knows up to version %d: a newer Wardifex has used it. "+
				"Start that one, or read a backup from before into an empty database",
			v,
			SchemaVersion(),
		)
	}
	return err
}

// HasTables reports whether a database has anything in it.
func (s *Store) HasTables(ctx context.Context) (some bool, err error) {
	err = s.SQL.QueryRowContext(ctx, "select exists (select from pg_tables where schemaname = current_schema())").
		Scan(&some)
	return some, err
}

// Empty takes every row out of tables, as far as they are there.
func (s *Store) Empty(ctx context.Context, tables ...string) error {
	for _, name := range tables {
		var there bool
		if err := s.SQL.QueryRowContext(ctx, "select to_regclass($1) is not null", name).Scan(&there); err != nil {
			return err
		}
		if there {
			if _, err := s.SQL.ExecContext(ctx, `delete from "`+name+`"`); err != nil {
				return err
			}
		}
	}
	return nil
}

// DropAll empties a database into which a backup could not be read whole.
func (s *Store) DropAll(ctx context.Context) error {
	_, err := s.SQL.ExecContext(
		ctx,
		"do $$ begin execute format('drop schema %I cascade', current_schema()); create schema if not exists public; end $$",
	)
	return err
}

// Counted counts the rows of every table but some, in one state of the database, whose
// snapshot it gives to do meanwhile.
func (s *Store) Counted(
	ctx context.Context,
	but []string,
	do func(snapshot string) error,
) (schema int64, rows map[string]int64, err error) {
	tx, err := s.SQL.BeginTx(ctx, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
	if err != nil {
		return 0, nil, err
	}
	defer func() { err = errors.Join(err, tx.Rollback()) }()
	if schema, err = schemaOf(ctx, tx); err != nil {
		return 0, nil, err
	}
	var tables []string
	list, err := tx.QueryContext(ctx, "select tablename from pg_tables where schemaname = current_schema() order by 1")
	if err != nil {
		return 0, nil, err
	}
	defer list.Close()
	for list.Next() {
		var name string
		if err := list.Scan(&name); err != nil {
			return 0, nil, err
		}
		if !slices.Contains(but, name) {
			tables = append(tables, name)
		}
	}
	if err := list.Err(); err != nil {
		return 0, nil, err
	}
	rows = map[string]int64{}
	for _, name := range tables {
		var n int64
		if err := tx.QueryRowContext(ctx, `select count(*) from "`+name+`"`).Scan(&n); err != nil {
			return 0, nil, err
		}
		rows[name] = n
	}
	var snapshot string
	if err := tx.QueryRowContext(ctx, "select pg_export_snapshot()").Scan(&snapshot); err != nil {
		return 0, nil, err
	}
	return schema, rows, do(snapshot)
}
