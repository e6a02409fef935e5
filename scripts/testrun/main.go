// Testrun runs go test and keeps how long each test takes, so that a suite that grows is seen to grow.
//
//	testrun -to FILE -- go test arguments     runs tests, prints what failed and a line a package, and notes their times
//	testrun -show FILE                        prints the ten slowest tests and what all of it took
package main

import (
	"bufio"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"log"
	"os"
	"os/exec"
	"slices"
	"strings"
	"time"
)

// event is what go test -json writes of a test or a package. Source: go doc test2json.
type event struct {
	Action, Package, Test, Output string
	ImportPath                    string // of a build
	Elapsed                       float64
}

// timed is how long a test took, in seconds.
type timed struct {
	Package, Test string
	Seconds       float64
}

func main() {
	log.SetFlags(0)
	to := flag.String("to", "", "file to which times are added")
	show := flag.String("show", "", "file of which the slowest tests are shown")
	budget := flag.Duration("budget", 0, "fail where all of it took longer; 0: never")
	began := flag.Int64("began", 0, "when it began, in seconds since 1970")
	flag.Parse()
	var err error
	if *show != "" {
		err = slowest(os.Stdout, *show, *budget, *began)
	} else {
		err = run(*to, flag.Args())
	}
	if err != nil {
		log.Fatal(err)
	}
}

func run(to string, args []string) error {
	cmd := exec.Command("go", append([]string{"test", "-json"}, args...)...)
	cmd.Stderr = os.Stderr
	out, err := cmd.StdoutPipe()
	if err != nil {
		return err
	}
	if err := cmd.Start(); err != nil {
		return err
	}
	times, err := follow(os.Stdout, out)
	if err := errors.Join(err, cmd.Wait()); err != nil {
		return errors.New("some tests failed")
	}
	return keep(to, times)
}

// follow prints what go test says of packages and of tests that fail, and gives how long each test took.
func follow(w io.Writer, r io.Reader) ([]timed, error) {
	var times []timed
	said := map[string][]string{} // by test, until it is known whether it fails
	lines := bufio.NewScanner(r)
	lines.Buffer(nil, 16<<20)
	for lines.Scan() {
		var e event
		if json.Unmarshal(lines.Bytes(), &e) != nil {
			fmt.Fprintln(w, lines.Text()) // not of go test
			continue
		}
		of := e.Package + " " + e.Test
		switch {
		case e.Action == "build-output", e.Action == "output" && e.Test == "":
			if e.Output != "PASS\n" {
				fmt.Fprint(w, e.Output)
			}
		case e.Action == "output":
			said[of] = append(said[of], e.Output)
		case e.Action == "fail" && e.Test != "":
			fmt.Fprint(w, strings.Join(said[of], ""))
		}
		if (e.Action == "pass" || e.Action == "fail") && e.Test != "" && !strings.Contains(e.Test, "/") {
			times = append(times, timed{e.Package, e.Test, e.Elapsed})
		}
		if e.Action == "pass" || e.Action == "fail" || e.Action == "skip" {
			delete(said, of)
		}
	}
	for _, list := range said { // of what never ended
		fmt.Fprint(w, strings.Join(list, ""))
	}
	return times, lines.Err()
}

func keep(to string, times []timed) error {
	if to == "" {
		return nil
	}
	f, err := os.OpenFile(to, os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	for _, t := range times {
		if err := json.NewEncoder(f).Encode(t); err != nil {
			return errors.Join(err, f.Close())
		}
	}
	return f.Close()
}

// mostShown is how many of the slowest tests are shown.
const mostShown = 10

func slowest(w io.Writer, path string, budget time.Duration, began int64) error {
	f, err := os.Open(path)
	if err != nil {
		return err
	}
	defer f.Close()
	var times []timed
	for d := json.NewDecoder(f); ; {
		var t timed
		if err := d.Decode(&t); err == io.EOF {
			break
		} else if err != nil {
			return err
		}
		times = append(times, t)
	}
	slices.SortStableFunc(times, func(a, b timed) int {
		switch {
		case a.Seconds > b.Seconds:
			return -1
		case a.Seconds < b.Seconds:
			return 1
		}
		return 0
	})
	fmt.Fprintf(w, "The %d slowest of %d tests, in seconds beside others:\n", min(mostShown, len(times)), len(times))
	for _, t := range times[:min(mostShown, len(times))] {
		fmt.Fprintf(w, "%7.1f  %s %s\n", t.Seconds, strings.TrimPrefix(t.Package, "wardifex/"), t.Test)
	}
	if began == 0 {
		return nil
	}
	took := time.Since(time.Unix(began, 0)).Round(time.Second)
	fmt.Fprintf(w, "All of it took %s.\n", took)
	if budget > 0 && took > budget {
		return fmt.Errorf("that is over the budget of %s: see which of the tests above can be a test of the core, the "+
			"application or the server", budget)
	}
	return nil
}
