package server

import (
	"bytes"
	"context"

	"wardifex/internal/app"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/plan"
	"wardifex/internal/store"
)

type judgePlan struct {
	Body struct {
		MachineID int64    `json:"machineId"`
		Kits      []string `json:"kits" maxItems:"20"`
	}
}

type orderFor struct {
	Body struct {
		Picks []app.Pick `json:"picks" maxItems:"2000"`
	}
}

type lookAtFleet struct {
	ByKit
	N int `query:"n" minimum:"1" maximum:"1000" default:"1" doc:"How many are to be ordered"`
}

// KitWords is what a kit's needs are written with, besides the traits.
type KitWords struct {
	Ops       []fit.OpKind           `json:"ops"`
	Budgets   []BudgetName           `json:"budgets"`
	Relations []machine.RelationKind `json:"relations" doc:"How parts can stand to the one that needs something"`
	Places    []machine.Place        `json:"places" doc:"Places that can be named"`
}

// BudgetName is a budget that a kit can draw on.
type BudgetName struct {
	Key   string `json:"key"`
	Title string `json:"title"`
	Unit  string `json:"unit,omitempty"`
}

func (s *Server) kitWords(context.Context, user, *none) (*answer[KitWords], error) {
	out := KitWords{Ops: fit.Ops(), Relations: machine.RelationKinds(), Places: machine.UsualPlaces()}
	for _, b := range fit.Capacities() {
		out.Budgets = append(out.Budgets, BudgetName{b.Key, b.Title, b.Unit})
	}
	return answerOf(out, nil)
}

func (s *Server) kitEntry(ctx context.Context, _ user, in *ByKit) (*answer[store.KitEntry], error) {
	return answerOf(s.Store.KitEntry(ctx, in.Key))
}

type tryKit struct {
	Body fit.Kit
}

type saveKit struct {
	Body struct {
		Version int     `json:"version" doc:"0 for a new kit"`
		Kit     fit.Kit `json:"kit"`
	}
}

func (s *Server) saveKit(ctx context.Context, _ user, in *saveKit) (*answer[store.KitEntry], error) {
	if err := s.app.SaveKit(ctx, in.Body.Kit, in.Body.Version); err != nil {
		return nil, err
	}
	return answerOf(s.Store.KitEntry(ctx, in.Body.Kit.Key))
}

type deleteKit struct {
	ByKit
	Body struct {
		Version int `json:"version"`
	}
}

// KitDeleted says what became of a kit that was taken out of the catalogue.
type KitDeleted struct {
	Back bool `json:"back" doc:"It stands again as it came with the application"`
}

func (s *Server) deleteKit(ctx context.Context, _ user, in *deleteKit) (*answer[KitDeleted], error) {
	back, err := s.app.DeleteKit(ctx, in.Key, in.Body.Version)
	return answerOf(KitDeleted{back}, err)
}

func (s *Server) judgePlan(ctx context.Context, _ user, in *judgePlan) (*answer[app.PlanSheet], error) {
	return answerOf(s.app.JudgePlan(ctx, in.Body.MachineID, in.Body.Kits))
}

// csvFile is a file as an answer to a question that is too long for an address.
type csvFile struct {
	ContentType string `header:"Content-Type"`
	Body        []byte
}

func (s *Server) orderCSV(ctx context.Context, _ user, in *orderFor) (*csvFile, error) {
	order, err := s.app.OrderFor(ctx, in.Body.Picks)
	if err != nil {
		return nil, err
	}
	shop, err := s.Store.Shop(ctx)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	err = order.WriteCSV(&b, shop.Currency)
	return &csvFile{ContentType: csvKind, Body: b.Bytes()}, err
}

func (s *Server) orderFor(ctx context.Context, _ user, in *orderFor) (*answer[plan.OrderList], error) {
	return answerOf(s.app.OrderFor(ctx, in.Body.Picks))
}

func (s *Server) advice(ctx context.Context, _ user, in *kitOnMachine) (*answer[app.Advice], error) {
	return answerOf(s.app.Advice(ctx, in.Key, in.ID))
}

func (s *Server) lookAtFleet(ctx context.Context, _ user, in *lookAtFleet) (*answer[app.FleetLookSheet], error) {
	return answerOf(s.app.LookAtFleet(ctx, in.Key, in.N))
}

func (s *Server) tryKit(ctx context.Context, _ user, in *tryKit) (*answer[app.KitTrial], error) {
	out, err := s.app.TryKit(ctx, in.Body)
	out.Problem = whole(out.Problem)
	return answerOf(out, err)
}
