package server

import (
	"context"

	"wardifex/internal/app"
	"wardifex/internal/core/calibration"
	"wardifex/internal/store"
)

func (s *Server) orders(ctx context.Context, _ user, in *Rows) (*answer[store.Listed[store.OrderHead]], error) {
	return answerOf(s.Store.Orders(ctx, in.cut()))
}

func (s *Server) staleFiles(ctx context.Context, _ user, in *ByID) (*answer[[]app.StaleFile], error) {
	return answerOf(s.app.StaleFiles(ctx, in.ID))
}

type openWork struct {
	Body struct {
		MachineID int64  `json:"machineId"`
		Kit       string `json:"kit"`
		Reason    string `json:"reason"`
	}
}

func (s *Server) openWork(ctx context.Context, u user, in *openWork) (*answer[Created], error) {
	id, err := s.app.OpenWork(ctx, in.Body.MachineID, in.Body.Kit, in.Body.Reason, u.Name, s.now())
	return answerOf(Created{id}, err)
}

type openSwap struct {
	ByID
	Body struct {
		Position string `json:"position"`
		Model    string `json:"model"  maxLength:"120" doc:"That comes in; none where it stays empty"`
		Part     int64  `json:"part,omitempty" doc:"Number of the part of the shelf that comes in, in place of a model"`
		Reason   string `json:"reason" maxLength:"300"`
	}
}

func (s *Server) openSwap(ctx context.Context, u user, in *openSwap) (*answer[Created], error) {
	b := in.Body
	id, err := s.app.OpenSwap(ctx, in.ID, b.Position, b.Model, b.Part, b.Reason, u.Name, s.now())
	return answerOf(Created{id}, err)
}

type openFlash struct {
	ByID
	Body struct {
		Must   string `json:"must,omitempty" maxLength:"120" doc:"What it must have besides the fitted parts"`
		Reason string `json:"reason"         maxLength:"300"`
	}
}

func (s *Server) openFlash(ctx context.Context, u user, in *openFlash) (*answer[Created], error) {
	id, err := s.app.OpenFlash(ctx, in.ID, in.Body.Must, in.Body.Reason, u.Name, s.now())
	return answerOf(Created{id}, err)
}

type openPlan struct {
	Body struct {
		MachineID int64    `json:"machineId"`
		Kits      []string `json:"kits" maxItems:"20"`
		Reason    string   `json:"reason"`
	}
}

func (s *Server) openPlan(ctx context.Context, u user, in *openPlan) (*answer[Created], error) {
	id, err := s.app.OpenPlan(ctx, in.Body.MachineID, in.Body.Kits, in.Body.Reason, u.Name, s.now())
	return answerOf(Created{id}, err)
}

func (s *Server) beginPlanned(ctx context.Context, u user, in *ByID) (*answer[app.Order], error) {
	if err := s.app.BeginPlanned(ctx, in.ID, u.Name, s.now()); err != nil {
		return nil, err
	}
	return answerOf(s.app.Order(ctx, in.ID))
}

func (s *Server) order(ctx context.Context, _ user, in *ByID) (*answer[app.Order], error) {
	return answerOf(s.app.Order(ctx, in.ID))
}

type saveStep struct {
	ByID
	Step string `path:"step"`
	Body app.StepChange
}

func (s *Server) saveStep(ctx context.Context, u user, in *saveStep) (*answer[app.Order], error) {
	if err := s.app.SaveStep(ctx, in.ID, in.Step, in.Body, u.Name, s.now()); err != nil {
		return nil, err
	}
	return answerOf(s.app.Order(ctx, in.ID))
}

type finish struct {
	ByID
	Body struct {
		Minutes int `json:"minutes,omitempty" minimum:"0" maximum:"6000" doc:"What it took; the kit's own minutes when 0"`
	}
}

func (s *Server) finish(ctx context.Context, u user, in *finish) (*answer[app.Order], error) {
	if _, err := s.app.Finish(ctx, in.ID, in.Body.Minutes, u.Name, s.now()); err != nil {
		return nil, err
	}
	return answerOf(s.app.Order(ctx, in.ID))
}

func (s *Server) abandon(ctx context.Context, u user, in *ByID) (*answer[app.Order], error) {
	if err := s.app.Abandon(ctx, in.ID, u.Name, s.now()); err != nil {
		return nil, err
	}
	return answerOf(s.app.Order(ctx, in.ID))
}

func (s *Server) planAgain(ctx context.Context, _ user, in *ByID) (*answer[app.Order], error) {
	if err := s.app.ReplanOrder(ctx, in.ID); err != nil {
		return nil, err
	}
	return answerOf(s.app.Order(ctx, in.ID))
}

type calibrationsAsked struct {
	Kind calibration.Kind `query:"kind" maxLength:"60" doc:"Of this kind alone; all when empty"`
}

func (s *Server) calibrations(ctx context.Context, _ user, in *calibrationsAsked) (
	*answer[app.CalibrationBook], error) {
	return answerOf(s.app.CalibrationBook(ctx, in.Kind, s.now()))
}

type calibrationHistoryAsked struct {
	ByID
	Kind    calibration.Kind    `query:"kind"    maxLength:"60" required:"true"`
	Subject calibration.Subject `query:"subject" maxLength:"60" doc:"Empty is the machine as a whole"`
}

func (s *Server) calibrationHistory(ctx context.Context, _ user, in *calibrationHistoryAsked) (
	*answer[app.CalibrationHistory], error) {
	return answerOf(s.app.CalibrationHistory(ctx, in.ID, in.Kind, in.Subject, s.now()))
}

type addStep struct {
	ByID
	Body struct {
		After string `json:"after" doc:"Key of the step that it comes after"`
		Title string `json:"title" maxLength:"120"`
		Do    string `json:"do,omitempty" maxLength:"1000"`
		Keep  bool   `json:"keep,omitempty" doc:"In every later order of this kit too"`
	}
}

func (s *Server) addStep(ctx context.Context, u user, in *addStep) (*answer[app.Order], error) {
	b := in.Body
	step := app.AddedStep{After: b.After, Title: b.Title, Do: b.Do, Keep: b.Keep}
	return s.orderAfter(ctx, in.ID, s.app.AddStep(ctx, in.ID, step, u.Name))
}
