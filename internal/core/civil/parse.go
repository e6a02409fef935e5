package civil

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"
)

// Order is which number of a date such as 3/4/2026 stands first.
type Order string

const (
	Unsaid     Order = ""
	DayFirst   Order = "day first"
	MonthFirst Order = "month first"
)

// TwoDays is a date whose numbers may be day and month either way round.
type TwoDays struct {
	Written    string
	DayFirst   Day
	MonthFirst Day
}

func (t *TwoDays) Error() string {
	return fmt.Sprintf(
		"%q can be %s or %s: write it as %s or %s",
		t.Written,
		t.DayFirst.Show(),
		t.MonthFirst.Show(),
		t.DayFirst,
		t.MonthFirst,
	)
}

// Either lists both meanings, written so that each has one.
func (t *TwoDays) Either() [2]string { return [2]string{t.DayFirst.Show(), t.MonthFirst.Show()} }

var (
	isoBasic   = regexp.MustCompile(`^(\d{4})(\d{2})(\d{2})$`)
	isoWeek    = regexp.MustCompile(`^(\d{4})-?W(\d{2})-?([1-7])$`)
	isoOrdinal = regexp.MustCompile(`^(\d{4})-(\d{3})$`)
	yearFirst  = regexp.MustCompile(`^(\d{4})\s*[-/.]\s*(\d{1,2})\s*[-/.]\s*(\d{1,2})\.?$`)
	numeric    = regexp.MustCompile(`^(\d{1,2})\s*([-/.])\s*(\d{1,2})\s*[-/.]\s*(\d{4}|\d{2})$`)
	dayMonth   = regexp.MustCompile(
		`^(?:[a-z]{2,9},?\s+)?(\d{1,2})(?:st|nd|rd|th)?[.\s-]+(?:of\s+)?([a-z]{3,9})\.?[,\s-]+(\d{4}|\d{2})$`,
	)
	monthDay = regexp.MustCompile(`^(?:[a-z]{2,9},?\s+)?([a-z]{3,9})\.?\s+(\d{1,2})(?:st|nd|rd|th)?[,\s]+(\d{4})$`)
	// clock is what may follow a date: 2026-11-20T09:30, 20 Nov 2026, 09:30:15.
	clock = regexp.MustCompile(
		`(?i)^(.*?\d)(?:t|,?\s+)(\d{1,2}):(\d{2})(?::(\d{2})(?:[.,]\d+)?)?\s*(am|pm)?\s*(z|[+-]\d{2}:?\d{2})?$`,
	)
)

// ParseDay reads a date in any clear form: ISO 8601 (2026-11-20, 20261120,
// 2026-W47-5, 2026-324), 20.11.2026, 20 Nov 2026, Nov 20, 2026, 20/11/2026. Where
// day and month may be either way round and order does not say, the error is a
// *TwoDays. Years of two digits are of this century.
func ParseDay(text string, order Order) (Day, error) {
	written := strings.TrimSpace(text)
	t := strings.ToLower(strings.Join(strings.Fields(written), " "))
	if m := isoWeek.FindStringSubmatch(strings.ToUpper(t)); m != nil {
		return isoWeekDay(written, number(m[1]), number(m[2]), number(m[3]))
	}
	if m := isoOrdinal.FindStringSubmatch(t); m != nil {
		day := Date(number(m[1]), 1, number(m[2]))
		if day.utc().Year() != number(m[1]) {
			return 0, noDate(written)
		}
		return checked(written, day)
	}
	for _, form := range []*regexp.Regexp{isoBasic, yearFirst} {
		if m := form.FindStringSubmatch(t); m != nil {
			return date(written, number(m[1]), number(m[2]), number(m[3]))
		}
	}
	if m := dayMonth.FindStringSubmatch(t); m != nil {
		if month, ok := monthOf(m[2]); ok {
			return date(written, century(m[3]), month, number(m[1]))
		}
	}
	if m := monthDay.FindStringSubmatch(t); m != nil {
		if month, ok := monthOf(m[1]); ok {
			return date(written, number(m[3]), month, number(m[2]))
		}
	}
	if m := numeric.FindStringSubmatch(t); m != nil {
		if m[2] == "-" && len(m[4]) == 2 {
			return 0, fmt.Errorf("%q does not say which number is the year; write it with four digits", written)
		}
		return numbers(written, number(m[1]), number(m[3]), century(m[4]), m[2], order)
	}
	return 0, noDate(written)
}

// numbers reads a date of numbers alone: with points the day stands first, else order
// or the numbers themselves must say.
func numbers(written string, a, b, year int, mark string, order Order) (Day, error) {
	if mark == "." {
		return date(written, year, b, a)
	}
	asDay, errDay := date(written, year, b, a)
	asMonth, errMonth := date(written, year, a, b)
	switch {
	case errDay != nil && errMonth != nil:
		return 0, errDay
	case errMonth != nil || errDay == nil && order == DayFirst || asDay == asMonth && errDay == nil:
		return asDay, errDay
	case errDay != nil || order == MonthFirst:
		return asMonth, errMonth
	}
	return 0, &TwoDays{Written: written, DayFirst: asDay, MonthFirst: asMonth}
}

