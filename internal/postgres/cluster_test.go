package postgres_test

import (
	"context"
	"database/sql"
	"errors"
	"net"
	"os"
	"path/filepath"
	"strconv"
	"syscall"
	"testing"
	"time"

	"wardifex/internal/postgres"
)

func ask(t *testing.T, c *postgres.Cluster, query string) (answer string) {
	t.Helper()
	db, err := sql.Open("pgx", c.DSN("postgres"))
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	if err := db.QueryRow(query).Scan(&answer); err != nil {
		t.Fatal(err)
	}
	return answer
}

// A clone in a folder that other users cannot enter, as under root's home.
func TestKeptClusterInAClosedFolder(t *testing.T) {
	ctx := context.Background()
	closed := filepath.Join(t.TempDir(), "closed")
	if err := os.Mkdir(closed, 0o700); err != nil {
		t.Fatal(err)
	}
	dir := filepath.Join(closed, "demo")
	c, err := postgres.Start(ctx, postgres.Options{Dir: dir})
	if err != nil {
		t.Fatal(err)
	}
	if got := ask(t, c, "show listen_addresses"); got != "127.0.0.1" {
		t.Errorf("listens on %s", got)
	}
	if _, err := postgres.Start(ctx, postgres.Options{Dir: dir}); !errors.Is(err, postgres.ErrRunning) {
		t.Errorf("a second start on the same folder: %v", err)
	}
	if err := c.CreateDatabase(ctx, "kept", ""); err != nil {
		t.Fatal(err)
	}
	c.Stop()
	if c, err = postgres.Start(ctx, postgres.Options{Dir: dir}); err != nil {
		t.Fatal(err)
	}
	if there, err := c.HasDatabase(ctx, "kept"); !there || err != nil {
		t.Errorf("the second start does not find the data: %v, %v", there, err)
	}
	data := c.DataDir()
	c.Stop()
	if err := postgres.Remove(dir); err != nil {
		t.Fatal(err)
	}
	for _, gone := range []string{dir, data} {
		if _, err := os.Stat(gone); !errors.Is(err, os.ErrNotExist) {
			t.Errorf("%s is still there: %v", gone, err)
		}
	}
}

func TestTwoSideBySideAndNothingLeftBehind(t *testing.T) {
	ctx := context.Background()
	a, err := postgres.Start(ctx, postgres.Options{})
	if err != nil {
		t.Fatal(err)
	}
	b, err := postgres.Start(ctx, postgres.Options{})
	if err != nil {
		a.Stop()
		t.Fatal(err)
	}
	if a.Port == b.Port || ask(t, a, "show data_directory") == ask(t, b, "show data_directory") {
		t.Error("two clusters share a port or a folder")
	}
	pid, err := strconv.Atoi(ask(t, a, "select split_part(pg_read_file('postmaster.pid'), E'\\n', 1)"))
	if err != nil {
		t.Fatal(err)
	}
	a.Stop()
	b.Stop()
	if err := syscall.Kill(pid, 0); !errors.Is(err, syscall.ESRCH) {
		t.Errorf("process %d is still there: %v", pid, err)
	}
	if _, err := os.Stat(a.DataDir()); !errors.Is(err, os.ErrNotExist) {
		t.Errorf("%s is still there", a.DataDir())
	}
}

func TestPortTaken(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	ctx, cancel := context.WithTimeout(context.Background(), 30*time.Second)
	defer cancel()
	if c, err := postgres.Start(ctx, postgres.Options{Port: l.Addr().(*net.TCPAddr).Port}); err == nil {
		c.Stop()
		t.Error("started on a port that is taken")
	}
}
