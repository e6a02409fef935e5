package server_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"image"
	"image/png"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"runtime"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"wardifex/internal/picture"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/server"
	"wardifex/internal/store"
)

// endless is a body that says how large it is and how much of it was asked for.
type endless struct {
	size int64
	read atomic.Int64
	fill byte
}

func (e *endless) Read(p []byte) (int, error) {
	n := min(int64(len(p)), e.size-e.read.Load())
	if n == 0 {
		return 0, io.EOF
	}
	for i := range p[:n] {
		p[i] = e.fill
	}
	e.read.Add(n)
	return int(n), nil
}

func (c *client) send(method, path string, headers map[string]string, body io.Reader) (int, string) {
	c.t.Helper()
	req, err := http.NewRequest(method, c.url+path, body)
	if err != nil {
		c.t.Fatal(err)
	}
	req.Header.Set("Content-Type", "application/json")
	for k, v := range headers {
		req.Header.Set(k, v)
	}
	res, err := c.http.Do(req)
	if err != nil {
		return 0, err.Error() // the server may close before all is sent
	}
	defer res.Body.Close()
	text, _ := io.ReadAll(res.Body)
	return res.StatusCode, string(text)
}

// Nobody's body is read: who asks is looked at first.
func TestWhoAsksIsLookedAtBeforeTheBody(t *testing.T) {
	t.Parallel()
	url, _ := start(t)
	for _, path := range []string{"/api/uploads", "/api/machines", "/api/kits/try", "/api/faults/1/photos"} {
		body := &endless{size: 200 << 20, fill: '['}
		status, text := anonymous(t, url).send("POST", path, nil, body)
		if status != 401 && status != 0 || body.read.Load() > 8<<20 {
			t.Errorf("%s: %d %.80s after %d bytes", path, status, text, body.read.Load())
		}
	}
}

func TestBodiesHaveBounds(t *testing.T) {
	t.Parallel()
	url, _ := start(t)
	member, technician := signedIn(t, url, "member"), signedIn(t, url, "technician")
	long := func(n int) []byte { return []byte(`{"words":"` + strings.Repeat("x", n) + `"}`) }
	for name, c := range map[string]struct {
		as     *client
		path   string
		body   []byte
		status int
		says   string
	}{
		"as much as a member may":  {member, "/api/machines/1/faults", long(64<<10 - 12), 422, "longer than 20000"},
		"a byte more":              {member, "/api/machines/1/faults", long(64<<10 - 11), 413, "64 KiB"},
		"as much as a technician":  {technician, "/api/kits/try", long(1<<20 - 12), 422, "longer than"},
		"a byte more than that":    {technician, "/api/kits/try", long(1<<20 - 11), 413, "1 MiB"},
		"nested as deep as may be": {technician, "/api/kits/try", nested(48), 422, ""},
		"deeper":                   {technician, "/api/kits/try", nested(49), 422, "more than 48 deep"},
		"much deeper":              {technician, "/api/kits/try", nested(24_000), 422, "more than 48 deep"},
		"NUL, escaped":             {member, "/api/machines/1/faults", []byte(`{"words":"a\u0000b"}`), 422, "NUL"},
		"half a character": {member, "/api/machines/1/faults", []byte(`{"words":"a\ud800b"}`), 422,
			"half a character"},
		"no UTF-8":              {member, "/api/machines/1/faults", []byte("{\"words\":\"a\xffb\"}"), 422, "UTF-8"},
		"a number beyond all":   {technician, "/api/parts", []byte(`{"price":1e308}`), 422, "larger than 1e+12"},
		"a number that is none": {technician, "/api/parts", []byte(`{"price":1e999}`), 422, "larger than 1e+12"},
		"a year before printers": {technician, "/api/machines/1/meter",
			[]byte(`{"hours":1,"at":"1899-12-31T00:00:00Z"}`), 422, "1900 to 2200"},
		"a year after them": {technician, "/api/machines/1/meter",
			[]byte(`{"hours":1,"at":"2201-01-01T00:00:00Z"}`), 422, "1900 to 2200"},
		"what is not known here":    {technician, "/api/shop?zone=x", nil, 0, ""},
		"a parameter that is wrong": {technician, "/api/machines?no=1", []byte(`{}`), 422, ""},
	} {
		if c.body == nil {
			continue
		}
		status, text := c.as.send("POST", c.path, nil, bytes.NewReader(c.body))
		if status != c.status || !strings.Contains(text, c.says) || len(text) > 4000 {
			t.Errorf("%s: %d %.200s; want %d with %q", name, status, text, c.status, c.says)
		}
	}
}

