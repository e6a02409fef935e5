package schedule_test

import (
	"math"
	"testing"
	"time"

	"wardifex/internal/core/schedule"
)

// Worked by hand: eight opening hours a day over five days, 40 h; down from 12:00 on the first day
// to 12:00 on the second with work open in the middle of it, 4 h + 4 h; a second time for 2 h that
// lie half outside the opening hours, 1 h. Two faults, one of them mended after 24 h.
func TestReliability(t *testing.T) {
	t.Parallel()
	at := func(day, hour int) time.Time { return time.Date(2026, 11, 2+day, hour, 0, 0, 0, time.UTC) }
	s := schedule.Service{Planned: 90, Unplanned: 30}
	for day := range 5 {
		s.Open = append(s.Open, schedule.Span{From: at(day, 8), To: at(day, 16)})
	}
	s.Down = schedule.Join(schedule.Span{From: at(3, 15), To: at(3, 17)}, schedule.Span{From: at(0, 12), To: at(1, 12)},
		schedule.Span{From: at(0, 14), To: at(0, 15)})
	s.Faults = []schedule.Span{{From: at(0, 12), To: at(1, 12)}, {From: at(3, 15)},
		{From: at(-9, 12), To: at(-8, 12)}}
	week := schedule.Span{From: at(0, 0), To: at(7, 0)}
	near := func(name string, got *float64, want float64) {
		t.Helper()
		if got == nil || math.Abs(*got-want) > 1e-9 {
			t.Errorf("%s: %v; want %g", name, got, want)
		}
	}
	r := schedule.ReliabilityOf([]schedule.Service{s}, week)
	near("available", r.Available, 31.0/40)
	near("between failures", r.Between, 15.5)
	near("to repair", r.ToRepair, 24)
	if r.Failures != 2 || r.Repaired != 1 || r.Planned != 90 || r.Unplanned != 30 {
		t.Errorf("%+v", r)
	}
	two := schedule.ReliabilityOf([]schedule.Service{s, {Open: s.Open}}, week)
	near("of two together", two.Available, 71.0/80)
	near("of two between failures", two.Between, 35.5)
	first := schedule.ReliabilityOf([]schedule.Service{s}, schedule.Span{From: at(0, 0), To: at(1, 0)})
	near("on the first day", first.Available, 0.5)
	none := schedule.ReliabilityOf([]schedule.Service{{}}, week)
	if none.Available != nil || none.Between != nil || none.ToRepair != nil {
		t.Errorf("nothing on record: %+v", none)
	}
}
