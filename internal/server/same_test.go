package server_test

import (
	"encoding/json"
	"maps"
	"regexp"
	"slices"
	"strings"
	"testing"

	"wardifex/internal/postgres/pgtest"
)

// asked are the questions of reads that answer nothing without one.
var asked = map[string]string{
	"/api/calendar": "?from=2026-05-01&days=7", "/api/days": "?text=tomorrow", "/api/compare": "?a=1&b=2",
	"/api/machines/{id}/as-of": "?day=2026-05-01", "/api/changes": "?machine=1", "/api/symptoms": "?words=smoke",
	"/api/machines/{id}/calibration-history": "?kind=tramming&subject=bed",
	"/api/machines/{id}/firmware/family":     "?to=hosted",
	"/api/answer.csv":                        ofVolts, "/api/answer.json": ofVolts,
	"/api/fleet/values":   "?of=mainboard.model",
	"/api/fault-ahead":    "?machine=1&symptom=smoke",
	"/api/bookings/check": "?machine=1&from=2026-05-02T10:00:00Z&to=2026-05-02T11:00:00Z",
}

const ofVolts = "?q=%7B%22columns%22%3A%5B%22supply.volts%22%5D%2C%22where%22%3A%5B%5D%7D"

// differing are reads of which each server or sign-in has its own answer.
var differing = []string{"/api/account/sessions", "/api/openapi.json"}

// reads are the addresses of every read of the API.
func reads(t *testing.T, c *client) []string {
	t.Helper()
	return readsAbout(t, c, []string{"1"})
}

// readsAbout are the addresses of every read of the API, of each of some things by their numbers.
func readsAbout(t *testing.T, c *client, of []string) []string {
	t.Helper()
	t.Helper()
	var doc struct {
		Paths map[string]map[string]any
	}
	if err := json.Unmarshal([]byte(c.wants(200, "", "GET", "/api/openapi.json", nil)), &doc); err != nil {
		t.Fatal(err)
	}
	for _, file := range []string{"register.csv", "catalogue.json", "record.json", "answer.csv", "answer.json",
		"matrix.csv", "bookings.ics"} {
		doc.Paths["/api/"+file] = map[string]any{"get": nil}
	}
	name := regexp.MustCompile(`\{\w+\}`)
	var out []string
	for _, path := range slices.Sorted(maps.Keys(doc.Paths)) {
		if _, reads := doc.Paths[path]["get"]; !reads || slices.Contains(differing, path) {
			continue
		}
		at := strings.Replace(path, "/kits/{key}", "/kits/bollard-springs", 1)
		at = strings.Replace(at, "{position}", "springs", 1)
		numbers := of
		if !name.MatchString(at) {
			numbers = of[:1]
		}
		for _, n := range numbers {
			out = append(out, name.ReplaceAllString(at, n)+asked[path])
		}
	}
	return out
}

// Two servers over one database answer every read alike, whichever of them was written to.
func TestTwoServersSayTheSame(t *testing.T) {
	t.Parallel()
	url, st := start(t)
	fillFleet(t, st, 3)
	on := [2]*client{signedIn(t, url, "lead"), signedIn(t, instance(t, pgtest.Again(t, st)), "lead")}
	all := reads(t, on[0])
	answered, compared := map[string]bool{}, 0
	same := func(after string) {
		t.Helper()
		for _, path := range all {
			status, one := on[0].call("GET", path, nil)
			if other, two := on[1].call("GET", path, nil); other != status || two != one {
				t.Errorf("after %s, %s: %d %.300s; at the other %d %.300s", after, path, status, one, other, two)
			}
			compared++
			answered[path] = answered[path] || status == 200
		}
	}
	same("the start")
	for i, w := range []struct {
		method, path string
		body         any
		status       int
	}{
		{"POST", "/machines/1/faults", body{"words": "smoke at the board"}, 200},
		{"POST", "/faults/1/take", body{"version": 1, "off": false}, 204},
		{"POST", "/machines/2/readings", body{"key": "supply.volts", "value": "24", "grade": "observed"}, 200},
		{"POST", "/machines/2/meter", body{"hours": "120"}, 200},
		{"POST", "/fleet/use", body{"machines": []int{3}, "use": "attended only", "why": "new"}, 204},
		{"POST", "/parts", body{"kind": "springs", "model": "Bollard stiff springs", "tag": "S1", "serial": "",
			"supplier": "", "note": "", "shelf": "A"}, 200},
		{"POST", "/catalogue/entries", body{"version": 0, "model": body{"kind": "nozzle", "name": "Saved"}}, 200},
		{"POST", "/machines", body{"name": "Wigeon", "bay": "", "maker": "", "serial": "", "note": ""}, 200},
		{"POST", "/bookings", body{"machine": 2, "from": "2026-05-02T10:00:00Z", "to": "2026-05-02T12:00:00Z",
			"what": "a lid", "attended": true}, 200},
		{"POST", "/machines/1/retire", body{"why": "bent"}, 200},
	} {
		status, text := on[i%2].call(w.method, "/api"+w.path, w.body)
		if status != w.status {
			t.Errorf("%s %s: %d %.300s", w.method, w.path, status, text)
		}
		same(w.method + " " + w.path)
	}
	for _, path := range all {
		if !answered[path] && !strings.Contains(path, "/1") {
			t.Errorf("%s never answered: it is compared with nothing in it", path)
		}
	}
	t.Logf("%d comparisons of %d reads", compared, len(all))
}
