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

// Take judges a reading of a meter that is to be recorded, beside those on record. known
// is true where this very reading is among them: then nothing is recorded. The error says
// why it cannot be.
func Take(on []Meter, m Meter, now time.Time) (known bool, err error) {
	for _, is := range on {
		switch {
		case !is.At.Equal(m.At):
		case is.Hours == m.Hours:
			return true, nil
		default:
			return false, fmt.Errorf("the meter was already read at this moment, at %s h; choose another moment or day",
				quantity.Format(is.Hours))
		}
	}
	return false, CheckMeter(on, m, now)
}

// CheckMeter judges a reading against those already on record: not negative,
// not in the future, not less than the reading before unless the meter was
// reset, and not more hours than the calendar has.
func CheckMeter(on []Meter, m Meter, now time.Time) error {
	switch {
	case math.IsNaN(m.Hours) || math.IsInf(m.Hours, 0) || m.Hours < 0:
		return fmt.Errorf("%s print hours cannot be: a meter starts at 0", quantity.Format(m.Hours))
	case m.Hours > 200000:
		return fmt.Errorf(
			"%s print hours are more than twenty years without a stop; type hours, not minutes or seconds",
			quantity.Format(m.Hours),
		)
	case m.At.After(now):
		return fmt.Errorf("the reading is dated %s, which is still to come", day(m.At))
	}
	before, after := neighbours(on, m.At)
	if before != nil && !m.Reset {
		if m.Hours < before.Hours {
			return fmt.Errorf(
				"the meter shows %s h but stood at %s h on %s: meters do not run backwards. If it was put back by a new "+
					"board or build, say so; otherwise read it again",
				quantity.Format(m.Hours),
				quantity.Format(before.Hours),
				day(before.At),
			)
		}
		if more, span := m.Hours-before.Hours, span(*before, m, now); more > span+clockSlack {
			return fmt.Errorf("%s h more than on %s, but only %.0f hours have passed since; read the meter and the date again",
				quantity.Format(more), day(before.At), span)
		}
	}
	if after != nil && !after.Reset {
		if after.Hours < m.Hours {
			return fmt.Errorf(
				"the meter showed only %s h on %s, later than this reading; check the date",
				quantity.Format(after.Hours),
				day(after.At),
			)
		}
		if more, span := after.Hours-m.Hours, span(m, *after, now); more > span+clockSlack {
			return fmt.Errorf("the meter showed %s h more on %s, but only %.0f hours lie between; check the date",
				quantity.Format(more), day(after.At), span)
		}
	}
	return nil
}

// span is how many hours may lie between two readings. One of which only the day is
// known, which is kept as the day's first moment, was taken at any time of it; a day
// with daylight saving has its 23 or 25 hours.
func span(from, to Meter, now time.Time) float64 {
	end := to.At
	if d := civil.Of(end); end.Equal(d.Start(end.Location())) {
		if end = d.End(end.Location()); end.After(now) {
			end = now
		}
	}
	return end.Sub(from.At).Hours()
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
	use   use       // how the machine is used, where told
	told  bool
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
	l.use, l.told = l.measure()
	return l
}

// Known reports whether the meter was ever read.
func (l Life) Known() bool { return len(l.at) > 0 }

// At is the machine's life in hours at a moment that the record covers: between
// readings in proportion, before the first as the first, after the newest as the newest.
func (l Life) At(t time.Time) float64 {
	n := len(l.at)
	switch {
	case n == 0:
		return 0
	case !t.After(l.at[0]):
		return l.hours[0]
	case !t.Before(l.at[n-1]):
		return l.hours[n-1]
	}
	i := sort.Search(n, func(i int) bool { return !l.at[i].Before(t) })
	span := l.at[i].Sub(l.at[i-1]).Hours()
	if span == 0 {
		return l.hours[i]
	}
	part := t.Sub(l.at[i-1]).Hours() / span
	return l.hours[i-1] + part*(l.hours[i]-l.hours[i-1])
}

// Reached is when the life came to a number of hours, where the record shows it: the
// moment between two readings in proportion.
func (l Life) Reached(hours float64) (time.Time, bool) {
	i := sort.Search(len(l.at), func(i int) bool { return l.hours[i] >= hours })
	switch {
	case i == len(l.at):
		return time.Time{}, false
	case i == 0 || l.hours[i] == l.hours[i-1]:
		return l.at[i], true
	}
	part := (hours - l.hours[i-1]) / (l.hours[i] - l.hours[i-1])
	return l.at[i-1].Add(time.Duration(part * float64(l.at[i].Sub(l.at[i-1])))), true
}

// First and Last are when the meter was read first and last.
func (l Life) First() time.Time { return l.at[0] }
func (l Life) Last() time.Time  { return l.at[len(l.at)-1] }