func nested(depth int) []byte {
	return []byte(`{"needs":` + strings.Repeat(`[`, depth-1) + strings.Repeat(`]`, depth-1) + `}`)
}

// Nothing of what was sent comes back, and of many faults ten are named.
func TestFaultsAreFewAndRepeatNothing(t *testing.T) {
	t.Parallel()
	url, _ := start(t)
	c := signedIn(t, url, "technician")
	secret := strings.Repeat("secret-", 40)
	steps := make([]any, 400)
	for i := range steps {
		steps[i] = map[string]any{"title": 7, secret: secret}
	}
	status, text := c.call("POST", "/api/kits/try", body{"key": secret, "steps": steps})
	if status != 422 || strings.Contains(text, "secret") || len(text) > 4000 || !strings.Contains(text, "more") {
		t.Errorf("%d %s", status, text)
	}
}

// Nested JSON, picture bombs and large bodies leave memory as it was.
func TestHostileBodiesTakeLittleMemory(t *testing.T) {
	url, _ := start(t)
	c := signedIn(t, url, "technician")
	c.wants(200, "", "POST", "/api/machines", body{"name": "A", "bay": "", "maker": "", "serial": "", "note": ""})
	c.wants(200, "", "POST", "/api/machines/1/faults", body{"words": "it clicks"})
	var deep bytes.Buffer
	if err := png.Encode(&deep, image.NewNRGBA64(image.Rect(0, 0, 4800, 4800))); err != nil {
		t.Fatal(err)
	}
	stop := make(chan struct{})
	most := make(chan uint64)
	runtime.GC()
	var before runtime.MemStats
	runtime.ReadMemStats(&before)
	go func() {
		var peak uint64
		for {
			select {
			case <-stop:
				most <- peak
				return
			case <-time.After(5 * time.Millisecond):
				var now runtime.MemStats
				runtime.ReadMemStats(&now)
				peak = max(peak, now.HeapInuse)
			}
		}
	}()
	var all sync.WaitGroup
	for range 4 {
		all.Go(func() { c.send("POST", "/api/kits/try", nil, bytes.NewReader(nested(20_000))) })
		all.Go(func() { anonymous(t, url).send("POST", "/api/uploads", nil, &endless{size: 100 << 20}) })
		all.Go(func() {
			c.send("POST", "/api/faults/1/photos", map[string]string{"Content-Type": "image/png"}, bytes.NewReader(deep.Bytes()))
		})
		all.Go(func() {
			// Of what does not exist nothing is decoded.
			status, _ := c.send(
				"POST",
				"/api/faults/99/photos",
				map[string]string{"Content-Type": "image/png"},
				bytes.NewReader(deep.Bytes()),
			)
			if status != 404 {
				t.Errorf("a picture of no fault: %d", status)
			}
		})
	}
	all.Wait()
	close(stop)
	if peak := <-most; peak > before.HeapInuse+450<<20 {
		t.Errorf("memory went from %d to %d MiB", before.HeapInuse>>20, peak>>20)
	}
}

