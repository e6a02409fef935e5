package ical

import (
	"io"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"
)

// ContentType is what a calendar is sent as. Source: RFC 5545, 8.1.
const ContentType = "text/calendar; charset=utf-8"

const (
	utcForm   = "20060102T150405Z"
	localForm = "20060102T150405"
	dayForm   = "20060102"
)

// Write writes a calendar of a name, as of a moment.
func Write(w io.Writer, name string, events []Event, now time.Time) error {
	calendar := ics.NewCalendar()
	calendar.SetProductId("-//Wardifex//EN")
	calendar.SetXWRCalName(name)
	calendar.SetMethod(ics.MethodPublish)
	for _, e := range events {
		v := calendar.AddEvent(e.UID)
		v.SetDtStampTime(now)
		v.SetSummary(e.Summary)
		set(v, ics.ComponentPropertyDtStart, e.From, e)
		set(v, ics.ComponentPropertyDtEnd, e.To, e)
		if e.Rule != "" {
			v.SetProperty(ics.ComponentPropertyRrule, strings.TrimPrefix(e.Rule, "RRULE:"))
		}
		for _, at := range e.Without {
			add(v, ics.ComponentPropertyExdate, at, e)
		}
		for _, at := range e.Extra {
			add(v, ics.ComponentPropertyRdate, at, e)
		}
		if !e.Instead.IsZero() {
			set(v, ics.ComponentPropertyRecurrenceId, e.Instead, e)
		}
		if e.Cancelled {
			v.SetStatus(ics.ObjectStatusCancelled)
		}
	}
	return calendar.SerializeTo(w, ics.WithNewLineWindows)
}

// What repeats does so by the clock of its place, which is named then; what does not is in UTC.
func form(at time.Time, e Event) (string, []ics.PropertyParameter) {
	switch {
	case e.AllDay:
		return at.Format(dayForm), []ics.PropertyParameter{ics.WithValue("DATE")}
	case e.Rule != "" && at.Location() != time.UTC && at.Location().String() != "":
		return at.In(e.From.Location()).Format(localForm), []ics.PropertyParameter{ics.WithTZID(e.From.Location().String())}
	}
	return at.UTC().Format(utcForm), nil
}

func set(v *ics.VEvent, name ics.ComponentProperty, at time.Time, e Event) {
	value, with := form(at, e)
	v.SetProperty(name, value, with...)
}

func add(v *ics.VEvent, name ics.ComponentProperty, at time.Time, e Event) {
	value, with := form(at, e)
	v.AddProperty(name, value, with...)
}
