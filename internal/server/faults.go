package server

import (
	"context"

	"wardifex/internal/core/maintenance"
	"wardifex/internal/store"
)

// FaultBook is the faults of a fleet or machine.
type FaultBook struct {
	Faults   []store.ReportedFault `json:"faults"`
	Symptoms []maintenance.Symptom `json:"symptoms"`
}

type faultsOf struct {
	Machine int64 `query:"machine" doc:"Number of a machine; the whole fleet when 0"`
}

func (s *Server) faults(ctx context.Context, _ user, in *faultsOf) (*answer[FaultBook], error) {
	list, err := s.Store.Faults(ctx, in.Machine)
	return answerOf(FaultBook{Faults: list, Symptoms: maintenance.Symptoms()}, err)
}

type reportFault struct {
	ByID
	Body struct {
		Words   string `json:"words" maxLength:"2000"`
		Symptom string `json:"symptom,omitempty"`
	}
}

func (s *Server) reportFault(ctx context.Context, u user, in *reportFault) (*answer[Created], error) {
	id, err := s.app.ReportFault(ctx, in.ID, in.Body.Symptom, in.Body.Words, u.Name, s.now())
	return answerOf(Created{id}, err)
}

type closeFault struct {
	ByID
	Body struct {
		Version int    `json:"version"`
		Answer  string `json:"answer" maxLength:"2000" doc:"What it was and what was done; empty opens it again"`
	}
}

func (s *Server) closeFault(ctx context.Context, u user, in *closeFault) (*none, error) {
	return nil, s.app.CloseFault(ctx, in.ID, in.Body.Version, in.Body.Answer, u.Name, s.now())
}

type proposeSymptoms struct {
	Words string `query:"words" maxLength:"2000"`
}

func (s *Server) proposeSymptoms(
	_ context.Context,
	_ user,
	in *proposeSymptoms,
) (*answer[[]maintenance.Symptom], error) {
	out := maintenance.Propose(in.Words)
	if out == nil {
		out = []maintenance.Symptom{}
	}
	return answerOf(out, nil)
}

type setUse struct {
	ByID
	Body struct {
		Use maintenance.Use `json:"use" enum:"in use,attended only,out of use"`
		Why string          `json:"why" maxLength:"120"`
	}
}

func (s *Server) setUse(ctx context.Context, u user, in *setUse) (*answer[Sheet], error) {
	if err := s.app.SetUse(ctx, in.ID, in.Body.Use, in.Body.Why, u.Name, s.now()); err != nil {
		return nil, err
	}
	return s.sheetOf(ctx, in.ID)
}
