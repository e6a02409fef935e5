package app

import (
	"bufio"
	"context"
	"crypto/rand"
	"crypto/sha256"
	_ "embed"
	"encoding/base64"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/argon2id"

	"wardifex/internal/core/machine"
	"wardifex/internal/store"
)

// leastPassword is the shortest password, in characters. Source: from memory (NIST SP
// 800-63B asks for eight at least).
const leastPassword = 10

// nameBucket is where tries to sign in as a name are counted that come from unknown devices.
func nameBucket(name string) string { return "name " + name }

func isRole(role string) bool {
	return role == store.Member || role == store.Technician || role == store.Lead
}

func refuseRole(role string) error {
	return refuse("%q is not a role; it is one of member, technician, lead", role)
}

// Account is what is set when an account is made.
type Account struct {
	Name     string // that it signs in with
	Display  string // as shown; the name where it is empty
	Role     string
	Password string
	Skills   []string
}

// AddAccount makes an account. There is no default password.
func (a *App) AddAccount(ctx context.Context, in Account, now time.Time) error {
	name := strings.ToLower(strings.TrimSpace(in.Name))
	switch {
	case machine.PlainText(name) != nil || strings.ContainsAny(name, " \t"):
		return refuse("%q cannot be an account's name; use letters and digits without blanks", name)
	case !isRole(in.Role):
		return refuseRole(in.Role)
	}
	skills, err := checkSkills(in.Skills)
	if err != nil {
		return err
	}
	if err := checkPassword(in.Password, name, in.Display); err != nil {
		return err
	}
	display := in.Display
	if display == "" {
		display = name
	}
	if err := machine.PlainText(display); err != nil {
		return refuse("the name as shown: %s", err)
	}
	hash, err := a.hash(ctx, in.Password)
	if err != nil {
		return err
	}
	u := store.User{Name: name, DisplayName: display, Role: in.Role, PasswordHash: hash, CreatedAt: now, Skills: skills}
	err = a.store.InTx(ctx, func(ctx context.Context) error {
		_, err := a.store.AddUser(ctx, u)
		return err
	})
	if errors.Is(err, store.ErrTaken) {
		return refuse("there is an account named %s already", name)
	}
	return err
}

//go:embed passwords.txt
var commonestText string

// commonest are the passwords that are tried first by whoever guesses.
var commonest = sync.OnceValue(func() []string {
	var out []string
	lines := bufio.NewScanner(strings.NewReader(commonestText))
	for lines.Scan() {
		if line := strings.TrimSpace(lines.Text()); line != "" && !strings.HasPrefix(line, "#") {
			out = append(out, line)
		}
	}
	return out
})

// checkPassword refuses what is guessed soon: short ones, the account's own name, the
// commonest, runs and repetitions, each with digits and marks around them or without.
func checkPassword(password, name, display string) error {
	n := len([]rune(password))
	if n < leastPassword {
		return refuse("the password has %d characters; at least %d are needed", n, leastPassword)
	}
	small := strings.ToLower(password)
	bare := strings.TrimFunc(small, func(r rune) bool { return r < 'a' || r > 'z' })
	for _, own := range []string{strings.ToLower(name), strings.ToLower(display)} {
		if own != "" &&
			(small == own || bare == own || small == own+own ||
				strings.ReplaceAll(small, " ", "") == strings.ReplaceAll(own, " ", "")) {
			return refuse("the password is the account's name; take one that nobody guesses from it")
		}
	}
	if slices.Contains(commonest(), small) || bare != "" && slices.Contains(commonest(), bare) {
		return refuse("the password is among the commonest; take another, such as four words that do not belong together")
	}
	if isRun([]rune(small)) {
		return refuse(
			"the password only counts on or repeats itself; take another, such as four words that do not belong together",
		)
	}
	return nil
}

// isRun reports whether each character is the one before, the next one or the one that
// came before it in the alphabet, as in aaaaaaaaaa, 1234567890 and zyxwvutsrq, or a short
// piece is repeated, as in abcabcabca.
func isRun(text []rune) bool {
	for _, step := range []rune{0, 1, -1} {
		run := true
		for i := 1; i < len(text); i++ {
			run = run && (text[i]-text[i-1] == step || text[i-1] == '9' && text[i] == '0')
		}
		if run {
			return true
		}
	}
	for period := 2; period <= 3; period++ {
		repeats := true
		for i := period; i < len(text); i++ {
			repeats = repeats && text[i] == text[i-period]
		}
		if repeats {
			return true
		}
	}
	return false
}

func (a *App) hash(ctx context.Context, password string) (string, error) {
	if err := a.passwords.Acquire(ctx, 1); err != nil {
		return "", err
	}
	defer a.passwords.Release(1)
	return argon2id.CreateHash(password, argon2id.DefaultParams)
}

// Limits on tries to sign in, within tryWindow. Those of a known device are counted by
// themselves, so that no stranger locks its owner out.
const (
	tryWindow      = 15 * time.Minute
	triesByName    = 5
	triesByAddress = 30
)

// Sign-ins that are refused: ErrDisabled is said only to who knows the password.
var (
	ErrBadLogin = errors.New("name or password is wrong")
	ErrDisabled = errors.New("this account is switched off; ask a lead")
)

