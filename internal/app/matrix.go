package app

import (
	"cmp"
	"context"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/fit"
	"wardifex/internal/store"
)

// Matrix is kits judged on machines, as far as they were asked for.
type Matrix struct {
	Kits     []MatrixKit     `json:"kits" doc:"The columns"`
	Machines []MatrixMachine `json:"machines" doc:"The rows"`
	Broken   []string        `json:"broken" doc:"Kits and machines that cannot be judged, and why"`
	// How many there are of what was asked for, and in all.
	KitsFound     int `json:"kitsFound"`
	AllKits       int `json:"allKits"`
	MachinesFound int `json:"machinesFound"`
	AllMachines   int `json:"allMachines"`
	// Judged is how many of all machines are judged so far: with fewer than all, counts grow.
	Judged int      `json:"judged" doc:"Machines judged so far; the rest is judged in the background, and counts grow"`
	Bays   []string `json:"bays" doc:"Of the whole fleet"`
	// Counts are over the kits and machines that are judged.
	Counts []fit.Counted `json:"counts" doc:"Over everything, in the order in which they are shown"`
}

// MatrixKit is a column.
type MatrixKit struct {
	Key     string     `json:"key"`
	Name    string     `json:"name"`
	What    string     `json:"what"`
	Price   float64    `json:"price"`
	Minutes int        `json:"minutes"`
	Counts  fit.Counts `json:"counts" doc:"Over the whole fleet"`
}

// MatrixMachine is a row.
type MatrixMachine struct {
	ID      int64        `json:"id"`
	Name    string       `json:"name"`
	Bay     string       `json:"bay"`
	Maker   string       `json:"maker"`
	Locked  bool         `json:"locked"`
	Answers []fit.Answer `json:"answers" enum:"fits,fits if,look first,does not fit" doc:"In the order of the kits"`
	Heads   []int        `json:"heads" doc:"The head that each kit fits best, where it can be for several; 0 elsewhere"`
	// Where something is to be looked at first; empty elsewhere.
	Leans []fit.Answer `json:"leans" enum:"fits,fits if,does not fit,no lean," doc:"Which way the claims lean"`
}

// Orders of the kits in the matrix.
const (
	KitsByKind  = "kind"  // by kind of upgrade and name
	KitsByFits  = "fits"  // those that fit the most machines first
	KitsByLeans = "leans" // those that fit, or lean to it, on the most machines first
)

// MatrixQuery is which part of the matrix is asked for; what is empty narrows nothing.
type MatrixQuery struct {
	What string // kind of upgrade
	Name string // in the kit's name
	Sort string // KitsByKind, KitsByFits, KitsByLeans
	Kits int    // at most so many columns; 0 for all
	Bay  string
	Text string // in the machine's name, bay or maker
	// Machines are the only ones; all where there are none.
	Machines []int64
	// Wanted leaves the machines on which any of the kits has such an answer.
	Wanted        fit.Wanted
	Offset, Limit int // of the machines; a limit of 0 is none
	// Patience is how long machines that are not on the page are waited for; without end where it is 0.
	Patience time.Duration
}

// page reports which machines have to be judged for an answer: those of the page, as far as
// that is known before anything is judged.
func (q MatrixQuery) page() func(*store.Machine) bool {
	n := 0
	return func(m *store.Machine) bool {
		if !q.asks(m) {
			return false
		}
		n++
		return q.Limit == 0 || n > q.Offset && n <= q.Offset+q.Limit
	}
}

