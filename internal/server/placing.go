package server

import (
	"context"

	"wardifex/internal/app"
	"wardifex/internal/store"
)

type partFitsAsked struct {
	ByID
	Offset int `query:"offset" minimum:"0" maximum:"1000000" doc:"Machines, by name, that are passed over"`
	Limit  int `query:"limit" minimum:"1" maximum:"500" default:"60" doc:"Machines that are judged"`
}

type atPosition struct {
	ByID
	Position string `path:"position"`
}

func (s *Server) partFits(ctx context.Context, _ user, in *partFitsAsked) (*answer[app.PartFits], error) {
	return answerOf(s.app.PartFits(ctx, in.ID, in.Offset, in.Limit))
}

func (s *Server) partsFor(ctx context.Context, _ user, in *atPosition) (*answer[app.PartsFor], error) {
	return answerOf(s.app.PartsFor(ctx, in.ID, in.Position))
}

func (s *Server) lastingNeeds(ctx context.Context, _ user, in *ByKit) (*answer[app.LastingNeeds], error) {
	return answerOf(s.app.LastingNeeds(ctx, in.Key))
}

type moveLasting struct {
	ByKit
	Body struct {
		Version int   `json:"version"`
		At      []int `json:"at" maxItems:"200" doc:"Places among the kit's needs"`
	}
}

func (s *Server) moveLasting(ctx context.Context, u user, in *moveLasting) (*answer[store.KitEntry], error) {
	if err := s.app.MoveLasting(ctx, in.Key, in.Body.Version, in.Body.At, u.Name, s.now()); err != nil {
		return nil, err
	}
	return answerOf(s.Store.KitEntry(ctx, in.Key))
}
