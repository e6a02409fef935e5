package postgres

import (
	"bytes"
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"net"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"sort"
	"strconv"
	"strings"
	"syscall"
	"time"

	_ "github.com/jackc/pgx/v5/stdlib" // the database/sql driver "pgx"
)

// superuser is the role that owns the cluster; it signs in by password only.
const superuser = "wardifex"

// Options of a cluster.
type Options struct {
	// Dir keeps the cluster between runs. Empty: a temporary cluster that Stop
	// removes, without durability, for tests.
	Dir string
	// Port on 127.0.0.1; 0 takes a free one.
	Port int
}

// Cluster is a running server.
type Cluster struct {
	Port     int
	data     string
	password string
	bin      string
	owner    *syscall.Credential // nil: the caller's own
	fast     bool
	remove   string // folder to remove on Stop
	lock     *os.File
	cmd      *exec.Cmd
	ended    error // set before exited is closed
	exited   chan struct{}
}

// ErrRunning is returned when another process already runs the cluster.
var ErrRunning = errors.New("this cluster is already running in another process; stop that one first")

// Start makes the cluster where there is none yet and starts its server. It
// returns when the server answers.
func Start(ctx context.Context, o Options) (*Cluster, error) {
	bin, err := binaries()
	if err != nil {
		return nil, err
	}
	c := &Cluster{bin: bin, Port: o.Port}
	if c.owner, err = serverOwner(); err != nil {
		return nil, err
	}
	if err := c.place(o.Dir); err != nil {
		c.release()
		return nil, err
	}
	if err := c.initialise(ctx); err != nil {
		c.release()
		return nil, err
	}
	for try := 0; ; try++ {
		if err = c.run(ctx); err == nil {
			return c, nil
		}
		if o.Port != 0 || try == 3 || ctx.Err() != nil {
			c.release()
			return nil, err
		}
		c.Port = 0 // somebody took the free port in between
	}
}

// binaries finds the newest server of Debian's packages.
func binaries() (string, error) {
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/postgres")
	if len(found) == 0 {
		if path, err := exec.LookPath("postgres"); err == nil {
			return filepath.Dir(path), nil
		}
		return "", errors.New("no PostgreSQL server is installed; install Debian's package with: apt-get install postgresql")
	}
	sort.Slice(found, func(i, j int) bool {
		return len(found[i]) < len(found[j]) || len(found[i]) == len(found[j]) && found[i] < found[j]
	})
	return filepath.Dir(found[len(found)-1]), nil
}

// place decides where the data lies. The server's user must be able to enter
// the folder; where it cannot, as in a clone under another user's home, the
// data lies under /var/lib and the folder only keeps the password and the lock.
func (c *Cluster) place(dir string) error {
	if dir == "" {
		tmp, err := os.MkdirTemp("/tmp", "wardifex-pg-")
		if err != nil {
			return err
		}
		c.fast, c.remove = true, tmp
		if err := c.chown(tmp); err != nil {
			return err
		}
		c.data, c.password = filepath.Join(tmp, "data"), randomPassword()
		return nil
	}
	dir, err := filepath.Abs(dir)
	if err != nil {
		return err
	}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	if c.lock, err = lockFile(filepath.Join(dir, "lock")); err != nil {
		return err
	}
	if c.password, err = keptPassword(filepath.Join(dir, "password")); err != nil {
		return err
	}
	parent := dir
	if !c.canEnter(dir) {
		parent = filepath.Join("/var/lib/wardifex", strings.ReplaceAll(strings.Trim(dir, "/"), "/", "-"))
		if err := os.MkdirAll(parent, 0o755); err != nil {
			return err
		}
		if err := os.WriteFile(filepath.Join(dir, "cluster-is-elsewhere"), []byte(parent+"\n"), 0o644); err != nil {
			return err
		}
	}
	c.data = filepath.Join(parent, "cluster")
	if err := os.MkdirAll(c.data, 0o700); err != nil {
		return err
	}
	return c.chown(c.data)
}

// DataDir is where the cluster's data lies.
func (c *Cluster) DataDir() string { return c.data }

func lockFile(path string) (*os.File, error) {
	f, err := os.OpenFile(path, os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return nil, err
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		f.Close()
		return nil, ErrRunning
	}
	return f, nil
}

func randomPassword() string {
	b := make([]byte, 18)
	rand.Read(b)
	return hex.EncodeToString(b)
}

func keptPassword(path string) (string, error) {
	text, err := os.ReadFile(path)
	if err == nil {
		return strings.TrimSpace(string(text)), nil
	}
	if !errors.Is(err, os.ErrNotExist) {
		return "", err
	}
	p := randomPassword()
	return p, os.WriteFile(path, []byte(p+"\n"), 0o600)
}

