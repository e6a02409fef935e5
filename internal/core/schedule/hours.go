package schedule

import (
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/shop"
)

// DaysOf is the time of the days from one to another, both included.
func DaysOf(from, to civil.Day, in *time.Location) Span {
	return Span{from.Start(in), (to + 1).Start(in)}
}

// Weekly is the time of hours that repeat every week, over the days from one to another, both
// included. Hours that a change of the clocks leaves out are not there; those that it brings twice
// count twice.
func Weekly(hours []shop.Hours, from, to civil.Day, in *time.Location) Spans {
	var all []Span
	for day := from; day <= to; day++ {
		for _, h := range hours {
			first, last, ok := h.Minutes()
			if !ok || h.Day != day.Weekday() {
				continue
			}
			all = append(all, Span{clock(day, first, in), clock(day, last, in)})
		}
	}
	return Join(all...)
}

// clock is the moment at which a day's clock shows so many minutes after midnight. Where the clock
// leaps over it, that is the moment after the leap.
func clock(day civil.Day, minute int, in *time.Location) time.Time {
	if minute >= 24*60 {
		return (day + 1).Start(in)
	}
	midnight := day.Start(in)
	y, m, d := midnight.Date()
	at := time.Date(y, m, d, 0, minute, 0, 0, in)
	if at.Before(midnight) {
		return midnight // the day begins after it
	}
	return at
}

// Closure is a stretch of days on which the shop is closed.
type Closure struct {
	ID   int64     `json:"id"`
	From civil.Day `json:"from"`
	To   civil.Day `json:"to"  doc:"The last day of it"`
	Why  string    `json:"why" maxLength:"120"`
}

// longestStretch is how long a closure or a leave may be: longer is a slip of the year.
// Source: from memory.
const longestStretch = 400

// Check refuses a closure that ends before it begins or has no end in sight.
func (c Closure) Check() error { return checkDays(c.From, c.To, "a closure") }

// Opening is when the shop is open over the days from one to another; told is false where it has
// not told its hours, which counts as open on every day that it is not closed.
func Opening(s shop.Settings, closed []Closure, from, to civil.Day, in *time.Location) (open Spans, told bool) {
	open, told = Weekly(s.Opening, from, to, in), len(s.Opening) > 0
	if !told {
		open = Spans{DaysOf(from, to, in)}
	}
	var shut []Span
	for _, c := range closed {
		shut = append(shut, DaysOf(c.From, c.To, in))
	}
	return open.Minus(Join(shut...)), told
}
