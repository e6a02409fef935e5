package server

import (
	"context"

	"wardifex/internal/core/csvimport"
	"wardifex/internal/store"
)

// RegisterFile is a CSV file with what the technician decided about it.
type RegisterFile struct {
	File []byte `json:"file" doc:"The file's bytes, base64"`
	Name string `json:"name,omitempty" maxLength:"200" doc:"Of the file"`
	csvimport.Layout
	csvimport.Decisions
	Fingerprint string `json:"fingerprint,omitempty" doc:"Of the preview that is imported"`
}

type registerFile struct {
	Body RegisterFile
}

func (f RegisterFile) table() (csvimport.Table, error) {
	t, err := csvimport.ReadTable(f.File, csvimport.MaxRows, f.Layout)
	if err == nil {
		err = t.Correct(f.Corrections)
	}
	if err != nil {
		return t, store.Refused(err)
	}
	return t, nil
}

func (f RegisterFile) source() store.ImportFile { return store.ImportFile{Name: f.Name, Data: f.File} }

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

func (s *Server) openRegister(ctx context.Context, _ user, in *registerFile) (*answer[Opened], error) {
	t, err := in.Body.table()
	if err != nil {
		return nil, err
	}
	before, err := s.Store.Headings(ctx)
	if err != nil {
		return nil, err
	}
	voc := s.Store.Vocabulary()
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
	return answerOf(out, nil)
}

// UnderstoodFile is how a file is read with the columns as they are matched.
type UnderstoodFile struct {
	Columns   []csvimport.Understood   `json:"columns"`
	Questions []csvimport.FileQuestion `json:"questions"`
}

func (s *Server) understandRegister(_ context.Context, _ user, in *registerFile) (*answer[UnderstoodFile], error) {
	t, err := in.Body.table()
	if err != nil {
		return nil, err
	}
	columns, asks, err := csvimport.Samples(t, in.Body.Decisions, s.Store.Vocabulary())
	if err != nil {
		return nil, store.Refused(err)
	}
	return answerOf(UnderstoodFile{columns, append([]csvimport.FileQuestion{}, asks...)}, nil)
}

// rowsShown is how many faulty rows, and how many others, a preview shows.
const rowsShown = 300

func (s *Server) previewRegister(ctx context.Context, _ user, in *registerFile) (*answer[csvimport.Plan], error) {
	t, err := in.Body.table()
	if err != nil {
		return nil, err
	}
	p, err := s.Store.PlanRegister(ctx, t, in.Body.Decisions, s.now())
	return answerOf(p.Shown(rowsShown), err)
}

func (s *Server) importRegister(ctx context.Context, u user, in *registerFile) (*answer[csvimport.Plan], error) {
	t, err := in.Body.table()
	if err != nil {
		return nil, err
	}
	p, err := s.Store.ImportRegister(ctx, in.Body.source(), t, in.Body.Decisions, in.Body.Fingerprint, u.Name, s.now())
	return answerOf(p.Shown(0), err)
}

func (s *Server) previewMeters(ctx context.Context, _ user, in *registerFile) (*answer[csvimport.MeterPlan], error) {
	t, err := in.Body.table()
	if err != nil {
		return nil, err
	}
	return answerOf(s.Store.PlanMeters(ctx, t, in.Body.Decisions, s.now()))
}

func (s *Server) importMeters(ctx context.Context, u user, in *registerFile) (*answer[csvimport.MeterPlan], error) {
	t, err := in.Body.table()
	if err != nil {
		return nil, err
	}
	return answerOf(s.Store.ImportMeters(ctx, in.Body.source(), t, in.Body.Decisions, u.Name, s.now()))
}

func (s *Server) imports(ctx context.Context, _ user, _ *none) (*answer[[]store.Import], error) {
	return answerOf(s.Store.Imports(ctx))
}
