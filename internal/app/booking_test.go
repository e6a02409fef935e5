package app_test

import (
	"bytes"
	"context"
	"errors"
	"io"
	"strings"
	"sync"
	"testing"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/core/civil"
	"wardifex/internal/ical"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// large is what is read of a machine that prints 300 mm wide at 260 °C.
var large = map[string]string{"frame.x": "300", "frame.y": "300", "frame.z": "300", "hotend.rating": "260"}

func account(t *testing.T, s *store.Store, name, role string, skills ...string) app.Booker {
	t.Helper()
	id, err := s.AddUser(ctx, store.User{Name: name, DisplayName: strings.ToUpper(name[:1]) + name[1:], Role: role,
		Skills: skills})
	must(t, err)
	return app.Booker{Account: id, Name: strings.ToUpper(name[:1]) + name[1:], Lead: role == store.Lead}
}

// tomorrow is an hour of the day after now.
func tomorrow(hour int) time.Time { return time.Date(2026, 5, 2, hour, 0, 0, 0, time.UTC) }

func ask(machine int64, from, to int) app.BookingAsk {
	return app.BookingAsk{Machine: machine, From: tomorrow(from), To: tomorrow(to), Attended: true, What: "a lid"}
}

// A machine is booked, refused with the reason, and another that can do the job is offered; only its
// owner or a lead moves a booking, and an offer moves nothing before its owner says yes.
func TestBookings(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	a := does(s)
	avocet, bittern := add(t, s, "Avocet", large), add(t, s, "Bittern", large)
	add(t, s, "Curlew", map[string]string{"frame.x": "100", "frame.y": "100", "frame.z": "100"})
	pia, ole, lead := account(t, s, "pia", store.Member), account(t, s, "ole", store.Member), account(t, s, "ansa",
		store.Lead)

	id, err := a.Book(ctx, ask(avocet, 10, 14), pia, now)
	must(t, err)
	_, err = a.Book(ctx, ask(avocet, 13, 15), ole, now)
	refused(t, err, "Pia has it from 2 May 10:00 to 14:00")
	if _, err = a.Book(ctx, ask(avocet, 14, 15), ole, now); err != nil {
		t.Errorf("right after it: %v", err)
	}
	answer, err := a.CheckBooking(ctx, ask(avocet, 10, 12), 0, now)
	must(t, err)
	if len(answer.Refused) != 1 || len(answer.Offers) != 2 || answer.Offers[0].Name != "Bittern" ||
		answer.Offers[1].Name != "Avocet" || !answer.Offers[1].From.Equal(tomorrow(15)) {
		t.Errorf("%+v", answer)
	}
	unattended := ask(avocet, 20, 22)
	unattended.Attended = false
	_, err = a.Book(ctx, unattended, ole, now)
	refused(t, err, "not proven")

	to := app.Move{Machine: bittern, At: tomorrow(10), From: tomorrow(10), To: tomorrow(14)}
	refused(t, a.MoveBooking(ctx, id, 1, to, ole, now), "only Pia or a lead")
	refused(t, a.CancelBooking(ctx, id, 1, time.Time{}, ole, now), "only Pia or a lead")
	must(t, a.OfferMove(ctx, id, 1, app.Move{Machine: bittern, At: to.At, From: to.From, To: to.To, Why: "a fault"}, ole,
		now))
	mine := func() app.ShownBooking {
		t.Helper()
		all, err := a.MyBookings(ctx, pia.Account, now)
		must(t, err)
		if len(all) != 1 {
			t.Fatalf("%+v", all)
		}
		return all[0]
	}
	if b := mine(); b.Machine != "Avocet" || b.Offer == nil || b.OfferOn != "Bittern" {
		t.Errorf("an offer moved it, or is not shown: %+v", b)
	}
	notices, err := a.Notices(ctx, pia.Account)
	must(t, err)
	if notices.Unread != 1 || !strings.Contains(notices.Notices[0].Words, "proposes to move") {
		t.Errorf("%+v", notices)
	}
	var conflict *app.Conflict
	if err := a.AnswerOffer(ctx, id, 1, true, pia, now); !errors.As(err, &conflict) {
		t.Errorf("an answer over another version: %v", err)
	}
	must(t, a.AnswerOffer(ctx, id, 2, true, pia, now))
	if b := mine(); b.Machine != "Bittern" || b.Offer != nil {
		t.Errorf("not moved: %+v", b)
	}
	must(t, a.CancelBooking(ctx, id, 3, time.Time{}, lead, now))
	if all, err := a.MyBookings(ctx, pia.Account, now); err != nil || len(all) != 0 {
		t.Errorf("%+v, %v", all, err)
	}
}

// Of several who book a machine at the same moment one has it.
func TestTwoBookAtOnce(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	avocet := add(t, s, "Avocet", large)
	pia := account(t, s, "pia", store.Member)
	var taken int
	var mu sync.Mutex
	var wg sync.WaitGroup
	for range 6 {
		wg.Go(func() {
			if _, err := does(s).Book(ctx, ask(avocet, 10, 14), pia, now); err == nil {
				mu.Lock()
				defer mu.Unlock()
				taken++
			}
		})
	}
	wg.Wait()
	if taken != 1 {
		t.Errorf("%d have it", taken)
	}
}

// A booking that repeats stands at each of its times; those that cannot be had are left out where
// that is asked for, and one time is cancelled or moved by itself.
func TestBookingsThatRepeat(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	a := does(s)
	avocet, bittern := add(t, s, "Avocet", large), add(t, s, "Bittern", large)
	pia := account(t, s, "pia", store.Member)
	in3weeks := ask(avocet, 11, 12)
	in3weeks.From, in3weeks.To = in3weeks.From.AddDate(0, 0, 21), in3weeks.To.AddDate(0, 0, 21)
	_, err := a.Book(ctx, in3weeks, pia, now)
	must(t, err)
	weekly := ask(avocet, 10, 14)
	weekly.Rule = "FREQ=WEEKLY;COUNT=6"
	_, err = a.Book(ctx, weekly, pia, now)
	refused(t, err, "1 of the 6 times cannot be had. On 23 May 2026")
	weekly.LeaveOut = true
	id, err := a.Book(ctx, weekly, pia, now)
	must(t, err)
	third := tomorrow(10).AddDate(0, 0, 7)
	must(t, a.CancelBooking(ctx, id, 1, third, pia, now))
	fifth := tomorrow(10).AddDate(0, 0, 28)
	must(t, a.MoveBooking(ctx, id, 2, app.Move{Machine: bittern, At: fifth, From: fifth, To: fifth.Add(4 * time.Hour)},
		pia, now))
	calendar, err := a.CalendarOf(ctx, civil.Of(now), 60, app.Viewer{Account: pia.Account}, now)
	must(t, err)
	var got []string
	for _, b := range calendar.Bookings {
		got = append(got, b.Machine+b.From.Format(" 2 Jan 15"))
	}
	want := "Avocet 2 May 10, Avocet 16 May 10, Avocet 23 May 11, Bittern 30 May 10, Avocet 6 Jun 10"
	if is := strings.Join(got, ", "); is != want {
		t.Errorf("%s; want %s", is, want)
	}
	for rule, says := range map[string]string{"FREQ=HOURLY": "more than once a day", "FREQ=WEEKLY": "for more than a year",
		"often":                            "cannot be read",
		"FREQ=DAILY;INTERVAL=1;BYHOUR=1,2": "more than once a day"} {
		weekly.Rule = rule
		_, err := a.Book(ctx, weekly, pia, now)
		refused(t, err, says)
	}
	long := ask(avocet, 10, 14)
	long.To, long.Rule = long.To.AddDate(0, 0, 2), "FREQ=DAILY;COUNT=3"
	_, err = a.Book(ctx, long, pia, now)
	refused(t, err, "before it has ended")
}

// Nobody but its owner and who works in the shop sees whose a booking is.
func TestWhoSeesABooking(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	a := does(s)
	avocet := add(t, s, "Avocet", large)
	pia, ole := account(t, s, "pia", store.Member), account(t, s, "ole", store.Member)
	_, err := a.Book(ctx, ask(avocet, 10, 14), pia, now)
	must(t, err)
	for name, c := range map[string]struct {
		who  app.Viewer
		sees string
	}{"its owner": {app.Viewer{Account: pia.Account}, "Pia"}, "another member": {app.Viewer{Account: ole.Account}, ""},
		"a technician": {app.Viewer{Account: ole.Account, Staff: true}, "Pia"}} {
		calendar, err := a.CalendarOf(ctx, civil.Of(now), 7, c.who, now)
		must(t, err)
		if len(calendar.Bookings) != 1 || calendar.Bookings[0].Who != c.sees ||
			(calendar.Bookings[0].What == "") != (c.sees == "") {
			t.Errorf("%s: %+v", name, calendar.Bookings)
		}
	}
}

// A person's calendar is read by its link until that ends; what is imported is judged like any
// booking; a calendar from outside takes its times, and one that cannot be read leaves what it said.
func TestCalendarsInAndOut(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	a := does(s)
	avocet := add(t, s, "Avocet", large)
	pia := account(t, s, "pia", store.Member)
	_, err := a.Book(ctx, ask(avocet, 10, 14), pia, now)
	must(t, err)

	made, err := a.MakeLink(ctx, pia.Account, now)
	must(t, err)
	secret := strings.TrimSuffix(strings.TrimPrefix(made.Path, app.CalendarPath), ".ics")
	var text bytes.Buffer
	must(t, a.WriteLinked(ctx, &text, secret, now))
	events, skipped, err := ical.Read(bytes.NewReader(text.Bytes()), time.UTC)
	if err != nil || len(skipped) != 0 || len(events) != 1 || !events[0].From.Equal(tomorrow(10)) ||
		events[0].Summary != "Avocet: a lid" {
		t.Errorf("%+v, %v, %v", events, skipped, err)
	}
	must(t, a.EndLink(ctx, pia.Account, made.ID, now))
	other, err := a.MakeLink(ctx, pia.Account, now)
	must(t, err)
	must(t, a.ResetPassword(ctx, pia.Account, "kettle moth arrow"))
	for _, gone := range []string{secret, strings.TrimSuffix(strings.TrimPrefix(other.Path, app.CalendarPath), ".ics"),
		"guess", ""} {
		if err := a.WriteLinked(ctx, io.Discard, gone, now); !errors.Is(err, app.ErrNotFound) {
			t.Errorf("%q: %v", gone, err)
		}
	}

	file := "BEGIN:VCALENDAR\r\n" +
		"BEGIN:VEVENT\r\nUID:1\r\nSUMMARY:course\r\nDTSTART:20260502T120000Z\r\nDURATION:PT1H\r\nEND:VEVENT\r\n" +
		"BEGIN:VEVENT\r\nUID:2\r\nSUMMARY:club\r\nDTSTART:20260502T160000Z\r\nDURATION:PT1H\r\n" +
		"RRULE:FREQ=WEEKLY;COUNT=8\r\nEND:VEVENT\r\n" +
		"BEGIN:VEVENT\r\nUID:3\r\nDTSTART:soon\r\nEND:VEVENT\r\n" +
		"BEGIN:VEVENT\r\nUID:4\r\nDTSTART:20260502T160000Z\r\nDURATION:PT1H\r\nRRULE:FREQ=MONTHLY;BYDAY=-6MO\r\n" +
		"END:VEVENT\r\nEND:VCALENDAR\r\n"
	got, err := a.ImportCalendar(ctx, avocet, true, []byte(file), pia, now)
	if err != nil || got.Taken != 1 || len(got.Problems) != 3 || !strings.Contains(got.Problems[2].Says, "Pia has it") {
		t.Errorf("%+v, %v", got, err)
	}

	outside, fails := file, error(nil)
	fetch := func(context.Context, string) (io.ReadCloser, error) {
		return io.NopCloser(strings.NewReader(outside)), fails
	}
	refused(t, a.AddFeed(ctx, store.Feed{URL: "file:///etc/passwd", MachineID: avocet, Name: "x"}, fetch, "Ansa", now),
		"https://")
	refused(t, a.AddFeed(ctx, store.Feed{URL: "https://a:b@club.example/", MachineID: avocet, Name: "x"}, fetch, "Ansa",
		now),
		"without a name")
	outside = strings.ReplaceAll(file, "20260502T12", "20260502T20")
	must(t, a.AddFeed(ctx, store.Feed{URL: "https://club.example/a.ics", MachineID: avocet, Name: "Club"}, fetch, "Ansa",
		now))
	must(t, a.AddFeed(ctx, store.Feed{URL: "https://club.example/a.ics", MachineID: avocet, Name: "Club"}, fetch, "Ansa",
		now)) // sent again: the list below has it once
	refused(t, a.AddFeed(ctx, store.Feed{URL: "https://club.example/a.ics", MachineID: avocet, Name: "Choir"}, fetch,
		"Ansa", now), "as “Club”")
	_, err = a.Book(ctx, ask(avocet, 20, 21), pia, now)
	refused(t, err, "Club has it")
	fails = errors.New("nothing answered there")
	must(t, a.ReadFeeds(ctx, fetch))
	_, err = a.Book(ctx, ask(avocet, 20, 21), pia, now)
	refused(t, err, "Club has it")
	calendar, err := a.CalendarOf(ctx, civil.Of(now), 7, app.Viewer{Staff: true}, now)
	must(t, err)
	if len(calendar.Feeds) != 1 || calendar.Feeds[0].URL != "https://club.example/…" ||
		!strings.Contains(calendar.Feeds[0].Says, "It was not read: nothing answered there") {
		t.Errorf("%+v", calendar.Feeds)
	}
	// One that breaks its reader keeps no other from being read.
	must(t, a.AddFeed(ctx, store.Feed{URL: "https://club.example/b.ics", MachineID: avocet, Name: "Band"}, fetch, "Ansa",
		now))
	fails = nil
	must(t, a.ReadFeeds(ctx, func(ctx context.Context, address string) (io.ReadCloser, error) {
		if strings.HasSuffix(address, "a.ics") {
			panic("a reader broke")
		}
		return fetch(ctx, address)
	}))
	calendar, err = a.CalendarOf(ctx, civil.Of(now), 7, app.Viewer{Staff: true}, now)
	must(t, err)
	for i, says := range []string{"broke its reader", "times were read"} {
		if !strings.Contains(calendar.Feeds[i].Says, says) {
			t.Errorf("%+v", calendar.Feeds[i])
		}
	}
	must(t, a.EndFeed(ctx, calendar.Feeds[1].ID, now))
	must(t, a.EndFeed(ctx, calendar.Feeds[0].ID, now))
	_, err = a.Book(ctx, ask(avocet, 20, 21), pia, now)
	must(t, err)
}
