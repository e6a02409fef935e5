package server

import (
	"context"
	"errors"
	"strings"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/core/civil"
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
		out.Meanings, out.Fault = either[:], whole(err.Error())
	case err != nil:
		out.Fault = whole(err.Error())
	default:
		out.Number = &n
	}
	return answerOf(out, nil)
}

// moment reads a day, or a day with a time, as it is typed; none is now, and so is today.
func (s *Server) moment(text string) (time.Time, error) {
	now := s.now()
	if strings.TrimSpace(text) == "" {
		return now, nil
	}
	at, err := civil.ParseMoment(text, now, civil.Unsaid)
	if err != nil {
		return at, app.Refused(err)
	}
	return at, nil
}

type typedDay struct {
	Text string `query:"text" maxLength:"60"`
}

// TypedDay is how a date is understood as it is typed.
type TypedDay struct {
	Value    string   `json:"value,omitempty" doc:"ISO 8601: the day, or the moment where a time of day was typed"`
	Shown    string   `json:"shown,omitempty" doc:"As days are shown: 20 Nov 2026"`
	Meanings []string `json:"meanings" doc:"Where it has two: each, written so that it has only that one"`
	Fault    string   `json:"fault,omitempty" doc:"What is wrong and what would be right"`
}

func (s *Server) readDay(_ context.Context, _ user, in *typedDay) (*answer[TypedDay], error) {
	out := TypedDay{Meanings: []string{}}
	at, err := civil.ParseMoment(in.Text, s.now(), civil.Unsaid)
	var two *civil.TwoDays
	switch {
	case errors.As(err, &two):
		either := two.Either()
		out.Meanings, out.Fault = either[:], whole(err.Error())
	case err != nil:
		out.Fault = whole(err.Error())
	default:
		day := civil.Of(at)
		out.Value, out.Shown = day.String(), day.Show()
		if strings.Contains(in.Text, ":") { // a time of day was typed
			out.Value, out.Shown = at.Format(time.RFC3339), at.Format(civil.Moment)
		}
	}
	return answerOf(out, nil)
}
