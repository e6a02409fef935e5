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
	Account int64      `json:"-"`
	Name    string     `json:"name"`
	PutOn   time.Time  `json:"putOn"`
	Off     *time.Time `json:"off,omitempty"`
	OffBy   string     `json:"offBy,omitempty"`
	Why     string     `json:"why,omitempty" doc:"Why a lead took it off for its holder"`
}

// On reports whether the lock is on.
func (l Lock) On() bool { return l.Off == nil }

// MayUnlock refuses to finish work on a machine on which somebody else's lock is on.
func MayUnlock(locks []Lock, by string) error {
	var others []string
	for _, l := range locks {
		if l.On() && l.Name != by {
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
func (l Lock) MayTakeOff(by string, lead, contacted bool, why string) error {
	switch {
	case !l.On():
		return errors.New("this lock is off already")
	case l.Name == by:
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