// A picture whose sending breaks off gives back the memory that was put by for it, and of
// what is refused at once nothing is kept either.
func TestABodyThatBreaksOff(t *testing.T) {
	t.Parallel()
	url, s := start(t)
	c := signedIn(t, url, "technician")
	c.wants(200, "", "POST", "/api/machines", body{"name": "A", "bay": "", "maker": "", "serial": "", "note": ""})
	c.wants(200, "", "POST", "/api/machines/1/faults", body{"words": "it clicks"})
	var small bytes.Buffer
	if err := png.Encode(&small, image.NewGray(image.Rect(0, 0, 20, 20))); err != nil {
		t.Fatal(err)
	}
	for range 8 { // of which four would take all there is
		ctx, cancel := context.WithTimeout(t.Context(), 60*time.Millisecond)
		req, err := http.NewRequestWithContext(ctx, "POST", url+"/api/faults/1/photos", io.MultiReader(&small, never{ctx}))
		if err != nil {
			t.Fatal(err)
		}
		req.ContentLength = picture.MaxBytes
		if res, err := c.http.Do(req); err == nil {
			res.Body.Close()
		}
		cancel()
	}
	kind := map[string]string{"Content-Type": "image/png", "Idempotency-Key": "a picture"}
	small.Reset()
	if err := png.Encode(&small, image.NewGray(image.Rect(0, 0, 20, 20))); err != nil {
		t.Fatal(err)
	}
	for range 2 { // under one key it is kept once
		status, text := c.send("POST", "/api/faults/1/photos", kind, bytes.NewReader(small.Bytes()))
		if status != 200 || !strings.Contains(text, `"id":1`) {
			t.Errorf("afterwards: %d %s", status, text)
		}
	}
	var photos, files int
	const kept = "select (select count(*) from photos), (select count(*) from files)"
	if err := s.SQL.QueryRow(kept).Scan(&photos, &files); err != nil {
		t.Fatal(err)
	}
	if photos != 1 || files > 2 {
		t.Errorf("%d pictures, %d files", photos, files)
	}
}

// A write may take longer than its request may take to come, and so may the next one over the same connection.
func TestASlowWriteOutlivesTheTimeOfItsBody(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	addAccount(t, s, store.Technician)
	srv := httptest.NewUnstartedServer(server.New(server.Config{Store: s, Clock: func() time.Time { return now },
		Log: slog.New(slog.NewTextHandler(t.Output(), &slog.HandlerOptions{Level: slog.LevelError}))}))
	srv.Config.ReadTimeout = 300 * time.Millisecond
	srv.Start()
	t.Cleanup(srv.Close)
	c := signedIn(t, srv.URL, "technician")
	c.wants(200, "", "POST", "/api/machines", body{"name": "A", "bay": "", "maker": "", "serial": "", "note": ""})
	for range 2 {
		tx, err := s.SQL.Begin()
		if err != nil {
			t.Fatal(err)
		}
		if _, err := tx.Exec("select from machines for update"); err != nil {
			t.Fatal(err)
		}
		release := time.AfterFunc(700*time.Millisecond, func() { _ = tx.Rollback() })
		c.wants(200, "", "POST", "/api/machines/1/faults", body{"words": "it clicks"})
		release.Stop()
	}
}

// never gives nothing until its time is over.
type never struct{ ctx context.Context }

func (n never) Read([]byte) (int, error) {
	<-n.ctx.Done()
	return 0, n.ctx.Err()
}

// Who is refused is told when to come again, and strangers cannot fill the record.
func TestRefusedSignIns(t *testing.T) {
	t.Parallel()
	url, s := start(t)
	for range 40 {
		anonymous(t, url).call("POST", "/api/session", map[string]string{"name": "lead", "password": "x"})
	}
	res, err := http.Post(url+"/api/session", "application/json", strings.NewReader(`{"name":"lead","password":"x"}`))
	if err != nil {
		t.Fatal(err)
	}
	res.Body.Close()
	wait, err := strconv.Atoi(res.Header.Get("Retry-After"))
	if res.StatusCode != 429 || err != nil || wait < 1 || wait > 15*60 {
		t.Errorf("%d, Retry-After %q", res.StatusCode, res.Header.Get("Retry-After"))
	}
	var noted int
	if err := s.SQL.QueryRow("select count(*) from events where action = 'sign-in'").Scan(&noted); err != nil {
		t.Fatal(err)
	}
	if noted != 5+1 { // five that were looked at, and once that others were refused
		t.Errorf("%d sign-ins on record", noted)
	}
}