// OrderOf is which number stands first in a date that tells it, such as 20/11/2026;
// Unsaid where it does not.
func OrderOf(text string) Order {
	m := numeric.FindStringSubmatch(strings.TrimSpace(text))
	if m == nil || m[2] == "." {
		return Unsaid
	}
	a, b := number(m[1]), number(m[3])
	switch {
	case a > 12 && b <= 12:
		return DayFirst
	case b > 12 && a <= 12:
		return MonthFirst
	}
	return Unsaid
}

// ParseMoment reads a date, with or without a time of day, in the time zone of now. A
// date alone is the first moment of its day, and today's is now.
func ParseMoment(text string, now time.Time, order Order) (time.Time, error) {
	text = strings.TrimSpace(text)
	if at, err := time.Parse(time.RFC3339, text); err == nil {
		return at.In(now.Location()), CheckYear(at.Year())
	}
	in := now.Location()
	switch strings.ToLower(text) {
	case "now", "today":
		return now, nil
	case "yesterday":
		return (Of(now) - 1).Start(in), nil
	}
	m := clock.FindStringSubmatch(text)
	if m == nil {
		day, err := ParseDay(text, order)
		if err != nil {
			return time.Time{}, err
		}
		if day == Of(now) {
			return now, nil
		}
		return day.Start(in), nil
	}
	day, err := ParseDay(m[1], order)
	if err != nil {
		return time.Time{}, err
	}
	hour, minute, second := number(m[2]), number(m[3]), number(m[4])
	switch {
	case m[5] != "" && (hour < 1 || hour > 12):
		hour = 24
	case strings.EqualFold(m[5], "pm"):
		hour = hour%12 + 12
	case m[5] != "":
		hour %= 12
	}
	if hour > 23 || minute > 59 || second > 59 {
		return time.Time{}, fmt.Errorf("%q has no time of day; write it as 2026-11-20 09:30", text)
	}
	if m[6] != "" {
		zone := strings.ToUpper(m[6])
		if len(zone) == 5 {
			zone = zone[:3] + ":" + zone[3:]
		}
		at, err := time.Parse(time.RFC3339, fmt.Sprintf("%sT%02d:%02d:%02d%s", day, hour, minute, second, zone))
		if err != nil {
			return time.Time{}, noDate(text)
		}
		return at.In(in), nil
	}
	y := day.utc()
	return time.Date(y.Year(), y.Month(), y.Day(), hour, minute, second, 0, in), nil
}

func isoWeekDay(written string, year, week, weekday int) (Day, error) {
	fourth := Date(year, 1, 4) // is always in week 1. Source: ISO 8601-1
	monday := fourth - Day((int(fourth.Weekday())+6)%7)
	day := monday + Day((week-1)*7+weekday-1)
	if y, w := day.utc().ISOWeek(); y != year || w != week {
		return 0, noDate(written)
	}
	return checked(written, day)
}

func date(written string, year, month, day int) (Day, error) {
	d := Date(year, time.Month(month), day)
	if y := d.utc(); y.Year() != year || int(y.Month()) != month || y.Day() != day {
		return 0, noDate(written)
	}
	return checked(written, d)
}

// earliest is the first day that is taken: before it there is nothing to record, and a
// slip of the year is found.
var earliest = Date(1950, 1, 1)

func checked(written string, d Day) (Day, error) {
	if d < earliest {
		return 0, fmt.Errorf("%q is not of our time; write a date such as 2026-11-20", written)
	}
	if err := CheckYear(d.utc().Year()); err != nil {
		return 0, fmt.Errorf("%q: %w", written, err)
	}
	return d, nil
}

// Years of moments and days that are taken.
const (
	earliestYear = 1900
	latestYear   = 2200
)

// CheckYear refuses a year that no printer has seen or will see.
func CheckYear(year int) error {
	if year < earliestYear || year > latestYear {
		return fmt.Errorf("the year %d cannot be right; years run from %d to %d", year, earliestYear, latestYear)
	}
	return nil
}

func noDate(written string) error {
	return fmt.Errorf("%q is not a date; write it as 2026-11-20 or 20 Nov 2026", written)
}

func monthOf(word string) (int, bool) {
	for m := time.January; m <= time.December; m++ {
		name := strings.ToLower(m.String())
		if word == name || word == name[:3] || word == "sept" && m == time.September {
			return int(m), true
		}
	}
	return 0, false
}

func century(year string) int {
	if len(year) == 2 {
		return 2000 + number(year)
	}
	return number(year)
}

func number(digits string) int {
	n, _ := strconv.Atoi(digits) // digits alone, or empty, which is 0
	return n
}
