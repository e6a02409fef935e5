package app

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
	"wardifex/internal/store"
)

// VerdictRow is a kit's verdict on one machine, for a list.
type VerdictRow struct {
	MachineID int64      `json:"machineId"`
	Machine   string     `json:"machine"`
	Bay       string     `json:"bay"`
	Answer    fit.Answer `json:"answer" enum:"fits,fits if,look first,does not fit"`
	// Where something is to be looked at first; empty elsewhere.
	Lean        fit.Answer `json:"lean,omitempty" enum:"fits,fits if,does not fit,no lean," doc:"Where the claims lean"`
	Headline    string     `json:"headline"`
	Head        int        `json:"head,omitempty" doc:"The head that it fits best, where a kit can be for several"`
	LookMinutes int        `json:"lookMinutes" doc:"The longest of the inspections that would settle it"`
	Locked      bool       `json:"locked"`
}

// Verdicts is a kit judged on machines, as far as they were asked for, the best first.
type Verdicts struct {
	Kit    fit.Kit       `json:"kit"`
	Rows   []VerdictRow  `json:"rows"`
	Counts []fit.Counted `json:"counts" doc:"Over the whole fleet, in the order in which they are shown"`
	Found  int           `json:"found" doc:"How many there are of what was asked for"`
	All    int           `json:"all" doc:"Machines in the fleet"`
	// Reasons are those for which a machine may be touched.
	Reasons []string `json:"reasons"`
}

// VerdictsQuery is which verdicts are asked for; what is empty narrows nothing.
type VerdictsQuery struct {
	Wanted        fit.Wanted
	Bay, Text     string // in the machine's name, bay or maker
	Offset, Limit int
}

// Verdicts judges a kit on every machine, and explains the verdicts that are asked for.
func (a *App) Verdicts(ctx context.Context, key string, q VerdictsQuery) (Verdicts, error) {
	j, err := a.Judge(ctx, key)
	if err != nil {
		return Verdicts{}, err
	}
	fleet, truths, err := a.truthsOf(ctx, j)
	out := Verdicts{Kit: j.Kit, Rows: []VerdictRow{}, Counts: []fit.Counted{}, All: len(fleet),
		Reasons: change.Reasons()}
	if err != nil {
		return out, err
	}
	var found []int
	var counts fit.Counts
	for i := range fleet {
		answer, lean := truths[i].Answer(), truths[i].Lean()
		counts.Add(answer, lean)
		if q.Wanted.Is(answer, lean) && (q.Bay == "" || q.Bay == fleet[i].Bay) && mentions(&fleet[i], q.Text) {
			found = append(found, i)
		}
	}
	slices.SortStableFunc(found, func(x, y int) int {
		return cmp.Or(fit.CompareAnswers(truths[x].Answer(), truths[x].Lean(), truths[y].Answer(), truths[y].Lean()),
			strings.Compare(strings.ToLower(fleet[x].Name), strings.ToLower(fleet[y].Name)))
	})
	out.Counts, out.Found = counts.List(), len(found)
	found = found[min(q.Offset, len(found)):]
	for _, i := range found[:min(q.Limit, len(found))] {
		if err := ctx.Err(); err != nil {
			return out, err // whoever asked has gone
		}
		out.Rows = append(out.Rows, verdictRow(j, &fleet[i]))
	}
	return out, nil
}

func verdictRow(j *fit.Judge, m *store.Machine) VerdictRow {
	v := j.Verdict(m.Facts)
	row := VerdictRow{MachineID: m.ID, Machine: m.Name, Bay: m.Bay, Head: v.Head, Answer: v.Answer, Lean: v.Lean,
		Headline: v.Headline, Locked: m.OpenOrder != nil}
	for _, l := range v.Look {
		row.LookMinutes = max(row.LookMinutes, l.Inspection.Minutes)
	}
	return row
}

// truthsOf judges a kit on every machine without explaining: from the matrix where that has
// got so far.
func (a *App) truthsOf(ctx context.Context, j *fit.Judge) ([]store.Machine, []fit.Truth, error) {
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return nil, nil, err
	}
	truths := make([]fit.Truth, len(fleet))
	for i := range fleet {
		if err := ctx.Err(); err != nil {
			return nil, nil, err
		}
		if t, known := a.fleet.truth(&fleet[i], j); known {
			truths[i] = t
		} else {
			truths[i] = j.Truth(fleet[i].Facts)
		}
	}
	return fleet, truths, nil
}
