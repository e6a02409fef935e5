package server

import (
	"context"

	"wardifex/internal/app"
	"wardifex/internal/core/csvimport"
	"wardifex/internal/store"
)

// RegisterFile is a CSV file with what the technician decided about it.
type RegisterFile struct {
	SentFile
	csvimport.Layout
	csvimport.Decisions
	Fingerprint string `json:"fingerprint,omitempty" doc:"Of the preview that is imported"`
}

type registerFile struct {
	Body RegisterFile
}

// table reads the file and gives it, laid out and corrected, to do.
func (s *Server) table(
	ctx context.Context,
	u user,
	f RegisterFile,
	do func(t csvimport.Table, src store.ImportFile) error,
) error {
	return s.read(ctx, u, f.SentFile, func(content []byte, src store.ImportFile) error {
		t, err := csvimport.ReadTable(ctx, content, csvimport.MaxRows, f.Layout)
		if err == nil {
			err = t.Correct(f.Corrections)
		}
		if err != nil {
			return app.Refused(err)
		}
		return do(t, src)
	})
}

// Opened is a register file as it was read.
type Opened struct {
	Separator    string             `json:"separator"`
	Encoding     string             `json:"encoding"`
	HeadingLine  int                `json:"headingLine" doc:"First line of the headings, from 1"`
	HeadingLines int                `json:"headingLines"`
	Above        []string           `json:"above" doc:"Lines above the headings, such as a title"`
	Rows         int                `json:"rows"`
	Columns      []csvimport.Match  `json:"columns"`
	Samples      [][]string         `json:"samples" doc:"First cells of each column, as written"`
	Targets      []csvimport.Target `json:"targets"`
}

func (s *Server) openRegister(ctx context.Context, u user, in *registerFile) (*answer[Opened], error) {
	var out Opened
	err := s.table(ctx, u, in.Body, func(t csvimport.Table, _ store.ImportFile) (err error) {
		out, err = s.opened(ctx, t)
		return err
	})
	return answerOf(out, err)
}

func (s *Server) opened(ctx context.Context, t csvimport.Table) (Opened, error) {
	before, err := s.Store.Headings(ctx)
	if err != nil {
		return Opened{}, err
	}
	voc := s.Store.Vocabulary(ctx)
	out := Opened{
		Separator:    t.Separator,
		Encoding:     t.Encoding,
		HeadingLine:  t.HeadingLine,
		HeadingLines: t.HeadingLines,
		Above:        append([]string{}, t.Above...),
		Rows:         len(t.Rows),
		Columns:      csvimport.Propose(t, voc, before),
		Targets:      csvimport.Targets(voc),
	}
	for c := range t.Headings {
		cells := []string{}
		for r := 0; r < len(t.Rows) && len(cells) < 3; r++ {
			if c < len(t.Rows[r]) && t.Rows[r][c] != "" {
				cells = append(cells, t.Rows[r][c])
			}
		}
		out.Samples = append(out.Samples, cells)
	}
	return out, nil
}

// UnderstoodFile is how a file is read with the columns as they are matched.
type UnderstoodFile struct {
	Columns   []csvimport.Understood   `json:"columns"`
	Questions []csvimport.FileQuestion `json:"questions"`
}

func (s *Server) understandRegister(ctx context.Context, u user, in *registerFile) (*answer[UnderstoodFile], error) {
	out := UnderstoodFile{Questions: []csvimport.FileQuestion{}}
	err := s.table(ctx, u, in.Body, func(t csvimport.Table, _ store.ImportFile) error {
		columns, asks, err := csvimport.Samples(t, in.Body.Decisions, s.Store.Vocabulary(ctx))
		if err != nil {
			return app.Refused(err)
		}
		out.Columns, out.Questions = columns, append(out.Questions, asks...)
		return nil
	})
	return answerOf(out, err)
}

// rowsShown is how many faulty rows, and how many others, a preview shows.
const rowsShown = 300

func (s *Server) previewRegister(ctx context.Context, u user, in *registerFile) (*answer[csvimport.Plan], error) {
	var p csvimport.Plan
	err := s.table(ctx, u, in.Body, func(t csvimport.Table, _ store.ImportFile) (err error) {
		p, err = s.app.PlanRegister(ctx, t, in.Body.Decisions, s.now())
		return err
	})
	return answerOf(p.Shown(rowsShown), err)
}

func (s *Server) importRegister(ctx context.Context, u user, in *registerFile) (*answer[csvimport.Plan], error) {
	var p csvimport.Plan
	err := s.table(ctx, u, in.Body, func(t csvimport.Table, src store.ImportFile) (err error) {
		p, err = s.app.ImportRegister(ctx, src, t, in.Body.Decisions, in.Body.Fingerprint, u.Name, s.now())
		return err
	})
	return answerOf(p.Shown(0), err)
}

func (s *Server) previewMeters(ctx context.Context, u user, in *registerFile) (*answer[csvimport.MeterPlan], error) {
	var p csvimport.MeterPlan
	err := s.table(ctx, u, in.Body, func(t csvimport.Table, _ store.ImportFile) (err error) {
		p, err = s.app.PlanMeters(ctx, t, in.Body.Decisions, s.now())
		return err
	})
	return answerOf(p, err)
}

func (s *Server) importMeters(ctx context.Context, u user, in *registerFile) (*answer[csvimport.MeterPlan], error) {
	var p csvimport.MeterPlan
	err := s.table(ctx, u, in.Body, func(t csvimport.Table, src store.ImportFile) (err error) {
		p, err = s.app.ImportMeters(ctx, src, t, in.Body.Decisions, u.Name, s.now())
		return err
	})
	return answerOf(p, err)
}

func (s *Server) imports(ctx context.Context, _ user, in *Rows) (*answer[store.Listed[store.Import]], error) {
	return answerOf(s.Store.Imports(ctx, in.cut()))
}
