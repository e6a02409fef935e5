package server_test

import (
	"context"
	"fmt"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"wardifex/internal/demo"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/server"
	"wardifex/internal/store"
)

// fails makes one statement of a request fail: the one that is reached after so many others.
type fails struct {
	after int
	sql   string // of the one that failed
}

type failsKey struct{}

type failing struct{}

func (failing) TraceQueryStart(ctx context.Context, _ *pgx.Conn, q pgx.TraceQueryStartData) context.Context {
	f, ok := ctx.Value(failsKey{}).(*fails)
	if !ok {
		return ctx
	}
	if f.sql == "" {
		if f.after--; f.after >= 0 {
			return ctx
		}
		f.sql = q.SQL
	}
	if f.sql != q.SQL { // what could not be sent is sent again on another connection, and must not arrive there either
		return ctx
	}
	late, cancel := context.WithDeadline(ctx, time.Unix(0, 0)) // no answer comes
	cancel()
	return late
}

func (failing) TraceQueryEnd(context.Context, *pgx.Conn, pgx.TraceQueryEndData) {}

// Every read, with each of its statements left without an answer in turn, says so: no page is shown a part for the
// whole.
func TestNoReadPassesOverAFailure(t *testing.T) {
	t.Parallel()
	tracer := func(c *pgx.ConnConfig) { c.Tracer = failing{} }
	_, st := start(t)
	fillFleet(t, st, 3)
	s, clock, word, of := pgtest.Again(t, st, tracer), now, password, []string{"1"}
	if !testing.Short() { // of a room with a history
		s, clock = pgtest.Again(t, pgtest.Filled(t, demo.Seed), tracer), demo.Today
		word, of = demo.Password, []string{"1", "2", "10", "17"}
	}
	api := server.New(server.Config{Store: s, Clock: func() time.Time { return clock },
		Files: http.FS(appFiles), Log: slog.New(slog.DiscardHandler)})
	srv := httptest.NewServer(api)
	t.Cleanup(func() { srv.Close(); api.Close() })
	lead := signedInBy(t, srv.URL, store.Lead, word)
	site, err := url.Parse(srv.URL)
	if err != nil {
		t.Fatal(err)
	}
	cookies := lead.http.Jar.Cookies(site)
	tried, failed := 0, 0
	for _, path := range readsAbout(t, lead, of) {
		if clock == demo.Today {
			path = days.Replace(path)
		}
		for after := range 80 {
			f := &fails{after: after}
			req := httptest.NewRequestWithContext(context.WithValue(t.Context(), failsKey{}, f), "GET", path, nil)
			for _, c := range cookies {
				req.AddCookie(c)
			}
			answer := httptest.NewRecorder()
			api.ServeHTTP(answer, req)
			tried++
			if f.sql == "" { // it has no more
				break
			}
			failed++
			if answer.Code < 500 {
				t.Errorf("%s answers %d although this had no answer: %s", path, answer.Code,
					fmt.Sprintf("%.160s", strings.Join(strings.Fields(f.sql), " ")))
			}
		}
	}
	if failed < 300 {
		t.Errorf("only %d statements failed", failed)
	}
	t.Logf("%d requests, %d of them with a statement that failed", tried, failed)
}
