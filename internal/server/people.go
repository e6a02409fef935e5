package server

import (
	"context"
	"net/http"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/store"
)

// noContent answers a write that has nothing to tell.
type noContent struct{ Status int }

func emptyAnswer(err error) (*noContent, error) {
	return &noContent{Status: http.StatusNoContent}, err
}

// What a password is sent with has no idempotency key: its fingerprint, kept for days,
// would be easier to guess from than the slow hash.
func (s *Server) peopleRoutes() {
	handle(s, store.Lead, "GET", "/people", "people", "Every account", s.people, personal)
	handle(s, store.Lead, "POST", "/people", "add-person", "Make an account", s.addPerson, ownTransactions, personal)
	handle(s, store.Lead, "PUT", "/people/{id}", "change-person",
		"Change an account: its name as shown, role, skills, whether it may sign in", s.changePerson, personal)
	handle(s, store.Lead, "POST", "/people/{id}/password", "reset-password",
		"Set another password; the account is signed out everywhere", s.resetPassword, ownTransactions, personal)
	handle(s, store.Lead, "POST", "/people/{id}/end-sessions", "end-sessions", "Sign an account out everywhere",
		func(ctx context.Context, _ user, in *ByID) (*noContent, error) {
			return emptyAnswer(s.app.EndSessions(ctx, in.ID))
		}, personal)
	handle(s, store.Lead, "POST", "/people/{id}/unlock", "unlock-person",
		"Let an account try again after too many wrong passwords",
		func(ctx context.Context, _ user, in *ByID) (*noContent, error) {
			return emptyAnswer(s.app.Unlock(ctx, in.ID))
		}, personal)
	handle(s, store.Member, "GET", "/account/sessions", "own-sessions", "Where you are signed in", s.ownSessions, personal)
	handle(s, store.Member, "POST", "/account/end-sessions", "end-own-sessions", "Sign yourself out everywhere but here",
		func(ctx context.Context, u user, _ *none) (*noContent, error) {
			return emptyAnswer(s.app.EndOtherSessions(ctx, u.ID, s.sessions.Token(ctx)))
		}, personal)
	handle(s, store.Member, "POST", "/account/password", "change-own-password",
		"Set another password of your own; you stay signed in here alone", s.changeOwnPassword, ownTransactions, personal)
}

func (s *Server) people(ctx context.Context, _ user, _ *none) (*answer[[]app.Person], error) {
	return answerOf(s.app.People(ctx, time.Now()))
}

type addPerson struct {
	Body struct {
		Name     string   `json:"name"     maxLength:"40"  doc:"With which they sign in: letters and digits"`
		Display  string   `json:"display"  maxLength:"100" doc:"As shown; the name where it is empty"`
		Role     string   `json:"role"     enum:"member,technician,lead"`
		Skills   []string `json:"skills"   maxItems:"100"`
		Password string   `json:"password" maxLength:"200" doc:"Ten characters or more"`
	}
}

func (s *Server) addPerson(ctx context.Context, _ user, in *addPerson) (*noContent, error) {
	b := in.Body
	account := app.Account{Name: b.Name, Display: b.Display, Role: b.Role, Password: b.Password, Skills: b.Skills}
	return emptyAnswer(s.app.AddAccount(ctx, account, s.now()))
}

type changePerson struct {
	ByID
	Body struct {
		Display  string   `json:"display"  maxLength:"100"`
		Role     string   `json:"role"     enum:"member,technician,lead"`
		Skills   []string `json:"skills"   maxItems:"100"`
		Disabled bool     `json:"disabled" doc:"Cannot sign in"`
		Version  int      `json:"version"`
	}
}

func (s *Server) changePerson(ctx context.Context, _ user, in *changePerson) (*noContent, error) {
	return emptyAnswer(s.app.ChangePerson(ctx, in.ID, app.PersonChange(in.Body), s.now()))
}

type resetPassword struct {
	ByID
	Body struct {
		Password string `json:"password" maxLength:"200" doc:"Ten characters or more"`
	}
}

func (s *Server) resetPassword(ctx context.Context, _ user, in *resetPassword) (*noContent, error) {
	return emptyAnswer(s.app.ResetPassword(ctx, in.ID, in.Body.Password))
}

type changeOwnPassword struct {
	Body struct {
		Present  string `json:"present"  maxLength:"200"`
		Password string `json:"password" maxLength:"200" doc:"The new one: ten characters or more"`
	}
}

func (s *Server) changeOwnPassword(ctx context.Context, u user, in *changeOwnPassword) (*noContent, error) {
	b := in.Body
	return emptyAnswer(s.app.ChangeOwnPassword(ctx, u.ID, b.Present, b.Password, s.sessions.Token(ctx), time.Now()))
}

// OwnSession is a place where an account is signed in.
type OwnSession struct {
	Began   *time.Time `json:"began"`
	Until   time.Time  `json:"until"   doc:"When it ends by itself"`
	Address string     `json:"address"`
	Browser string     `json:"browser" doc:"As the browser names itself"`
	Here    bool       `json:"here"    doc:"The one that asks"`
}

func (s *Server) ownSessions(ctx context.Context, u user, _ *none) (*answer[[]OwnSession], error) {
	all, mine, err := s.Store.Sessions().Of(ctx, u.ID, s.sessions.Token(ctx))
	out := make([]OwnSession, len(all))
	for i, o := range all {
		out[i] = OwnSession{Began: o.BeganAt, Until: o.Expiry, Address: o.Address, Browser: o.Agent, Here: i == mine}
	}
	return answerOf(out, err)
}
