package app

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"time"

	"wardifex/internal/store"
)

// PlanView is what is planned, and what became of the run that was asked for last.
type PlanView struct {
	Work   []ShownWork   `json:"work" doc:"In force, in its order"`
	Run    *store.Run    `json:"run,omitempty" doc:"The newest; empty where none was asked for"`
	Offer  *PlanOffer    `json:"offer,omitempty" doc:"What the run proposes, while it is not in force"`
	Floors []FloorState  `json:"floors"`
	People []PlanPerson  `json:"people" doc:"Who can be given work: they have told their shifts"`
	Lacks  []LackedSpare `json:"lacks" doc:"Spares that planned and blocked work lacks"`
}

// PlanPerson is somebody who can be given work.
type PlanPerson struct {
	Account int64    `json:"account"`
	Name    string   `json:"name"`
	Skills  []string `json:"skills"`
}

// PlanOffer is a plan that is not in force.
type PlanOffer struct {
	Work    []ShownWork   `json:"work"`
	Blocked []BlockedWork `json:"blocked" doc:"What cannot be placed, and why"`
	Moved   []string      `json:"moved"   doc:"Keys of what stands otherwise than it is planned now"`
	New     int           `json:"new"     doc:"How much is planned that was not"`
	Cost    float64       `json:"cost"    doc:"In minutes, by the shop's weights"`
	Was     float64       `json:"was"     doc:"Of the plan in force"`
}

// PlanOf is what is planned, and the newest run.
func (a *App) PlanOf(ctx context.Context, now time.Time) (PlanView, error) {
	out := PlanView{Floors: []FloorState{}, People: []PlanPerson{}, Lacks: []LackedSpare{}}
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return out, err
	}
	if out.Work, err = a.shownWork(ctx, fleet, nil); err != nil {
		return out, err
	}
	if out.Floors, err = a.floorStates(ctx, fleet, now); err != nil {
		return out, err
	}
	users, err := a.store.Users(ctx)
	if err != nil {
		return out, err
	}
	for _, u := range users {
		if u.DisabledAt == nil && u.Role != store.Member && len(u.Shifts) > 0 {
			out.People = append(out.People, PlanPerson{u.ID, u.DisplayName, u.Skills})
		}
	}
	run, err := a.store.NewestRun(ctx)
	if errors.Is(err, store.ErrNotFound) {
		return out, nil
	}
	if err != nil {
		return out, err
	}
	if out.Run = &run; lost(run, now) {
		run.State, run.Says = store.RunFailed, brokeOff
	}
	if run.State != store.RunDone {
		return out, nil
	}
	var doc planDocument
	if err := json.Unmarshal(run.Plan, &doc); err != nil {
		return out, err
	}
	offer := PlanOffer{Blocked: doc.Blocked, Moved: doc.Moved, Cost: doc.Cost, Was: doc.Was, Work: []ShownWork{}}
	for _, b := range doc.Blocked {
		if b.Model != "" {
			out.Lacks = addLack(out.Lacks, b)
		}
	}
	if run.TakenAt == nil {
		offer.Work = a.shown(doc.Work, fleet, users)
		for _, w := range doc.Work {
			if !slices.ContainsFunc(out.Work, func(is ShownWork) bool { return is.Key == w.Key }) {
				offer.New++
			}
		}
	}
	out.Offer = &offer
	return out, nil
}

// LackedSpare is a spare that work lacks.
type LackedSpare struct {
	Model string   `json:"model"`
	Count int      `json:"count"`
	For   []string `json:"for" doc:"Machine and work"`
}

func addLack(all []LackedSpare, b BlockedWork) []LackedSpare {
	what := b.Machine + ": " + b.Title
	for i := range all {
		if all[i].Model == b.Model {
			all[i].Count++
			all[i].For = append(all[i].For, what)
			return all
		}
	}
	return append(all, LackedSpare{b.Model, 1, []string{what}})
}

// floorStates is how many machines of each ability are up now.
func (a *App) floorStates(ctx context.Context, fleet []store.Machine, now time.Time) ([]FloorState, error) {
	abilities, floors, err := a.abilities(ctx, fleet, now)
	out := []FloorState{}
	for i, f := range abilities {
		state := FloorState{Ability: f.Ability, Question: floors[i].QuestionID, Least: f.Least, Of: len(f.Machines)}
		for _, m := range f.Machines {
			if is, _ := a.readiness(&fleet[m], now).Available(); is.Usable() {
				state.Up++
			}
		}
		out = append(out, state)
	}
	return out, err
}

// blockedNow is what the newest plan could not place; ErrNotFound where none was made.
func (a *App) blockedNow(ctx context.Context) ([]BlockedWork, error) {
	run, err := a.store.NewestRun(ctx)
	if err != nil || run.State != store.RunDone {
		return nil, err
	}
	var doc planDocument
	err = json.Unmarshal(run.Plan, &doc)
	return doc.Blocked, err
}
