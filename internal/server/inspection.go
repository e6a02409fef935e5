package server

import (
	"context"
	"slices"

	"wardifex/internal/app"
	"wardifex/internal/core/bench"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/inspection"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/quantity"
	"wardifex/internal/store"
)

type identifyMachines struct {
	Machines []int64  `query:"machine,explode" maxItems:"200" doc:"Numbers of machines"`
	Kits     []string `query:"kit,explode" maxItems:"50" doc:"Keys of kits whose verdicts wait"`
}

// Identification is what to ask of machines, in order.
type Identification struct {
	Questions      []AskedQuestion `json:"questions"`
	Minutes        int             `json:"minutes" doc:"About how long all of it takes"`
	Depths         []string        `json:"depths" doc:"States of the machine that a question's depth counts"`
	Contradictions []MachineSays   `json:"against" doc:"What cannot be true together"`
	Needs          []MachineNeeds  `json:"needs" doc:"How each machine stands in what its parts need"`
}

// MachineNeeds is how a machine stands in what its parts need.
type MachineNeeds struct {
	MachineID int64           `json:"machineId"`
	Machine   string          `json:"machine"`
	State     fit.Consistency `json:"state" enum:"known broken,leans broken,nothing known broken"`
	Leaning   []string        `json:"leaning" doc:"Needs that are not met if the claims are right"`
	Untold    int             `json:"untold" doc:"How many needs cannot be told either way"`
	// Of a kind of which some model needs something.
	Unknown []string `json:"unknown" doc:"Positions whose model is unknown"`
}

// AskedQuestion is a question with its machine and the form of its answer.
type AskedQuestion struct {
	inspection.Question
	MachineID int64        `json:"machineId"`
	Machine   string       `json:"machine"`
	Bay       string       `json:"bay"`
	Slot      string       `json:"slot"`
	Kind      machine.Kind `json:"kind" enum:"number,choice,yes/no,text"`
	Unit      string       `json:"unit,omitempty"`
	Choices   []string     `json:"choices"`
	Hint      string       `json:"hint,omitempty"`
	Help      string       `json:"help,omitempty" enum:"processor marking,sensor," doc:"How its value is worked out"`
}

// MachineSays is a contradiction on a machine.
type MachineSays struct {
	MachineID int64  `json:"machineId"`
	Machine   string `json:"machine"`
	inspection.Contradiction
}

func (s *Server) identify(ctx context.Context, _ user, in *identifyMachines) (*answer[Identification], error) {
	out := Identification{Depths: machine.Depths(), Questions: []AskedQuestion{}, Contradictions: []MachineSays{},
		Needs: []MachineNeeds{}}
	if len(in.Machines) == 0 {
		return answerOf(out, nil)
	}
	fleet, err := s.Store.Fleet(ctx, in.Machines...)
	if err != nil {
		return nil, err
	}
	var kits []inspection.Kit
	for _, key := range in.Kits {
		j, err := s.app.Judge(ctx, key)
		if err != nil {
			return nil, err
		}
		kits = append(kits, inspection.Kit{Name: j.Kit.Name, Judge: j})
	}
	tried, err := s.Store.Unreadable(ctx, in.Machines...)
	if err != nil {
		return nil, err
	}
	voc := s.Store.Vocabulary()
	for i := range fleet {
		m := &fleet[i]
		qs := inspection.Questions(
			m.Facts,
			kits,
			func(k machine.Key, inspection string) bool { return tried[m.ID][k][inspection] },
		)
		out.Minutes += inspection.Minutes(voc, qs)
		for _, q := range qs {
			out.Questions = append(out.Questions, s.asked(m, q))
		}
		stand := fit.Stand(m.Facts)
		needs := MachineNeeds{
			MachineID: m.ID,
			Machine:   m.Name,
			State:     stand.State,
			Leaning:   []string{},
			Untold:    stand.Untold,
			Unknown:   stand.Unknown,
		}
		for _, o := range stand.Leaning {
			needs.Leaning = append(needs.Leaning, o.Says())
		}
		out.Needs = append(out.Needs, needs)
		for _, c := range inspection.ContradictionsOf(m.Facts, m.Records, m.Configured) {
			out.Contradictions = append(out.Contradictions, MachineSays{m.ID, m.Name, c})
		}
	}
	slices.SortStableFunc(out.Questions, func(a, b AskedQuestion) int {
		return inspection.Round(a.Question,
			b.Question)
	})
	return answerOf(out, nil)
}

