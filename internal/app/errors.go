package app

import (
	"errors"
	"fmt"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/civil"
	"wardifex/internal/store"
)

// ErrNotFound is returned when there is no such machine, part, kit or order.
var ErrNotFound = store.ErrNotFound

// Refusal is something that a rule forbids; the sentence is for the person.
type Refusal struct {
	Sentence string
	// Ask says that it is a question: the same is taken when the person says that it is
	// right.
	Ask bool
	// Because is what was wrong, where the core said it.
	Because error
}

func (r *Refusal) Error() string { return r.Sentence }
func (r *Refusal) Unwrap() error { return r.Because }

// Refused is the refusal of what the core found wrong: a question where the person may say
// that it is right all the same.
func Refused(err error) error {
	return &Refusal{Sentence: err.Error(), Ask: errors.Is(err, calibration.ErrAsk), Because: err}
}

func refuse(format string, args ...any) error {
	r := &Refusal{Sentence: fmt.Sprintf(format, args...)}
	for _, a := range args {
		if err, ok := a.(error); ok {
			r.Because = err
		}
	}
	return r
}

// Conflict is a write over something that somebody else changed meanwhile.
type Conflict struct {
	Sentence string
	Current  any // what it is now
}

func (c *Conflict) Error() string { return c.Sentence }

// editedMeanwhile is the conflict of an editor with what another has written since.
func editedMeanwhile(what, by string, at time.Time, current any) error {
	return &Conflict{
		Sentence: fmt.Sprintf("%s changed this %s on %s while you were editing; nothing of yours was overwritten or lost",
			by, what, at.Format(civil.Moment)),
		Current: current,
	}
}
