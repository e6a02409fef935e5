package app_test

import (
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/core/csvimport"
	"wardifex/internal/core/drift"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// The settings of 1,000 machines, a report and a start code each, are read and held against each other in
// under a second.
func TestFleetDriftIsQuick(t *testing.T) {
	if os.Getenv("WARDIFEX_LOAD") == "" {
		t.Skip("make bench runs it: alone, and without the race detector")
	}
	s := pgtest.Store(t)
	columns := []string{"name", "firmware.family", "extruder.steps", "driver-e.microsteps"}
	var b strings.Builder
	b.WriteString(strings.Join(columns, ";") + "\n")
	const machines = 1000
	for i := range machines {
		fmt.Fprintf(&b, "M%04d;compiled;415;16\n", i)
	}
	text := []byte(b.String())
	tb, err := csvimport.ReadTable(t.Context(), text, csvimport.MaxRows, csvimport.Layout{})
	must(t, err)
	d := csvimport.Decisions{Mapping: columns}
	p, err := does(s).PlanRegister(ctx, tb, d, now)
	must(t, err)
	_, err = does(s).ImportRegister(ctx, store.ImportFile{Name: "fleet.csv", Data: text}, tb, d, p.Fingerprint, "x", now)
	must(t, err)
	fleet, err := s.Fleet(ctx)
	must(t, err)
	for i := range fleet {
		report := fmt.Sprintf("echo:  M92 X80.00 Y80.00 Z400.00 E%d.00\nM301 P21.70 I1.60 D74.00\nM304 P70 I1.5 D600\n"+
			"M851 X-44 Y-8 Z-1.85\nM906 X800 Y800 Z800 E900\n", 415+i%2) + strings.Repeat("M203 X500 Y500 Z5 E25\n", 30)
		texts := map[drift.Where]string{drift.StoredSettings: report, drift.StartCode: "G28\nM92 E95\nG29\n"}
		for place, text := range texts {
			_, err := does(s).AddSettings(ctx, app.NewSettings{MachineID: fleet[i].ID, Place: place, Name: string(place),
				Text: []byte(text)}, "Ansa", now)
			must(t, err)
		}
	}
	least := time.Hour
	for range 5 {
		begun := time.Now()
		found, err := does(s).FleetDrift(ctx)
		must(t, err)
		if found.Read != machines || len(found.Machines) != machines {
			t.Fatalf("%d machines read, %d disagree", found.Read, len(found.Machines))
		}
		least = min(least, time.Since(begun))
	}
	t.Logf("%d machines in %s", machines, least)
	if least > time.Second {
		t.Errorf("took %s, more than a second", least)
	}
}
