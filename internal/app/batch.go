package app

import (
	"context"
	"errors"
	"slices"
	"time"

	"wardifex/internal/core/change"
	"wardifex/internal/store"
)

// OpenedBatch says which orders of a batch were opened, and on which machines none was.
type OpenedBatch struct {
	Batch   int64          `json:"batch,omitempty" doc:"Number of the first; 0 where none was opened"`
	Opened  int            `json:"opened"`
	Refused []BatchRefusal `json:"refused"`
}

// BatchRefusal is a machine on which no order was opened, and why.
type BatchRefusal struct {
	MachineID int64  `json:"machineId"`
	Why       string `json:"why"`
}

// OpenBatch opens a kit's work orders on machines, to be done together: one order a machine,
// each with steps of its own. Where a machine refuses, the others are opened all the same.
func (a *App) OpenBatch(ctx context.Context, machines []int64, kit, reason, by string, now time.Time) (
	OpenedBatch, error) {
	out := OpenedBatch{Refused: []BatchRefusal{}}
	j, err := a.Judge(ctx, kit)
	if err != nil {
		return out, err
	}
	err = a.store.InTx(ctx, func(ctx context.Context) error {
		out = OpenedBatch{Refused: []BatchRefusal{}} // a transaction can begin anew
		for _, id := range slices.Compact(slices.Sorted(slices.Values(machines))) {
			m, err := a.lockForNewOrder(ctx, id, reason)
			var order int64
			if err == nil {
				order, err = a.begin(ctx, m, j, nil, store.NewOrder{Reason: reason, By: by, At: now, Batch: out.Batch})
			}
			var no *Refusal
			switch {
			case errors.As(err, &no):
				out.Refused = append(out.Refused, BatchRefusal{MachineID: id, Why: no.Sentence})
				continue
			case err != nil:
				return err
			}
			out.Opened++
			if out.Batch == 0 {
				out.Batch = order
				if err := a.store.InBatch(ctx, order, order); err != nil {
					return err
				}
			}
		}
		return nil
	})
	return out, err
}

// Batch is orders that are done together: their steps as rows, their machines as columns.
type Batch struct {
	Kit    string            `json:"kit"`
	Orders []store.OrderHead `json:"orders"`
	Rows   []BatchStep       `json:"rows"`
}

// BatchStep is a step that orders of a batch have, in the order of the work.
type BatchStep struct {
	Key   string      `json:"key"`
	Phase string      `json:"phase"`
	Title string      `json:"title"`
	Do    string      `json:"do"`
	Form  change.Form `json:"form"`
	// Licensed steps are ticked in their order, where who did it is said.
	Licensed bool        `json:"licensed,omitempty"`
	Cells    []BatchCell `json:"cells" doc:"In the order of the orders"`
}

// BatchCell is how far a step has come on one machine.
type BatchCell struct {
	State   string `json:"state" enum:"none,open,next,done,skipped" doc:"none: this machine has no such step"`
	Version int    `json:"version,omitempty"`
	Note    string `json:"note,omitempty" doc:"What was noted, or why it was skipped"`
	By      string `json:"by,omitempty"`
}

// Batch loads the orders of a batch, side by side.
func (a *App) Batch(ctx context.Context, first int64) (Batch, error) {
	ids, err := a.store.BatchOf(ctx, first)
	out := Batch{Orders: []store.OrderHead{}, Rows: []BatchStep{}}
	if err != nil {
		return out, err
	}
	if len(ids) == 0 {
		return out, ErrNotFound
	}
	at := map[string]int{}
	for n, id := range ids {
		o, err := a.store.Order(ctx, id)
		if err != nil {
			return out, err
		}
		out.Kit = o.OrderHead.Kit
		out.Orders = append(out.Orders, o.OrderHead)
		after, next := -1, o.State == store.Opened && o.Parked == nil
		for _, s := range o.StepList {
			i, known := at[s.Key]
			if !known {
				i = after + 1
				row := BatchStep{Key: s.Key, Phase: s.Phase, Title: s.Title, Do: s.Do, Form: s.Form, Licensed: s.Licensed,
					Cells: make([]BatchCell, len(ids))}
				for c := range row.Cells {
					row.Cells[c].State = "none"
				}
				out.Rows = append(out.Rows[:i], append([]BatchStep{row}, out.Rows[i:]...)...)
				at = map[string]int{}
				for k, r := range out.Rows {
					at[r.Key] = k
				}
			}
			after = i
			cell := BatchCell{State: "open", Version: s.Version, Note: s.Note, By: s.DoneBy}
			switch {
			case s.SkippedWhy != "":
				cell.State, cell.Note = "skipped", s.SkippedWhy
			case s.DoneAt != nil:
				cell.State = "done"
			case next:
				cell.State, next = "next", false
			}
			out.Rows[i].Cells[n] = cell
		}
	}
	return out, nil
}
