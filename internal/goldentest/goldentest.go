// Package goldentest compares what the program says with what it said before. To write a golden file anew:
//
//	go test ./that/package -run TestGolden -update
//
// and the commit that changes one gives the reason.
package goldentest

import (
	"bytes"
	"compress/gzip"
	"errors"
	"flag"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

var update = flag.Bool("update", false, "write the golden files anew; the commit gives the reason of each difference")

// mostShown is how many differences are shown.
const mostShown = 12

// Line is one thing that is promised: what it is of, which no other line has, and what is said of it.
type Line struct{ Of, Says string }

// Check holds lines against the file testdata/name.golden.gz, and shows where they differ.
func Check(t *testing.T, name string, got []Line) {
	t.Helper()
	path := filepath.Join("testdata", name+".golden.gz")
	seen := map[string]bool{}
	for _, l := range got {
		if seen[l.Of] || strings.ContainsAny(l.Of+l.Says, "\n") || strings.Contains(l.Of, "\t") {
			t.Fatalf("%q is promised twice, or has a line end", l.Of)
		}
		seen[l.Of] = true
	}
	if *update {
		if err := write(path, got); err != nil {
			t.Fatal(err)
		}
	}
	want, err := read(path)
	if errors.Is(err, fs.ErrNotExist) {
		t.Fatalf("%s is not there: write it with -update", path)
	}
	if err != nil {
		t.Fatal(err)
	}
	if differ := differences(want, got); len(differ) > 0 {
		more := max(0, len(differ)-mostShown)
		t.Errorf("%d of %d are not as they were in %s:\n%s\n(%d more)", len(differ), len(want), path,
			strings.Join(differ[:len(differ)-more], "\n"), more)
	}
}

// differences tells in what lines differ: what has gone, what is new, and where what is said begins to differ.
func differences(want, got []Line) []string {
	now := map[string]string{}
	for _, l := range got {
		now[l.Of] = l.Says
	}
	var out []string
	was := map[string]bool{}
	for _, l := range want {
		was[l.Of] = true
		switch says, is := now[l.Of]; {
		case !is:
			out = append(out, "gone: "+l.Of)
		case says != l.Says:
			before, after := around(l.Says, says)
			out = append(out, fmt.Sprintf("%s\n  was %s\n  is  %s", l.Of, before, after))
		}
	}
	for _, l := range got {
		if !was[l.Of] {
			out = append(out, "new: "+l.Of)
		}
	}
	return out
}

// around cuts two texts to what is near their first difference.
func around(a, b string) (string, string) {
	i := 0
	for i < len(a) && i < len(b) && a[i] == b[i] {
		i++
	}
	from := max(0, i-60)
	cut := func(s string) string {
		dots := ""
		if from > 0 {
			dots = "…"
		}
		return dots + strings.ToValidUTF8(s[from:min(len(s), i+120)], "")
	}
	return cut(a), cut(b)
}

func write(path string, lines []Line) error {
	if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
		return err
	}
	var b bytes.Buffer
	z, err := gzip.NewWriterLevel(&b, gzip.BestCompression) // without a time: what is the same has the same bytes
	if err != nil {
		return err
	}
	for _, l := range lines {
		if _, err := fmt.Fprintf(z, "%s\t%s\n", l.Of, l.Says); err != nil {
			return err
		}
	}
	if err := z.Close(); err != nil {
		return err
	}
	return os.WriteFile(path, b.Bytes(), 0o644)
}

func read(path string) ([]Line, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	z, err := gzip.NewReader(f)
	if err != nil {
		return nil, err
	}
	text, err := io.ReadAll(z)
	if err != nil {
		return nil, err
	}
	var out []Line
	for line := range strings.Lines(string(text)) {
		of, says, _ := strings.Cut(strings.TrimSuffix(line, "\n"), "\t")
		out = append(out, Line{of, says})
	}
	return out, nil
}