func (c *Cluster) initialise(ctx context.Context) error {
	if _, err := os.Stat(filepath.Join(c.data, "PG_VERSION")); err == nil {
		return nil
	}
	pw, err := os.CreateTemp("/tmp", "wardifex-pw-")
	if err != nil {
		return err
	}
	defer os.Remove(pw.Name())
	if _, err := pw.WriteString(c.password + "\n"); err != nil {
		return err
	}
	pw.Close()
	if err := c.chown(pw.Name()); err != nil {
		return err
	}
	args := []string{
		"-D",
		c.data,
		"-U",
		superuser,
		"--pwfile=" + pw.Name(),
		"--auth=scram-sha-256",
		"--encoding=UTF8",
		"--locale=C",
	}
	if c.fast {
		args = append(args, "--no-sync")
	}
	cmd := c.command(ctx, "initdb", args...)
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("initdb: %w\n%s", err, out)
	}
	return nil
}

func (c *Cluster) command(ctx context.Context, name string, args ...string) *exec.Cmd {
	cmd := exec.CommandContext(ctx, filepath.Join(c.bin, name), args...)
	cmd.Dir = "/"
	cmd.Env = []string{"PATH=/usr/bin:/bin", "LC_ALL=C", "HOME=/"}
	cmd.SysProcAttr = &syscall.SysProcAttr{Credential: c.owner}
	return cmd
}

// run starts the server and waits until it answers.
func (c *Cluster) run(ctx context.Context) error {
	if c.Port == 0 {
		l, err := net.Listen("tcp", "127.0.0.1:0")
		if err != nil {
			return err
		}
		c.Port = l.Addr().(*net.TCPAddr).Port
		l.Close()
	}
	args := []string{
		"-D",
		c.data,
		"-p",
		fmt.Sprint(c.Port),
		"-c",
		"listen_addresses=127.0.0.1",
		"-c",
		"unix_socket_directories=",
		"-c",
		"max_connections=60",
	}
	if c.fast {
		args = append(args, "-c", "fsync=off", "-c", "synchronous_commit=off", "-c", "full_page_writes=off")
	}
	cmd := c.command(context.WithoutCancel(ctx), "postgres", args...)
	// A group of its own, so that Ctrl-C at the terminal reaches us first; and
	// an end with ours, should we be killed.
	cmd.SysProcAttr.Setpgid = true
	cmd.SysProcAttr.Pdeathsig = syscall.SIGINT
	var log bytes.Buffer
	cmd.Stdout, cmd.Stderr = &log, &log
	started, exited := make(chan error, 1), make(chan struct{})
	go func() {
		// The death signal follows the thread that started the server, so that
		// thread has to stay.
		runtime.LockOSThread()
		err := cmd.Start()
		started <- err
		if err == nil {
			c.ended = cmd.Wait()
			close(exited)
		}
	}()
	if err := <-started; err != nil {
		return fmt.Errorf("starting PostgreSQL: %w", err)
	}
	c.cmd, c.exited = cmd, exited
	db, err := sql.Open("pgx", c.DSN("postgres"))
	if err != nil {
		return err
	}
	defer db.Close()
	deadline := time.Now().Add(60 * time.Second)
	for {
		select {
		case <-exited:
			c.cmd = nil
			return fmt.Errorf("PostgreSQL stopped as it started (%v):\n%s", c.ended, log.String())
		case <-ctx.Done():
			c.halt()
			return ctx.Err()
		case <-time.After(30 * time.Millisecond):
		}
		if err := db.PingContext(ctx); err == nil {
			return nil
		} else if time.Now().After(deadline) {
			c.halt()
			return fmt.Errorf("PostgreSQL does not answer: %w\n%s", err, log.String())
		}
	}
}

// DSN is the connection string for a database of the cluster.
func (c *Cluster) DSN(database string) string {
	u := url.URL{
		Scheme:   "postgres",
		User:     url.UserPassword(superuser, c.password),
		Host:     fmt.Sprintf("127.0.0.1:%d", c.Port),
		Path:     "/" + database,
		RawQuery: "sslmode=disable&connect_timeout=5",
	}
	return u.String()
}

// HasDatabase reports whether a database exists.
func (c *Cluster) HasDatabase(ctx context.Context, name string) (there bool, err error) {
	err = c.admin(func(db *sql.DB) error {
		return db.QueryRowContext(ctx, "select exists (select 1 from pg_database where datname = $1)", name).Scan(&there)
	})
	return there, err
}

