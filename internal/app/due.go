package app

import (
	"context"
	"slices"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/maintenance"
)

// DueRow is one task of one machine.
type DueRow struct {
	MachineID int64  `json:"machineId"`
	Machine   string `json:"machine"`
	Bay       string `json:"bay"`
	Locked    bool   `json:"locked" doc:"Work is open on the machine"`
	Danger    bool   `json:"danger" doc:"A danger is open on the machine: nothing is done there before its repair"`
	maintenance.Due
}

// DueList is the maintenance over the fleet, most urgent first, as it was asked for.
type DueList struct {
	Rows  []DueRow           `json:"rows" doc:"Of what was asked for; at most so many with a date"`
	Tasks []maintenance.Task `json:"tasks"`
	Bays  []string           `json:"bays" doc:"Of the whole fleet"`
	Dated int                `json:"dated" doc:"How many have a date, however far ahead"`
	// Found is how many of what was asked for have a date within it; at most the limit of them are rows.
	Found int `json:"found" doc:"How many of what was asked for have a date within it"`
	// Undated counts what has no date; of each at most UndatedShown machines are rows.
	Undated []UndatedDue `json:"undated" doc:"What has no date, counted; rows hold the first machines of each"`
	// Rounds propose when tasks are done for the first time whose start is unknown.
	Rounds []maintenance.Round `json:"rounds"`
}

// UndatedDue counts the machines of which a task has no date, and why.
type UndatedDue struct {
	State    maintenance.State `json:"state"`
	Task     string            `json:"task,omitempty" doc:"Only where the start is unknown: the rest is told by machine"`
	Machines int               `json:"machines"`
}

// UndatedShown is of how many machines rows without a date are given, of each state and task.
const UndatedShown = 100

// DueQuery is which maintenance is asked for; what is empty narrows nothing.
type DueQuery struct {
	Task, Bay string
	Within    int // days ahead; negative for all
	Limit     int // of those with a date
}

// Due lists the maintenance that comes next over the fleet.
func (a *App) Due(ctx context.Context, q DueQuery, now time.Time) (DueList, error) {
	out := DueList{Rows: []DueRow{}, Undated: []UndatedDue{}, Tasks: a.store.Tasks(ctx), Bays: []string{}}
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return out, err
	}
	if err := a.store.Wear(ctx, fleet); err != nil {
		return out, err
	}
	today := civil.Of(now)
	waiting := map[string]int{}
	for i := range fleet {
		if err := ctx.Err(); err != nil {
			return out, err // whoever asked has gone
		}
		m := &fleet[i]
		if m.Bay != "" && !slices.Contains(out.Bays, m.Bay) {
			out.Bays = append(out.Bays, m.Bay)
		}
		for _, d := range maintenance.DueList(m.Subject(now), now) {
			if d.State == maintenance.StartUnknown {
				waiting[d.Task]++
			}
			if q.Task != "" && q.Task != d.Task || q.Bay != "" && q.Bay != m.Bay {
				continue
			}
			if d.On != nil {
				out.Dated++
				if q.Within >= 0 && *d.On > today+civil.Day(q.Within) {
					continue
				}
			}
			out.Rows = append(out.Rows, DueRow{MachineID: m.ID, Machine: m.Name, Bay: m.Bay, Locked: m.OpenOrder != nil,
				Danger: m.Danger != nil, Due: d})
		}
	}
	slices.Sort(out.Bays)
	out.Rounds = maintenance.FirstRounds(out.Tasks, waiting, today)
	slices.SortStableFunc(out.Rows, func(x, y DueRow) int {
		switch {
		case maintenance.MoreUrgent(x.Due, y.Due):
			return -1
		case maintenance.MoreUrgent(y.Due, x.Due):
			return 1
		}
		return 0
	})
	undated := undatedCounts{at: map[UndatedDue]int{}, seen: map[undatedMachine]int{}}
	out.Rows = slices.DeleteFunc(out.Rows, func(r DueRow) bool {
		if r.On == nil {
			return undated.add(&r) > UndatedShown
		}
		out.Found++
		return out.Found > q.Limit
	})
	out.Undated = append(out.Undated, undated.counts...)
	return out, nil
}

// undatedCounts counts machines by the state of their tasks and, where the start is unknown,
// by task.
type undatedCounts struct {
	counts []UndatedDue
	at     map[UndatedDue]int // by state and task
	seen   map[undatedMachine]int
}

type undatedMachine struct {
	UndatedDue
	machine int64
}

// add gives which machine of its kind this is, counted from 1; a machine counts once.
func (u *undatedCounts) add(r *DueRow) int {
	of := UndatedDue{State: r.State}
	if r.State == maintenance.StartUnknown {
		of.Task = r.Task
	}
	i, known := u.at[of]
	if !known {
		i = len(u.counts)
		u.at[of] = i
		u.counts = append(u.counts, of)
	}
	m := undatedMachine{of, r.MachineID}
	if _, known := u.seen[m]; !known {
		u.counts[i].Machines++
		u.seen[m] = u.counts[i].Machines
	}
	return u.seen[m]
}
