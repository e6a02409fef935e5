package change

import (
	"errors"
	"fmt"
	"strings"
	"time"
)

// Lock is what a person at work has put on a machine: while it is on, nobody else finishes the
// work or starts the machine. Source: common practice: each worker a lock of their own.
type Lock struct {
	ID      int64      `json:"id"`
	Account int64      `json:"account,omitempty" doc:"Number of its holder's account"`
	Name    string     `json:"name"`
	PutOn   time.Time  `json:"putOn"`
	Off     *time.Time `json:"off,omitempty"`
	OffBy   string     `json:"offBy,omitempty"`
	Why     string     `json:"why,omitempty" doc:"Why a lead took it off for its holder"`
}

// On reports whether the lock is on.
func (l Lock) On() bool { return l.Off == nil }

// Person is somebody at work. Two people may be shown by one name: where there is an account,
// they are told apart by it.
type Person struct {
	Account int64 // 0 where none does it
	Name    string
}

// HeldBy reports whether a lock is somebody's own. One whose holder's account is not on record is
// nobody's who has one: a lead takes it off.
func (l Lock) HeldBy(p Person) bool {
	if l.Account != 0 || p.Account != 0 {
		return l.Account == p.Account
	}
	return l.Name == p.Name
}

// MayUnlock refuses to finish work on a machine on which somebody else's lock is on.
func MayUnlock(locks []Lock, by Person) error {
	var others []string
	for _, l := range locks {
		if l.On() && !l.HeldBy(by) {
			others = append(others, l.Name)
		}
	}
	if len(others) == 0 {
		return nil
	}
	whose := strings.Join(others, ", ")
	return fmt.Errorf("the lock of %s is on: they take it off themselves, or a lead does after reaching them", whose)
}

// MayTakeOff refuses to take a lock off that is another's: a lead does it with a reason, after
// contact with its holder.
func (l Lock) MayTakeOff(by Person, lead, contacted bool, why string) error {
	switch {
	case !l.On():
		return errors.New("this lock is off already")
	case l.HeldBy(by):
		return nil
	case !lead:
		return fmt.Errorf("only %s or a lead takes this lock off", l.Name)
	case !contacted:
		return fmt.Errorf("reach %s first, and make sure that nobody is at the machine", l.Name)
	case strings.TrimSpace(why) == "":
		return errors.New("say why it is taken off for its holder")
	}
	return nil
}

// Parked is work that was left for a while, with what whoever goes on has to know.
type Parked struct {
	Why    string     `json:"why"              maxLength:"300"`
	Loose  string     `json:"loose,omitempty"  maxLength:"500" doc:"What is unplugged, loose or unsafe"`
	Screws string     `json:"screws,omitempty" maxLength:"300" doc:"Where screws and parts lie"`
	Waits  string     `json:"waits,omitempty"  maxLength:"300" doc:"What it waits for"`
	At     *time.Time `json:"at,omitempty"`
	By     string     `json:"by,omitempty"`
}

// Check refuses to park work without what the next one has to know.
func (p Parked) Check() error {
	if strings.TrimSpace(p.Why) == "" {
		return errors.New("say why the work is left")
	}
	if strings.TrimSpace(p.Loose) == "" {
		return errors.New("say what is loose or unplugged, or that nothing is: the next one has to know")
	}
	return nil
}
