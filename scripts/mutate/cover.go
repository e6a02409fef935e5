package main

import (
	"bufio"
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
)

// mostTests is how many of the tests of app that cover a line are run, those that cover least else first.
const mostTests = 12

// coverage is which tests run which lines.
type coverage struct {
	Blocks map[string][]block // by file
	Size   map[string]int     // of a unit: how many blocks it runs
}

// block is a piece of a file and the units that run it.
type block struct {
	From, To int // lines
	By       []string
}

// unit is what is run at once: tests of a package.
type unit struct{ pkg, tests string }

func (u unit) String() string { return u.pkg + ":" + u.tests }

// of lists the units that run a place, those that run least else first. For what is in no function, such as a constant,
// it lists those that run anything of the file.
func (c *coverage) of(p place) []unit {
	var all, file []string
	inside := false
	for _, b := range c.Blocks[p.File] {
		file = append(file, b.By...)
		if b.From <= p.Line && p.Line <= b.To {
			inside = true
			all = append(all, b.By...)
		}
	}
	if !inside && p.Func == "" {
		all = file
	}
	slices.Sort(all)
	all = slices.Compact(all)
	slices.SortStableFunc(all, func(x, y string) int { return c.Size[x] - c.Size[y] })
	var out []unit
	for _, name := range all {
		pkg, tests, _ := strings.Cut(name, ":")
		out = append(out, unit{pkg, tests})
	}
	return out
}

// gather puts units of one package together, at most so many of each, and besides those that go over
// everything: golden files, and failures that are passed over.
func gather(units []unit, most int) []unit {
	var out []unit
	names := map[string][]string{}
	for _, u := range units {
		if len(names[u.pkg]) == 0 {
			out = append(out, unit{pkg: u.pkg})
		}
		if len(names[u.pkg]) < most || strings.HasPrefix(u.tests, "TestGolden") || strings.HasPrefix(u.tests, "TestNo") {
			names[u.pkg] = append(names[u.pkg], u.tests)
		}
	}
	for i := range out {
		out[i].tests = strings.Join(names[out[i].pkg], "|")
	}
	return out
}

// coverageOf runs each unit by itself and keeps what it covers, until a Go file changes. Of app these are single tests,
// of core all tests of a package, and the golden files.
func coverageOf(ctx context.Context, root, temp, of string) (*coverage, error) {
	key, err := hashOf(root)
	if err != nil {
		return nil, err
	}
	kept := filepath.Join(root, "bin", "mutate-cover-"+of+"-"+key+".json")
	out := &coverage{Blocks: map[string][]block{}, Size: map[string]int{}}
	if text, err := os.ReadFile(kept); err == nil {
		return out, json.Unmarshal(text, out)
	}
	packages, over := []string{"wardifex/internal/app", "wardifex/internal/server"}, "./internal/app"
	if of == "core" {
		over = "./internal/core/..."
		if packages, err = goList(ctx, root, "{{.ImportPath}}", over); err != nil {
			return nil, err
		}
		packages = append(packages, golden...)
	}
	at := map[string]map[string][]string{} // file, lines, units
	for i, pkg := range packages {
		binary := filepath.Join(temp, fmt.Sprintf("cover-%d", i))
		build := exec.CommandContext(ctx, "go", "test", "-c", "-cover", "-coverpkg="+over, "-o", binary, pkg)
		build.Dir = root
		if text, err := build.CombinedOutput(); err != nil {
			return nil, fmt.Errorf("%w: %s", err, text)
		}
		if _, err := os.Stat(binary); err != nil {
			continue // it has no tests
		}
		units := []unit{{pkg, "Test.*|Example.*|Fuzz.*"}}
		switch {
		case slices.Contains(golden, pkg) && of == "core":
			units = []unit{{pkg, "TestGolden.*"}}
		case of == "app":
			if units, err = testsIn(ctx, root, binary, pkg); err != nil {
				return nil, err
			}
		}
		if err := out.add(ctx, at, root, binary, units); err != nil {
			return nil, err
		}
	}
	for file, lines := range at {
		for span, by := range lines {
			b := block{By: by}
			if _, err := fmt.Sscanf(span, "%d-%d", &b.From, &b.To); err != nil {
				return nil, err
			}
			out.Blocks[file] = append(out.Blocks[file], b)
		}
	}
	text, err := json.Marshal(out)
	if err != nil {
		return nil, err
	}
	return out, os.WriteFile(kept, text, 0o600)
}

