package civil

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"slices"
	"time"
)

// Zone is the time zone in which a shop keeps its days from a moment on.
type Zone struct {
	From time.Time // zero: from the beginning
	Name string    // as in the tz database, such as Europe/Oslo
}

// CheckZone says what is wrong with a time zone's name.
func CheckZone(name string) error {
	if name == "" || name == "Local" {
		return fmt.Errorf("a time zone is named by a place, such as Europe/Oslo or Australia/Brisbane, or UTC")
	}
	if _, err := time.LoadLocation(name); err != nil {
		return fmt.Errorf(
			"there is no time zone %q; it is named by a place, such as Europe/Oslo or Australia/Brisbane, or UTC",
			name,
		)
	}
	return nil
}

// lastYear is how far daylight saving is worked out.
const lastYear = 2150

// Location is a shop's time through the years: each zone from its moment on, UTC where
// there is none yet. The error is of a zone that does not exist.
func Location(zones []Zone) (*time.Location, error) {
	zones = slices.Clone(zones)
	slices.SortStableFunc(zones, func(a, b Zone) int { return a.From.Compare(b.From) })
	if len(zones) == 0 || !zones[0].From.IsZero() {
		zones = slices.Insert(zones, 0, Zone{Name: "UTC"})
	}
	if len(zones) == 1 {
		return time.LoadLocation(zones[0].Name)
	}
	var all []transition
	for i, z := range zones {
		in, err := time.LoadLocation(z.Name)
		if err != nil {
			return nil, err
		}
		until := time.Date(lastYear, 1, 1, 0, 0, 0, 0, time.UTC)
		if i+1 < len(zones) {
			until = zones[i+1].From
		}
		from := z.From
		if from.IsZero() {
			from = time.Unix(0, 0)
		}
		for t := from.In(in); t.Before(until); {
			name, offset := t.Zone()
			if last := len(all) - 1; last < 0 || all[last].offset != offset || all[last].name != name {
				all = append(all, transition{at: t.Unix(), offset: offset, name: name, daylight: t.IsDST()})
			}
			next, more := nextChange(t)
			if !more {
				break
			}
			t = next
		}
	}
	return time.LoadLocationFromTZData(zones[len(zones)-1].Name, encode(all))
}

// nextChange is when the zone of a moment may change next; false where it never does.
func nextChange(t time.Time) (time.Time, bool) {
	_, next := t.ZoneBounds()
	if next.IsZero() {
		return next, false
	}
	if !next.After(t) {
		next = t.Add(24 * time.Hour) // on the last day of leap years from 2040 on, bounds are told wrong
	}
	return next.In(t.Location()), true
}

// transition is a moment from which a clock shows another time.
type transition struct {
	at       int64 // s since 1970
	offset   int   // s east of Greenwich
	name     string
	daylight bool
}

// encode writes transitions as the time zone information format does. Source: RFC 8536.
func encode(all []transition) []byte {
	type kind struct {
		offset   int
		name     string
		daylight bool
	}
	var kinds []kind
	var names bytes.Buffer
	places := map[string]int{}
	of := make([]byte, len(all))
	for i, t := range all {
		k := kind{t.offset, t.name, t.daylight}
		at := slices.Index(kinds, k)
		if at < 0 {
			at, kinds = len(kinds), append(kinds, k)
			if _, there := places[t.name]; !there {
				places[t.name] = names.Len()
				names.WriteString(t.name + "\x00")
			}
		}
		of[i] = byte(at)
	}
	var out bytes.Buffer
	block := func(times, types, chars int) {
		out.WriteString("TZif2")
		out.Write(make([]byte, 15))
		for _, n := range []int{0, 0, 0, times, types, chars} {
			big(&out, int32(n))
		}
	}
	block(0, 1, 1) // the block for readers of version 1: one type, no transitions
	out.Write([]byte{0, 0, 0, 0, 0, 0, 0})
	block(len(all), len(kinds), names.Len())
	for _, t := range all {
		big(&out, t.at)
	}
	out.Write(of)
	for _, k := range kinds {
		big(&out, int32(k.offset))
		out.WriteByte(map[bool]byte{true: 1}[k.daylight])
		out.WriteByte(byte(places[k.name]))
	}
	names.WriteTo(&out)
	out.WriteString("\n\n") // nothing is said of the time after the last transition
	return out.Bytes()
}

func big(out *bytes.Buffer, n any) { _ = binary.Write(out, binary.BigEndian, n) } // a buffer takes all
