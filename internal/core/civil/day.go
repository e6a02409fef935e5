package civil

import (
	"fmt"
	"time"
)

// Day is a date, counted from 1 January 1970, which is 0.
type Day int

// Layouts of days: as files and the API write them (ISO 8601), and as people read them.
const (
	ISO   = "2006-01-02"
	Shown = "2 Jan 2006"
)

// Moment is how a moment of a day is shown to people.
const Moment = Shown + ", 15:04"

// Of is the day of a moment on the clock of its own time zone.
func Of(t time.Time) Day { return Date(t.Year(), t.Month(), t.Day()) }

// Date is the day with this year, month and day of the month.
func Date(year int, month time.Month, day int) Day {
	return Day(time.Date(year, month, day, 0, 0, 0, 0, time.UTC).Unix() / secondsADay)
}

const secondsADay = 24 * 60 * 60

func (d Day) utc() time.Time { return time.Unix(int64(d)*secondsADay, 0).UTC() }

// String writes the day as 2006-01-02.
func (d Day) String() string { return d.utc().Format(ISO) }

// Show writes the day as 2 Jan 2006.
func (d Day) Show() string { return d.utc().Format(Shown) }

// Weekday is its day of the week.
func (d Day) Weekday() time.Weekday { return d.utc().Weekday() }

// Start is the first moment of the day in a time zone. That is midnight, unless
// clocks were put forward over it; of a day that a zone left out, it is the first
// moment of the next.
func (d Day) Start(in *time.Location) time.Time {
	// Wherever a zone is, the day begins within these bounds.
	t := d.utc().Add(-36 * time.Hour).In(in)
	end := d.utc().Add(72 * time.Hour)
	for t.Before(end) {
		_, offset := t.Zone()
		until, changes := nextChange(t)
		midnight := d.utc().Add(-time.Duration(offset) * time.Second).In(in)
		first := t
		if midnight.After(t) {
			first = midnight
		}
		if (!changes || first.Before(until)) && Of(first) >= d {
			return first
		}
		if !changes {
			break
		}
		t = until
	}
	return end.In(in) // not reached: within three days every zone comes to the day
}

// End is the last moment of the day in a time zone, a nanosecond before the next.
func (d Day) End(in *time.Location) time.Time { return (d + 1).Start(in).Add(-time.Nanosecond) }

// MarshalText writes the day as ISO 8601.
func (d Day) MarshalText() ([]byte, error) { return []byte(d.String()), nil }

// UnmarshalText reads a day as 2006-01-02.
func (d *Day) UnmarshalText(text []byte) error {
	t, err := time.Parse(ISO, string(text))
	if err != nil {
		return fmt.Errorf("%q is not a date; write it as 2026-11-20", text)
	}
	*d = Of(t)
	return nil
}

// Days writes a count of days: 1 day, 12 days.
func Days(n int) string {
	if n == 1 {
		return "1 day"
	}
	return fmt.Sprintf("%d days", n)
}
