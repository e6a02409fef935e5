package app_test

import (
	"context"
	"fmt"
	"os"
	"sync/atomic"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"wardifex/internal/app"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// inSQL sums how long statements take, from when they are sent to when they are answered.
type inSQL struct{ spent atomic.Int64 }

type sentAt struct{}

func (q *inSQL) TraceQueryStart(ctx context.Context, _ *pgx.Conn, _ pgx.TraceQueryStartData) context.Context {
	return context.WithValue(ctx, sentAt{}, time.Now())
}

func (q *inSQL) TraceQueryEnd(ctx context.Context, _ *pgx.Conn, _ pgx.TraceQueryEndData) {
	if at, ok := ctx.Value(sentAt{}).(time.Time); ok {
		q.spent.Add(int64(time.Since(at)))
	}
}

// An order of sixty steps is opened, gone through and finished within three times of its SQL:
// make bench, alone and without the race detector.
func TestALongOrderIsQuick(t *testing.T) {
	if os.Getenv("WARDIFEX_LOAD") == "" {
		t.Skip("make bench runs it")
	}
	sql := &inSQL{}
	s, err := store.Open(pgtest.Database(t), func(c *pgx.ConnConfig) { c.Tracer = sql })
	must(t, err)
	defer s.Close()
	must(t, s.Migrate(ctx))
	id := add(t, s, "Avocet", map[string]string{"nozzle.model": "plain", "firmware.family": "compiled"})
	began, before := time.Now(), sql.spent.Load()
	order, err := does(s).OpenSwap(ctx, id, "nozzle", "hard 0.6", 0, "abrasive filament", "Ansa", now)
	must(t, err)
	a := does(s)
	o, err := a.Order(ctx, order)
	must(t, err)
	last := o.StepList[len(o.StepList)-1].Key
	for n := len(o.StepList); n < 60; n++ {
		must(t, a.AddStep(ctx, order, app.AddedStep{After: last, Title: fmt.Sprint("step ", n)}, "Ansa"))
	}
	until(t, s, order, "")
	_, err = a.Finish(ctx, order, 0, "Ansa", now)
	must(t, err)
	all, spent := time.Since(began), time.Duration(sql.spent.Load()-before)
	t.Logf("%v, of which %v in SQL: %.2f times of it", all.Round(time.Millisecond), spent.Round(time.Millisecond),
		float64(all)/float64(spent))
	if all > 3*spent {
		t.Errorf("%.2f times of its SQL", float64(all)/float64(spent))
	}
}
