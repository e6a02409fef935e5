package server

import (
	"context"

	"wardifex/internal/app"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/store"
)

// FaultBook is the faults of a fleet or machine.
type FaultBook struct {
	Faults   []store.ReportedFault `json:"faults"`
	Found    int                   `json:"found" doc:"How many there are, of which some are listed"`
	Symptoms []maintenance.Symptom `json:"symptoms"`
}

type faultsOf struct {
	Rows
	Machine int64  `query:"machine" doc:"Number of a machine; the whole fleet when 0"`
	Show    string `query:"show"    doc:"Mine: those that you reported or are on" enum:"open,mine,closed,"`
}

func (s *Server) faults(ctx context.Context, u user, in *faultsOf) (*answer[FaultBook], error) {
	list, err := s.Store.Faults(ctx, store.FaultFilter{Machine: in.Machine, Show: in.Show, Account: u.ID, Cut: in.cut()})
	return answerOf(FaultBook{Faults: list.Rows, Found: list.Found, Symptoms: maintenance.Symptoms()}, err)
}

type reportFault struct {
	ByID
	Body struct {
		Words   string `json:"words" maxLength:"2000"`
		Symptom string `json:"symptom,omitempty"`
	}
}

func (s *Server) reportFault(ctx context.Context, u user, in *reportFault) (*answer[Reported], error) {
	id, danger, err := s.app.ReportFault(ctx, in.ID, in.Body.Symptom, in.Body.Words, u.Name, s.now())
	return answerOf(Reported{id, danger}, err)
}

// Reported is a fault that was recorded.
type Reported struct {
	ID     int64 `json:"id"`
	Danger bool  `json:"danger" doc:"The machine is out of use with it, until somebody has looked"`
}

func (s *Server) dangers(ctx context.Context, u user, _ *none) (*answer[[]app.OpenDanger], error) {
	return answerOf(s.app.Dangers(ctx, u.ID, s.now()))
}

type takeFault struct {
	ByID
	Body struct {
		Version int  `json:"version"`
		Off     bool `json:"off"     doc:"Nobody is on it any more"`
	}
}

func (s *Server) takeFault(ctx context.Context, u user, in *takeFault) (*noContent, error) {
	account := u.ID
	if in.Body.Off {
		account = 0
	}
	return emptyAnswer(s.app.TakeFault(ctx, in.ID, in.Body.Version, account, u.Name, s.now()))
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
	Words string `query:"words" maxLength:"2000" doc:"Empty for all symptoms, commonest first"`
}

func (s *Server) proposeSymptoms(
	_ context.Context,
	_ user,
	in *proposeSymptoms,
) (*answer[[]maintenance.Symptom], error) {
	if in.Words == "" {
		return answerOf(maintenance.Symptoms(), nil)
	}
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
	if err := s.app.SetUse(ctx, []int64{in.ID}, in.Body.Use, in.Body.Why, u.Name, s.now()); err != nil {
		return nil, err
	}
	return s.sheetOf(ctx, in.ID)
}

type setUses struct {
	Body struct {
		Machines []int64         `json:"machines" minItems:"1" maxItems:"1000" doc:"Numbers of machines"`
		Use      maintenance.Use `json:"use"      enum:"in use,attended only,out of use"`
		Why      string          `json:"why"      maxLength:"120"`
	}
}

func (s *Server) setUses(ctx context.Context, u user, in *setUses) (*noContent, error) {
	return emptyAnswer(s.app.SetUse(ctx, in.Body.Machines, in.Body.Use, in.Body.Why, u.Name, s.now()))
}

func (s *Server) forMember(ctx context.Context, _ user, in *ByID) (*answer[app.MachineForMember], error) {
	return answerOf(s.app.ForMember(ctx, in.ID, s.now()))
}

type usableMachines struct {
	Text   string  `query:"text"   maxLength:"100" doc:"Of the name, the bay or a nozzle"`
	X      float64 `query:"x"      minimum:"0" maximum:"100000" doc:"Width that has to fit, mm; 0 for any"`
	Y      float64 `query:"y"      minimum:"0" maximum:"100000" doc:"Depth, mm"`
	Z      float64 `query:"z"      minimum:"0" maximum:"100000" doc:"Height, mm"`
	Hot    float64 `query:"hot"    minimum:"0" maximum:"2000" doc:"Temperature that every hotend has to stand, °C"`
	Only   bool    `query:"only"   doc:"Those alone that can be used now"`
	Offset int     `query:"offset" minimum:"0" maximum:"1000000"`
	Limit  int     `query:"limit"  minimum:"1" maximum:"500" default:"100"`
}

func (s *Server) usable(ctx context.Context, _ user, in *usableMachines) (*answer[app.UsableList], error) {
	job := maintenance.PrintJob{X: in.X, Y: in.Y, Z: in.Z, Hot: in.Hot}
	q := app.UsableQuery{Text: in.Text, Job: job, Only: in.Only}
	return answerOf(s.app.Usable(ctx, q, in.Offset, in.Limit, s.now()))
}
