package server

import (
	"context"
	"errors"
	"slices"
	"sync"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/plan"
)

// mostRemedied bounds what is kept of what would make kits fit.
const mostRemedied = 500

// remedied keeps what would make a kit fit from one question to the next, as long as the
// machine and the kits are the same: many who ask at once wait for one answer.
type remedied struct {
	mu    sync.Mutex
	known map[remediedKey]*remedy
}

type remediedKey struct {
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
func (r *remedied) find(
	ctx context.Context,
	key remediedKey,
	j *fit.Judge,
	judges []*fit.Judge,
	s machine.Snapshot,
	records []calibration.Record,
) (plan.Remedies, error) {
	for {
		one, mine := r.entry(key, judges, s, counted(records))
		if mine {
			one.found, one.err = plan.FindRemedies(ctx, j, judges, s, records)
			close(one.done)
			if one.err != nil {
				r.forget(key, one)
			}
			return one.found, one.err
		}
		select {
		case <-one.done:
			if one.err == nil || ctx.Err() != nil || !errors.Is(one.err, context.Canceled) {
				return one.found, one.err
			}
		case <-ctx.Done():
			return plan.Remedies{}, ctx.Err()
		}
	}
}

// entry is what is known or being worked out; mine says that it is for the asker to do.
func (r *remedied) entry(
	key remediedKey,
	judges []*fit.Judge,
	s machine.Snapshot,
	records [2]int,
) (one *remedy, mine bool) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if one := r.known[key]; one != nil && one.records == records && one.facts.Same(s) && slices.Equal(one.judges, judges) {
		return one, false
	}
	if r.known == nil || len(r.known) >= mostRemedied {
		r.known = map[remediedKey]*remedy{}
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

func (r *remedied) forget(key remediedKey, one *remedy) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.known[key] == one {
		delete(r.known, key)
	}
}
