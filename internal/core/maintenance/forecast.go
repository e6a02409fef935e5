package maintenance

import (
	"math"
	"sort"
	"time"

	"wardifex/internal/core/civil"
)

// Range is a forecast: what is as likely as not in the middle, and the ends of an
// 80 % range.
type Range struct{ Low, Middle, High float64 }

// Windows of the forecast, in days: use in the last quarter evens out holidays and
// still follows a machine that is used more; two years tell how irregular it is.
const (
	rateWindow      = 91.0
	irregularWindow = 730.0
)

// usualIrregularity is the variance of a day's use by the square of its mean, before
// the machine's own record tells, and usualWeight is as how many stretches of the record
// it counts. Source: from memory.
const (
	usualIrregularity = 1.0
	usualWeight       = 1.0
)

// use is how a machine is used, as its meter tells.
type use struct {
	perDay float64
	most   float64 // that a day can bring
	days   float64 // that the rate rests on
	scales []scale
}

// scale is how irregular use is over a number of days, as a variance of use per day; and how freely it is known.
type scale struct{ days, variance, freedom float64 }

// mostOrigins is from how many readings at most forecasts are tried.
const mostOrigins = 100

const hoursADay = 24.0

func days(d time.Duration) float64 { return d.Hours() / hoursADay }

// Rate is the machine's use a day over the last quarter before its newest
// reading; 0 for a machine that stood still. ok is false where two readings a day apart
// are lacking.
func (l Life) Rate() (perDay float64, ok bool) {
	return l.use.perDay, l.told
}

// measure tells how the machine is used from its readings.
func (l Life) measure() (use, bool) {
	n := len(l.at)
	if n < 2 {
		return use{}, false
	}
	u, ok := l.rateAt(n - 1)
	if !ok {
		return u, false
	}
	first := sort.Search(n, func(i int) bool { return days(l.Last().Sub(l.at[i])) <= irregularWindow })
	u.scales = []scale{{0, usualIrregularity * u.perDay * u.perDay, usualWeight}}
	span := days(l.Last().Sub(l.at[first]))
	for ahead := math.Max(2, span/float64(n-first)); ahead <= span; ahead *= 2 {
		u.scales = append(u.scales, l.tried(u, first, ahead))
	}
	return u, true
}

// tried is how far forecasts over so many days from earlier readings would have been off.
func (l Life) tried(u use, first int, ahead float64) scale {
	sum, count := 0.0, 0.0
	var from time.Time
	for i := first; i < len(l.at); i += 1 + (len(l.at)-first)/mostOrigins {
		then, ok := l.rateAt(i)
		end := l.at[i].Add(time.Duration(ahead * hoursADay * float64(time.Hour)))
		if !ok || end.After(l.Last()) || then.days < math.Min(rateWindow, u.days)/2 {
			continue
		}
		if count == 0 {
			from = l.at[i]
		}
		off := l.At(end) - l.counts[i] - then.perDay*ahead
		sum, count = sum+off*off/then.growth(ahead), count+1
	}
	usual, before := u.scales[0], u.scales[len(u.scales)-1]
	out := scale{ahead, usual.variance, usualWeight}
	if count > 0 {
		own := math.Min(count, days(l.Last().Sub(from))/ahead) // stretches that do not overlap
		out.freedom += own
		out.variance = (own*sum/count + usualWeight*usual.variance) / out.freedom
	}
	// What is farther off is known no better.
	if len(u.scales) > 1 {
		out.variance, out.freedom = math.Max(out.variance, before.variance), math.Min(out.freedom, before.freedom)
	}
	return out
}

// rateAt is the rate of use as it stood at a reading; false where two readings a day
// apart are lacking.
func (l Life) rateAt(i int) (use, bool) {
	from := l.at[i].Add(-time.Duration(rateWindow * hoursADay * float64(time.Hour)))
	if from.Before(l.at[0]) {
		from = l.at[0]
	}
	u := use{days: days(l.at[i].Sub(from)), most: l.most}
	if u.days < 1 {
		return u, false
	}
	u.perDay = (l.counts[i] - l.At(from)) / u.days
	return u, true
}

// growth is by how many days' variance a forecast is off: that of the days ahead, and
// that of the rate, which rests on so many days.
func (u use) growth(ahead float64) float64 { return ahead + ahead*ahead/u.days }

