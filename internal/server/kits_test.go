package server_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"wardifex/internal/app"
)

// kitOf is a kit that asks for a supply of so many volts.
func kitOf(key, op, value string) body {
	return body{
		"key":     key,
		"name":    "=Kit " + key,
		"what":    "heated bed",
		"about":   "",
		"price":   10,
		"minutes": 20,
		"skill":   "any",
		"parts":   []string{"a part"},
		"screws":  []string{"M3 × 8"},
		"tools":   []string{},
		"steps":   []any{},
		"effects": []body{{"slot": "bed-heater", "model": "Warm 1"}},
		"needs": body{
			"label": "Enough volts",
			"test":  body{"slot": "supply", "trait": "volts", "op": op, "values": []string{value}, "least": "marked"},
		},
	}
}

// A kit written, checked, tried on the fleet, saved, and judged in the matrix;
// what is wrong is said in words, and one bad kit does not stop the others.
func TestKitsAreWritten(t *testing.T) {
	url, s := start(t)
	c := signedIn(t, url, "technician")
	for i, volts := range []string{"24", "12"} {
		c.wants(
			200,
			"",
			"POST",
			"/api/machines",
			body{"name": fmt.Sprint("M", i+1), "bay": "Quay", "maker": "", "serial": "", "note": ""},
		)
		c.wants(
			200,
			"",
			"POST",
			fmt.Sprintf("/api/machines/%d/readings", i+1),
			body{"key": "supply.volts", "value": volts, "grade": "observed"},
		)
	}
	good := kitOf("warm", "at least", "24")
	c.wants(200, `"counts":{"fits":1,"fitsIf":0,"lookFirst":0,"doesNotFit":1,`, "POST", "/api/kits/try", good)
	for _, bad := range []struct {
		kit  body
		says string
	}{
		{kitOf("warm", "at least", "24 mm"), "mm"},
		{kitOf("warm", "roughly", "24"), "roughly"},
		{kitOf("warm", "at least", "much"), "much"},
		{kitOf("", "at least", "24"), "needs a key"},
		{with(good, "needs", body{"label": "x",
			"test": body{"slot": "supply", "trait": "moons", "op": "present", "least": "read"}}), "moons"},
		{with(good, "needs", body{"label": "x",
			"all": []any{good["needs"], body{"label": "y", "none": []any{good["needs"]}}}}), "cannot both be so"},
		{with(good, "needs", body{"label": "x", "kit": body{"key": "warm", "slot": "bed-heater", "model": "Warm 1"}}),
			"circle"},
		{with(good, "minutes", -5), "minutes"},
		{with(good, "uses", []any{body{"budget": "flash", "amount": 1e11}}), "no amount"},
	} {
		c.wants(200, bad.says, "POST", "/api/kits/try", bad.kit)
		c.wants(422, bad.says, "POST", "/api/kits", body{"version": 0, "kit": bad.kit})
	}
	c.wants(200, `"version":1`, "POST", "/api/kits", body{"version": 0, "kit": good})
	c.wants(422, "a kit of the key warm already", "POST", "/api/kits", body{"version": 0, "kit": good})
	c.wants(409, "nothing was overwritten", "POST", "/api/kits", body{"version": 7, "kit": good})
	c.wants(200, `"version":2`, "POST", "/api/kits", body{"version": 1, "kit": with(good, "price", 12)})
	if err := s.Migrate(t.Context()); err != nil {
		t.Fatal(err)
	}
	c.wants(200, `"price":12`, "GET", "/api/kits/warm/entry", nil)
	c.wants(404, "", "GET", "/api/kits/ghost/entry", nil)
	// What would change against the kit as it is saved comes first, and evidence that nobody can earn is pointed out.
	c.wants(
		200,
		`"rows":[{"machine":"M2","answer":"fits","was":"does not fit","headline":"Every need is met."},`+
			`{"machine":"M1","answer":"fits","headline"`,
		"POST",
		"/api/kits/try",
		kitOf("warm", "at least", "12"),
	)
	c.wants(
		200,
		`"hints":["x: no inspection on record earns the grade proven for Mainboard: model; marked is the best"]`,
		"POST",
		"/api/kits/try",
		with(
			good,
			"needs",
			body{"label": "x", "test": body{"slot": "mainboard", "trait": "model", "op": "present", "least": "proven"}},
		),
	)
	// A kit that another asks for stays; one that came with the application comes back.
	c.wants(
		200,
		"",
		"POST",
		"/api/kits",
		body{
			"version": 0,
			"kit": with(
				with(
					kitOf("after", "at least", "12"),
					"needs",
					body{"label": "x", "kit": body{"key": "warm", "slot": "bed-heater", "model": "Warm 1"}},
				),
				"effects",
				[]any{body{"slot": "surface", "model": "After"}},
			),
		},
	)
	c.wants(422, "=Kit after asks for =Kit warm", "POST", "/api/kits/warm/delete", body{"version": 2})
	c.wants(409, "it was not deleted", "POST", "/api/kits/after/delete", body{"version": 3})
	c.wants(200, `"back":false`, "POST", "/api/kits/after/delete", body{"version": 1})
	c.wants(404, "", "GET", "/api/kits/after/entry", nil)
	c.wants(422, "came with the application", "POST", "/api/kits/amber-display/delete", body{"version": 1})
	var amber struct{ Kit body }
	if err := json.Unmarshal([]byte(c.wants(200, `"shipped":true`, "GET", "/api/kits/amber-display/entry", nil)),
		&amber); err != nil {
		t.Fatal(err)
	}
	c.wants(200, `"shipped":false`, "POST", "/api/kits", body{"version": 1, "kit": with(amber.Kit, "price", 1)})
	c.wants(200, `"shipped":false,"returns":true`, "GET", "/api/kits/amber-display/entry", nil)
	c.wants(200, `"back":true`, "POST", "/api/kits/amber-display/delete", body{"version": 2})
	c.wants(200, `"price":19`, "GET", "/api/kits/amber-display/entry", nil)

	// A rule that lost its trait behind the application's back is named.
	if _, err := s.SQL.Exec(`update kits
		set definition = replace(definition::text, '"trait": "model"', '"trait": "moons"')::jsonb
		where key = 'bollard-springs'`); err != nil {
		t.Fatal(err)
	}
	var m struct {
		Kits []struct {
			Key    string
			Counts struct{ Fits, DoesNotFit int }
		}
		Broken []string
	}
	if err := json.Unmarshal([]byte(c.wants(200, "", "GET", "/api/matrix", nil)), &m); err != nil {
		t.Fatal(err)
	}
	if len(m.Broken) != 1 || !strings.Contains(m.Broken[0], "moons") {
		t.Errorf("broken: %v", m.Broken)
	}
	for _, k := range m.Kits {
		if k.Key == "warm" && (k.Counts.Fits != 1 || k.Counts.DoesNotFit != 1) {
			t.Errorf("counts: %+v", k.Counts)
		}
	}
	c.wants(422, "moons", "GET", "/api/kits/bollard-springs/verdicts", nil)
	// What is found out, taken back or changed of a kit shows in the next matrix.
	counts := func(want string) {
		t.Helper()
		text := c.wants(200, "", "GET", "/api/matrix", nil)
		if at := strings.Index(text, `"key":"warm"`); !strings.Contains(text[at:at+250], want) {
			t.Errorf("counts of warm: %s, want %s", text[at:at+250], want)
		}
	}
	c.wants(200, "", "POST", "/api/machines/2/readings", body{"key": "supply.volts", "value": "48", "grade": "proven"})
	counts(`"fits":2,"fitsIf":0,"lookFirst":0,"doesNotFit":0`)
	c.wants(200, "", "POST", "/api/machines/2/readings", body{"key": "supply.volts", "value": "12", "grade": "proven"})
	counts(`"fits":1,"fitsIf":0,"lookFirst":1,"doesNotFit":0`) // in conflict
	c.wants(
		200,
		`"version":3`,
		"POST",
		"/api/kits",
		body{"version": 2, "kit": with(with(good, "price", 12), "needs", kitOf("warm", "at least", "9")["needs"])},
	)
	counts(`"fits":2,"fitsIf":0,"lookFirst":0,"doesNotFit":0`)
	c.wants(200, `"version":4`, "POST", "/api/kits", body{"version": 3, "kit": with(good, "price", 12)})
	m2, err := s.Machine(t.Context(), 2)
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range m2.Facts.Fact("supply.volts").Conflict {
		if r.Value.Text == "12" {
			if err := app.New(s, time.Now).Settle(t.Context(), 2, "supply.volts", r.ID, "read again", "x", now); err != nil {
				t.Fatal(err)
			}
		}
	}
	counts(`"fits":1,"fitsIf":0,"lookFirst":0,"doesNotFit":1`)
	c.wants(200, ",'=Kit warm,", "GET", "/api/matrix.csv", nil)
	c.wants(
		200,
		`"lines":[{"what":"=Kit warm","kind":"kit","count":1,"price":12,"machines":["M1"],"box":[{"what":"a part","count":1}`,
		"POST",
		"/api/orders",
		body{"picks": []body{{"kit": "warm", "machineId": 1}, {"kit": "warm", "machineId": 2}}},
	)
	c.wants(
		200,
		"=Kit warm on M2: does not fit",
		"POST",
		"/api/orders",
		body{"picks": []body{{"kit": "warm", "machineId": 2}}},
	)
	c.wants(200, `"answer":"fits"`, "POST", "/api/plans", body{"machineId": 1, "kits": []string{"warm"}})
	c.wants(422, "", "POST", "/api/plans", body{"machineId": 1, "kits": []string{"warm", "warm"}})
	c.wants(404, "", "POST", "/api/plans", body{"machineId": 1, "kits": []string{"ghost"}})
	c.wants(200, `"remedies":{"whole":true,"tried":0}`, "GET", "/api/kits/warm/machines/2/advice", nil)
	c.wants(200, `"unlocks":[]`, "GET", "/api/machines/1/kits", nil)
	c.wants(
		422,
		"Say why the machine is touched",
		"POST",
		"/api/work/plan",
		body{"machineId": 1, "kits": []string{"warm"}, "reason": ""},
	)
	c.wants(
		422,
		"cannot be fitted to M2",
		"POST",
		"/api/work/plan",
		body{"machineId": 2, "kits": []string{"warm"}, "reason": "wear"},
	)
	both := body{"machineId": 1, "kits": []string{"warm", "slate-sheet"}, "reason": "wear"}
	c.wants(200, "", "POST", "/api/machines/1/readings", body{"key": "probe.model", "value": "none", "grade": "observed"})
	c.wants(422, "Look first: Bed plate: model, Bed plate: usual temperature of the bed", "POST", "/api/work/plan", both)
	c.wants(200, "", "POST", "/api/machines/1/readings", body{"key": "plate.model", "value": "235 plate",
		"grade": "observed"})
	c.wants(
		200,
		"",
		"POST",
		"/api/machines/1/readings",
		body{"key": "plate.temperature", "value": "60", "grade": "claimed"},
	)
	c.wants(200, `"id":`, "POST", "/api/work/plan", both)
	c.wants(200, `"openOrder":{`, "GET", "/api/machines/1", nil)
	c.wants(200, `"machines":[`, "GET", "/api/kits/plumbline-probe/look?n=1", nil)
}

