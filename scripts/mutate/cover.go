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

// mostTests is how many of the tests that cover a line are run, those that cover least else first.
const mostTests = 12

// coverage is which tests run which lines of app.
type coverage struct {
	Blocks map[string][]block // by file
	Size   map[string]int     // of a test: how many blocks it runs
}

// block is a piece of a file and the tests that run it, each as package:name.
type block struct {
	From, To int // lines
	Tests    []string
}

type testsOf struct {
	pkg   string
	names []string
}

// covered are the packages whose tests guard app.
var covered = []string{"./internal/app", "./internal/server"}

// of lists the tests that run a place, by package.
func (c *coverage) of(p place) []testsOf {
	var all []string
	for _, b := range c.Blocks[p.File] {
		if b.From <= p.Line && p.Line <= b.To {
			all = append(all, b.Tests...)
		}
	}
	slices.Sort(all)
	all = slices.Compact(all)
	slices.SortStableFunc(all, func(x, y string) int { return c.Size[x] - c.Size[y] })
	var out []testsOf
	for _, pkg := range covered {
		of := testsOf{pkg: pkg}
		for _, t := range all {
			if name, ok := strings.CutPrefix(t, pkg+":"); ok && len(of.names) < mostTests {
				of.names = append(of.names, name)
			}
		}
		if len(of.names) > 0 {
			out = append(out, of)
		}
	}
	return out
}

// coverageOf runs each test by itself and keeps what it covers, until a Go file changes.
func coverageOf(ctx context.Context, root, temp string) (*coverage, error) {
	key, err := hashOf(root)
	if err != nil {
		return nil, err
	}
	kept := filepath.Join(root, "bin", "mutate-cover-"+key+".json")
	out := &coverage{Blocks: map[string][]block{}, Size: map[string]int{}}
	if text, err := os.ReadFile(kept); err == nil {
		return out, json.Unmarshal(text, out)
	}
	at := map[string]map[string][]string{} // file, lines, tests
	for i, pkg := range covered {
		binary := filepath.Join(temp, fmt.Sprintf("cover-%d", i))
		build := exec.CommandContext(ctx, "go", "test", "-c", "-cover", "-coverpkg=./internal/app", "-o", binary, pkg)
		build.Dir = root
		if text, err := build.CombinedOutput(); err != nil {
			return nil, fmt.Errorf("%w: %s", err, text)
		}
		list := exec.CommandContext(ctx, binary, "-test.list", "^Test")
		list.Dir = filepath.Join(root, pkg)
		names, err := list.Output()
		if err != nil {
			return nil, err
		}
		out.add(ctx, at, root, pkg, binary, strings.Fields(string(names)))
	}
	for file, lines := range at {
		for span, tests := range lines {
			var b block
			if _, err := fmt.Sscanf(span, "%d-%d", &b.From, &b.To); err != nil {
				return nil, err
			}
			b.Tests = tests
			out.Blocks[file] = append(out.Blocks[file], b)
		}
	}
	text, err := json.Marshal(out)
	if err != nil {
		return nil, err
	}
	return out, os.WriteFile(kept, text, 0o600)
}

// add runs the tests of a package, two at once, and notes what each covers.
func (c *coverage) add(ctx context.Context, at map[string]map[string][]string, root, pkg, binary string,
	names []string) {
	var mu sync.Mutex
	var all sync.WaitGroup
	todo := make(chan string)
	for range 2 {
		all.Go(func() {
			for name := range todo {
				profile := binary + "-" + name
				cmd := exec.CommandContext(ctx, binary, "-test.run", "^"+name+"$", "-test.short", "-test.coverprofile", profile)
				cmd.Dir = filepath.Join(root, pkg)
				if cmd.Run() != nil {
					continue // one that needs what is not here covers nothing
				}
				blocks, err := runBlocks(profile)
				if err != nil {
					continue
				}
				mu.Lock()
				c.Size[pkg+":"+name] = len(blocks)
				for _, b := range blocks {
					if at[b.file] == nil {
						at[b.file] = map[string][]string{}
					}
					at[b.file][b.lines] = append(at[b.file][b.lines], pkg+":"+name)
				}
				mu.Unlock()
			}
		})
	}
	for _, name := range names {
		todo <- name
	}
	close(todo)
	all.Wait()
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
