package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"wardifex/internal/app"
	"wardifex/internal/core/civil"
	"wardifex/internal/demo"
	"wardifex/internal/store"
)

// accountOf is the account that signs in by a name.
func accountOf(t *testing.T, name string) store.User {
	t.Helper()
	u, err := roomOf(t).store.UserNamed(t.Context(), name)
	if err != nil {
		t.Fatal(err)
	}
	return u
}

// planOf is what is planned in the test's room.
func planOf(t *testing.T) app.PlanView {
	t.Helper()
	view, err := does(roomOf(t).store).PlanOf(t.Context(), demo.Today)
	if err != nil {
		t.Fatal(err)
	}
	return view
}

// booked are the times at which machines are booked in the weeks that are planned.
func booked(t *testing.T) []app.ShownBooking {
	t.Helper()
	calendar, err := does(roomOf(t).store).CalendarOf(t.Context(), civil.Of(demo.Today), 28, app.Viewer{Staff: true},
		demo.Today)
	if err != nil {
		t.Fatal(err)
	}
	return calendar.Bookings
}

// A lead has four weeks planned around bookings, puts the plan into force, and pins one piece of work
// with the keyboard; it stays there when the plan is adjusted.
func TestALeadPlansFourWeeks(t *testing.T) {
	t.Parallel()
	if err := roomOf(t).app.StartJobs(); err != nil {
		t.Fatal(err)
	}
	p := open(t, 1280, 800)
	p.signIn("lead")
	p.visit("/weeks")
	p.sees("jobs are placed") // what is in force has come
	p.press("Plan the weeks")
	p.sees("A plan is being made.")
	p.press("Stop: keep the best so far")
	p.sees("A plan is proposed.")
	p.press("Put it into force")
	p.sees("is in force")
	view := planOf(t)
	for _, w := range view.Work {
		for _, b := range booked(t) {
			if w.MachineID == b.MachineID && w.From.Before(b.To) && b.From.Before(w.To) {
				t.Errorf("%s on %s lies over the booking of %s", w.Title, w.Machine, b.Who)
			}
		}
	}

	// The last piece of work of the plan goes one step later, by keyboard.
	last := view.Work[len(view.Work)-1]
	p.goes(fmt.Sprintf("/calendar?days=1&from=%s", civil.Of(last.From)))
	bar := fmt.Sprintf(`document.querySelector('[data-bar=%q]')`, last.Key)
	p.until("the bar", bar+` !== null`)
	p.do(chromedp.Evaluate[chromedp.Void](bar + `.focus()`))
	p.do(chromedp.KeyEvent("m"))
	p.sees("Arrow keys move it")
	for range 2 {
		p.do(chromedp.KeyEvent(kb.ArrowLeft))
	}
	p.do(chromedp.KeyEvent(kb.Enter))
	p.sees("Pinned there")
	pinnedAt := last.From.Add(-30 * time.Minute)
	stands := func() bool {
		for _, w := range planOf(t).Work {
			if w.Key == last.Key {
				return w.Pinned && w.From.Equal(pinnedAt)
			}
		}
		return false
	}
	if !stands() {
		t.Fatalf("%s is not pinned at %v", last.Key, pinnedAt)
	}
	p.goes("/weeks")
	p.press("Adjust with few moves")
	p.sees("A plan is proposed.")
	p.press("Put it into force")
	p.sees("is in force")
	if !stands() {
		t.Error("the pin did not hold")
	}
}