func with(kit body, field string, value any) body {
	out := body{}
	for k, v := range kit {
		out[k] = v
	}
	out[field] = value
	return out
}

// A kit that a shop hides is gone from its lists until it is shown again; edited meanwhile,
// it stays hidden.
func TestKitsAreHidden(t *testing.T) {
	t.Parallel()
	url, _ := start(t)
	c := signedIn(t, url, "technician")
	c.wants(200, "", "POST", "/api/machines", body{"name": "M1", "bay": "", "maker": "", "serial": "", "note": ""})
	listed := func(path string) bool {
		t.Helper()
		return strings.Contains(c.wants(200, "", "GET", path, nil), `"key":"slate-sheet"`)
	}
	if !listed("/api/kits") || !listed("/api/matrix") {
		t.Fatal("the kit is not there to begin with")
	}
	c.wants(204, "", "POST", "/api/kits/slate-sheet/hide", body{"hidden": true})
	c.wants(404, "", "POST", "/api/kits/no-such/hide", body{"hidden": true})
	if listed("/api/kits") || listed("/api/matrix") || !listed("/api/kits?hidden=true") {
		t.Error("a hidden kit is listed, or not among the hidden")
	}
	c.wants(200, "", "GET", "/api/kits/slate-sheet/machines/1", nil) // by its address it is judged still
	c.wants(204, "", "POST", "/api/kits/slate-sheet/hide", body{"hidden": false})
	if !listed("/api/kits") || listed("/api/kits?hidden=true") {
		t.Error("a kit that is shown again is not listed")
	}
}
