package maintenance_test

import (
	"strings"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/maintenance"
)

func TestAvailable(t *testing.T) {
	for name, c := range map[string]struct {
		stands maintenance.Readiness
		want   maintenance.Availability
		why    string
	}{
		"proven":     {maintenance.Readiness{Use: maintenance.InUse, Proven: true}, maintenance.Free, ""},
		"not proven": {maintenance.Readiness{Use: maintenance.InUse}, maintenance.AttendedOnly, "not proven"},
		"said so": {
			maintenance.Readiness{Use: maintenance.Attended, Why: "new nozzle", Proven: true},
			maintenance.AttendedOnly, "new nozzle",
		},
		"open work": {
			maintenance.Readiness{Use: maintenance.Attended, Work: "a board", Proven: true}, maintenance.LockedOut, "a board",
		},
		"danger before all": {
			maintenance.Readiness{Use: maintenance.InUse, Proven: true, Danger: "sparks", Broken: "no volts"},
			maintenance.TakenOut, "sparks",
		},
		"known broken": {
			maintenance.Readiness{Use: maintenance.Attended, Proven: true, Broken: "no volts"},
			maintenance.KnownBroken, "no volts",
		},
		"out of use with open work": {
			maintenance.Readiness{Use: maintenance.OutOfUse, Why: "smoke", Work: "a board"}, maintenance.TakenOut, "smoke",
		},
	} {
		t.Run(name, func(t *testing.T) {
			got, why := c.stands.Available()
			if got != c.want || !strings.Contains(why, c.why) || c.want != maintenance.Free && why == "" {
				t.Errorf("%s, because %q; want %s", got, why, c.want)
			}
		})
	}
}

// A print fits where its size and heat are known to: what is not on record is told apart
// from what is too small.
func TestPrintJobFits(t *testing.T) {
	big := map[string]string{"frame.x": "300", "frame.y": "310", "frame.z": "400", "hotend.rating": "260"}
	for name, c := range map[string]struct {
		has           map[string]string
		job           maintenance.PrintJob
		known, enough bool
	}{
		"nothing asked of nothing known": {nil, maintenance.PrintJob{}, true, true},
		"just as large":                  {big, maintenance.PrintJob{X: 300, Y: 310, Z: 400}, true, true},
		"a little higher":                {big, maintenance.PrintJob{Z: 400.1}, true, false},
		"a little wider":                 {big, maintenance.PrintJob{X: 300.1}, true, false},
		"a little deeper":                {big, maintenance.PrintJob{Y: 310.1}, true, false},
		"as hot as it stands":            {big, maintenance.PrintJob{Hot: 260}, true, true},
		"a degree hotter":                {big, maintenance.PrintJob{Hot: 261}, true, false},
		"of unknown height": {map[string]string{"frame.x": "300"}, maintenance.PrintJob{X: 200, Z: 100},
			false, false},
		"of unknown heat": {map[string]string{"frame.x": "300"}, maintenance.PrintJob{Hot: 200}, false, false},
	} {
		t.Run(name, func(t *testing.T) {
			known, enough := c.job.Fits(machinetest.Facts(catalogue.Vocabulary(), c.has))
			if known != c.known || known && enough != c.enough {
				t.Errorf("known %v, enough %v", known, enough)
			}
		})
	}
	two := machinetest.Facts(catalogue.Vocabulary(), map[string]string{"hotend.rating": "300", "hotend-2.rating": "240"})
	if p := maintenance.CoolestHotend(two); p == nil || p.Key != "hotend-2" {
		t.Errorf("the coolest of two hotends is %v", p)
	}
}
