package schedule

import "time"

// quiet is how busy an open hour in which nothing was booked counts against the busiest. Source: from memory.
const quiet = 0.25

// Busy is how busy each hour of the week is, Sunday first, from 0 where it is closed to 1 for that in which most
// was booked: told from bookings of some weeks. Without any, every open hour is as busy as the others.
func Busy(open Spans, booked []Span, in *time.Location) (busy [7][24]float64) {
	most := 0.0
	for _, s := range booked {
		hours(s, in, func(d time.Weekday, h int) {
			busy[d][h]++
			most = max(most, busy[d][h])
		})
	}
	var isOpen [7][24]bool
	for _, s := range open {
		hours(s, in, func(d time.Weekday, h int) { isOpen[d][h] = true })
	}
	for d := range busy {
		for h := range busy[d] {
			switch {
			case !isOpen[d][h]:
				busy[d][h] = 0
			case most == 0:
				busy[d][h] = 1
			default:
				busy[d][h] = quiet + (1-quiet)*busy[d][h]/most
			}
		}
	}
	return busy
}

// hours calls f with each hour of the week that a span touches.
func hours(s Span, in *time.Location, f func(time.Weekday, int)) {
	for at := s.From.Truncate(time.Hour); at.Before(s.To); at = at.Add(time.Hour) {
		local := at.In(in)
		f(local.Weekday(), local.Hour())
	}
}
