package app

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/schedule"
	"wardifex/internal/core/shop"
	"wardifex/internal/store"
)

// Calendar is the shop over some days.
type Calendar struct {
	From     civil.Day          `json:"from"`
	Days     int                `json:"days"`
	Open     []schedule.Span    `json:"open"`
	Told     bool               `json:"told" doc:"The shop has told its opening hours"`
	Closures []schedule.Closure `json:"closures"`
	Machines []CalendarMachine  `json:"machines"`
	People   []CalendarPerson   `json:"people" doc:"Those who work, for who works too"`
	Bookings []ShownBooking     `json:"bookings"`
	Work     []ShownWork        `json:"work" doc:"What is planned, for who works"`
	Feeds    []FeedSource       `json:"feeds" doc:"Calendars that are read from outside"`
}

// CalendarMachine is a machine of a calendar.
type CalendarMachine struct {
	ID    int64                    `json:"id"`
	Name  string                   `json:"name"`
	Bay   string                   `json:"bay"`
	State maintenance.Availability `json:"state" enum:"free,attended only,locked out,known broken,out of use"`
	Why   string                   `json:"why"`
}

// CalendarPerson is somebody who works, with when.
type CalendarPerson struct {
	Account int64            `json:"account"`
	Name    string           `json:"name"`
	Skills  []string         `json:"skills"`
	Shifts  []shop.Hours     `json:"shifts"`
	Works   []schedule.Span  `json:"works"`
	Leave   []schedule.Leave `json:"leave"`
	Version int              `json:"version"`
}

// ShownBooking is one time of a booking as it is shown. Whose it is and what for is told to its
// owner and to who works in the shop.
type ShownBooking struct {
	ID        int64               `json:"id" doc:"0 of one that a calendar from outside brings"`
	MachineID int64               `json:"machineId"`
	Machine   string              `json:"machine"`
	Who       string              `json:"who"`
	What      string              `json:"what"`
	From      time.Time           `json:"from"`
	To        time.Time           `json:"to"`
	Attended  bool                `json:"attended"`
	Mine      bool                `json:"mine"`
	Repeats   bool                `json:"repeats"`
	Version   int                 `json:"version"`
	Offer     *store.ProposedMove `json:"offer,omitempty" doc:"A move that is proposed"`
	OfferOn   string              `json:"offerOn,omitempty" doc:"Name of the machine that is proposed"`
	Clash     string              `json:"clash,omitempty" doc:"Why it cannot take place as it stands"`
}

// ShownWork is a piece of planned work as it is shown.
type ShownWork struct {
	Key       string    `json:"key"`
	MachineID int64     `json:"machineId"`
	Machine   string    `json:"machine"`
	Bay       string    `json:"bay"`
	Account   int64     `json:"account"`
	Person    string    `json:"person"`
	From      time.Time `json:"from"`
	To        time.Time `json:"to"`
	Pinned    bool      `json:"pinned"`
	Kind      string    `json:"kind"`
	Title     string    `json:"title"`
	Task      string    `json:"task,omitempty"`
	Renews    bool      `json:"renews" doc:"Doing it puts new parts in, so it is asked which"`
	Order     int64     `json:"order,omitempty"`
	Fault     int64     `json:"fault,omitempty"`
	Why       []string  `json:"why"`
	Tools     []string  `json:"tools"`
	Skill     string    `json:"skill,omitempty"`
	Parts     []string  `json:"parts" doc:"What it takes from the shelf"`
}

// Viewer is who looks at something, and whether they work in the shop.
type Viewer struct {
	Account int64
	Staff   bool
}

// mostCalendarDays is how many days a calendar shows at most.
const mostCalendarDays = 62

