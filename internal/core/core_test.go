// Package core_test keeps the core pure.
package core_test

import (
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
)

// forbidden are parts of the standard library that reach a file, a network, a
// process or a random source.
var forbidden = map[string]bool{
	"os":            true,
	"os/exec":       true,
	"io/ioutil":     true,
	"io/fs":         true,
	"embed":         true,
	"net":           true,
	"net/http":      true,
	"syscall":       true,
	"math/rand":     true,
	"math/rand/v2":  true,
	"crypto/rand":   true,
	"log":           true,
	"log/slog":      true,
	"database/sql":  true,
	"plugin":        true,
	"path/filepath": true,
}

// clocks are functions of package time that look at the clock.
var clocks = []string{
	"time.Now(",
	"time.Since(",
	"time.Until(",
	"time.Sleep(",
	"time.After(",
	"time.Tick(",
	"time.NewTimer(",
	"time.NewTicker(",
}

func TestCoreDependsOnNothingOutside(t *testing.T) {
	out, err := exec.Command("go", "list", "-deps", "-f", "{{if not .Standard}}{{.ImportPath}}{{end}}", "./...").Output()
	if err != nil {
		t.Fatal(err)
	}
	for _, dep := range strings.Fields(string(out)) {
		if !strings.HasPrefix(dep, "wardifex/internal/core") && !strings.HasPrefix(dep, "gonum.org/v1/gonum") {
			t.Errorf("the core depends on %s; it may depend on the standard library, gonum and itself only", dep)
		}
	}
	files := 0
	err = filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		files++
		f, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
		for _, imp := range f.Imports {
			name, _ := strconv.Unquote(imp.Path.Value)
			if name == "embed" && imp.Name != nil && imp.Name.Name == "_" {
				continue // data that is compiled in, read as bytes
			}
			if forbidden[name] {
				t.Errorf("%s imports %s: the core has no file, network, process or random source", path, name)
			}
		}
		return checkClock(t, path)
	})
	if err != nil || files < 20 {
		t.Fatalf("walked %d files: %v", files, err)
	}
}

func checkClock(t *testing.T, path string) error {
	text, err := os.ReadFile(path)
	for _, call := range clocks {
		if strings.Contains(string(text), call) {
			t.Errorf("%s looks at the clock (%s): a time is passed in", path, call)
		}
	}
	return err
}
