package app

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"

	"wardifex/internal/core/machine"
	"wardifex/internal/store"
)

// Bounds of the skills of one person.
const (
	mostSkills   = 30
	longestSkill = 60 // characters
)

// Person is an account as a lead sees it.
type Person struct {
	ID         int64      `json:"id"`
	Name       string     `json:"name"       doc:"With which they sign in"`
	Display    string     `json:"display"    doc:"As shown"`
	Role       string     `json:"role"       enum:"member,technician,lead"`
	Skills     []string   `json:"skills"     doc:"What they may be given to do, such as mains wiring"`
	Since      time.Time  `json:"since"`
	DisabledAt *time.Time `json:"disabledAt" doc:"Since when they cannot sign in"`
	Locked     bool       `json:"locked"     doc:"Too many wrong passwords lately: unknown devices wait"`
	Sessions   int        `json:"sessions"   doc:"Where they are signed in now"`
	Version    int        `json:"version"`
}

// People are all accounts. now is real time, by which sign-ins count.
func (a *App) People(ctx context.Context, now time.Time) ([]Person, error) {
	users, err := a.store.Users(ctx)
	if err != nil {
		return nil, err
	}
	sessions, err := a.store.Sessions().Counts(ctx)
	if err != nil {
		return nil, err
	}
	full, err := a.store.FullBuckets(ctx, "name ", triesByName, now.Add(-tryWindow))
	out := make([]Person, len(users))
	for i, u := range users {
		out[i] = Person{
			ID: u.ID, Name: u.Name, Display: u.DisplayName, Role: u.Role, Skills: u.Skills, Since: u.CreatedAt,
			DisabledAt: u.DisabledAt, Locked: slices.Contains(full, nameBucket(u.Name)), Sessions: sessions[u.ID],
			Version: u.Version,
		}
	}
	return out, err
}

// PersonChange is what a lead sets of an account.
type PersonChange struct {
	Display  string
	Role     string
	Skills   []string
	Disabled bool
	Version  int // of the account that the editor began from
}

// ChangePerson changes an account. One that is switched off is signed out everywhere. The
// last lead stays a lead: somebody has to let the others in.
func (a *App) ChangePerson(ctx context.Context, id int64, c PersonChange, now time.Time) error {
	if !isRole(c.Role) {
		return refuseRole(c.Role)
	}
	skills, err := checkSkills(c.Skills)
	if err != nil {
		return err
	}
	if err := machine.PlainText(strings.TrimSpace(c.Display)); err != nil {
		return refuse("the name as shown: %s", err)
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockUsers(ctx); err != nil {
			return err
		}
		u, err := a.store.User(ctx, id)
		if err != nil {
			return err
		}
		if u.Version != c.Version {
			is := PersonChange{
				Display: u.DisplayName, Role: u.Role, Skills: u.Skills, Disabled: u.DisabledAt != nil, Version: u.Version,
			}
			return &Conflict{Sentence: "somebody else changed this account meanwhile; nothing was saved", Current: is}
		}
		if u.Role == store.Lead && u.DisabledAt == nil && (c.Role != store.Lead || c.Disabled) {
			if err := a.anotherLead(ctx, id); err != nil {
				return err
			}
		}
		u.DisplayName, u.Role, u.Skills = strings.TrimSpace(c.Display), c.Role, skills
		switch {
		case c.Disabled && u.DisabledAt == nil:
			u.DisabledAt = &now
			if err := a.signOutEverywhere(ctx, id); err != nil {
				return err
			}
		case !c.Disabled:
			u.DisabledAt = nil
		}
		return a.store.SaveUser(ctx, u)
	})
}

// anotherLead refuses when nobody but an account is a lead that can sign in.
func (a *App) anotherLead(ctx context.Context, but int64) error {
	users, err := a.store.Users(ctx)
	if err != nil {
		return err
	}
	if !slices.ContainsFunc(users, func(u store.User) bool {
		return u.ID != but && u.Role == store.Lead && u.DisabledAt == nil
	}) {
		return refuse("this is the only lead who can sign in; make another account a lead first")
	}
	return nil
}

func checkSkills(skills []string) ([]string, error) {
	out := []string{}
	for _, s := range skills {
		s = strings.TrimSpace(s)
		if s == "" || slices.Contains(out, s) {
			continue
		}
		if err := machine.PlainText(s); err != nil {
			return nil, refuse("the skill %q: %s", s, err)
		}
		if len([]rune(s)) > longestSkill {
			return nil, refuse("a skill has at most %d characters; shorten %q", longestSkill, s)
		}
		out = append(out, s)
	}
	if len(out) > mostSkills {
		return nil, refuse("%d skills; at most %d are kept of a person", len(out), mostSkills)
	}
	return out, nil
}

