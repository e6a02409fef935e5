package schedule_test

import (
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/schedule"
	"wardifex/internal/core/shop"
)

func zone(t *testing.T, name string) *time.Location {
	t.Helper()
	in, err := time.LoadLocation(name)
	if err != nil {
		t.Fatal(err)
	}
	return in
}

// The operations on spans are those on sets of minutes.
func TestSpansAreSets(t *testing.T) {
	t.Parallel()
	random := rand.New(rand.NewPCG(1, 2))
	zero := time.Date(2026, 11, 27, 0, 0, 0, 0, time.UTC)
	at := func(m int) time.Time { return zero.Add(time.Duration(m) * time.Minute) }
	const minutes = 60
	some := func() (schedule.Spans, [minutes]bool) {
		var all []schedule.Span
		var in [minutes]bool
		for range random.IntN(6) {
			from := random.IntN(minutes)
			to := min(minutes, from+random.IntN(15))
			all = append(all, schedule.Span{From: at(from), To: at(to)})
			for m := from; m < to; m++ {
				in[m] = true
			}
		}
		return schedule.Join(all...), in
	}
	for range 2000 {
		a, inA := some()
		b, inB := some()
		both, without, any := a.And(b), a.Minus(b), schedule.Join(append(append([]schedule.Span{}, a...), b...)...)
		count := 0
		for m := range minutes {
			for _, c := range []struct {
				got  schedule.Spans
				want bool
			}{{a, inA[m]}, {both, inA[m] && inB[m]}, {without, inA[m] && !inB[m]}, {any, inA[m] || inB[m]}} {
				if c.got.At(at(m)) != c.want {
					t.Fatalf("minute %d of %v: %v", m, c.got, !c.want)
				}
			}
			if inA[m] {
				count++
			}
		}
		if a.Length() != time.Duration(count)*time.Minute {
			t.Fatalf("%v is %v long, not %d min", a, a.Length(), count)
		}
		for i := 1; i < len(any); i++ {
			if !any[i-1].To.Before(any[i].From) {
				t.Fatalf("%v touch", any)
			}
		}
	}
}

// Source: the European Union's summer time ends on the last Sunday of October and begins on that
// of March, at 01:00 UTC (Directive 2000/84/EC).
func TestHoursOverAChangeOfTheClocks(t *testing.T) {
	t.Parallel()
	in := zone(t, "Europe/Oslo")
	for name, c := range map[string]struct {
		on       civil.Day
		from, to string
		hours    float64
	}{
		"a usual Sunday":                 {civil.Date(2026, 11, 1), "00:00", "24:00", 24},
		"the clock goes back":            {civil.Date(2026, 10, 25), "00:00", "24:00", 25},
		"over the hour that comes twice": {civil.Date(2026, 10, 25), "01:00", "04:00", 4},
		"the clock goes on":              {civil.Date(2026, 3, 29), "00:00", "24:00", 23},
		"over the hour that is not":      {civil.Date(2026, 3, 29), "01:00", "04:00", 2},
		"in the hour that is not":        {civil.Date(2026, 3, 29), "02:00", "03:00", 0},
		"into the hour that is not":      {civil.Date(2026, 3, 29), "01:30", "02:30", 1},
		"the day before":                 {civil.Date(2026, 3, 28), "01:00", "04:00", 3},
	} {
		t.Run(name, func(t *testing.T) {
			hours := []shop.Hours{{Day: time.Sunday, From: c.from, To: c.to}, {Day: time.Saturday, From: c.from, To: c.to}}
			if got := schedule.Weekly(hours, c.on, c.on, in).Length().Hours(); got != c.hours {
				t.Errorf("%g h; want %g", got, c.hours)
			}
		})
	}
}

func TestOpeningAndWorking(t *testing.T) {
	t.Parallel()
	in := zone(t, "Europe/Oslo")
	monday := civil.Date(2026, 11, 30)
	s := shop.Usual()
	closed := []schedule.Closure{{From: monday + 1, To: monday + 2, Why: "inventory"}}
	if open, told := schedule.Opening(s, closed, monday, monday+6, in); told || open.Length() != 5*24*time.Hour {
		t.Errorf("hours that are not told, two days closed: %v, told %v", open.Length(), told)
	}
	for day := range 7 {
		s.Opening = append(s.Opening, shop.Hours{Day: time.Weekday(day), From: "09:00", To: "17:00"})
	}
	if open, told := schedule.Opening(s, closed, monday, monday+6, in); !told || open.Length() != 40*time.Hour {
		t.Errorf("five days of eight hours: %v, told %v", open.Length(), told)
	}
	w := schedule.Worker{Shifts: s.Opening, Leave: []schedule.Leave{{From: monday, To: monday + 4}, {From: monday + 3,
		To: monday + 5}}}
	if got := w.Works(monday, monday+6, in).Length(); got != 8*time.Hour {
		t.Errorf("six days of leave that overlap leave %v", got)
	}
	if got := (schedule.Worker{}).Works(monday, monday+6, in); len(got) != 0 {
		t.Errorf("somebody without shifts works %v", got)
	}
	for days, ok := range map[civil.Day]bool{-1: false, 0: true, 399: true, 400: false} {
		if err := (schedule.Leave{From: monday, To: monday + days}).Check(); (err == nil) != ok {
			t.Errorf("a leave to %d days later: %v", days, err)
		}
	}
}

