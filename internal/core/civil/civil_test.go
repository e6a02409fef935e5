package civil_test

import (
	"errors"
	"math/rand"
	"strings"
	"testing"
	"time"
	_ "time/tzdata"

	"wardifex/internal/core/civil"
)

// Forms of dates. Source: ISO 8601-1 for the first lines; else common practice.
func TestParseDay(t *testing.T) {
	nov20 := civil.Date(2026, 11, 20)
	for _, text := range []string{"2026-11-20", "20261120", "2026-W47-5", "2026W475", "2026-324", "2026-11-20 ",
		"2026/11/20", "2026.11.20", "20.11.2026", "20. 11. 2026",
		"20.11.26", "20 Nov 2026", "20-Nov-2026", "20-nov-26", "20th November 2026", "20 of november 2026",
		"Nov 20, 2026", "November 20th 2026", "Fri, 20 Nov 2026", "Friday 20 November 2026",
		"20/11/2026", "11/20/2026", "20-11-2026", "20/11/26"} {
		if d, err := civil.ParseDay(text, civil.Unsaid); err != nil || d != nov20 {
			t.Errorf("%q: %v, %v", text, d, err)
		}
	}
	for text, part := range map[string]string{
		"3/4/2026": "3 Apr 2026 or 4 Mar 2026", "03-04-2026": "3 Apr 2026 or 4 Mar 2026",
		"26-11-20": "which number is the year", "31.2.2026": "not a date", "2026-13-01": "not a date",
		"2026-366":   "not a date",
		"2026-W54-1": "not a date", "13/13/2026": "not a date", "soon": "not a date", "": "not a date",
		"0026-11-20": "not of our time", "20 Nev 2026": "not a date", "46346": "not a date", "1/2": "not a date",
	} {
		if _, err := civil.ParseDay(text, civil.Unsaid); err == nil || !strings.Contains(err.Error(), part) {
			t.Errorf("%q: %v, want %q", text, err, part)
		}
	}
	if d, err := civil.ParseDay("4/4/2026", civil.Unsaid); err != nil || d != civil.Date(2026, 4, 4) {
		t.Errorf("both ways round the same: %v, %v", d, err)
	}
	for order, want := range map[civil.Order]civil.Day{civil.DayFirst: civil.Date(2026, 4, 3),
		civil.MonthFirst: civil.Date(2026, 3, 4)} {
		if d, err := civil.ParseDay("3/4/2026", order); err != nil || d != want {
			t.Errorf("%s: %v, %v", order, d, err)
		}
	}
	if civil.OrderOf("20/11/2026") != civil.DayFirst || civil.OrderOf("11/20/2026") != civil.MonthFirst ||
		civil.OrderOf("3/4/2026") != civil.Unsaid ||
		civil.OrderOf("20.11.2026") != civil.Unsaid {
		t.Error("the order that dates tell")
	}
	var two *civil.TwoDays
	if _, err := civil.ParseDay("3/4/2026", civil.Unsaid); !errors.As(err, &two) ||
		two.Either() != [2]string{"3 Apr 2026", "4 Mar 2026"} {
		t.Errorf("two meanings: %v", err)
	}
}

// Each meaning that is offered, and each day as it is shown or written, reads back.
func TestDaysReadBack(t *testing.T) {
	for d := civil.Date(1990, 1, 1); d < civil.Date(2040, 1, 1); d += 13 {
		for _, text := range []string{d.Show(), d.String()} {
			if got, err := civil.ParseDay(text, civil.Unsaid); err != nil || got != d {
				t.Fatalf("%q is read %v, %v", text, got, err)
			}
		}
	}
}

func zone(t *testing.T, name string) *time.Location {
	t.Helper()
	l, err := time.LoadLocation(name)
	if err != nil {
		t.Fatal(err)
	}
	return l
}

func at(t *testing.T, text string) time.Time {
	t.Helper()
	m, err := time.Parse(time.RFC3339, text)
	if err != nil {
		t.Fatal(err)
	}
	return m
}

// Both daylight-saving days in two time zones, one where clocks change at midnight, and
// a day that a zone left out. Source: the tz database.
func TestStart(t *testing.T) {
	for _, tt := range []struct {
		zone  string
		day   civil.Day
		start string
		hours float64
	}{
		{"Europe/Oslo", civil.Date(2026, 3, 29), "2026-03-28T23:00:00Z", 23},
		{"Europe/Oslo", civil.Date(2026, 10, 25), "2026-10-24T22:00:00Z", 25},
		{"America/New_York", civil.Date(2026, 3, 8), "2026-03-08T05:00:00Z", 23},
		{"America/New_York", civil.Date(2026, 11, 1), "2026-11-01T04:00:00Z", 25},
		{"Australia/Brisbane", civil.Date(2026, 11, 20), "2026-11-19T14:00:00Z", 24},
		{"Africa/Cairo", civil.Date(2026, 4, 24), "2026-04-23T22:00:00Z", 23}, // 00:00 to 01:00 is left out
		{"Pacific/Apia", civil.Date(2011, 12, 31), "2011-12-30T10:00:00Z", 24},
		{"Pacific/Apia", civil.Date(2011, 12, 30), "2011-12-30T10:00:00Z", 0}, // left out
		{"Europe/Oslo", civil.Date(2040, 12, 31), "2040-12-30T23:00:00Z", 24},
		{"UTC", civil.Date(2026, 11, 20), "2026-11-20T00:00:00Z", 24},
	} {
		l := zone(t, tt.zone)
		if got := tt.day.Start(l); !got.Equal(at(t, tt.start)) {
			t.Errorf("%s %s begins %s, want %s", tt.zone, tt.day, got.UTC().Format(time.RFC3339), tt.start)
		}
		if got := (tt.day + 1).Start(l).Sub(tt.day.Start(l)).Hours(); got != tt.hours {
			t.Errorf("%s %s has %g hours, want %g", tt.zone, tt.day, got, tt.hours)
		}
	}
}

