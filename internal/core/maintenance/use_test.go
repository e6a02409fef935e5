package maintenance_test

import (
	"math"
	"testing"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/maintenance"
)

// Weeks add up to what the meter counted between their ends; where readings lie more than a
// week apart the week says so.
func TestWeeks(t *testing.T) {
	t.Parallel()
	monday := time.Date(2026, 1, 5, 0, 0, 0, 0, time.UTC)
	at := func(days int) time.Time { return monday.AddDate(0, 0, days) }
	l := maintenance.NewLife([]maintenance.Meter{
		maintenance.HoursAt(at(0), 100), maintenance.HoursAt(at(7), 120), maintenance.HoursAt(at(14), 130),
		maintenance.HoursAt(at(22), 170), maintenance.HoursAt(at(28), 180),
	})
	got := l.Weeks(10, civil.Of(at(29)), time.UTC)
	want := []maintenance.Week{
		{Monday: civil.Of(at(0)), Amount: 20},
		{Monday: civil.Of(at(7)), Amount: 10},
		{Monday: civil.Of(at(14)), Amount: 35, Between: true}, // 8 days apart
		{Monday: civil.Of(at(21)), Amount: 15, Between: true},
	}
	if len(got) != len(want) {
		t.Fatalf("%+v", got)
	}
	for i := range want {
		if got[i].Monday != want[i].Monday || math.Abs(got[i].Amount-want[i].Amount) > 1e-9 ||
			got[i].Between != want[i].Between {
			t.Errorf("week %d: %+v, want %+v", i, got[i], want[i])
		}
	}
}

// The last of the weeks is the one that the day is in, and two readings are enough for one.
func TestWeeksUpToADay(t *testing.T) {
	t.Parallel()
	monday := civil.Of(time.Date(2026, 1, 5, 0, 0, 0, 0, time.UTC))
	l := maintenance.NewLife([]maintenance.Meter{
		maintenance.HoursAt(monday.Start(time.UTC), 100), maintenance.HoursAt((monday + 28).Start(time.UTC), 212),
	})
	for weekday := range civil.Day(7) {
		got := l.Weeks(2, monday+14+weekday, time.UTC)
		if len(got) != 2 || got[0].Monday != monday+7 || got[1].Monday != monday+14 || math.Abs(got[1].Amount-28) > 1e-9 {
			t.Errorf("two weeks up to %s: %+v", monday+14+weekday, got)
		}
	}
	if got := maintenance.NewLife([]maintenance.Meter{maintenance.HoursAt(monday.Start(time.UTC), 100)}).
		Weeks(2, monday+7, time.UTC); len(got) != 0 {
		t.Errorf("of one reading: %+v", got)
	}
}

// Three weeks of daily readings tell the weekdays apart; two do not, and neither do readings
// two days apart.
func TestWeekdays(t *testing.T) {
	t.Parallel()
	monday := time.Date(2026, 1, 5, 0, 0, 0, 0, time.UTC)
	life := func(days, step int) maintenance.Life {
		var readings []maintenance.Meter
		hours := 0.0
		for d := 0; d <= days; d++ {
			if d%step == 0 {
				readings = append(readings, maintenance.HoursAt(monday.AddDate(0, 0, d), hours))
			}
			if wd := monday.AddDate(0, 0, d).Weekday(); wd != time.Saturday && wd != time.Sunday {
				hours += 6
			}
		}
		return maintenance.NewLife(readings)
	}
	perDay, ok := life(21, 1).Weekdays(time.UTC)
	if !ok || math.Abs(perDay[time.Tuesday]-6) > 1e-9 || math.Abs(perDay[time.Sunday]) > 1e-9 {
		t.Errorf("three weeks: %v, %v", perDay, ok)
	}
	if _, ok := life(20, 1).Weekdays(time.UTC); ok {
		t.Error("a day short of three weeks tells every weekday")
	}
	if _, ok := life(60, 2).Weekdays(time.UTC); ok {
		t.Error("readings two days apart tell the days apart")
	}
}

// Where weekdays are told apart, a date is one on which the machine is used: six hours a day from Monday to
// Friday, read daily for four weeks.
func TestDatesByWeekday(t *testing.T) {
	t.Parallel()
	monday := time.Date(2026, 1, 5, 0, 0, 0, 0, time.UTC)
	var readings []maintenance.Meter
	hours := 0.0
	for d := 0; d <= 28; d++ { // the last at the beginning of a Monday, 2 February
		readings = append(readings, maintenance.HoursAt(monday.AddDate(0, 0, d), hours))
		if wd := monday.AddDate(0, 0, d).Weekday(); wd != time.Saturday && wd != time.Sunday {
			hours += 6
		}
	}
	life := maintenance.NewLife(readings)
	for more, want := range map[float64]string{3: "2 Feb 12:00", 9: "3 Feb 12:00", 27: "6 Feb 12:00", 33: "9 Feb 12:00",
		63: "16 Feb 12:00"} {
		_, middle, _, ok := life.Dates(hours-6+more, time.UTC) // the last Monday is not read yet
		if got := middle.Round(2 * time.Hour).Format("2 Jan 15:04"); !ok || got != want {
			t.Errorf("%g h more: %s, %v; want %s", more, got, ok, want)
		}
	}
}
