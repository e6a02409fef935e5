package ical

import (
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/teambition/rrule-go"

	"wardifex/internal/core/recovered"
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

// Times are when an event takes place within a window, in their order; more is true where only the first MostTimes
// are told.
func (e Event) Times(within schedule.Span) (out []schedule.Span, more bool, err error) {
	left := mostSteps
	return e.times(within, &left)
}

// times is Times within so many steps that are left, which it counts down.
func (e Event) times(within schedule.Span, left *int) (out []schedule.Span, more bool, err error) {
	var begins []time.Time
	length := e.Length()
	if e.Rule == "" {
		begins = append(begins, e.From)
	} else {
		begins, more, err = e.repeated(schedule.Span{From: within.From.Add(-length), To: within.To}, left)
	}
	if err != nil {
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
func (e Event) repeated(within schedule.Span, left *int) (out []time.Time, more bool, err error) {
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
	nearer(o, within.From)
	if *left -= steps(o, o.Until); *left < 0 {
		return nil, false, errors.New("the calendar repeats for too long to be worked out; " +
			"let this event begin later")
	}
	err = recovered.From(func() error {
		r, err := rrule.NewRRule(*o)
		if err != nil {
			return err
		}
		next := r.Iterator()
		for at, ok := next(); ok; at, ok = next() {
			if at.Before(within.From) {
				continue
			}
			if more = len(out) == MostTimes; more {
				return nil
			}
			out = append(out, at)
		}
		return nil
	})
	if _, broke := errors.AsType[*recovered.Panic](err); broke {
		return nil, false, errors.New("how it repeats cannot be worked out")
	}
	return out, more, err
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
	left := mostSteps
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
		times, more, err := e.times(within, &left)
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
