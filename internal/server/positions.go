package server

import (
	"context"
	"strings"

	"wardifex/internal/app"
	"wardifex/internal/core/machine"
	"wardifex/internal/store"
)

// StructureSheet is which positions a machine has.
type StructureSheet struct {
	Machine   string          `json:"machine"`
	Version   int             `json:"version"`
	Positions []PositionSheet `json:"positions"`
	Kinds     []KindSheet     `json:"kinds" doc:"Kinds of part that a position can be added for"`
	// And the first that is free of heads.
	Places []machine.Place `json:"places" doc:"Places that positions of this machine serve"`
}

// PositionSheet is one position with what it hangs on.
type PositionSheet struct {
	machine.Position
	Place    string `json:"place" doc:"What it serves, for people"`
	Holds    string `json:"holds,omitempty" doc:"What is there; empty while it is unknown"`
	Feeder   string `json:"feeder,omitempty" doc:"Label of what feeds it"`
	Carrier  string `json:"carrier,omitempty" doc:"Label of what it rides on"`
	MayLeave string `json:"mayLeave,omitempty" doc:"Why it cannot be removed; empty when it can"`
}

// KindSheet is a kind of part with the places where it usually is.
type KindSheet struct {
	Key    string          `json:"key"`
	Label  string          `json:"label"`
	Serves []machine.Place `json:"serves"`
	Only   string          `json:"only,omitempty" doc:"Why no other one can be added; empty when one can"`
}

func (s *Server) structure(ctx context.Context, _ user, in *ByID) (*answer[StructureSheet], error) {
	m, err := s.Store.Machine(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	return answerOf(structureOf(&m), nil)
}

func structureOf(m *store.Machine) StructureSheet {
	st, voc := m.Facts.Structure(), m.Facts.Vocabulary()
	out := StructureSheet{
		Machine:   m.Name,
		Version:   m.Structure,
		Positions: []PositionSheet{},
		Kinds:     []KindSheet{},
		Places:    st.Places(),
	}
	given := map[string]machine.Position{}
	for _, p := range st.Listed() {
		given[p.Key] = p
	}
	for _, p := range st.Positions() {
		row := PositionSheet{Position: given[p.Key], Place: p.Serves.String()}
		row.Group = p.Group
		var by machine.Fact
		row.Holds, by = m.Facts.Named(p.Key)
		if row.Holds != "" && by.Trait != nil && by.Trait.Name != machine.ModelTrait {
			if by.Trait.Kind == machine.Number && !strings.Contains(row.Holds, ", ") {
				row.Holds = by.Trait.Short + " " + row.Holds
			}
			row.Holds = "unnamed, " + row.Holds
		}
		if by := st.FedBy(p).To; by != nil {
			row.Feeder = by.Label
		}
		if on := st.RidesOn(p).To; on != nil {
			row.Carrier = on.Label
		}
		if err := m.Facts.MayRemove(p.Key); err != nil {
			row.MayLeave = err.Error()
		}
		out.Positions = append(out.Positions, row)
	}
	for _, k := range voc.Catalogue.Kinds {
		if k.Superseded != "" {
			continue
		}
		row := KindSheet{Key: k.Key, Label: k.Label, Serves: append([]machine.Place{}, voc.Places(k.Key)...)}
		if err := st.MayAdd(k.Key); err != nil {
			row.Only = err.Error()
		}
		out.Kinds = append(out.Kinds, row)
	}
	return out
}

type addPosition struct {
	ByID
	Body struct {
		Version int    `json:"version" doc:"Of the structure that the editor saw"`
		Kind    string `json:"kind"`
		Serves  string `json:"serves" doc:"axis z, head 2, bed, frame, enclosure, electronics or shop"`
		// The next that is free when 0.
		N     int    `json:"n,omitempty" minimum:"0" maximum:"50" doc:"Which of its kind there"`
		Label string `json:"label,omitempty" maxLength:"120" doc:"Named by its kind and place when empty"`
	}
}

func (s *Server) addPosition(ctx context.Context, u user, in *addPosition) (*answer[StructureSheet], error) {
	b := in.Body
	p := machine.Position{Kind: b.Kind, Serves: machine.Place(b.Serves), N: b.N, Label: b.Label}
	if _, err := s.app.AddPosition(ctx, in.ID, p,
		app.ChangedStructure{Version: b.Version, By: u.Name, At: s.now()}); err != nil {
		return nil, err
	}
	return s.structure(ctx, u, &in.ByID)
}

type changePosition struct {
	ByID
	Position string `path:"position" maxLength:"40"`
	Body     struct {
		Version int           `json:"version" doc:"Of the structure that the editor saw"`
		Serves  string        `json:"serves"`
		N       int           `json:"n,omitempty" minimum:"0" maximum:"50"`
		Label   string        `json:"label" maxLength:"120"`
		FedBy   *machine.Link `json:"fedBy,omitempty"`
		RidesOn *machine.Link `json:"ridesOn,omitempty"`
	}
}

func (s *Server) changePosition(ctx context.Context, u user, in *changePosition) (*answer[StructureSheet], error) {
	b := in.Body
	for _, l := range []*machine.Link{b.FedBy, b.RidesOn} {
		if l != nil && l.By == "" {
			l.By = u.Name
		}
	}
	p := machine.Position{
		Key:     in.Position,
		Serves:  machine.Place(b.Serves),
		N:       b.N,
		Label:   b.Label,
		FedBy:   b.FedBy,
		RidesOn: b.RidesOn,
	}
	if err := s.app.ChangePosition(ctx, in.ID, p,
		app.ChangedStructure{Version: b.Version, By: u.Name, At: s.now()}); err != nil {
		return nil, err
	}
	return s.structure(ctx, u, &in.ByID)
}

type removePosition struct {
	ByID
	Position string `path:"position" maxLength:"40"`
	Body     struct {
		Version int `json:"version" doc:"Of the structure that the editor saw"`
	}
}

func (s *Server) removePosition(ctx context.Context, u user, in *removePosition) (*answer[StructureSheet], error) {
	if err := s.app.RemovePosition(ctx, in.ID, in.Position,
		app.ChangedStructure{Version: in.Body.Version, By: u.Name, At: s.now()}); err != nil {
		return nil, err
	}
	return s.structure(ctx, u, &in.ByID)
}
