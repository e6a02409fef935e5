package app

import (
	"cmp"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/schedule"
	"wardifex/internal/ical"
	"wardifex/internal/store"
)

// BookingAsk is a booking that somebody wants to make.
type BookingAsk struct {
	Machine  int64                `json:"machine"`
	From     time.Time            `json:"from"`
	To       time.Time            `json:"to"`
	Attended bool                 `json:"attended" doc:"They stay with the machine"`
	What     string               `json:"what" maxLength:"120" doc:"What is printed"`
	Need     maintenance.PrintJob `json:"need,omitempty"`
	Rule     string               `json:"rule,omitempty" maxLength:"200" doc:"How it repeats: FREQ=WEEKLY;COUNT=8"`
	LeaveOut bool                 `json:"leaveOut,omitempty" doc:"Times that cannot be had are left out"`
}

func (b BookingAsk) span() schedule.Span { return schedule.Span{From: b.From, To: b.To} }

// RefusedTime is a time at which a machine cannot be booked, and why.
type RefusedTime struct {
	schedule.Span
	Why []string `json:"why" doc:"Sentences without their full stop"`
}

// BookingAnswer is whether a machine can be booked so, and what else could be.
type BookingAnswer struct {
	Times   int           `json:"times" doc:"How often it would take place within a year"`
	Refused []RefusedTime `json:"refused"`
	// Offers are able machines that are free then, where this one is not.
	Offers []BookingOffer `json:"offers"`
}

// BookingOffer is a machine that could be booked instead.
type BookingOffer struct {
	Usable
	// From is when: at the asked time, or the next at which it is free.
	From time.Time `json:"from"`
	To   time.Time `json:"to"`
}

// mostOffers is how many machines are offered. Source: from memory.
const mostOffers = 5

// bookable is what decides bookings over some time.
type bookable struct {
	app    *App
	within schedule.Span
	open   schedule.Spans
	told   bool
	taken  map[int64][]schedule.Booking
	work   map[int64][]schedule.Work
}

// bookableWithin loads what decides bookings over some time, of some machines or of all.
func (a *App) bookableWithin(ctx context.Context, within schedule.Span, machines ...int64) (bookable, error) {
	b := bookable{app: a, within: within, taken: map[int64][]schedule.Booking{}, work: map[int64][]schedule.Work{}}
	set, err := a.store.Shop(ctx)
	if err != nil {
		return b, err
	}
	in := a.store.Location()
	first, last := civil.Of(within.From.In(in))-1, civil.Of(within.To.In(in))+1
	closed, err := a.store.Closures(ctx, first)
	if err != nil {
		return b, err
	}
	b.open, b.told = schedule.Opening(set.Settings, closed, first, last, in)
	times, err := a.bookedTimes(ctx, within, machines...)
	if err != nil {
		return b, err
	}
	for _, t := range times {
		b.taken[t.Machine] = append(b.taken[t.Machine], t.Booking)
	}
	b.work, err = a.plannedWork(ctx)
	return b, err
}

// BookedTime is one time of a booking, or of what a feed brings.
type BookedTime struct {
	schedule.Booking
	Version int
	Repeats bool
	Rule    string
	Need    maintenance.PrintJob
	Offer   *store.ProposedMove
	Feed    int64 // 0 of one made here
}

// bookedTimes are all times at which machines are booked within a window.
func (a *App) bookedTimes(ctx context.Context, within schedule.Span, machines ...int64) ([]BookedTime, error) {
	in := a.store.Location()
	kept, err := a.store.Bookings(ctx, within, machines...)
	if err != nil {
		return nil, err
	}
	var out []BookedTime
	for _, b := range kept {
		times, _, err := eventOf(b, in).Times(within)
		if err != nil {
			return nil, fmt.Errorf("booking %d: %w", b.ID, err)
		}
		for _, at := range times {
			t := BookedTime{Booking: bookingOf(b), Version: b.Version, Repeats: b.Rule != "", Rule: b.Rule, Need: b.Need}
			t.Span = inZone(at, in)
			if b.Offer != nil && b.Offer.Begin.Equal(at.From) {
				t.Offer = b.Offer
			}
			out = append(out, t)
		}
	}
	feeds, err := a.feedTimes(ctx, within, in, machines)
	out = append(out, feeds...)
	slices.SortStableFunc(out, func(x, y BookedTime) int { return x.From.Compare(y.From) })
	return out, err
}

