package server

import (
	"context"
	"slices"

	"wardifex/internal/app"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/settings"
	"wardifex/internal/store"
)

// BuildList is every firmware build on record.
type BuildList struct {
	Builds    []store.BuildOnRecord `json:"builds"`
	Anonymous []store.RunOnRecord   `json:"anonymous" doc:"What boards run of which nobody has said which build it is"`
	Features  []string              `json:"features" doc:"Names of features that the catalogue knows"`
	Remarks   map[int64][]string    `json:"remarks" doc:"By number: what does not go together, or is not as advertised"`
}

func (s *Server) builds(ctx context.Context, _ user, _ *none) (*answer[BuildList], error) {
	out := BuildList{Anonymous: []store.RunOnRecord{}, Features: []string{}, Remarks: map[int64][]string{}}
	var err error
	if out.Builds, err = s.Store.Builds(ctx); err != nil {
		return nil, err
	}
	all := store.PlainBuilds(out.Builds)
	for _, b := range out.Builds {
		if remarks := slices.Concat(b.Pairs(), b.Behind(all), b.Differs()); len(remarks) > 0 {
			out.Remarks[b.ID] = remarks
		}
	}
	runs, err := s.Store.Runs(ctx, 0, 0)
	for _, r := range runs {
		if r.BuildID == 0 && r.To == nil {
			out.Anonymous = append(out.Anonymous, r)
		}
	}
	for _, f := range s.Store.Vocabulary(ctx).Features(parts.Firmware) {
		out.Features = append(out.Features, f.Name)
	}
	return answerOf(out, err)
}

type addBuild struct {
	Body firmware.Build
}

// Made is the number of what was made.
type Made struct {
	ID int64 `json:"id"`
}

func (s *Server) addBuild(ctx context.Context, u user, in *addBuild) (*answer[Made], error) {
	id, err := s.app.AddBuild(ctx, in.Body, u.Name, s.now())
	return answerOf(Made{id}, err)
}

// BuildSheet is a build with where it runs and ran.
type BuildSheet struct {
	store.BuildOnRecord
	Runs       []store.RunOnRecord `json:"runs" doc:"Newest first"`
	Known      []string            `json:"catalogueFeatures" doc:"Names of features that the catalogue knows"`
	Stated     []StatedTrait       `json:"stated" doc:"What a build can be configured for"`
	Mismatches []MachineMismatch   `json:"against" doc:"Where it runs though configured for other parts"`
	Pairs      []string            `json:"pairs" doc:"Versions of it that do not go together"`
	Behind     []string            `json:"behind" doc:"Parts of its host that may have been left out of an update"`
	Cautions   []settings.Caution  `json:"cautions" doc:"What its configuration takes away of protection"`
	Differs    []string            `json:"differs" doc:"What was found otherwise than advertised"`
	Files      []store.BuildFile   `json:"files" doc:"The built file"`
	// Their secrets are masked.
	Configurations []store.SettingsFile `json:"configurations" doc:"The files that it was configured by"`
}

// StatedTrait is something that a build states of its machine.
type StatedTrait struct {
	Key     machine.Key `json:"key"`
	Label   string      `json:"label"`
	Choices []string    `json:"choices"`
}

// MachineMismatch is something that is fitted otherwise than the build is configured for.
type MachineMismatch struct {
	MachineID int64             `json:"machineId"`
	Machine   string            `json:"machine"`
	Mismatch  firmware.Mismatch `json:"mismatch"`
}

