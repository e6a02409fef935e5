package server

import (
	"context"
	"errors"

	"wardifex/internal/core/quantity"
)

type typedNumber struct {
	Body struct {
		Text string `json:"text" maxLength:"60"`
		Unit string `json:"unit,omitempty" doc:"In which the number is wanted; a plain number when empty"`
	}
}

// TypedNumber is how a number is understood as it is typed.
type TypedNumber struct {
	Number   *float64 `json:"number,omitempty"`
	Meanings []string `json:"meanings" doc:"Where it has two: each, written so that it has only that one"`
	Fault    string   `json:"fault,omitempty" doc:"What is wrong and what would be right"`
}

// readNumber reads a number for a form that sends numbers, so that there is one rule
// for what a mark in it means.
func (s *Server) readNumber(_ context.Context, _ user, in *typedNumber) (*answer[TypedNumber], error) {
	out := TypedNumber{Meanings: []string{}}
	n, err := quantity.In(in.Body.Text, in.Body.Unit, quantity.Unsaid, 0, 0)
	var two *quantity.TwoMeanings
	switch {
	case errors.As(err, &two):
		either := two.Either()
		out.Meanings, out.Fault = either[:], sentence(err.Error())
	case err != nil:
		out.Fault = sentence(err.Error())
	default:
		out.Number = &n
	}
	return answerOf(out, nil)
}
