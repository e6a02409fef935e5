package maintenance

import (
	"fmt"
	"math"
	"sort"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/quantity"
)

// Meter is one reading of one of a machine's meters.
type Meter struct {
	Counter Counter
	At      time.Time
	Amount  float64 // as the meter shows, in the counter's unit
	// Reset says that the meter was put back before this reading (a new board
	// or build): it counts from zero again, and the hours before stay counted.
	Reset bool
}

// HoursAt is a reading of the print-hour meter.
func HoursAt(at time.Time, hours float64) Meter { return Meter{Counter: Hours, At: at, Amount: hours} }

// clockSlack is how far a meter may run ahead of the calendar between two
// readings, in hours, for clocks that differ.
const clockSlack = 1.0

// Take judges a reading of a meter that is to be recorded, beside those on record. known
// is true where this very reading is among them: then nothing is recorded. The error says
// why it cannot be.
func Take(on []Meter, m Meter, now time.Time) (known bool, err error) {
	for _, is := range on {
		switch {
		case is.Counter != m.Counter || !is.At.Equal(m.At):
		case is.Amount == m.Amount:
			return true, nil
		default:
			return false, fmt.Errorf("the meter was already read at this moment, at %s; choose another moment or day",
				is.shown(is.Amount))
		}
	}
	return false, CheckMeter(on, m, now)
}

// shown is an amount with the meter's unit.
func (m Meter) shown(amount float64) string { return quantity.Format(amount) + " " + m.Counter.Unit() }

// CheckMeter judges a reading against those of the same counter on record: not negative,
// not in the future, not less than the reading before unless the meter was
// reset, and not more than can be in the time between.
func CheckMeter(on []Meter, m Meter, now time.Time) error {
	c, ok := countings[m.Counter]
	switch {
	case !ok:
		return fmt.Errorf("%q is none of what machines count: %v", m.Counter, Counters())
	case math.IsNaN(m.Amount) || math.IsInf(m.Amount, 0) || m.Amount < 0:
		return fmt.Errorf("%s %s cannot be: a meter starts at 0", quantity.Format(m.Amount), c.name)
	case m.Amount > c.most:
		return fmt.Errorf("%s %s are %s", quantity.Format(m.Amount), c.name, c.absurd)
	case m.At.After(now):
		return fmt.Errorf("the reading is dated %s, which is still to come", day(m.At))
	}
	before, after := neighbours(Counted(on, m.Counter), m.At)
	if before != nil && !m.Reset {
		if m.Amount < before.Amount {
			return fmt.Errorf(
				"the meter shows %s but stood at %s on %s: meters do not run backwards. If it was put back by a new "+
					"board or build, say so; otherwise read it again",
				m.shown(m.Amount), m.shown(before.Amount), day(before.At),
			)
		}
		if more, span := m.Amount-before.Amount, span(*before, m, now); more > (span+clockSlack)*c.perHour {
			return fmt.Errorf("%s more than on %s, but only %.0f hours have passed since; read the meter and the date again",
				m.shown(more), day(before.At), span)
		}
	}
	if after != nil && !after.Reset {
		if after.Amount < m.Amount {
			return fmt.Errorf(
				"the meter showed only %s on %s, later than this reading; check the date",
				m.shown(after.Amount), day(after.At),
			)
		}
		if more, span := after.Amount-m.Amount, span(m, *after, now); more > (span+clockSlack)*c.perHour {
			return fmt.Errorf("the meter showed %s more on %s, but only %.0f hours lie between; check the date",
				m.shown(more), day(after.At), span)
		}
	}
	return nil
}

// Counted are the readings of one counter.
func Counted(readings []Meter, c Counter) []Meter {
	var out []Meter
	for _, r := range readings {
		if r.Counter == c {
			out = append(out, r)
		}
	}
	return out
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

// Life is what one of a machine's meters counted over time, resets bridged.
type Life struct {
	at     []time.Time
	counts []float64 // since the first reading's zero, never falling
	most   float64   // that a day can bring
	use    use       // how the machine is used, where told
	told   bool
}

// Lives are those of all the meters of a machine.
type Lives map[Counter]Life

// NewLives adds up the readings of a machine's meters, in any order.
func NewLives(readings []Meter) Lives {
	out := Lives{}
	for _, c := range Counters() {
		if own := Counted(readings, c); len(own) > 0 {
			out[c] = newLife(c, own)
		}
	}
	return out
}

// NewLife adds up the readings of the print-hour meter, in any order.
func NewLife(readings []Meter) Life { return newLife(Hours, Counted(readings, Hours)) }

func newLife(c Counter, rs []Meter) Life {
	sort.SliceStable(rs, func(i, j int) bool { return rs[i].At.Before(rs[j].At) })
	l := Life{most: c.perDay()}
	base, last := 0.0, 0.0
	for _, r := range rs {
		if r.Reset {
			base += last
		}
		last = r.Amount
		l.at, l.counts = append(l.at, r.At), append(l.counts, base+r.Amount)
	}
	l.use, l.told = l.measure()
	return l
}

// Known reports whether the meter was ever read.
func (l Life) Known() bool { return len(l.at) > 0 }

// At is the count at a moment that the record covers: between
// readings in proportion, before the first as the first, after the newest as the newest.
func (l Life) At(t time.Time) float64 {
	n := len(l.at)
	switch {
	case n == 0:
		return 0
	case !t.After(l.at[0]):
		return l.counts[0]
	case !t.Before(l.at[n-1]):
		return l.counts[n-1]
	}
	i := sort.Search(n, func(i int) bool { return !l.at[i].Before(t) })
	span := l.at[i].Sub(l.at[i-1]).Hours()
	if span == 0 {
		return l.counts[i]
	}
	part := t.Sub(l.at[i-1]).Hours() / span
	return l.counts[i-1] + part*(l.counts[i]-l.counts[i-1])
}

// Reached is when the count came to an amount, where the record shows it: the
// moment between two readings in proportion.
func (l Life) Reached(amount float64) (time.Time, bool) {
	i := sort.Search(len(l.at), func(i int) bool { return l.counts[i] >= amount })
	switch {
	case i == len(l.at):
		return time.Time{}, false
	case i == 0 || l.counts[i] == l.counts[i-1]:
		return l.at[i], true
	}
	part := (amount - l.counts[i-1]) / (l.counts[i] - l.counts[i-1])
	return l.at[i-1].Add(time.Duration(part * float64(l.at[i].Sub(l.at[i-1])))), true
}

// First and Last are when the meter was read first and last.
func (l Life) First() time.Time { return l.at[0] }
func (l Life) Last() time.Time  { return l.at[len(l.at)-1] }
