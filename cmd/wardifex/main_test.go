package main

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image"
	"image/jpeg"
	"io"
	"net"
	"net/http"
	"net/http/cookiejar"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/spf13/cobra"

	"wardifex/internal/app"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/machine"
	"wardifex/internal/picture"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/server"
	"wardifex/internal/store"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

func freePort(t *testing.T) int {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port
}

// startDemo runs the demo command until stop is called, which waits for its end.
func startDemo(t *testing.T, dir string) (url string, stop func()) {
	t.Helper()
	port := freePort(t)
	t.Setenv("PORT", fmt.Sprint(port))
	ctx, cancel := context.WithCancel(context.Background())
	ended := make(chan error, 1)
	go func() {
		cmd := demoCommand()
		cmd.SetArgs([]string{"--dir", dir})
		ended <- cmd.ExecuteContext(ctx)
	}()
	url = fmt.Sprintf("http://127.0.0.1:%d", port)
	deadline := time.Now().Add(60 * time.Second)
	for {
		select {
		case err := <-ended:
			t.Fatalf("the demo ended: %v", err)
		case <-time.After(50 * time.Millisecond):
		}
		if res, err := http.Get(url + "/healthz"); err == nil {
			res.Body.Close()
			if res.StatusCode == http.StatusOK {
				break
			}
		}
		if time.Now().After(deadline) {
			t.Fatal("the demo does not answer")
		}
	}
	return url, func() {
		cancel()
		if err := <-ended; err != nil {
			t.Errorf("the demo's end: %v", err)
		}
	}
}

// A demo is filled at its first start, keeps what is changed at its second,
// refuses a second beside it, leaves nothing running, and starts over after a
// reset.
func TestDemoFromFirstStartToReset(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "demo")
	url, stop := startDemo(t, dir)
	jar, _ := cookiejar.New(nil)
	c := &http.Client{Jar: jar}
	post := func(path string, body any) int {
		t.Helper()
		text, _ := json.Marshal(body)
		res, err := c.Post(url+path, "application/json", bytes.NewReader(text))
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		return res.StatusCode
	}
	fleet := func() string {
		t.Helper()
		res, err := c.Get(url + "/api/machines")
		if err != nil {
			t.Fatal(err)
		}
		defer res.Body.Close()
		text, _ := io.ReadAll(res.Body)
		return string(text)
	}
	if got := post("/api/session", map[string]string{"name": "technician", "password": "netloft-demo"}); got != 200 {
		t.Fatalf("sign in: %d", got)
	}
	if !strings.Contains(fleet(), "Avocet") {
		t.Error("the demo room is not there")
	}
	if got := post("/api/machines",
		map[string]string{"name": "Added", "bay": "", "maker": "", "serial": "", "note": ""}); got != 200 {
		t.Errorf("adding a machine: %d", got)
	}
	t.Setenv("PORT", fmt.Sprint(freePort(t)))
	second := demoCommand()
	second.SetArgs([]string{"--dir", dir})
	if err := second.ExecuteContext(t.Context()); err == nil || !strings.Contains(err.Error(), "already running") {
		t.Errorf("a second demo on the same folder: %v", err)
	}
	if err := resetDemo(dir); err == nil || !strings.Contains(err.Error(), "stop it") {
		t.Errorf("reset of a running demo: %v", err)
	}
	stop()
	if _, err := http.Get(url + "/healthz"); err == nil {
		t.Error("the server still answers")
	}

	url, stop = startDemo(t, dir)
	if post("/api/session", map[string]string{"name": "technician", "password": "netloft-demo"}); !strings.Contains(
		fleet(),
		"Added",
	) {
		t.Error("the second start has lost what was added")
	}
	stop()

	if err := resetDemo(dir); err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(dir); !errors.Is(err, os.ErrNotExist) {
		t.Errorf("after a reset: %v", err)
	}
	if err := resetDemo(dir); err != nil {
		t.Errorf("a reset of nothing: %v", err)
	}
}

func TestPortTakenIsSaidBeforeAnythingStarts(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	port := l.Addr().(*net.TCPAddr).Port
	t.Setenv("PORT", fmt.Sprint(port))
	dir := filepath.Join(t.TempDir(), "demo")
	cmd := demoCommand()
	cmd.SetArgs([]string{"--dir", dir})
	if err := cmd.ExecuteContext(t.Context()); err == nil ||
		!strings.Contains(err.Error(), fmt.Sprintf("PORT=%d", port+1)) {
		t.Errorf("got %v", err)
	}
	if _, err := os.Stat(dir); !errors.Is(err, os.ErrNotExist) {
		t.Error("PostgreSQL was set up all the same")
	}
}

