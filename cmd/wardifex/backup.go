package main

import (
	"archive/tar"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"wardifex/internal/store"
)

// A backup is a tar archive: what is in it, and then the database as pg_dump writes it.
// Those of earlier versions have no manifest, and pictures behind the database.
const (
	manifestName = "manifest.json"
	dumpName     = "database.dump"
	photosDir    = "photos/"
)

const backupFormat = "wardifex-backup"

// manifest says what a backup holds, so that it can be told whether it is whole.
type manifest struct {
	Format  string           `json:"format"`
	Version int              `json:"version"`
	Made    time.Time        `json:"made"`
	Schema  int64            `json:"schema"` // of the database
	Dump    fileSum          `json:"dump"`
	Rows    map[string]int64 `json:"rows"` // of each table
}

type fileSum struct {
	Size   int64  `json:"size"`
	SHA256 string `json:"sha256"`
}

// keys are tables whose rows let a program in: one that was revoked since a backup stays so.
var keys = []string{"api_tokens", "calendar_links"}

// notBackedUp are tables whose rows let somebody in, or are of use for a day only.
var notBackedUp = append([]string{"sessions", "devices", "sign_in_tries", "write_keys", "uploads"}, keys...)

func backupCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "backup FILE",
		Short: "Write everything on record, pictures too, to one file",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if _, err := os.Stat(args[0]); err == nil {
				return fmt.Errorf("%s is there already; choose another name, so that no backup is overwritten", args[0])
			}
			set, err := readSettings(true)
			if err != nil {
				return err
			}
			return backup(cmd.Context(), set, args[0])
		},
	}
}

func backup(ctx context.Context, set settings, file string) error {
	st, err := store.Open(set.Database) // as it is: a backup before an update is of what was there before it
	if err != nil {
		return err
	}
	defer st.Close()
	dir, err := os.MkdirTemp(filepath.Dir(file), ".wardifex-backup-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	dump := filepath.Join(dir, dumpName)
	m := manifest{Format: backupFormat, Version: 1, Made: time.Now().UTC()}
	// Rows are counted in the state of the database that is dumped.
	m.Schema, m.Rows, err = st.Counted(ctx, notBackedUp, func(snapshot string) error {
		args := []string{"--format=custom", "--no-owner", "--snapshot=" + snapshot, "--file=" + dump}
		for _, table := range notBackedUp {
			args = append(args, "--exclude-table-data="+table)
		}
		return tool(ctx, "pg_dump", append(args, set.Database)...)
	})
	if err != nil {
		return err
	}
	if m.Schema == 0 {
		return errors.New("there is nothing of Wardifex in this database, so nothing was backed up; WARDIFEX_DATABASE_URL " +
			"names another perhaps")
	}
	if m.Schema != store.SchemaVersion() {
		fmt.Fprintf(os.Stderr, "The database has schema version %d, this program's is %d. It is backed up as it is, and "+
			"was not changed.\n", m.Schema, store.SchemaVersion())
	}
	if m.Dump, err = sumOf(dump); err != nil {
		return err
	}
	photos := ""
	if m.Schema < store.SchemaVersion() { // an earlier version kept pictures in a folder
		photos = strings.TrimPrefix(set.Photos, "file://")
	}
	// Finished under another name, so that what bears the name is whole.
	whole := filepath.Join(dir, "whole.tar")
	if err := pack(whole, m, dump, photos); err != nil {
		return err
	}
	return os.Rename(whole, file)
}

func pack(whole string, m manifest, dump, photos string) error {
	text, err := json.MarshalIndent(m, "", " ")
	if err != nil {
		return err
	}
	in, err := os.Open(dump)
	if err != nil {
		return err
	}
	defer in.Close()
	out, err := os.OpenFile(whole, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	archive := tar.NewWriter(out)
	err = entry(archive, manifestName, int64(len(text)), bytes.NewReader(text))
	if err == nil {
		err = entry(archive, dumpName, m.Dump.Size, in)
	}
	if err == nil && photos != "" {
		err = packPhotos(archive, photos)
	}
	return errors.Join(err, archive.Close(), out.Sync(), out.Close())
}

// packPhotos takes the files of a folder in, where there is one.
func packPhotos(archive *tar.Writer, folder string) error {
	files, err := os.ReadDir(folder)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	for _, f := range files {
		if err != nil || !f.Type().IsRegular() {
			continue
		}
		var jpeg []byte
		if jpeg, err = os.ReadFile(filepath.Join(folder, f.Name())); err == nil {
			err = entry(archive, photosDir+f.Name(), int64(len(jpeg)), bytes.NewReader(jpeg))
		}
	}
	return err
}

func entry(archive *tar.Writer, name string, size int64, from io.Reader) error {
	if err := archive.WriteHeader(&tar.Header{Name: name, Mode: 0o600, Size: size}); err != nil {
		return err
	}
	_, err := io.Copy(archive, from)
	return err
}

func sumOf(file string) (fileSum, error) {
	in, err := os.Open(file)
	if err != nil {
		return fileSum{}, err
	}
	defer in.Close()
	sum := sha256.New()
	n, err := io.Copy(sum, in)
	return fileSum{Size: n, SHA256: hex.EncodeToString(sum.Sum(nil))}, err
}

func verifyCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "verify FILE",
		Short: "Say whether a backup is whole and unchanged",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			dir, err := os.MkdirTemp("", "wardifex-verify-")
			if err != nil {
				return err
			}
			defer os.RemoveAll(dir)
			b, err := unpack(cmd.Context(), args[0], dir)
			if err != nil {
				return err
			}
			fmt.Println(b.words())
			return nil
		},
	}
}