func (a *App) feedTimes(ctx context.Context, within schedule.Span, in *time.Location, machines []int64) ([]BookedTime,
	error) {
	feeds, err := a.store.Feeds(ctx)
	if err != nil || len(feeds) == 0 {
		return nil, err
	}
	times, err := a.store.FeedTimes(ctx, within)
	var out []BookedTime
	for _, t := range times {
		i := slices.IndexFunc(feeds, func(f store.Feed) bool { return f.ID == t.FeedID })
		if i < 0 || len(machines) > 0 && !slices.Contains(machines, feeds[i].MachineID) {
			continue
		}
		f := feeds[i]
		out = append(out, BookedTime{Feed: f.ID, Booking: schedule.Booking{Machine: f.MachineID, Who: f.Name, What: t.What,
			Attended: f.Attended, Span: inZone(schedule.Span{From: t.Starts, To: t.Ends}, in)}})
	}
	return out, err
}

func inZone(s schedule.Span, in *time.Location) schedule.Span {
	return schedule.Span{From: s.From.In(in), To: s.To.In(in)}
}

func bookingOf(b store.Booking) schedule.Booking {
	out := schedule.Booking{ID: b.ID, Machine: b.MachineID, Who: b.Who, What: b.What, Attended: b.Attended,
		Span: schedule.Span{From: b.Starts, To: b.Ends}}
	if b.AccountID != nil {
		out.Account = *b.AccountID
	}
	return out
}

// eventOf is a booking as its calendar has it. What repeats does so by the clock of the shop's zone
// when it was made.
func eventOf(b store.Booking, shop *time.Location) ical.Event {
	in, err := time.LoadLocation(b.Zone)
	if err != nil {
		in = shop
	}
	return ical.Event{UID: b.UID, Summary: b.What, Rule: b.Rule, Without: b.LeftOut,
		Span: inZone(schedule.Span{From: b.Starts, To: b.Ends}, in)}
}

// ground is what a booking of a machine is judged on, without one that is being changed.
func (b bookable) ground(m *store.Machine, except int64, now time.Time) schedule.Ground {
	g := schedule.Ground{Readiness: b.app.readiness(m, now), Safety: safetyWork(m, now), Work: b.work[m.ID], Open: b.open,
		Told: b.told}
	for _, t := range b.taken[m.ID] {
		if except == 0 || t.ID != except {
			g.Taken = append(g.Taken, t)
		}
	}
	return g
}

func safetyWork(m *store.Machine, now time.Time) []schedule.Safety {
	return schedule.SafetyWork(maintenance.DueList(m.Subject(now), now), m.Tasks)
}

// CheckBooking tells whether a machine can be booked so; where it cannot, which others could.
func (a *App) CheckBooking(ctx context.Context, ask BookingAsk, except int64, now time.Time) (BookingAnswer, error) {
	out := BookingAnswer{Refused: []RefusedTime{}, Offers: []BookingOffer{}}
	times, b, err := a.askedTimes(ctx, ask, now)
	if err != nil {
		return out, err
	}
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return out, err
	}
	if err := a.store.Wear(ctx, fleet); err != nil {
		return out, err
	}
	i := slices.IndexFunc(fleet, func(m store.Machine) bool { return m.ID == ask.Machine })
	if i < 0 {
		return out, ErrNotFound
	}
	out.Times = len(times)
	out.Refused = b.refused(&fleet[i], ask, times, except, now)
	if len(out.Refused) > 0 {
		out.Offers = b.offers(fleet, i, ask, now)
	}
	return out, nil
}