// A technician falls ill: the leave is noted, the plan is adjusted, nothing is left to them, and
// those who got more are told.
func TestATechnicianFallsIll(t *testing.T) {
	t.Parallel()
	if err := roomOf(t).app.StartJobs(); err != nil {
		t.Fatal(err)
	}
	joren := accountOf(t, "technician")
	before := map[string]app.ShownWork{}
	for _, w := range planOf(t).Work {
		before[w.Key] = w
	}
	p := open(t, 1280, 800)
	p.slows("/api/days") // what is sent before its days are read goes when they are
	p.signIn("technician")
	p.visit("/account")
	p.types("From", "20 Nov 2026")
	p.types("Until, with that day", "27 Nov 2026")
	p.types("Why", "ill")
	p.press("Note the leave")
	p.sees("20 Nov 2026 to 27 Nov 2026: ill")
	lead := open(t, 1280, 800)
	lead.signIn("lead")
	lead.visit("/weeks")
	lead.press("Adjust with few moves")
	lead.sees("A plan is proposed.")
	lead.press("Put it into force")
	lead.sees("is in force")
	moved := 0
	for _, w := range planOf(t).Work {
		if w.Account == joren.ID && civil.Of(w.From) <= civil.Of(demo.Today)+7 {
			t.Errorf("%s is left to somebody who is ill, on %v", w.Key, w.From)
		}
		if was, known := before[w.Key]; known && was.Account != joren.ID && (was.Account != w.Account ||
			!was.From.Equal(w.From)) {
			moved++
		}
	}
	if moved > len(before)/10 {
		t.Errorf("%d pieces of others' work moved of %d", moved, len(before))
	}
	notices, err := does(roomOf(t).store).Notices(t.Context(), accountOf(t, "volunteer").ID)
	if err != nil || notices.Unread == 0 || !strings.Contains(notices.Notices[0].Words, "planned") {
		t.Errorf("the volunteer is told nothing: %+v, %v", notices, err)
	}
}

// A machine fails ten minutes before a booking: what fits before is shown, one press proposes
// another machine, and it moves when the member says yes.
func TestAMachineFailsBeforeABooking(t *testing.T) {
	t.Parallel()
	s := roomOf(t).store
	a := does(s)
	pia := accountOf(t, "member")
	soon := demo.Today.Add(10 * time.Minute)
	machine := byName(t, "Bittern")
	who := app.Booker{Account: pia.ID, Name: pia.DisplayName}
	if _, err := s.AddBooking(t.Context(), store.Booking{MachineID: machine, AccountID: &pia.ID, Who: pia.DisplayName,
		What:   "hinges",
		Starts: soon, Ends: soon.Add(2 * time.Hour), Attended: true, Zone: "UTC", UID: "x", MadeBy: who.Name,
		MadeAt: demo.Today}); err != nil {
		t.Fatal(err)
	}
	// The shop opens at 14:00 on a Friday: this is a key holder's hour.
	if err := openAllDay(t); err != nil {
		t.Fatal(err)
	}
	if _, _, err := a.ReportFault(t.Context(), machine, "extruder-clicks", "it clicks", "x", demo.Today); err != nil {
		t.Fatal(err)
	}
	p := open(t, 800, 1280)
	p.signIn("technician")
	p.visit(fmt.Sprintf("/faults?machine=%d", machine))
	p.sees(pia.DisplayName + " has it in 10 min:")
	p.sees("fits before: too cold for the filament, about 5 min")
	p.sees("does not fit before: nozzle blocked, about 30 min")
	name := value[string](p,
		`[...document.querySelectorAll('button')].find((b) => /, (Loft|Quay|Slip)$/.test(b.innerText)).innerText`)
	p.press(name)
	p.sees("It waits for " + pia.DisplayName)
	other, _, _ := strings.Cut(name, ",")
	member := open(t, 390, 844)
	member.signIn("member")
	member.press("Notices, 1 new")
	member.sees("proposes to move your booking")
	member.visit("/bookings")
	member.sees(other)
	member.press("Move it there")
	member.sees("The booking is moved")
	mine, err := a.MyBookings(t.Context(), pia.ID, demo.Today)
	if err != nil || mine[0].Machine != other || mine[0].What != "hinges" {
		t.Errorf("%+v, %v", mine, err)
	}
}

