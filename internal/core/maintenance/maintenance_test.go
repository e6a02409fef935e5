package maintenance_test

import (
	"math"
	"math/rand"
	"slices"
	"strings"
	"testing"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/maintenance"
)

var start = time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)

func on(days int) time.Time { return start.AddDate(0, 0, days) }

func TestCheckMeter(t *testing.T) {
	have := []maintenance.Meter{{At: on(0), Hours: 100}, {At: on(30), Hours: 200}}
	now := on(60)
	for _, tt := range []struct {
		name  string
		m     maintenance.Meter
		fault string
	}{
		{"goes on", maintenance.Meter{At: on(40), Hours: 260}, ""},
		{"stands still", maintenance.Meter{At: on(40), Hours: 200}, ""},
		{"runs backwards", maintenance.Meter{At: on(40), Hours: 150}, "do not run backwards"},
		{"was put back", maintenance.Meter{At: on(40), Hours: 5, Reset: true}, ""},
		{"negative", maintenance.Meter{At: on(40), Hours: -1}, "starts at 0"},
		{"not a number", maintenance.Meter{At: on(40), Hours: math.NaN()}, "cannot be"},
		{"minutes for hours", maintenance.Meter{At: on(40), Hours: 12000}, "hours have passed"},
		{"absurd", maintenance.Meter{At: on(40), Hours: 1e9}, "twenty years"},
		{"tomorrow", maintenance.Meter{At: on(61), Hours: 300}, "still to come"},
		{"in between, fitting", maintenance.Meter{At: on(15), Hours: 150}, ""},
		{"in between, above the next", maintenance.Meter{At: on(15), Hours: 201}, "only 200 h"},
	} {
		err := maintenance.CheckMeter(have, tt.m, now)
		if (err == nil) != (tt.fault == "") || err != nil && !strings.Contains(err.Error(), tt.fault) {
			t.Errorf("%s: %v, want %q", tt.name, err, tt.fault)
		}
	}
}

func TestLife(t *testing.T) {
	l := maintenance.NewLife([]maintenance.Meter{{At: on(30), Hours: 160}, {At: on(0), Hours: 100}, {At: on(40), Hours: 20, Reset: true}, {At: on(50), Hours: 40}})
	for day, want := range map[int]float64{-5: 100, 0: 100, 15: 130, 30: 160, 40: 180, 45: 190, 50: 200} {
		if got := l.At(on(day)); math.Abs(got-want) > 1e-9 {
			t.Errorf("day %d: %g h, want %g", day, got, want)
		}
	}
	// 100 h in 50 days: 2 h a day, carried on.
	if rate, ok := l.Rate(); !ok || math.Abs(rate-2) > 1e-9 {
		t.Errorf("rate %g", rate)
	}
	if got := l.At(on(60)); math.Abs(got-220) > 1e-9 {
		t.Errorf("ten days on: %g h, want 220", got)
	}
	if _, ok := maintenance.NewLife([]maintenance.Meter{{At: on(0), Hours: 5}}).Rate(); ok {
		t.Error("one reading gives no rate")
	}
}

// A machine's life never falls, whatever readings passed the check.
func TestLifeNeverFalls(t *testing.T) {
	random := rand.New(rand.NewSource(7))
	for range 300 {
		var have []maintenance.Meter
		for range 12 {
			m := maintenance.Meter{At: on(random.Intn(200)), Hours: float64(random.Intn(2000)), Reset: random.Intn(6) == 0}
			if !slices.ContainsFunc(have, func(h maintenance.Meter) bool { return h.At.Equal(m.At) }) && maintenance.CheckMeter(have, m, on(200)) == nil {
				have = append(have, m)
			}
		}
		l, before := maintenance.NewLife(have), -1.0
		for d := -2; d < 220; d++ {
			if h := l.At(on(d)); h < before-1e-9 {
				t.Fatalf("life falls from %g to %g on day %d: %+v", before, h, d, have)
			} else {
				before = h
			}
		}
	}
}

func facts(values map[string]string) machine.Snapshot {
	return machinetest.Facts(catalogue.Vocabulary(), values)
}

