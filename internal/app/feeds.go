package app

import (
	"bytes"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/url"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/recovered"
	"wardifex/internal/core/schedule"
	"wardifex/internal/ical"
	"wardifex/internal/store"
)

// FeedSource is a calendar that is read from outside.
type FeedSource struct {
	store.Feed
	Machine string `json:"machine"`
}

func (a *App) feeds(ctx context.Context, fleet []store.Machine) ([]FeedSource, error) {
	all, err := a.store.Feeds(ctx)
	out := []FeedSource{}
	for _, f := range all {
		s := FeedSource{Feed: f}
		s.URL = maskedAddress(f.URL)
		for i := range fleet {
			if fleet[i].ID == f.MachineID {
				s.Machine = fleet[i].Name
			}
		}
		out = append(out, s)
	}
	return out, err
}

// maskedAddress is an address without what may be a secret in it: such links open a calendar to whoever has them.
func maskedAddress(address string) string {
	u, err := url.Parse(address)
	if err != nil {
		return ""
	}
	return u.Scheme + "://" + u.Host + "/…"
}

// feedDays is how far ahead a feed is kept.
const feedDays = 400

// FetchCalendar reads a calendar from an address outside.
type FetchCalendar func(ctx context.Context, address string) (io.ReadCloser, error)

// AddFeed has a calendar read from outside for a machine from now on. One that is read for it already is not added
// again, and read anew.
func (a *App) AddFeed(ctx context.Context, f store.Feed, fetch FetchCalendar, by string, now time.Time) error {
	f.Name, f.URL = strings.TrimSpace(f.Name), strings.TrimSpace(f.URL)
	if err := machine.PlainText(f.Name); err != nil {
		return refuse("name the calendar: %s", err)
	}
	u, err := url.Parse(f.URL)
	if err != nil || u.Scheme != "https" && u.Scheme != "http" || u.Host == "" || u.User != nil {
		return refuse("write an address that begins with https://, without a name or password in it")
	}
	f.AddedBy, f.AddedAt = by, now
	err = a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockMachine(ctx, f.MachineID); err != nil {
			return err
		}
		all, err := a.store.Feeds(ctx)
		if err != nil {
			return err
		}
		same := func(o store.Feed) bool { return o.URL == f.URL && o.MachineID == f.MachineID }
		if i := slices.IndexFunc(all, same); i >= 0 && (all[i].Name != f.Name || all[i].Attended != f.Attended) {
			return refuse("this calendar is read for the machine already, as “%s”; end that one first to change it",
				all[i].Name)
		} else if i >= 0 {
			f = all[i]
			return nil
		}
		f.ID, err = a.store.AddFeed(ctx, f)
		return err
	})
	if err != nil {
		return err
	}
	return a.ReadFeed(ctx, f, fetch, now)
}

// ReadFeed reads a calendar from outside now. What it said before stays where it cannot be read; why
// is kept with it.
func (a *App) ReadFeed(ctx context.Context, f store.Feed, fetch FetchCalendar, now time.Time) error {
	var times []store.FeedTime
	var says string
	err := recovered.From(func() (err error) { // one that breaks the reader keeps no other from being read
		times, says, err = a.fetched(ctx, f, fetch, now)
		return err
	})
	if broke, is := errors.AsType[*recovered.Panic](err); is {
		slog.Error("reading a calendar", "feed", f.ID, "err", broke)
		err = errors.New("what is there broke its reader; the server's log says how")
	}
	if err != nil {
		return a.store.FeedSaid(ctx, f.ID, nil, "It was not read: "+err.Error(), now)
	}
	return a.store.FeedSaid(ctx, f.ID, times, says, now)
}

func (a *App) fetched(ctx context.Context, f store.Feed, fetch FetchCalendar, now time.Time) ([]store.FeedTime, string,
	error) {
	body, err := fetch(ctx, f.URL)
	if err != nil {
		return nil, "", err
	}
	defer body.Close()
	zone, err := a.clock(ctx)
	if err != nil {
		return nil, "", err
	}
	events, problems, err := ical.Read(body, zone)
	if err != nil {
		return nil, "", err
	}
	all, more := ical.Expand(events, schedule.Span{From: now.AddDate(0, 0, -1), To: now.AddDate(0, 0, feedDays)})
	problems = append(problems, more...)
	times := make([]store.FeedTime, 0, len(all))
	for _, o := range all {
		times = append(times, store.FeedTime{FeedID: f.ID, What: o.Summary, Starts: o.At.From, Ends: o.At.To})
	}
	says := fmt.Sprintf("%d times were read.", len(times))
	if len(problems) > 0 {
		says += fmt.Sprintf(" %d were not: line %d: %s.", len(problems), problems[0].Line, problems[0].Says)
	}
	return times, says, nil
}

// ReadFeeds reads all calendars from outside.
func (a *App) ReadFeeds(ctx context.Context, fetch FetchCalendar) error {
	all, err := a.store.Feeds(ctx)
	for _, f := range all {
		err = errors.Join(err, a.ReadFeed(ctx, f, fetch, a.now()))
	}
	return err
}

// EndFeed has a calendar read no more.
func (a *App) EndFeed(ctx context.Context, id int64, now time.Time) error {
	return a.store.InTx(ctx, func(ctx context.Context) error { return a.store.EndFeed(ctx, id, now) })
}

// ImportedCalendar is what came of a calendar file.
type ImportedCalendar struct {
	Taken    int            `json:"taken"`
	Problems []ical.Skipped `json:"problems" doc:"What was not taken, and why"`
}

