package server

import (
	"context"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/fleetquery"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/store"
)

type asOf struct {
	ByID
	Day string `query:"day" doc:"ISO 8601"`
}

// PastSheet is what was in a machine as the record stood on a day.
type PastSheet struct {
	At    time.Time   `json:"at"`
	Slots []SlotSheet `json:"slots"`
}

// snapshotAt is a machine as of the end of a day.
func (s *Server) snapshotAt(
	ctx context.Context,
	id int64,
	day string,
) (machine.Snapshot, store.Machine, time.Time, error) {
	_, at, err := fleetquery.Question{At: day}.Period(s.now())
	if err != nil {
		return machine.Snapshot{}, store.Machine{}, at, app.Refused(err)
	}
	m, err := s.Store.Machine(ctx, id)
	if err != nil {
		return machine.Snapshot{}, m, at, err
	}
	if day == "" {
		return m.Facts, m, at, nil
	}
	hs, err := s.Store.Histories(ctx, id)
	if err != nil {
		return machine.Snapshot{}, m, at, err
	}
	if h := hs[id]; h != nil {
		return h.At(at), m, at, nil
	}
	return machine.NewSnapshot(s.Store.Vocabulary(ctx), machine.Record{}), m, at, nil
}

func (s *Server) asOf(ctx context.Context, _ user, in *asOf) (*answer[PastSheet], error) {
	facts, _, at, err := s.snapshotAt(ctx, in.ID, in.Day)
	if err != nil {
		return nil, err
	}
	return answerOf(PastSheet{At: at, Slots: s.slotSheets(facts, nil, nil)}, nil)
}

type compare struct {
	A    int64  `query:"a" doc:"Number of a machine"`
	B    int64  `query:"b" doc:"Number of a machine, the same for two days of one"`
	DayA string `query:"dayA" doc:"ISO 8601; now when empty"`
	DayB string `query:"dayB" doc:"ISO 8601; now when empty"`
	// What can cause it comes first.
	Symptom string `query:"symptom" maxLength:"60" doc:"Key of a symptom that only one of them shows"`
}

// Comparison is two machines, or two days of one, slot by slot.
type Comparison struct {
	A     Compared      `json:"a"`
	B     Compared      `json:"b"`
	Slots []ComparedRow `json:"slots"`
	Same  int           `json:"same" doc:"Traits known on both sides and alike"`
}

// Compared is one side.
type Compared struct {
	ID   int64     `json:"id"`
	Name string    `json:"name"`
	At   time.Time `json:"at"`
}

// ComparedRow is one trait of a slot on which the sides differ.
type ComparedRow struct {
	Slot   string       `json:"slot"`
	Group  string       `json:"group"`
	Key    machine.Key  `json:"key"`
	Short  string       `json:"short"`
	A      ComparedFact `json:"a"`
	B      ComparedFact `json:"b"`
	Why    string       `json:"why,omitempty" doc:"How it can cause the symptom that was named"`
	Differ bool         `json:"differ" doc:"The values differ; else only how sure they are, or one side is unknown"`
}

// ComparedFact is what one side says.
type ComparedFact struct {
	Value string        `json:"value"`
	Grade machine.Grade `json:"grade"`
	At    *time.Time    `json:"at,omitempty"`
	By    string        `json:"by,omitempty"`
}

func comparedFact(t *machine.Trait, f machine.Fact) ComparedFact {
	out := ComparedFact{Value: t.Show(f.Value), Grade: f.Grade}
	if len(f.Conflict) > 0 {
		out.Value = "in conflict"
	}
	if f.Stands != nil {
		at := f.Stands.TakenAt
		out.At, out.By = &at, f.Stands.By
	}
	return out
}

func (s *Server) compare(ctx context.Context, _ user, in *compare) (*answer[Comparison], error) {
	a, ma, atA, err := s.snapshotAt(ctx, in.A, in.DayA)
	if err != nil {
		return nil, err
	}
	b, mb, atB, err := s.snapshotAt(ctx, in.B, in.DayB)
	if err != nil {
		return nil, err
	}
	voc := a.Vocabulary()
	out := Comparison{
		A:     Compared{ma.ID, ma.Name, atA},
		B:     Compared{mb.ID, mb.Name, atB},
		Slots: []ComparedRow{},
		Same:  machine.Alike(a, b),
	}
	for _, d := range maintenance.Rank(voc, in.Symptom, machine.Diff(a, b)) {
		slot, _ := voc.Position(d.Trait.Slot)
		out.Slots = append(
			out.Slots,
			ComparedRow{
				Slot:   slot.Label,
				Group:  slot.Group,
				Key:    d.Trait.Key(),
				Short:  d.Trait.Short,
				A:      comparedFact(d.Trait, d.A),
				B:      comparedFact(d.Trait, d.B),
				Differ: d.Value,
				Why:    d.Why,
			},
		)
	}
	return answerOf(out, nil)
}

type timelineOf struct {
	ByID
	Rows
}

func (s *Server) timeline(ctx context.Context, _ user, in *timelineOf) (*answer[store.Listed[store.Event]], error) {
	list, err := s.Store.Timeline(ctx, in.ID, in.cut())
	events := list.Rows
	voc := s.Store.Vocabulary(ctx)
	for i := range events {
		if slot, ok := voc.Position(events[i].Slot); ok {
			events[i].Slot = slot.Label
		}
		switch e := &events[i]; e.Kind {
		case "calibration":
			if c, ok := calibration.Of(calibration.Kind(e.Title)); ok {
				e.Title = c.Title
			}
		case "maintenance":
			for _, t := range s.Store.Tasks(ctx) {
				if t.Key == e.Title {
					e.Title = t.Title
				}
			}
		}
	}
	return answerOf(list, err)
}

func (s *Server) cost(ctx context.Context, _ user, in *ByID) (*answer[machine.Cost], error) {
	return answerOf(s.Store.CostOf(ctx, in.ID))
}

type logWork struct {
	ByID
	Body struct {
		Minutes int    `json:"minutes" minimum:"1" maximum:"1440"`
		What    string `json:"what" maxLength:"120"`
	}
}

func (s *Server) logWork(ctx context.Context, u user, in *logWork) (*answer[machine.Cost], error) {
	if err := s.app.LogWork(ctx, in.ID, in.Body.Minutes, in.Body.What, u.Name, s.now()); err != nil {
		return nil, err
	}
	return answerOf(s.Store.CostOf(ctx, in.ID))
}
