// Mutate says whether a rule is guarded: it changes the program in one place at a time and counts how many of the
// changes the tests notice. What it changes is drawn by a seed from all mutable places of core or app: limits,
// comparisons, constants, branches, dropped errors, arithmetic and calls made for their effect.
//
// A change that does not compile is drawn again. A change that the tests pass over survives, unless equivalent.txt
// says in one sentence why no input can tell it apart.
package main

import (
	"bytes"
	"context"
	"flag"
	"fmt"
	"log"
	"math/rand"
	"os"
	"os/exec"
	"os/signal"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"
	"time"
)

func main() {
	log.SetFlags(0)
	of := flag.String("of", "core", "what to change: core or app")
	seed := flag.Int64("seed", 1, "of the draw")
	n := flag.Int("n", 200, "how many changes that compile")
	least := flag.Float64("least", 0, "fail where a smaller share than this is killed, in percent")
	only := flag.String("only", "", "change only places whose file and line begin so: internal/core/fit/sum.go:107")
	again := flag.String("again", "", "change only what survived in this file, an earlier output")
	alone := flag.String("run", "", "run no test but those of the place's own package that match")
	workers := flag.Int("workers", runtime.NumCPU(), "how many changes are tried at once")
	flag.Parse()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt)
	defer stop()
	if err := run(ctx, *of, *seed, *n, *least, *only, *again, *alone, *workers); err != nil {
		log.Fatal(err)
	}
}

func run(ctx context.Context, of string, seed int64, n int, least float64, only, again, alone string,
	workers int) error {
	root, err := os.Getwd()
	if err != nil {
		return err
	}
	t, err := newTester(ctx, root, of, alone)
	if err != nil {
		return err
	}
	defer os.RemoveAll(t.temp)
	places, err := placesIn(root, filepath.Join("internal", of))
	if err != nil {
		return err
	}
	places = slices.DeleteFunc(places, func(p place) bool {
		return !strings.HasPrefix(fmt.Sprintf("%s:%d:", p.File, p.Line), only)
	})
	if again != "" {
		if places, err = survivors(again, places); err != nil {
			return err
		}
	}
	equal, err := equivalents(filepath.Join(root, "scripts", "mutate", "equivalent.txt"))
	if err != nil {
		return err
	}
	fmt.Printf("%s: %d mutable places, seed %d\n", of, len(places), seed)
	random := rand.New(rand.NewSource(seed))
	random.Shuffle(len(places), func(i, k int) { places[i], places[k] = places[k], places[i] })
	results := draw(ctx, t, places, equal, n, workers)
	return report(of, seed, results, least)
}

// outcome is what became of a change.
type outcome string

const (
	killed     outcome = "killed"
	survived   outcome = "survived"
	equivalent outcome = "equivalent"
	uncompiled outcome = "does not compile"
)

type result struct {
	place
	outcome
	took time.Duration
}

// draw tries places in their order until n of them compiled. What comes of it depends on the order alone, not on which
// worker is faster.
func draw(ctx context.Context, t *tester, places []place, equal map[string]bool, n, workers int) []result {
	results := make([]result, len(places))
	var mu sync.Mutex
	next, compiled := 0, 0
	var all sync.WaitGroup
	for range workers {
		all.Go(func() {
			for ctx.Err() == nil {
				mu.Lock()
				i := next
				if i == len(places) || compiled >= n {
					mu.Unlock()
					return
				}
				next++
				mu.Unlock()
				r := result{place: places[i]}
				begun := time.Now()
				if equal[r.name()] {
					r.outcome = equivalent
				} else {
					r.outcome = t.try(ctx, r.place)
				}
				r.took = time.Since(begun)
				mu.Lock()
				results[i] = r
				if r.outcome != uncompiled {
					compiled++
					fmt.Printf("%4d %-10s %5.1f s  %s:%d %s -> %s\n", compiled, r.outcome, r.took.Seconds(), r.File, r.Line,
						oneLine(r.Old), oneLine(r.New))
				}
				mu.Unlock()
			}
		})
	}
	all.Wait()
	results = slices.DeleteFunc(results[:next], func(r result) bool { return r.outcome == "" || r.outcome == uncompiled })
	return results[:min(n, len(results))]
}

func report(of string, seed int64, results []result, least float64) error {
	count := map[outcome]int{}
	for _, r := range results {
		count[r.outcome]++
	}
	for _, r := range results {
		if r.outcome == survived {
			fmt.Printf("SURVIVED %s:%d %s\n", r.File, r.Line, r.name())
		}
	}
	counted := len(results) - count[equivalent]
	share := 100 * float64(count[killed]) / float64(max(counted, 1))
	fmt.Printf("%s, seed %d: %d of %d killed, %.1f %% (%d more are equivalent)\n", of, seed, count[killed], counted, share,
		count[equivalent])
	if share < least {
		return fmt.Errorf("at least %.0f %% were to be killed", least)
	}
	return nil
}

// survivors keeps the places that an earlier output says survived, by line and name.
func survivors(output string, places []place) ([]place, error) {
	text, err := os.ReadFile(output)
	if err != nil {
		return nil, err
	}
	return slices.DeleteFunc(places, func(p place) bool {
		return !bytes.Contains(text, fmt.Appendf(nil, "SURVIVED %s:%d %s\n", p.File, p.Line, p.name()))
	}), nil
}

// equivalents reads the changes that no input can tell apart: the name of each, " # ", and why.
func equivalents(path string) (map[string]bool, error) {
	text, err := os.ReadFile(path)
	if err != nil {
		return nil, err
	}
	out := map[string]bool{}
	for i, line := range strings.Split(string(text), "\n") {
		if line = strings.TrimSpace(line); line == "" || strings.HasPrefix(line, "//") {
			continue
		}
		name, why, ok := strings.Cut(line, " # ")
		if !ok || len(strings.Fields(why)) < 4 {
			return nil, fmt.Errorf("%s:%d gives no reason why no input can tell the change apart", path, i+1)
		}
		out[name] = true
	}
	return out, nil
}

// goList runs go list with a format and gives its lines.
func goList(ctx context.Context, root, format string, patterns ...string) ([]string, error) {
	cmd := exec.CommandContext(ctx, "go", append([]string{"list", "-f", format}, patterns...)...)
	cmd.Dir = root
	out, err := cmd.Output()
	if err != nil {
		return nil, fmt.Errorf("go list: %w", err)
	}
	return strings.Fields(string(out)), nil
}