// CalendarOf is the shop over some days.
func (a *App) CalendarOf(ctx context.Context, from civil.Day, days int, who Viewer, now time.Time) (Calendar, error) {
	out := Calendar{From: from, Days: days, Machines: []CalendarMachine{}, People: []CalendarPerson{},
		Bookings: []ShownBooking{}, Work: []ShownWork{}, Open: []schedule.Span{}, Feeds: []FeedSource{}}
	if days < 1 || days > mostCalendarDays {
		return out, refuse("a calendar shows 1 to %d days", mostCalendarDays)
	}
	in := a.store.Location()
	to := from + civil.Day(days) - 1
	within := schedule.DaysOf(from, to, in)
	set, err := a.store.Shop(ctx)
	if err != nil {
		return out, err
	}
	if out.Closures, err = a.store.Closures(ctx, from); err != nil {
		return out, err
	}
	out.Closures = slices.DeleteFunc(out.Closures, func(c schedule.Closure) bool { return c.From > to })
	open, told := schedule.Opening(set.Settings, out.Closures, from, to, in)
	out.Open, out.Told = append(out.Open, open...), told
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return out, err
	}
	for i := range fleet {
		m := CalendarMachine{ID: fleet[i].ID, Name: fleet[i].Name, Bay: fleet[i].Bay}
		m.State, m.Why = a.readiness(&fleet[i], now).Available()
		out.Machines = append(out.Machines, m)
	}
	times, err := a.bookedTimes(ctx, within)
	if err != nil {
		return out, err
	}
	out.Bookings = a.shownBookings(times, fleet, who, now)
	if !who.Staff {
		return out, nil
	}
	if out.Work, err = a.shownWork(ctx, fleet, &within); err != nil {
		return out, err
	}
	if out.Feeds, err = a.feeds(ctx, fleet); err != nil {
		return out, err
	}
	out.People, err = a.workers(ctx, from, to)
	return out, err
}

// workers are those who may be given work, with when they work.
func (a *App) workers(ctx context.Context, from, to civil.Day) ([]CalendarPerson, error) {
	users, err := a.store.Users(ctx)
	if err != nil {
		return nil, err
	}
	leaves, err := a.store.Leaves(ctx, from)
	out := []CalendarPerson{}
	in := a.store.Location()
	for _, u := range users {
		if u.DisabledAt != nil || u.Role == store.Member {
			continue
		}
		w := schedule.Worker{Shifts: u.Shifts, Leave: leaves[u.ID]}
		out = append(out, CalendarPerson{Account: u.ID, Name: u.DisplayName, Skills: u.Skills, Shifts: u.Shifts,
			Works: append([]schedule.Span{}, w.Works(from, to, in)...), Leave: append([]schedule.Leave{}, w.Leave...),
			Version: u.Version})
	}
	return out, err
}

func (a *App) shownBookings(times []BookedTime, fleet []store.Machine, who Viewer, now time.Time) []ShownBooking {
	at := map[int64]*store.Machine{}
	for i := range fleet {
		at[fleet[i].ID] = &fleet[i]
	}
	out := []ShownBooking{}
	before := map[int64]*schedule.Booking{} // the last to end on each machine
	for _, t := range times {
		m := at[t.Machine]
		if m == nil {
			continue
		}
		b := ShownBooking{ID: t.ID, MachineID: t.Machine, Machine: m.Name, Who: t.Who, What: t.What, From: t.From, To: t.To,
			Attended: t.Attended, Mine: t.Account != 0 && t.Account == who.Account, Repeats: t.Repeats, Version: t.Version,
			Offer: t.Offer}
		if t.Offer != nil && at[t.Offer.Machine] != nil {
			b.OfferOn = at[t.Offer.Machine].Name
		}
		last := before[t.Machine]
		if !t.To.Before(now) {
			b.Clash = t.Clash(last, a.readiness(m, now))
		}
		if last == nil || last.To.Before(t.To) {
			before[t.Machine] = &t.Booking
		}
		if !b.Mine && !who.Staff {
			b.Who, b.What, b.Offer, b.OfferOn, b.Version = "", "", nil, "", 0
		}
		out = append(out, b)
	}
	return out
}

// shownWork is what is planned, within a window or all of it.
func (a *App) shownWork(ctx context.Context, fleet []store.Machine, within *schedule.Span) ([]ShownWork, error) {
	all, err := a.store.PlannedWork(ctx)
	if err != nil {
		return nil, err
	}
	users, err := a.store.Users(ctx)
	if err != nil {
		return nil, err
	}
	if within != nil {
		all = slices.DeleteFunc(all, func(w store.PlannedWork) bool {
			return !within.Overlaps(schedule.Span{From: w.Starts, To: w.Ends})
		})
	}
	return a.shown(all, fleet, users), nil
}

