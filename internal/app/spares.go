package app

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"strings"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine"
	"wardifex/internal/store"
)

// SpareRow is a model of spare part: what there is, what is wanted, and what is lacking.
type SpareRow struct {
	Kind        string     `json:"kind" doc:"Kind of part; empty where none was ever on the shelf"`
	Model       string     `json:"model"`
	Shelf       int        `json:"shelf" doc:"Pieces on the shelf"`
	Lots        []SpareLot `json:"lots"`
	Reserved    int        `json:"reserved" doc:"Pieces that planned work takes"`
	ReservedFor []string   `json:"reservedFor"`
	OnOrder     int        `json:"onOrder"`
	Expected    string     `json:"expected,omitempty" doc:"First day on which some are expected, ISO 8601"`
	Lacking     int        `json:"lacking" doc:"Pieces that work lacks which could not be planned"`
	Least       int        `json:"least" doc:"Fewer than so many are too few; 0 where it was not said"`
	Short       int        `json:"short" doc:"To order: least + reserved + lacking − shelf − on order"`
}

// SpareLot is where pieces of a lot lie.
type SpareLot struct {
	Lot   string `json:"lot"`
	Shelf string `json:"shelf"`
	Count int    `json:"count"`
}

// Spares lists what is on the shelf, on order, planned for, or wanted; what is short first.
func (a *App) Spares(ctx context.Context) ([]SpareRow, error) {
	at := map[string]*SpareRow{}
	row := func(model string) *SpareRow {
		if at[model] == nil {
			at[model] = &SpareRow{Model: model, Lots: []SpareLot{}, ReservedFor: []string{}}
		}
		return at[model]
	}
	stock, err := a.store.Stock(ctx)
	if err != nil {
		return nil, err
	}
	for _, s := range stock {
		r := row(s.Model)
		r.Kind = s.Kind
		r.Shelf += s.N
		r.Lots = append(r.Lots, SpareLot{s.Lot, s.Shelf, s.N})
	}
	ordered, err := a.sparesOnOrder(ctx)
	if err != nil {
		return nil, err
	}
	for _, o := range ordered {
		r := row(o.model)
		r.Kind = cmp.Or(r.Kind, o.kind)
		r.OnOrder += o.count
		if o.expected != nil && (r.Expected == "" || o.expected.String() < r.Expected) { // both ISO 8601
			r.Expected = o.expected.String()
		}
	}
	levels, err := a.store.SpareLevels(ctx)
	if err != nil {
		return nil, err
	}
	for _, l := range levels {
		row(l.Model).Least = l.Least
	}
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return nil, err
	}
	names := map[int64]string{}
	for i := range fleet {
		names[fleet[i].ID] = fleet[i].Name
	}
	planned, err := a.store.PlannedWork(ctx)
	for _, w := range planned {
		for model, n := range w.Parts {
			r := row(model)
			r.Reserved += n
			r.ReservedFor = append(r.ReservedFor, names[w.MachineID]+": "+w.Title)
		}
	}
	if err != nil {
		return nil, err
	}
	blocked, err := a.blockedNow(ctx)
	if errors.Is(err, store.ErrNotFound) {
		err = nil // nothing was planned yet
	}
	for _, b := range blocked {
		if b.Model != "" {
			r := row(b.Model)
			r.Lacking++
			r.ReservedFor = append(r.ReservedFor, b.Machine+": "+b.Title+", not planned")
		}
	}
	out := []SpareRow{}
	for _, r := range at {
		r.Short = max(0, r.Least+r.Reserved+r.Lacking-r.Shelf-r.OnOrder)
		slices.Sort(r.ReservedFor)
		out = append(out, *r)
	}
	slices.SortFunc(out, func(x, y SpareRow) int {
		return cmp.Or(cmp.Compare(y.Short, x.Short), cmp.Compare(strings.ToLower(x.Model), strings.ToLower(y.Model)))
	})
	return out, err
}

// orderedSpare are pieces of a model that are waited for.
type orderedSpare struct {
	kind, model string
	count       int
	expected    *civil.Day // nil where nobody knows
}

func (a *App) sparesOnOrder(ctx context.Context) ([]orderedSpare, error) {
	orders, err := a.store.Purchases(ctx)
	var out []orderedSpare
	for _, o := range orders {
		if o.ClosedAt != nil {
			continue
		}
		var expected *civil.Day
		if day, err := civil.ParseDay(o.ExpectedOn, civil.Unsaid); o.ExpectedOn != "" && err == nil {
			expected = &day
		}
		for _, line := range o.Lines {
			for i, k := range line.Kept {
				if i < len(line.Progress) && line.Progress[i].ToCome > 0 && k.Model != "" {
					out = append(out, orderedSpare{k.Kind, k.Model, line.Progress[i].ToCome, expected})
				}
			}
		}
	}
	return out, err
}

// SetSpareLevel says how many pieces of a model the shelf should hold at least; 0 is that it does not matter.
func (a *App) SetSpareLevel(ctx context.Context, level store.SpareLevel) error {
	level.Model = strings.TrimSpace(level.Model)
	if err := machine.PlainText(level.Model); err != nil {
		return refuse("name the model: %s", err)
	}
	return a.store.InTx(ctx, func(ctx context.Context) error { return a.store.SaveSpareLevel(ctx, level) })
}
