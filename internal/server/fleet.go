package server

import (
	"context"
	"time"

	"wardifex/internal/app"
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

type addMachines struct {
	Body struct {
		Names  []string     `json:"names" minItems:"1" maxItems:"200"`
		Fields store.Fields `json:"fields" doc:"What they have alike; its name is not looked at"`
		Like   app.Like     `json:"like,omitempty" doc:"After what they are built; the usual positions when empty"`
	}
}

// CreatedAll are the numbers of what was made, in its order.
type CreatedAll struct {
	IDs []int64 `json:"ids"`
}

func (s *Server) addMachines(ctx context.Context, u user, in *addMachines) (*answer[CreatedAll], error) {
	b := in.Body
	ids, err := s.app.AddMachines(ctx, b.Names, b.Fields, b.Like, u.Name, s.now())
	return answerOf(CreatedAll{ids}, err)
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

type dueAsked struct {
	Task   string `query:"task" maxLength:"60" doc:"Of one kind of task"`
	Bay    string `query:"bay" maxLength:"60" doc:"Of one bay"`
	Within int    `query:"within" minimum:"-1" maximum:"36500" default:"-1" doc:"Days ahead; −1 for all"`
	Limit  int    `query:"limit" minimum:"1" maximum:"5000" default:"500" doc:"Of those with a date"`
}

func (s *Server) due(ctx context.Context, _ user, in *dueAsked) (*answer[app.DueList], error) {
	q := app.DueQuery{Task: in.Task, Bay: in.Bay, Within: in.Within, Limit: in.Limit}
	return answerOf(s.app.Due(ctx, q, s.now()))
}
