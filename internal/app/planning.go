package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/roster"
	"wardifex/internal/store"
)

// Planning is what the shop says of its planning.
type Planning struct {
	Days     int             `json:"days"     minimum:"1" maximum:"35" doc:"How far ahead work is planned"`
	Weights  roster.Weights  `json:"weights"`
	Floors   []store.Floor   `json:"floors"   maxItems:"50"`
	Circuits []store.Circuit `json:"circuits" maxItems:"200"`
	Version  int             `json:"version"`
}

// usualDays is how far ahead a shop plans that has not said it.
const usualDays = 28

// PlanningSettings are what the shop says of its planning.
func (a *App) PlanningSettings(ctx context.Context) (Planning, error) {
	out := Planning{Days: usualDays, Weights: roster.Usual()}
	text, err := a.store.Planning(ctx)
	if err == nil && len(text) > 2 {
		err = json.Unmarshal(text, &out)
	}
	if err != nil {
		return out, err
	}
	set, err := a.store.Shop(ctx)
	if err != nil {
		return out, err
	}
	out.Version = set.Version
	if out.Floors, err = a.store.Floors(ctx); err != nil {
		return out, err
	}
	out.Circuits, err = a.store.Circuits(ctx)
	return out, err
}

// SavePlanning sets what the shop says of its planning, over the settings of a version.
func (a *App) SavePlanning(ctx context.Context, p Planning) error {
	names := map[string]bool{}
	on := map[int64]string{}
	for i := range p.Circuits {
		c := &p.Circuits[i]
		c.Name = strings.TrimSpace(c.Name)
		if err := machine.PlainText(c.Name); err != nil {
			return refuse("name of a circuit: %s", err)
		}
		if key := strings.ToLower(c.Name); names[key] {
			return refuse("two circuits are named %s; a circuit has a name of its own", c.Name)
		} else {
			names[key] = true
		}
		for _, m := range c.Machines {
			if other, twice := on[m]; twice {
				return refuse("a machine hangs on one circuit: one of those on %s is on %s too", c.Name, other)
			}
			on[m] = c.Name
		}
	}
	return a.store.InTx(ctx, func(ctx context.Context) error {
		if err := a.checkFloors(ctx, p.Floors); err != nil {
			return err
		}
		kept := struct {
			Days    int            `json:"days"`
			Weights roster.Weights `json:"weights"`
		}{p.Days, p.Weights}
		err := a.store.SavePlanning(ctx, kept, p.Version)
		if errors.Is(err, store.ErrChanged) {
			return &Conflict{Sentence: "somebody else changed the shop's settings meanwhile; nothing was saved"}
		}
		if err == nil {
			err = a.store.SaveFloors(ctx, p.Floors)
		}
		if err == nil {
			err = a.store.SaveCircuits(ctx, p.Circuits)
		}
		return err
	})
}

func (a *App) checkFloors(ctx context.Context, floors []store.Floor) error {
	questions, err := a.store.Questions(ctx)
	if err != nil {
		return err
	}
	for i, f := range floors {
		if !slices.ContainsFunc(questions, func(q store.SavedQuestion) bool { return q.ID == f.QuestionID }) {
			return refuse("a floor is of machines that a saved question finds; there is no such question")
		}
		if slices.ContainsFunc(floors[:i], func(other store.Floor) bool { return other.QuestionID == f.QuestionID }) {
			return refuse("there are two floors for one question; keep one")
		}
	}
	return nil
}

// FloorState is a floor as it is now.
type FloorState struct {
	Ability  string `json:"ability"`
	Question int64  `json:"question"`
	Least    int    `json:"least"`
	Up       int    `json:"up"      doc:"Machines of this ability that can be used now"`
	Of       int    `json:"of"      doc:"All machines of this ability"`
}

// abilities are the floors of the shop, each with the machines that its question finds in a fleet.
func (a *App) abilities(ctx context.Context, fleet []store.Machine, now time.Time) ([]roster.Floor, []store.Floor,
	error) {
	floors, err := a.store.Floors(ctx)
	if err != nil || len(floors) == 0 {
		return nil, nil, err
	}
	questions, err := a.store.Questions(ctx)
	if err != nil {
		return nil, nil, err
	}
	var out []roster.Floor
	for _, f := range floors {
		i := slices.IndexFunc(questions, func(q store.SavedQuestion) bool { return q.ID == f.QuestionID })
		if i < 0 {
			continue
		}
		answer, err := a.Ask(ctx, questions[i].Question, now)
		if err != nil {
			return nil, nil, fmt.Errorf("the floor of %s: %w", questions[i].Name, err)
		}
		floor := roster.Floor{Ability: questions[i].Name, Least: f.Least}
		for _, line := range answer.Rows {
			if m := slices.IndexFunc(fleet, func(m store.Machine) bool { return m.ID == line.ID }); m >= 0 {
				floor.Machines = append(floor.Machines, m)
			}
		}
		out = append(out, floor)
	}
	return out, floors, nil
}
