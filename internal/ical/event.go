package ical

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/teambition/rrule-go"

	"wardifex/internal/core/schedule"
)

// Event is something that takes place in a calendar, once or again and again.
type Event struct {
	UID     string
	Summary string
	schedule.Span
	AllDay bool
	// Rule is the value of an RRULE; empty where it takes place once. It repeats by the clock of
	// the place that From is in.
	Rule    string
	Extra   []time.Time // further begins
	Without []time.Time // begins that are left out
	// Instead is the begin of that occurrence of the event of the same UID whose place it takes.
	Instead   time.Time
	Cancelled bool
}

// Bounds of what repeats.
const (
	// MostTimes is how many occurrences of one event are told of at most.
	MostTimes = 5000
	earliest  = 1970
)

// CheckRule refuses a rule that is none, or that repeats within a day: nobody books a machine by
// the minute for ever.
func CheckRule(rule string) error {
	if rule == "" {
		return nil
	}
	_, err := option(rule, time.Now().UTC())
	return err
}

func option(rule string, from time.Time) (*rrule.ROption, error) {
	if len(rule) > 500 || strings.ContainsAny(rule, "\r\n") {
		return nil, errors.New("a rule has at most 500 characters, in one line")
	}
	o, err := rrule.StrToROptionInLocation(strings.TrimPrefix(rule, "RRULE:"), from.Location())
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

// Times are when an event takes place within a window, in their order; more is true where only the first MostTimes
// are told.
func (e Event) Times(within schedule.Span) (out []schedule.Span, more bool, err error) {
	var begins []time.Time
	length := e.Length()
	if e.Rule == "" {
		begins = append(begins, e.From)
	} else if begins, more, err = e.repeated(schedule.Span{From: within.From.Add(-length), To: within.To}); err != nil {
		return nil, false, err
	}
	begins = append(begins, e.Extra...)
	slices.SortFunc(begins, time.Time.Compare)
	for i, from := range begins {
		span := schedule.Span{From: from, To: from.Add(length)}
		if e.AllDay {
			span.To = from.AddDate(0, 0, int(length.Hours()/24+0.5))
		}
		left := slices.ContainsFunc(e.Without, from.Equal)
		if !left && span.Overlaps(within) && (i == 0 || !from.Equal(begins[i-1])) {
			out = append(out, span)
		}
	}
	return out, more, nil
}

// repeated are the begins of a rule within a window. The rule is cut at its end, so that one
// without an end, or without any day that it means, comes to its end.
func (e Event) repeated(within schedule.Span) (out []time.Time, more bool, err error) {
	if e.From.Year() < earliest {
		return nil, false, fmt.Errorf("it begins before %d", earliest)
	}
	o, err := option(e.Rule, e.From)
	if err != nil || !e.From.Before(within.To) {
		return nil, false, err
	}
	if o.Until.IsZero() || o.Until.After(within.To) {
		o.Until = within.To
	}
	r, err := rrule.NewRRule(*o)
	if err != nil {
		return nil, false, err
	}
	next := r.Iterator()
	for at, ok := next(); ok; at, ok = next() {
		if at.Before(within.From) {
			continue
		}
		if len(out) == MostTimes {
			return out, true, nil
		}
		out = append(out, at)
	}
	return out, false, nil
}

// Occurrence is one time at which an event takes place.
type Occurrence struct {
	Event
	At schedule.Span
}

// Expand tells when events take place within a window: an event that stands instead of an
// occurrence of another takes its place, and what is cancelled does not take place.
func Expand(events []Event, within schedule.Span) ([]Occurrence, []Skipped) {
	var out []Occurrence
	var problems []Skipped
	instead := map[string][]time.Time{}
	for _, e := range events {
		if !e.Instead.IsZero() {
			instead[e.UID] = append(instead[e.UID], e.Instead)
		}
	}
	for _, e := range events {
		if e.Cancelled {
			continue
		}
		if e.Instead.IsZero() {
			e.Without = append(slices.Clone(e.Without), instead[e.UID]...)
		}
		times, more, err := e.Times(within)
		if err != nil {
			problems = append(problems, Skipped{Says: fmt.Sprintf("%s: %v", e.Summary, err)})
			continue
		}
		if more {
			problems = append(problems, Skipped{Says: fmt.Sprintf("%s repeats more than %d times; the rest is left out",
				e.Summary, MostTimes)})
		}
		for _, at := range times {
			out = append(out, Occurrence{e, at})
		}
	}
	slices.SortStableFunc(out, func(a, b Occurrence) int { return a.At.From.Compare(b.At.From) })
	return out, problems
}
