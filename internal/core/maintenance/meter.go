package maintenance

import (
	"fmt"
	"math"
	"sort"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/quantity"
)

// Meter is one reading of a machine's print-hour meter.
type Meter struct {
	At    time.Time
	Hours float64 // as the meter shows
	// Reset says that the meter was put back before this reading (a new board
	// or build): it counts from zero again, and the hours before stay counted.
	Reset bool
}

// clockSlack is how far a meter may run ahead of the calendar between two
// readings, in hours, for clocks that differ.
const clockSlack = 1.0

// CheckMeter judges a reading against those already on record: not negative,
// not in the future, not less than the reading before unless the meter was
// reset, and not more hours than the calendar has.
func CheckMeter(on []Meter, m Meter, now time.Time) error {
	switch {
	case math.IsNaN(m.Hours) || math.IsInf(m.Hours, 0) || m.Hours < 0:
		return fmt.Errorf("%s print hours cannot be: a meter starts at 0", quantity.Format(m.Hours))
	case m.Hours > 200000:
		return fmt.Errorf("%s print hours are more than twenty years without a stop; type hours, not minutes or seconds", quantity.Format(m.Hours))
	case m.At.After(now):
		return fmt.Errorf("the reading is dated %s, which is still to come", day(m.At))
	}
	before, after := neighbours(on, m.At)
	if before != nil && !m.Reset {
		if m.Hours < before.Hours {
			return fmt.Errorf("the meter shows %s h but stood at %s h on %s: meters do not run backwards. If it was put back by a new board or build, say so; otherwise read it again",
				quantity.Format(m.Hours), quantity.Format(before.Hours), day(before.At))
		}
		if more, span := m.Hours-before.Hours, m.At.Sub(before.At).Hours(); more > span+clockSlack {
			return fmt.Errorf("%s h more than on %s, but only %.0f hours have passed since; read the meter and the date again",
				quantity.Format(more), day(before.At), span)
		}
	}
	if after != nil && !after.Reset && after.Hours < m.Hours {
		return fmt.Errorf("the meter showed only %s h on %s, later than this reading; check the date", quantity.Format(after.Hours), day(after.At))
	}
	return nil
}

func day(t time.Time) string { return t.Format(civil.Shown) }

func neighbours(on []Meter, at time.Time) (before, after *Meter) {
	for i := range on {
		m := &on[i]
		if !m.At.After(at) {
			if before == nil || !m.At.Before(before.At) {
				before = m
			}
		} else if after == nil || m.At.Before(after.At) {
			after = m
		}
	}
	return before, after
}

// Life is a machine's print hours over time, resets bridged.
type Life struct {
	at    []time.Time
	hours []float64 // since the first reading's zero, never falling
}

// NewLife adds up meter readings in any order.
func NewLife(readings []Meter) Life {
	rs := append([]Meter(nil), readings...)
	sort.SliceStable(rs, func(i, j int) bool { return rs[i].At.Before(rs[j].At) })
	var l Life
	base, last := 0.0, 0.0
	for _, r := range rs {
		if r.Reset {
			base += last
		}
		last = r.Hours
		l.at, l.hours = append(l.at, r.At), append(l.hours, base+r.Hours)
	}
	return l
}

// Known reports whether the meter was ever read.
func (l Life) Known() bool { return len(l.at) > 0 }

// rateWindow is how far back the rate of use looks, in days. A quarter evens
// out holidays and still follows a machine that is used more.
const rateWindow = 90

// Rate is the machine's use in hours a day over the last quarter before its
// newest reading; ok is false when two readings a day apart are lacking.
func (l Life) Rate() (perDay float64, ok bool) {
	if len(l.at) < 2 {
		return 0, false
	}
	end := len(l.at) - 1
	from := l.at[end].AddDate(0, 0, -rateWindow)
	if from.Before(l.at[0]) {
		from = l.at[0]
	}
	days := l.at[end].Sub(from).Hours() / 24
	if days < 1 {
		return 0, false
	}
	return (l.hours[end] - l.At(from)) / days, true
}

// At is the machine's life in hours at a moment: between readings in
// proportion, after the newest carried on at the rate of use, before the first
// as the first.
func (l Life) At(t time.Time) float64 {
	n := len(l.at)
	switch {
	case n == 0:
		return 0
	case !t.After(l.at[0]):
		return l.hours[0]
	case t.After(l.at[n-1]):
		rate, _ := l.Rate()
		return l.hours[n-1] + rate*t.Sub(l.at[n-1]).Hours()/24
	}
	i := sort.Search(n, func(i int) bool { return !l.at[i].Before(t) })
	span := l.at[i].Sub(l.at[i-1]).Hours()
	if span == 0 {
		return l.hours[i]
	}
	part := t.Sub(l.at[i-1]).Hours() / span
	return l.hours[i-1] + part*(l.hours[i]-l.hours[i-1])
}