func TestParseMoment(t *testing.T) {
	l := zone(t, "Australia/Brisbane")
	now := at(t, "2026-11-19T22:30:00Z").In(l) // half past eight on the 20th there
	for text, want := range map[string]string{
		"2026-11-20": "2026-11-19T22:30:00Z", "20 Nov 2026": "2026-11-19T22:30:00Z",
		"2026-11-19": "2026-11-18T14:00:00Z", "2026-11-20T07:15": "2026-11-19T21:15:00Z",
		"20.11.2026 07:15": "2026-11-19T21:15:00Z", "19 Nov 2026, 9:30 pm": "2026-11-19T11:30:00Z",
		"2026-11-19T12:00:00Z": "2026-11-19T12:00:00Z", "2026-11-19 12:00+02:00": "2026-11-19T10:00:00Z",
		"Today": "2026-11-19T22:30:00Z", "yesterday": "2026-11-18T14:00:00Z",
		"19 Nov 2026 12:05 am": "2026-11-18T14:05:00Z",
	} {
		if got, err := civil.ParseMoment(text, now, civil.Unsaid); err != nil || !got.Equal(at(t, want)) ||
			got.Location() != l {
			t.Errorf("%q: %v, %v; want %s", text, got, err, want)
		}
	}
	for _, text := range []string{"2026-11-20 25:00", "2026-11-20 13:00 pm", "noon", "3/4/2026 10:00"} {
		if got, err := civil.ParseMoment(text, now, civil.Unsaid); err == nil {
			t.Errorf("%q was read as %v", text, got)
		}
	}
}

// A shop's own zone follows its zones: before each change days stay as they were.
func TestLocation(t *testing.T) {
	first, second := at(t, "2025-06-01T12:00:00Z"), at(t, "2026-11-26T15:00:00Z")
	shop, err := civil.Location(
		[]civil.Zone{{From: second, Name: "Australia/Brisbane"}, {From: first, Name: "America/New_York"}},
	)
	if err != nil {
		t.Fatal(err)
	}
	random := rand.New(rand.NewSource(5))
	for range 5000 {
		m := time.Unix(1600000000+random.Int63n(3000000000), 0)
		want := zone(t, "UTC")
		if !m.Before(second) {
			want = zone(t, "Australia/Brisbane")
		} else if !m.Before(first) {
			want = zone(t, "America/New_York")
		}
		if got := m.In(shop).Format(time.RFC3339); got != m.In(want).Format(time.RFC3339) {
			t.Fatalf("%s, in its zone %s", got, m.In(want).Format(time.RFC3339))
		}
		d := civil.Of(m.In(shop))
		if s := d.Start(shop); civil.Of(s) != d || s.After(m) || civil.Of(s.Add(-time.Second)) >= d {
			t.Fatalf("%s begins %s", d, s)
		}
	}
	// A zone with daylight saving that is in force to the end.
	if shop, err = civil.Location([]civil.Zone{{From: second, Name: "Europe/Oslo"}}); err != nil {
		t.Fatal(err)
	}
	for d := civil.Date(2026, 12, 1); d < civil.Date(2060, 1, 1); d++ {
		if got, want := d.Start(shop), d.Start(zone(t, "Europe/Oslo")); !got.Equal(want) {
			t.Fatalf("%s begins %s, want %s", d, got, want)
		}
	}
	for _, name := range []string{"", "Local", "Nowhere/Land", "../etc"} {
		if civil.CheckZone(name) == nil {
			t.Errorf("%q is a time zone", name)
		}
		if _, err := civil.Location([]civil.Zone{{Name: name, From: first}}); err == nil && name != "" && name != "Local" {
			t.Errorf("%q has a location", name)
		}
	}
	if l, err := civil.Location(nil); err != nil || l.String() != "UTC" {
		t.Errorf("no zone yet: %v, %v", l, err)
	}
}

func FuzzParseMoment(f *testing.F) {
	for _, s := range []string{"2026-11-20", "3/4/26 9:30 pm", "2026-W53-7T00:00Z", "31 feb 2026"} {
		f.Add(s)
	}
	now := time.Date(2026, 11, 20, 8, 0, 0, 0, time.UTC)
	f.Fuzz(func(t *testing.T, text string) {
		if at, err := civil.ParseMoment(text, now, civil.DayFirst); err == nil && (at.Year() < 1 || at.Year() > 9999) {
			t.Errorf("%q is read as %v", text, at)
		}
	})
}
