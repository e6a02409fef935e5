package app

import (
	"context"
	"crypto/rand"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"
	"time"

	"wardifex/internal/core/machine"
	"wardifex/internal/store"
)

// tokenMark begins every token, so that one that leaked is recognized for what it is.
const tokenMark = "wardifex_"

// mostTokenDays is how long a token is good for at most.
const mostTokenDays = 731

// APIToken is a token with whose account it is.
type APIToken struct {
	store.Token
	By string `json:"by" doc:"Who made it: what is sent with it is theirs"`
}

// MadeToken is a token with its secret, which is told this once.
type MadeToken struct {
	APIToken
	Secret string `json:"secret"`
}

// Tokens lists what programs sign in with.
func (a *App) Tokens(ctx context.Context) ([]APIToken, error) {
	tokens, err := a.store.Tokens(ctx)
	if err != nil {
		return nil, err
	}
	users, err := a.store.Users(ctx)
	if err != nil {
		return nil, err
	}
	by := map[int64]string{}
	for _, u := range users {
		by[u.ID] = u.DisplayName
	}
	out := make([]APIToken, len(tokens))
	for i, t := range tokens {
		out[i] = APIToken{Token: t, By: by[t.AccountID]}
	}
	return out, nil
}

// MakeToken makes a token for an account. Its role is at most that of a technician: nobody's
// password and nobody's role is changed by a program.
func (a *App) MakeToken(ctx context.Context, account int64, name, role string, days int, now time.Time) (MadeToken,
	error) {
	name = strings.TrimSpace(name)
	if err := machine.PlainText(name); err != nil {
		return MadeToken{}, refuse("name what uses the token: %s", err)
	}
	if role != store.Member && role != store.Technician {
		return MadeToken{}, refuse("a token has the role member or technician, not %q", role)
	}
	if days < 1 || days > mostTokenDays {
		return MadeToken{}, refuse("a token is good for 1 to %d days, not %d", mostTokenDays, days)
	}
	raw := make([]byte, 32)
	_, _ = rand.Read(raw) // never fails
	made := MadeToken{Secret: tokenMark + base64.RawURLEncoding.EncodeToString(raw)}
	made.Token = store.Token{AccountID: account, Name: name, Role: role, CreatedAt: now,
		ExpiresAt: now.AddDate(0, 0, days)}
	err := a.store.InTx(ctx, func(ctx context.Context) error {
		u, err := a.store.User(ctx, account)
		if err != nil {
			return err
		}
		made.By = u.DisplayName
		made.ID, err = a.store.AddToken(ctx, made.Token, made.Secret)
		return err
	})
	return made, err
}

// RevokeToken ends a token at once.
func (a *App) RevokeToken(ctx context.Context, id int64, now time.Time) error {
	err := a.store.InTx(ctx, func(ctx context.Context) error { return a.store.RevokeToken(ctx, id, now) })
	if errors.Is(err, store.ErrNotFound) {
		return ErrNotFound
	}
	return err
}

// TokenUser is who a token signs in: its maker, in the token's role. It is refused where the
// token is not known, has ended, or its maker may not sign in any more.
func (a *App) TokenUser(ctx context.Context, secret string, now time.Time) (store.User, error) {
	const unknown = "this token is not known or has ended; ask a lead for another"
	t, err := a.store.TokenOf(ctx, secret)
	if errors.Is(err, store.ErrNotFound) || err == nil && (t.RevokedAt != nil || !now.Before(t.ExpiresAt)) {
		return store.User{}, refuse(unknown)
	}
	if err != nil {
		return store.User{}, err
	}
	u, err := a.store.User(ctx, t.AccountID)
	if err != nil {
		return u, err
	}
	if u.DisabledAt != nil {
		return u, refuse(unknown)
	}
	if u.Role != store.Member {
		u.Role = t.Role
	}
	u.DisplayName = fmt.Sprintf("%s, by %s", u.DisplayName, t.Name)
	return u, a.store.NoteTokenUse(ctx, t.ID, now)
}
