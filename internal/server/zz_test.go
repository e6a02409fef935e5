package server_test

import (
	"strings"
	"testing"
	"time"

	"wardifex/internal/core/maintenance"
)

func TestZZ(t *testing.T) {
	_, s := start(t)
	fillFleet(t, s, 1000)
	s.SQL.Exec("analyze")
	for range 2 {
		at := time.Now()
		ms, err := s.Fleet(t.Context())
		if err != nil { t.Fatal(err) }
		t.Log("fleet", time.Since(at)); at = time.Now()
		s.Wear(t.Context(), ms)
		t.Log("wear", time.Since(at)); at = time.Now()
		n := 0
		for i := range ms { n += len(maintenance.DueList(ms[i].Subject(now), now)) }
		t.Log("due", n, time.Since(at)); at = time.Now()
		js, _, _ := does(s).Judges(t.Context())
		for i := range ms { js[5].Verdict(ms[i].Facts) }
		t.Log("verdicts", len(js), time.Since(at)); at = time.Now()
		does(s).Suppliers(t.Context())
		t.Log("claims", time.Since(at)); at = time.Now()
		s.Usage(t.Context())
		t.Log("usage", time.Since(at)); at = time.Now()
		s.Timeline(t.Context(), 5, 200)
		t.Log("timeline", time.Since(at)); at = time.Now()
		s.Histories(t.Context(), 5)
		t.Log("histories", time.Since(at)); at = time.Now()
		s.Machine(t.Context(), 5)
		t.Log("machine", time.Since(at)); at = time.Now()
	}
	rows, _ := s.SQL.Query("select tablename, indexdef from pg_indexes where schemaname = 'public' order by 1")
	for rows.Next() { var a, b string; rows.Scan(&a, &b); t.Log(a, b[strings.Index(b, "USING"):]) }
	var c []struct{ T string; N int }
	_ = c
	for _, q := range []string{"parts", "readings", "fittings", "positions"} {
		var n int
		s.SQL.QueryRow("select count(*) from " + q).Scan(&n)
		t.Log(q, n)
	}
}