func (s *Server) asked(m *store.Machine, q inspection.Question) AskedQuestion {
	voc := s.Store.Vocabulary()
	t, _ := voc.Trait(q.Key)
	slot, _ := voc.Position(t.Slot)
	out := AskedQuestion{
		Question:  q,
		MachineID: m.ID,
		Machine:   m.Name,
		Bay:       m.Bay,
		Slot:      slot.Label,
		Kind:      t.Kind,
		Unit:      t.Unit,
		Choices:   t.Called(),
		Hint:      t.Hint,
		Help:      inspection.HelpFor(t, m.Facts),
	}
	if out.Choices == nil {
		out.Choices = []string{}
	}
	return out
}

// OpenConflict is a trait on which equally good readings differ.
type OpenConflict struct {
	MachineID int64    `json:"machineId"`
	Machine   string   `json:"machine"`
	Key       string   `json:"key"`
	Label     string   `json:"label"`
	Sides     []string `json:"sides" doc:"Each reading, in words"`
}

// Conflicts are those of a fleet, by machine.
type Conflicts struct {
	Rows  []OpenConflict `json:"rows"`
	Total int            `json:"total"`
}

type pageAsked struct {
	Offset int `query:"offset" minimum:"0" maximum:"1000000"`
	Limit  int `query:"limit" minimum:"1" maximum:"1000" default:"200"`
}

func (s *Server) conflicts(ctx context.Context, _ user, in *pageAsked) (*answer[Conflicts], error) {
	fleet, err := s.Store.Fleet(ctx)
	out := Conflicts{Rows: []OpenConflict{}}
	for i := range fleet {
		for _, f := range fleet[i].Facts.Conflicts() {
			out.Total++
			if out.Total <= in.Offset || len(out.Rows) >= in.Limit {
				continue
			}
			c := OpenConflict{MachineID: fleet[i].ID, Machine: fleet[i].Name, Key: string(f.Trait.Key()),
				Label: f.Trait.Label}
			for _, r := range f.Conflict {
				c.Sides = append(
					c.Sides,
					f.Trait.Show(r.Value)+" ("+r.Grade.String()+", "+r.By+", "+r.TakenAt.Format(civil.Shown)+")",
				)
			}
			out.Rows = append(out.Rows, c)
		}
	}
	return answerOf(out, err)
}

type unreadable struct {
	ByID
	Body struct {
		Key        machine.Key `json:"key"`
		Inspection string      `json:"inspection"`
		Why        string      `json:"why,omitempty" maxLength:"120"`
	}
}

func (s *Server) unreadable(ctx context.Context, u user, in *unreadable) (*none, error) {
	return nil, s.app.MarkUnreadable(ctx, in.ID, in.Body.Key, in.Body.Inspection, in.Body.Why, u.Name, s.now())
}

type peek struct {
	ByID
	Key  machine.Key `query:"key"`
	Text string      `query:"text" maxLength:"200"`
}

func (s *Server) peek(ctx context.Context, _ user, in *peek) (*answer[inspection.Peek], error) {
	m, err := s.Store.Machine(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	return answerOf(inspection.PeekAt(in.Key, in.Text, m.Facts, m.Records), nil)
}

func (s *Server) contradictions(ctx context.Context, _ user, in *ByID) (*answer[[]inspection.Contradiction], error) {
	m, err := s.Store.Machine(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	return answerOf(inspection.ContradictionsOf(m.Facts, m.Records, m.Configured), nil)
}

type sensor struct {
	Body struct {
		Ohms    [2]string `json:"ohms" doc:"Ω, as typed; k for thousands"`
		Celsius [2]string `json:"celsius" doc:"°C, as typed"`
	}
}

func (s *Server) sensor(_ context.Context, _ user, in *sensor) (*answer[bench.SensorFinding], error) {
	var p [2]bench.Point
	for i := range p {
		var err error
		if p[i].Ohms, err = bench.ParseOhms(in.Body.Ohms[i]); err == nil {
			p[i].Celsius, err = quantity.In(in.Body.Celsius[i], "°C", quantity.Unsaid, -60, 600)
		}
		if err != nil {
			return nil, app.Refused(err)
		}
	}
	f, err := bench.IdentifySensor(p[0], p[1])
	if err != nil {
		return nil, app.Refused(err)
	}
	return answerOf(f, nil)
}
