package server

import (
	"bytes"
	"context"
	"fmt"

	"github.com/gin-gonic/gin"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// Matrix is every kit judged on every machine.
type Matrix struct {
	Kits     []MatrixKit     `json:"kits"`
	Machines []MatrixMachine `json:"machines"`
	Broken   []string        `json:"broken" doc:"Kits that cannot be judged, and why"`
}

// MatrixKit is a column.
type MatrixKit struct {
	Key     string     `json:"key"`
	Name    string     `json:"name"`
	What    string     `json:"what"`
	Price   float64    `json:"price"`
	Minutes int        `json:"minutes"`
	Counts  fit.Counts `json:"counts"`
}

// MatrixMachine is a row.
type MatrixMachine struct {
	ID      int64        `json:"id"`
	Name    string       `json:"name"`
	Bay     string       `json:"bay"`
	Maker   string       `json:"maker"`
	Locked  bool         `json:"locked"`
	Answers []fit.Answer `json:"answers" enum:"fits,fits if,look first,does not fit" doc:"In the order of the kits"`
	Heads   []int        `json:"heads" doc:"The head that each kit fits best, where it can be for several; 0 elsewhere"`
	// Where something is to be looked at first; empty elsewhere.
	Leans []fit.Answer `json:"leans" enum:"fits,fits if,does not fit,no lean," doc:"Which way the claims lean"`
}

func (s *Server) matrixOf(ctx context.Context) (Matrix, error) {
	out := Matrix{Kits: []MatrixKit{}, Machines: []MatrixMachine{}}
	judges, broken, err := s.app.Judges(ctx)
	if err != nil {
		return out, err
	}
	fleet, err := s.Store.Fleet(ctx)
	if err != nil {
		return out, err
	}
	out.Broken = broken
	for _, j := range judges {
		out.Kits = append(
			out.Kits,
			MatrixKit{Key: j.Kit.Key, Name: j.Kit.Name, What: j.Kit.What, Price: j.Kit.Price, Minutes: j.Kit.Minutes},
		)
	}
	select {
	case s.matrixOn.turn <- struct{}{}:
		defer func() { <-s.matrixOn.turn }()
	case <-ctx.Done():
		return out, ctx.Err()
	}
	s.matrixOn.keep(judges, fleet)
	for i := range fleet {
		if err := ctx.Err(); err != nil {
			return out, err // whoever asked has gone
		}
		f := &fleet[i]
		row := s.matrixOn.row(f)
		line := MatrixMachine{
			ID:      f.ID,
			Name:    f.Name,
			Bay:     f.Bay,
			Maker:   f.Maker,
			Locked:  f.OpenOrder != nil,
			Answers: make([]fit.Answer, len(judges)),
			Leans:   make([]fit.Answer, len(judges)),
			Heads:   make([]int, len(judges)),
		}
		for k, t := range row.row.Truths {
			line.Answers[k], line.Leans[k], line.Heads[k] = t.Answer(), t.Lean(), row.heads[k]
			out.Kits[k].Counts.Add(line.Answers[k], line.Leans[k])
		}
		out.Machines = append(out.Machines, line)
	}
	return out, nil
}

func (s *Server) matrix(ctx context.Context, _ user, _ *none) (*answer[Matrix], error) {
	return answerOf(s.matrixOf(ctx))
}

func (s *Server) matrixCSV(g *gin.Context) ([]byte, error) {
	if _, err := onlyParameters(g); err != nil {
		return nil, err
	}
	m, err := s.matrixOf(g.Request.Context())
	if err != nil {
		return nil, err
	}
	head := []string{"Machine", "Bay"}
	for _, k := range m.Kits {
		head = append(head, k.Name)
	}
	lines := [][]string{head}
	for _, r := range m.Machines {
		line := []string{r.Name, r.Bay}
		for i, a := range r.Answers {
			line = append(line, withLean(a, r.Leans[i])+forHead(r.Heads[i]))
		}
		lines = append(lines, line)
	}
	var b bytes.Buffer
	err = machine.WriteCSV(&b, lines)
	return b.Bytes(), err
}

// forHead names the head that an answer is for, where there are several.
func forHead(head int) string {
	if head == 0 {
		return ""
	}
	return fmt.Sprintf(" (head %d)", head)
}

// withLean is an answer with which way the claims lean, in words.
func withLean(a, lean fit.Answer) string {
	switch lean {
	case "":
		return string(a)
	case fit.NoLean:
		return string(a) + ", no lean"
	}
	return string(a) + ", leans to " + string(lean)
}
