package server

import (
	"bytes"
	"context"
	"errors"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"wardifex/internal/app"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/schedule"
	"wardifex/internal/core/shop"
	"wardifex/internal/ical"
	"wardifex/internal/store"
)

func (s *Server) calendarRoutes() {
	handle(s, store.Member, "GET", "/calendar", "calendar", "The shop over some days: open, booked, planned", s.calendar,
		fleetWide)
	handle(s, store.Member, "GET", "/bookings/mine", "my-bookings", "Your own coming bookings",
		func(ctx context.Context, u user, _ *none) (*answer[[]app.ShownBooking], error) {
			return answerOf(s.app.MyBookings(ctx, u.ID, s.now()))
		})
	handle(s, store.Member, "GET", "/bookings/check", "check-booking",
		"Whether a machine can be booked so, and what could instead",
		s.checkBooking, fleetWide)
	handle(s, store.Member, "POST", "/bookings", "book", "Book a machine", s.book)
	handle(s, store.Member, "POST", "/bookings/{id}/cancel", "cancel-booking", "Cancel a booking, or one time of it",
		s.cancelBooking)
	handle(s, store.Member, "POST", "/bookings/{id}/move", "move-booking", "Move a booking: its owner or a lead",
		s.moveBooking)
	handle(s, store.Technician, "POST", "/bookings/{id}/offer", "offer-move", "Propose a move to a booking's owner",
		s.offerMove)
	handle(s, store.Member, "POST", "/bookings/{id}/answer", "answer-offer", "Take a move that was proposed, or not",
		s.answerOffer)
	handle(s, store.Lead, "POST", "/closures", "close-shop", "Close the shop for some days",
		func(ctx context.Context, _ user, in *closeShop) (*noContent, error) {
			return emptyAnswer(s.app.CloseShop(ctx, schedule.Closure{From: in.Body.From, To: in.Body.To, Why: in.Body.Why}))
		})
	handle(s, store.Lead, "POST", "/closures/{id}/drop", "open-shop", "Take a closure away",
		func(ctx context.Context, _ user, in *ByID) (*noContent, error) {
			return emptyAnswer(s.app.OpenShop(ctx, in.ID))
		})
	handle(s, store.Lead, "PUT", "/people/{id}/shifts", "save-shifts", "Say when somebody works every week",
		func(ctx context.Context, _ user, in *saveShifts) (*noContent, error) {
			return emptyAnswer(s.app.SaveShifts(ctx, in.ID, in.Body.Shifts, in.Body.Version))
		})
	handle(s, store.Technician, "POST", "/people/{id}/leaves", "take-leave",
		"Say when somebody does not work: oneself, or as a lead anybody",
		func(ctx context.Context, u user, in *takeLeave) (*noContent, error) {
			if err := oneself(u, in.ID); err != nil {
				return nil, err
			}
			return emptyAnswer(s.app.TakeLeave(ctx, in.ID, schedule.Leave{From: in.Body.From, To: in.Body.To, Why: in.Body.Why}))
		})
	handle(s, store.Technician, "POST", "/people/{id}/leaves/{leave}/drop", "drop-leave", "Take a leave away",
		func(ctx context.Context, u user, in *dropLeave) (*noContent, error) {
			if err := oneself(u, in.ID); err != nil {
				return nil, err
			}
			return emptyAnswer(s.app.DropLeave(ctx, in.ID, in.Leave))
		})
	handle(s, store.Technician, "POST", "/calendar/import", "import-calendar",
		"Book a machine for what a calendar file says",
		s.importCalendar)
	handle(s, store.Lead, "POST", "/calendar/feeds", "add-feed", "Read a calendar from outside for a machine", s.addFeed,
		ownTransactions)
	handle(s, store.Lead, "POST", "/calendar/feeds/{id}/end", "end-feed", "Read a calendar from outside no more",
		func(ctx context.Context, _ user, in *ByID) (*noContent, error) {
			return emptyAnswer(s.app.EndFeed(ctx, in.ID, s.now()))
		})
	handle(s, store.Member, "GET", "/calendar/links", "calendar-links",
		"Links by which your calendar is read from outside",
		func(ctx context.Context, u user, _ *none) (*answer[[]store.CalendarLink], error) {
			return answerOf(s.app.Links(ctx, u.ID))
		}, personal)
	handle(s, store.Member, "POST", "/calendar/links", "make-calendar-link", "Make such a link; it is told this once",
		func(ctx context.Context, u user, _ *none) (*answer[app.MadeLink], error) {
			return answerOf(s.app.MakeLink(ctx, u.ID, s.now()))
		}, ownTransactions, personal)
	handle(s, store.Member, "POST", "/calendar/links/{id}/end", "end-calendar-link", "End such a link",
		func(ctx context.Context, u user, in *ByID) (*noContent, error) {
			return emptyAnswer(s.app.EndLink(ctx, u.ID, in.ID, s.now()))
		}, personal)
	handle(s, store.Member, "GET", "/notices", "notices", "What you are told",
		func(ctx context.Context, u user, _ *none) (*answer[app.NoticeList], error) {
			return answerOf(s.app.Notices(ctx, u.ID))
		})
	handle(s, store.Member, "POST", "/notices/read", "read-notices", "Note that you have seen them",
		func(ctx context.Context, u user, in *readNotices) (*noContent, error) {
			return emptyAnswer(s.app.ReadNotices(ctx, u.ID, in.Body.UpTo, s.now()))
		})
}

