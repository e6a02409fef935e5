package server

import (
	"context"
	"slices"
	"sort"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/store"
)

// Fleet is the names of every machine.
type Fleet struct {
	Machines []FleetRow   `json:"machines"`
	Retired  []RetiredRow `json:"retired"`
}

// FleetRow is a machine in a line.
type FleetRow struct {
	ID    int64  `json:"id"`
	Name  string `json:"name"`
	Bay   string `json:"bay"`
	Maker string `json:"maker"`
}

// RetiredRow is a machine that was taken out of the fleet.
type RetiredRow struct {
	ID   int64     `json:"id"`
	Name string    `json:"name"`
	At   time.Time `json:"at"`
	Why  string    `json:"why"`
}

func (s *Server) fleet(ctx context.Context, _ user, _ *none) (*answer[Fleet], error) {
	list, err := s.Store.Names(ctx)
	out := Fleet{Machines: []FleetRow{}, Retired: []RetiredRow{}}
	for _, m := range list {
		if m.RetiredAt != nil {
			out.Retired = append(out.Retired, RetiredRow{ID: m.ID, Name: m.Name, At: *m.RetiredAt, Why: m.RetiredWhy})
			continue
		}
		out.Machines = append(out.Machines, FleetRow{ID: m.ID, Name: m.Name, Bay: m.Bay, Maker: m.Maker})
	}
	return answerOf(out, err)
}

type addMachine struct {
	Body struct {
		store.Fields
		Like app.Like `json:"like,omitempty" doc:"After what it is built; the usual positions when empty"`
	}
}

// Created is the number of what was made.
type Created struct {
	ID int64 `json:"id"`
}

func (s *Server) addMachine(ctx context.Context, u user, in *addMachine) (*answer[Created], error) {
	id, err := s.app.AddMachine(ctx, in.Body.Fields, in.Body.Like, u.Name, s.now())
	return answerOf(Created{id}, err)
}

type changeMachine struct {
	ByID
	Body app.EditedMachine
}

func (s *Server) changeMachine(ctx context.Context, u user, in *changeMachine) (*answer[Sheet], error) {
	if err := s.app.ChangeMachine(ctx, in.ID, in.Body.Version, in.Body.Fields, u.Name, s.now()); err != nil {
		return nil, err
	}
	return s.sheetOf(ctx, in.ID)
}

type retire struct {
	ByID
	Body struct {
		Why string `json:"why" doc:"Reason; empty brings the machine back"`
	}
}

func (s *Server) retire(ctx context.Context, u user, in *retire) (*answer[Sheet], error) {
	if err := s.app.Retire(ctx, in.ID, in.Body.Why, u.Name, s.now()); err != nil {
		return nil, err
	}
	return s.sheetOf(ctx, in.ID)
}

// DueRow is one task of one machine.
type DueRow struct {
	MachineID int64  `json:"machineId"`
	Machine   string `json:"machine"`
	Bay       string `json:"bay"`
	Locked    bool   `json:"locked" doc:"Work is open on the machine"`
	maintenance.Due
}

// DueAnswer is the maintenance over the fleet, most urgent first, as it was asked for.
type DueAnswer struct {
	Rows  []DueRow           `json:"rows" doc:"Of what was asked for; at most so many with a date"`
	Tasks []maintenance.Task `json:"tasks"`
	Bays  []string           `json:"bays" doc:"Of the whole fleet"`
	Dated int                `json:"dated" doc:"How many have a date, however far ahead"`
	// Rounds propose when tasks are done for the first time whose start is unknown.
	Rounds []maintenance.Round `json:"rounds"`
}

type dueAsked struct {
	Task   string `query:"task" maxLength:"60" doc:"Of one kind of task"`
	Bay    string `query:"bay" maxLength:"60" doc:"Of one bay"`
	Within int    `query:"within" minimum:"-1" maximum:"36500" default:"-1" doc:"Days ahead; −1 for all"`
	Limit  int    `query:"limit" minimum:"1" maximum:"5000" default:"500" doc:"Of those with a date"`
}

func (s *Server) due(ctx context.Context, _ user, in *dueAsked) (*answer[DueAnswer], error) {
	machines, err := s.Store.Fleet(ctx)
	if err != nil {
		return nil, err
	}
	if err := s.Store.Wear(ctx, machines); err != nil {
		return nil, err
	}
	now := s.now()
	out := DueAnswer{Rows: []DueRow{}, Tasks: maintenance.Tasks(), Bays: []string{}}
	waiting := map[string]int{}
	for i := range machines {
		if err := ctx.Err(); err != nil {
			return nil, err // whoever asked has gone
		}
		m := &machines[i]
		if m.Bay != "" && !slices.Contains(out.Bays, m.Bay) {
			out.Bays = append(out.Bays, m.Bay)
		}
		for _, d := range maintenance.DueList(m.Subject(now), now) {
			if d.State == maintenance.StartUnknown {
				waiting[d.Task]++
			}
			if in.Task != "" && in.Task != d.Task || in.Bay != "" && in.Bay != m.Bay {
				continue
			}
			if d.On != nil {
				out.Dated++
				if in.Within >= 0 && *d.On > civil.Of(now)+civil.Day(in.Within) {
					continue
				}
			}
			out.Rows = append(out.Rows, DueRow{MachineID: m.ID, Machine: m.Name, Bay: m.Bay, Locked: m.OpenOrder != nil, Due: d})
		}
	}
	slices.Sort(out.Bays)
	out.Rounds = maintenance.FirstRounds(waiting, civil.Of(now))
	sort.SliceStable(out.Rows, func(i, j int) bool { return maintenance.MoreUrgent(out.Rows[i].Due, out.Rows[j].Due) })
	dated := 0
	out.Rows = slices.DeleteFunc(out.Rows, func(r DueRow) bool {
		if r.On != nil {
			dated++
		}
		return r.On != nil && dated > in.Limit
	})
	return answerOf(out, nil)
}
