package server

import (
	"context"
	"sort"
	"time"

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
		Like store.Like `json:"like,omitempty" doc:"After what it is built; the usual positions when empty"`
	}
}

// Created is the number of what was made.
type Created struct {
	ID int64 `json:"id"`
}

func (s *Server) addMachine(ctx context.Context, u user, in *addMachine) (*answer[Created], error) {
	id, err := s.Store.AddMachine(ctx, in.Body.Fields, in.Body.Like, u.Name, s.now())
	return answerOf(Created{id}, err)
}

type changeMachine struct {
	ByID
	Body store.Edited
}

func (s *Server) changeMachine(ctx context.Context, u user, in *changeMachine) (*answer[Sheet], error) {
	if err := s.Store.ChangeMachine(ctx, in.ID, in.Body.Version, in.Body.Fields, u.Name, s.now()); err != nil {
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
	if err := s.Store.Retire(ctx, in.ID, in.Body.Why, u.Name, s.now()); err != nil {
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

// DueAnswer is the maintenance over the fleet, most urgent first.
type DueAnswer struct {
	Rows  []DueRow           `json:"rows"`
	Tasks []maintenance.Task `json:"tasks"`
	// Rounds propose when tasks are done for the first time whose start is unknown.
	Rounds []maintenance.Round `json:"rounds"`
}

func (s *Server) due(ctx context.Context, _ user, _ *none) (*answer[DueAnswer], error) {
	machines, err := s.Store.Fleet(ctx)
	if err != nil {
		return nil, err
	}
	if err := s.Store.Wear(ctx, machines); err != nil {
		return nil, err
	}
	now := s.now()
	out := DueAnswer{Rows: []DueRow{}, Tasks: maintenance.Tasks()}
	waiting := map[string]int{}
	for i := range machines {
		m := &machines[i]
		for _, d := range maintenance.DueList(m.Subject(now), now) {
			out.Rows = append(out.Rows, DueRow{MachineID: m.ID, Machine: m.Name, Bay: m.Bay, Locked: m.OpenOrder != nil, Due: d})
			if d.State == maintenance.StartUnknown {
				waiting[d.Task]++
			}
		}
	}
	out.Rounds = maintenance.FirstRounds(waiting, civil.Of(now))
	sort.SliceStable(out.Rows, func(i, j int) bool { return maintenance.MoreUrgent(out.Rows[i].Due, out.Rows[j].Due) })
	return answerOf(out, nil)
}
