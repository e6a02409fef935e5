package app_test

import (
	"bytes"
	"context"
	"errors"
	"strings"
	"testing"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/recordfile"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

var (
	ctx = context.Background()
	now = time.Date(2026, 5, 1, 12, 0, 0, 0, time.UTC)
)

// refused checks that a write was refused with a sentence that has the part.
func refused(t *testing.T, err error, part string) {
	t.Helper()
	var r *app.Refusal
	if !errors.As(err, &r) || !strings.Contains(r.Sentence, part) {
		t.Errorf("got %v; want a refusal with %q", err, part)
	}
}

func open(t *testing.T) (*app.App, *store.Store) {
	t.Helper()
	s := pgtest.Store(t)
	return does(s), s
}

func must(t *testing.T, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

func add(t *testing.T, s *store.Store, name string, read map[string]string) int64 {
	t.Helper()
	id, err := does(s).AddMachine(ctx, store.Fields{Name: name, Bay: "Quay"}, app.Like{}, "x", now)
	must(t, err)
	for k, v := range read {
		must(t, reads(s, id, machine.Key(k), v, machine.Reading{Grade: machine.Observed, TakenAt: now, By: "x"}, now))
	}
	return id
}

func reads(s *store.Store, id int64, key machine.Key, text string, r machine.Reading, now time.Time) error {
	_, err := does(s).AddReading(ctx, id, key, text, r, now)
	return err
}

func load(t *testing.T, s *store.Store, id int64) store.Machine {
	t.Helper()
	m, err := s.Machine(ctx, id)
	must(t, err)
	return m
}

// does is what people do with a store.
func does(s *store.Store) *app.App { return app.New(s, func() time.Time { return now }) }

func byName(t *testing.T, s *store.Store) map[string]store.Machine {
	t.Helper()
	fleet, err := s.Fleet(ctx)
	must(t, err)
	out := map[string]store.Machine{}
	for _, m := range fleet {
		out[m.Name] = m
	}
	return out
}

// recordOf is the whole record as it goes out.
func recordOf(t *testing.T, s *store.Store) recordfile.File {
	t.Helper()
	var text bytes.Buffer
	must(t, s.WriteRecordTo(ctx, &text))
	f, err := recordfile.Read(text.Bytes())
	must(t, err)
	return f
}