// Matrix judges kits on machines, as far as they are asked for.
func (a *App) Matrix(ctx context.Context, q MatrixQuery) (Matrix, error) {
	judges, broken, fleet, rows, err := a.judged(ctx, q.Patience, q.page())
	out := Matrix{Kits: []MatrixKit{}, Machines: []MatrixMachine{}, Broken: slices.Clone(broken), Bays: []string{},
		Counts:  []fit.Counted{},
		AllKits: len(judges), AllMachines: len(fleet)}
	if err != nil {
		return out, err
	}
	columns := q.columns(judges, rows)
	var counts fit.Counts
	for i, r := range rows {
		if r == nil {
			continue
		}
		out.Judged++
		if r.fault {
			out.Broken = append(out.Broken, fleet[i].Name+
				": the record of this machine is faulty, so no kit is judged on it; the server's log says more")
		}
		for _, t := range r.truths() {
			counts.Add(t.Answer(), t.Lean())
		}
	}
	out.Counts = counts.List()
	out.KitsFound = len(columns)
	if q.Kits > 0 {
		columns = columns[:min(q.Kits, len(columns))]
	}
	for _, c := range columns {
		out.Kits = append(out.Kits, c.kit)
	}
	for i := range fleet {
		m := &fleet[i]
		if m.Bay != "" && !slices.Contains(out.Bays, m.Bay) {
			out.Bays = append(out.Bays, m.Bay)
		}
		if !q.asks(m) {
			continue
		}
		if rows[i] == nil {
			if q.Wanted == (fit.Wanted{}) {
				out.MachinesFound++ // of a later page, which waits for it
			}
			continue
		}
		line, ok := rowOf(m, rows[i], judges, columns, q.Wanted)
		if !ok {
			continue
		}
		if out.MachinesFound++; out.MachinesFound > q.Offset && (q.Limit == 0 || len(out.Machines) < q.Limit) {
			out.Machines = append(out.Machines, line)
		}
	}
	slices.Sort(out.Bays)
	return out, nil
}

// matrixColumn is a kit with its place among the judges.
type matrixColumn struct {
	kit MatrixKit
	at  int
}

// columns are the kits asked for, in the order asked for.
func (q MatrixQuery) columns(judges []*fit.Judge, rows []*judgedMachine) []matrixColumn {
	var out []matrixColumn
	for at, j := range judges {
		k := j.Kit
		if q.What != "" && q.What != k.What || !strings.Contains(strings.ToLower(k.Name), strings.ToLower(q.Name)) {
			continue
		}
		c := matrixColumn{MatrixKit{Key: k.Key, Name: k.Name, What: k.What, Price: k.Price, Minutes: k.Minutes}, at}
		for _, r := range rows {
			if r == nil {
				continue
			}
			t := r.truths()[at]
			c.kit.Counts.Add(t.Answer(), t.Lean())
		}
		out = append(out, c)
	}
	weight := func(c fit.Counts) int {
		switch q.Sort {
		case KitsByFits:
			return c.FitNow()
		case KitsByLeans:
			return c.FitNow() + c.LeanToFit()
		}
		return 0
	}
	slices.SortStableFunc(out, func(x, y matrixColumn) int {
		return cmp.Or(cmp.Compare(weight(y.kit.Counts), weight(x.kit.Counts)), strings.Compare(x.kit.What, y.kit.What),
			strings.Compare(x.kit.Name, y.kit.Name))
	})
	return out
}

func (q MatrixQuery) asks(m *store.Machine) bool {
	return (q.Bay == "" || q.Bay == m.Bay) && mentions(m, q.Text) &&
		(len(q.Machines) == 0 || slices.Contains(q.Machines, m.ID))
}

// mentions reports whether a machine's name, bay or maker has a text in it.
func mentions(m *store.Machine, text string) bool {
	return strings.Contains(strings.ToLower(m.Name+" "+m.Bay+" "+m.Maker), strings.ToLower(text))
}

// rowOf is the row of a machine; ok is false where none of the columns has an answer that
// is wanted.
func rowOf(m *store.Machine, row *judgedMachine, judges []*fit.Judge, columns []matrixColumn, wanted fit.Wanted) (
	line MatrixMachine, ok bool) {
	line = MatrixMachine{ID: m.ID, Name: m.Name, Bay: m.Bay, Maker: m.Maker, Locked: m.OpenOrder != nil,
		Answers: make([]fit.Answer, len(columns)), Leans: make([]fit.Answer, len(columns)), Heads: make([]int,
			len(columns))}
	ok = wanted == fit.Wanted{}
	for i, c := range columns {
		t := row.truths()[c.at]
		line.Answers[i], line.Leans[i] = t.Answer(), t.Lean()
		ok = ok || wanted.Is(line.Answers[i], line.Leans[i])
	}
	if ok {
		for i, c := range columns {
			line.Heads[i] = row.head(c.at, judges[c.at])
		}
	}
	return line, ok
}
