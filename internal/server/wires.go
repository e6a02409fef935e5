package server

import (
	"context"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/wiring"
	"wardifex/internal/store"
)

// WireSheetView is a wire sheet with what is to be said of it.
type WireSheetView struct {
	store.WireSheet
	wiring.JudgedLoom
}

func judgeSheet(l wiring.Loom) (wiring.JudgedLoom, error) {
	j, err := wiring.Judge(l)
	if err != nil {
		return j, app.Refused(err)
	}
	return j, nil
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
	out := Wiring{
		Machine: m.Name,
		Printed: s.now(),
		Sheets:  []WireSheetView{},
		Ports:   []machine.Port{},
		Volts:   m.Facts.Of(m.Facts.First(parts.Supply), parts.SupplyVolts).Value.Number,
	}
	for _, w := range sheets {
		j, err := judgeSheet(w.Sheet)
		if err != nil {
			return nil, err
		}
		out.Sheets = append(out.Sheets, WireSheetView{w, j})
	}
	for _, kind := range []string{parts.Mainboard, parts.ToolheadBoard, parts.ToolPlate} {
		for _, p := range m.Facts.Each(kind) {
			out.Ports = append(out.Ports, s.Store.Vocabulary(ctx).PortsOf(p.Kind, m.Facts.ModelAt(p))...)
		}
	}
	return answerOf(out, nil)
}

type checkWires struct {
	Body wiring.Loom
}

func (s *Server) checkWires(_ context.Context, _ user, in *checkWires) (*answer[wiring.JudgedLoom], error) {
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
	if err := s.app.SaveWireSheet(ctx, in.ID, in.Body.Head, in.Body.Version, in.Body.Sheet, u.Name,
		s.now()); err != nil {
		return nil, err
	}
	return s.wiring(ctx, u, &in.ByID)
}