// spread is the variance of use over some days after the newest reading, and how freely
// it is known: as forecasts over about as many days would have been off until now.
func (u use) spread(ahead float64) (variance, freedom float64) {
	is := u.scales[0]
	for _, s := range u.scales[1:] {
		if is = s; s.days >= ahead {
			break
		}
	}
	return is.variance * u.growth(ahead), is.freedom
}

// Forecast is the count at a moment: what the record shows, and after
// the newest reading an 80 % range that widens with the time since. ok is false where
// the record tells no rate of use.
//
// Over the days ahead, use has the mean of the last quarter; the range is as wide as
// forecasts made so from earlier readings would have needed. Ends are the 10 % and 90 % points of Student's
// distribution, between no use at all
// and use without a stop.
func (l Life) Forecast(t time.Time) (Range, bool) {
	if len(l.at) == 0 {
		return Range{}, false
	}
	newest := l.counts[len(l.counts)-1]
	if !t.After(l.Last()) {
		h := l.At(t)
		return Range{h, h, h}, true
	}
	if !l.told {
		return Range{newest, newest, newest}, false
	}
	return l.use.after(newest, days(t.Sub(l.Last()))), true
}

func (u use) after(newest, ahead float64) Range {
	middle := u.perDay * ahead
	variance, freedom := u.spread(ahead)
	off := tenth(freedom) * math.Sqrt(variance)
	return Range{
		newest + math.Max(0, middle-off),
		newest + middle,
		newest + math.Min(u.most*ahead, middle+off),
	}
}

// tenth is how far from the middle the upper 10 % of Student's distribution begin.
// Source: Abramowitz & Stegun, Handbook of Mathematical Functions, 26.7.5; the
// 90 % point of the normal distribution is 1.2816.
func tenth(freedom float64) float64 {
	const z = 1.2816
	z3, z5 := z*z*z, z*z*z*z*z
	return z + (z3+z)/(4*freedom) + (5*z5+16*z3+3*z)/(96*freedom*freedom)
}

// farthest is how many days a forecast looks ahead: what lies beyond ten years is no date.
const farthest = 3650

// Dates is the range of moments at which the count will come to an amount that
// the record does not show; a zero Late is one that is not in sight. ok is false where
// the record tells no rate of use, or the machine stands still. Where daily readings tell the
// weekdays apart, a day counts as its weekday: a machine that rests at weekends comes to nothing on a Sunday.
func (l Life) Dates(amount float64, in *time.Location) (early, middle, late time.Time, ok bool) {
	u := l.use
	week, told := l.Weekdays(in)
	if !l.told || u.perDay <= 0 {
		return early, middle, late, false
	}
	newest := l.counts[len(l.counts)-1]
	when := func(of func(Range) float64) time.Time {
		if of(u.after(newest, farthest)) < amount {
			return time.Time{}
		}
		lo, hi := 0.0, float64(farthest)
		for hi-lo > 0.01 {
			if mid := (lo + hi) / 2; of(u.after(newest, mid)) >= amount {
				hi = mid
			} else {
				lo = mid
			}
		}
		if told {
			return paced(l.Last().In(in), hi, week)
		}
		return l.Last().Add(time.Duration(hi * hoursADay * float64(time.Hour)))
	}
	early = when(func(r Range) float64 { return r.High })
	middle = when(func(r Range) float64 { return r.Middle })
	late = when(func(r Range) float64 { return r.Low })
	return early, middle, late, !middle.IsZero()
}

// paced is the moment by which, from another on, as much use has come as in so many days of mean use, where each
// weekday has its own.
func paced(from time.Time, days float64, week [7]float64) time.Time {
	sum := 0.0
	for _, w := range week {
		sum += w
	}
	if sum <= 0 {
		return from.Add(time.Duration(days * hoursADay * float64(time.Hour)))
	}
	weeks := math.Floor(days / 7)
	at, left := from.AddDate(0, 0, 7*int(weeks)), (days-7*weeks)*sum/7
	for left > 1e-9 {
		end := civil.Of(at).Start(at.Location()).AddDate(0, 0, 1)
		whole := end.Sub(at).Hours() / hoursADay
		if use := week[at.Weekday()] * whole; use < left {
			at, left = end, left-use
			continue
		}
		return at.Add(time.Duration(left / week[at.Weekday()] * hoursADay * float64(time.Hour)))
	}
	return at
}
