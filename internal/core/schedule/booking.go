package schedule

import (
	"errors"
	"fmt"
	"strings"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/maintenance"
)

// Booking is a stretch of time for which somebody has a machine.
type Booking struct {
	ID      int64
	Machine int64
	Account int64  // 0 of one that came from another calendar
	Who     string // as shown
	What    string // what they print
	Span
	Attended bool // they stay with the machine
}

// Bounds of one booking. Source: from memory.
const (
	longestBooking = 14 * 24 * time.Hour
	farthestBegin  = 366 * 24 * time.Hour
)

// Asked is a booking that somebody asks for.
type Asked struct {
	Span
	Attended bool
}

// Safety is work on which the safety of a machine depends, and by when it is due.
type Safety struct {
	Key  string // of its task
	Task string // its title
	On   civil.Day
	// Unproven says that without it nobody may leave the machine, which can be used attended.
	Unproven bool
}

// Ground is what a booking of a machine is judged on.
type Ground struct {
	maintenance.Readiness
	Safety []Safety
	Taken  []Booking // others that have it
	Work   []Work    // that is planned on it
	Open   Spans     // opening hours around the booking
	Told   bool      // the shop has told its hours
}

// Work is work that is planned on a machine.
type Work struct {
	Span
	What string
}

// Check refuses a booking for what it is by itself, whatever the machine.
func (a Asked) Check(now time.Time) error {
	switch {
	case !a.From.Before(a.To):
		return errors.New("a booking ends after it begins")
	case a.Length() > longestBooking:
		return fmt.Errorf("a booking is at most %d days long; this one is %.0f",
			int(longestBooking.Hours()/24), a.Length().Hours()/24)
	case a.To.Before(now):
		return errors.New("this time has passed: choose a later one")
	case a.From.Sub(now) > farthestBegin:
		return errors.New("a booking begins within a year")
	}
	return nil
}

// Refusals are why a machine cannot be booked so: none where it can. Each is a sentence without
// its full stop, the gravest first.
func (a Asked) Refusals(g Ground) []string {
	var out []string
	say := func(format string, with ...any) { out = append(out, fmt.Sprintf(format, with...)) }
	switch state, why := g.Available(); {
	case state == maintenance.TakenOut && why == "":
		say("it is out of use")
	case state == maintenance.TakenOut:
		say("it is out of use: %s", why)
	case state == maintenance.LockedOut || state == maintenance.KnownBroken:
		say("%s", why)
	case state == maintenance.AttendedOnly && !a.Attended:
		say("it is not left alone: %s", why)
	}
	end := civil.Of(a.To)
	for _, s := range g.Safety {
		switch {
		case s.On > end || s.Unproven && (a.Attended || !g.Proven):
		case s.Unproven:
			say("its protection is to be proven again by %s, and without that nobody leaves it alone", s.On.Show())
		default:
			say("safety work is due on it by %s: %s", s.On.Show(), s.Task)
		}
	}
	for _, b := range g.Taken {
		if a.Overlaps(b.Span) {
			say("%s has it from %s", b.Who, words(b.Span))
		}
	}
	for _, w := range g.Work {
		if a.Overlaps(w.Span) {
			say("work is planned on it from %s: %s", words(w.Span), w.What)
		}
	}
	switch {
	case !g.Told:
	case !g.Open.At(a.From):
		say("the shop is closed when it begins")
	case a.Attended && !g.Open.Cover(a.Span):
		say("the shop closes before it ends, and nobody stays then")
	}
	return out
}

// NextFree is the next full hour after a booking's begin at which it could be had, up to an end; ok is false where none
// is.
func (a Asked) NextFree(g Ground, until time.Time) (Span, bool) {
	length := a.Length()
	for from := a.From.Truncate(time.Hour).Add(time.Hour); from.Add(length).Before(until); from = from.Add(time.Hour) {
		at := Asked{Span{from, from.Add(length)}, a.Attended}
		if len(at.Refusals(g)) == 0 {
			return at.Span, true
		}
	}
	return Span{}, false
}

// Clash is why a booking cannot take place as it stands, empty where it can: another that began before overlaps it,
// which only a calendar from outside brings about, or its machine cannot be used so any more.
func (b Booking) Clash(before *Booking, r maintenance.Readiness) string {
	if before != nil && before.Overlaps(b.Span) {
		return "overlaps that of " + before.Who
	}
	state, why := r.Available()
	switch {
	case state == maintenance.AttendedOnly && !b.Attended:
		return "not left alone: " + why
	case !state.Usable():
		return strings.TrimSuffix(string(state)+": "+why, ": ")
	}
	return ""
}

// SafetyWork is the work of a machine on which people's safety depends and that has a date, by its due list.
func SafetyWork(due []maintenance.Due, tasks []maintenance.Task) []Safety {
	var out []Safety
	for _, d := range due {
		if task, known := maintenance.Find(tasks, d.Task); known && d.On != nil && task.Risk.Safety() {
			out = append(out, Safety{Key: d.Task, Task: d.Title, On: *d.On, Unproven: d.Task == maintenance.ProtectionTask})
		}
	}
	return out
}

func words(s Span) string {
	const minute = "2 Jan 15:04"
	if civil.Of(s.From) == civil.Of(s.To) {
		return s.From.Format(minute) + " to " + s.To.Format("15:04")
	}
	return s.From.Format(minute) + " to " + s.To.Format(minute)
}