func TestTrustedProxies(t *testing.T) {
	t.Parallel()
	for written, want := range map[string]string{"127.0.0.1": "127.0.0.1/32", " 10.0.0.0/8": "10.0.0.0/8",
		"::1": "::1/128", "0.0.0.0/0": "", "proxy": "", "10.0.0.0/40": ""} {
		got, err := settings{TrustedProxies: []string{written}}.proxies()
		if want == "" && err == nil || want != "" && (err != nil || got[0].String() != want) {
			t.Errorf("%q: %v, %v", written, got, err)
		}
	}
}

func TestWithoutADatabaseItSaysWhatIsMissing(t *testing.T) {
	t.Setenv("WARDIFEX_DATABASE_URL", "")
	for name, run := range map[string]func() error{
		"serve":   func() error { return serveCommand().ExecuteContext(t.Context()) },
		"migrate": func() error { return migrateCommand().ExecuteContext(t.Context()) },
		"backup": func() error {
			c := backupCommand()
			c.SetArgs([]string{filepath.Join(t.TempDir(), "x")})
			return c.ExecuteContext(t.Context())
		},
	} {
		if err := run(); err == nil || !strings.Contains(err.Error(), "WARDIFEX_DATABASE_URL is not set") {
			t.Errorf("%s: %v", name, err)
		}
	}
	t.Setenv("PORT", "eighty")
	if _, err := readSettings(false); err == nil {
		t.Error("PORT=eighty was accepted")
	}
}

// typing gives standard input to a command.
func typing(t *testing.T, text string) {
	t.Helper()
	r, w, err := os.Pipe()
	if err != nil {
		t.Fatal(err)
	}
	if _, err := w.WriteString(text); err != nil {
		t.Fatal(err)
	}
	w.Close()
	before := os.Stdin
	os.Stdin = r
	t.Cleanup(func() { os.Stdin = before })
}

// The first account, a backup, and the backup read into an empty database.
func TestFirstAccountAndBackup(t *testing.T) {
	from, into := pgtest.Database(t), pgtest.Database(t)
	t.Setenv("WARDIFEX_DATABASE_URL", from)
	t.Setenv("WARDIFEX_PHOTOS", filepath.Join(t.TempDir(), "photos"))
	add := func(password string, args ...string) error {
		typing(t, password)
		c := userCommand()
		c.SetArgs(append([]string{"add"}, args...))
		return c.ExecuteContext(t.Context())
	}
	if err := add("a long password\n", "ann", "--role", "lead", "--display", "Ann Example"); err != nil {
		t.Fatal(err)
	}
	if err := add("\n", "bo"); err == nil || !strings.Contains(err.Error(), "no password") {
		t.Errorf("an empty password: %v", err)
	}
	for _, args := range [][]string{{"list"}, {}} { // a script must see that nothing was done
		c := userCommand()
		c.SetArgs(args)
		if err := c.ExecuteContext(t.Context()); err == nil || !strings.Contains(err.Error(), "add") {
			t.Errorf("user %v: %v", args, err)
		}
	}
	photographed(t, from)
	// A database of an earlier version is dumped as it is, with a key to it that the restored one does not take.
	old := openWithPhotos(t, from)
	ann, err := old.UserNamed(t.Context(), "ann")
	if err == nil {
		_, err = app.New(old, time.Now).MakeToken(t.Context(), ann.ID, "a script", store.Technician, 9, time.Now())
	}
	if err == nil {
		_, err = app.New(old, time.Now).MakeLink(t.Context(), ann.ID, time.Now())
	}
	if err == nil {
		_, err = old.SQL.ExecContext(t.Context(), "delete from goose_db_version where version_id = $1",
			store.SchemaVersion())
	}
	if err != nil {
		t.Fatal(err)
	}
	versions := func() (n int64) {
		if err := old.SQL.QueryRowContext(t.Context(), "select max(version_id) from goose_db_version").Scan(&n); err != nil {
			t.Fatal(err)
		}
		return n
	}
	file := filepath.Join(t.TempDir(), "all.tar")
	backup := func() error {
		c := backupCommand()
		c.SetArgs([]string{file})
		return c.ExecuteContext(t.Context())
	}
	if err := backup(); err != nil {
		t.Fatal(err)
	}
	if err := backup(); err == nil || !strings.Contains(err.Error(), "no backup is overwritten") {
		t.Errorf("over an older backup: %v", err)
	}
	if n := versions(); n != store.SchemaVersion()-1 {
		t.Errorf("a backup brought the database to version %d", n)
	}
	if _, err := old.SQL.ExecContext(t.Context(),
		"insert into goose_db_version (version_id, is_applied) values ($1, true)", store.SchemaVersion()); err != nil {
		t.Fatal(err)
	}
	file = filepath.Join(t.TempDir(), "again.tar") // of the newest version, which the rest of this test reads
	if err := backup(); err != nil {
		t.Fatal(err)
	}
	t.Setenv("WARDIFEX_DATABASE_URL", into)
	t.Setenv("WARDIFEX_PHOTOS", filepath.Join(t.TempDir(), "photos"))
	c := restoreCommand()
	c.SetArgs([]string{file})
	if err := c.ExecuteContext(t.Context()); err != nil {
		t.Fatal(err)
	}
	s := openWithPhotos(t, into)
	if tokens, err := s.Tokens(t.Context()); err != nil || len(tokens) != 0 {
		t.Errorf("tokens after restoring: %+v, %v", tokens, err)
	}
	if links, err := s.CalendarLinks(t.Context(), ann.ID); err != nil || len(links) != 0 {
		t.Errorf("links after restoring: %+v, %v", links, err)
	}
	if jpeg, err := s.Photo(t.Context(), 1, false); err != nil || len(jpeg) == 0 {
		t.Errorf("the picture after restoring: %v", err)
	}
	if u, _, err := app.New(s, time.Now).SignIn(t.Context(), "ann", "a long password",
		app.SignInFrom{Address: "127.0.0.1"}, time.Now()); err != nil ||
		u.Role != "lead" ||
		u.DisplayName != "Ann Example" {
		t.Errorf("after restoring: %+v, %v", u, err)
	}
}

