package server_test

import (
	"fmt"
	"strings"
	"sync"
	"testing"
)

// A part from the shelf is judged where it could go, from the part and from the position;
// what is broken as a machine stands is on its sheet, in the inspection and a question to
// the fleet; and what breaks when a part comes out is said before.
func TestPartsAreJudgedInPlace(t *testing.T) {
	url, _ := start(t)
	c := signedIn(t, url, "technician")
	for i, thickness := range []string{"1.2", "2.4", "2.4/claimed"} {
		c.wants(
			200,
			"",
			"POST",
			"/api/machines",
			body{"name": fmt.Sprint("M", i+1), "bay": "Quay", "maker": "", "serial": "", "note": ""},
		)
		at := fmt.Sprintf("/api/machines/%d/readings", i+1)
		value, grade, claimed := strings.Cut(thickness, "/")
		if !claimed {
			grade = "observed"
		}
		for key, v := range map[string]string{"probe.model": "Lodestar 5 V", "probe.senses": "metal, without touch",
			"probe.reach": "1.5", "plate.metal": "yes", "firmware.family": "hosted", "surface.model": "A sheet",
			"host.model": "Quayhost 4"} {
			c.wants(200, "", "POST", at, body{"key": key, "value": v, "grade": "observed"})
		}
		c.wants(200, "", "POST", at, body{"key": "surface.thickness", "value": value, "grade": grade})
	}
	c.wants(
		200,
		`"id":`,
		"POST",
		"/api/parts",
		body{"kind": "surface", "model": "Spare sheet", "tag": "S1", "serial": "", "supplier": "", "note": "", "shelf": "A"},
	)
	parts := c.wants(200, `"tag":"S1"`, "GET", "/api/parts", nil)
	id := 0
	if _, err := fmt.Sscanf(parts[strings.LastIndex(parts[:strings.Index(parts, `"tag":"S1"`)], `"id":`):], `"id":%d`,
		&id); err != nil {
		t.Fatal(err)
	}

	// Nobody knows how thick it is: that is to be measured, on the shelf.
	fits := c.wants(200, `"answer":"look first","lean":"no lean"`, "GET", fmt.Sprintf("/api/parts/%d/fits", id), nil)
	if strings.Count(fits, `"machineId":`) != 3 || !strings.Contains(fits, "Build surface: thickness") {
		t.Errorf("at every position that holds its kind: %s", fits)
	}
	c.wants(200, `"model":"Spare sheet"`, "GET", "/api/machines/1/positions/surface/parts", nil)
	c.wants(404, "", "GET", "/api/machines/1/positions/nowhere/parts", nil)
	c.wants(404, "", "GET", "/api/parts/99/fits", nil)
	// Measured on the shelf, it is judged: 1.5 mm is just what the probe reaches.
	at := fmt.Sprintf("/api/parts/%d", id)
	c.wants(200, `"short":"thickness"`, "GET", at, nil)
	for _, bad := range []struct {
		reading body
		says    string
	}{
		{body{"trait": "thickness", "value": "thick", "grade": "observed"}, "thick"},
		{body{"trait": "colour", "value": "blue", "grade": "observed"}, "there is no trait"},
		{body{"trait": "thickness", "value": "1.5", "grade": "observed", "day": "2199-01-01"}, "to come"},
	} {
		if text := c.wants(422, "", "POST", at+"/readings", bad.reading); !strings.Contains(strings.ToLower(text), bad.says) {
			t.Errorf("%v: %s", bad.reading, text)
		}
	}
	c.wants(200, `"id":`, "POST", at+"/readings", body{"trait": "model", "value": "Spare sheet", "grade": "observed"})
	c.wants(200, `"id":`, "POST", at+"/readings", body{"trait": "thickness", "value": "1.5", "grade": "observed"})
	fits = c.wants(200, `"answer":"fits"`, "GET", at+"/fits", nil)
	if strings.Count(fits, `"answer":"fits"`) != 3 {
		t.Errorf("of 1.5 mm: %s", fits)
	}
	c.wants(200, `"id":`, "POST", at+"/readings", body{"trait": "thickness", "value": "1.6", "grade": "proven"})
	c.wants(200, "Surface at most 1.5 mm thick, which Lodestar 5 V needs", "GET", at+"/fits", nil)
	// The host is what the build runs on; without the sheet nothing is missing.
	c.wants(
		200,
		`"breaks":[{"state":"not met","label":"A host computer"`,
		"GET",
		"/api/machines/1/positions/host/parts",
		nil,
	)
	c.wants(200, `"breaks":[]`, "GET", "/api/machines/1/positions/surface/parts", nil)

	for i, state := range []string{"nothing known broken", "known broken", "leans broken"} {
		c.wants(200, fmt.Sprintf(`"needs":{"state":%q`, state), "GET", fmt.Sprintf("/api/machines/%d", i+1), nil)
		c.wants(200, fmt.Sprintf(`"state":%q`, state), "GET", fmt.Sprintf("/api/identify?machine=%d", i+1), nil)
		asked := c.wants(
			200,
			`"of":3`,
			"POST",
			"/api/fleet/ask",
			body{"columns": []string{"machine.broken"}, "where": []body{{"of": "machine.broken", "test": "is", "value": state}}},
		)
		if name := fmt.Sprintf(`"name":"M%d"`, i+1); strings.Count(asked, `"name":"M`) != 1 ||
			!strings.Contains(asked, name) {
			t.Errorf("%s: %s", state, asked)
		}
	}

	// Put in, it breaks what was right; and what is in a machine is read there.
	c.wants(
		200,
		"",
		"POST",
		at+"/move",
		body{"to": "machine", "machineId": 1, "slot": "surface", "why": "worn", "replaces": true, "from": body{}},
	)
	c.wants(
		422,
		"record it on the sheet of that machine",
		"POST",
		at+"/readings",
		body{"trait": "thickness", "value": "1", "grade": "observed"},
	)
	c.wants(200, `"needs":{"state":"known broken"`, "GET", "/api/machines/1", nil)
}

