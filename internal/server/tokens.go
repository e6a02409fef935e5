package server

import (
	"context"
	"errors"
	"net/http"
	"strings"

	"wardifex/internal/app"
	"wardifex/internal/store"
)

// A token is answered once and kept nowhere: its making has no idempotency key.
func (s *Server) tokenRoutes() {
	handle(s, store.Lead, "GET", "/tokens", "tokens", "What programs sign in with", s.listTokens, personal)
	handle(s, store.Lead, "POST", "/tokens", "make-token", "Make a token; its secret is told this once", s.makeToken,
		ownTransactions, personal)
	handle(s, store.Lead, "POST", "/tokens/{id}/revoke", "revoke-token", "End a token",
		func(ctx context.Context, _ user, in *ByID) (*noContent, error) {
			return emptyAnswer(s.app.RevokeToken(ctx, in.ID, s.now()))
		}, personal)
}

func (s *Server) listTokens(ctx context.Context, _ user, _ *none) (*answer[[]app.APIToken], error) {
	return answerOf(s.app.Tokens(ctx))
}

type makeToken struct {
	Body struct {
		Name string `json:"name" maxLength:"60" doc:"What uses it"`
		Role string `json:"role" enum:"member,technician"`
		Days int    `json:"days" minimum:"1" maximum:"731" doc:"For which it is good"`
	}
}

func (s *Server) makeToken(ctx context.Context, u user, in *makeToken) (*answer[app.MadeToken], error) {
	return answerOf(s.app.MakeToken(ctx, u.ID, in.Body.Name, in.Body.Role, in.Body.Days, s.now()))
}

type bearerKey struct{}

// withBearer keeps a request's token, if it has one, for who asks who sends it.
func withBearer(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if secret, ok := strings.CutPrefix(r.Header.Get("Authorization"), "Bearer "); ok {
			r = r.WithContext(context.WithValue(r.Context(), bearerKey{}, strings.TrimSpace(secret)))
		}
		next.ServeHTTP(w, r)
	})
}

// tokenUser is who the request's token signs in; is reports whether it has one.
func (s *Server) tokenUser(ctx context.Context) (u user, is bool, err error) {
	secret, is := ctx.Value(bearerKey{}).(string)
	if !is {
		return u, false, nil
	}
	account, err := s.app.TokenUser(ctx, secret, s.now())
	if refused, ok := errors.AsType[*app.Refusal](err); ok {
		return u, true, newProblem(http.StatusUnauthorized, whole(refused.Sentence), nil)
	}
	if err != nil {
		return u, true, err
	}
	return user{ID: account.ID, Name: account.DisplayName, Role: account.Role, token: true}, true, nil
}
