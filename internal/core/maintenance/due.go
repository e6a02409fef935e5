package maintenance

import (
	"fmt"
	"slices"
	"sort"
	"strings"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine"
)

// State of a task on a machine.
type State string

const (
	Unproven     State = "not proven" // thermal protection; outranks everything
	Overdue      State = "overdue"
	Soon         State = "soon"
	Later        State = "later"
	ReadMeter    State = "read the meter" // only then can a date be told
	StandsStill  State = "stands still"   // not used: no date in sight
	StartUnknown State = "start unknown"  // never recorded, and nothing tells when it was done last
)

// states are all of them, the most urgent first.
var states = []State{Unproven, Overdue, Soon, Later, ReadMeter, StandsStill, StartUnknown}

// soonDays is how far ahead a task counts as soon.
const soonDays = 14

// oldestMeter is after how many days a meter tells no date any more, where its rate of
// use does not say so earlier. Source: from memory.
const oldestMeter = 183

// Done is one time a task was done.
type Done struct {
	Task string
	At   time.Time
}

// Subject is a machine with all that its maintenance depends on.
type Subject struct {
	Since      time.Time // the machine's entry in the register
	Facts      machine.Snapshot
	Meters     []Meter
	Done       []Done
	Happened   []Happened // oldest first
	Protection calibration.ProtectionState
	// Tasks are those of the shop; none: those that ship.
	Tasks []Task
	// Parts are those fitted, by position, as far as they have a life of their own; one
	// that is not here counts as there since the machine's entry, with an earlier life
	// that is unknown.
	Parts map[string]Part
}

// Due is one task of one machine: what is used up, and when it comes round.
type Due struct {
	Task  string     `json:"task"`
	Title string     `json:"title"`
	State State      `json:"state"`
	On    *civil.Day `json:"on,omitempty" doc:"When the limit is, or was, reached"`
	// From and To are the ends of an 80 % range, where the date is a forecast.
	From  *civil.Day `json:"from,omitempty"`
	To    *civil.Day `json:"to,omitempty" doc:"Empty beside from: not in sight"`
	Words string     `json:"words" doc:"How late, or in how many days: 49 days late"`
	By    string     `json:"by,omitempty" doc:"Which of its limits comes first: hours, filament, prints, days or event"`
	Share float64    `json:"share" doc:"Part of the interval used up; 1 and more is overdue"`
	Used  string     `json:"used" doc:"Used / limit: at least 512 / 300 h"`
	Rests string     `json:"rests,omitempty" doc:"What the date depends on: the meter and its age, the rate of use"`
	// LastDone is when the task was recorded last.
	LastDone *civil.Day `json:"lastDone,omitempty"`
	Why      string     `json:"why,omitempty" doc:"Why the interval is not the usual one, or why protection is not proven"`
}

// DueList works out every task of a machine, most urgent first.
func DueList(s Subject, now time.Time) []Due {
	lives := NewLives(s.Meters)
	if s.Tasks == nil {
		s.Tasks = Shipped()
	}
	var out []Due
	for _, t := range s.Tasks {
		if t.Off {
			continue
		}
		if d, ok := dueOf(t, s, lives, now); ok {
			out = append(out, d)
		}
	}
	sort.SliceStable(out, func(i, j int) bool { return MoreUrgent(out[i], out[j]) })
	return out
}

// MoreUrgent orders due tasks: unproven protection first, then by date, then those whose
// date cannot be told.
func MoreUrgent(a, b Due) bool {
	if (a.State == Unproven) != (b.State == Unproven) {
		return a.State == Unproven
	}
	switch {
	case a.On == nil && b.On == nil && a.State != b.State:
		return slices.Index(states, a.State) < slices.Index(states, b.State)
	case a.On == nil && b.On == nil:
		return a.Share > b.Share
	case a.On == nil || b.On == nil:
		return b.On == nil
	case *a.On != *b.On:
		return *a.On < *b.On
	}
	return a.Share > b.Share
}

// dueOf is a task of a machine: of the part where it comes round first.
func dueOf(t Task, s Subject, lives Lives, now time.Time) (Due, bool) {
	var out Due
	any := false
	fitted := t.fitted(s.Facts)
	for _, p := range fitted {
		limits, why, applies := t.Interval(s.Facts, p)
		if !applies {
			continue
		}
		part, known := s.Parts[p.Key]
		if !known {
			part = Part{Stays: []Installation{{From: s.Since, Lives: lives, Done: s.Done}}}
		}
		d := t.due(part, limits, s.Happened, now)
		if d.Why = why; len(fitted) > 1 {
			d.Why = join(p.Label, why)
		}
		if !any || MoreUrgent(d, out) {
			out, any = d, true
		}
	}
	if any && t.Key == ProtectionTask && !s.Protection.Proven {
		out = Due{
			Task:     t.Key,
			Title:    t.Title,
			LastDone: out.LastDone,
			State:    Unproven,
			Words:    "test now: " + s.Protection.Why,
			Used:     out.Used,
			Why:      s.Protection.Why,
		}
	}
	return out, any
}