// A volunteer who comes once a week opens the day, sees what is theirs, and works it off.
func TestAVolunteersDay(t *testing.T) {
	t.Parallel()
	p := open(t, 800, 1280)
	p.signIn("volunteer")
	p.visit("/today")
	p.sees("Nothing for today. Next, on Sat 21 Nov:")
	// Saturday comes: what was planned for the day is theirs now.
	if _, err := roomOf(t).store.SQL.Exec(`update planned_work set starts = starts - interval '1 day',
		ends = ends - interval '1 day'
		where account_id = $1 and starts < '2026-11-22'`, accountOf(t, "volunteer").ID); err != nil {
		t.Fatal(err)
	}
	p.visit("/today")
	p.sees("Take along:")
	all := value[int](p, `document.querySelectorAll('button[aria-label$="is done"]').length`)
	if all < 3 {
		t.Fatalf("%d pieces of work on the page", all)
	}
	name := value[string](p, `document.querySelector('button[aria-label$="is done"]').ariaLabel`)
	p.press(name)
	p.press("Undo")
	p.until("it is on the list again", fmt.Sprintf(
		`document.querySelectorAll('button[aria-label$="is done"]').length === %d`, all))
	for left := all; left > all-3; left-- {
		name := value[string](p, `document.querySelector('button[aria-label$="is done"]').ariaLabel`)
		p.press(name)
		p.until("it is off the page", fmt.Sprintf(`document.querySelectorAll('button[aria-label$="is done"]').length < %d`,
			left))
	}
	done, err := roomOf(t).store.DoneWithin(t.Context(), demo.Today.Add(-time.Hour), demo.Today.Add(time.Hour))
	if err != nil || len(done) != 3 {
		t.Errorf("%+v, %v", done, err)
	}
}

// A member books a machine from the list of those that can be used, is refused one that is not left
// alone and one that another has, each with the reason, and takes what is offered.
func TestAMemberBooks(t *testing.T) {
	t.Parallel()
	p := open(t, 390, 844)
	p.signIn("member")
	p.visit("/use")
	p.press("Book Avocet")
	p.types("What you print", "a lid")
	p.types("Day", "21 Nov 2026")
	p.types("From", "12:00")
	p.types("Until", "13:00")
	p.sees("Avocet cannot be booked so:")
	p.sees("has it from 21 Nov 11:00 to 15:00")
	p.press("Sat 21 Nov, 15:00 to 16:00")
	p.sees("Avocet is free then.")
	p.press("Book it")
	p.sees("Avocet is booked")
	p.press("Book Kittiwake")
	p.types("What you print", "a lid")
	p.types("Day", "25 Nov 2026")
	p.types("From", "16:00")
	p.types("Until", "18:00")
	p.press("I stay with the machine while it prints")
	p.sees("it is not left alone")
	p.goes("/bookings")
	p.sees("Avocet, Sat 21 Nov, 15:00 to 16:00")
	mine, err := does(roomOf(t).store).MyBookings(t.Context(), accountOf(t, "member").ID, demo.Today)
	if err != nil || len(mine) != 3 {
		t.Errorf("%+v, %v", mine, err)
	}
}

