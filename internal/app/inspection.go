package app

import (
	"context"
	"slices"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/inspection"
	"wardifex/internal/core/machine"
	"wardifex/internal/store"
)

// Identification is what to ask of machines, in order.
type Identification struct {
	Questions      []AskedQuestion `json:"questions"`
	Minutes        int             `json:"minutes" doc:"About how long all of it takes"`
	Depths         []string        `json:"depths" doc:"States of the machine that a question's depth counts"`
	Contradictions []MachineSays   `json:"against" doc:"What cannot be true together"`
	Needs          []MachineNeeds  `json:"needs" doc:"How each machine stands in what its parts need"`
	NotRead        []AskedQuestion `json:"notRead" doc:"What was tried in every way and could not be read"`
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
	Help      string       `json:"help,omitempty" enum:"processor marking,sensor,heater resistance,"`
	// Where several machines are inspected in one pass.
	Others []SiblingValue `json:"others" doc:"What the others have there"`
	// None is the key of the trait that is none where there is no such part.
	None string `json:"none,omitempty" doc:"Empty where there always is one"`
}

// SiblingValue is what is known of other machines that are inspected in the same pass.
type SiblingValue struct {
	Value    string   `json:"value"`
	Machines []string `json:"machines"`
}

// MachineSays is a contradiction on a machine.
type MachineSays struct {
	MachineID int64  `json:"machineId"`
	Machine   string `json:"machine"`
	inspection.Contradiction
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

// IdentifyQuery is which machines are inspected and for what.
type IdentifyQuery struct {
	Machines []int64
	Kits     []string // keys of kits whose verdicts wait
	Aim      inspection.Aim
	// Again asks once more in ways that did not work before.
	Again bool
}

// Identify lists what to find out on machines, in the order in which they are opened.
func (a *App) Identify(ctx context.Context, query IdentifyQuery) (Identification, error) {
	out := Identification{Depths: machine.Depths(), Questions: []AskedQuestion{}, Contradictions: []MachineSays{},
		Needs: []MachineNeeds{}, NotRead: []AskedQuestion{}}
	if len(query.Machines) == 0 {
		return out, nil
	}
	fleet, err := a.store.Fleet(ctx, query.Machines...)
	if err != nil {
		return out, err
	}
	var kits []inspection.Kit
	for _, key := range query.Kits {
		j, err := a.Judge(ctx, key)
		if err != nil {
			return out, err
		}
		kits = append(kits, inspection.Kit{Name: j.Kit.Name, Judge: j})
	}
	tried, err := a.store.Unreadable(ctx, query.Machines...)
	if err != nil {
		return out, err
	}
	voc := a.store.Vocabulary(ctx)
	for i := range fleet {
		m := &fleet[i]
		before := func(k machine.Key, inspection string) bool { return !query.Again && tried[m.ID][k][inspection] }
		questions := inspection.Questions(m.Facts, query.Aim, kits, before)
		for _, q := range inspection.NotRead(m.Facts, query.Aim, kits, before) {
			out.NotRead = append(out.NotRead, a.asked(m, q))
		}
		out.Minutes += inspection.Minutes(voc, questions)
		for _, q := range questions {
			out.Questions = append(out.Questions, a.asked(m, q))
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
	if len(fleet) > 1 {
		compareSiblings(fleet, out.Questions)
	}
	slices.SortStableFunc(out.Questions, func(a, b AskedQuestion) int {
		return inspection.Round(a.Question,
			b.Question)
	})
	return out, nil
}

// compareSiblings puts beside each question what is known of the other machines.
func compareSiblings(fleet []store.Machine, questions []AskedQuestion) {
	for i := range questions {
		q := &questions[i]
		at := map[string]int{}
		for k := range fleet {
			f := fleet[k].Facts.Fact(q.Key)
			if fleet[k].ID == q.MachineID || !f.Known() || f.Trait == nil {
				continue
			}
			value := f.Trait.Show(f.Value)
			n, there := at[value]
			if !there {
				n = len(q.Others)
				at[value] = n
				q.Others = append(q.Others, SiblingValue{Value: value, Machines: []string{}})
			}
			q.Others[n].Machines = append(q.Others[n].Machines, fleet[k].Name)
		}
	}
}

func (a *App) asked(m *store.Machine, q inspection.Question) AskedQuestion {
	voc := m.Facts.Vocabulary()
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
	out.Others = []SiblingValue{}
	if inspection.MayBeAbsent(slot.Kind) {
		out.None = string(machine.KeyOf(slot.Key, machine.ModelTrait))
	}
	return out
}

// Conflicts lists the traits on which equally good readings differ, over the fleet.
func (a *App) Conflicts(ctx context.Context, offset, limit int) (Conflicts, error) {
	fleet, err := a.store.Fleet(ctx)
	out := Conflicts{Rows: []OpenConflict{}}
	for i := range fleet {
		for _, f := range fleet[i].Facts.Conflicts() {
			out.Total++
			if out.Total <= offset || len(out.Rows) >= limit {
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
	return out, err
}
