package app

import (
	"io"
	"log/slog"
	"strings"
	"testing"
	"time"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// A record on which judging panics is named on its machine; the others are judged, and nobody waits for ever.
func TestOneBadRecordStopsNoOther(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	a := New(s, time.Now)
	a.fleet.log = slog.New(slog.NewTextHandler(io.Discard, nil))
	var bad int64
	for _, name := range []string{"Avocet", "Brant", "Curlew"} {
		id, err := a.AddMachine(t.Context(), store.Fields{Name: name}, Like{}, "x", time.Now())
		if err != nil {
			t.Fatal(err)
		}
		if name == "Brant" {
			bad = id
		}
	}
	const marker = "Gannet supply"
	reading := machine.Reading{Grade: machine.Observed, TakenAt: time.Now(), By: "x"}
	if _, err := a.AddReading(t.Context(), bad, "supply.model", marker, reading, time.Now()); err != nil {
		t.Fatal(err)
	}
	a.fleet.judgeOne = func(m *fit.Matrix, f machine.Snapshot) *fit.Row {
		if f.Model("supply") == marker {
			panic("a record that nobody foresaw")
		}
		return judgeAnew(m, f)
	}
	for range 2 { // the second finds the turn free again
		if err := a.Prepare(t.Context()); err != nil {
			t.Fatal(err)
		}
	}
	m, err := a.Matrix(t.Context(), MatrixQuery{})
	if err != nil || m.Judged != 3 {
		t.Fatalf("%d machines judged, %v", m.Judged, err)
	}
	if len(m.Broken) != 1 || !strings.HasPrefix(m.Broken[0], "Brant") {
		t.Errorf("named as broken: %v, want Brant alone", m.Broken)
	}
	for _, row := range m.Machines {
		decided := 0
		for _, answer := range row.Answers {
			if answer != fit.LookFirst {
				decided++
			}
		}
		if row.ID == bad && decided > 0 {
			t.Errorf("%d kits are decided on a machine that cannot be judged", decided)
		}
	}
}
