package app

import (
	"context"
	"log/slog"
	"maps"
	"runtime"
	"slices"
	"sync"
	"time"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/recovered"
	"wardifex/internal/store"
)

// judgedFleet keeps the matrix from one question to the next: only machines of which
// something was found out since are judged anew. A large fleet is judged in the background;
// who asks meanwhile gets the rows of the page and what is judged so far.
type judgedFleet struct {
	mu     sync.Mutex
	judges []*fit.Judge
	at     map[*fit.Judge]int
	matrix *fit.Matrix
	rows   map[int64]*judgedMachine
	turn   chan struct{} // held by who judges a handful of machines
	behind bool          // somebody judges in the background
	log    *slog.Logger
	// judgeOne judges all kits on a machine.
	judgeOne func(*fit.Matrix, machine.Snapshot) *fit.Row
}

// judgedMachine is a machine as it was judged.
type judgedMachine struct {
	facts machine.Snapshot
	row   *fit.Row
	// fault says that the record of the machine cannot be judged; its row is undecided then.
	fault bool
	mu    sync.Mutex
	heads map[int]int // by kit: the head that it fits best, as far as it was asked for
}

func (m *judgedMachine) truths() []fit.Truth { return m.row.Truths }

// head is the head that a kit fits best; 0 where it is for no head.
func (m *judgedMachine) head(kit int, j *fit.Judge) int {
	if m.fault {
		return 0
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	head, known := m.heads[kit]
	if !known {
		head = j.Head(m.facts)
		m.heads[kit] = head
	}
	return head
}

// begin takes the kits of the day: when they are others, everything is judged anew. It gives
// their matrix and the rows that still hold, in the order of the fleet, and forgets machines
// that are gone.
func (f *judgedFleet) begin(judges []*fit.Judge, fleet []store.Machine) (*fit.Matrix, []*judgedMachine) {
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.matrix == nil || !slices.Equal(f.judges, judges) {
		f.judges, f.matrix, f.rows = judges, fit.NewMatrix(judges), map[int64]*judgedMachine{}
		f.at = make(map[*fit.Judge]int, len(judges))
		for i, j := range judges {
			f.at[j] = i
		}
	}
	there := make(map[int64]bool, len(fleet))
	rows := make([]*judgedMachine, len(fleet))
	for i := range fleet {
		there[fleet[i].ID] = true
		if row := f.rows[fleet[i].ID]; row != nil && row.facts.Same(fleet[i].Facts) {
			rows[i] = row
		}
	}
	maps.DeleteFunc(f.rows, func(id int64, _ *judgedMachine) bool { return !there[id] })
	return f.matrix, rows
}

// truth is what a kit is on a machine, where the matrix has judged both as they are.
func (f *judgedFleet) truth(m *store.Machine, j *fit.Judge) (fit.Truth, bool) {
	f.mu.Lock()
	defer f.mu.Unlock()
	at, known := f.at[j]
	row := f.rows[m.ID]
	if !known || row == nil || !row.facts.Same(m.Facts) {
		return 0, false
	}
	return row.truths()[at], true
}

// judge judges one machine, or gives what somebody else judged meanwhile.
func (f *judgedFleet) judge(matrix *fit.Matrix, m *store.Machine) *judgedMachine {
	f.mu.Lock()
	if known := f.rows[m.ID]; f.matrix == matrix && known != nil && known.facts.Same(m.Facts) {
		f.mu.Unlock()
		return known
	}
	f.mu.Unlock()
	now := &judgedMachine{facts: m.Facts, heads: map[int]int{}}
	err := recovered.From(func() error {
		now.row = f.judgeOne(matrix, m.Facts)
		return nil
	})
	if err != nil { // one broken record must not keep the others from being judged
		f.log.Error("judging a machine", "machine", m.Name, "id", m.ID, "err", err)
		now.row, now.fault = matrix.Unjudged(), true
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.matrix == matrix {
		f.rows[m.ID] = now
	}
	return now
}

// judgeAnew judges a machine in a row of its own: others may be reading the one of before.
func judgeAnew(matrix *fit.Matrix, s machine.Snapshot) *fit.Row { return matrix.Judge(s, nil) }

// handful is how many machines are judged before somebody else has a turn.
const handful = 16

// judgeAt judges machines of the fleet by their place, a handful at a time on so many
// processors, until all are done, it is told to stop, or whoever asked has gone.
func (f *judgedFleet) judgeAt(ctx context.Context, matrix *fit.Matrix, fleet []store.Machine, rows []*judgedMachine,
	places []int, processors int, stop func() bool) (done bool, err error) {
	each := max(1, handful/processors)
	for some := range slices.Chunk(places, handful) {
		if stop() {
			return false, nil
		}
		select {
		case f.turn <- struct{}{}:
		case <-ctx.Done():
			return false, ctx.Err()
		}
		var wait sync.WaitGroup
		for share := range slices.Chunk(some, each) {
			wait.Go(func() {
				for _, i := range share {
					rows[i] = f.judge(matrix, &fleet[i])
				}
			})
		}
		wait.Wait() // judge recovers, so this always comes to an end
		<-f.turn
	}
	return true, nil
}

// judged judges every kit on every machine; first says which machines an answer needs. With
// patience, what is not judged when that is over has no row yet and is judged in the
// background. The rows are in the order of the fleet.
func (a *App) judged(ctx context.Context, patience time.Duration, first func(*store.Machine) bool) (
	judges []*fit.Judge, broken []string, fleet []store.Machine, rows []*judgedMachine, err error) {
	if judges, broken, err = a.Judges(ctx); err != nil {
		return nil, nil, nil, nil, err
	}
	if fleet, err = a.store.Fleet(ctx); err != nil {
		return nil, nil, nil, nil, err
	}
	f := &a.fleet
	matrix, rows := f.begin(judges, fleet)
	var now, later []int
	for i := range fleet {
		needed := first(&fleet[i])
		switch {
		case rows[i] != nil:
		case needed:
			now = append(now, i)
		default:
			later = append(later, i)
		}
	}
	all := runtime.GOMAXPROCS(0)
	until := time.Now().Add(patience)
	if _, err := f.judgeAt(ctx, matrix, fleet, rows, now, all, func() bool { return false }); err != nil {
		return nil, nil, nil, nil, err // whoever asked has gone
	}
	over := func() bool { return patience > 0 && time.Now().After(until) }
	done, err := f.judgeAt(ctx, matrix, fleet, rows, later, all, over)
	if err != nil {
		return nil, nil, nil, nil, err
	}
	if !done {
		f.goOn(matrix, fleet, later)
	}
	return judges, broken, fleet, rows, nil
}

// goOn judges what is left in the background, unless somebody does so already: whoever asks
// next finds more of it. It ends with the fleet, or when the kits are others.
func (f *judgedFleet) goOn(matrix *fit.Matrix, fleet []store.Machine, places []int) {
	f.mu.Lock()
	defer f.mu.Unlock()
	if f.behind {
		return
	}
	f.behind = true
	others := func() bool {
		f.mu.Lock()
		defer f.mu.Unlock()
		return f.matrix != matrix
	}
	half := max(1, runtime.GOMAXPROCS(0)/2) // the others answer meanwhile
	go func() {
		defer func() {
			f.mu.Lock()
			f.behind = false
			f.mu.Unlock()
		}()
		err := recovered.From(func() error {
			_, err := f.judgeAt(context.Background(), matrix, fleet, make([]*judgedMachine, len(fleet)), places, half, others)
			return err
		})
		if err != nil {
			f.log.Error("judging the fleet in the background", "err", err)
		}
	}()
}

// Prepare loads the fleet and judges it before anybody asks: the first answers are as quick
// as later ones.
func (a *App) Prepare(ctx context.Context) error {
	_, _, _, _, err := a.judged(ctx, 0, func(*store.Machine) bool { return false })
	return err
}