func (s *Server) build(ctx context.Context, _ user, in *ByID) (*answer[BuildSheet], error) {
	found, err := s.Store.Build(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	out := BuildSheet{BuildOnRecord: found, Known: []string{}, Stated: []StatedTrait{}, Mismatches: []MachineMismatch{},
		Differs: append([]string{}, found.Differs()...)}
	remarks, err := s.app.BuildRemarks(ctx, found)
	if err != nil {
		return nil, err
	}
	out.Pairs, out.Behind, out.Cautions = remarks.Pairs, remarks.Behind, remarks.Cautions
	if out.Files, err = s.Store.BuildFiles(ctx, in.ID); err != nil {
		return nil, err
	}
	if out.Configurations, err = s.Store.SettingsOfBuild(ctx, in.ID); err != nil {
		return nil, err
	}
	if out.Runs, err = s.Store.Runs(ctx, 0, in.ID); err != nil {
		return nil, err
	}
	voc := s.Store.Vocabulary(ctx)
	for _, f := range voc.Features(parts.Firmware) {
		out.Known = append(out.Known, f.Name)
	}
	for _, t := range voc.Traits {
		if p := t.Position(); p != nil && !p.Sometimes && p.Superseded == "" && firmware.Stated(t) {
			choices := t.Called()
			if choices == nil {
				choices = []string{}
			}
			out.Stated = append(out.Stated, StatedTrait{t.Key(), t.Label, choices})
		}
	}
	for _, r := range out.Runs {
		if r.To != nil {
			continue
		}
		m, err := s.Store.Machine(ctx, r.MachineID)
		if err != nil {
			return nil, err
		}
		for _, x := range firmware.Mismatches(m.Facts, m.Configured) {
			out.Mismatches = append(out.Mismatches, MachineMismatch{m.ID, m.Name, x})
		}
	}
	return answerOf(out, nil)
}

type saveBuild struct {
	ByID
	Body struct {
		Version int            `json:"version" doc:"The version that the editor saw"`
		Build   firmware.Build `json:"build"`
	}
}

func (s *Server) saveBuild(ctx context.Context, u user, in *saveBuild) (*answer[BuildSheet], error) {
	if err := s.app.SaveBuild(ctx, in.ID, in.Body.Version, in.Body.Build, u.Name, s.now()); err != nil {
		return nil, err
	}
	return s.build(ctx, u, &in.ByID)
}

func (s *Server) deleteBuild(ctx context.Context, _ user, in *ByID) (*none, error) {
	return nil, s.app.DeleteBuild(ctx, in.ID)
}

// MachineRuns is what the boards of a machine run and ran.
type MachineRuns struct {
	Machine string              `json:"machine"`
	Boards  []BoardOnMachine    `json:"boards"`
	Heads   []int               `json:"heads" doc:"Heads that can carry a build of their own"`
	Runs    []store.RunOnRecord `json:"runs" doc:"Newest first"`
	Asks    []firmware.Ask      `json:"asks" doc:"What its parts ask of the build"`
	// As far as it is known, by key of a trait.
	Configured map[string]string   `json:"configured" doc:"For what the builds that run are configured"`
	Mismatches []firmware.Mismatch `json:"against" doc:"What they are configured for and that is fitted otherwise"`
}

// BoardOnMachine is a board that can run a build.
type BoardOnMachine struct {
	Slot  string `json:"slot"`
	Label string `json:"label"`
	Model string `json:"model"`
}

func (s *Server) runs(ctx context.Context, _ user, in *ByID) (*answer[MachineRuns], error) {
	m, err := s.Store.Machine(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	out := MachineRuns{
		Machine:    m.Name,
		Boards:     []BoardOnMachine{},
		Heads:      append([]int{}, m.Facts.Structure().Heads()...),
		Asks:       firmware.Asks(m.Facts),
		Configured: map[string]string{},
		Mismatches: firmware.Mismatches(m.Facts, m.Configured),
	}
	for _, kind := range []string{parts.Mainboard, parts.ToolheadBoard} {
		for _, p := range m.Facts.Each(kind) {
			if model := m.Facts.ModelAt(p); model != machine.None {
				out.Boards = append(out.Boards, BoardOnMachine{p.Key, p.Label, model})
			}
		}
	}
	for key, value := range m.Configured {
		out.Configured[string(key)] = value
		if t, ok := m.Facts.Vocabulary().Trait(key); ok {
			if v, err := t.ParseRecorded(value); err == nil {
				out.Configured[string(key)] = t.Show(v)
			}
		}
	}
	out.Runs, err = s.Store.Runs(ctx, in.ID, 0)
	return answerOf(out, err)
}

type startRun struct {
	ByID
	Body struct {
		Board string `json:"board" doc:"Key of the position of the board"`
		// Where heads carry builds of their own.
		Head    int    `json:"head,omitempty" minimum:"0" maximum:"50" doc:"The head that carries it"`
		Build   int64  `json:"build,omitempty" doc:"0 where nobody knows which it is"`
		From    string `json:"from,omitempty" doc:"ISO 8601; today when empty"`
		Grade   string `json:"grade" enum:"claimed,marked,observed,proven" doc:"How surely it is that build"`
		How     string `json:"how" maxLength:"300"`
		MadeFor bool   `json:"madeFor" doc:"It was made for the machine as it is"`
	}
}

func (s *Server) startRun(ctx context.Context, u user, in *startRun) (*answer[MachineRuns], error) {
	grade, err := machine.ParseGrade(in.Body.Grade)
	if err != nil {
		return nil, app.Refused(err)
	}
	from, err := s.moment(in.Body.From)
	if err != nil {
		return nil, err
	}
	if err := machine.PlainText(in.Body.How); err != nil {
		return nil, &app.Refusal{Sentence: "how it is known what runs: " + err.Error()}
	}
	r := app.NewRun{
		Board:   in.Body.Board,
		Head:    in.Body.Head,
		BuildID: in.Body.Build,
		From:    from,
		Grade:   grade,
		How:     in.Body.How,
		MadeFor: in.Body.MadeFor,
	}
	if err := s.app.StartRun(ctx, in.ID, r, u.Name, s.now()); err != nil {
		return nil, err
	}
	return s.runs(ctx, u, &in.ByID)
}

type correctRun struct {
	ByID
	Run  int64 `path:"run"`
	Body struct {
		Build int64  `json:"build,omitempty" doc:"0 where nobody knows which it is"`
		Grade string `json:"grade" enum:"claimed,marked,observed,proven"`
		From  string `json:"from" doc:"ISO 8601"`
		To    string `json:"to,omitempty" doc:"ISO 8601; empty while it runs"`
	}
}

func (s *Server) correctRun(ctx context.Context, u user, in *correctRun) (*answer[MachineRuns], error) {
	grade, err := machine.ParseGrade(in.Body.Grade)
	if err != nil {
		return nil, app.Refused(err)
	}
	c := app.CorrectedRun{BuildID: in.Body.Build, Grade: grade}
	if c.From, err = s.moment(in.Body.From); err != nil {
		return nil, err
	}
	if in.Body.To != "" {
		to, err := s.moment(in.Body.To)
		if err != nil {
			return nil, err
		}
		c.To = &to
	}
	if err := s.app.CorrectRun(ctx, in.ID, in.Run, c, u.Name, s.now()); err != nil {
		return nil, err
	}
	return s.runs(ctx, u, &in.ByID)
}