// Each reason for which a booking is refused, and the nearest case in which it is not.
func TestRefusals(t *testing.T) {
	t.Parallel()
	at := func(hour int) time.Time { return time.Date(2026, 11, 27, hour, 0, 0, 0, time.UTC) }
	span := func(from, to int) schedule.Span { return schedule.Span{From: at(from), To: at(to)} }
	today := civil.Of(at(0))
	sound := maintenance.Readiness{Use: maintenance.InUse, Proven: true}
	for name, c := range map[string]struct {
		attended bool
		change   func(*schedule.Ground)
		want     string
	}{
		"a sound machine": {false, func(*schedule.Ground) {}, ""},
		"out of use": {true, func(g *schedule.Ground) { g.Use, g.Why = maintenance.OutOfUse, "smoke" },
			"out of use: smoke"},
		"work open":               {true, func(g *schedule.Ground) { g.Readiness.Work = "belts" }, "work is open"},
		"unproven, left alone":    {false, func(g *schedule.Ground) { g.Proven = false }, "not left alone"},
		"unproven, attended":      {true, func(g *schedule.Ground) { g.Proven = false }, ""},
		"attended only, alone":    {false, func(g *schedule.Ground) { g.Use = maintenance.Attended }, "not left alone"},
		"attended only, attended": {true, func(g *schedule.Ground) { g.Use = maintenance.Attended }, ""},
		"safety work overdue": {true, func(g *schedule.Ground) {
			g.Safety = []schedule.Safety{{Task: "mains terminals", On: today - 9}}
		}, "safety work is due"},
		"safety work on its last day": {true, func(g *schedule.Ground) {
			g.Safety = []schedule.Safety{{Task: "mains terminals", On: today}}
		}, "mains terminals"},
		"safety work the day after": {true, func(g *schedule.Ground) {
			g.Safety = []schedule.Safety{{Task: "mains terminals", On: today + 1}}
		}, ""},
		"a proof that ends before, alone": {false, func(g *schedule.Ground) {
			g.Safety = []schedule.Safety{{Task: "protection test", On: today, Unproven: true}}
		}, "proven again"},
		"a proof that ends before, attended": {true, func(g *schedule.Ground) {
			g.Safety = []schedule.Safety{{Task: "protection test", On: today, Unproven: true}}
		}, ""},
		"another's": {true, func(g *schedule.Ground) {
			g.Taken = []schedule.Booking{{Who: "Pia", Span: span(13, 15)}}
		}, "Pia has it from 27 Nov 13:00 to 15:00"},
		"another's that touches": {true, func(g *schedule.Ground) {
			g.Taken = []schedule.Booking{{Who: "Pia", Span: span(14, 15)}, {Who: "Ole", Span: span(9, 10)}}
		}, ""},
		"planned work": {true, func(g *schedule.Ground) {
			g.Work = []schedule.Work{{span(10, 11), "nozzle"}}
		}, "work is planned"},
		"closed when it begins": {false, func(g *schedule.Ground) { g.Open, g.Told = schedule.Spans{span(11, 18)}, true },
			"closed when it begins"},
		"closed when it ends, alone": {false, func(g *schedule.Ground) {
			g.Open, g.Told = schedule.Spans{span(9, 12)}, true
		}, ""},
		"closed when it ends, attended": {true, func(g *schedule.Ground) {
			g.Open, g.Told = schedule.Spans{span(9, 12)}, true
		}, "nobody stays"},
		"open for all of it, attended": {true, func(g *schedule.Ground) {
			g.Open, g.Told = schedule.Spans{span(10, 14)}, true
		}, ""},
	} {
		t.Run(name, func(t *testing.T) {
			g := schedule.Ground{Readiness: sound}
			c.change(&g)
			got := strings.Join(schedule.Asked{Span: span(10, 14), Attended: c.attended}.Refusals(g), "; ")
			if c.want == "" && got != "" || !strings.Contains(got, c.want) {
				t.Errorf("%q; want %q", got, c.want)
			}
		})
	}
	for name, c := range map[string]struct {
		span schedule.Span
		want string
	}{
		"one that ends when it begins": {span(12, 12), "ends after"},
		"fourteen days":                {schedule.Span{From: at(12), To: at(12 + 14*24)}, ""},
		"a minute more":                {schedule.Span{From: at(12), To: at(12 + 14*24).Add(time.Minute)}, "at most 14 days"},
		"one that is over":             {span(8, 9), "has passed"},
		"one that has begun":           {span(8, 11), ""},
		"a year ahead":                 {schedule.Span{From: at(10 + 366*24), To: at(11 + 366*24)}, ""},
		"more than a year ahead":       {schedule.Span{From: at(11 + 366*24), To: at(12 + 366*24)}, "within a year"},
	} {
		err := schedule.Asked{Span: c.span}.Check(at(10))
		if (err == nil) != (c.want == "") || err != nil && !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v; want %q", name, err, c.want)
		}
	}
}

