package server

import (
	"context"

	"wardifex/internal/core/csvimport"
	"wardifex/internal/store"
)

// RegisterFile is a register file with what the technician decided about it.
type RegisterFile struct {
	File        []byte                 `json:"file" doc:"The file's bytes, base64"`
	Mapping     []string               `json:"mapping,omitempty" doc:"Target of each column; empty to leave it out"`
	Corrections []csvimport.Correction `json:"corrections,omitempty"`
	LeaveOut    []int                  `json:"leaveOut,omitempty" doc:"Lines not to be brought in"`
	Fingerprint string                 `json:"fingerprint,omitempty" doc:"Of the preview that is brought in"`
}

type registerFile struct {
	Body RegisterFile
}

func (f RegisterFile) table(maxRows int) (csvimport.Table, error) {
	t, err := csvimport.ReadTable(f.File, maxRows)
	if err == nil {
		err = t.Correct(f.Corrections)
	}
	if err != nil {
		return t, store.Refused(err)
	}
	return t, nil
}

// Opened is a register file as it was read.
type Opened struct {
	Separator string             `json:"separator"`
	Rows      int                `json:"rows"`
	Columns   []csvimport.Match  `json:"columns"`
	Samples   [][]string         `json:"samples" doc:"First cells of each column"`
	Targets   []csvimport.Target `json:"targets"`
}

func (s *Server) openRegister(_ context.Context, _ user, in *registerFile) (*answer[Opened], error) {
	t, err := in.Body.table(csvimport.MaxRows)
	if err != nil {
		return nil, err
	}
	out := Opened{Separator: t.Separator, Rows: len(t.Rows), Columns: csvimport.Propose(t.Headings, s.Store.Vocabulary()), Targets: csvimport.Targets(s.Store.Vocabulary())}
	for c := range t.Headings {
		cells := []string{}
		for r := 0; r < len(t.Rows) && len(cells) < 3; r++ {
			if c < len(t.Rows[r]) && t.Rows[r][c] != "" {
				cells = append(cells, t.Rows[r][c])
			}
		}
		out.Samples = append(out.Samples, cells)
	}
	return answerOf(out, nil)
}

func (s *Server) previewRegister(ctx context.Context, _ user, in *registerFile) (*answer[csvimport.Plan], error) {
	t, err := in.Body.table(csvimport.MaxRows)
	if err != nil {
		return nil, err
	}
	return answerOf(s.Store.PlanRegister(ctx, t, in.Body.Mapping, in.Body.LeaveOut))
}

func (s *Server) bringIn(ctx context.Context, u user, in *registerFile) (*answer[csvimport.Plan], error) {
	t, err := in.Body.table(csvimport.MaxRows)
	if err != nil {
		return nil, err
	}
	return answerOf(s.Store.BringIn(ctx, t, in.Body.Mapping, in.Body.LeaveOut, in.Body.Fingerprint, u.Name, s.now()))
}

func (s *Server) previewMeters(ctx context.Context, u user, in *registerFile) (*answer[csvimport.MeterPlan], error) {
	return s.meters(ctx, u, in, false)
}

func (s *Server) bringMetersIn(ctx context.Context, u user, in *registerFile) (*answer[csvimport.MeterPlan], error) {
	return s.meters(ctx, u, in, true)
}

func (s *Server) meters(ctx context.Context, u user, in *registerFile, write bool) (*answer[csvimport.MeterPlan], error) {
	t, err := in.Body.table(csvimport.MaxMeterRows)
	if err != nil {
		return nil, err
	}
	return answerOf(s.Store.BringMetersIn(ctx, t, write, u.Name, s.now()))
}