// due is when the task comes round for a part: by the limit, or the event, that comes first.
func (t Task) due(p Part, limits Limits, happened []Happened, now time.Time) Due {
	today := civil.Of(now)
	base := Due{Task: t.Key, Title: t.Title}
	w := WearOf(p, t.Key, Hours)
	if w.Done != nil {
		day := civil.Of(w.Done.In(now.Location()))
		base.LastDone = &day
	}
	var ways []Due
	for _, c := range Counters() {
		if limit := limits.Of(c); limit > 0 {
			d := base
			d.byUse(c, WearOf(p, t.Key, c), limit, now)
			ways = append(ways, d)
		}
	}
	if limits.Days > 0 {
		d := base
		d.byDays(w, limits.Days, today)
		ways = append(ways, d)
	}
	if h, ok := t.since(happened, w); ok {
		d := base
		d.day(h.At, now)
		d.By, d.Share = "event", 1
		d.Used = fmt.Sprintf("after: %s, %s", h.Says, day(h.At.In(now.Location())))
		ways = append(ways, d)
	}
	if len(ways) == 0 {
		base.State, base.Words = Later, "after "+eventWords(t.After)
		return base
	}
	for i := range ways {
		ways[i].settle(today)
	}
	return slices.MinFunc(ways, func(a, b Due) int {
		switch {
		case MoreUrgent(a, b):
			return -1
		case MoreUrgent(b, a):
			return 1
		}
		return 0
	})
}

// since is the first of the task's events since it was done last.
func (t Task) since(happened []Happened, w Wear) (Happened, bool) {
	for _, h := range happened {
		if slices.Contains(t.After, h.Event) && (w.Done == nil || h.At.After(*w.Done)) {
			return h, true
		}
	}
	return Happened{}, false
}

func eventWords(events []Event) string {
	words := make([]string, len(events))
	for i, e := range events {
		words[i] = "the next " + string(e)
	}
	return strings.Join(words, " or ")
}

// settle says how urgent a task with a date is.
func (d *Due) settle(today civil.Day) {
	switch {
	case d.On == nil:
	case *d.On <= today:
		d.State = Overdue
	case *d.On <= today+soonDays || d.From != nil && *d.From <= today:
		d.State = Soon
	default:
		d.State = Later
	}
	d.Words = d.when(today)
}

// byUse is when a counter comes to its limit.
func (d *Due) byUse(c Counter, w Wear, limit float64, now time.Time) {
	unit := c.Unit()
	d.Share, d.By = w.Amount/limit, string(c)
	d.Used = fmt.Sprintf("%.0f / %g %s", w.Amount, limit, unit)
	if w.AtLeast {
		d.Used = "at least " + d.Used
	}
	if at, ok := w.Reached(limit); ok { // the record shows it, however old the meter is
		d.day(at, now)
		return
	}
	is := w.now()
	switch {
	case is == nil || !is.life.Known():
		d.State, d.Rests = ReadMeter, "the meter was never read"
		d.Used = fmt.Sprintf("? / %g %s", limit, unit)
		if w.Done == nil && w.AtLeast {
			d.State = StartUnknown
		}
		return
	case w.Done == nil && w.AtLeast:
		d.State, d.Rests = StartUnknown, "never recorded, and the part's earlier life is unknown"
		return
	}
	last := is.life.Last()
	age := int(civil.Of(now) - civil.Of(last.In(now.Location())))
	d.Rests = fmt.Sprintf("meter read %s ago", civil.Days(age))
	if age == 0 {
		d.Rests = "meter read today"
	}
	rate, known := is.life.Rate()
	switch {
	case !known:
		d.State, d.Rests = ReadMeter, d.Rests+"; one reading tells no rate of use"
		return
	case float64(age)*rate >= limit || age > oldestMeter:
		d.State, d.Rests = ReadMeter, d.Rests+": too long to tell a date"
		return
	case rate == 0:
		d.State, d.Rests = StandsStill, d.Rests+"; 0 "+unit+" a day"
		return
	}
	d.Rests += fmt.Sprintf("; %.1f %s a day", rate, unit)
	if _, told := is.life.Weekdays(now.Location()); told {
		d.Rests += ", by weekday"
	}
	if r, ok := is.life.Forecast(now); ok {
		if likely := is.before + r.Middle - is.start(); likely > w.Amount+0.5 {
			d.Share, d.Used = likely/limit, fmt.Sprintf("about %.0f / %g %s", likely, limit, unit)
		}
	}
	early, middle, late, ok := is.life.Dates(is.lifeAt(limit), now.Location())
	if !ok {
		return
	}
	d.day(middle, now)
	d.From = dayOf(early, now)
	if !late.IsZero() {
		d.To = dayOf(late, now)
	}
}

// byDays is when the calendar comes to its limit.
func (d *Due) byDays(w Wear, limit int, today civil.Day) {
	d.By = "days"
	if w.Done == nil && w.AtLeast {
		d.State, d.Rests = StartUnknown, "never recorded"
		d.Used = fmt.Sprintf("? / %s", civil.Days(limit))
		return
	}
	since := civil.Of(w.Since)
	if d.LastDone != nil {
		since = *d.LastDone
	}
	on, used := since+civil.Day(limit), int(today-since)
	d.On = &on
	d.Share, d.Used = float64(used)/float64(limit), fmt.Sprintf("%d / %d days", used, limit)
}

func dayOf(t, now time.Time) *civil.Day {
	day := civil.Of(t.In(now.Location()))
	return &day
}

func (d *Due) day(t, now time.Time) { d.On = dayOf(t, now) }

// when says how late a task is, or in how many days it comes round.
func (d Due) when(today civil.Day) string {
	if d.On == nil {
		return string(d.State)
	}
	about := ""
	if d.From != nil {
		about = "about "
	}
	switch n := int(*d.On - today); {
	case n < 0:
		return about + civil.Days(-n) + " late"
	case n == 0:
		return "due today"
	case n == 1:
		return "due tomorrow"
	default:
		return "in " + about + civil.Days(n)
	}
}
