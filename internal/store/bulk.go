package store

import (
	"errors"
	"fmt"
	"reflect"
	"strconv"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"
	"gorm.io/gorm"
)

// column of rows that are written together: its name, its type, and a value for each row.
type bulkColumn struct {
	name, kind string
	values     any // a slice
}

// columnOf takes one value of each row.
func columnOf[R, T any](name, kind string, rows []R, of func(R) T) bulkColumn {
	values := make([]T, len(rows))
	for i, r := range rows {
		values[i] = of(r)
	}
	return bulkColumn{name, kind, values}
}

// insertAll writes many rows in few statements. Keys that the database would make itself
// may be among the columns.
func insertAll(tx *gorm.DB, table string, columns ...bulkColumn) error {
	names, places := make([]string, len(columns)), make([]string, len(columns))
	for i, c := range columns {
		names[i], places[i] = c.name, fmt.Sprintf("$%d::%s[]", i+1, c.kind)
	}
	sql := fmt.Sprintf("insert into %s (%s) overriding system value select * from unnest(%s)",
		table, strings.Join(names, ", "), strings.Join(places, ", "))
	n := reflect.ValueOf(columns[0].values).Len()
	for from := 0; from < n; from += atOnce {
		args := make([]any, len(columns))
		for i, c := range columns {
			args[i] = reflect.ValueOf(c.values).Slice(from, min(from+atOnce, n)).Interface()
		}
		if _, err := tx.Statement.ConnPool.ExecContext(tx.Statement.Context, sql, args...); err != nil {
			return err
		}
	}
	return nil
}

// rowsAtOnce is how many rows of models go into one statement: each of their values is an argument, of which there
// may be 65,535. Source: PostgreSQL manual, 55.7, Bind: the number of parameters is an Int16.
const rowsAtOnce = 1000

// createAll writes rows of a model, and gives each its number.
func createAll[R any](tx *gorm.DB, rows []R) error {
	if len(rows) == 0 {
		return nil
	}
	return tx.CreateInBatches(rows, rowsAtOnce).Error
}

// atOnce is how many rows go into one statement: as many as stay in memory on both sides.
const atOnce = 5000

// newIDs takes keys for rows to be written.
func newIDs(tx *gorm.DB, table string, n int) ([]int64, error) {
	var ids []int64
	err := tx.Raw("select nextval(pg_get_serial_sequence(?, 'id')) from generate_series(1, ?)", table, n).Scan(&ids).Error
	return ids, err
}

// isTwice reports whether a write failed because there is such a row already.
func isTwice(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && pg.Code == "23505" // Source: PostgreSQL manual, appendix A: unique_violation
}

// repeat is a value for each of n rows.
func repeat[T any](v T, n int) []T {
	out := make([]T, n)
	for i := range out {
		out[i] = v
	}
	return out
}

// arrayOf writes numbers as the database reads an array: more than there may be arguments.
func arrayOf(ids []int64) string {
	text := make([]string, len(ids))
	for i, id := range ids {
		text[i] = strconv.FormatInt(id, 10)
	}
	return "{" + strings.Join(text, ",") + "}"
}