// shown is planned work with the names of its machines and people.
func (a *App) shown(all []store.PlannedWork, fleet []store.Machine, users []store.User) []ShownWork {
	names := map[int64]string{}
	for _, u := range users {
		names[u.ID] = u.DisplayName
	}
	at := map[int64]*store.Machine{}
	for i := range fleet {
		at[fleet[i].ID] = &fleet[i]
	}
	out := []ShownWork{}
	in := a.store.Location()
	for _, w := range all {
		m := at[w.MachineID]
		span := inZone(schedule.Span{From: w.Starts, To: w.Ends}, in)
		if m == nil {
			continue
		}
		s := ShownWork{Key: w.Key, MachineID: m.ID, Machine: m.Name, Bay: m.Bay, Account: w.AccountID,
			Person: names[w.AccountID],
			From:   span.From, To: span.To, Pinned: w.Pinned, Kind: w.Kind, Title: w.Title, Task: w.Task, Why: w.Why,
			Tools: []string{}, Parts: []string{}}
		if task, ok := maintenance.Find(m.Tasks, w.Task); ok {
			s.Renews = task.Always
		}
		for _, model := range slices.Sorted(maps.Keys(w.Parts)) {
			s.Parts = append(s.Parts, fmt.Sprintf("%d × %s", w.Parts[model], model))
		}
		if w.OrderID != nil {
			s.Order = *w.OrderID
		}
		if w.FaultID != nil {
			s.Fault = *w.FaultID
		}
		if task, known := maintenance.Find(m.Tasks, w.Task); known {
			s.Tools, s.Skill = task.Tools, task.Skill
		}
		out = append(out, s)
	}
	return out
}

// MyBookings are the coming times of an account's bookings, in their order.
func (a *App) MyBookings(ctx context.Context, account int64, now time.Time) ([]ShownBooking, error) {
	kept, err := a.store.BookingsOf(ctx, account, now)
	if err != nil {
		return nil, err
	}
	ids := []int64{}
	for _, b := range kept {
		ids = append(ids, b.MachineID)
	}
	if len(ids) == 0 {
		return []ShownBooking{}, nil
	}
	times, err := a.bookedTimes(ctx, schedule.Span{From: now, To: now.AddDate(0, 2, 0)}, ids...)
	if err != nil {
		return nil, err
	}
	fleet, err := a.store.Fleet(ctx)
	all := a.shownBookings(times, fleet, Viewer{Account: account}, now)
	return slices.DeleteFunc(all, func(b ShownBooking) bool { return !b.Mine }), err
}

// CloseShop closes the shop for some days.
func (a *App) CloseShop(ctx context.Context, c schedule.Closure) error {
	if err := c.Check(); err != nil {
		return Refused(err)
	}
	if c.Why = strings.TrimSpace(c.Why); machine.PlainText(c.Why) != nil {
		return refuse("say why the shop is closed: %s", machine.PlainText(c.Why))
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		_, err := a.store.AddClosure(ctx, c)
		return err
	})
}

// OpenShop takes a closure away.
func (a *App) OpenShop(ctx context.Context, id int64) error {
	return a.store.InTx(ctx, func(ctx context.Context) error { return a.store.DropClosure(ctx, id) })
}

// SaveShifts says when somebody works every week, over a version of their account.
func (a *App) SaveShifts(ctx context.Context, account int64, shifts []shop.Hours, version int) error {
	shifts, err := shop.CheckHours(shifts)
	if err != nil {
		return Refused(err)
	}
	err = a.store.InTx(ctx, func(ctx context.Context) error { return a.store.SaveShifts(ctx, account, shifts, version) })
	if errors.Is(err, store.ErrChanged) {
		return &Conflict{Sentence: "somebody changed this account meanwhile; nothing was overwritten"}
	}
	return err
}

// TakeLeave says when somebody does not work.
func (a *App) TakeLeave(ctx context.Context, account int64, l schedule.Leave) error {
	if err := l.Check(); err != nil {
		return Refused(err)
	}
	if l.Why = strings.TrimSpace(l.Why); machine.PlainText(l.Why) != nil {
		return refuse("say in a word why: %s", machine.PlainText(l.Why))
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		_, err := a.store.AddLeave(ctx, account, l)
		return err
	})
}

// DropLeave takes a leave of somebody away.
func (a *App) DropLeave(ctx context.Context, account, id int64) error {
	return a.store.InTx(ctx, func(ctx context.Context) error { return a.store.DropLeave(ctx, account, id) })
}
