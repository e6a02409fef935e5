package app

import (
	"cmp"
	"context"
	"maps"
	"slices"
	"strings"
	"sync"
	"time"

	"wardifex/internal/core/printfile"
	"wardifex/internal/store"
)

// KnownFile is a file that was judged before.
type KnownFile struct {
	store.PrintFile
	Takes   string                   `json:"takes"`
	Answers map[printfile.Answer]int `json:"answers" doc:"How many machines are of which answer now"`
	Best    []string                 `json:"best"    doc:"Machines that it prints on and that are free"`
	Stale   []string                 `json:"stale"   doc:"Machines on which it printed before they were changed"`
	// On one machine, where the list is asked for one.
	Here *printfile.FileVerdict `json:"here,omitempty" doc:"On the machine that was asked for"`
}

// knownFiles keeps the files that were read, which never change, and what each is on the machines: a machine is
// judged anew when it was changed since.
type knownFiles struct {
	mu    sync.Mutex
	files map[int64]store.PrintFile
	on    map[int64]*answersOn // by machine
}

// answersOn are the answers of files on a machine as it was then.
type answersOn struct {
	revision int64
	machine  printfile.Machine
	answers  map[int64]printfile.Answer // by file; written under the lock of knownFiles
}

// mostKept is how many files are kept in memory; beyond it, all are forgotten.
const mostKept = 1000

// load gives files by their numbers, in that order.
func (k *knownFiles) load(ctx context.Context, s *store.Store, ids []int64) ([]store.PrintFile, error) {
	var missing []int64
	here := make(map[int64]store.PrintFile, len(ids))
	k.mu.Lock()
	for _, id := range ids {
		if f, ok := k.files[id]; ok {
			here[id] = f
		} else {
			missing = append(missing, id)
		}
	}
	k.mu.Unlock()
	if len(missing) > 0 {
		loaded, err := s.PrintFiles(ctx, missing)
		if err != nil {
			return nil, err
		}
		k.mu.Lock()
		if k.files == nil || len(k.files)+len(loaded) > mostKept {
			k.files, k.on = map[int64]store.PrintFile{}, map[int64]*answersOn{}
		}
		for _, f := range loaded {
			k.files[f.ID], here[f.ID] = f, f
		}
		k.mu.Unlock()
	}
	out := make([]store.PrintFile, 0, len(ids))
	for _, id := range ids {
		if f, ok := here[id]; ok {
			out = append(out, f)
		}
	}
	return out, nil
}

// answers are those of files on a machine, from when it was as it is where they are known.
func (k *knownFiles) answers(files []store.PrintFile, m *store.Machine,
	as printfile.Machine) map[int64]printfile.Answer {
	k.mu.Lock()
	on := k.on[m.ID]
	if on == nil || on.revision != m.Revision || on.machine.Words != as.Words || on.machine.Macros != as.Macros ||
		!on.machine.Facts.Same(as.Facts) {
		on = &answersOn{revision: m.Revision, machine: as, answers: map[int64]printfile.Answer{}}
	}
	known := make(map[int64]printfile.Answer, len(files))
	for _, f := range files {
		if a, ok := on.answers[f.ID]; ok {
			known[f.ID] = a
		}
	}
	k.mu.Unlock()
	before := len(known)
	for _, f := range files {
		if known[f.ID] == "" {
			known[f.ID] = printfile.Judge(f.Profile, as).Answer
		}
	}
	if len(known) > before {
		k.mu.Lock()
		defer k.mu.Unlock()
		maps.Copy(on.answers, known)
		k.on[m.ID] = on
	}
	return known
}

// KnownFiles lists files that were judged, newest first, as they stand now; machineID, if not 0, is one that each is
// judged on by itself.
func (a *App) KnownFiles(ctx context.Context, machineID int64, c store.Cut, now time.Time) (
	out store.Listed[KnownFile], err error) {
	ids, err := a.store.KnownPrintFiles(ctx, c)
	if err != nil {
		return out, err
	}
	out = store.Listed[KnownFile]{Rows: make([]KnownFile, 0, len(ids.Rows)), Found: ids.Found}
	files, err := a.known.load(ctx, a.store, ids.Rows)
	if err != nil {
		return out, err
	}
	fleet, err := a.fleetNow(ctx, now, true)
	if err != nil {
		return out, err
	}
	for _, f := range files {
		out.Rows = append(out.Rows, KnownFile{PrintFile: f, Takes: f.Profile.Hours(),
			Answers: map[printfile.Answer]int{}, Best: []string{}, Stale: []string{}})
	}
	for _, m := range fleet.freestFirst() {
		as := fleet.machine(m.machine)
		answers := a.known.answers(files, m.machine, as)
		if err := ctx.Err(); err != nil {
			return out, err
		}
		for i := range out.Rows {
			f := &out.Rows[i]
			is := answers[f.ID]
			f.Answers[is]++
			if is == printfile.Prints && m.State.Usable() && m.Taken == nil && len(f.Best) < 5 {
				f.Best = append(f.Best, m.Name)
			}
			if f.PrintFile.Answers[m.ID] == printfile.Prints && is != printfile.Prints {
				f.Stale = append(f.Stale, m.Name)
			}
			if m.ID == machineID {
				v := printfile.Judge(f.Profile, as)
				f.Here = &v
			}
		}
	}
	return out, nil
}

// usableMachine is a machine with whether it can be used.
type usableMachine struct {
	Usable
	machine *store.Machine
}

func (now fleetNow) freestFirst() []usableMachine {
	out := make([]usableMachine, len(now.machines))
	for i := range now.machines {
		m := &now.machines[i]
		out[i] = usableMachine{now.app.usable(m, now.now), m}
		out[i].Taken, out[i].Next = now.ahead.of(m.ID, now.now)
	}
	slices.SortStableFunc(out, func(x, y usableMachine) int {
		return cmp.Or(cmp.Compare(freedom(x.Usable), freedom(y.Usable)), cmp.Compare(since(x.Taken), since(y.Taken)),
			strings.Compare(x.Name, y.Name))
	})
	return out
}

// StaleFile is a known file that a change makes stale.
type StaleFile struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
	Why  string `json:"why"`
}

// StaleFiles are the known files that print on the machine of an order as it is, and not as it will be; none where the
// order is not open.
func (a *App) StaleFiles(ctx context.Context, id int64) ([]StaleFile, error) {
	out := []StaleFile{}
	o, err := a.order(ctx, id)
	if err != nil || o.State != store.Opened {
		return out, err
	}
	ids, err := a.store.KnownPrintFiles(ctx, store.Cut{})
	if err != nil {
		return out, err
	}
	macros, err := a.macros(ctx, o.machine.ID)
	if err != nil {
		return out, err
	}
	is := printfile.Machine{Facts: o.change.Before, Records: o.machine.Records, Words: o.words,
		Macros: macros[o.machine.ID]}
	will := is
	will.Facts = o.change.After
	for some := range slices.Chunk(ids.Rows, mostKept/2) {
		files, err := a.known.load(ctx, a.store, some)
		if err != nil {
			return out, err
		}
		for _, f := range files {
			if printfile.Judge(f.Profile, is).Answer != printfile.Prints {
				continue
			}
			if after := printfile.Judge(f.Profile, will); after.Answer != printfile.Prints {
				out = append(out, StaleFile{f.ID, f.Name, after.Findings[0].Says})
			}
			if err := ctx.Err(); err != nil {
				return out, err
			}
		}
	}
	return out, nil
}