// oneself refuses a technician to set for somebody else what only they or a lead do.
func oneself(u user, account int64) error {
	if u.Role == store.Lead || u.ID == account {
		return nil
	}
	return newProblem(http.StatusForbidden, "Only they themselves or a lead say when somebody does not work.", nil)
}

func booker(u user) app.Booker {
	return app.Booker{Account: u.ID, Name: u.Name, Lead: u.Role == store.Lead}
}

type calendarDays struct {
	From string `query:"from" doc:"First day, ISO 8601; today where it is empty"`
	Days int    `query:"days" minimum:"1" maximum:"62" default:"7"`
}

func (s *Server) calendar(ctx context.Context, u user, in *calendarDays) (*answer[app.Calendar], error) {
	from := civil.Of(s.now())
	if in.From != "" {
		day, err := civil.ParseDay(in.From, civil.Unsaid)
		if err != nil {
			return nil, app.Refused(err)
		}
		from = day
	}
	who := app.Viewer{Account: u.ID, Staff: u.Role != store.Member}
	return answerOf(s.app.CalendarOf(ctx, from, in.Days, who, s.now()))
}

// shopMoment reads a moment: with its offset, or on the shop's clock without one.
func (s *Server) shopMoment(what, text string) (time.Time, error) {
	if at, err := time.Parse(time.RFC3339, text); err == nil {
		return at.In(s.Store.Location()), nil
	}
	for _, form := range []string{"2006-01-02T15:04", "2006-01-02T15:04:05"} {
		if at, err := time.ParseInLocation(form, text, s.Store.Location()); err == nil {
			return at, nil
		}
	}
	return time.Time{}, newProblem(http.StatusUnprocessableEntity,
		what+": write a moment such as 2026-11-27T14:00, on the shop's clock.", nil)
}

func (s *Server) shopSpan(from, to string) (span schedule.Span, err error) {
	if span.From, err = s.shopMoment("From", from); err != nil {
		return span, err
	}
	span.To, err = s.shopMoment("To", to)
	return span, err
}

type checkBooking struct {
	Machine  int64   `query:"machine" required:"true"`
	From     string  `query:"from" required:"true" doc:"ISO 8601; on the shop's clock without an offset"`
	To       string  `query:"to" required:"true"`
	Attended bool    `query:"attended"`
	Rule     string  `query:"rule" maxLength:"200"`
	Except   int64   `query:"except" doc:"A booking that is being moved"`
	X        float64 `query:"x" minimum:"0" maximum:"10000"`
	Y        float64 `query:"y" minimum:"0" maximum:"10000"`
	Z        float64 `query:"z" minimum:"0" maximum:"10000"`
	Hot      float64 `query:"hot" minimum:"0" maximum:"1000"`
}

