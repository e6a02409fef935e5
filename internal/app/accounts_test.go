package app_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/store"
)

const password = "long enough"

func TestAnAccountIsMade(t *testing.T) {
	t.Parallel()
	a, _ := open(t)
	for _, c := range []struct{ name, account, display, role, password, part string }{
		{"nine characters", "ann", "", store.Lead, "abcdefgh1", "at least 10"},
		{"no role", "ann", "", "king", password, "not a role"},
		{"a blank in the name", "a b", "", store.Lead, password, "without blanks"},
		{"the account's name", "annabel-lee", "", store.Lead, "Annabel-Lee", "account's name"},
		{"its name with a year", "annabellee", "", store.Lead, "annabellee2026", "account's name"},
		{"the name as shown", "ann", "Ann Example", store.Lead, "annexample", "account's name"},
		{"a common one", "ann", "", store.Lead, "Password123!", "among the commonest"},
		{"a row of keys", "ann", "", store.Lead, "qwertyuiop", "among the commonest"},
		{"one character", "ann", "", store.Lead, "zzzzzzzzzz", "repeats itself"},
		{"counting on", "ann", "", store.Lead, "2345678901", "counts on"},
		{"counting down", "ann", "", store.Lead, "zyxwvutsrq", "counts on"},
		{"a short piece again and again", "ann", "", store.Lead, "abxabxabxab", "repeats itself"},
	} {
		t.Run(c.name, func(t *testing.T) {
			err := a.AddAccount(
				t.Context(),
				app.Account{Name: c.account, Display: c.display, Role: c.role, Password: c.password},
				now,
			)
			refused(t, err, c.part)
		})
	}
	for _, good := range []string{"abcdefgh19", "kettle moth arrow", "annabel likes 4 printers"} {
		if err := a.AddAccount(t.Context(), app.Account{Name: "x" + good[:3], Role: store.Lead, Password: good},
			now); err != nil {
			t.Errorf("%q: %v", good, err)
		}
	}
	if err := a.AddAccount(t.Context(),
		app.Account{Name: "Ann", Display: "Ann Example", Role: store.Lead, Password: password}, now); err != nil {
		t.Fatal(err)
	}
	refused(t, a.AddAccount(t.Context(), app.Account{Name: "ann", Role: store.Lead, Password: password}, now), "already")
	// Two people may be shown under one name.
	if err := a.AddAccount(t.Context(),
		app.Account{Name: "ann2", Display: "Ann Example", Role: store.Lead, Password: password}, now); err != nil {
		t.Error(err)
	}
}

func TestSigningIn(t *testing.T) {
	t.Parallel()
	a, s := open(t)
	if err := a.AddAccount(t.Context(),
		app.Account{Name: "ann", Display: "Ann Example", Role: store.Lead, Password: password}, now); err != nil {
		t.Fatal(err)
	}
	from := app.SignInFrom{Address: "192.0.2.1"}
	u, device, err := a.SignIn(t.Context(), "ANN", password, from, now)
	if err != nil || u.DisplayName != "Ann Example" || strings.Contains(u.PasswordHash, "long") {
		t.Fatalf("%+v, %v", u, err)
	}
	for i := range 5 {
		if _, _, err := a.SignIn(t.Context(), "ann", "wrong", from, now); !errors.Is(err, app.ErrBadLogin) {
			t.Fatalf("try %d: %v", i, err)
		}
	}
	var tries *app.TooManyTries
	_, _, err = a.SignIn(t.Context(), "ann", password, app.SignInFrom{Address: "192.0.2.2"}, now.Add(5*time.Minute))
	if !errors.As(err, &tries) || tries.Wait != 10*time.Minute {
		t.Errorf("after five failures: %v", err)
	}
	// The device that she signed in from is hers: strangers do not lock her out there.
	known := app.SignInFrom{Address: "192.0.2.1", Device: device}
	if _, _, err := a.SignIn(t.Context(), "ann", password, known, now); err != nil {
		t.Errorf("from a known device: %v", err)
	}
	for i := range 5 {
		if _, _, err := a.SignIn(t.Context(), "ann", "wrong", known, now); !errors.Is(err, app.ErrBadLogin) {
			t.Fatalf("try %d from there: %v", i, err)
		}
	}
	if _, _, err := a.SignIn(t.Context(), "ann", password, known, now); !errors.As(err, &tries) {
		t.Errorf("after five failures from there: %v", err)
	}
	if _, _, err := a.SignIn(t.Context(), "ann", password, from, now.Add(15*time.Minute+time.Second)); err != nil {
		t.Errorf("a quarter of an hour later: %v", err)
	}
	acts, err := s.Acts(t.Context(), store.ActsOf{Relations: []string{"users"}, Subject: fmt.Sprint(u.ID), Limit: 50})
	good, bad := 0, 0
	for _, act := range acts {
		if strings.Contains(string(act.IsNow), "signed in") {
			good++
		} else if strings.Contains(string(act.IsNow), "wrong") {
			bad++
		}
	}
	if err != nil || good != 3 || bad != 10 {
		t.Errorf("on record: %d good, %d bad, %v", good, bad, err)
	}
}

// Sixty wrong passwords at once are no more tries than sixty after one another.
func TestTriesAtOnceAreCounted(t *testing.T) {
	t.Parallel()
	a, _ := open(t)
	if err := a.AddAccount(t.Context(), app.Account{Name: "ann", Role: store.Lead, Password: password}, now); err != nil {
		t.Fatal(err)
	}
	var looked, refused atomic.Int64
	var all sync.WaitGroup
	for i := range 60 {
		all.Go(func() {
			_, _, err := a.SignIn(
				context.Background(),
				"ann",
				"wrong one",
				app.SignInFrom{Address: fmt.Sprintf("192.0.2.%d", i)},
				now,
			)
			var tries *app.TooManyTries
			switch {
			case errors.Is(err, app.ErrBadLogin):
				looked.Add(1)
			case errors.As(err, &tries):
				refused.Add(1)
			}
		})
	}
	all.Wait()
	if looked.Load() != 5 || refused.Load() != 55 {
		t.Errorf("%d looked at, %d refused", looked.Load(), refused.Load())
	}
}
