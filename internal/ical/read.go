package ical

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"
)

// Bounds of a calendar that is read.
const (
	MostBytes  = 4 << 20
	mostEvents = 5000
	longest    = 300 // characters of a summary
)

// Skipped is what cannot be taken of a calendar.
type Skipped struct {
	Line int    `json:"line" doc:"Counted from 1; 0 where it is of the whole file"`
	Says string `json:"says"`
}

// Read reads the events of a calendar. Times without a zone are on the shop's clock. An event that
// is broken is told of, and the others are read.
func Read(r io.Reader, shop *time.Location) ([]Event, []Skipped, error) {
	text, err := io.ReadAll(io.LimitReader(r, MostBytes+1))
	switch {
	case err != nil:
		return nil, nil, err
	case len(text) > MostBytes:
		return nil, nil, fmt.Errorf("a calendar has at most %d MB", MostBytes>>20)
	}
	blocks, problems, err := split(text)
	if err != nil {
		return nil, nil, err
	}
	var out []Event
	for _, b := range blocks {
		e, err := b.event(shop)
		if err != nil {
			problems = append(problems, Skipped{b.line, err.Error()})
			continue
		}
		out = append(out, e)
	}
	return out, problems, nil
}

// block is the text of one event, and the line that it begins with.
type block struct {
	line    int
	text    []byte
	name    int  // characters of the name of the line that is added, so far
	named   bool // its name has ended
	quoted  bool
	endless bool // one of its lines has a name that does not end
}

// mostName is how long the name of a line may be, with its parameters: what is before its colon.
const mostName = 2000

// add adds a line of text. One whose name does not end is left out with all that goes on with it: what follows would
// be read once for each of its parameters.
func (b *block) add(line string) {
	if goesOn := strings.HasPrefix(line, " ") || strings.HasPrefix(line, "\t"); !goesOn {
		b.name, b.named, b.quoted = 0, false, false
	}
	for i := 0; i < len(line) && !b.named && b.name <= mostName; i++ {
		b.name++
		switch c := line[i]; {
		case c == '"':
			b.quoted = !b.quoted
		case c == ':' && !b.quoted:
			b.named = true
		}
	}
	if b.name > mostName {
		b.endless = true
		return
	}
	b.text = append(append(b.text, line...), "\r\n"...)
}

// split finds the events of a calendar, so that a broken one spoils no other.
func split(text []byte) (out []block, problems []Skipped, err error) {
	lines := bufio.NewScanner(bytes.NewReader(bytes.TrimPrefix(text, []byte("\xef\xbb\xbf"))))
	lines.Buffer(nil, MostBytes)
	var open *block
	calendar := false
	for n := 1; lines.Scan(); n++ {
		line := strings.TrimRight(lines.Text(), "\r")
		switch word := strings.ToUpper(strings.TrimSpace(line)); {
		case word == "BEGIN:VCALENDAR":
			calendar = true
		case word == "BEGIN:VEVENT":
			if open != nil {
				problems = append(problems, Skipped{open.line, "this event does not end before the next begins"})
			}
			open = &block{line: n}
		case word == "END:VEVENT" && open != nil:
			if len(out) == mostEvents {
				return nil, nil, fmt.Errorf("a calendar has at most %d events", mostEvents)
			}
			out, open = append(out, *open), nil
		case open != nil:
			open.add(line)
		}
	}
	if open != nil {
		problems = append(problems, Skipped{open.line, "this event does not end"})
	}
	if !calendar {
		return nil, nil, errors.New("this is no calendar: it does not begin with BEGIN:VCALENDAR")
	}
	return out, problems, lines.Err()
}

func (b block) event(shop *time.Location) (e Event, err error) {
	defer func() {
		if recover() != nil { // the library's, on what no calendar should hold
			err = errors.New("this event cannot be read")
		}
	}()
	if b.endless {
		return e, fmt.Errorf("this event has a line with more than %d characters before its value", mostName)
	}
	whole := "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\n" + string(b.text) + "END:VEVENT\r\nEND:VCALENDAR\r\n"
	calendar, err := ics.ParseCalendar(strings.NewReader(whole))
	if err != nil || len(calendar.Events()) != 1 {
		return e, errors.New("this event has a line that is no NAME:VALUE")
	}
	v := calendar.Events()[0]
	e = Event{UID: v.Id(), Summary: text(v, ics.ComponentPropertySummary)}
	if status := v.GetProperty(ics.ComponentPropertyStatus); status != nil {
		e.Cancelled = strings.EqualFold(status.Value, "CANCELLED")
	}
	begins := v.GetProperty(ics.ComponentPropertyDtStart)
	if begins == nil {
		return e, errors.New("this event does not say when it begins (DTSTART)")
	}
	if e.From, e.AllDay, err = moment(begins, shop); err != nil {
		return e, err
	}
	if e.To, err = end(v, e, shop); err != nil {
		return e, err
	}
	if !e.From.Before(e.To) {
		return e, errors.New("this event ends before it begins")
	}
	if rule := v.GetProperty(ics.ComponentPropertyRrule); rule != nil {
		e.Rule = rule.Value
		if err := CheckRule(e.Rule); err != nil {
			return e, err
		}
	}
	if e.Extra, err = moments(v, ics.ComponentPropertyRdate, shop); err != nil {
		return e, err
	}
	if e.Without, err = moments(v, ics.ComponentPropertyExdate, shop); err != nil {
		return e, err
	}
	if of := v.GetProperty(ics.ComponentPropertyRecurrenceId); of != nil {
		e.Instead, _, err = moment(of, shop)
	}
	return e, err
}

