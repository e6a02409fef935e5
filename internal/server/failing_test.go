package server_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"wardifex/internal/app"
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

// answer is what a request is answered where a statement of it fails.
func (f *fails) answer(t *testing.T, api http.Handler, cookies []*http.Cookie, method, path string, asked any,
) *httptest.ResponseRecorder {
	t.Helper()
	kind := "application/octet-stream"
	text, file := asked.([]byte)
	if !file {
		var err error
		kind = "application/json"
		if text, err = json.Marshal(asked); err != nil {
			t.Fatal(err)
		}
	}
	ctx := context.WithValue(t.Context(), failsKey{}, f)
	req := httptest.NewRequestWithContext(ctx, method, path, bytes.NewReader(text))
	req.Header.Set("Content-Type", kind)
	for _, c := range cookies {
		req.AddCookie(c)
	}
	out := httptest.NewRecorder()
	api.ServeHTTP(out, req)
	return out
}

func (c *client) cookies() []*http.Cookie {
	c.t.Helper()
	site, err := url.Parse(c.url)
	if err != nil {
		c.t.Fatal(err)
	}
	return c.http.Jar.Cookies(site)
}

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
	cookies := lead.cookies()
	tried, failed := 0, 0
	for _, path := range readsAbout(t, lead, of) {
		if clock == demo.Today {
			path = days.Replace(path)
		}
		for after := range 80 {
			f := &fails{after: after}
			answer := f.answer(t, api, cookies, "GET", path, nil)
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

// Every kind of write, with each of its statements left without an answer in turn, says so and leaves nothing behind:
// as it was asked first it goes through at last.
func TestNoWritePassesOverAFailure(t *testing.T) {
	t.Parallel()
	_, st := start(t)
	fillFleet(t, st, 3)
	s := pgtest.Again(t, st, func(c *pgx.ConnConfig) { c.Tracer = failing{} })
	api := server.New(server.Config{Store: s, Clock: func() time.Time { return now }, Files: http.FS(appFiles),
		Log: slog.New(slog.DiscardHandler)})
	srv := httptest.NewServer(api)
	t.Cleanup(func() { srv.Close(); api.Close() })
	lead := signedInBy(t, srv.URL, store.Lead, password)
	cookies, failed := lead.cookies(), 0
	writes := func(method, path string, asked any) *httptest.ResponseRecorder {
		t.Helper()
		for after := range 400 {
			f := &fails{after: after}
			answer := f.answer(t, api, cookies, method, "/api"+path, asked)
			says := fmt.Sprintf("%s %s: %d %.300s", method, path, answer.Code, answer.Body)
			switch {
			case f.sql == "":
				if answer.Code >= 300 {
					t.Errorf("after %d failures: %s", after, says)
				}
				return answer
			case answer.Code < 500:
				t.Errorf("%s; this had no answer: %.200s", says, strings.Join(strings.Fields(f.sql), " "))
				return answer
			}
			failed++
		}
		t.Fatalf("%s %s does not end", method, path)
		return nil
	}
	made := func(answer *httptest.ResponseRecorder) (id int64) {
		t.Helper()
		var is struct{ ID int64 }
		if err := json.Unmarshal(answer.Body.Bytes(), &is); err != nil || is.ID == 0 {
			t.Fatalf("nothing was made: %v, %.300s", err, answer.Body)
		}
		return is.ID
	}
	fields := body{"name": "Wigeon", "bay": "Quay", "maker": "", "serial": "", "note": ""}
	machine := made(writes("POST", "/machines", fields))
	on := fmt.Sprintf("/machines/%d", machine)
	fields["bay"] = "Loft"
	writes("PUT", on, body{"version": 1, "fields": fields})
	writes("POST", on+"/readings", body{"key": "supply.volts", "value": "24", "grade": "observed"})
	writes("POST", on+"/readings", body{"key": "mainboard.processor", "value": "xx RET6", "grade": "observed"})
	writes("POST", on+"/unreadable", body{"key": "mainboard.chip-maker", "inspection": "ribbon", "why": "worn"})
	writes("POST", on+"/exchange", body{"slot": "bed-heater", "model": "mat", "how": "worn"})
	writes("POST", on+"/meter", body{"hours": "120"})
	writes("POST", on+"/use", body{"use": "attended only", "why": "new"})
	fault := made(writes("POST", on+"/faults", body{"words": "it clicks"}))
	writes("POST", fmt.Sprintf("/faults/%d/take", fault), body{"version": 1, "off": false})
	repair := made(writes("POST", "/work/repair", body{"fault": fault}))
	writes("POST", fmt.Sprintf("/work/%d/lock", repair), nil)
	writes("POST", "/fleet/use", body{"machines": []int{3}, "use": "attended only", "why": "new"})
	part := made(writes("POST", "/parts", body{"kind": "springs", "model": "Bollard stiff springs", "tag": "S1",
		"serial": "", "supplier": "", "note": "", "shelf": "A"}))
	writes("POST", fmt.Sprintf("/parts/%d/move", part), body{"to": "scrap", "why": "bent", "from": body{}})
	writes("POST", "/catalogue/entries", body{"version": 0, "model": body{"kind": "nozzle", "name": "Saved"}})
	writes("POST", "/bookings", body{"machine": 2, "from": "2026-05-02T10:00:00Z", "to": "2026-05-02T12:00:00Z",
		"what": "a lid", "attended": true})
	build := made(writes("POST", "/builds", body{"name": "B", "family": "hosted", "buildVersion": "0.11.0",
		"hostVersion": "0.12.0", "features": body{}, "configuredFor": body{}}))
	writes("POST", fmt.Sprintf("/builds/%d/files?name=b.bin&kind=build", build), []byte{1, 2, 3})
	fields["name"] = "Knot"
	on = fmt.Sprintf("/machines/%d", made(writes("POST", "/machines", fields)))
	writes("POST", on+"/runs", body{"board": "mainboard", "build": build, "grade": "observed", "how": "M115",
		"madeFor": false})
	writes("POST", on+"/done", body{"task": "fans", "note": "dusty"})
	var is struct{ Version int }
	if err := json.Unmarshal([]byte(lead.wants(200, "", "GET", "/api"+on+"/structure", nil)), &is); err != nil {
		t.Fatal(err)
	}
	writes("POST", on+"/positions", body{"kind": "heater", "serves": "head 2", "version": is.Version})
	writes("POST", on+"/swap", body{"position": "nozzle", "model": "hard", "reason": "worn"})
	writes("POST", "/work/task", body{"machineId": 3, "task": "fans"})
	writes("POST", "/closures", body{"from": "2026-12-24", "to": "2026-12-26", "why": "holidays"})
	writes("POST", "/tokens", body{"name": "farm", "role": "member", "days": 30})
	writes("POST", "/questions", body{"name": "Large", "question": body{
		"columns": []string{"mainboard.flash"}, "where": []body{}}})
	writes("POST", on+"/ways-back", body{"kind": "backup", "name": "b", "place": "shelf", "madeOn": "2026-01-01"})
	writes("POST", "/setting-words", body{"family": "compiled", "form": "C header", "word": "MY_E_STEPS",
		"calibration": "steps-per-mm", "of": "head 1"})
	writes("POST", "/people", body{"name": "pia", "display": "Pia", "role": "technician", "skills": []string{},
		"password": password})
	writes("POST", "/kits/slate-sheet/hide", body{"hidden": true})
	for key, value := range map[string]string{"springs.model": "plain", "springs.stiff": "no",
		"springs.corner-room": "30"} {
		lead.wants(200, "", "POST", "/api/machines/2/readings", body{"key": key, "value": value, "grade": "observed"})
	}
	order := made(writes("POST", "/work", body{"machineId": 2, "kit": "bollard-springs", "reason": "x"}))
	o, err := app.New(st, func() time.Time { return now }).Order(t.Context(), order)
	if err != nil {
		t.Fatal(err)
	}
	step := o.StepList[0]
	writes("POST", fmt.Sprintf("/work/%d/steps/%s", order, step.Key), body{"version": step.Version, "do": "skip",
		"why": "a trial", "note": "", "data": body{}})
	writes("POST", "/machines/1/retire", body{"why": "bent"})
	if failed < 400 {
		t.Errorf("only %d statements failed", failed)
	}
}