// openWithPhotos opens a database and the folder that the environment names.
func openWithPhotos(t *testing.T, dsn string) *store.Store {
	t.Helper()
	s, err := openStore(t.Context(), dsn, os.Getenv("WARDIFEX_PHOTOS"))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s
}

// photographed enters a machine with a picture beside a reading.
func photographed(t *testing.T, dsn string) {
	t.Helper()
	s := openWithPhotos(t, dsn)
	id, err := does(s).AddMachine(t.Context(), store.Fields{Name: "Avocet"}, app.Like{}, "x", time.Now())
	if err != nil {
		t.Fatal(err)
	}
	reading, err := does(s).AddReading(
		t.Context(),
		id,
		"supply.volts",
		"24",
		machine.Reading{Grade: machine.Observed, TakenAt: time.Now(), By: "x"},
		time.Now(),
	)
	if err != nil {
		t.Fatal(err)
	}
	var file bytes.Buffer
	if err := jpeg.Encode(&file, image.NewGray(image.Rect(0, 0, 9, 9)), nil); err != nil {
		t.Fatal(err)
	}
	k, err := picture.Take(file.Bytes())
	if err != nil {
		t.Fatal(err)
	}
	if _, err := does(s).AddPhoto(t.Context(), store.PhotoOf{Reading: reading}, k, "x", time.Now()); err != nil {
		t.Fatal(err)
	}
}

// A record goes out of one database and into another by the commands; a file
// that is none is refused in a sentence.
func TestExportAndImport(t *testing.T) {
	from, into := pgtest.Database(t), pgtest.Database(t)
	t.Setenv("WARDIFEX_DATABASE_URL", from)
	t.Setenv("WARDIFEX_PHOTOS", filepath.Join(t.TempDir(), "photos"))
	photographed(t, from)
	file := filepath.Join(t.TempDir(), "record.json")
	run := func(c *cobra.Command) error {
		c.SetArgs([]string{file})
		return c.ExecuteContext(t.Context())
	}
	if err := run(exportCommand()); err != nil {
		t.Fatal(err)
	}
	if err := run(exportCommand()); err == nil || !strings.Contains(err.Error(), "is there already") {
		t.Errorf("over an older file: %v", err)
	}
	t.Setenv("WARDIFEX_DATABASE_URL", into)
	if err := run(importCommand()); err != nil {
		t.Fatal(err)
	}
	s := openWithPhotos(t, into)
	if ms, err := s.Fleet(t.Context()); err != nil || len(ms) != 1 || ms[0].Facts.Fact("supply.volts").Value.Text != "24" {
		t.Errorf("after: %+v, %v", ms, err)
	}
	if err := os.WriteFile(file, []byte("{}"), 0o600); err != nil {
		t.Fatal(err)
	}
	if err := run(importCommand()); err == nil || !strings.Contains(err.Error(), "no file of the format") {
		t.Errorf("a file of nothing: %v", err)
	}
}

