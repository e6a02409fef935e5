package main

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/cookiejar"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"wardifex/internal/postgres/pgtest"
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
	if got := post("/api/machines", map[string]string{"name": "Added", "bay": "", "maker": "", "serial": "", "note": ""}); got != 200 {
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
	if post("/api/session", map[string]string{"name": "technician", "password": "netloft-demo"}); !strings.Contains(fleet(), "Added") {
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
	if err := cmd.ExecuteContext(t.Context()); err == nil || !strings.Contains(err.Error(), fmt.Sprintf("PORT=%d", port+1)) {
		t.Errorf("got %v", err)
	}
	if _, err := os.Stat(dir); !errors.Is(err, os.ErrNotExist) {
		t.Error("PostgreSQL was set up all the same")
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
	file := filepath.Join(t.TempDir(), "all.dump")
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
	t.Setenv("WARDIFEX_DATABASE_URL", into)
	c := restoreCommand()
	c.SetArgs([]string{file})
	if err := c.ExecuteContext(t.Context()); err != nil {
		t.Fatal(err)
	}
	s, err := store.Open(into)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	if u, err := s.SignIn(t.Context(), "ann", "a long password", "127.0.0.1", time.Now()); err != nil || u.Role != "lead" || u.DisplayName != "Ann Example" {
		t.Errorf("after restoring: %+v, %v", u, err)
	}
}