// ResetPassword sets another password for an account, whose owner is signed out everywhere
// and may sign in at once.
func (a *App) ResetPassword(ctx context.Context, id int64, password string) error {
	u, hash, err := a.newPassword(ctx, id, password)
	if err != nil {
		return err
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.setPassword(ctx, u, hash); err != nil {
			return err
		}
		if err := a.signOutEverywhere(ctx, id); err != nil {
			return err
		}
		// Whoever knew the password may have made links.
		if err := a.store.EndCalendarLinks(ctx, id, a.now()); err != nil {
			return err
		}
		return a.store.ForgetTries(ctx, []string{nameBucket(u.Name)})
	})
}

// newPassword checks a password for an account and hashes it, which takes its time.
func (a *App) newPassword(ctx context.Context, id int64, password string) (u store.User, hash string, err error) {
	if u, err = a.store.User(ctx, id); err != nil {
		return u, "", err
	}
	if err := checkPassword(password, u.Name, u.DisplayName); err != nil {
		return u, "", err
	}
	hash, err = a.hash(ctx, password)
	return u, hash, err
}

func (a *App) setPassword(ctx context.Context, u store.User, hash string) error {
	u.PasswordHash = hash
	err := a.store.SaveUser(ctx, u)
	if errors.Is(err, store.ErrChanged) {
		return &Conflict{Sentence: "somebody else changed this account meanwhile; nothing was saved"}
	}
	return err
}

// signOutEverywhere ends every session of an account and forgets its devices.
func (a *App) signOutEverywhere(ctx context.Context, id int64) error {
	if err := a.store.Sessions().EndAll(ctx, id, ""); err != nil {
		return err
	}
	return a.store.ForgetDevices(ctx, id)
}

// EndSessions signs an account out everywhere.
func (a *App) EndSessions(ctx context.Context, id int64) error {
	u, err := a.store.User(ctx, id)
	if err != nil {
		return err
	}
	if err := a.signOutEverywhere(ctx, id); err != nil {
		return err
	}
	return a.store.Note(ctx, "users", fmt.Sprint(u.ID), map[string]string{"result": "signed out everywhere"})
}

// EndOtherSessions signs an account out everywhere but where its token is session.
func (a *App) EndOtherSessions(ctx context.Context, id int64, session string) error {
	if err := a.store.Sessions().EndAll(ctx, id, session); err != nil {
		return err
	}
	return a.store.Note(ctx, "users", fmt.Sprint(id), map[string]string{"result": "signed out everywhere else"})
}

// Unlock lets an account try again at once after too many wrong passwords.
func (a *App) Unlock(ctx context.Context, id int64) error {
	u, err := a.store.User(ctx, id)
	if err != nil {
		return err
	}
	if err := a.store.ForgetTries(ctx, []string{nameBucket(u.Name)}); err != nil {
		return err
	}
	return a.store.Note(ctx, "users", fmt.Sprint(u.ID), map[string]string{"result": "unlocked"})
}

// ChangeOwnPassword sets another password for whoever knows the present one, and ends the
// account's other sessions. now is real time, by which tries count.
func (a *App) ChangeOwnPassword(ctx context.Context, id int64, present, password, session string, now time.Time) error {
	u, err := a.store.User(ctx, id)
	if err != nil {
		return err
	}
	bucket := store.Bucket{Name: fmt.Sprintf("own password of %d", id), Most: triesByName}
	full, err := a.store.CountTry(ctx, []store.Bucket{bucket}, tryWindow, now)
	if err == nil && full != nil {
		err = &TooManyTries{Wait: full.Add(tryWindow).Sub(now)}
	}
	if err != nil {
		return err
	}
	if err := a.passwords.Acquire(ctx, 1); err != nil {
		return err
	}
	ok, err := argon2id.ComparePasswordAndHash(present, u.PasswordHash)
	a.passwords.Release(1)
	switch {
	case err != nil:
		return err
	case !ok:
		return refuse("the present password is wrong; nothing was changed")
	case present == password:
		return refuse("the new password is the present one; take another")
	}
	u, hash, err := a.newPassword(ctx, id, password)
	if err != nil {
		return err
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.ForgetTries(ctx, []string{bucket.Name}); err != nil {
			return err
		}
		if err := a.setPassword(ctx, u, hash); err != nil {
			return err
		}
		if err := a.store.EndCalendarLinks(ctx, id, now); err != nil {
			return err
		}
		return a.store.Sessions().EndAll(ctx, id, session)
	})
}
