package maintenance_test

import (
	"math"
	"testing"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/maintenance"
)

// A task is "soon" from two weeks before its day.
// Source: from memory.
func TestSoonIsTwoWeeks(t *testing.T) {
	t.Parallel()
	for after, want := range map[int]maintenance.State{91 - 15: maintenance.Later, 91 - 14: maintenance.Soon} {
		done := []maintenance.Done{{Task: "fans", At: on(0)}}
		s := maintenance.Subject{Since: on(0), Facts: facts(nil), Done: done}
		if got := find(t, maintenance.DueList(s, on(after).Add(time.Minute)), "fans").State; got != want {
			t.Errorf("%d days before: %s, want %s", 91-after, got, want)
		}
	}
}

// The rate is that of the 91 days before the newest reading: what was before does not
// count, what is within does.
// Source: the quarter from memory, the rates by hand.
func TestTheRateIsOfAQuarter(t *testing.T) {
	t.Parallel()
	rate := func(change int) float64 {
		l := maintenance.NewLife([]maintenance.Meter{
			maintenance.HoursAt(on(0), 0), maintenance.HoursAt(on(change), 10*float64(change)),
			maintenance.HoursAt(on(200), 10*float64(change)+200-float64(change)),
		})
		perDay, ok := l.Rate()
		if !ok {
			t.Fatal("no rate")
		}
		return perDay
	}
	// 10 h a day before the change, 1 h a day after it.
	if got := rate(200 - 91); math.Abs(got-1) > 1e-9 {
		t.Errorf("changed 91 days before: %g h a day, want 1", got)
	}
	if got := rate(200 - 90); got <= 1 {
		t.Errorf("changed 90 days before: %g h a day, want a little of the 10", got)
	}
}

// A task that may be due by now is soon, whatever its likely day; each limit from either side.
func TestSettle(t *testing.T) {
	t.Parallel()
	const today = civil.Day(1000)
	day := func(n int) *civil.Day {
		d := today + civil.Day(n)
		return &d
	}
	for _, tt := range []struct {
		on, from *civil.Day
		want     maintenance.State
	}{
		{day(0), nil, maintenance.Overdue},
		{day(1), nil, maintenance.Soon},
		{day(14), nil, maintenance.Soon},
		{day(15), nil, maintenance.Later},
		{day(15), day(0), maintenance.Soon},
		{day(15), day(1), maintenance.Later},
	} {
		d := maintenance.Due{On: tt.on, From: tt.from}
		if d.Settle(today); d.State != tt.want {
			t.Errorf("on %v, from %v: %s, want %s", tt.on, tt.from, d.State, tt.want)
		}
	}
}