// unpacked is a backup whose parts lie in a folder, found whole.
type unpacked struct {
	file     string
	manifest *manifest // nil of an earlier version's
	dump     string    // path
	photos   string    // folder; empty where pictures are in the database
}

func (u unpacked) words() string {
	if u.manifest == nil {
		return u.file + " can be read. It is of an earlier version, which wrote no checksums: whether anything in it " +
			"was changed cannot be told."
	}
	rows := int64(0)
	for _, n := range u.manifest.Rows {
		rows += n
	}
	return fmt.Sprintf(
		"%s is whole and unchanged: made on %s, schema version %d, %d machines, %d readings, %d pictures, %d rows in all.",
		u.file,
		u.manifest.Made.Format(
			"2 Jan 2006, 15:04 UTC",
		),
		u.manifest.Schema,
		u.manifest.Rows["machines"],
		u.manifest.Rows["readings"],
		u.manifest.Rows["photos"],
		rows,
	)
}

// unpack takes a backup apart and checks every part of it, before anything is written to
// a database.
func unpack(ctx context.Context, file, dir string) (unpacked, error) {
	u := unpacked{file: file, dump: filepath.Join(dir, dumpName)}
	info, err := os.Stat(file)
	switch {
	case err != nil:
		return u, err
	case info.IsDir():
		return u, fmt.Errorf("%s is a folder; name the file of a backup", file)
	case info.Size() == 0:
		return u, fmt.Errorf("%s is empty: the backup was never written, or its copy failed. Take another", file)
	}
	in, err := os.Open(file)
	if err != nil {
		return u, err
	}
	defer in.Close()
	head := make([]byte, 5)
	if _, err := io.ReadFull(in, head); err == nil && bytes.Equal(head, []byte("PGDMP")) {
		u.dump = file // from before pictures had a place of their own
		return u, readable(ctx, u)
	}
	if _, err := in.Seek(0, io.SeekStart); err != nil {
		return u, err
	}
	if err := u.take(tar.NewReader(in), dir); err != nil {
		return u, err
	}
	if err := u.check(); err != nil {
		return u, err
	}
	return u, readable(ctx, u)
}

