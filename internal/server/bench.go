package server

import (
	"context"
	"errors"

	"wardifex/internal/app"
	"wardifex/internal/core/bench"
)

type decodeMarking struct {
	Text string `query:"text" maxLength:"100"`
}

func (s *Server) decodeMarking(_ context.Context, _ user, in *decodeMarking) (*answer[bench.ProcessorMarking], error) {
	return answerOf(bench.DecodeProcessorMarking(in.Text), nil)
}

type zOffset struct {
	Body struct {
		Offset  string `json:"offset" doc:"mm, in force"`
		Gap     string `json:"gap" doc:"mm, seen; may be empty when pinched"`
		Pinched bool   `json:"pinched"`
		Family  string `json:"family,omitempty" doc:"Firmware family, for the lines that store it"`
	}
}

// ZOffsetAnswer is one round of the loop and how to store its offset.
type ZOffsetAnswer struct {
	Round bench.ZOffsetRound `json:"round"`
	Lines []string           `json:"lines"`
}

func (s *Server) zOffset(_ context.Context, _ user, in *zOffset) (*answer[ZOffsetAnswer], error) {
	offset, err := bench.ParseOffset(in.Body.Offset)
	if err != nil {
		return nil, app.Refused(err)
	}
	gap := 0.0
	if !in.Body.Pinched {
		if gap, err = bench.ParseGap(in.Body.Gap); err != nil {
			return nil, app.Refused(err)
		}
	}
	round := bench.NextZOffset(offset, gap, in.Body.Pinched)
	lines := bench.StoreZOffset(in.Body.Family, round.Next)
	if lines == nil {
		lines = []string{}
	}
	return answerOf(ZOffsetAnswer{Round: round, Lines: lines}, nil)
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

// Sum is what a calculator comes to, or what is wrong with what was typed.
type Sum struct {
	Result *bench.Result     `json:"result,omitempty"`
	Faults map[string]string `json:"faults" doc:"Sentences, by input"`
}

func (s *Server) doSum(_ context.Context, _ user, in *doSum) (*answer[Sum], error) {
	c, ok := bench.Find(in.Name)
	if !ok {
		return nil, app.ErrNotFound
	}
	r, err := c.Work(in.Body.Inputs)
	if faults, ok := errors.AsType[bench.Faults](err); ok {
		return answerOf(Sum{Faults: faults}, nil)
	}
	return answerOf(Sum{Result: &r, Faults: map[string]string{}}, err)
}
