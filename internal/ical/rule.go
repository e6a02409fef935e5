package ical

import (
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/teambition/rrule-go"

	"wardifex/internal/core/recovered"
)

// Bounds of rules.
const (
	// MostTimes is how many occurrences of one event are told of at most.
	MostTimes = 5000
	earliest  = 1970
	// mostSteps is how many steps are taken for one calendar; see stepsOf.
	mostSteps = 2_000_000
)

// CheckRule refuses a rule that is none, that means no day by RFC 5545, or that repeats within a day: nobody books a
// machine by the minute for ever.
func CheckRule(rule string) error {
	if rule == "" {
		return nil
	}
	o, err := option(rule, time.Now().UTC())
	if err != nil {
		return err
	}
	return meansDays(o)
}

// option reads a rule; what the library cannot bear is an error.
func option(rule string, from time.Time) (o *rrule.ROption, err error) {
	if len(rule) > 500 || strings.ContainsAny(rule, "\r\n") {
		return nil, errors.New("a rule has at most 500 characters, in one line")
	}
	err = recovered.From(func() (err error) {
		o, err = rrule.StrToROptionInLocation(strings.TrimPrefix(rule, "RRULE:"), from.Location())
		return err
	})
	if _, broke := errors.AsType[*recovered.Panic](err); broke {
		return nil, errors.New("how it repeats cannot be read: write such as FREQ=WEEKLY;BYDAY=TU")
	}
	if err != nil {
		return nil, fmt.Errorf("how it repeats cannot be read (%w): write such as FREQ=WEEKLY;BYDAY=TU", err)
	}
	if o.Freq > rrule.DAILY || len(o.Byhour) > 1 || len(o.Byminute) > 1 || len(o.Bysecond) > 1 {
		return nil, errors.New("it repeats more than once a day; that is not taken")
	}
	if o.Interval < 0 || o.Interval > 1000 {
		return nil, errors.New("it repeats every 1 to 1000 days, weeks, months or years")
	}
	o.Dtstart = from
	if _, err := rrule.NewRRule(*o); err != nil {
		return nil, fmt.Errorf("how it repeats contradicts itself: %w", err)
	}
	return o, nil
}

// meansDays refuses what no rule may say. Source: RFC 5545, 3.3.10, and for the fifth weekday of a month its longest.
func meansDays(o *rrule.ROption) error {
	most := 0 // of a weekday within what it is counted in
	switch {
	case o.Freq == rrule.MONTHLY, o.Freq == rrule.YEARLY && len(o.Bymonth) > 0:
		most = 5
	case o.Freq == rrule.YEARLY && len(o.Byweekno) == 0:
		most = 53
	}
	for _, day := range o.Byweekday {
		if n := day.N(); n > most || n < -most {
			if most == 0 {
				return errors.New("a numbered weekday needs a month or a year, for example FREQ=MONTHLY;BYDAY=2TU")
			}
			return fmt.Errorf("a month or year has no weekday number %d; use -1 for the last one", n)
		}
	}
	switch {
	case len(o.Byweekno) > 0 && o.Freq != rrule.YEARLY:
		return errors.New("BYWEEKNO needs FREQ=YEARLY")
	case len(o.Byyearday) > 0 && o.Freq != rrule.YEARLY:
		return errors.New("BYYEARDAY needs FREQ=YEARLY")
	case len(o.Bymonthday) > 0 && o.Freq == rrule.WEEKLY:
		return errors.New("BYMONTHDAY can't go with FREQ=WEEKLY; use FREQ=MONTHLY")
	case len(o.Byeaster) > 0:
		return errors.New("rules for Easter are not supported; enter the dates")
	}
	return nil
}

// stepsOf is how many steps one period of a rule takes where no day in it is meant. Source: measured, in microseconds;
// a period in which a day is meant takes a tenth of it or less.
var stepsOf = map[rrule.Frequency]int{rrule.DAILY: 10, rrule.WEEKLY: 30, rrule.MONTHLY: 50, rrule.YEARLY: 1000}

// steps is how many steps a rule takes until a moment, at most: one that means no day at all is looked for until then.
func steps(o *rrule.ROption, until time.Time) int {
	days := max(0, int(until.Sub(o.Dtstart).Hours()/24))
	periods := days/(periodOf[o.Freq]*max(o.Interval, 1)) + 1
	always := len(o.Bysetpos)+len(o.Bymonth)+len(o.Bymonthday)+len(o.Byyearday)+len(o.Byweekno) == 0 &&
		(len(o.Byweekday) == 0 || o.Freq == rrule.WEEKLY)
	if always && o.Count > 0 {
		periods = min(periods, o.Count) // each of them means a day
	}
	return periods * stepsOf[o.Freq]
}

// periodOf is how many days a period has at least.
var periodOf = map[rrule.Frequency]int{rrule.DAILY: 1, rrule.WEEKLY: 7, rrule.MONTHLY: 28, rrule.YEARLY: 365}

// nearer moves the begin of a rule on to shortly before a moment: it means the same days from there on, and a course
// that has been held for forty years is not counted from its first day.
func nearer(o *rrule.ROption, from time.Time) {
	if o.Count > 0 {
		return
	}
	n := max(o.Interval, 1)
	each := periodOf[o.Freq] * n
	if o.Freq == rrule.MONTHLY || o.Freq == rrule.YEARLY {
		each += 4 * n // months and years are longer than the shortest
	}
	for periods := int(from.Sub(o.Dtstart).Hours()/24)/each - 2; periods > 0; periods-- {
		at := o.Dtstart
		switch by := periods * n; o.Freq {
		case rrule.DAILY:
			at = at.AddDate(0, 0, by)
		case rrule.WEEKLY:
			at = at.AddDate(0, 0, 7*by)
		case rrule.MONTHLY:
			at = at.AddDate(0, by, 0)
		default:
			at = at.AddDate(by, 0, 0)
		}
		// A month without that day, or a day without that time, is none to begin with: what follows would be at another.
		sameDay := at.Day() == o.Dtstart.Day() || o.Freq == rrule.DAILY || o.Freq == rrule.WEEKLY
		if sameDay && at.Hour() == o.Dtstart.Hour() && at.Minute() == o.Dtstart.Minute() {
			o.Dtstart = at
			return
		}
	}
}
