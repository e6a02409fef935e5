package server

import (
	"context"

	"wardifex/internal/app"
	"wardifex/internal/core/civil"
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
	handle(s, store.Technician, "POST", "/roster/pin", "pin-work",
		"Put a piece of work where you want it; as few others as can be move",
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
	handle(s, store.Technician, "GET", "/today", "today", "Your day in the shop, and how the fleet stands",
		func(ctx context.Context, u user, _ *none) (*answer[app.TodayView], error) {
			return answerOf(s.app.Today(ctx, u.ID, s.now()))
		}, fleetWide)
	handle(s, store.Technician, "POST", "/visits", "visit", "Note that you are here",
		func(ctx context.Context, u user, _ *none) (*noContent, error) {
			return emptyAnswer(s.app.Visit(ctx, u.ID, s.now()))
		})
	handle(s, store.Technician, "GET", "/spares", "spares", "Spare parts: on the shelf, reserved, on order, short",
		func(ctx context.Context, _ user, _ *none) (*answer[[]app.SpareRow], error) {
			return answerOf(s.app.Spares(ctx))
		})
	handle(s, store.Technician, "PUT", "/spares/level", "set-spare-level",
		"Say how many pieces of a model the shelf should hold",
		func(ctx context.Context, _ user, in *struct{ Body store.SpareLevel }) (*noContent, error) {
			return emptyAnswer(s.app.SetSpareLevel(ctx, in.Body))
		})
	handle(s, store.Technician, "GET", "/faults/{id}/ahead", "fault-ahead",
		"What a fault means for the next booking of its machine",
		func(ctx context.Context, _ user, in *ByID) (*answer[app.FaultAhead], error) {
			return answerOf(s.app.FaultAhead(ctx, in.ID, s.now()))
		}, fleetWide)
	handle(s, store.Technician, "GET", "/reliability", "reliability", "Availability, time between failures and to repair",
		func(ctx context.Context, _ user, in *reliabilityAsked) (*answer[app.ReliabilityList], error) {
			return answerOf(s.reliability(ctx, in.From, in.To, in.By))
		}, fleetWide)
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

type pinWork struct {
	Body struct {
		Key     string `json:"key"     maxLength:"200"`
		Account int64  `json:"account" doc:"Who does it"`
		From    string `json:"from"    doc:"ISO 8601; on the shop's clock without an offset"`
	}
}

func (s *Server) pinWork(ctx context.Context, u user, in *pinWork) (*answer[pinned], error) {
	from, err := s.shopMoment("From", in.Body.From)
	if err != nil {
		return nil, err
	}
	moved, err := s.app.PinWork(ctx, app.Pin{Key: in.Body.Key, Account: in.Body.Account, From: from}, u.Name, s.now())
	return answerOf(pinned{moved}, err)
}

type reliabilityAsked struct {
	From string `query:"from" doc:"First day, ISO 8601; twelve weeks before the last where it is empty"`
	To   string `query:"to"   doc:"Last day, ISO 8601; today where it is empty"`
	By   string `query:"by"   enum:"bay,model,machine" default:"bay"`
}

// usualReliability is over how many days reliability is told where nobody says it.
const usualReliability = 12 * 7

func (s *Server) reliability(ctx context.Context, from, to, by string) (app.ReliabilityList, error) {
	last := civil.Of(s.now())
	var err error
	if to != "" {
		if last, err = civil.ParseDay(to, civil.Unsaid); err != nil {
			return app.ReliabilityList{}, app.Refused(err)
		}
	}
	first := last - usualReliability + 1
	if from != "" {
		if first, err = civil.ParseDay(from, civil.Unsaid); err != nil {
			return app.ReliabilityList{}, app.Refused(err)
		}
	}
	return s.app.ReliabilityBy(ctx, first, last, by, s.now())
}

type letGo struct {
	Body struct {
		Key string `json:"key" maxLength:"200"`
	}
}

func (s *Server) savePlanning(ctx context.Context, _ user, in *struct{ Body app.Planning }) (*answer[app.Planning],
	error) {
	if err := s.app.SavePlanning(ctx, in.Body); err != nil {
		return nil, err
	}
	return answerOf(s.app.PlanningSettings(ctx))
}