// What lasts of a shop's own kit is offered to its model, and moved there at once: other
// kits that fit the model need it from then on.
func TestLastingNeedsAreMoved(t *testing.T) {
	url, _ := start(t)
	c := signedIn(t, url, "technician")
	c.wants(200, "", "POST", "/api/machines", body{"name": "M1", "bay": "", "maker": "", "serial": "", "note": ""})
	c.wants(200, "", "POST", "/api/machines/1/readings", body{"key": "supply.volts", "value": "12", "grade": "observed"})
	c.wants(
		200,
		`"version":1`,
		"POST",
		"/api/kits",
		body{
			"version": 0,
			"kit": with(
				kitOf("warm", "at least", "24"),
				"needs",
				body{"label": "x", "all": []any{kitOf("warm", "at least", "24")["needs"]}},
			),
		},
	)
	c.wants(200, `"label":"Enough volts","kind":"heater","model":"Warm 1"`, "GET", "/api/kits/warm/lasting", nil)
	c.wants(409, "nothing was moved", "POST", "/api/kits/warm/lasting", body{"version": 4, "at": []int{0}})
	c.wants(422, "None of these needs", "POST", "/api/kits/warm/lasting", body{"version": 1, "at": []int{7}})
	c.wants(200, `"version":2`, "POST", "/api/kits/warm/lasting", body{"version": 1, "at": []int{0}})
	c.wants(200, `"offers":[]`, "GET", "/api/kits/warm/lasting", nil)
	c.wants(200, "Enough volts, which Warm 1 needs", "GET", "/api/kits/warm/machines/1", nil)
	other := with(kitOf("other", "at least", "1"), "name", "Another way to it")
	c.wants(
		200,
		`"version":1`,
		"POST",
		"/api/kits",
		body{
			"version": 0,
			"kit": with(
				other,
				"needs",
				body{"label": "y", "test": body{"slot": "supply", "trait": "volts", "op": "known", "least": "marked"}},
			),
		},
	)
	c.wants(200, "Enough volts, which Warm 1 needs", "GET", "/api/kits/other/machines/1", nil)
}

// Many who ask at once what would make a kit fit wait for one answer; it stands until
// something is recorded.
func TestAdviceIsWorkedOutOnce(t *testing.T) {
	url, _ := start(t)
	c := signedIn(t, url, "technician")
	c.wants(200, "", "POST", "/api/machines", body{"name": "M1", "bay": "", "maker": "", "serial": "", "note": ""})
	for key, v := range map[string]string{"mainboard.chip-maker": "pin-compatible twin",
		"firmware.family": "compiled", "probe.model": "none"} {
		c.wants(200, "", "POST", "/api/machines/1/readings", body{"key": key, "value": v, "grade": "observed"})
	}
	const at = "/api/kits/plumbline-probe/machines/1/advice"
	first := c.wants(200, `"remedies":{`, "GET", at, nil)
	var wait sync.WaitGroup
	for range 8 {
		wait.Go(func() {
			if again := c.wants(200, `"remedies":{`, "GET", at, nil); again != first {
				t.Errorf("another answer: %s", again)
			}
		})
	}
	wait.Wait()
	c.wants(
		200,
		"",
		"POST",
		"/api/machines/1/readings",
		body{"key": "mainboard.chip-maker", "value": "first source", "grade": "proven"},
	)
	if now := c.wants(200, "", "GET", at, nil); strings.Contains(now, `"remedies":{`) {
		t.Errorf("it may fit now, and there is still something to mend: %s", now)
	}
}
