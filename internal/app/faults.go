package app

import (
	"context"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/roster"
	"wardifex/internal/store"
)

// mostWords is how many characters a fault and its answer may have.
const mostWords = 2000

// ReportFault records a fault on a machine, and gives its number. Anybody signed in may. A
// machine in danger is out of use with it, at once.
func (a *App) ReportFault(ctx context.Context, machineID int64, symptom, words, by string, now time.Time) (
	id int64, danger bool, err error) {
	words = strings.TrimSpace(words)
	if words == "" || len([]rune(words)) > mostWords {
		return 0, false, refuse("say what is wrong, in at most %d characters", mostWords)
	}
	if _, ok := maintenance.SymptomOf(symptom); symptom != "" && !ok {
		return 0, false, refuse("there is no symptom %q", symptom)
	}
	danger = maintenance.IsDanger(symptom, words)
	err = a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.store.LockMachine(ctx, machineID); err != nil {
			return err
		}
		f := store.ReportedFault{MachineID: machineID, Symptom: symptom, Words: words, By: by, At: now, Danger: danger}
		var err error
		if id, err = a.store.AddFault(ctx, f); err != nil || !danger {
			return err
		}
		return a.alarm(ctx, id, by, now)
	})
	return id, danger, err
}

// TakeFault notes that an account is on a fault, or that nobody is any more.
func (a *App) TakeFault(ctx context.Context, id int64, version int, account int64, by string, now time.Time) error {
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.lockFault(ctx, id, version); err != nil {
			return err
		}
		return a.store.TakeFault(ctx, id, account, by, now)
	})
}

// lockFault takes a fault for the transaction, as it was when whoever changes it saw it.
func (a *App) lockFault(ctx context.Context, id int64, version int) error {
	is, err := a.store.LockFault(ctx, id)
	if err == nil && is != version {
		err = &Conflict{Sentence: "somebody else changed this fault meanwhile; nothing was overwritten. Look again"}
	}
	return err
}

// CloseFault says what a fault was and what was done; an empty answer opens it again.
func (a *App) CloseFault(ctx context.Context, id int64, version int, answer, by string, now time.Time) error {
	answer = strings.TrimSpace(answer)
	if len([]rune(answer)) > mostWords {
		return refuse("say it in at most %d characters", mostWords)
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.lockFault(ctx, id, version); err != nil {
			return err
		}
		f, err := a.store.Fault(ctx, id)
		if err != nil {
			return err
		}
		if err := a.answerFault(ctx, id, answer, by, now); err != nil {
			return err
		}
		if answer == "" && f.Danger && f.ClosedAt != nil {
			return a.alarm(ctx, id, by, now) // it is as it was when it was reported
		}
		return nil
	})
}

// answerFault writes what a fault was; one that is closed is off the plan.
func (a *App) answerFault(ctx context.Context, id int64, answer, by string, now time.Time) error {
	if answer != "" {
		if err := a.store.DropPlannedWork(ctx, roster.FaultKey(id)); err != nil {
			return err
		}
	}
	return a.store.WriteAnswer(ctx, id, answer, by, now)
}

// SetUse says what machines may be used for from now on, and why: all of them, or none when
// one is not there.
func (a *App) SetUse(
	ctx context.Context,
	machines []int64,
	use maintenance.Use,
	why, by string,
	now time.Time,
) error {
	if !slices.Contains(maintenance.Uses(), use) {
		return refuse("%q is none of %v", use, maintenance.Uses())
	}
	if err := machine.PlainText(why); err != nil {
		return refuse("say why: %s", err)
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		for _, id := range slices.Compact(slices.Sorted(slices.Values(machines))) {
			if err := a.store.LockMachine(ctx, id); err != nil {
				return err
			}
			if err := a.mayUse(ctx, id, use); err != nil {
				return err
			}
			if err := a.store.AddUse(ctx, id, use, why, by, now); err != nil {
				return err
			}
		}
		return nil
	})
}
