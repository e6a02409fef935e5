package server

import (
	"bytes"
	"context"
	"encoding/json"
	"strings"

	"github.com/gin-gonic/gin"

	"wardifex/internal/app"
	"wardifex/internal/core/fleetquery"
	"wardifex/internal/core/jsonbounds"
	"wardifex/internal/core/machine"
	"wardifex/internal/store"
)

type askFleet struct {
	Text   string `query:"text" maxLength:"120" doc:"In a machine's name or in what is shown of it"`
	Offset int    `query:"offset" minimum:"0" maximum:"1000000"`
	Limit  int    `query:"limit" minimum:"1" maximum:"5000" default:"200" doc:"Machines at once"`
	Body   fleetquery.Question
}

func (s *Server) askFleet(ctx context.Context, _ user, in *askFleet) (*answer[fleetquery.Answer], error) {
	all, err := s.app.Ask(ctx, in.Body, s.now())
	return answerOf(all.Page(fleetquery.Page{Text: in.Text, Offset: in.Offset, Limit: in.Limit}), err)
}

type fleetValues struct {
	Of string `query:"of" required:"true" maxLength:"200" doc:"A column, as in a question"`
}

func (s *Server) fleetValues(ctx context.Context, _ user, in *fleetValues) (*answer[[]string], error) {
	return answerOf(s.app.Values(ctx, in.Of, s.now()))
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
	return s.app.Ask(g.Request.Context(), q, s.now())
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
	voc := s.Store.Vocabulary(ctx)
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
