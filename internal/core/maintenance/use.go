package maintenance

import (
	"time"

	"wardifex/internal/core/civil"
)

// Week is the use of a machine in a civil week, by one counter.
type Week struct {
	Monday civil.Day `json:"monday" doc:"ISO 8601"`
	Amount float64   `json:"amount" doc:"In the counter's unit"`
	// Between says that part of it is taken in proportion between readings more than a week apart.
	Between bool `json:"between"`
}

// gap is how far readings may lie apart for a week to count as read.
const gap = 7 * 24 * time.Hour

// Weeks is the use in each of the n civil weeks up to that of a day, as far as readings cover
// them, the oldest first.
func (l Life) Weeks(n int, today civil.Day, in *time.Location) []Week {
	out := []Week{}
	if len(l.at) < 2 {
		return out
	}
	monday := today
	for monday.Weekday() != time.Monday {
		monday--
	}
	for i := n - 1; i >= 0; i-- {
		first := monday - civil.Day(7*i)
		from, to := first.Start(in), (first + 7).Start(in)
		if !to.After(l.First()) || !from.Before(l.Last()) {
			continue
		}
		out = append(out, Week{Monday: first, Amount: l.At(to) - l.At(from), Between: l.sparse(from, to)})
	}
	return out
}

// sparse reports whether a stretch touches readings that lie more than a week apart.
func (l Life) sparse(from, to time.Time) bool {
	for i := 1; i < len(l.at); i++ {
		if l.at[i].After(from) && l.at[i-1].Before(to) && l.at[i].Sub(l.at[i-1]) > gap {
			return true
		}
	}
	return false
}

// Readings that tell the use of a day lie at most so far apart, and each weekday is told by
// so many days at least.
const (
	dayApart = 36 * time.Hour
	leastOf  = 3
)

// Weekdays is the mean use on each day of the week, Sunday first, from readings about a day
// apart; ok is false where some weekday has too few of them.
func (l Life) Weekdays(in *time.Location) (perDay [7]float64, ok bool) {
	var amount, covered [7]float64
	for i := 1; i < len(l.at); i++ {
		span := l.at[i].Sub(l.at[i-1])
		if span <= 0 || span > dayApart {
			continue
		}
		rate := (l.counts[i] - l.counts[i-1]) / span.Hours()
		for t := l.at[i-1]; t.Before(l.at[i]); {
			day := civil.Of(t.In(in))
			end := (day + 1).Start(in)
			if end.After(l.at[i]) {
				end = l.at[i]
			}
			hours := end.Sub(t).Hours()
			amount[day.Weekday()] += rate * hours
			covered[day.Weekday()] += hours / hoursADay
			t = end
		}
	}
	for d := range perDay {
		if covered[d] < leastOf {
			return perDay, false
		}
		perDay[d] = amount[d] / covered[d]
	}
	return perDay, true
}
