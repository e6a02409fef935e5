package main

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"sync/atomic"
)

// tester runs tests against a changed file.
type tester struct {
	root, temp string
	alone      string // the only tests to run, in the package of the place; empty for all that guard it
	made       atomic.Int64
	covering   *coverage
}

func newTester(ctx context.Context, root, of, alone string) (*tester, error) {
	temp, err := os.MkdirTemp("", "mutate")
	if err != nil {
		return nil, err
	}
	t := &tester{root: root, temp: temp, alone: alone}
	if alone != "" {
		cmd := exec.CommandContext(ctx, "go", "test", "-vet=off", "-short", "-run", "^("+alone+")$", "./internal/"+of+"/...")
		cmd.Dir = root
		if out, err := cmd.CombinedOutput(); err != nil {
			return nil, fmt.Errorf("the tests fail by themselves: %w: %s", err, out)
		}
		return t, nil
	}
	t.covering, err = coverageOf(ctx, root, temp, of)
	return t, err
}

// try says what becomes of a change: the tests of its own package are run first, then those of others that run the
// line, the narrowest first; of app, single tests, since all would take minutes.
func (t *tester) try(ctx context.Context, p place) outcome {
	overlay, err := t.overlay(p)
	if err != nil {
		return uncompiled
	}
	own := unit{"wardifex/" + path.Dir(p.File), t.alone}
	if t.alone != "" {
		return t.test(ctx, overlay, own)
	}
	units := t.covering.of(p)
	switch {
	case len(units) == 0: // nothing runs it, and yet it is to compile
		units = []unit{own}
	case strings.HasPrefix(p.File, "internal/app/"):
		units = gather(units, mostTests)
	}
	elsewhere := func(u unit) int {
		if u.pkg == own.pkg {
			return 0
		}
		return 1
	}
	slices.SortStableFunc(units, func(a, b unit) int { return elsewhere(a) - elsewhere(b) })
	for _, u := range units {
		if is := t.test(ctx, overlay, u); is != survived {
			return is
		}
	}
	return survived
}

// overlay writes a changed file and the list that puts it in the place of the one that stands.
func (t *tester) overlay(p place) (string, error) {
	file := filepath.Join(t.root, filepath.FromSlash(p.File))
	text, err := os.ReadFile(file)
	if err != nil {
		return "", err
	}
	at := filepath.Join(t.temp, fmt.Sprint(t.made.Add(1)))
	changed := slices.Concat(text[:p.From], []byte(p.New), text[p.To:])
	if err := os.WriteFile(at+".go", changed, 0o600); err != nil {
		return "", err
	}
	list, err := json.Marshal(map[string]map[string]string{"Replace": {file: at + ".go"}})
	if err != nil {
		return "", err
	}
	return at + ".json", os.WriteFile(at+".json", list, 0o600)
}

// test runs tests of a package, all of them where none is named. A test that does not end is killed with its change.
func (t *tester) test(ctx context.Context, overlay string, u unit) outcome {
	args := []string{"test", "-overlay", overlay, "-vet=off", "-short", "-failfast", "-count=1", "-p=1", "-timeout=120s"}
	if u.tests != "" {
		args = append(args, "-run", "^("+u.tests+")$")
	}
	cmd := exec.CommandContext(ctx, "go", append(args, u.pkg)...)
	cmd.Dir = t.root
	var out bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &out
	err := cmd.Run()
	var exit *exec.ExitError
	switch {
	case err == nil:
		return survived
	case !errors.As(err, &exit):
		return uncompiled
	case bytes.Contains(out.Bytes(), []byte("[build failed]")):
		return uncompiled
	}
	return killed
}
