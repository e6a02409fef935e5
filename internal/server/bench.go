package server

import (
	"context"

	"wardifex/internal/app"
	"wardifex/internal/core/bench"
)

type decodeMarking struct {
	Text string `query:"text" maxLength:"100"`
}

func (s *Server) decodeMarking(_ context.Context, _ user, in *decodeMarking) (*answer[bench.ProcessorMarking], error) {
	return answerOf(bench.DecodeProcessorMarking(in.Text), nil)
}

type zOffset struct{ Body bench.ZOffsetAsked }

func (s *Server) zOffset(_ context.Context, _ user, in *zOffset) (*answer[bench.ZOffsetAnswer], error) {
	a, err := in.Body.Answer()
	if err != nil {
		return nil, app.Refused(err)
	}
	return answerOf(a, nil)
}

// Bench lists the calculators.
type Bench struct {
	Calculators []bench.Calculator `json:"calculators"`
}

func (s *Server) calculators(context.Context, user, *none) (*answer[Bench], error) {
	return answerOf(Bench{bench.All()}, nil)
}

type doSum struct {
	Name string `path:"name" maxLength:"60"`
	Body struct {
		Inputs map[string]string `json:"inputs" doc:"By the calculator's inputs, as typed"`
	}
}

func (s *Server) doSum(_ context.Context, _ user, in *doSum) (*answer[bench.Sum], error) {
	c, ok := bench.Find(in.Name)
	if !ok {
		return nil, app.ErrNotFound
	}
	return answerOf(c.Sum(in.Body.Inputs))
}