// TooManyTries is a sign-in refused for too many failures.
type TooManyTries struct{ Wait time.Duration }

func (t *TooManyTries) Error() string {
	minutes := int(t.Wait.Minutes()) + 1
	if minutes == 1 {
		return "too many failed sign-ins; wait a minute and try again"
	}
	return fmt.Sprintf("too many failed sign-ins; wait %d minutes and try again", minutes)
}

// absent is compared with when there is no such account, so that the answer takes as long.
var absent = sync.OnceValue(func() string {
	hash, _ := argon2id.CreateHash("nobody has this", argon2id.DefaultParams)
	return hash
})

// SignInFrom is where a try to sign in comes from.
type SignInFrom struct {
	Address string
	Device  string // the token of a device that somebody signed in from; may be empty
}

// SignIn checks a name and password. The try is counted before the password is looked
// at, so that many at once are no more tries than one after the other. now is real time,
// also where the record's clock stands still. It gives a token by which the device is
// known from now on.
func (a *App) SignIn(
	ctx context.Context,
	name, password string,
	from SignInFrom,
	now time.Time,
) (u store.User, device string, err error) {
	name = strings.ToLower(strings.TrimSpace(name))
	buckets := []store.Bucket{
		{Name: "address " + from.Address, Most: triesByAddress},
		{Name: nameBucket(name), Most: triesByName},
	}
	if from.Device != "" {
		token := store.Hash(sha256.Sum256([]byte(from.Device)))
		known, err := a.store.IsDeviceOf(ctx, token, name)
		if err != nil {
			return u, "", err
		}
		if known {
			buckets = []store.Bucket{{Name: fmt.Sprintf("device %x %s", token[:8], name), Most: triesByName}}
		}
	}
	full, err := a.store.CountTry(ctx, buckets, tryWindow, now)
	if err == nil && full != nil {
		err = &TooManyTries{Wait: full.Add(tryWindow).Sub(now)}
	}
	if err != nil {
		a.noteRefused(ctx, from, err, now)
		return u, "", err
	}
	u, err = a.store.UserNamed(ctx, name)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return u, "", err
	}
	hash := u.PasswordHash
	if err != nil {
		hash = absent()
	}
	if err := a.passwords.Acquire(ctx, 1); err != nil {
		return u, "", err
	}
	ok, hashErr := argon2id.ComparePasswordAndHash(password, hash)
	a.passwords.Release(1)
	if hashErr != nil {
		return u, "", hashErr
	}
	if err != nil || !ok {
		a.noteSignIn(ctx, u, from, ErrBadLogin)
		return store.User{}, "", ErrBadLogin
	}
	if u.DisabledAt != nil {
		a.noteSignIn(ctx, u, from, ErrDisabled)
		return store.User{}, "", ErrDisabled
	}
	device = newToken()
	err = a.store.InTx(ctx, func(ctx context.Context) error {
		names := make([]string, 0, len(buckets))
		for _, b := range buckets {
			if !strings.HasPrefix(b.Name, "address ") {
				names = append(names, b.Name)
			}
		}
		if err := a.store.ForgetTries(ctx, names); err != nil {
			return err
		}
		if err := a.store.ForgetTry(ctx, "address "+from.Address); err != nil {
			return err
		}
		return a.store.KnowDevice(ctx, u.ID, store.Hash(sha256.Sum256([]byte(device))), now)
	})
	if err == nil {
		a.noteSignIn(ctx, u, from, nil)
	}
	return u, device, err
}

func newToken() string {
	raw := make([]byte, 24)
	_, _ = rand.Read(raw) // never fails
	return base64.RawURLEncoding.EncodeToString(raw)
}

// noteSignIn puts a try to sign in on record, good or bad. That it cannot be noted stops
// nobody.
func (a *App) noteSignIn(ctx context.Context, u store.User, from SignInFrom, outcome error) {
	result := "signed in"
	if outcome != nil {
		result = outcome.Error()
	}
	name := u.DisplayName
	if u.ID == 0 {
		name = "somebody" // what was typed may be a password in the wrong field
	}
	ctx = store.WithActor(ctx, store.Actor{Account: u.ID, Name: name, Action: "sign-in", At: a.now()})
	_ = a.store.Note(ctx, "users", fmt.Sprint(u.ID), map[string]string{"result": result, "address": from.Address})
}

// noteRefused puts it on record that tries are refused from an address: once in a window,
// since strangers can be refused without end.
func (a *App) noteRefused(ctx context.Context, from SignInFrom, why error, now time.Time) {
	noted, err := a.store.CountTry(ctx, []store.Bucket{{Name: "refused " + from.Address, Most: 1}}, tryWindow, now)
	if err == nil && noted == nil {
		a.noteSignIn(ctx, store.User{}, from, why)
	}
}

// NoteSignOut puts it on record that an account signed out.
func (a *App) NoteSignOut(ctx context.Context, u store.User) error {
	ctx = store.WithActor(ctx, store.Actor{Account: u.ID, Name: u.DisplayName, Action: "sign-out", At: a.now()})
	return a.store.Note(ctx, "users", fmt.Sprint(u.ID), map[string]string{"result": "signed out"})
}
