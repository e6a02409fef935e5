package server

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"wardifex/internal/app"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/plan"
	"wardifex/internal/store"
)

type listKits struct {
	Hidden bool `query:"hidden" doc:"Those that the shop has hidden, instead of the others"`
}

func (s *Server) kits(ctx context.Context, _ user, in *listKits) (*answer[[]fit.Kit], error) {
	return answerOf(s.Store.ListedKits(ctx, in.Hidden))
}

type hideKit struct {
	ByKit
	Body struct {
		Hidden bool `json:"hidden"`
	}
}

func (s *Server) hideKit(ctx context.Context, _ user, in *hideKit) (*noContent, error) {
	return emptyAnswer(s.app.HideKit(ctx, in.Key, in.Body.Hidden))
}

// ByKit is the path of a kit.
type ByKit struct {
	Key string `path:"key"`
}

// AnswerWanted narrows verdicts.
type AnswerWanted struct {
	Answer string `query:"answer" enum:"fits,fits if,look first,does not fit," doc:"Which verdicts; all when empty"`
	Lean   string `query:"lean" enum:"fits,fits if,does not fit,no lean," doc:"Which way the claims lean"`
	Bay    string `query:"bay" maxLength:"60" doc:"Machines of one bay"`
	Text   string `query:"text" maxLength:"120" doc:"In the machine's name, bay or maker"`
	Offset int    `query:"offset" minimum:"0" maximum:"1000000"`
	Limit  int    `query:"limit" minimum:"1" maximum:"5000" default:"100" doc:"Machines at once"`
}

func (a AnswerWanted) wanted() fit.Wanted {
	return fit.Wanted{Answer: fit.Answer(a.Answer), Lean: fit.Answer(a.Lean)}
}

type verdictsAsked struct {
	ByKit
	AnswerWanted
}

func (s *Server) verdicts(ctx context.Context, _ user, in *verdictsAsked) (*answer[app.Verdicts], error) {
	q := app.VerdictsQuery{Wanted: in.wanted(), Bay: in.Bay, Text: in.Text, Offset: in.Offset, Limit: in.Limit}
	return answerOf(s.app.Verdicts(ctx, in.Key, q))
}

type kitOnMachine struct {
	ByKit
	ByID
}

// VerdictSheet is a kit judged on one machine.
type VerdictSheet struct {
	Kit         fit.Kit                     `json:"kit"`
	MachineID   int64                       `json:"machineId"`
	Machine     string                      `json:"machine"`
	Bay         string                      `json:"bay"`
	OpenOrder   *store.OrderHead            `json:"openOrder,omitempty"`
	Protection  calibration.ProtectionState `json:"protection"`
	Claim       string                      `json:"claim,omitempty" doc:"What its seller's list says of this machine"`
	Verdict     fit.Verdict                 `json:"verdict"`
	PartChanges []change.PartChange         `json:"exchanges" doc:"What the work would change"`
	Invalid     []calibration.Invalid       `json:"invalid" doc:"What would no longer be valid"`
	Needed      []string                    `json:"needed" doc:"Calibrations and proofs the work would ask for, in order"`
	Price       float64                     `json:"price" doc:"Of the kit and the additional changes"`
	Minutes     int                         `json:"minutes" doc:"Of the kit and the additional changes"`
	Open        []FactSheet                 `json:"open" doc:"The traits whose reading would settle it"`
	Reasons     []string                    `json:"reasons" doc:"Reasons for which a machine may be touched"`
}

func (s *Server) verdict(ctx context.Context, _ user, in *kitOnMachine) (*answer[VerdictSheet], error) {
	j, m, err := s.app.KitOnMachine(ctx, in.Key, in.ID)
	if err != nil {
		return nil, err
	}
	v := j.Verdict(m.Facts)
	j = j.On(m.Facts)
	c, err := change.NewChange(j.Kit, v.Additional, m.Facts)
	if err != nil {
		return nil, err
	}
	out := VerdictSheet{
		Kit:         j.Kit,
		MachineID:   m.ID,
		Machine:     m.Name,
		Bay:         m.Bay,
		OpenOrder:   m.OpenOrder,
		Protection:  m.Protection(s.now()),
		Claim:       j.Kit.Claim(m.Maker),
		Verdict:     v,
		PartChanges: c.PartChanges,
		Invalid:     c.Invalidated(m.Records),
		Needed:      []string{},
		Open:        []FactSheet{},
		Reasons:     change.Reasons(),
	}
	out.Price, out.Minutes = c.Cost()
	out.Needed = calibration.Titles(c.After, c.Needed(m.Records))
	readings := map[machine.Key][]machine.Reading{}
	for _, r := range m.Readings {
		readings[r.Key] = append(readings[r.Key], r)
	}
	for _, l := range v.Look {
		for _, k := range l.Keys {
			out.Open = append(out.Open, factSheet(m.Facts.Vocabulary(), m.Facts.Fact(k), readings[k], nil))
		}
	}
	return answerOf(out, nil)
}

// MachineKits is every kit judged on one machine.
type MachineKits struct {
	Rows    []MachineKit  `json:"rows"`
	Unlocks []plan.Unlock `json:"unlocks" doc:"What an update of the build would make possible"`
	Broken  []string      `json:"broken" doc:"Kits that cannot be judged, and why"`
}

// MachineKit is a kit with its verdict in a line.
type MachineKit struct {
	Key      string     `json:"key"`
	Name     string     `json:"name"`
	What     string     `json:"what"`
	Answer   fit.Answer `json:"answer" enum:"fits,fits if,look first,does not fit"`
	Lean     fit.Answer `json:"lean,omitempty" enum:"fits,fits if,does not fit,no lean,"`
	Headline string     `json:"headline"`
}

func (s *Server) machineKits(ctx context.Context, _ user, in *ByID) (*answer[MachineKits], error) {
	m, err := s.Store.Machine(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	judges, broken, err := s.app.Judges(ctx)
	if err != nil {
		return nil, err
	}
	out := MachineKits{Rows: []MachineKit{}, Broken: broken, Unlocks: plan.Unlocks(judges, m.Facts)}
	for _, j := range judges {
		v := j.Verdict(m.Facts)
		out.Rows = append(out.Rows, MachineKit{j.Kit.Key, j.Kit.Name, j.Kit.What, v.Answer, v.Lean, v.Headline})
	}
	slices.SortStableFunc(out.Rows, func(a, b MachineKit) int {
		return cmp.Or(fit.CompareAnswers(a.Answer, a.Lean, b.Answer, b.Lean), strings.Compare(a.Name, b.Name))
	})
	return answerOf(out, nil)
}
