package server

import (
	"context"
	"net"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
)

// Session is who is signed in.
type Session struct {
	SignedIn bool          `json:"signedIn"`
	Name     string        `json:"name"`
	Role     string        `json:"role" enum:"member,technician,lead,"`
	Today    time.Time     `json:"today" doc:"The time by which everything is recorded and due"`
	Demo     []DemoAccount `json:"demo" doc:"In the demo: its accounts"`
	// NoAccounts tells a new installation what to do first.
	NoAccounts bool `json:"noAccounts" doc:"Nobody can sign in yet"`
}

func (s *Server) sessionOf(u user) Session {
	demo := s.Demo
	if demo == nil {
		demo = []DemoAccount{}
	}
	return Session{SignedIn: u.ID != 0, Name: u.Name, Role: u.Role, Today: s.now(), Demo: demo}
}

func (s *Server) session(ctx context.Context, u user, _ *none) (*answer[Session], error) {
	out := s.sessionOf(u)
	if u.ID != 0 {
		return answerOf(out, nil)
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
	address string
}

// Resolve notes where the request comes from, for the limit on failures.
func (in *signIn) Resolve(ctx huma.Context) []error {
	host, _, err := net.SplitHostPort(ctx.RemoteAddr())
	if err != nil {
		host = ctx.RemoteAddr()
	}
	in.address = host
	return nil
}

func (s *Server) signIn(ctx context.Context, _ user, in *signIn) (*answer[Session], error) {
	// Sign-ins count against real time, also where the record's clock stands still.
	u, err := s.Store.SignIn(ctx, in.Body.Name, in.Body.Password, in.address, time.Now())
	if err != nil {
		return nil, err
	}
	if err := s.sessions.RenewToken(ctx); err != nil {
		return nil, err
	}
	s.sessions.Put(ctx, "user", u.ID)
	return answerOf(s.sessionOf(user{ID: u.ID, Name: u.DisplayName, Role: u.Role}), nil)
}

type signedOut struct {
	Status int
}

func (s *Server) signOut(ctx context.Context, _ user, _ *none) (*signedOut, error) {
	return &signedOut{Status: http.StatusNoContent}, s.sessions.Destroy(ctx)
}

func (s *Server) accountNames(ctx context.Context, _ user, _ *none) (*answer[[]string], error) {
	return answerOf(s.Store.AccountNames(ctx))
}
