package server

import (
	"context"

	"wardifex/internal/core/machine"
	"wardifex/internal/store"
)

func (s *Server) parts(ctx context.Context, _ user, _ *none) (*answer[[]store.Part], error) {
	return answerOf(s.Store.Parts(ctx))
}

// PartSheet is one part with its readings.
type PartSheet struct {
	store.Part
	KindLabel string      `json:"kindLabel"`
	Slots     []string    `json:"slots" doc:"Keys of the slots that hold parts of its kind"`
	Facts     []FactSheet `json:"facts"`
}

func (s *Server) part(ctx context.Context, _ user, in *ByID) (*answer[PartSheet], error) {
	p, err := s.Store.Part(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	voc := s.Store.Vocabulary()
	kind, _ := voc.Kind(p.Kind)
	out := PartSheet{Part: p, KindLabel: kind.Label, Slots: []string{}, Facts: []FactSheet{}}
	for _, slot := range voc.Slots {
		if slot.Kind == p.Kind && slot.Superseded == "" {
			out.Slots = append(out.Slots, slot.Key)
		}
	}
	of := map[string][]machine.Reading{}
	for _, r := range p.Readings {
		of[r.Key.Trait()] = append(of[r.Key.Trait()], r)
	}
	for _, def := range kind.Traits {
		if f := p.Fact(voc, def.Name); len(of[def.Name]) > 0 {
			out.Facts = append(out.Facts, s.factSheet(f, of[def.Name], nil))
		}
	}
	return answerOf(out, nil)
}

type addPart struct {
	Body struct {
		Kind  string `json:"kind"`
		Model string `json:"model"`
		store.PartFields
	}
}

func (s *Server) addPart(ctx context.Context, u user, in *addPart) (*answer[Created], error) {
	id, err := s.Store.AddPart(ctx, in.Body.Kind, in.Body.Model, in.Body.PartFields, u.Name, s.Clock())
	return answerOf(Created{id}, err)
}

type changePart struct {
	ByID
	Body struct {
		Version int              `json:"version"`
		Fields  store.PartFields `json:"fields"`
	}
}

func (s *Server) changePart(ctx context.Context, u user, in *changePart) (*answer[PartSheet], error) {
	if err := s.Store.ChangePart(ctx, in.ID, in.Body.Version, in.Body.Fields, u.Name, s.Clock()); err != nil {
		return nil, err
	}
	return s.part(ctx, u, &in.ByID)
}

type movePart struct {
	ByID
	Body store.Move
}

func (s *Server) movePart(ctx context.Context, u user, in *movePart) (*answer[PartSheet], error) {
	if err := s.Store.MovePart(ctx, in.ID, in.Body, u.Name, s.Clock()); err != nil {
		return nil, err
	}
	return s.part(ctx, u, &in.ByID)
}

func (s *Server) suppliers(ctx context.Context, _ user, _ *none) (*answer[[]machine.SupplierTally], error) {
	claims, err := s.Store.Claims(ctx)
	return answerOf(machine.TallyClaims(claims), err)
}
