package app

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/roster"
	"wardifex/internal/core/schedule"
	"wardifex/internal/store"
)

// TodayView is a person's day in the shop.
type TodayView struct {
	Since *time.Time `json:"since,omitempty" doc:"When they were here before; empty where they never were"`
	News  []NewsLine `json:"news" doc:"What became of the fleet since, by others"`
	// Stops are places of the shop with what they have to do there today, in the order of the way.
	Stops    []TodayStop     `json:"stops"`
	Works    []schedule.Span `json:"works" doc:"Their shifts today"`
	NextDay  *civil.Day      `json:"nextDay,omitempty" doc:"Their next day with planned work after today"`
	NextWork []ShownWork     `json:"nextWork"`
	Planned  bool            `json:"planned" doc:"Work is planned at all"`
	Lines    []StateLine     `json:"lines" doc:"How the fleet stands: what is up, at risk this week, blocked"`
}

// NewsLine is what became of the fleet, one kind of it.
type NewsLine struct {
	Words string `json:"words"`
	Link  string `json:"link"`
}

// TodayStop is a place of the shop with what is to be done there.
type TodayStop struct {
	Bay   string      `json:"bay"`
	Tools []string    `json:"tools" doc:"To take along"`
	Parts []string    `json:"parts" doc:"To take from the shelf"`
	Work  []ShownWork `json:"work"`
}

// StateLine is one line on how the fleet stands, with one action.
type StateLine struct {
	About  string `json:"about" enum:"danger,up,floor,risk,booking,blocked,parked"`
	Grave  bool   `json:"grave"`
	Words  string `json:"words"`
	Action string `json:"action" doc:"What the link does"`
	Link   string `json:"link"`
}

// mostNews is how much of what happened is read.
const mostNews = 500

// Today is a person's day: what happened since they were last here, what is planned for them, and how the
// fleet stands.
func (a *App) Today(ctx context.Context, account int64, now time.Time) (TodayView, error) {
	out := TodayView{News: []NewsLine{}, Stops: []TodayStop{}, Works: []schedule.Span{}, NextWork: []ShownWork{},
		Lines: []StateLine{}}
	var err error
	if out.Since, err = a.store.HereBefore(ctx, account, now); err != nil {
		return out, err
	}
	if out.Since != nil {
		happened, err := a.store.HappenedSince(ctx, *out.Since, account, mostNews)
		if err != nil {
			return out, err
		}
		out.News = a.news(happened)
	}
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return out, err
	}
	if err := a.store.Wear(ctx, fleet); err != nil {
		return out, err
	}
	if err := a.ownDay(ctx, &out, fleet, account, now); err != nil {
		return out, err
	}
	out.Lines, err = a.stateLines(ctx, fleet, now)
	return out, err
}

// Visit notes that somebody is here, so that they are told next time what happened since.
func (a *App) Visit(ctx context.Context, account int64, now time.Time) error {
	return a.store.Visit(ctx, account, now)
}

// news tells what happened, one line a kind, with the machines.
func (a *App) news(happened []store.Happening) []NewsLine {
	out := []NewsLine{}
	for _, kind := range []struct{ what, one, many, link string }{
		{"fault", "fault was reported", "faults were reported", "/faults"},
		{"use", "machine's use was changed", "changes of what machines may be used for", "/fleet"},
		{"order opened", "work order was opened", "work orders were opened", "/work"},
		{"order closed", "work order was closed", "work orders were closed", "/work"},
		{"fault closed", "fault was closed", "faults were closed", "/faults?show=closed"},
		{"done", "task was done", "tasks were done", "/due"},
	} {
		var names []string
		n := 0
		for _, h := range happened {
			if h.What != kind.what {
				continue
			}
			n++
			if !slices.Contains(names, h.Machine) {
				names = append(names, h.Machine)
			}
		}
		if n == 0 {
			continue
		}
		words := kind.many
		if n == 1 {
			words = kind.one
		}
		more := ""
		if len(names) > mostNamed {
			more = fmt.Sprintf(" and %d more", len(names)-mostNamed)
			names = names[:mostNamed]
		}
		out = append(out, NewsLine{fmt.Sprintf("%d %s: %s%s", n, words, strings.Join(names, ", "), more), kind.link})
	}
	return out
}

// ownDay tells what is planned for somebody today, place by place, and else for their next day.
func (a *App) ownDay(ctx context.Context, out *TodayView, fleet []store.Machine, account int64, now time.Time) error {
	in := a.store.Location()
	today := civil.Of(now.In(in))
	people, err := a.workers(ctx, today, today)
	if err != nil {
		return err
	}
	for _, p := range people {
		if p.Account == account {
			out.Works = p.Works
		}
	}
	all, err := a.shownWork(ctx, fleet, nil)
	if err != nil {
		return err
	}
	out.Planned = len(all) > 0
	var mine []ShownWork
	for _, w := range all {
		day := civil.Of(w.From)
		switch {
		case w.Account != account:
		case day <= today: // what was planned for an earlier day and is not done is for today
			mine = append(mine, w)
		case out.NextDay == nil || *out.NextDay == day:
			out.NextDay = &day
			out.NextWork = append(out.NextWork, w)
		}
	}
	out.Stops = stops(mine)
	return nil
}

