package server

import (
	"bytes"
	"context"
	"encoding/json"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"wardifex/internal/app"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/fleetquery"
	"wardifex/internal/core/jsonbounds"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/store"
)

type askFleet struct {
	Body fleetquery.Question
}

func (s *Server) askFleet(ctx context.Context, _ user, in *askFleet) (*answer[fleetquery.Answer], error) {
	return answerOf(s.answer(ctx, in.Body))
}

// answer puts a question to the fleet as it is, or was.
func (s *Server) answer(ctx context.Context, q fleetquery.Question) (fleetquery.Answer, error) {
	now := s.now()
	from, at, err := q.Period(now)
	if err != nil {
		return fleetquery.Answer{}, app.Refused(err)
	}
	past := q.At != "" || !from.IsZero()
	fleet, err := s.Store.Fleet(ctx)
	if err != nil {
		return fleetquery.Answer{}, err
	}
	histories := map[int64]*machine.History{}
	if past {
		retired, err := s.Store.RetiredMachines(ctx)
		if err != nil {
			return fleetquery.Answer{}, err
		}
		fleet = append(fleet, retired...)
		if histories, err = s.Store.Histories(ctx); err != nil {
			return fleetquery.Answer{}, err
		}
	}
	if err := s.Store.Wear(ctx, fleet); err != nil {
		return fleetquery.Answer{}, err
	}
	voc := s.Store.Vocabulary()
	subjects := make([]fleetquery.Subject, 0, len(fleet))
	for i := range fleet {
		m := &fleet[i]
		if past && !fleetquery.InFleet(m.Since, m.RetiredAt, from, at) {
			continue // not yet, or no more, in the fleet
		}
		subject := fleetquery.Subject{ID: m.ID, Name: m.Name, Fields: s.fieldsOf(m, now), Facts: m.Facts}
		if q.About(fleetquery.BrokenColumn) {
			state, _ := fit.ConsistencyOf(m.Facts)
			subject.Fields[fleetquery.BrokenColumn] = string(state)
		}
		if past {
			h := histories[m.ID]
			if h == nil {
				none := machine.NewHistory(voc, nil)
				h = &none
			}
			subject.Facts = h.At(at)
			if !from.IsZero() {
				subject.History = h
			}
		}
		subjects = append(subjects, subject)
	}
	a, err := fleetquery.Ask(q, subjects, voc, now)
	if err != nil {
		return a, app.Refused(err)
	}
	return a, nil
}

// fieldsOf are a machine's columns that are no trait, as they are now.
func (s *Server) fieldsOf(m *store.Machine, now time.Time) map[string]string {
	c := fleetquery.Condition{
		Proven:    m.Protection(now).Proven,
		Use:       m.Use.Use,
		Faults:    m.OpenFaults,
		Conflicts: len(m.Facts.Conflicts()),
		Invalid:   calibration.CountInvalid(m.Facts, m.Records),
		Disagree:  len(calibration.Disagreements(m.Facts, m.Records, nil)),
		BuiltFor:  len(firmware.Mismatches(m.Facts, m.Configured)),
	}
	if m.OpenOrder != nil {
		c.Order = m.OpenOrder.ID
	}
	if list := maintenance.DueList(m.Subject(now), now); len(list) > 0 {
		c.Next = &list[0]
	}
	f := c.Fields()
	f[fleetquery.BayColumn], f[fleetquery.MakerColumn], f[fleetquery.SerialColumn],
		f[fleetquery.SupplierColumn] = m.Bay, m.Maker,
		m.Serial, m.Supplier
	return f
}

