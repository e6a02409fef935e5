package server_test

import (
	"io"
	"log/slog"
	"net/http/httptest"
	"testing"
	"time"

	"wardifex/internal/server"
)

// At UTC+10 in the morning, today's reading is today's; setting the zone later moves no
// day that is on record.
func TestDaysAreTheShops(t *testing.T) {
	_, s := start(t)
	clock := time.Date(2026, 4, 30, 12, 0, 0, 0, time.UTC)
	app := server.New(
		server.Config{
			Store: s,
			Clock: func() time.Time { return clock },
			Log:   slog.New(slog.NewTextHandler(io.Discard, nil)),
		},
	)
	srv := httptest.NewServer(app)
	defer func() { srv.Close(); app.Close() }()
	c, lead := signedIn(t, srv.URL, "technician"), signedIn(t, srv.URL, "lead")
	type body = map[string]any
	settings := func(zone string, version int) body {
		return body{"name": "Netloft", "currency": "eur", "weekStart": "monday", "opening": []any{}, "contact": "",
			"timeZone": zone, "version": version}
	}

	c.wants(200, "", "POST", "/api/machines", body{"name": "Avocet", "bay": "", "maker": "", "serial": "", "note": ""})
	c.wants(200, `"at":"2026-04-20T`, "POST", "/api/machines/1/meter", body{"hours": "100", "day": "20 Apr 2026"})
	c.wants(200, `"timeZone":"UTC","version":0`, "GET", "/api/shop", nil)
	c.wants(403, "", "PUT", "/api/shop", settings("Australia/Brisbane", 0))
	lead.wants(422, "no time zone", "PUT", "/api/shop", settings("Mars/Olympus", 0))
	lead.wants(
		200,
		`"timeZone":"Australia/Brisbane","version":1`,
		"PUT",
		"/api/shop",
		settings("Australia/Brisbane", 0),
	)
	lead.wants(200, `"name":"Netloft","currency":"EUR"`, "GET", "/api/shop", nil)
	odd := settings("Australia/Brisbane", 1)
	odd["currency"] = "QQQ"
	lead.wants(422, "is no currency", "PUT", "/api/shop", odd)
	lead.wants(409, "body else", "PUT", "/api/shop", settings("Europe/Oslo", 0))

	clock = time.Date(2026, 4, 30, 22, 30, 0, 0, time.UTC) // 08:30 on 1 May in Brisbane
	c.wants(200, `"today":"2026-05-01T08:30:00+10:00"`, "GET", "/api/session", nil)
	c.wants(
		200,
		`"at":"2026-05-01T08:30:00+10:00"`,
		"POST",
		"/api/machines/1/meter",
		body{"hours": "150", "day": "2026-05-01"},
	)
	c.wants(422, "still to come", "POST", "/api/machines/1/meter", body{"hours": "160", "day": "2.5.2026"})
	c.wants(
		422,
		`"written":"3/4/2026","meanings":["3 Apr 2026","4 Mar 2026"]`,
		"POST",
		"/api/machines/1/meter",
		body{"hours": "160", "day": "3/4/2026"},
	)
	c.wants(
		200,
		"2026-05-01T08:30:00+10:00",
		"POST",
		"/api/machines/1/readings",
		body{"key": "supply.volts", "value": "24", "grade": "observed", "day": "1 May 2026"},
	)
	c.wants(
		200,
		"2026-04-29T00:00:00Z",
		"POST",
		"/api/machines/1/readings",
		body{"key": "supply.watts", "value": "350", "grade": "observed", "day": "2026-04-29"},
	)

	// From Brisbane's morning back to New York's evening of the day before.
	clock = clock.Add(time.Minute)
	lead.wants(200, `"version":2`, "PUT", "/api/shop", settings("America/New_York", 1))
	c.wants(200, "2026-04-29T00:00:00Z", "GET", "/api/machines/1", nil)
	c.wants(200, `"at":"2026-05-01T08:30:00+10:00"`, "GET", "/api/machines/1", nil)
	clock = clock.Add(time.Hour)
	c.wants(200, `"at":"2026-04-30T19:31:00-04:00"`, "POST", "/api/machines/1/meter", body{"hours": "151", "day": ""})
	c.wants(200, `"value":"2026-04-30","shown":"30 Apr 2026"`, "GET", "/api/days?text=30+april+2026", nil)
	c.wants(
		200,
		`"value":"2026-05-01T09:30:00-04:00","shown":"1 May 2026, 09:30"`,
		"GET",
		"/api/days?text=1.5.2026+9:30",
		nil,
	)
	c.wants(200, `"meanings":["1.2","1200"]`, "POST", "/api/numbers", body{"text": "1,200"})
	c.wants(200, `"number":0.11`, "POST", "/api/numbers", body{"text": "110 mΩ", "unit": "Ω"})
}
