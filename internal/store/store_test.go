package store_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/jpeg"
	"os"
	"strings"
	"sync"
	"testing"
	"testing/fstest"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/pressly/goose/v3"

	"wardifex/internal/app"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

var (
	ctx = context.Background()
	now = time.Date(2026, 5, 1, 12, 0, 0, 0, time.UTC)
)

func must(t *testing.T, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

func load(t *testing.T, s *store.Store, id int64) store.Machine {
	t.Helper()
	m, err := s.Machine(ctx, id)
	must(t, err)
	return m
}

// does is what people can do, on a record.
func does(s *store.Store) *app.App { return app.New(s, func() time.Time { return now }) }

func TestMigrateFromSeveralInstancesAtOnce(t *testing.T) {
	dsn := pgtest.Database(t)
	var wait sync.WaitGroup
	errs := make(chan error, 4)
	for range 4 {
		wait.Go(func() {
			s, err := store.Open(dsn)
			if err == nil {
				defer s.Close()
				err = s.Migrate(ctx)
			}
			errs <- err
		})
	}
	wait.Wait()
	for range 4 {
		must(t, <-errs)
	}
}

// A database of the first version keeps what it holds: readings go over to
// parts, pictures to the files.
func TestMigrationKeepsTheRecord(t *testing.T) {
	s, err := store.Open(pgtest.Database(t))
	must(t, err)
	t.Cleanup(func() { s.Close() })
	old, err := goose.NewProvider(goose.DialectPostgres, s.SQL, os.DirFS("migrations"))
	must(t, err)
	_, err = old.UpTo(ctx, 1)
	must(t, err)
	stamp := now.Format(time.RFC3339)
	for _, q := range []string{
		"insert into machines (name, since, changed_by, changed_at) values ('A', '@', 'x', now())",
		"insert into fittings (machine_id, slot, fitted_at, removed_at) values (1, 'bed-sensor', '@', '@'), (1, " +
			"'bed-sensor', '@', null), (1, 'driver-x', '@', null)",
		"insert into readings (machine_id, fitting_id, slot, trait, value, grade, taken_at, taken_by) values (1, 1, " +
			"'bed-sensor', 'model', 'old bead', 3, '@', 'x'), (1, 2, 'bed-sensor', 'type', 'Pt100', 3, '@', 'x'), (1, 3, " +
			"'driver-x', 'microsteps', '16', 3, '@', 'x')",
		"insert into work_orders (machine_id, kit_key, kit, further, verdict, reason, state, opened_by, opened_at) " +
			"values (1, 'k', '{}', '[]', '{}', 'x', 'open', 'x', '@')",
		"insert into work_steps (work_order_id, seq, key, step) values (1, 1, 's', '{}')",
	} {
		if _, err := s.SQL.Exec(strings.ReplaceAll(q, "@", stamp)); err != nil {
			t.Fatal(err)
		}
	}
	_, err = s.SQL.Exec(
		"insert into photos (work_order_id, step_key, jpeg, width, height, taken_by, taken_at) values (1, 's', $1, 1, "+
			"1, 'x', now())",
		tinyJPEG(t),
	)
	must(t, err)
	must(t, s.Migrate(ctx))
	_, err = s.TakePhotosIn(ctx, fstest.MapFS{})
	must(t, err)
	m := load(t, s, 1)
	if m.Facts.Fact("bed-sensor.type").Value.Text != "Pt100" || m.Facts.Fact("driver-x.microsteps").Value.Number != 16 ||
		m.Facts.Model("bed-sensor") != "" {
		t.Errorf("the readings after: %+v", m.Readings)
	}
	parts, err := s.Parts(ctx)
	must(t, err)
	if len(parts) != 3 || parts[0].Kind != "sensor" || parts[0].Model != "old bead" || parts[0].Now() != nil ||
		parts[2].Kind != "driver" {
		t.Errorf("the parts after: %+v", parts)
	}
	if jpeg, err := s.Photo(ctx, 1, false); err != nil || string(jpeg) != string(tinyJPEG(t)) {
		t.Errorf("the picture after: %d bytes, %v", len(jpeg), err)
	}
	if small, err := s.Photo(ctx, 1, true); err != nil || len(small) == 0 {
		t.Errorf("its small copy: %v", err)
	}
}
func tinyJPEG(t *testing.T) []byte {
	t.Helper()
	var b bytes.Buffer
	must(t, jpeg.Encode(&b, image.NewGray(image.Rect(0, 0, 8, 8)), nil))
	return b.Bytes()
}

// However many writers wait for one another, what reads is answered at once, and no writer waits without end.
func TestWritersLeaveRoomForReaders(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	ctx, cancel := context.WithCancel(t.Context())
	locked, release := make(chan struct{}), make(chan struct{})
	var wait sync.WaitGroup
	wait.Go(func() {
		_ = s.InTx(t.Context(), func(ctx context.Context) error {
			must(t, s.LockRecord(ctx))
			close(locked)
			<-release
			return nil
		})
	})
	<-locked
	for i := range 60 {
		wait.Go(func() {
			_ = s.InTx(ctx, func(ctx context.Context) error {
				_, err := s.AddMachine(ctx, store.Fields{Name: fmt.Sprint("N", i)}, "x", time.Now())
				return err
			})
		})
	}
	time.Sleep(300 * time.Millisecond) // until all of them wait
	began := time.Now()
	for range 20 {
		_, err := s.Names(t.Context())
		must(t, err)
	}
	if took := time.Since(began); took > time.Second {
		t.Errorf("20 reads took %s beside 60 writers that wait", took)
	}
	cancel()
	began = time.Now()
	err := s.InTx(t.Context(), func(ctx context.Context) error {
		_, err := s.AddMachine(ctx, store.Fields{Name: "M"}, "x", time.Now())
		return err
	})
	var refused *pgconn.PgError
	if took := time.Since(began); !errors.As(err, &refused) || refused.Code != "55P03" || took > 15*time.Second {
		t.Errorf("after %s: %v", took, err)
	}
	close(release)
	wait.Wait()
}