// askedTimes are when a booking would take place, with what decides it.
func (a *App) askedTimes(ctx context.Context, ask BookingAsk, now time.Time) ([]schedule.Span, bookable, error) {
	in := a.store.Location()
	if err := (schedule.Asked{Span: ask.span(), Attended: ask.Attended}).Check(now); err != nil {
		return nil, bookable{}, Refused(err)
	}
	if err := ical.CheckRule(ask.Rule); err != nil {
		return nil, bookable{}, Refused(err)
	}
	within := schedule.Span{From: ask.From, To: ask.From.AddDate(2, 0, 0)}
	zone, err := a.clock(ctx)
	if err != nil {
		return nil, bookable{}, err
	}
	e := ical.Event{Rule: ask.Rule, Span: inZone(ask.span(), zone)}
	times, _, err := e.Times(within)
	if err != nil {
		return nil, bookable{}, Refused(err)
	}
	if len(times) == 0 {
		return nil, bookable{}, refuse("it would never take place: write how it repeats so that it begins when it begins")
	}
	if last := times[len(times)-1]; last.From.After(ask.From.AddDate(1, 0, 0)) {
		return nil, bookable{}, refuse("it repeats for more than a year: say how many times, or until when")
	}
	for i := range times {
		times[i] = inZone(times[i], in)
		if i > 0 && times[i-1].Overlaps(times[i]) {
			return nil, bookable{}, refuse("it would begin again before it has ended")
		}
	}
	// A week more: others may be free then.
	within.To = times[len(times)-1].To.AddDate(0, 0, 7)
	b, err := a.bookableWithin(ctx, within)
	return times, b, err
}

// clock is the zone of the shop's clock, by which what repeats does so.
func (a *App) clock(ctx context.Context) (*time.Location, error) {
	set, err := a.store.Shop(ctx)
	if err != nil {
		return nil, err
	}
	if in, err := time.LoadLocation(set.TimeZone); err == nil {
		return in, nil
	}
	return a.store.Location(), nil
}

func (b bookable) refused(m *store.Machine, ask BookingAsk, times []schedule.Span, except int64,
	now time.Time) []RefusedTime {
	out := []RefusedTime{}
	g := b.ground(m, except, now)
	for _, at := range times {
		if why := (schedule.Asked{Span: at, Attended: ask.Attended}).Refusals(g); len(why) > 0 {
			out = append(out, RefusedTime{at, why})
		}
	}
	return out
}

// offers are machines that can do what was asked, and are free at the first of the times; after
// them the asked one, when it is next free.
func (b bookable) offers(fleet []store.Machine, own int, ask BookingAsk, now time.Time) []BookingOffer {
	out := []BookingOffer{}
	need := ask.Need.Or(fleet[own].Facts)
	at := schedule.Asked{Span: ask.span(), Attended: ask.Attended}
	for i := range fleet {
		known, enough := need.Fits(fleet[i].Facts)
		if i != own && known && enough && len(at.Refusals(b.ground(&fleet[i], 0, now))) == 0 {
			out = append(out, BookingOffer{b.app.usable(&fleet[i], now), ask.From, ask.To})
		}
	}
	freest := maintenance.Availabilities()
	slices.SortStableFunc(out, func(x, y BookingOffer) int {
		return cmp.Compare(slices.Index(freest, x.State), slices.Index(freest, y.State))
	})
	out = out[:min(len(out), mostOffers)]
	m := &fleet[own]
	if next, ok := at.NextFree(b.ground(m, 0, now), b.within.To); ok {
		out = append(out, BookingOffer{b.app.usable(m, now), next.From, next.To})
	}
	return out
}

// Booker is who does something with bookings.
type Booker struct {
	Account int64
	Name    string
	Lead    bool
}

