package server_test

import (
	"encoding/json"
	"fmt"
	"os"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"wardifex/internal/postgres/pgtest"
)

// Entries, positions and machines are saved at two instances while eight readers ask both: no answer is an error,
// what was saved at one is there at the other at once, and in the end both judge as one that has just started.
func TestManySavesBesideReadersOnTwoInstances(t *testing.T) {
	t.Parallel()
	url, st := start(t)
	urls := [2]string{url, instance(t, pgtest.Again(t, st))}
	fillFleet(t, st, 4)
	saves := 18
	if os.Getenv("WARDIFEX_LONG") != "" {
		saves = 500
	}
	var over atomic.Bool
	var readers sync.WaitGroup
	for r := range 8 {
		c := signedIn(t, urls[r%2], "member")
		readers.Go(func() {
			paths := []string{"/api/matrix", "/api/machines", "/api/machines/1", "/api/machines/2/structure",
				"/api/machines/3/kits", "/api/kits/bollard-springs/verdicts", "/api/parts/1/fits", "/api/due"}
			for i := r; !over.Load(); i++ {
				status, text := c.call("GET", paths[i%len(paths)], nil)
				if status != 200 {
					t.Errorf("%s: %d %.300s", paths[i%len(paths)], status, text)
					return
				}
				checkMatrix(t, paths[i%len(paths)], text)
			}
		})
	}
	writers := [2]*client{signedIn(t, urls[0], "technician"), signedIn(t, urls[1], "lead")}
	var writing sync.WaitGroup
	for w, c := range writers {
		other := writers[1-w]
		writing.Go(func() {
			for i := range saves / 2 {
				saveOne(t, c, other, w, i)
			}
		})
	}
	writing.Wait()
	over.Store(true)
	readers.Wait()
	fresh := signedIn(t, instance(t, pgtest.Again(t, st)), "lead")
	want := fresh.wants(200, "", "GET", "/api/matrix", nil)
	for _, c := range writers {
		if got := c.wants(200, "", "GET", "/api/matrix", nil); got != want {
			t.Error("an instance that was written to judges otherwise than one that has just started")
		}
	}
}

// saveOne saves one thing at an instance, and looks for it at the other.
func saveOne(t *testing.T, c, other *client, w, i int) {
	name := fmt.Sprintf("Saved %d-%d", w, i)
	switch i % 3 {
	case 0:
		c.wants(200, "", "POST", "/api/catalogue/entries",
			body{"version": 0, "model": body{"kind": "nozzle", "name": name}})
		other.wants(200, name, "GET", "/api/catalogue", nil)
	case 1:
		machine := 1 + w // each writer has a machine of its own, so that nobody's version is old
		path := fmt.Sprintf("/api/machines/%d", machine)
		var sheet struct{ Version int }
		text := c.wants(200, "", "GET", path+"/structure", nil)
		if err := json.Unmarshal([]byte(text), &sheet); err != nil {
			t.Error(err)
		}
		saved := c.wants(200, "", "POST", path+"/positions", body{"version": sheet.Version, "kind": "sensor",
			"serves": "enclosure"})
		if other.wants(200, "", "GET", path+"/structure", nil) != saved {
			t.Errorf("%s is another at the other instance than it was saved", path)
		}
	default:
		c.wants(200, "", "POST", "/api/machines", body{"name": name, "bay": "", "maker": "", "serial": "", "note": ""})
		if !strings.Contains(other.wants(200, "", "GET", "/api/matrix", nil), name) {
			t.Errorf("%s is not judged at the other instance", name)
		}
	}
}

// checkMatrix checks that each machine has an answer for each kit, and that no kit is broken.
func checkMatrix(t *testing.T, path, text string) {
	if path != "/api/matrix" {
		return
	}
	var m struct {
		Kits     []struct{ Key string }
		Broken   []string
		Machines []struct {
			Name    string
			Answers []string
		}
	}
	if err := json.Unmarshal([]byte(text), &m); err != nil {
		t.Error(err)
	}
	if len(m.Broken) > 0 {
		t.Errorf("kits that cannot be judged: %v", m.Broken)
	}
	for _, row := range m.Machines {
		if len(row.Answers) != len(m.Kits) || slices.Contains(row.Answers, "") {
			t.Errorf("%s has %d answers for %d kits", row.Name, len(row.Answers), len(m.Kits))
		}
	}
}
