package server

import (
	"cmp"
	"context"
	"slices"

	"wardifex/internal/app"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/store"
)

// PlacedVerdict is a part judged at a position of a machine.
type PlacedVerdict struct {
	MachineID int64       `json:"machineId"`
	Machine   string      `json:"machine"`
	Bay       string      `json:"bay"`
	Slot      string      `json:"slot"`
	Position  string      `json:"position"`
	Part      int64       `json:"part"`
	Model     string      `json:"model"`
	Tag       string      `json:"tag,omitempty"`
	Shelf     string      `json:"shelf,omitempty"`
	Verdict   fit.Verdict `json:"verdict"`
}

// PartFits is one part at every position where it could be, of the machines asked for.
type PartFits struct {
	Rows     []PlacedVerdict `json:"rows" doc:"The best first"`
	Machines int             `json:"machines" doc:"Of the fleet that have such a position"`
}

type partFitsAsked struct {
	ByID
	Offset int `query:"offset" minimum:"0" maximum:"1000000" doc:"Machines, by name, that are passed over"`
	Limit  int `query:"limit" minimum:"1" maximum:"500" default:"60" doc:"Machines that are judged"`
}

func (s *Server) partFits(ctx context.Context, _ user, in *partFitsAsked) (*answer[PartFits], error) {
	part, err := s.Store.Part(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	fleet, err := s.Store.Fleet(ctx)
	if err != nil {
		return nil, err
	}
	out := PartFits{Rows: []PlacedVerdict{}}
	for i := range fleet {
		if err := ctx.Err(); err != nil {
			return nil, err // whoever asked has gone
		}
		var at []*machine.Position
		for _, p := range fleet[i].Facts.Each(part.Kind) {
			if now := part.Now(); now == nil || now.MachineID != fleet[i].ID || now.Slot != p.Key {
				at = append(at, p)
			}
		}
		if len(at) == 0 {
			continue
		}
		if out.Machines++; out.Machines <= in.Offset || out.Machines > in.Offset+in.Limit {
			continue
		}
		for _, p := range at {
			row, err := s.placed(&fleet[i], p, part)
			if err != nil {
				return nil, err
			}
			out.Rows = append(out.Rows, row)
		}
	}
	bestFirst(out.Rows)
	return answerOf(out, nil)
}

func (s *Server) placed(m *store.Machine, p *machine.Position, part store.Part) (PlacedVerdict, error) {
	v, err := fit.PartAt(m.Facts, p.Key, part.Loose(s.Store.Vocabulary()))
	if err != nil {
		return PlacedVerdict{}, app.Refused(err)
	}
	return PlacedVerdict{
		MachineID: m.ID,
		Machine:   m.Name,
		Bay:       m.Bay,
		Slot:      p.Key,
		Position:  p.Label,
		Part:      part.ID,
		Model:     part.Model,
		Tag:       part.Tag,
		Shelf:     part.Shelf,
		Verdict:   v,
	}, nil
}

// bestFirst orders verdicts by answer, then by lean.
func bestFirst(rows []PlacedVerdict) {
	order := []fit.Answer{fit.Fits, fit.FitsIf, fit.LookFirst, fit.NoLean, fit.DoesNotFit}
	slices.SortStableFunc(rows, func(a, b PlacedVerdict) int {
		return cmp.Or(cmp.Compare(slices.Index(order, a.Verdict.Answer), slices.Index(order, b.Verdict.Answer)),
			cmp.Compare(slices.Index(order, a.Verdict.Lean), slices.Index(order, b.Verdict.Lean)))
	})
}

type atPosition struct {
	ByID
	Position string `path:"position"`
}

// mostJudged bounds how many parts from the shelf are judged for one position.
const mostJudged = 500

// PartsFor is what could come to a position, and what its part leaves behind.
type PartsFor struct {
	Rows    []PlacedVerdict `json:"rows" doc:"Parts on the shelf, the best first"`
	Without fit.Removal     `json:"without" doc:"What breaks when what is there comes out"`
}

func (s *Server) partsFor(ctx context.Context, _ user, in *atPosition) (*answer[PartsFor], error) {
	m, err := s.Store.Machine(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	voc := s.Store.Vocabulary()
	p := voc.At(in.Position)
	if p == nil || !m.Facts.Has(p) {
		return nil, store.ErrNotFound
	}
	var kinds []string
	for _, k := range voc.Catalogue.Kinds {
		if voc.Is(k.Key, p.Kind) || voc.Is(p.Kind, k.Key) {
			kinds = append(kinds, k.Key)
		}
	}
	shelf, err := s.Store.ListParts(ctx, store.PartsQuery{Where: "shelf", Kinds: kinds, Limit: mostJudged})
	if err != nil {
		return nil, err
	}
	out := PartsFor{Rows: []PlacedVerdict{}, Without: fit.Without(m.Facts, in.Position)}
	for _, part := range shelf.Parts {
		row, err := s.placed(&m, p, part)
		if err != nil {
			return nil, err
		}
		out.Rows = append(out.Rows, row)
	}
	bestFirst(out.Rows)
	return answerOf(out, nil)
}

// LastingNeeds are those of a kit that could be moved to the model that it fits.
type LastingNeeds struct {
	Version int         `json:"version" doc:"Of the kit"`
	Offers  []fit.Offer `json:"offers"`
}

func (s *Server) lastingNeeds(ctx context.Context, _ user, in *ByKit) (*answer[LastingNeeds], error) {
	e, err := s.Store.KitEntry(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	out := LastingNeeds{Version: e.Version, Offers: []fit.Offer{}}
	if !e.Shipped {
		out.Offers = append(out.Offers, e.Kit.Lasting(s.Store.Vocabulary())...)
	}
	return answerOf(out, nil)
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
