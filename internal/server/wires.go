package server

import (
	"context"
	"time"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/wiring"
	"wardifex/internal/store"
)

// WireSheetView is a wire sheet with what is to be said of it.
type WireSheetView struct {
	store.WireSheet
	JudgedSheet
}

// JudgedSheet is the arithmetic of a sheet.
type JudgedSheet struct {
	Findings []wiring.Finding `json:"findings"`
	Motors   []JudgedMotor    `json:"motorsJudged"`
}

// JudgedMotor is a motor's re-pinning.
type JudgedMotor struct {
	Name   string           `json:"name"`
	Motor  []string         `json:"motor" doc:"Ends on the ways of the motor's connector"`
	Header []string         `json:"header" doc:"Ends on the ways of the board's header"`
	Repin  wiring.Repinning `json:"repin"`
	Fault  string           `json:"fault,omitempty" doc:"Why the orders cannot be read"`
}

func judgeSheet(s wiring.Loom) (JudgedSheet, error) {
	findings, err := wiring.Check(s)
	if err != nil {
		return JudgedSheet{}, &store.Refusal{Sentence: err.Error()}
	}
	out := JudgedSheet{Findings: findings, Motors: []JudgedMotor{}}
	for _, m := range s.Motors {
		j := JudgedMotor{Name: m.Name, Motor: []string{}, Header: []string{}, Repin: wiring.Repinning{Swaps: []wiring.Swap{}}}
		leads, err := wiring.ParseOrder(m.Leads)
		if err != nil {
			j.Fault = "motor: " + err.Error()
		}
		header, err := wiring.ParseOrder(m.Header)
		if err != nil && j.Fault == "" {
			j.Fault = "header: " + err.Error()
		}
		if j.Fault == "" {
			for i := range leads {
				j.Motor, j.Header = append(j.Motor, leads[i].String()), append(j.Header, header[i].String())
			}
			j.Repin = wiring.Repin(leads, header, m.Reverse)
		}
		out.Motors = append(out.Motors, j)
	}
	return out, nil
}

// Wiring is a machine's wire sheets, with what a new line may be copied from.
type Wiring struct {
	Machine string          `json:"machine"`
	Printed time.Time       `json:"printed"`
	Sheets  []WireSheetView `json:"sheets"`
	Ports   []machine.Port  `json:"ports" doc:"Ports that the fitted mainboard, toolhead board and tool plate offer"`
	Volts   float64         `json:"volts,omitempty" doc:"Of the supply, where known"`
}

func (s *Server) wiring(ctx context.Context, _ user, in *ByID) (*answer[Wiring], error) {
	m, err := s.Store.Machine(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	sheets, err := s.Store.WireSheets(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	out := Wiring{Machine: m.Name, Printed: s.Clock(), Sheets: []WireSheetView{}, Ports: []machine.Port{}, Volts: m.Facts.Fact("supply.volts").Value.Number}
	for _, w := range sheets {
		j, err := judgeSheet(w.Sheet)
		if err != nil {
			return nil, err
		}
		out.Sheets = append(out.Sheets, WireSheetView{w, j})
	}
	for _, slot := range []string{"mainboard", "toolhead-board", "tool-plate"} {
		out.Ports = append(out.Ports, s.Store.Vocabulary().PortsOf(slot, m.Facts.Model(slot))...)
	}
	return answerOf(out, nil)
}

type checkWires struct {
	Body wiring.Loom
}

func (s *Server) checkWires(_ context.Context, _ user, in *checkWires) (*answer[JudgedSheet], error) {
	return answerOf(judgeSheet(in.Body))
}

type saveWires struct {
	ByID
	Body struct {
		Head    string      `json:"head" maxLength:"60"`
		Version int         `json:"version"`
		Sheet   wiring.Loom `json:"sheet"`
	}
}

func (s *Server) saveWires(ctx context.Context, u user, in *saveWires) (*answer[Wiring], error) {
	if err := s.Store.SaveWireSheet(ctx, in.ID, in.Body.Head, in.Body.Version, in.Body.Sheet, u.Name, s.Clock()); err != nil {
		return nil, err
	}
	return s.wiring(ctx, u, &in.ByID)
}