// golden are the packages whose golden files guard core from outside.
var golden = []string{"wardifex/internal/demo", "wardifex/internal/server"}

func testsIn(ctx context.Context, root, binary, pkg string) ([]unit, error) {
	list := exec.CommandContext(ctx, binary, "-test.list", "^Test")
	list.Dir = folderOf(root, pkg)
	names, err := list.Output()
	var out []unit
	for _, name := range strings.Fields(string(names)) {
		out = append(out, unit{pkg, name})
	}
	return out, err
}

func folderOf(root, pkg string) string {
	return filepath.Join(root, strings.TrimPrefix(pkg, "wardifex/"))
}

// add runs units of a package, two at once, and notes what each covers. One that fails by itself is an error: every
// change would seem killed by it.
func (c *coverage) add(ctx context.Context, at map[string]map[string][]string, root, binary string,
	units []unit) error {
	var mu sync.Mutex
	var failed error
	var all sync.WaitGroup
	todo := make(chan int)
	for range 2 {
		all.Go(func() {
			for i := range todo {
				u := units[i]
				profile := fmt.Sprint(binary, "-", i)
				cmd := exec.CommandContext(ctx, binary, "-test.run", "^("+u.tests+")$", "-test.short",
					"-test.coverprofile", profile)
				cmd.Dir = folderOf(root, u.pkg)
				if err := cmd.Run(); err != nil {
					mu.Lock()
					failed = fmt.Errorf("%s fails by itself: %w", u, err)
					mu.Unlock()
					continue
				}
				blocks, err := runBlocks(profile)
				if err != nil {
					continue
				}
				mu.Lock()
				c.Size[u.String()] = len(blocks)
				for _, b := range blocks {
					if at[b.file] == nil {
						at[b.file] = map[string][]string{}
					}
					at[b.file][b.lines] = append(at[b.file][b.lines], u.String())
				}
				mu.Unlock()
			}
		})
	}
	for i := range units {
		todo <- i
	}
	close(todo)
	all.Wait()
	return failed
}

type runBlock struct{ file, lines string }

// runBlocks reads the blocks of a coverage profile that were run.
func runBlocks(profile string) ([]runBlock, error) {
	f, err := os.Open(profile)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	var out []runBlock
	lines := bufio.NewScanner(f)
	for lines.Scan() {
		file, rest, ok := strings.Cut(strings.TrimPrefix(lines.Text(), "wardifex/"), ":")
		var b [4]int
		var statements, count int
		if !ok {
			continue
		}
		if _, err := fmt.Sscanf(rest, "%d.%d,%d.%d %d %d", &b[0], &b[1], &b[2], &b[3], &statements, &count); err != nil ||
			count == 0 {
			continue
		}
		out = append(out, runBlock{file, fmt.Sprintf("%d-%d", b[0], b[2])})
	}
	return out, lines.Err()
}

// hashOf is the hash of all Go files below internal.
func hashOf(root string) (string, error) {
	h := sha256.New()
	err := filepath.WalkDir(filepath.Join(root, "internal"), func(path string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() || !strings.HasSuffix(path, ".go") {
			return err
		}
		text, err := os.ReadFile(path)
		if err == nil {
			fmt.Fprintf(h, "%s %d\n%s", path, len(text), text)
		}
		return err
	})
	return fmt.Sprintf("%x", h.Sum(nil)[:8]), err
}
