package app

import (
	"context"
	"errors"
	"slices"
	"sync"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/plan"
	"wardifex/internal/core/recovered"
)

// mostRemedies bounds what is kept of what would make kits fit.
const mostRemedies = 500

// remedies keeps what would make a kit fit from one question to the next, as long as the
// machine and the kits are the same: many who ask at once wait for one answer.
type remedies struct {
	mu    sync.Mutex
	known map[remedyKey]*remedy
}

type remedyKey struct {
	kit     string
	machine int64
}

type remedy struct {
	judges  []*fit.Judge
	facts   machine.Snapshot
	records [2]int // how many there were, and how often one became invalid
	done    chan struct{}
	found   plan.Remedies
	err     error
}

// find gives what is known, or works it out while the asker waits. Who asks for what
// another one has stopped waiting for works it out anew.
func (r *remedies) find(
	ctx context.Context,
	key remedyKey,
	j *fit.Judge,
	judges []*fit.Judge,
	s machine.Snapshot,
	records []calibration.Record,
) (plan.Remedies, error) {
	for {
		one, mine := r.entry(key, judges, s, counted(records))
		if mine {
			one.err = recovered.From(func() (err error) {
				one.found, err = plan.FindRemedies(ctx, j, judges, s, records)
				return err
			})
			close(one.done)
			if one.err != nil {
				r.forget(key, one)
			}
			return one.found, one.err
		}
		select {
		case <-one.done:
			gaveUp := errors.Is(one.err, context.Canceled) || errors.Is(one.err, context.DeadlineExceeded)
			if !gaveUp || ctx.Err() != nil {
				return one.found, one.err
			}
		case <-ctx.Done():
			return plan.Remedies{}, ctx.Err()
		}
	}
}

// entry is what is known or being worked out; mine says that it is for the asker to do.
func (r *remedies) entry(
	key remedyKey,
	judges []*fit.Judge,
	s machine.Snapshot,
	records [2]int,
) (one *remedy, mine bool) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if one := r.known[key]; one != nil && one.records == records && one.facts.Same(s) && slices.Equal(one.judges, judges) {
		return one, false
	}
	if r.known == nil || len(r.known) >= mostRemedies {
		r.known = map[remedyKey]*remedy{}
	}
	one = &remedy{judges: judges, facts: s, records: records, done: make(chan struct{})}
	r.known[key] = one
	return one, true
}

func counted(records []calibration.Record) [2]int {
	out := [2]int{len(records)}
	for _, r := range records {
		out[1] += len(r.Invalid)
	}
	return out
}

func (r *remedies) forget(key remedyKey, one *remedy) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.known[key] == one {
		delete(r.known, key)
	}
}