func (s *Server) checkBooking(ctx context.Context, _ user, in *checkBooking) (*answer[app.BookingAnswer], error) {
	span, err := s.shopSpan(in.From, in.To)
	if err != nil {
		return nil, err
	}
	ask := app.BookingAsk{Machine: in.Machine, From: span.From, To: span.To, Attended: in.Attended, Rule: in.Rule,
		Need: maintenance.PrintJob{X: in.X, Y: in.Y, Z: in.Z, Hot: in.Hot}}
	return answerOf(s.app.CheckBooking(ctx, ask, in.Except, s.now()))
}

type book struct {
	Body struct {
		Machine  int64                `json:"machine"`
		From     string               `json:"from" doc:"ISO 8601; on the shop's clock without an offset"`
		To       string               `json:"to"`
		Attended bool                 `json:"attended" doc:"They stay with the machine"`
		What     string               `json:"what" maxLength:"120" doc:"What is printed"`
		Need     maintenance.PrintJob `json:"need,omitempty"`
		Rule     string               `json:"rule,omitempty" maxLength:"200" doc:"How it repeats: FREQ=WEEKLY;COUNT=8"`
		LeaveOut bool                 `json:"leaveOut,omitempty" doc:"Times at which the machine cannot be had are left out"`
	}
}

func (s *Server) book(ctx context.Context, u user, in *book) (*answer[Made], error) {
	b := in.Body
	span, err := s.shopSpan(b.From, b.To)
	if err != nil {
		return nil, err
	}
	ask := app.BookingAsk{Machine: b.Machine, From: span.From, To: span.To, Attended: b.Attended, What: b.What,
		Need: b.Need,
		Rule: b.Rule, LeaveOut: b.LeaveOut}
	id, err := s.app.Book(ctx, ask, booker(u), s.now())
	return answerOf(Made{id}, err)
}

type cancelBooking struct {
	ByID
	Body struct {
		Version int        `json:"version"`
		At      *time.Time `json:"at,omitempty" doc:"Begin of the one time that is cancelled; empty: all of it"`
	}
}

func (s *Server) cancelBooking(ctx context.Context, u user, in *cancelBooking) (*noContent, error) {
	var at time.Time
	if in.Body.At != nil {
		at = *in.Body.At
	}
	return emptyAnswer(s.app.CancelBooking(ctx, in.ID, in.Body.Version, at, booker(u), s.now()))
}

type moveBooking struct {
	ByID
	Body struct {
		Version int    `json:"version"`
		Machine int64  `json:"machine"`
		At      string `json:"at"   doc:"Begin of the time that is moved, as booked"`
		From    string `json:"from" doc:"ISO 8601; on the shop's clock without an offset"`
		To      string `json:"to"`
		Why     string `json:"why,omitempty" maxLength:"200"`
	}
}

func (s *Server) moveOf(in *moveBooking) (m app.Move, err error) {
	span, err := s.shopSpan(in.Body.From, in.Body.To)
	if err != nil {
		return m, err
	}
	m = app.Move{Machine: in.Body.Machine, From: span.From, To: span.To, Why: in.Body.Why}
	m.At, err = s.shopMoment("At", in.Body.At)
	return m, err
}

func (s *Server) moveBooking(ctx context.Context, u user, in *moveBooking) (*noContent, error) {
	m, err := s.moveOf(in)
	if err != nil {
		return nil, err
	}
	return emptyAnswer(s.app.MoveBooking(ctx, in.ID, in.Body.Version, m, booker(u), s.now()))
}

func (s *Server) offerMove(ctx context.Context, u user, in *moveBooking) (*noContent, error) {
	m, err := s.moveOf(in)
	if err != nil {
		return nil, err
	}
	return emptyAnswer(s.app.OfferMove(ctx, in.ID, in.Body.Version, m, booker(u), s.now()))
}

type answerOffer struct {
	ByID
	Body struct {
		Version int  `json:"version"`
		Yes     bool `json:"yes"`
	}
}

func (s *Server) answerOffer(ctx context.Context, u user, in *answerOffer) (*noContent, error) {
	return emptyAnswer(s.app.AnswerOffer(ctx, in.ID, in.Body.Version, in.Body.Yes, booker(u), s.now()))
}

