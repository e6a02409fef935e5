package maintenance

import (
	"fmt"
	"math"
	"sort"
	"strings"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/machine"
)

// State of a task on a machine.
type State string

const (
	Unproven State = "not proven" // thermal protection; outranks everything
	Overdue  State = "overdue"
	Soon     State = "soon"
	Later    State = "later"
	NoMeter  State = "meter unknown"
)

// soonDays is how far ahead a task counts as soon.
const soonDays = 14

// Done is one time a task was done.
type Done struct {
	Task string
	At   time.Time
}

// Subject is a machine with all that its upkeep rests on.
type Subject struct {
	Since      time.Time // when counting began: the machine's entry in the register
	Facts      machine.Snapshot
	Meters     []Meter
	Done       []Done
	Protection calibration.ProtectionState
}

// Due is one task of one machine: what is used up, and when it comes round.
type Due struct {
	Task     string     `json:"task"`
	Title    string     `json:"title"`
	State    State      `json:"state"`
	DueOn    *time.Time `json:"dueOn,omitempty" doc:"Forecast date; in the past when overdue"`
	By       string     `json:"by" doc:"hours or days: which of the two comes first"`
	Share    float64    `json:"share" doc:"Part of the interval used up; 1 and more is overdue"`
	Account  string     `json:"account" doc:"The sum with its numbers"`
	LastDone *time.Time `json:"lastDone,omitempty"`
	Why      string     `json:"why,omitempty" doc:"Why the interval is not the usual one, or why protection is not proven"`
}

// DueList works out every task of a machine, most urgent first.
func DueList(s Subject, now time.Time) []Due {
	life := NewLife(s.Meters)
	var out []Due
	for _, t := range Tasks() {
		if d, ok := dueOf(t, s, life, now); ok {
			out = append(out, d)
		}
	}
	sort.SliceStable(out, func(i, j int) bool { return MoreUrgent(out[i], out[j]) })
	return out
}

// MoreUrgent orders due tasks: unproven protection first, then by forecast
// date, then those whose date cannot be told.
func MoreUrgent(a, b Due) bool {
	if (a.State == Unproven) != (b.State == Unproven) {
		return a.State == Unproven
	}
	switch {
	case a.DueOn == nil || b.DueOn == nil:
		return a.DueOn != nil && b.DueOn == nil
	case !a.DueOn.Equal(*b.DueOn):
		return a.DueOn.Before(*b.DueOn)
	}
	return a.Share > b.Share
}

func dueOf(t Task, s Subject, life Life, now time.Time) (Due, bool) {
	hours, days, why, applies := t.Interval(s.Facts)
	if !applies {
		return Due{}, false
	}
	d := Due{Task: t.Key, Title: t.Title, Why: why}
	from := s.Since
	for i := range s.Done {
		if s.Done[i].Task == t.Key && (d.LastDone == nil || s.Done[i].At.After(*d.LastDone)) {
			at := s.Done[i].At
			d.LastDone, from = &at, at
		}
	}
	var sums []string
	if hours > 0 && life.Known() {
		used := life.At(now) - life.At(from)
		left := hours - used
		sum := fmt.Sprintf("%.0f of %g h used", used, hours)
		rate, ok := life.Rate()
		switch {
		case left <= 0:
			d.consider(now.Add(-daysOf(-left/math.Max(rate, 0.01))), "hours", used/hours)
		case ok && rate > 0:
			d.consider(now.Add(daysOf(left/rate)), "hours", used/hours)
			sum += fmt.Sprintf(", %.0f h left at %.1f h a day", left, rate)
		default:
			d.Share = used / hours
			sum += ", rate of use unknown"
		}
		sums = append(sums, sum)
	} else if hours > 0 {
		sums = append(sums, fmt.Sprintf("every %g h; no meter reading yet", hours))
	}
	if days > 0 {
		used := now.Sub(from).Hours() / 24
		d.consider(from.AddDate(0, 0, days), "days", used/float64(days))
		sums = append(sums, fmt.Sprintf("%.0f of %d days gone", used, days))
	}
	d.Account = strings.Join(sums, "; ")
	switch {
	case t.Key == ProtectionTask && !s.Protection.Proven:
		d.State, d.Why = Unproven, s.Protection.Why
	case d.DueOn == nil:
		d.State = NoMeter
	case !d.DueOn.After(now):
		d.State = Overdue
	case d.DueOn.Before(now.AddDate(0, 0, soonDays)):
		d.State = Soon
	default:
		d.State = Later
	}
	return d, true
}

// longest bounds a forecast: beyond ten years it says nothing.
const longest = 3650

func daysOf(days float64) time.Duration {
	return time.Duration(math.Min(days, longest) * 24 * float64(time.Hour))
}

func (d *Due) consider(on time.Time, by string, share float64) {
	if d.DueOn == nil || on.Before(*d.DueOn) {
		d.DueOn, d.By, d.Share = &on, by, share
	}
}
