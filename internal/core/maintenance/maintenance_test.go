package maintenance_test

import (
	"fmt"
	"math"
	"math/rand"
	"slices"
	"strings"
	"testing"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/maintenance"
)

var start = time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)

func on(days int) time.Time { return start.AddDate(0, 0, days) }

func TestCheckMeter(t *testing.T) {
	have := []maintenance.Meter{maintenance.HoursAt(on(0), 100), maintenance.HoursAt(on(30), 200)}
	now := on(60)
	for _, tt := range []struct {
		name  string
		m     maintenance.Meter
		fault string
	}{
		{"goes on", maintenance.HoursAt(on(40), 260), ""},
		{"stands still", maintenance.HoursAt(on(40), 200), ""},
		{"runs backwards", maintenance.HoursAt(on(40), 150), "do not run backwards"},
		{"was put back", maintenance.Meter{At: on(40), Counter: maintenance.Hours, Amount: 5, Reset: true}, ""},
		{"negative", maintenance.HoursAt(on(40), -1), "starts at 0"},
		{"not a number", maintenance.HoursAt(on(40), math.NaN()), "cannot be"},
		{"minutes for hours", maintenance.HoursAt(on(40), 12000), "hours have passed"},
		{"absurd", maintenance.HoursAt(on(40), 1e9), "twenty years"},
		{"tomorrow", maintenance.HoursAt(on(61), 300), "still to come"},
		{"in between, fitting", maintenance.HoursAt(on(15), 150), ""},
		{"in between, above the next", maintenance.HoursAt(on(15), 201), "only 200 h"},
	} {
		err := maintenance.CheckMeter(have, tt.m, now)
		if (err == nil) != (tt.fault == "") || err != nil && !strings.Contains(err.Error(), tt.fault) {
			t.Errorf("%s: %v, want %q", tt.name, err, tt.fault)
		}
	}
}

func TestLife(t *testing.T) {
	l := maintenance.NewLife(
		[]maintenance.Meter{
			maintenance.HoursAt(on(30), 160),
			maintenance.HoursAt(on(0), 100),
			{At: on(40), Counter: maintenance.Hours, Amount: 20, Reset: true},
			maintenance.HoursAt(on(50), 40),
		},
	)
	for day, want := range map[int]float64{-5: 100, 0: 100, 15: 130, 30: 160, 40: 180, 45: 190, 50: 200, 60: 200} {
		if got := l.At(on(day)); math.Abs(got-want) > 1e-9 {
			t.Errorf("day %d: %g h, want %g", day, got, want)
		}
	}
	// 100 h in 50 days: 2 h a day, over the reset.
	if rate, ok := l.Rate(); !ok || math.Abs(rate-2) > 1e-9 {
		t.Errorf("rate %g", rate)
	}
	if r, ok := l.Forecast(on(60)); !ok || math.Abs(r.Middle-220) > 1e-9 {
		t.Errorf("ten days on: %+v, want 220 in the middle", r)
	}
}