type closeShop struct {
	Body struct {
		From civil.Day `json:"from"`
		To   civil.Day `json:"to" doc:"The last day of it"`
		Why  string    `json:"why" maxLength:"120"`
	}
}

type saveShifts struct {
	ByID
	Body struct {
		Shifts  []shop.Hours `json:"shifts" maxItems:"28"`
		Version int          `json:"version"`
	}
}

type takeLeave struct {
	ByID
	Body struct {
		From civil.Day `json:"from"`
		To   civil.Day `json:"to" doc:"The last day of it"`
		Why  string    `json:"why" maxLength:"120"`
	}
}

type dropLeave struct {
	ByID
	Leave int64 `path:"leave"`
}

type importCalendar struct {
	Body struct {
		Machine  int64  `json:"machine"`
		Attended bool   `json:"attended"`
		Text     string `json:"text" maxLength:"4194304" doc:"RFC 5545"`
	}
}

func (s *Server) importCalendar(ctx context.Context, u user, in *importCalendar) (*answer[app.ImportedCalendar],
	error) {
	return answerOf(s.app.ImportCalendar(ctx, in.Body.Machine, in.Body.Attended, []byte(in.Body.Text), booker(u), s.now()))
}

type addFeed struct {
	Body struct {
		URL      string `json:"url"  maxLength:"1000"`
		Machine  int64  `json:"machine"`
		Name     string `json:"name" maxLength:"80" doc:"Whose calendar it is"`
		Attended bool   `json:"attended"`
	}
}

func (s *Server) addFeed(ctx context.Context, u user, in *addFeed) (*noContent, error) {
	b := in.Body
	f := store.Feed{URL: b.URL, MachineID: b.Machine, Name: b.Name, Attended: b.Attended}
	return emptyAnswer(s.app.AddFeed(ctx, f, s.fetcher.Fetch, u.Name, s.now()))
}

type readNotices struct {
	Body struct {
		UpTo int64 `json:"upTo" doc:"Number of the newest one that was seen"`
	}
}

// calendarFiles serves calendars: all bookings to who is signed in, and a person's own to whoever
// has its secret.
func (s *Server) calendarFiles(router *gin.Engine) {
	s.download(router, store.Member, "/api/bookings.ics", "bookings.ics", ical.ContentType, func(g *gin.Context) ([]byte,
		error) {
		q, err := onlyParameters(g, "machine")
		if err != nil {
			return nil, err
		}
		machine, err := strconv.ParseInt("0"+q.Get("machine"), 10, 64)
		if err != nil {
			return nil, newProblem(http.StatusUnprocessableEntity, "The machine is named by its number.", nil)
		}
		u, err := s.currentUser(g.Request.Context())
		if err != nil {
			return nil, err
		}
		var text bytes.Buffer
		who := app.Viewer{Account: u.ID, Staff: u.Role != store.Member}
		err = s.app.WriteCalendar(g.Request.Context(), &text, machine, who, s.now())
		return text.Bytes(), err
	})
	s.download(router, store.Technician, "/api/reliability.csv", "reliability.csv", csvKind, func(g *gin.Context) ([]byte,
		error) {
		q, err := onlyParameters(g, "from", "to", "by")
		if err != nil {
			return nil, err
		}
		by := q.Get("by")
		if by == "" {
			by = "bay"
		}
		list, err := s.reliability(g.Request.Context(), q.Get("from"), q.Get("to"), by)
		if err != nil {
			return nil, err
		}
		return app.ReliabilityCSV(list)
	})
	router.GET(app.CalendarPath+":secret", func(g *gin.Context) {
		secret, found := strings.CutSuffix(g.Param("secret"), ".ics")
		var text bytes.Buffer
		err := app.ErrNotFound
		if found {
			err = s.app.WriteLinked(g.Request.Context(), &text, secret, s.now())
		}
		if errors.Is(err, store.ErrNotFound) {
			writeProblem(g.Writer, newProblem(http.StatusNotFound, "There is no such calendar, or its link has ended.", nil))
			return
		}
		if err != nil {
			writeProblem(g.Writer, problemOf(s.fail("linked-calendar", err)))
			return
		}
		g.Header("Cache-Control", "no-store")
		g.Data(http.StatusOK, ical.ContentType, text.Bytes())
	})
}