func (s *Server) questionOf(g *gin.Context) (fleetquery.Answer, error) {
	asked, err := onlyParameters(g, "q")
	if err != nil {
		return fleetquery.Answer{}, err
	}
	text := asked.Get("q")
	if err := jsonbounds.Check([]byte(text), bodyBounds); err != nil {
		return fleetquery.Answer{}, app.Refused(err)
	}
	var q fleetquery.Question
	d := json.NewDecoder(strings.NewReader(text))
	d.DisallowUnknownFields()
	if err := d.Decode(&q); err != nil || d.More() || len(asked["q"]) > 1 {
		return fleetquery.Answer{}, &app.Refusal{
			Sentence: "the question in the address cannot be read; ask it on the fleet's page and take the answer from there",
		}
	}
	return s.answer(g.Request.Context(), q)
}

func (s *Server) answerCSV(g *gin.Context) ([]byte, error) {
	a, err := s.questionOf(g)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	err = fleetquery.WriteCSV(&b, a)
	return b.Bytes(), err
}

func (s *Server) answerJSON(g *gin.Context) ([]byte, error) {
	a, err := s.questionOf(g)
	if err != nil {
		return nil, err
	}
	return json.MarshalIndent(a, "", " ")
}

// Askable is what a question can be about.
type Askable struct {
	Columns []AskableColumn       `json:"columns"`
	Tests   []fleetquery.TestKind `json:"tests"`
	Saved   []store.SavedQuestion `json:"saved"`
}

// AskableColumn is a column that a question can show or filter by.
type AskableColumn struct {
	Key     string       `json:"key"`
	Label   string       `json:"label"`
	Group   string       `json:"group" doc:"Where in the machine, or of the machine as a whole"`
	Kind    machine.Kind `json:"kind,omitempty"`
	Unit    string       `json:"unit,omitempty"`
	Choices []string     `json:"choices,omitempty"`
	Slot    string       `json:"slot,omitempty" doc:"Empty for a field"`
}

func (s *Server) askable(ctx context.Context, _ user, _ *none) (*answer[Askable], error) {
	out := Askable{Columns: []AskableColumn{}, Tests: fleetquery.Tests()}
	for _, c := range fleetquery.Fields() {
		out.Columns = append(out.Columns, AskableColumn{Key: c.Key, Label: c.Label, Group: "The machine as a whole"})
	}
	voc := s.Store.Vocabulary()
	of := map[string][]*machine.Trait{}
	for _, t := range voc.Traits {
		of[t.Slot] = append(of[t.Slot], t)
	}
	for _, slot := range voc.Slots {
		out.Columns = append(out.Columns, AskableColumn{Key: slot.Key, Label: slot.Label, Group: slot.Group, Slot: slot.Key})
		for _, t := range of[slot.Key] {
			if t.Name == machine.ModelTrait {
				continue
			}
			out.Columns = append(
				out.Columns,
				AskableColumn{
					Key:     string(t.Key()),
					Label:   t.Label,
					Group:   slot.Group,
					Kind:    t.Kind,
					Unit:    t.Unit,
					Choices: choicesOf(t),
					Slot:    slot.Key,
				},
			)
		}
	}
	var err error
	out.Saved, err = s.Store.Questions(ctx)
	return answerOf(out, err)
}

// choicesOf are the words to choose from for a trait, as they are called here.
func choicesOf(t *machine.Trait) []string {
	if t.Kind == machine.Choice {
		return t.Called()
	}
	return t.Words()
}

type saveQuestion struct {
	Body struct {
		ID       int64               `json:"id,omitempty"`
		Version  int                 `json:"version,omitempty"`
		Name     string              `json:"name"`
		Question fleetquery.Question `json:"question"`
	}
}

func (s *Server) saveQuestion(ctx context.Context, u user, in *saveQuestion) (*answer[Created], error) {
	id, err := s.app.SaveQuestion(
		ctx,
		store.SavedQuestion{ID: in.Body.ID, Version: in.Body.Version, Name: in.Body.Name, Question: in.Body.Question},
		u.Name,
		s.now(),
	)
	return answerOf(Created{id}, err)
}

func (s *Server) deleteQuestion(ctx context.Context, _ user, in *ByID) (*none, error) {
	return nil, s.app.DeleteQuestion(ctx, in.ID)
}
