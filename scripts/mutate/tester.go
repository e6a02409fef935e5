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
	made       atomic.Int64
	dependents map[string][]string // packages of core by the package that they or their tests import
	covering   *coverage           // of app; nil for core
}

func newTester(ctx context.Context, root, of string) (*tester, error) {
	temp, err := os.MkdirTemp("", "mutate")
	if err != nil {
		return nil, err
	}
	t := &tester{root: root, temp: temp}
	if of == "app" {
		t.covering, err = coverageOf(ctx, root, temp)
		return t, err
	}
	t.dependents, err = dependentsIn(ctx, root, "./internal/core/...")
	return t, err
}

// dependentsIn lists by package the others that import it, or whose tests do.
func dependentsIn(ctx context.Context, root, pattern string) (map[string][]string, error) {
	lines, err := goList(ctx, root, "{{.ImportPath}}:{{join .Deps \",\"}},{{join .TestImports \",\"}},"+
		"{{join .XTestImports \",\"}}", pattern)
	if err != nil {
		return nil, err
	}
	deps := map[string][]string{}
	for _, line := range lines {
		p, list, _ := strings.Cut(line, ":")
		deps[p] = strings.Split(list, ",")
	}
	out := map[string][]string{}
	for p, direct := range deps {
		all := slices.Clone(direct)
		for _, d := range direct { // what a test imports has imports of its own
			all = append(all, deps[d]...)
		}
		slices.Sort(all)
		for _, d := range slices.Compact(all) {
			if d != p {
				out[d] = append(out[d], p)
			}
		}
	}
	for _, list := range out {
		slices.Sort(list)
	}
	return out, nil
}

// try says what becomes of a change: of core, the tests of its own package are run first, then those of packages that
// depend on it, then the golden files of the demo room; of app, the tests that cover the line.
func (t *tester) try(ctx context.Context, p place) outcome {
	overlay, err := t.overlay(p)
	if err != nil {
		return uncompiled
	}
	pkg := "wardifex/" + path.Dir(p.File)
	if t.covering != nil {
		for _, tests := range t.covering.of(p) {
			if is := t.test(ctx, overlay, tests.pkg, tests.names); is != survived {
				return is
			}
		}
		if !t.builds(ctx, overlay, pkg) {
			return uncompiled
		}
		return survived
	}
	for _, p := range append([]string{pkg}, t.dependents[pkg]...) { // one by one: the first that notices is enough
		if is := t.test(ctx, overlay, p, nil); is != survived {
			return is
		}
	}
	for _, p := range []string{"wardifex/internal/demo", "wardifex/internal/server"} {
		if is := t.test(ctx, overlay, p, []string{"TestGolden.*"}); is != survived {
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

func (t *tester) builds(ctx context.Context, overlay, pkg string) bool {
	cmd := exec.CommandContext(ctx, "go", "build", "-overlay", overlay, pkg)
	cmd.Dir = t.root
	return cmd.Run() == nil
}

// test runs tests of a package, all of them where none is named. A test that does not end is killed with its change.
func (t *tester) test(ctx context.Context, overlay, pkg string, names []string) outcome {
	args := []string{"test", "-overlay", overlay, "-vet=off", "-short", "-failfast", "-count=1", "-p=1", "-timeout=120s"}
	if names != nil {
		args = append(args, "-run", "^("+strings.Join(names, "|")+")$")
	}
	cmd := exec.CommandContext(ctx, "go", append(args, pkg)...)
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
