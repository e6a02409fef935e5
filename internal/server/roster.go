package server

import (
	"context"

	"wardifex/internal/app"
	"wardifex/internal/store"
)

func (s *Server) rosterRoutes() {
	handle(s, store.Technician, "GET", "/roster", "roster", "The work that is planned, and the newest run of the planner",
		func(ctx context.Context, _ user, _ *none) (*answer[app.PlanView], error) {
			return answerOf(s.app.PlanOf(ctx, s.now()))
		}, fleetWide)
	handle(s, store.Lead, "POST", "/roster/runs", "ask-for-plan", "Have a plan made in the background", s.askForPlan)
	handle(s, store.Lead, "POST", "/roster/runs/{id}/stop", "stop-run", "Stop a run; the best so far is kept",
		func(ctx context.Context, _ user, in *ByID) (*noContent, error) {
			return emptyAnswer(s.app.StopRun(ctx, in.ID))
		})
	handle(s, store.Lead, "POST", "/roster/runs/{id}/take", "take-run", "Put a plan into force",
		func(ctx context.Context, u user, in *ByID) (*noContent, error) {
			return emptyAnswer(s.app.TakeRun(ctx, in.ID, u.Name, s.now()))
		})
	handle(s, store.Technician, "POST", "/roster/pin", "pin-work", "Put a piece of work where you want it; as few others as can be move",
		s.pinWork)
	handle(s, store.Technician, "POST", "/roster/let-go", "let-go", "Let a pinned piece of work be moved again",
		func(ctx context.Context, _ user, in *letGo) (*noContent, error) {
			return emptyAnswer(s.app.LetGo(ctx, in.Body.Key))
		})
	handle(s, store.Technician, "GET", "/planning", "planning", "How the shop plans: days, weights, floors, circuits",
		func(ctx context.Context, _ user, _ *none) (*answer[app.Planning], error) {
			return answerOf(s.app.PlanningSettings(ctx))
		})
	handle(s, store.Lead, "PUT", "/planning", "save-planning", "Set how the shop plans", s.savePlanning)
}

type askForPlan struct {
	Body struct {
		Keep bool `json:"keep" doc:"What is planned stays where it can"`
	}
}

func (s *Server) askForPlan(ctx context.Context, u user, in *askForPlan) (*answer[Made], error) {
	id, err := s.app.AskForPlan(ctx, in.Body.Keep, u.Name, s.now())
	return answerOf(Made{id}, err)
}

type pinned struct {
	Moved int `json:"moved" doc:"How many others made room"`
}

func (s *Server) pinWork(ctx context.Context, u user, in *struct{ Body app.Pin }) (*answer[pinned], error) {
	moved, err := s.app.PinWork(ctx, in.Body, u.Name, s.now())
	return answerOf(pinned{moved}, err)
}

type letGo struct {
	Body struct {
		Key string `json:"key" maxLength:"200"`
	}
}

func (s *Server) savePlanning(ctx context.Context, _ user, in *struct{ Body app.Planning }) (*answer[app.Planning], error) {
	if err := s.app.SavePlanning(ctx, in.Body); err != nil {
		return nil, err
	}
	return answerOf(s.app.PlanningSettings(ctx))
}