// Book books a machine for somebody; it is refused where it cannot be had, with the reason.
func (a *App) Book(ctx context.Context, ask BookingAsk, who Booker, now time.Time) (int64, error) {
	ask.What = strings.TrimSpace(ask.What)
	if err := machine.PlainText(ask.What); err != nil {
		return 0, refuse("say what is printed: %s", err)
	}
	var id int64
	err := a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockMachines(ctx, ask.Machine); err != nil {
			return err
		}
		answer, err := a.CheckBooking(ctx, ask, 0, now)
		if err != nil {
			return err
		}
		if err := answer.refusal(ask); err != nil {
			return err
		}
		zone, err := a.clock(ctx)
		if err != nil {
			return err
		}
		b := store.Booking{MachineID: ask.Machine, Who: who.Name, What: ask.What, Starts: ask.From, Ends: ask.To,
			Attended: ask.Attended, Rule: strings.TrimPrefix(ask.Rule, "RRULE:"), Zone: zone.String(), Need: ask.Need,
			UID: rand.Text() + "@wardifex", MadeBy: who.Name, MadeAt: now}
		if who.Account != 0 {
			b.AccountID = &who.Account
			if err := a.notTooMany(ctx, who, now); err != nil {
				return err
			}
		}
		for _, r := range answer.Refused {
			b.LeftOut = append(b.LeftOut, r.From)
		}
		id, err = a.store.AddBooking(ctx, b)
		return err
	})
	return id, err
}

// mostAhead is how many bookings somebody has ahead at most; a lead may have more. Source: from memory.
const mostAhead = 40

func (a *App) notTooMany(ctx context.Context, who Booker, now time.Time) error {
	ahead, err := a.store.BookingsOf(ctx, who.Account, now)
	if err == nil && len(ahead) >= mostAhead && !who.Lead {
		return refuse("you have %d bookings ahead; that is as many as one has: cancel one first", len(ahead))
	}
	return err
}

// refusal is why what was asked cannot be booked; nil where it can, without the times that are left
// out.
func (answer BookingAnswer) refusal(ask BookingAsk) error {
	if len(answer.Refused) == 0 {
		return nil
	}
	first := answer.Refused[0]
	why := strings.Join(first.Why, "; ")
	if answer.Times == 1 {
		return refuse("this machine cannot be booked then: %s", why)
	}
	if ask.LeaveOut && len(answer.Refused) < answer.Times {
		return nil
	}
	return refuse("%d of the %d times cannot be had. On %s: %s", len(answer.Refused), answer.Times,
		first.From.Format(civil.Shown), why)
}

// ownBooking loads a booking for a change by its owner or a lead.
func (a *App) ownBooking(ctx context.Context, id int64, version int, who Booker) (store.Booking, error) {
	b, err := a.store.BookingOf(ctx, id)
	switch {
	case err != nil:
		return b, err
	case !who.Lead && (b.AccountID == nil || *b.AccountID != who.Account):
		return b, refuse("only %s or a lead changes this booking", b.Who)
	case b.Version != version:
		return b, &Conflict{Sentence: "this booking was changed meanwhile; nothing was overwritten", Current: b.Version}
	}
	return b, nil
}

// CancelBooking cancels a booking: one time of it, or all where at is zero.
func (a *App) CancelBooking(ctx context.Context, id int64, version int, at time.Time, who Booker, now time.Time) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		b, err := a.ownBooking(ctx, id, version, who)
		if err != nil {
			return err
		}
		if at.IsZero() || b.Rule == "" {
			b.CancelledAt, b.CancelledBy, b.Offer = &now, who.Name, nil
		} else {
			b.LeftOut = append(b.LeftOut, at)
		}
		if err := a.store.SaveBooking(ctx, b); err != nil {
			return changedMeanwhile(err)
		}
		return a.tellOwner(ctx, b, who, fmt.Sprintf("%s cancelled your booking of %s", who.Name, when(b, at,
			a.store.Location())), now)
	})
}

func changedMeanwhile(err error) error {
	if errors.Is(err, store.ErrChanged) {
		return &Conflict{Sentence: "this booking was changed meanwhile; nothing was overwritten"}
	}
	return err
}

// when tells which time of a booking is meant.
func when(b store.Booking, at time.Time, in *time.Location) string {
	if at.IsZero() {
		at = b.Starts
	}
	return at.In(in).Format("2 Jan 2006 15:04")
}