func byName(t *testing.T, name string) int64 {
	t.Helper()
	fleet, err := roomOf(t).store.Fleet(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	for _, m := range fleet {
		if m.Name == name {
			return m.ID
		}
	}
	t.Fatalf("there is no %s", name)
	return 0
}

// openAllDay has the test's shop tell no opening hours, which is open always.
func openAllDay(t *testing.T) error {
	t.Helper()
	s := roomOf(t).store
	is, err := s.Shop(t.Context())
	if err != nil {
		return err
	}
	is.Opening = nil
	_, err = does(s).SaveShop(t.Context(), is.Settings, is.TimeZone, is.Version, "x", demo.Today)
	return err
}

// A booking is dragged with the pointer to another machine by a lead, which is the lead's yes; a technician who drags
// a member's proposes it.
func TestABookingIsDragged(t *testing.T) {
	t.Parallel()
	const drag = `((key, rows, px) => {
		const bar = document.querySelector('[data-bar^="' + key + '"]');
		const at = bar.getBoundingClientRect();
		const row = Number(bar.closest('[data-row]').dataset.row) + rows;
		const under = document.querySelector('[data-row="' + row + '"]').getBoundingClientRect();
		const [x, y] = [at.left + 5, at.top + 5];
		const send = (to, type, x, y) =>
			to.dispatchEvent(new PointerEvent(type, {bubbles: true, button: 0, clientX: x, clientY: y}));
		send(bar, 'pointerdown', x, y);
		send(window, 'pointermove', x + px, under.top + 8);
		send(window, 'pointermove', x + px, under.top + 8);
		send(window, 'pointerup', x + px, under.top + 8);
	})`
	s := roomOf(t).store
	var avocet app.ShownBooking
	for _, b := range booked(t) {
		if b.What == "lamp shade" {
			avocet = b
		}
	}
	bar := fmt.Sprintf("booking %d ", avocet.ID)
	address := fmt.Sprintf("/calendar?days=1&from=%s", civil.Of(avocet.From))
	p := open(t, 1280, 800)
	p.signIn("technician")
	p.visit(address)
	p.until("the bar", fmt.Sprintf(`document.querySelector('[data-bar^=%q]') !== null`, bar))
	p.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf("%s(%q, 1, 0)", drag, bar)))
	p.sees("Proposed to " + avocet.Who)
	lead := open(t, 1280, 800)
	lead.signIn("lead")
	lead.visit(address)
	lead.until("the bar", fmt.Sprintf(`document.querySelector('[data-bar^=%q]') !== null`, bar))
	lead.do(chromedp.Evaluate[chromedp.Void](fmt.Sprintf("%s(%q, 1, 0)", drag, bar)))
	lead.sees("The booking is moved")
	mine, err := does(s).MyBookings(t.Context(), accountOf(t, "member").ID, demo.Today)
	if err != nil || mine[0].What != "lamp shade" || mine[0].Machine != "Bittern" || !mine[0].From.Equal(avocet.From) {
		t.Errorf("%+v, %v", mine, err)
	}
}

// A calendar file comes in as bookings, each that can be had, with what is not taken and why.
func TestACalendarFileComesIn(t *testing.T) {
	t.Parallel()
	file := filepath.Join(t.TempDir(), "club.ics")
	text := strings.Join([]string{"BEGIN:VCALENDAR",
		"BEGIN:VEVENT", "UID:1", "SUMMARY:club night", "DTSTART:20261127T180000", "DURATION:PT2H",
		"RRULE:FREQ=WEEKLY;COUNT=3",
		"END:VEVENT",
		"BEGIN:VEVENT", "UID:2", "SUMMARY:for ever", "DTSTART:20261128T120000", "DURATION:PT2H", "RRULE:FREQ=WEEKLY",
		"END:VEVENT",
		"BEGIN:VEVENT", "UID:3", "DTSTART:soon", "END:VEVENT", "END:VCALENDAR", ""}, "\r\n")
	if err := os.WriteFile(file, []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
	p := open(t, 1280, 800)
	p.signIn("lead")
	p.visit("/calendar")
	p.press("Calendar files …")
	p.do(chromedp.SetUploadFiles(`#calendar-file`, []string{file}))
	p.chooses("For which machine", "Ibis")
	p.press("Import the bookings")
	p.sees("1 booking was taken.")
	p.sees("for ever: it repeats for more than a year")
	p.sees(`Line 16: "soon" is no time`)
	p.goes("/calendar?days=1&from=2026-12-04")
	p.until("the second of three times", `document.querySelector('[data-bar][aria-label*="club night"]') !== null`)
}