// stops are the places of some work one after the other, as it is planned, each with what it takes.
func stops(work []ShownWork) []TodayStop {
	out := []TodayStop{}
	slices.SortStableFunc(work, func(x, y ShownWork) int { return cmp.Compare(x.From.UnixNano(), y.From.UnixNano()) })
	for _, w := range work {
		if len(out) == 0 || out[len(out)-1].Bay != w.Bay {
			out = append(out, TodayStop{Bay: w.Bay, Tools: []string{}, Parts: []string{}})
		}
		s := &out[len(out)-1]
		s.Work = append(s.Work, w)
		for _, tool := range w.Tools {
			if !slices.Contains(s.Tools, tool) {
				s.Tools = append(s.Tools, tool)
			}
		}
		s.Parts = append(s.Parts, w.Parts...)
	}
	return out
}

// stateLines tell how the fleet stands, one line and one action each: none is told that is as it should be,
// but how many machines are up.
func (a *App) stateLines(ctx context.Context, fleet []store.Machine, now time.Time) ([]StateLine, error) {
	out := []StateLine{}
	say := func(about string, grave bool, action, link, format string, with ...any) {
		out = append(out, StateLine{about, grave, fmt.Sprintf(format, with...), action, link})
	}
	for i := range fleet {
		if d := fleet[i].Danger; d != nil {
			say("danger", true, "Open the fault", faultLink(d.Fault), "%s: %s", fleet[i].Name, d)
		}
	}
	up := 0
	for i := range fleet {
		if state, _ := a.readiness(&fleet[i], now).Available(); state.Usable() {
			up++
		}
	}
	say("up", false, "See the fleet", "/fleet", "Machines that can be used: %d of %d", up, len(fleet))
	floors, err := a.floorStates(ctx, fleet, now)
	if err != nil {
		return nil, err
	}
	for _, f := range floors {
		if f.Up < f.Least {
			say("floor", true, "See them", fmt.Sprintf("/fleet?question=%d", f.Question),
				"%s: %d are up, and at least %d should be",
				f.Ability, f.Up, f.Least)
		}
	}
	planned, err := a.store.PlannedWork(ctx)
	if err != nil {
		return nil, err
	}
	a.riskLine(fleet, planned, now, say)
	if err := a.bookingLine(ctx, fleet, now, say); err != nil {
		return nil, err
	}
	return out, a.blockedLines(ctx, now, say)
}

type sayer func(about string, grave bool, action, link, format string, with ...any)

// riskLine tells of safety work that falls due within a week and is not planned before.
func (a *App) riskLine(fleet []store.Machine, planned []store.PlannedWork, now time.Time, say sayer) {
	week := civil.Of(now) + 7
	at := map[string]store.PlannedWork{}
	for _, w := range planned {
		at[w.Key] = w
	}
	var names []string
	for i := range fleet {
		m := &fleet[i]
		for _, s := range safetyWork(m, now) {
			if s.On > week || slices.Contains(names, m.Name) {
				continue
			}
			w, is := at[roster.TaskKey(m.ID, s.Key)]
			if !is || civil.Of(w.Starts.In(a.store.Location())) > s.On {
				names = append(names, m.Name)
			}
		}
	}
	if len(names) > 0 {
		say("risk", true, "Plan it", "/weeks", "Safety work is due within a week and not planned before on %s", listed(names))
	}
}

// bookingLine tells of bookings of the next week that cannot take place as they stand.
func (a *App) bookingLine(ctx context.Context, fleet []store.Machine, now time.Time, say sayer) error {
	times, err := a.bookedTimes(ctx, schedule.Span{From: now, To: now.Add(beforeBooking)})
	if err != nil {
		return err
	}
	var names []string
	n := 0
	for _, b := range a.shownBookings(times, fleet, Viewer{Staff: true}, now) {
		if b.Clash == "" {
			continue
		}
		n++
		if !slices.Contains(names, b.Machine) {
			names = append(names, b.Machine)
		}
	}
	if n > 0 {
		words := fmt.Sprintf("%d bookings of this week", n)
		if n == 1 {
			words = "1 booking of this week"
		}
		say("booking", false, "See the calendar", "/calendar", "%s cannot take place as booked: %s", words, listed(names))
	}
	return nil
}

// blockedLines tell of work that cannot be planned, and of orders that are left and wait.
func (a *App) blockedLines(ctx context.Context, now time.Time, say sayer) error {
	blocked, err := a.blockedNow(ctx)
	switch {
	case errors.Is(err, store.ErrNotFound):
		say("blocked", false, "Plan the weeks", "/weeks", "No week has been planned yet")
	case err != nil:
		return err
	case len(blocked) > 0:
		say("blocked", false, "See why", "/weeks#blocked", "%s cannot be planned: %s, %s first", pieces(len(blocked)),
			blocked[0].Machine, blocked[0].Title)
	}
	ahead, err := a.store.WorkAhead(ctx)
	for _, w := range ahead {
		if w.State == store.Opened && w.Waits != "" {
			say("parked", false, "Go on with it", fmt.Sprintf("/work/%d", w.ID), "%s is left, and waits: %s", w.Title, w.Waits)
		}
	}
	return err
}

func listed(names []string) string {
	if more := len(names) - mostNamed; more > 0 {
		return fmt.Sprintf("%s and %d more", strings.Join(names[:mostNamed], ", "), more)
	}
	return strings.Join(names, ", ")
}
