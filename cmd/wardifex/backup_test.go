package main

import (
	"archive/tar"
	"bytes"
	"encoding/json"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// entriesOf are the parts of a backup, in their order.
func entriesOf(t *testing.T, file []byte) (names []string, parts map[string][]byte) {
	t.Helper()
	parts = map[string][]byte{}
	archive := tar.NewReader(bytes.NewReader(file))
	for {
		at, err := archive.Next()
		if err == io.EOF {
			return names, parts
		}
		if err != nil {
			t.Fatal(err)
		}
		text, err := io.ReadAll(archive)
		if err != nil {
			t.Fatal(err)
		}
		names, parts[at.Name] = append(names, at.Name), text
	}
}

func packed(t *testing.T, names []string, parts map[string][]byte) []byte {
	t.Helper()
	var out bytes.Buffer
	archive := tar.NewWriter(&out)
	for _, name := range names {
		if err := entry(archive, name, int64(len(parts[name])), bytes.NewReader(parts[name])); err != nil {
			t.Fatal(err)
		}
	}
	if err := archive.Close(); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// However a backup is cut, changed or mixed up, verify says how, and restore writes nothing.
func TestABackupIsVerified(t *testing.T) {
	from, into := pgtest.Database(t), pgtest.Database(t)
	t.Setenv("WARDIFEX_DATABASE_URL", from)
	t.Setenv("WARDIFEX_PHOTOS", filepath.Join(t.TempDir(), "none"))
	photographed(t, from)
	st, err := store.Open(from)
	if err != nil {
		t.Fatal(err)
	}
	const token = "a live session's token"
	if err := st.Sessions().CommitCtx(t.Context(), token, []byte("data"), time.Now().Add(time.Hour)); err != nil {
		t.Fatal(err)
	}
	account := app.Account{Name: "ann", Role: store.Lead, Password: "kettle moth arrow"}
	if err := app.New(st, time.Now).AddAccount(t.Context(), account, time.Now()); err != nil {
		t.Fatal(err)
	}
	st.Close()
	dir := t.TempDir()
	file := filepath.Join(dir, "all.tar")
	if err := backup(t.Context(), settings{Database: from, Photos: "none"}, file); err != nil {
		t.Fatal(err)
	}
	if info, err := os.Stat(file); err != nil || info.Mode().Perm() != 0o600 {
		t.Errorf("the backup's mode: %v, %v", info.Mode(), err)
	}
	if left, _ := filepath.Glob(filepath.Join(dir, ".wardifex*")); len(left) > 0 {
		t.Errorf("left behind: %v", left)
	}
	whole, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	names, parts := entriesOf(t, whole)
	otherwise := func(change func(m *manifest)) []byte {
		var m manifest
		if err := json.Unmarshal(parts[manifestName], &m); err != nil {
			t.Fatal(err)
		}
		change(&m)
		text, _ := json.Marshal(m)
		return packed(t, names, map[string][]byte{manifestName: text, dumpName: parts[dumpName]})
	}
	flipped := bytes.Clone(whole)
	flipped[len(whole)-len(parts[dumpName])/2] ^= 1
	for name, c := range map[string]struct {
		content []byte
		says    string
	}{
		"empty":                      {nil, "is empty"},
		"a text":                     {[]byte(strings.Repeat("hello ", 400)), "no backup of Wardifex"},
		"cut within its list":        {whole[:700], "cut off"},
		"cut before the database":    {whole[:1536], "cut off"},
		"cut within the database":    {whole[:len(whole)/2], "cut off"},
		"cut a block before the end": {whole[:len(whole)-2048], "cut off"},
		"a bit of the database":      {flipped, "checksum"},
		"without its database":       {packed(t, names[:1], parts), "cut off"},
		"with something else": {packed(t, append(names, "x"),
			map[string][]byte{manifestName: parts[manifestName], dumpName: parts[dumpName], "x": nil}), "something else"},
		"the database twice":        {packed(t, append(names, dumpName), parts), "twice"},
		"of a newer program":        {otherwise(func(m *manifest) { m.Schema = 999 }), "version 999"},
		"of a newer kind of backup": {otherwise(func(m *manifest) { m.Version = 2 }), "version 2"},
		"of another program":        {otherwise(func(m *manifest) { m.Format = "x" }), "format"},
		"with another database":     {otherwise(func(m *manifest) { m.Dump.Size++ }), "bytes"},
		"its list no JSON": {packed(t, names,
			map[string][]byte{manifestName: []byte("{x"), dumpName: parts[dumpName]}), "list of contents"},
		"a dump that is none": {packed(t, []string{dumpName}, map[string][]byte{dumpName: []byte("PGDMP but no more")}),
			"pg_restore"},
	} {
		at := filepath.Join(dir, "broken")
		if err := os.WriteFile(at, c.content, 0o600); err != nil {
			t.Fatal(err)
		}
		v := verifyCommand()
		v.SetArgs([]string{at})
		if err := v.ExecuteContext(t.Context()); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v; want %q", name, err, c.says)
		}
		if err := restore(t.Context(), settings{Database: into}, at); err == nil {
			t.Errorf("%s was restored", name)
		}
	}
	// One whose rows are fewer than its list says leaves the database empty.
	short := filepath.Join(dir, "short.tar")
	if err := os.WriteFile(short, otherwise(func(m *manifest) { m.Rows["machines"]++ }), 0o600); err != nil {
		t.Fatal(err)
	}
	if err := restore(t.Context(), settings{Database: into}, short); err == nil ||
		!strings.Contains(err.Error(), "empty again") {
		t.Errorf("fewer rows than listed: %v", err)
	}
	v := verifyCommand()
	v.SetArgs([]string{file})
	if err := v.ExecuteContext(t.Context()); err != nil {
		t.Error(err)
	}
	if err := restore(t.Context(), settings{Database: into}, file); err != nil {
		t.Fatal(err)
	}
	if err := restore(t.Context(), settings{Database: into}, file); err == nil ||
		!strings.Contains(err.Error(), "not empty") {
		t.Errorf("into a database with something in it: %v", err)
	}
	restored, err := store.Open(into)
	if err != nil {
		t.Fatal(err)
	}
	defer restored.Close()
	if _, there, err := restored.Sessions().FindCtx(t.Context(), token); err != nil || there {
		t.Errorf("the session is in the backup: %v", err)
	}
	if _, err := restored.UserNamed(t.Context(), "ann"); err != nil {
		t.Errorf("the account: %v", err)
	}
}