// ImportCalendar books a machine for what a calendar file says, each that can be had.
func (a *App) ImportCalendar(ctx context.Context, machineID int64, attended bool, text []byte, who Booker,
	now time.Time) (
	ImportedCalendar, error) {
	out := ImportedCalendar{Problems: []ical.Skipped{}}
	zone, err := a.clock(ctx)
	if err != nil {
		return out, err
	}
	events, problems, err := ical.Read(bytes.NewReader(text), zone)
	if err != nil {
		return out, Refused(err)
	}
	err = a.store.InTx(ctx, func(ctx context.Context) error {
		out = ImportedCalendar{Problems: slices.Clone(problems)}
		if out.Problems == nil {
			out.Problems = []ical.Skipped{}
		}
		for _, e := range events {
			if err := a.bookEvent(ctx, &out, e, BookingAsk{Machine: machineID, Attended: attended}, who, now); err != nil {
				return err
			}
		}
		return nil
	})
	return out, err
}

// bookEvent books what an event says, or notes why it cannot be had.
func (a *App) bookEvent(ctx context.Context, out *ImportedCalendar, e ical.Event, ask BookingAsk, who Booker,
	now time.Time) error {
	if e.Cancelled || !e.Instead.IsZero() {
		out.Problems = append(out.Problems, ical.Skipped{Says: e.Summary + ": cancelled, or one of several times by itself"})
		return nil
	}
	ask.What = e.Summary
	if ask.What == "" {
		ask.What = "from a calendar"
	}
	if runes := []rune(ask.What); len(runes) > 120 {
		ask.What = string(runes[:120])
	}
	ask.From, ask.To, ask.Rule, ask.LeaveOut = e.From, e.To, e.Rule, true
	_, err := a.Book(ctx, ask, who, now)
	var refused *Refusal
	if errors.As(err, &refused) {
		out.Problems = append(out.Problems, ical.Skipped{Says: ask.What + ": " + refused.Sentence})
		return nil
	}
	if err == nil {
		out.Taken++
	}
	return err
}

// MadeLink is a calendar's link with its secret, which is told this once.
type MadeLink struct {
	store.CalendarLink
	Path string `json:"path" doc:"Address on this server; whoever has it sees this calendar"`
}

// CalendarPath is the address of a calendar that is read by a secret.
const CalendarPath = "/calendar/"

// MakeLink makes a link by which somebody's own calendar is read from outside.
func (a *App) MakeLink(ctx context.Context, account int64, now time.Time) (MadeLink, error) {
	secret := rand.Text() + rand.Text()
	made := MadeLink{CalendarLink: store.CalendarLink{MadeAt: now}, Path: CalendarPath + secret + ".ics"}
	err := a.store.InTx(ctx, func(ctx context.Context) (err error) {
		made.ID, err = a.store.AddCalendarLink(ctx, account, secret, now)
		return err
	})
	return made, err
}

// Links are those by which somebody's calendar is read.
func (a *App) Links(ctx context.Context, account int64) ([]store.CalendarLink, error) {
	return a.store.CalendarLinks(ctx, account)
}

// EndLink ends a link at once.
func (a *App) EndLink(ctx context.Context, account, id int64, now time.Time) error {
	return a.store.InTx(ctx, func(ctx context.Context) error { return a.store.EndCalendarLink(ctx, account, id, now) })
}

// WriteLinked writes the calendar of a link's secret: the bookings of its account and the work that
// is planned for it. ErrNotFound where there is no such link.
func (a *App) WriteLinked(ctx context.Context, w io.Writer, secret string, now time.Time) error {
	link, err := a.store.CalendarLinkOf(ctx, secret)
	if err != nil {
		return err
	}
	u, err := a.store.User(ctx, link.AccountID)
	if err != nil {
		return err
	}
	if u.DisabledAt != nil {
		return ErrNotFound
	}
	kept, err := a.store.BookingsOf(ctx, link.AccountID, now.AddDate(0, -1, 0))
	if err != nil {
		return err
	}
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return err
	}
	var events []ical.Event
	for _, b := range kept {
		e := eventOf(b, a.store.Location())
		i := slices.IndexFunc(fleet, func(m store.Machine) bool { return m.ID == b.MachineID })
		if i >= 0 {
			e.Summary = fleet[i].Name + ": " + b.What
		}
		events = append(events, e)
	}
	work, err := a.shownWork(ctx, fleet, nil)
	if err != nil {
		return err
	}
	for _, p := range work {
		if p.Account == link.AccountID {
			events = append(events, ical.Event{UID: strings.ReplaceAll(p.Key, "/", "-") + "@wardifex",
				Summary: p.Machine + ": " + p.Title, Span: schedule.Span{From: p.From, To: p.To}})
		}
	}
	return ical.Write(w, u.DisplayName, events, now)
}

// WriteCalendar writes the bookings of a machine, or of all where it is 0, as somebody may see them.
func (a *App) WriteCalendar(ctx context.Context, w io.Writer, machineID int64, who Viewer, now time.Time) error {
	within := schedule.Span{From: now.AddDate(0, -1, 0), To: now.AddDate(1, 0, 0)}
	var only []int64
	if machineID != 0 {
		only = []int64{machineID}
	}
	kept, err := a.store.Bookings(ctx, within, only...)
	if err != nil {
		return err
	}
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return err
	}
	names := map[int64]string{}
	for i := range fleet {
		names[fleet[i].ID] = fleet[i].Name
	}
	var events []ical.Event
	for _, b := range kept {
		e := eventOf(b, a.store.Location())
		if e.Summary = names[b.MachineID] + ": booked"; who.Staff || b.AccountID != nil && *b.AccountID == who.Account {
			e.Summary = fmt.Sprintf("%s: %s, %s", names[b.MachineID], b.What, b.Who)
		}
		events = append(events, e)
	}
	set, err := a.store.Shop(ctx)
	if err != nil {
		return err
	}
	return ical.Write(w, strings.TrimSpace("Bookings "+set.Name), events, now)
}