// The published schemas are those of the Go types, and what goes out is valid
// by them.
func TestSchemas(t *testing.T) {
	for name, kind := range formats {
		published, err := os.ReadFile("../../docs/" + name + ".schema.json")
		if err != nil {
			t.Fatal(err)
		}
		text, err := schemaOf(kind)
		if err != nil || strings.TrimSpace(string(published)) != string(text) {
			t.Errorf("docs/%s.schema.json is stale (%v): run make types", name, err)
		}
	}
	registry := huma.NewMapRegistry("#/$defs/", huma.DefaultSchemaNamer)
	schema := registry.Schema(formats["catalogue"], true, "")
	server.AddChoices(registry)
	check := func(v any) []error {
		text, _ := json.Marshal(v)
		var plain any
		_ = json.Unmarshal(text, &plain)
		res := &huma.ValidateResult{}
		huma.Validate(registry, schema, huma.NewPathBuffer(nil, 0), huma.ModeWriteToServer, plain, res)
		return res.Errors
	}
	for _, name := range []string{"catalogue", "kits"} {
		text, err := os.ReadFile("../../internal/core/catalogue/shipped/" + name + ".json")
		if err != nil {
			t.Fatal(err)
		}
		if errs := check(json.RawMessage(text)); len(errs) > 0 {
			t.Errorf("the shipped %s are not valid by the published schema: %v", name, errs[0])
		}
	}
	if errs := check(catalogue.NewFile(catalogue.Shipped(), catalogue.Kits())); len(errs) > 0 {
		t.Errorf("what goes out is not valid by its schema: %v", errs[0])
	}
	if errs := check(map[string]any{"format": "wardifex-catalogue", "version": 1, "kinds": "all"}); len(errs) == 0 {
		t.Error("the schema takes anything")
	}
}

// The shop's time zone is set by the command line; a name that is none is refused.
func TestShop(t *testing.T) {
	t.Setenv("WARDIFEX_DATABASE_URL", pgtest.Database(t))
	t.Setenv("WARDIFEX_PHOTOS", t.TempDir())
	shop := func(args ...string) error {
		cmd := shopCommand()
		cmd.SetArgs(args)
		return cmd.ExecuteContext(t.Context())
	}
	if err := shop("--time-zone", "Mars/Olympus"); err == nil || !strings.Contains(err.Error(), "there is no time zone") {
		t.Errorf("a time zone that is none: %v", err)
	}
	if err := shop("--time-zone", "Australia/Brisbane"); err != nil {
		t.Fatal(err)
	}
	st, err := openStore(t.Context(), os.Getenv("WARDIFEX_DATABASE_URL"), os.Getenv("WARDIFEX_PHOTOS"))
	if err != nil {
		t.Fatal(err)
	}
	defer st.Close()
	// Nothing is on record yet: it holds from the beginning.
	if s, err := st.Shop(t.Context()); err != nil || s.TimeZone != "Australia/Brisbane" || len(s.Before) != 0 {
		t.Errorf("%+v, %v", s, err)
	}
	// Another instance, and one that starts where a zone is set, keep to it.
	t.Setenv("TZ", "Europe/Oslo")
	if err := takeOverTimeZone(t.Context(), st); err != nil || st.Location().String() != "Australia/Brisbane" {
		t.Errorf("%s, %v", st.Location(), err)
	}
	if err := shop("--time-zone", "Europe/Oslo"); err != nil {
		t.Fatal(err)
	}
	if err := st.Refresh(t.Context()); err != nil || st.Location().String() != "Europe/Oslo" {
		t.Errorf("the other instance is at %s, %v", st.Location(), err)
	}
}

// does is what people can do, on a record.
func does(s *store.Store) *app.App { return app.New(s, time.Now) }
