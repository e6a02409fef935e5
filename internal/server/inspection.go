package server

import (
	"context"

	"wardifex/internal/app"
	"wardifex/internal/core/bench"
	"wardifex/internal/core/inspection"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/quantity"
)

type identifyMachines struct {
	Machines []int64  `query:"machine,explode" maxItems:"200" doc:"Numbers of machines"`
	Kits     []string `query:"kit,explode" maxItems:"50" doc:"Keys of kits whose verdicts wait"`
	// The empty aim is what earlier versions asked.
	Aim   inspection.Aim `query:"aim"   enum:"identity,safety," doc:"Besides what parts and kits depend on"`
	Again bool           `query:"again" doc:"Ask once more what could not be read before"`
}

type pageAsked struct {
	Offset int `query:"offset" minimum:"0" maximum:"1000000"`
	Limit  int `query:"limit" minimum:"1" maximum:"1000" default:"200"`
}

type unreadable struct {
	ByID
	Body struct {
		Key        machine.Key `json:"key"`
		Inspection string      `json:"inspection"`
		Why        string      `json:"why,omitempty" maxLength:"120"`
	}
}

func (s *Server) unreadable(ctx context.Context, u user, in *unreadable) (*none, error) {
	return nil, s.app.MarkUnreadable(ctx, in.ID, in.Body.Key, in.Body.Inspection, in.Body.Why, u.Name, s.now())
}

type readable struct {
	ByID
	Body struct {
		Key        machine.Key `json:"key"`
		Inspection string      `json:"inspection"`
	}
}

func (s *Server) readable(ctx context.Context, _ user, in *readable) (*none, error) {
	return nil, s.app.MarkReadable(ctx, in.ID, in.Body.Key, in.Body.Inspection)
}

type peek struct {
	ByID
	Key  machine.Key `query:"key"`
	Text string      `query:"text" maxLength:"200"`
}

func (s *Server) peek(ctx context.Context, _ user, in *peek) (*answer[inspection.Peek], error) {
	m, err := s.Store.Machine(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	return answerOf(inspection.PeekAt(in.Key, in.Text, m.Facts, m.Records), nil)
}

func (s *Server) contradictions(ctx context.Context, _ user, in *ByID) (*answer[[]inspection.Contradiction], error) {
	m, err := s.Store.Machine(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	return answerOf(inspection.ContradictionsOf(m.Facts, m.Records, m.Configured), nil)
}

type sensor struct {
	Body struct {
		Ohms    [2]string `json:"ohms" doc:"Ω, as typed; k for thousands"`
		Celsius [2]string `json:"celsius" doc:"°C, as typed"`
	}
}

func (s *Server) sensor(_ context.Context, _ user, in *sensor) (*answer[bench.SensorFinding], error) {
	var p [2]bench.Point
	for i := range p {
		var err error
		if p[i].Ohms, err = bench.ParseOhms(in.Body.Ohms[i]); err == nil {
			p[i].Celsius, err = quantity.In(in.Body.Celsius[i], "°C", quantity.Unsaid, -60, 600)
		}
		if err != nil {
			return nil, app.Refused(err)
		}
	}
	f, err := bench.IdentifySensor(p[0], p[1])
	if err != nil {
		return nil, app.Refused(err)
	}
	return answerOf(f, nil)
}

func (s *Server) identify(ctx context.Context, _ user, in *identifyMachines) (*answer[app.Identification], error) {
	return answerOf(s.app.Identify(ctx, app.IdentifyQuery{
		Machines: in.Machines, Kits: in.Kits, Aim: in.Aim, Again: in.Again,
	}))
}

func (s *Server) conflicts(ctx context.Context, _ user, in *pageAsked) (*answer[app.Conflicts], error) {
	return answerOf(s.app.Conflicts(ctx, in.Offset, in.Limit))
}