// CreateDatabase makes a database, as a copy of template where one is named.
func (c *Cluster) CreateDatabase(ctx context.Context, name, template string) error {
	return c.admin(func(db *sql.DB) error {
		statement := "create database " + quoted(name)
		if template != "" {
			statement += " template " + quoted(template)
		}
		_, err := db.ExecContext(ctx, statement)
		return err
	})
}

// DropDatabase removes a database where there is one.
func (c *Cluster) DropDatabase(ctx context.Context, name string) error {
	return c.admin(func(db *sql.DB) error {
		_, err := db.ExecContext(ctx, "drop database if exists "+quoted(name)+" with (force)")
		return err
	})
}

// RenameDatabase gives a database nobody is connected to another name.
func (c *Cluster) RenameDatabase(ctx context.Context, from, to string) error {
	return c.admin(func(db *sql.DB) error {
		_, err := db.ExecContext(ctx, "alter database "+quoted(from)+" rename to "+quoted(to))
		return err
	})
}

func (c *Cluster) admin(do func(*sql.DB) error) error {
	db, err := sql.Open("pgx", c.DSN("postgres"))
	if err != nil {
		return err
	}
	defer db.Close()
	return do(db)
}

func quoted(name string) string { return `"` + strings.ReplaceAll(name, `"`, `""`) + `"` }

// halt stops the server in an orderly way and waits for its end.
func (c *Cluster) halt() {
	if c.cmd == nil {
		return
	}
	for _, step := range []struct {
		signal syscall.Signal
		wait   time.Duration
	}{{syscall.SIGINT, 20 * time.Second}, {syscall.SIGQUIT, 10 * time.Second}, {syscall.SIGKILL, 5 * time.Second}} {
		_ = c.cmd.Process.Signal(step.signal)
		select {
		case <-c.exited:
			c.cmd = nil
			return
		case <-time.After(step.wait):
		}
	}
}

// Freeze stops every process of the server where it stands, as a disk that does not answer
// does. It gives what lets them go on.
func (c *Cluster) Freeze() (thaw func()) {
	main := c.cmd.Process.Pid
	stopped := []int{main}
	_ = syscall.Kill(main, syscall.SIGSTOP) // from here on it starts no others
	list, _ := filepath.Glob("/proc/[0-9]*/stat")
	for _, file := range list {
		text, err := os.ReadFile(file)
		if err != nil {
			continue // it has ended since
		}
		// Source: proc(5): pid (name) state ppid …; the name may hold blanks and brackets.
		fields := strings.Fields(string(text[bytes.LastIndexByte(text, ')')+1:]))
		pid, _ := strconv.Atoi(filepath.Base(filepath.Dir(file)))
		if len(fields) > 1 && fields[1] == strconv.Itoa(main) {
			_ = syscall.Kill(pid, syscall.SIGSTOP)
			stopped = append(stopped, pid)
		}
	}
	return func() {
		for _, pid := range stopped {
			_ = syscall.Kill(pid, syscall.SIGCONT)
		}
	}
}

// Restart stops the server and starts it again on the same port; connections
// in use break.
func (c *Cluster) Restart(ctx context.Context) error {
	c.halt()
	return c.run(ctx)
}

// Exited is closed when the server that runs now ends, for whatever reason.
func (c *Cluster) Exited() <-chan struct{} { return c.exited }

// Ended is how a server ended that has exited; nil when it ended by itself.
func (c *Cluster) Ended() error { return c.ended }

// Halt stops the server and keeps the cluster for Restart.
func (c *Cluster) Halt() { c.halt() }

// Stop stops the server, and removes the cluster where it was temporary.
func (c *Cluster) Stop() {
	c.halt()
	c.release()
}

func (c *Cluster) release() {
	c.halt()
	if c.remove != "" {
		os.RemoveAll(c.remove)
	}
	if c.lock != nil {
		c.lock.Close()
	}
}

// Remove deletes a cluster that is not running, with its data.
func Remove(dir string) error {
	c := &Cluster{}
	var err error
	if c.owner, err = serverOwner(); err != nil {
		return err
	}
	if err := c.place(dir); err != nil {
		return err
	}
	defer c.release()
	if dir, err = filepath.Abs(dir); err != nil {
		return err
	}
	if err := os.RemoveAll(c.data); err != nil {
		return err
	}
	if parent := filepath.Dir(c.data); parent != dir {
		if err := os.Remove(parent); err != nil {
			return err
		}
	}
	return os.RemoveAll(dir)
}