// Busy hours by hand: on two Mondays 10 to 12 is booked, on one of them 10 to 11 twice; the shop is open from 9 to 12.
func TestBusy(t *testing.T) {
	t.Parallel()
	at := func(week, hour int) time.Time { return time.Date(2026, 11, 2+7*week, hour, 0, 0, 0, time.UTC) }
	span := func(week, from, to int) schedule.Span { return schedule.Span{From: at(week, from), To: at(week, to)} }
	open := schedule.Spans{span(2, 9, 12)}
	busy := schedule.Busy(open, []schedule.Span{span(0, 10, 12), span(1, 10, 12), span(1, 10, 11), span(1, 14, 15)},
		time.UTC)
	for hour, want := range map[int]float64{8: 0, 9: 0.25, 10: 1, 11: 0.75, 14: 0} {
		if got := busy[time.Monday][hour]; got != want {
			t.Errorf("at %d: %g; want %g", hour, got, want)
		}
	}
	if none := schedule.Busy(open, nil, time.UTC); none[time.Monday][9] != 1 || none[time.Tuesday][9] != 0 {
		t.Errorf("without bookings: %v", none[time.Monday])
	}
}

// A booking that cannot take place says why; the next hour at which it could is found.
func TestClashAndNextFree(t *testing.T) {
	t.Parallel()
	at := func(hour int) time.Time { return time.Date(2026, 11, 27, hour, 0, 0, 0, time.UTC) }
	span := func(from, to int) schedule.Span { return schedule.Span{From: at(from), To: at(to)} }
	sound := maintenance.Readiness{Use: maintenance.InUse, Proven: true}
	other := &schedule.Booking{Who: "Pia", Span: span(8, 11)}
	for name, c := range map[string]struct {
		b      schedule.Booking
		before *schedule.Booking
		ready  maintenance.Readiness
		want   string
	}{
		"as it should be": {schedule.Booking{Span: span(11, 12)}, other, sound, ""},
		"over another":    {schedule.Booking{Span: span(10, 12)}, other, sound, "overlaps that of Pia"},
		"unproven, alone": {schedule.Booking{Span: span(11, 12)}, nil, maintenance.Readiness{Use: maintenance.InUse},
			"not left alone"},
		"unproven, attended": {schedule.Booking{Span: span(11, 12), Attended: true}, nil,
			maintenance.Readiness{Use: maintenance.InUse}, ""},
		"out of use": {schedule.Booking{Span: span(11, 12), Attended: true}, nil,
			maintenance.Readiness{Use: maintenance.OutOfUse, Why: "smoke"},
			"out of use: smoke"},
	} {
		if got := c.b.Clash(c.before, c.ready); got != c.want && !(c.want != "" && strings.HasPrefix(got, c.want)) {
			t.Errorf("%s: %q; want %q", name, got, c.want)
		}
	}
	g := schedule.Ground{Readiness: sound, Taken: []schedule.Booking{{Who: "Pia", Span: span(10, 13)}, {Who: "Ole",
		Span: span(14, 15)}}}
	ask := schedule.Asked{Span: span(10, 12)}
	if next, ok := ask.NextFree(g, at(20)); !ok || next != span(15, 17) {
		t.Errorf("%v, %v", next, ok)
	}
	if next, ok := ask.NextFree(g, at(16)); ok {
		t.Errorf("after the end: %v", next)
	}
}
