package app

import (
	"context"
	"slices"

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

// PartFits judges a part at every position of the fleet that holds its kind, on so many
// machines after an offset.
func (a *App) PartFits(ctx context.Context, id int64, offset, limit int) (PartFits, error) {
	out := PartFits{Rows: []PlacedVerdict{}}
	part, err := a.store.Part(ctx, id)
	if err != nil {
		return out, err
	}
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return out, err
	}
	for i := range fleet {
		if err := ctx.Err(); err != nil {
			return out, err // whoever asked has gone
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
		if out.Machines++; out.Machines <= offset || out.Machines > offset+limit {
			continue
		}
		for _, p := range at {
			row, err := a.placed(&fleet[i], p, part)
			if err != nil {
				return out, err
			}
			out.Rows = append(out.Rows, row)
		}
	}
	bestFirst(out.Rows)
	return out, nil
}

func (a *App) placed(m *store.Machine, p *machine.Position, part store.Part) (PlacedVerdict, error) {
	v, err := fit.PartAt(m.Facts, p.Key, part.Loose(m.Facts.Vocabulary()))
	if err != nil {
		return PlacedVerdict{}, Refused(err)
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
	slices.SortStableFunc(rows, func(a, b PlacedVerdict) int {
		return fit.CompareAnswers(a.Verdict.Answer, a.Verdict.Lean, b.Verdict.Answer, b.Verdict.Lean)
	})
}

// mostJudged bounds how many parts from the shelf are judged for one position.
const mostJudged = 500

// PartsFor is what could come to a position, and what its part leaves behind.
type PartsFor struct {
	Rows    []PlacedVerdict `json:"rows" doc:"Parts on the shelf, the best first"`
	Without fit.Removal     `json:"without" doc:"What breaks when what is there comes out"`
}

// PartsFor judges the parts on the shelf at a position of a machine.
func (a *App) PartsFor(ctx context.Context, machineID int64, position string) (PartsFor, error) {
	out := PartsFor{Rows: []PlacedVerdict{}}
	m, err := a.store.Machine(ctx, machineID)
	if err != nil {
		return out, err
	}
	voc := a.store.Vocabulary(ctx)
	p := voc.At(position)
	if p == nil || !m.Facts.Has(p) {
		return out, ErrNotFound
	}
	var kinds []string
	for _, k := range voc.Catalogue.Kinds {
		if voc.Is(k.Key, p.Kind) || voc.Is(p.Kind, k.Key) {
			kinds = append(kinds, k.Key)
		}
	}
	shelf, err := a.store.ListParts(ctx, store.PartsQuery{Where: "shelf", Kinds: kinds, Limit: mostJudged})
	if err != nil {
		return out, err
	}
	out.Without = fit.Without(m.Facts, position)
	for _, part := range shelf.Parts {
		row, err := a.placed(&m, p, part)
		if err != nil {
			return out, err
		}
		out.Rows = append(out.Rows, row)
	}
	bestFirst(out.Rows)
	return out, nil
}

// LastingNeeds are those of a kit that could be moved to the model that it fits.
type LastingNeeds struct {
	Version int         `json:"version" doc:"Of the kit"`
	Offers  []fit.Offer `json:"offers"`
}

// LastingNeeds lists the needs of a kit that could be moved to the model that it fits.
func (a *App) LastingNeeds(ctx context.Context, key string) (LastingNeeds, error) {
	e, err := a.store.KitEntry(ctx, key)
	if err != nil {
		return LastingNeeds{}, err
	}
	out := LastingNeeds{Version: e.Version, Offers: []fit.Offer{}}
	if !e.Shipped {
		out.Offers = append(out.Offers, e.Kit.Lasting(a.store.Vocabulary(ctx))...)
	}
	return out, nil
}