// The same write sent again under its key is answered as it was and written once.
func TestWritesUnderAKey(t *testing.T) {
	t.Parallel()
	url, s := start(t)
	c := signedIn(t, url, "technician")
	write := func(key, path, text string) (int, string) {
		return c.send("POST", path, map[string]string{"Idempotency-Key": key}, strings.NewReader(text))
	}
	const machine = `{"name":"A","bay":"","maker":"","serial":"","note":""}`
	_, first := write("k1", "/api/machines", machine)
	status, again := write("k1", "/api/machines", machine)
	if status != 200 || first != again {
		t.Errorf("again: %d %s, first %s", status, again, first)
	}
	if status, text := write("k1", "/api/machines", strings.Replace(machine, "A", "B", 1)); status != 422 ||
		!strings.Contains(text, "new key") {
		t.Errorf("another body: %d %s", status, text)
	}
	if status, text := signedIn(t, url, "lead").send("POST", "/api/machines",
		map[string]string{"Idempotency-Key": "k1"}, strings.NewReader(machine)); status != 422 ||
		!strings.Contains(text, "already") {
		t.Errorf("another account's key: %d %s", status, text)
	}
	if status, _ := write(strings.Repeat("k", 201), "/api/machines", machine); status != 422 {
		t.Errorf("a long key: %d", status)
	}
	// What is refused is not kept: mended, the same key may be used again.
	const bad = `{"key":"supply.volts","value":"lots","grade":"observed"}`
	if status, _ := write("k2", "/api/machines/1/readings", bad); status != 422 {
		t.Errorf("a bad reading: %d", status)
	}
	const good = `{"key":"supply.volts","value":"24","grade":"observed"}`
	var all sync.WaitGroup
	for range 8 {
		all.Go(func() {
			if status, text := write("k2", "/api/machines/1/readings", good); status != 200 {
				t.Errorf("at once: %d %s", status, text)
			}
		})
	}
	for _, w := range []string{"/api/machines/1/labour", "/api/machines/1/faults", "/api/machines/1/done"} {
		text := map[string]string{"labour": `{"minutes":5,"what":"x"}`, "faults": `{"words":"x"}`,
			"done": `{"task":"belts"}`}[w[len("/api/machines/1/"):]]
		for range 2 {
			all.Go(func() { write("k"+w, w, text) })
		}
	}
	all.Wait()
	for table, want := range map[string]int{"machines": 1, "readings": 2, "labour": 1, "faults": 1} {
		var n int
		if err := s.SQL.QueryRow("select count(*) from " + table).Scan(&n); err != nil {
			t.Fatal(err)
		}
		if table == "readings" {
			_ = s.SQL.QueryRow("select count(*) from readings where trait = 'volts'").Scan(&n)
			want = 1
		}
		if n != want {
			t.Errorf("%d rows in %s, want %d", n, table, want)
		}
	}
	// After 14 days a key may be used anew.
	if _, err := s.SQL.Exec("update write_keys set at = at - interval '14 days 1 second'"); err != nil {
		t.Fatal(err)
	}
	if err := s.CleanUp(t.Context(), time.Now()); err != nil {
		t.Fatal(err)
	}
	if status, _ := write("k1", "/api/machines", strings.Replace(machine, "A", "B", 1)); status != 200 {
		t.Errorf("a fortnight later: %d", status)
	}
}

// A database that stands still gives an answer in time, on every path.
func TestAFrozenDatabase(t *testing.T) {
	url, _ := start(t)
	c := signedIn(t, url, "technician")
	c.http.Timeout = 40 * time.Second
	thaw := pgtest.Cluster().Freeze()
	defer thaw()
	var all sync.WaitGroup
	for _, path := range []string{"/api/machines", "/api/session", "/api/register.csv", "/healthz", "/api/photos/1"} {
		all.Go(func() {
			at := time.Now()
			status, text := c.call("GET", path, nil)
			if status < 500 || time.Since(at) > 30*time.Second {
				t.Errorf("%s: %d %.100s after %s", path, status, text, time.Since(at))
			}
		})
	}
	all.Wait()
}

