package safety_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/safety"
)

// What is open on a machine is said: unproven heaters, a bed of which nobody knows what heats
// it, mains without who wired it.
func TestEntry(t *testing.T) {
	tested := time.Date(2026, 1, 5, 9, 0, 0, 0, time.UTC)
	proof := func(passed bool, of calibration.Subject) calibration.Record {
		return calibration.Record{Kind: calibration.Protection, Subject: of, Passed: passed, Method: "no-heat", By: "x",
			At: tested}
	}
	both := []calibration.Record{proof(true, "head 1"), proof(true, "bed")}
	for name, tt := range map[string]struct {
		on      map[string]string
		records []calibration.Record
		work    []safety.MainsWork
		faults  int
		later   time.Duration
		mains   safety.Mains
		danger  string
		risks   []string
	}{
		"all proven, low voltage": {on: map[string]string{"plate.mains": "no"}, records: both, mains: safety.LowVoltage},
		"proven too long ago": {on: map[string]string{"plate.mains": "no"}, records: both, later: 365 * 24 * time.Hour,
			mains: safety.LowVoltage, risks: []string{"not proven: head 1", "not proven: bed"}},
		"nothing proven": {on: map[string]string{"plate.mains": "no"}, mains: safety.LowVoltage,
			risks: []string{"not proven: head 1", "not proven: bed"}},
		"a heater failed": {on: map[string]string{"plate.mains": "no"}, records: []calibration.Record{proof(true, "bed"),
			proof(false, "head 1")}, mains: safety.LowVoltage, risks: []string{"not proven: head 1"}},
		"nobody knows the bed": {on: nil, records: both, mains: safety.MainsUnsaid,
			risks: []string{"not known whether the bed"}},
		"mains, unsaid who": {on: map[string]string{"plate.mains": "yes"}, records: both, mains: safety.MainsBed,
			risks: []string{"who wired it", "not known whether the mains bed has"}},
		"mains, and who": {on: map[string]string{"plate.mains": "yes", "plate.cut-off": "no"}, records: both,
			work:  []safety.MainsWork{{Who: "E. Lind"}},
			mains: safety.MainsBed, risks: []string{"no measured earth", "has no thermal cut-off"}},
		"mains, all that is asked": {on: map[string]string{"plate.mains": "yes", "plate.cut-off": "yes"}, records: both,
			work:  []safety.MainsWork{{Who: "E. Lind", Earth: "0.08 Ω", Instrument: "tester 4"}},
			mains: safety.MainsBed},
		"a danger": {on: map[string]string{"plate.mains": "no"}, records: both, danger: "sparks", mains: safety.LowVoltage,
			risks: []string{"not proven: head 1", "not proven: bed", "sparks"}},
		"a fault": {on: map[string]string{"plate.mains": "no"}, records: both, faults: 1, mains: safety.LowVoltage,
			risks: []string{"faults are open"}},
	} {
		t.Run(name, func(t *testing.T) {
			e := safety.MachineSafety{Work: tt.work, Faults: tt.faults}
			facts := machinetest.Facts(catalogue.Vocabulary(), tt.on)
			proven := calibration.ProtectionOf(facts, tt.records, tested.Add(tt.later))
			if tt.danger != "" {
				proven = proven.Doubted(tt.danger)
			}
			e.Of(safety.Known{Facts: facts, Records: tt.records, Protection: proven,
				Ready: maintenance.Readiness{Proven: len(tt.records) > 0, Danger: tt.danger}})
			if e.Mains != tt.mains || len(e.Risks) != len(tt.risks) {
				t.Fatalf("mains %s, open %q", e.Mains, e.Risks)
			}
			for _, want := range tt.risks {
				if !slices.ContainsFunc(e.Risks, func(r string) bool { return strings.Contains(r, want) }) {
					t.Errorf("open %q, want %q", e.Risks, want)
				}
			}
			if len(tt.records) == 0 && e.State != maintenance.AttendedOnly {
				t.Errorf("unproven and %s", e.State)
			}
		})
	}
}
