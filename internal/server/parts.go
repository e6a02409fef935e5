package server

import (
	"context"

	"wardifex/internal/app"
	"wardifex/internal/core/change"
	"wardifex/internal/core/machine"
	"wardifex/internal/store"
)

type partsAsked struct {
	Where  string `query:"where" enum:"shelf,machine,scrap,"`
	Kind   string `query:"kind" maxLength:"60"`
	Text   string `query:"text" maxLength:"120" doc:"In its model, tag, serial number, supplier, note, shelf or machine"`
	Tagged bool   `query:"tagged" doc:"With a tag of the shop's own only"`
	Lot    string `query:"lot" maxLength:"60"`
	Sort   string `query:"sort" enum:"model,tag,kind,where,supplier,price,lot,bought,"`
	Group  string `query:"group" enum:"model,kind,where,supplier,lot," doc:"What belongs together comes together"`
	Down   bool   `query:"down" doc:"The greatest first"`
	Offset int    `query:"offset" minimum:"0" maximum:"1000000"`
	Limit  int    `query:"limit" minimum:"1" maximum:"1000" default:"200"`
}

func (s *Server) parts(ctx context.Context, _ user, in *partsAsked) (*answer[store.PartsPage], error) {
	q := store.PartsQuery{Where: in.Where, Text: in.Text, Tagged: in.Tagged, Lot: in.Lot, Sort: in.Sort,
		Group: in.Group, Down: in.Down, Offset: in.Offset, Limit: in.Limit}
	if in.Kind != "" {
		q.Kinds = []string{in.Kind}
	}
	return answerOf(s.Store.ListParts(ctx, q))
}

// PartSheet is one part with its readings.
type PartSheet struct {
	store.Part
	KindLabel string      `json:"kindLabel"`
	Slots     []string    `json:"slots" doc:"Keys of the slots that hold parts of its kind"`
	Facts     []FactSheet `json:"facts"`
	Unknown   []FactSheet `json:"unknown" doc:"Traits of which nothing was read yet"`
}

func (s *Server) part(ctx context.Context, _ user, in *ByID) (*answer[PartSheet], error) {
	p, err := s.Store.Part(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	voc := s.Store.Vocabulary(ctx)
	kind, _ := voc.Kind(p.Kind)
	out := PartSheet{Part: p, KindLabel: kind.Label, Slots: []string{}, Facts: []FactSheet{}, Unknown: []FactSheet{}}
	for _, slot := range voc.Slots {
		if slot.Kind == p.Kind && slot.Superseded == "" {
			out.Slots = append(out.Slots, slot.Key)
		}
	}
	of := map[string][]machine.Reading{}
	for _, r := range p.Readings {
		of[r.Key.Trait()] = append(of[r.Key.Trait()], r)
	}
	for _, def := range voc.TraitsOf(p.Kind) {
		sheet := factSheet(voc, p.Fact(voc, def.Name), of[def.Name], nil)
		switch {
		case len(of[def.Name]) > 0:
			out.Facts = append(out.Facts, sheet)
		case def.Superseded == "":
			out.Unknown = append(out.Unknown, sheet)
		}
	}
	return answerOf(out, nil)
}

type addPartReading struct {
	ByID
	Body struct {
		Trait string `json:"trait"`
		Value string `json:"value" maxLength:"500"`
		Grade string `json:"grade" enum:"claimed,marked,observed,proven"`
		How   string `json:"how,omitempty" maxLength:"300"`
		Note  string `json:"note,omitempty" maxLength:"1000"`
		Day   string `json:"day,omitempty" doc:"ISO 8601; today when empty"`
	}
}

func (s *Server) addPartReading(ctx context.Context, u user, in *addPartReading) (*answer[Created], error) {
	grade, err := machine.ParseGrade(in.Body.Grade)
	if err != nil {
		return nil, app.Refused(err)
	}
	at, err := s.moment(in.Body.Day)
	if err != nil {
		return nil, err
	}
	r := machine.Reading{Grade: grade, TakenAt: at, By: u.Name, How: in.Body.How, Note: in.Body.Note}
	id, err := s.app.AddPartReading(ctx, in.ID, in.Body.Trait, in.Body.Value, r, s.now())
	return answerOf(Created{id}, err)
}

type addPart struct {
	Body struct {
		Kind  string `json:"kind"`
		Model string `json:"model"`
		store.PartFields
	}
}

func (s *Server) addPart(ctx context.Context, u user, in *addPart) (*answer[Created], error) {
	id, err := s.app.AddPart(ctx, in.Body.Kind, in.Body.Model, in.Body.PartFields, u.Name, s.now())
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
	if err := s.app.ChangePart(ctx, in.ID, in.Body.Version, in.Body.Fields, u.Name, s.now()); err != nil {
		return nil, err
	}
	return s.part(ctx, u, &in.ByID)
}

type movePart struct {
	ByID
	Body change.Move
}

func (s *Server) movePart(ctx context.Context, u user, in *movePart) (*answer[PartSheet], error) {
	if err := s.app.MovePart(ctx, in.ID, in.Body, u.Name, s.now()); err != nil {
		return nil, err
	}
	return s.part(ctx, u, &in.ByID)
}

func (s *Server) suppliers(ctx context.Context, _ user, _ *none) (*answer[[]machine.SupplierTally], error) {
	return answerOf(s.app.Suppliers(ctx))
}
