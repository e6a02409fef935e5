package server

import (
	"context"
	"net/http"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/store"
)

// Session is who is signed in.
type Session struct {
	SignedIn bool          `json:"signedIn"`
	Account  int64         `json:"account" doc:"Its number; 0 where nobody is signed in"`
	Name     string        `json:"name"`
	Role     string        `json:"role" enum:"member,technician,lead,"`
	Today    time.Time     `json:"today" doc:"The time by which everything is recorded and due"`
	Demo     []DemoAccount `json:"demo" doc:"In the demo: its accounts"`
	Shop     SessionShop   `json:"shop"`
	// NoAccounts tells a new installation what to do first.
	NoAccounts bool `json:"noAccounts" doc:"Nobody can sign in yet"`
}

// SessionShop is what every page needs of the shop's settings.
type SessionShop struct {
	Name      string `json:"name"`
	Currency  string `json:"currency"  doc:"ISO 4217"`
	WeekStart string `json:"weekStart" enum:"monday,sunday,saturday"`
	Contact   string `json:"contact" doc:"Whom to call for help; empty for strangers"`
}

func (s *Server) sessionOf(ctx context.Context, u user) (Session, error) {
	shop, err := s.Store.Shop(ctx)
	if u.ID == 0 {
		shop.Contact = ""
	}
	demo := s.Demo
	if demo == nil {
		demo = []DemoAccount{}
	}
	return Session{
		SignedIn: u.ID != 0, Account: u.ID, Name: u.Name, Role: u.Role, Today: s.now(), Demo: demo,
		Shop: SessionShop{Name: shop.Name, Currency: shop.Currency, WeekStart: string(shop.WeekStart),
			Contact: shop.Contact},
	}, err
}

func (s *Server) session(ctx context.Context, u user, _ *none) (*answer[Session], error) {
	out, err := s.sessionOf(ctx, u)
	if u.ID != 0 || err != nil {
		return answerOf(out, err)
	}
	some, err := s.Store.HasUsers(ctx)
	out.NoAccounts = !some
	return answerOf(out, err)
}

type signIn struct {
	Body struct {
		Name     string `json:"name" maxLength:"100"`
		Password string `json:"password" maxLength:"200"`
	}
}

// deviceCookie is kept by browsers that somebody signed in with: who knows it is counted
// apart from strangers.
const deviceCookie = "wardifex_device"

type signedIn struct {
	SetCookie http.Cookie `header:"Set-Cookie"`
	Body      Session
}

func (s *Server) signIn(ctx context.Context, _ user, in *signIn) (*signedIn, error) {
	r := requestOf(ctx)
	from := app.SignInFrom{Address: r.address, Device: r.device}
	// Sign-ins count against real time, also where the record's clock stands still.
	u, device, err := s.app.SignIn(ctx, in.Body.Name, in.Body.Password, from, time.Now())
	if err != nil {
		return nil, err
	}
	if err := s.sessions.RenewToken(ctx); err != nil {
		return nil, err
	}
	s.sessions.Put(ctx, "user", u.ID)
	token, _, err := s.sessions.Commit(ctx)
	if err == nil {
		err = s.Store.Sessions().Own(ctx, token, u.ID, r.address, r.agent, time.Now())
	}
	if err != nil {
		return nil, err
	}
	cookie := http.Cookie{
		Name: deviceCookie, Value: device, Path: "/api/session", MaxAge: 365 * 24 * 60 * 60,
		HttpOnly: true, Secure: s.SecureCookies, SameSite: http.SameSiteStrictMode,
	}
	body, err := s.sessionOf(ctx, user{ID: u.ID, Name: u.DisplayName, Role: u.Role})
	return &signedIn{SetCookie: cookie, Body: body}, err
}

type signedOut struct {
	Status int
}

func (s *Server) signOut(ctx context.Context, u user, _ *none) (*signedOut, error) {
	if u.ID != 0 {
		if err := s.app.NoteSignOut(ctx, store.User{ID: u.ID, DisplayName: u.Name}); err != nil {
			return nil, err
		}
	}
	return &signedOut{Status: http.StatusNoContent}, s.sessions.Destroy(ctx)
}

func (s *Server) accountNames(ctx context.Context, _ user, _ *none) (*answer[[]string], error) {
	return answerOf(s.Store.AccountNames(ctx))
}