// Intervals to begin with. Source: from memory, as the tasks say.
func TestIntervals(t *testing.T) {
	for _, tt := range []struct {
		task    string
		facts   map[string]string
		hours   float64
		days    int
		applies bool
	}{
		{"nozzle", nil, 300, 0, true},
		{"nozzle", map[string]string{"nozzle.abrasive": "yes"}, 60, 0, true},
		{"nozzle", map[string]string{"nozzle.material": "hardened"}, 1500, 0, true},
		{"nozzle", map[string]string{"nozzle.material": "hardened", "nozzle.abrasive": "yes"}, 300, 0, true},
		{"liner", map[string]string{"hotend.working-temperature": "245"}, 250, 0, true},
		{"liner", map[string]string{"hotend.working-temperature": "240"}, 500, 0, true},
		{"liner", map[string]string{"hotend.liner": "no"}, 0, 0, false},
		{"probe", nil, 0, 0, false},
		{"probe", map[string]string{"probe.model": "none"}, 0, 0, false},
		{"probe", map[string]string{"probe.model": "P"}, 200, 0, true},
		{"host", map[string]string{"host.model": "H"}, 0, 91, true},
		{"belts", map[string]string{"belts.model": "none"}, 0, 0, false},
		{"fans", nil, 0, 91, true},
	} {
		task, ok := maintenance.TaskOf(tt.task)
		if !ok {
			t.Fatalf("no task %s", tt.task)
		}
		hours, days, _, applies := task.Interval(facts(tt.facts))
		if hours != tt.hours || days != tt.days || applies != tt.applies {
			t.Errorf("%s with %v: %g h, %d days, %v", tt.task, tt.facts, hours, days, applies)
		}
	}
}

func find(t *testing.T, list []maintenance.Due, task string) maintenance.Due {
	t.Helper()
	for _, d := range list {
		if d.Task == task {
			return d
		}
	}
	t.Fatalf("no %s in the list", task)
	return maintenance.Due{}
}

func TestDue(t *testing.T) {
	s := maintenance.Subject{Since: on(0), Facts: facts(nil), Protection: calibration.ProtectionState{Proven: true},
		Meters: []maintenance.Meter{{At: on(0), Hours: 1000}, {At: on(90), Hours: 1360}}} // 4 h a day
	list := maintenance.DueList(s, on(90))
	// 360 h since entry: the 300 h task is 60 h over, which was 15 days ago.
	nozzle := find(t, list, "nozzle")
	if nozzle.State != maintenance.Overdue || !nozzle.DueOn.Equal(on(75)) || math.Abs(nozzle.Share-1.2) > 1e-9 {
		t.Errorf("nozzle: %+v, due %v", nozzle, nozzle.DueOn)
	}
	// 400 h: 40 h left at 4 h a day, in 10 days.
	surface := find(t, list, "surface")
	if surface.State != maintenance.Soon || !surface.DueOn.Equal(on(100)) || !strings.Contains(surface.Account, "40 h left at 4.0 h a day") {
		t.Errorf("surface: %+v, due %v", surface, surface.DueOn)
	}
	if fans := find(t, list, "fans"); fans.By != "days" || !fans.DueOn.Equal(on(91)) {
		t.Errorf("fans: %+v", fans)
	}
	// Done resets the counter.
	s.Done = []maintenance.Done{{Task: "nozzle", At: on(90)}}
	if d := find(t, maintenance.DueList(s, on(90)), "nozzle"); d.State != maintenance.Later || !d.DueOn.Equal(on(165)) || d.Share != 0 {
		t.Errorf("after a change of nozzle: %+v, due %v", d, d.DueOn)
	}
	// Without a meter, tasks by hours have no date; those by days do.
	s.Meters = nil
	list = maintenance.DueList(s, on(90))
	if d := find(t, list, "belts"); d.State != maintenance.NoMeter || d.DueOn != nil {
		t.Errorf("belts without meter: %+v", d)
	}
	if list[len(list)-1].State != maintenance.NoMeter {
		t.Error("tasks without a date come last")
	}
}

func TestUnprovenComesFirstAlways(t *testing.T) {
	s := maintenance.Subject{Since: on(-3000), Facts: facts(nil), Protection: calibration.ProtectionState{Why: "proof void"}, Meters: []maintenance.Meter{{At: on(0), Hours: 0}, {At: on(90), Hours: 2000}}}
	list := maintenance.DueList(s, on(90))
	if list[0].Task != maintenance.ProtectionTask || list[0].State != maintenance.Unproven || list[0].Why != "proof void" {
		t.Errorf("first: %+v", list[0])
	}
	if !maintenance.MoreUrgent(list[0], list[1]) || maintenance.MoreUrgent(list[1], list[0]) {
		t.Error("unproven outranks overdue")
	}
	if list[1].State != maintenance.Overdue {
		t.Errorf("then what is overdue: %+v", list[1])
	}
}
