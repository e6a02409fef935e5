package server_test

import (
	"strings"
	"testing"
)

// A build is recorded, a board runs it, and what is fitted otherwise than it is configured
// for is said on the build, on the machine, on its sheet and to the fleet.
func TestBuildsOverTheAPI(t *testing.T) {
	url, _ := start(t)
	c := signedIn(t, url, "technician")
	c.wants(200, "", "POST", "/api/machines", body{"name": "M1", "bay": "Quay", "maker": "", "serial": "", "note": ""})
	for key, v := range map[string]string{"mainboard.model": "Brace board", "sensor.type": "104 thermistor",
		"sensor.model": "rod"} {
		c.wants(200, "", "POST", "/api/machines/1/readings", body{"key": key, "value": v, "grade": "observed"})
	}
	build := body{
		"name":          "Tall 2.1",
		"family":        "compiled",
		"buildVersion":  "2.1",
		"features":      body{"arc moves": "no"},
		"configuredFor": body{"sensor.type": "100k thermistor"},
	}
	c.wants(200, `"id":1`, "POST", "/api/builds", build)
	c.wants(
		422,
		"named tall 2.1 already",
		"POST",
		"/api/builds",
		body{"name": "tall 2.1", "family": "", "features": body{}, "configuredFor": body{}},
	)
	c.wants(
		422,
		"is not a date",
		"POST",
		"/api/machines/1/runs",
		body{"board": "mainboard", "build": 1, "from": "soon", "grade": "observed", "how": "x", "madeFor": false},
	)
	c.wants(
		422,
		"How it is known",
		"POST",
		"/api/machines/1/runs",
		body{"board": "mainboard", "build": 1, "grade": "observed", "how": "", "madeFor": false},
	)
	c.wants(
		404,
		"",
		"POST",
		"/api/machines/1/runs",
		body{"board": "mainboard", "build": 77, "grade": "observed", "how": "M115", "madeFor": false},
	)
	c.wants(
		200,
		"configured for 100k thermistor, and 104 thermistor is fitted",
		"POST",
		"/api/machines/1/runs",
		body{"board": "mainboard", "build": 1, "grade": "observed", "how": "M115", "madeFor": false},
	)
	c.wants(200, "heats far above what it shows", "GET", "/api/builds/1", nil)
	c.wants(200, "heats far above what it shows", "GET", "/api/machines/1", nil)
	c.wants(200, `"running":1`, "GET", "/api/builds", nil)
	c.wants(
		200,
		`"M1"`,
		"POST",
		"/api/fleet/ask",
		body{
			"columns": []string{"machine.built-for", "firmware.model"},
			"where":   []any{body{"of": "firmware.model", "test": "is", "value": "Tall 2.1"}},
		},
	)
	c.wants(422, "stays on record", "POST", "/api/builds/1/delete", nil)
	build["configuredFor"] = body{}
	c.wants(200, `"version":2`, "PUT", "/api/builds/1", body{"version": 1, "build": build})
	c.wants(409, "while you were editing", "PUT", "/api/builds/1", body{"version": 1, "build": build})
	if text := c.wants(200, "", "GET", "/api/machines/1/runs", nil); strings.Contains(text, "100k thermistor") {
		t.Errorf("the build is configured for it no longer: %s", text)
	}
}

// A calibration is of a subject; a value that such a machine hardly has is asked for once
// more, and taken when the person is sure.
func TestCalibrationsOverTheAPI(t *testing.T) {
	url, _ := start(t)
	c := signedIn(t, url, "technician")
	c.wants(200, "", "POST", "/api/machines", body{"name": "M1", "bay": "Quay", "maker": "", "serial": "", "note": ""})
	at := "/api/machines/1/calibrations"
	c.wants(
		422,
		"Say of which",
		"POST",
		at,
		body{"kind": "protection", "data": body{"school": "no-heat", "alarm": "190", "alarmText": "Heating failed"}},
	)
	c.wants(
		422,
		"is nothing that a calibration belongs to",
		"POST",
		at,
		body{"kind": "protection", "subject": "the hot bit!", "data": body{}},
	)
	c.wants(
		422,
		"no head 2 now",
		"POST",
		at,
		body{
			"kind":    "hotend-pid",
			"subject": "head 2",
			"data":    body{"numbers": []string{"21", "1", "74"}, "store": "stored settings"},
		},
	)
	c.wants(404, "", "POST", at, body{"kind": "ghost", "data": body{}})
	steps := body{"value": "1,200", "store": "stored settings"}
	c.wants(422, `"written":"1,200","meanings":["1.2","1200"],"fields":["/data/value"]`, "POST", at,
		body{"kind": "steps-per-mm", "data": steps})
	steps["value"] = "1.2"
	c.wants(422, `"ask":true`, "POST", at, body{"kind": "steps-per-mm", "data": steps})
	steps["sure"] = true
	c.wants(200, "steps/mm", "POST", at, body{"kind": "steps-per-mm", "data": steps})
	for _, subject := range []string{"head 1", "bed"} {
		c.wants(
			200,
			"",
			"POST",
			at,
			body{
				"kind":    "protection",
				"subject": subject,
				"data":    body{"school": "no-heat", "alarm": "190", "alarmText": "Heating failed"},
			},
		)
	}
	c.wants(200, `"proven":true`, "GET", "/api/machines/1", nil)
	c.wants(200, "", "POST", "/api/machines/1/exchange", body{"slot": "bed-heater", "model": "mat"})
	c.wants(200, "bed: proof invalid: Bed heater: unknown → mat", "GET", "/api/machines/1", nil)
}