// Who did what: with old values, whoever asks, and the whole list for the lead alone.
func TestWhoDidWhat(t *testing.T) {
	t.Parallel()
	url, s := start(t)
	c, lead := signedIn(t, url, "technician"), signedIn(t, url, "lead")
	fields := body{"name": "A", "bay": "Quay", "maker": "", "serial": "", "note": ""}
	c.wants(200, "", "POST", "/api/machines", fields)
	fields["bay"] = "Loft"
	lead.wants(200, "", "PUT", "/api/machines/1", body{"version": 1, "fields": fields})
	c.wants(200, "", "POST", "/api/machines/1/readings", body{"key": "supply.volts", "value": "24", "grade": "observed"})
	text := c.wants(200, "bay: Quay → Loft", "GET", "/api/changes?machine=1", nil)
	var list []struct {
		By, Account, Action string
		Lines               []struct{ What, Done, Text string }
	}
	if err := json.Unmarshal([]byte(text), &list); err != nil {
		t.Fatal(err)
	}
	var said []string
	for _, one := range list {
		said = append(said, one.Action+" by "+one.Account)
	}
	want := "add-reading by technician, change-machine by lead, add-machine by technician"
	if got := strings.Join(said, ", "); got != want {
		t.Error(got)
	}
	c.wants(403, "for the lead", "GET", "/api/changes", nil)
	c.wants(403, "for the lead", "GET", "/api/changes?thing=account&key=1", nil)
	lead.wants(200, `"action":"sign-in"`, "GET", "/api/changes?account=technician", nil)
	c.wants(422, "nothing that is on record", "GET", "/api/changes?thing=moon&key=1", nil)
	for _, sql := range []string{"update events set actor = 'x'", "delete from events", "truncate events"} {
		if _, err := s.SQL.Exec(sql); err == nil || !strings.Contains(err.Error(), "stays on record") {
			t.Errorf("%s: %v", sql, err)
		}
	}
	// A file cannot say what an account here did.
	whole := c.wants(200, "", "GET", "/api/record.json?machine=1", nil)
	other := strings.Replace(strings.ReplaceAll(whole, "The technician", "The lead"), `"name": "A"`, `"name": "B"`, 1)
	c.wants(200, "", "POST", "/api/record/import", c.sends([]byte(other)))
	var n int
	const inHisName = "select count(*) from held_readings where machine_id = 2 and taken_by = 'The lead'"
	if err := s.SQL.QueryRow(inHisName).Scan(&n); err != nil || n > 0 {
		t.Errorf("%d readings of machine 2 in the lead's name, %v", n, err)
	}
}

// A database of a newer program is left alone, with both versions named.
func TestANewerSchemaIsRefused(t *testing.T) {
	t.Parallel()
	_, s := start(t)
	if _, err := s.SQL.Exec("insert into goose_db_version (version_id, is_applied) values (999, true)"); err != nil {
		t.Fatal(err)
	}
	err := s.Migrate(context.Background())
	known := fmt.Sprintf("up to version %d", store.SchemaVersion())
	if err == nil || !strings.Contains(err.Error(), "version 999") || !strings.Contains(err.Error(), known) {
		t.Error(err)
	}
}

// PostgreSQL is restarted while eight write: what was acknowledged is there, and of
// nothing that is there it was said that it was not saved.
func TestDatabaseRestartsUnderWriters(t *testing.T) {
	url, s := start(t)
	c := signedIn(t, url, "technician")
	var mu sync.Mutex
	saved, lost := map[string]bool{}, map[string]bool{}
	stop := make(chan struct{})
	var all sync.WaitGroup
	for w := range 8 {
		all.Go(func() {
			for n := 0; ; n++ {
				select {
				case <-stop:
					return
				default:
				}
				name := fmt.Sprintf("M%d-%d", w, n)
				text := fmt.Sprintf(`{"name":%q,"bay":"","maker":"","serial":"","note":""}`, name)
				status, answer := c.send(
					"POST",
					"/api/machines",
					map[string]string{"Idempotency-Key": name},
					strings.NewReader(text),
				)
				mu.Lock()
				if status == 200 {
					saved[name] = true
				} else if strings.Contains(answer, "nothing was saved") {
					lost[name] = true
				}
				mu.Unlock()
			}
		})
	}
	for range 4 {
		time.Sleep(300 * time.Millisecond)
		if err := pgtest.Cluster().Restart(t.Context()); err != nil {
			t.Fatal(err)
		}
	}
	time.Sleep(300 * time.Millisecond)
	close(stop)
	all.Wait()
	there, err := s.Names(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	names := map[string]bool{}
	for _, m := range there {
		names[m.Name] = true
		if lost[m.Name] {
			t.Errorf("%s is there, and it was said that nothing was saved", m.Name)
		}
	}
	for name := range saved {
		if !names[name] {
			t.Errorf("%s was acknowledged and is not there", name)
		}
	}
	if len(saved) < 20 || len(lost) == 0 {
		t.Errorf("%d saved, %d not: too few to tell", len(saved), len(lost))
	}
}