// A machine's life never falls, whatever readings passed the check.
func TestLifeNeverFalls(t *testing.T) {
	random := rand.New(rand.NewSource(7))
	for range 300 {
		var have []maintenance.Meter
		for range 12 {
			m := maintenance.HoursAt(on(random.Intn(200)), float64(random.Intn(2000)))
			m.Reset = random.Intn(6) == 0
			if !slices.ContainsFunc(have, func(h maintenance.Meter) bool { return h.At.Equal(m.At) }) &&
				maintenance.CheckMeter(have, m, on(200)) == nil {
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
			if at, ok := l.Reached(before); ok && at.After(on(d)) && before > 0 && l.At(on(d)) != before {
				t.Fatalf("day %d: %g h are reached %v", d, before, at)
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
		task, ok := maintenance.Find(maintenance.Shipped(), tt.task)
		if !ok {
			t.Fatalf("no task %s", tt.task)
		}
		d, applies := maintenance.Due{}, false
		for _, d = range maintenance.DueList(maintenance.Subject{Since: on(0), Facts: facts(tt.facts)}, on(0)) {
			if applies = d.Task == task.Key; applies {
				break
			}
		}
		want := fmt.Sprintf("? / %g h", tt.hours)
		if tt.days > 0 {
			want = fmt.Sprintf("? / %d days", tt.days)
		}
		if applies != tt.applies || applies && d.Used != want {
			t.Errorf("%s with %v: %q, %v; want %q", tt.task, tt.facts, d.Used, applies, want)
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

// showDue writes what is due in a line, for tables.
func showDue(d maintenance.Due) string {
	out := fmt.Sprintf("%s | %s | %s", d.State, d.Words, d.Used)
	if d.On != nil {
		out += " | " + d.On.Show()
	}
	if d.From != nil {
		out += " (range)"
	}
	return out
}

// Hand-worked: counting begins on 1 Jan 2026. The nozzle's limit is 300 h.
func TestDue(t *testing.T) {
	even := func(perDay float64, days ...int) (out []maintenance.Meter) {
		for _, d := range days {
			out = append(out, maintenance.HoursAt(on(d), 1000+perDay*float64(d)))
		}
		return out
	}
	done := func(day int) []maintenance.Done { return []maintenance.Done{{Task: "nozzle", At: on(day)}} }
	// 5 h a day
	elsewhere := maintenance.NewLives(
		[]maintenance.Meter{maintenance.HoursAt(on(0), 0), maintenance.HoursAt(on(100), 500)})
	irregular := []maintenance.Meter{
		maintenance.HoursAt(on(0), 0),
		maintenance.HoursAt(on(20), 10),
		maintenance.HoursAt(on(30), 250),
		maintenance.HoursAt(on(60), 250),
		maintenance.HoursAt(on(70), 350),
	}
	for _, tt := range []struct {
		name   string
		meters []maintenance.Meter
		done   []maintenance.Done
		part   *maintenance.Part
		today  int
		want   string
	}{
		// 300 h ÷ 4 h = 75 days
		{"done, 90 days at 4 h", even(4, 0, 30, 60, 90), done(0), nil, 90,
			"overdue | 15 days late | 360 / 300 h | 17 Mar 2026"},
		{"the same, the meter stale: the record shows it", even(4, 0, 30, 60, 90), done(0), nil, 600,
			"overdue | 525 days late | 360 / 300 h | 17 Mar 2026"},
		// 60 h left
		{"still to come", even(4, 0, 30, 60), done(0), nil, 60,
			"later | in about 15 days | 240 / 300 h | 17 Mar 2026 (range)"},
		{"most likely over by now", even(4, 0, 30, 60), done(0), nil, 80, "overdue | about 5 days late | about 320 / " +
			"300 h | 17 Mar 2026 (range)"},
		// 76 days at 4 h are 304 h
		{"meter older than one interval", even(4, 0, 30, 60), done(0), nil, 136, "read the meter | read the meter | " +
			"240 / 300 h"},
		{"meter just not so old", even(4, 0, 30, 60), done(0), nil, 134, "overdue | about 59 days late | about 536 / " +
			"300 h | 17 Mar 2026 (range)"},
		{"done after the meter was read last", even(4, 0, 30, 60), done(70), nil, 70, "later | in about 75 days | 0 / " +
			"300 h | 26 May 2026 (range)"},
		{"and ten days on", even(4, 0, 30, 60), done(70), nil, 80, "later | in about 65 days | about 40 / 300 h | 26 " +
			"May 2026 (range)"},
		{"stands still", even(0, 0, 30, 90), done(0), nil, 90, "stands still | stands still | 0 / 300 h"},
		{"stands still and was read half a year ago", even(0, 0, 30, 90), done(0), nil, 90 + 183,
			"stands still | stands still | 0 / 300 h"},
		{"stands still and was not read for half a year", even(0, 0, 30, 90), done(0), nil, 90 + 184,
			"read the meter | read the meter | 0 / 300 h"},
		{"one reading", even(4, 30), done(0), nil, 40, "read the meter | read the meter | at least 0 / 300 h"},
		{"never read", nil, done(0), nil, 40, "read the meter | read the meter | ? / 300 h"},
		{"no history at all", nil, nil, nil, 400, "start unknown | start unknown | ? / 300 h"},
		{"never done, little used since entry", even(1, 0, 90), nil, nil, 90, "start unknown | start unknown | at " +
			"least 90 / 300 h"},
		{"never done, over the limit since entry all the same", even(4, 0, 90), nil, nil, 90,
			"overdue | 15 days late | at least 360 / 300 h | 17 Mar 2026"},
		// 50 of 100 h after day 60
		{"used irregularly", irregular, done(0), nil, 70, "overdue | 5 days late | 350 / 300 h | 7 Mar 2026"},
		{"a reset between", []maintenance.Meter{maintenance.HoursAt(on(0), 5000), maintenance.HoursAt(on(30), 5120),
			{At: on(60), Counter: maintenance.Hours, Amount: 120, Reset: true}, {At: on(90),
				Counter: maintenance.Hours, Amount: 240}}, done(0), nil, 90, "overdue | 15 days late | 360 / 300 h | 17 Mar 2026"},
		{"part moved: new, 40 days elsewhere at 5 h, then 4 h a day here", even(4, 0, 30, 60, 90), nil,
			// 200 h, then 100 h from day 50
			&maintenance.Part{New: true, Stays: []maintenance.Installation{{From: on(0), To: on(40), Lives: elsewhere},
				{From: on(50)}}}, 90, "overdue | 15 days late | 360 / 300 h | 17 Mar 2026"},
		{"part moved, its earlier life unknown", even(4, 0, 30, 60), nil,
			&maintenance.Part{Stays: []maintenance.Installation{{From: on(0), To: on(40), Lives: elsewhere},
				{From: on(50)}}}, 60, "start unknown | start unknown | at least 240 / 300 h"},
		{"part moved, done where it was before", even(4, 0, 30, 60), nil,
			// 100 + 40 h; 160 h at 4 h
			&maintenance.Part{Stays: []maintenance.Installation{{From: on(0), To: on(40), Lives: elsewhere, Done: done(20)},
				{From: on(50)}}}, 60, "later | in about 40 days | 140 / 300 h | 11 Apr 2026 (range)"},
		{"done here before it came: not to this part", even(4, 0, 30, 60), done(45),
			&maintenance.Part{New: true, Stays: []maintenance.Installation{{From: on(50)}}}, 60,
			"later | in about 65 days | 40 / " +
				"300 h | 6 May 2026 (range)"},
	} {
		s := maintenance.Subject{
			Since:      on(0),
			Facts:      facts(nil),
			Meters:     tt.meters,
			Done:       tt.done,
			Protection: calibration.ProtectionState{Proven: true},
		}
		if tt.part != nil {
			last := len(tt.part.Stays) - 1
			tt.part.Stays[last].Lives, tt.part.Stays[last].Done = maintenance.NewLives(tt.meters), tt.done
			s.Parts = map[string]maintenance.Part{"nozzle": *tt.part}
		}
		if got := showDue(find(t, maintenance.DueList(s, on(tt.today)), "nozzle")); got != tt.want {
			t.Errorf("%s:\n got %s\nwant %s", tt.name, got, tt.want)
		}
	}
}

// A calendar's limit takes civil days, over both daylight-saving days, in two time zones.
func TestDueByDays(t *testing.T) {
	changes := map[string]map[civil.Day]float64{ // the short day has 23 hours, the long one 25
		"Europe/Oslo":      {civil.Date(2026, 3, 29): 23, civil.Date(2026, 10, 25): 25},
		"America/New_York": {civil.Date(2026, 3, 8): 23, civil.Date(2026, 11, 1): 25},
	}
	for name, days := range changes {
		in, err := time.LoadLocation(name)
		if err != nil {
			t.Fatal(err)
		}
		at := time.Date(2026, 1, 10, 23, 30, 0, 0, in)
		for after, want := range map[int]string{
			80: "soon | in 11 days | 80 / 91 days | 11 Apr 2026", 90: "soon | due tomorrow | 90 / 91 days | 11 Apr 2026",
			91:  "overdue | due today | 91 / 91 days | 11 Apr 2026",
			300: "overdue | 209 days late | 300 / 91 days | 11 Apr 2026",
		} {
			s := maintenance.Subject{Since: at, Facts: facts(nil), Done: []maintenance.Done{{Task: "fans", At: at.UTC()}}}
			now := (civil.Of(at) + civil.Day(after)).Start(in).Add(time.Minute)
			if got := showDue(find(t, maintenance.DueList(s, now), "fans")); got != want {
				t.Errorf("%s, %d days: %s, want %s", name, after, got, want)
			}
		}
		for day, hours := range days {
			have := []maintenance.Meter{maintenance.HoursAt(day.Start(in), 100)}
			for more, ok := range map[float64]bool{hours + 0.9: true, hours + 1.1: false} {
				err := maintenance.CheckMeter(have, maintenance.HoursAt(day.End(in), 100+more),
					(day + 9).Start(in))
				if (err == nil) != ok {
					t.Errorf("%s %s: %g h more: %v", name, day, more, err)
				}
			}
		}
	}
	// Two readings of which only the days are known may lie almost two days apart.
	have := []maintenance.Meter{maintenance.HoursAt(on(0), 100)}
	for more, ok := range map[float64]bool{47: true, 50: false} {
		if err := maintenance.CheckMeter(have, maintenance.HoursAt(on(1), 100+more),
			on(9)); (err == nil) != ok {
			t.Errorf("%g h from one day to the next: %v", more, err)
		}
	}
}

func TestFirstRounds(t *testing.T) {
	got := maintenance.FirstRounds(
		maintenance.Shipped(),
		map[string]int{"belts": 3, "terminals": 17, "nozzle": 8},
		civil.Date(2026, 11, 26),
	) // a Thursday
	// 17 fill two weeks of eight and begin a third, in which the belts are done as well.
	want := []maintenance.Round{
		{Task: "terminals", From: civil.Date(2026, 11, 30), Weeks: 3},
		{Task: "belts", From: civil.Date(2026, 12, 14), Weeks: 1},
		{Task: "nozzle", From: civil.Date(2026, 12, 14), Weeks: 2},
	}
	if !slices.Equal(got, want) {
		t.Errorf("%+v", got)
	}
}

func TestUnprovenComesFirstAlways(t *testing.T) {
	s := maintenance.Subject{
		Since:      on(-3000),
		Facts:      facts(nil),
		Protection: calibration.ProtectionState{Why: "proof void"},
		Meters:     []maintenance.Meter{maintenance.HoursAt(on(0), 0), maintenance.HoursAt(on(90), 2000)},
	}
	list := maintenance.DueList(s, on(90))
	if list[0].Task != maintenance.ProtectionTask || list[0].State != maintenance.Unproven ||
		list[0].Words != "test now: proof void" ||
		list[0].On != nil {
		t.Errorf("first: %+v", list[0])
	}
	if !maintenance.MoreUrgent(list[0], list[1]) || maintenance.MoreUrgent(list[1], list[0]) {
		t.Error("unproven outranks overdue")
	}
	if list[1].State != maintenance.Overdue {
		t.Errorf("then what is overdue: %+v", list[1])
	}
}