// Move is where a booking goes: to another machine, another time, or both.
type Move struct {
	Machine int64     `json:"machine"`
	At      time.Time `json:"at"   doc:"Begin of the time that is moved, as booked"`
	From    time.Time `json:"from"`
	To      time.Time `json:"to"`
	Why     string    `json:"why,omitempty" maxLength:"200"`
}

// MoveBooking moves a booking, by its owner or a lead.
func (a *App) MoveBooking(ctx context.Context, id int64, version int, m Move, who Booker, now time.Time) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		b, err := a.ownBooking(ctx, id, version, who)
		if err != nil {
			return err
		}
		if err := a.move(ctx, b, m, who, now); err != nil {
			return err
		}
		return a.tellOwner(ctx, b, who, fmt.Sprintf("%s moved your booking of %s", who.Name, when(b, m.At,
			a.store.Location())), now)
	})
}

// move writes a booking elsewhere; of one that repeats, the one time becomes a booking of its own.
func (a *App) move(ctx context.Context, b store.Booking, m Move, who Booker, now time.Time) error {
	if err := a.store.LockMachines(ctx, m.Machine, b.MachineID); err != nil {
		return err
	}
	ask := BookingAsk{Machine: m.Machine, From: m.From, To: m.To, Attended: b.Attended, What: b.What, Need: b.Need}
	answer, err := a.CheckBooking(ctx, ask, b.ID, now)
	if err != nil {
		return err
	}
	if err := answer.refusal(ask); err != nil {
		return err
	}
	b.Offer = nil
	if b.Rule != "" {
		one := b
		one.ID, one.Rule, one.LeftOut, one.UID = 0, "", nil, rand.Text()+"@wardifex"
		one.MachineID, one.Starts, one.Ends, one.MadeBy, one.MadeAt = m.Machine, m.From, m.To, who.Name, now
		if _, err := a.store.AddBooking(ctx, one); err != nil {
			return err
		}
		b.LeftOut = append(b.LeftOut, m.At)
	} else {
		b.MachineID, b.Starts, b.Ends = m.Machine, m.From, m.To
	}
	return changedMeanwhile(a.store.SaveBooking(ctx, b))
}

// OfferMove proposes a move to a booking's owner: nothing moves before they say yes.
func (a *App) OfferMove(ctx context.Context, id int64, version int, m Move, who Booker, now time.Time) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		b, err := a.store.BookingOf(ctx, id)
		if err != nil {
			return err
		}
		if b.Version != version {
			return changedMeanwhile(store.ErrChanged)
		}
		if b.AccountID == nil {
			return refuse("this booking has no owner who could answer: a lead moves it")
		}
		ask := BookingAsk{Machine: m.Machine, From: m.From, To: m.To, Attended: b.Attended, What: b.What, Need: b.Need}
		answer, err := a.CheckBooking(ctx, ask, b.ID, now)
		if err == nil {
			err = answer.refusal(ask)
		}
		if err != nil {
			return err
		}
		b.Offer = &store.ProposedMove{Machine: m.Machine, Begin: m.At, Span: schedule.Span{From: m.From, To: m.To},
			By: who.Name,
			At: now, Why: m.Why}
		if err := a.store.SaveBooking(ctx, b); err != nil {
			return changedMeanwhile(err)
		}
		return a.tellOwner(ctx, b, who, fmt.Sprintf("%s proposes to move your booking of %s: %s", who.Name,
			when(b, m.At, a.store.Location()), m.Why), now)
	})
}

// AnswerOffer takes a move that was proposed, or leaves the booking where it is.
func (a *App) AnswerOffer(ctx context.Context, id int64, version int, yes bool, who Booker, now time.Time) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		b, err := a.ownBooking(ctx, id, version, who)
		switch {
		case err != nil:
			return err
		case b.Offer == nil:
			return refuse("no move is proposed for this booking")
		case yes:
			o := b.Offer
			return a.move(ctx, b, Move{Machine: o.Machine, At: o.Begin, From: o.From, To: o.To}, who, now)
		}
		b.Offer = nil
		return changedMeanwhile(a.store.SaveBooking(ctx, b))
	})
}