// text is a value as plain text of one line.
func text(v *ics.VEvent, name ics.ComponentProperty) string {
	p := v.GetProperty(name)
	if p == nil {
		return ""
	}
	plain := strings.Join(strings.FieldsFunc(ics.FromText(p.Value), func(r rune) bool { return r < ' ' || r == 0x7f }),
		" ")
	if runes := []rune(plain); len(runes) > longest {
		plain = string(runes[:longest])
	}
	return strings.TrimSpace(strings.ToValidUTF8(plain, "\ufffd"))
}

func end(v *ics.VEvent, e Event, shop *time.Location) (time.Time, error) {
	if p := v.GetProperty(ics.ComponentPropertyDtEnd); p != nil {
		at, _, err := moment(p, shop)
		return at, err
	}
	if p := v.GetProperty(ics.ComponentPropertyDuration); p != nil {
		return lasting(p.Value, e.From)
	}
	if e.AllDay {
		return e.From.AddDate(0, 0, 1), nil
	}
	return e.From, errors.New("this event does not say when it ends (DTEND or DURATION)")
}

// lasting is the moment after a duration, such as P1DT2H30M or P2W. A day is one of the calendar.
// Source: RFC 5545, 3.3.6.
func lasting(written string, from time.Time) (time.Time, error) {
	bad := fmt.Errorf("%q is no duration such as PT90M", written)
	rest, found := strings.CutPrefix(strings.TrimPrefix(strings.ToUpper(written), "+"), "P")
	if !found {
		return from, bad
	}
	units := "WDTHMS"
	days, clock, n, digits := 0, time.Duration(0), 0, 0
	inTime := false
	for _, r := range rest {
		switch {
		case r >= '0' && r <= '9' && digits < 6:
			n, digits = 10*n+int(r-'0'), digits+1
			continue
		case r == 'T' && digits == 0 && !inTime:
			inTime = true
			continue
		case digits == 0 || !strings.ContainsRune(units, r) || inTime == (r == 'W' || r == 'D'):
			return from, bad
		}
		switch r {
		case 'W':
			days += 7 * n
		case 'D':
			days += n
		case 'H':
			clock += time.Duration(n) * time.Hour
		case 'M':
			clock += time.Duration(n) * time.Minute
		case 'S':
			clock += time.Duration(n) * time.Second
		}
		n, digits = 0, 0
	}
	if digits > 0 || days == 0 && clock == 0 {
		return from, bad
	}
	return from.AddDate(0, 0, days).Add(clock), nil
}

// moment is a value of date and time: in the zone that it names, in UTC with a Z, else on the
// shop's clock. A date alone is its first moment there.
func moment(p *ics.IANAProperty, shop *time.Location) (at time.Time, allDay bool, err error) {
	return momentOf(p.Value, p.ICalParameters, shop)
}

func momentOf(value string, with map[string][]string, shop *time.Location) (at time.Time, allDay bool, err error) {
	in := shop
	if zone := with["TZID"]; len(zone) == 1 && zone[0] != "" && !strings.HasSuffix(value, "Z") {
		in, err = time.LoadLocation(strings.Trim(zone[0], `"/`))
		if err != nil || strings.EqualFold(zone[0], "local") {
			return at, false, fmt.Errorf("its time zone %q is not known; name one such as Europe/Oslo", zone[0])
		}
	}
	for _, form := range []struct {
		layout string
		in     *time.Location
		allDay bool
	}{{"20060102T150405Z", time.UTC, false}, {"20060102T150405", in, false}, {"20060102", in, true}} {
		if at, err = time.ParseInLocation(form.layout, value, form.in); err == nil {
			if at.Year() < earliest || at.Year() > 9000 {
				return at, form.allDay, fmt.Errorf("%q lies before %d or far off", value, earliest)
			}
			return at, form.allDay, nil
		}
	}
	return at, false, fmt.Errorf("%q is no time such as 20261127T093000", value)
}

func moments(v *ics.VEvent, name ics.ComponentProperty, shop *time.Location) ([]time.Time, error) {
	var out []time.Time
	for _, p := range v.GetProperties(name) {
		for value := range strings.SplitSeq(p.Value, ",") {
			first, _, _ := strings.Cut(value, "/") // of a period its begin
			at, _, err := momentOf(strings.TrimSpace(first), p.ICalParameters, shop)
			if err != nil {
				return nil, err
			}
			out = append(out, at)
		}
	}
	if len(out) > MostTimes {
		return nil, fmt.Errorf("this event names more than %d times", MostTimes)
	}
	return slices.Clip(out), nil
}