// take lays the parts of an archive into a folder.
func (u *unpacked) take(archive *tar.Reader, dir string) error {
	seen := map[string]bool{}
	for {
		at, err := archive.Next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil && len(seen) == 0 {
			return fmt.Errorf("%s is no backup of Wardifex: it begins with something else", u.file)
		}
		if err != nil {
			return u.cut()
		}
		if seen[at.Name] {
			return fmt.Errorf("%s has %s twice in it: it was put together by something else", u.file, at.Name)
		}
		seen[at.Name] = true
		switch name, isPhoto := strings.CutPrefix(at.Name, photosDir); {
		case at.Name == manifestName:
			u.manifest = &manifest{}
			if err := json.NewDecoder(io.LimitReader(archive, 1<<20)).Decode(u.manifest); errors.Is(err, io.ErrUnexpectedEOF) {
				return u.cut()
			} else if err != nil {
				return fmt.Errorf("%s was changed: its list of contents cannot be read. Take another copy", u.file)
			}
		case at.Name == dumpName:
			if err := layDown(u.dump, archive); err != nil {
				return u.broken(err)
			}
		case isPhoto && name != "" && !strings.ContainsAny(name, `/\`):
			u.photos = filepath.Join(dir, "photos")
			if err := os.MkdirAll(u.photos, 0o700); err != nil {
				return err
			}
			if err := layDown(filepath.Join(u.photos, name), archive); err != nil {
				return u.broken(err)
			}
		default:
			return fmt.Errorf("%s has something in it that no backup has: it was put together by something else", u.file)
		}
	}
	switch {
	case len(seen) == 0:
		return fmt.Errorf("%s is no backup of Wardifex: there is nothing in it", u.file)
	case !seen[dumpName]:
		return u.cut()
	}
	return nil
}

func (u *unpacked) cut() error {
	return fmt.Errorf("%s is cut off: its end is missing. The copy did not finish; take another", u.file)
}

// broken tells what was cut off from what the disk did not take.
func (u *unpacked) broken(err error) error {
	if errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, io.EOF) {
		return u.cut()
	}
	return err
}

func layDown(file string, from io.Reader) error {
	out, err := os.OpenFile(file, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	_, err = io.Copy(out, from)
	return errors.Join(err, out.Close())
}

// check compares a backup with its own list of contents.
func (u *unpacked) check() error {
	m := u.manifest
	if m == nil {
		return nil
	}
	sum, err := sumOf(u.dump)
	switch {
	case err != nil:
		return err
	case m.Format != backupFormat:
		return fmt.Errorf("%s is no backup of Wardifex: its format says otherwise", u.file)
	case m.Version != 1:
		return fmt.Errorf(
			"%s is of version %d of backups; this program reads version 1. Use the program that wrote it, or a newer one",
			u.file,
			m.Version,
		)
	case m.Schema > store.SchemaVersion():
		return fmt.Errorf(
			"%s was made by a newer program: its schema is version %d, this program knows up to %d. Use the newer program",
			u.file,
			m.Schema,
			store.SchemaVersion(),
		)
	case sum.Size != m.Dump.Size:
		return fmt.Errorf(
			"%s was changed: the database in it has %d bytes, and %d were written. Take another copy",
			u.file,
			sum.Size,
			m.Dump.Size,
		)
	case sum.SHA256 != m.Dump.SHA256:
		return fmt.Errorf(
			"%s was changed or damaged since it was written: the checksum of the database in it is another. Take another copy",
			u.file,
		)
	}
	return nil
}

// readable asks PostgreSQL's own tool whether it can read a dump.
func readable(ctx context.Context, u unpacked) error {
	run := exec.CommandContext(ctx, "pg_restore", "--list", u.dump)
	if out, err := run.CombinedOutput(); err != nil {
		return fmt.Errorf("%s cannot be read by pg_restore: %s", u.file, firstLine(string(out), err))
	}
	return nil
}

func firstLine(out string, err error) string {
	line, _, _ := strings.Cut(strings.TrimSpace(out), "\n")
	if line == "" {
		return err.Error()
	}
	return line
}

func restoreCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "restore FILE",
		Short: "Check a backup and read it into an empty database",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			set, err := readSettings(true)
			if err != nil {
				return err
			}
			return restore(cmd.Context(), set, args[0])
		},
	}
}

func restore(ctx context.Context, set settings, file string) error {
	dir, err := os.MkdirTemp("", "wardifex-restore-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	u, err := unpack(ctx, file, dir)
	if err != nil {
		return err
	}
	st, err := store.Open(set.Database)
	if err != nil {
		return err
	}
	defer st.Close()
	if some, err := st.HasTables(ctx); err != nil {
		return err
	} else if some {
		return errors.New("the database is not empty; a backup is read into an empty one, so that nothing is " +
			"overwritten. Make one with createdb and name it in WARDIFEX_DATABASE_URL")
	}
	if err := tool(ctx, "pg_restore", "--no-owner", "--single-transaction", "--exit-on-error", u.dump, "--dbname",
		set.Database); err != nil {
		return err // one transaction: the database is as empty as before
	}
	err = u.complete(ctx, st)
	if err == nil {
		err = st.Empty(ctx, keys...)
	}
	if err != nil {
		if undo := st.DropAll(context.WithoutCancel(ctx)); undo != nil {
			return fmt.Errorf("%w. The database could not be emptied again (%w): drop it", err, undo)
		}
		return fmt.Errorf("%w. The database is empty again", err)
	}
	fmt.Println(u.words())
	return nil
}

// complete compares what was restored with the list of contents, and takes the pictures
// of an earlier version's backup in.
func (u unpacked) complete(ctx context.Context, st *store.Store) error {
	if u.manifest == nil {
		if err := st.Migrate(ctx); err != nil {
			return err
		}
		if u.photos == "" {
			return nil
		}
		lost, err := st.TakePhotosIn(ctx, os.DirFS(u.photos))
		if err == nil && len(lost) > 0 {
			err = fmt.Errorf("%s lacks the files of %d pictures", u.file, len(lost))
		}
		return err
	}
	_, rows, err := st.Counted(ctx, nil, func(string) error { return nil })
	if err != nil {
		return err
	}
	for table, n := range u.manifest.Rows {
		if rows[table] != n {
			return fmt.Errorf("%s came in with %d of %d rows", table, rows[table], n)
		}
	}
	if u.photos == "" {
		return nil
	}
	if err := st.Migrate(ctx); err != nil {
		return err
	}
	_, err = st.TakePhotosIn(ctx, os.DirFS(u.photos)) // what the folder lacked, the backup lacks
	return err
}

// tool runs one of PostgreSQL's tools.
func tool(ctx context.Context, name string, args ...string) error {
	run := exec.CommandContext(ctx, name, args...)
	run.Stdout, run.Stderr = os.Stdout, os.Stderr
	if err := run.Run(); err != nil {
		return fmt.Errorf("%s: %w", name, err)
	}
	return nil
}
