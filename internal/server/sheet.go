package server

import (
	"context"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/inspection"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/store"
)

// Sheet is all that is on record of one machine.
type Sheet struct {
	ID      int64 `json:"id"`
	Version int   `json:"version"`
	store.Fields
	Since          time.Time                   `json:"since"`
	Retired        string                      `json:"retired,omitempty" doc:"Why it was retired"`
	Protection     calibration.ProtectionState `json:"protection"`
	OpenOrder      *store.OrderHead            `json:"openOrder,omitempty"`
	Planned        []store.OrderHead           `json:"planned" doc:"Work that waits its turn"`
	Slots          []SlotSheet                 `json:"slots"`
	Calibrations   []CalibrationSheet          `json:"calibrations"`
	Disagreements  []calibration.Disagreement  `json:"disagreements" doc:"Values of which two places say different things"`
	Missing        []string                    `json:"missing"`
	Due            []maintenance.Due           `json:"due"`
	Meters         []MeterSheet                `json:"meters"`
	History        []HistoryRow                `json:"history" doc:"Parts that were taken out, newest first"`
	Use            store.UseSince              `json:"use"`
	OpenFaults     int                         `json:"openFaults"`
	Contradictions []inspection.Contradiction  `json:"against" doc:"What cannot be true together"`
	// As far as that is known to be so or not.
	Needs  fit.Standing `json:"needs" doc:"What its parts need"`
	Cost   machine.Cost `json:"cost"`
	Family string       `json:"family,omitempty" doc:"Firmware family that stands"`
	// Rules take them for any.
	NotPlaced []string `json:"notPlaced" doc:"Positions of which nobody has said what they serve"`
}

// SlotSheet is one slot with its traits, the model first.
type SlotSheet struct {
	machine.Position
	Part   int64       `json:"part,omitempty" doc:"Number of the part that is in it; 0 when none is on record"`
	Runs   bool        `json:"runs" doc:"It holds no part: a board runs it"`
	Traits []FactSheet `json:"traits"`
}

// FactSheet is what is known of one trait and how.
type FactSheet struct {
	Key       machine.Key   `json:"key"`
	Label     string        `json:"label"`
	Short     string        `json:"short"`
	Kind      machine.Kind  `json:"kind" enum:"number,choice,yes/no,text"`
	Unit      string        `json:"unit,omitempty"`
	Choices   []string      `json:"choices"`
	Value     string        `json:"value" doc:"Shown with its unit; unknown when nothing stands"`
	Grade     machine.Grade `json:"grade"`
	Conflict  bool          `json:"conflict"`
	Hint      string        `json:"hint,omitempty" doc:"Why it proves nothing"`
	FromModel string        `json:"fromModel,omitempty" doc:"The model whose catalogue default it is"`
	Help      string        `json:"help,omitempty" enum:"processor marking,sensor,heater resistance,"`
	// Of which two places say different things.
	Disagreement *calibration.Disagreement `json:"disagreement,omitempty" doc:"A value that this one is part of"`
	Carried      string                    `json:"carried,omitempty" doc:"How what was observed changed since"`
	Readings     []ReadingSheet            `json:"readings" doc:"Newest first, those set aside too"`
	Ways         []WaySheet                `json:"ways"`
	Surest       string                    `json:"surest,omitempty" doc:"Key of the inspection that finds it most surely"`
	Grades       []string                  `json:"grades" doc:"That a reading of it may have, weakest first"`
}

// WaySheet is how a trait is found out.
type WaySheet struct {
	Inspection machine.Inspection `json:"inspection"`
	Grade      machine.Grade      `json:"grade"`
}

// ReadingSheet is one reading.
type ReadingSheet struct {
	ID         int64         `json:"id"`
	Value      string        `json:"value"`
	Grade      machine.Grade `json:"grade"`
	At         time.Time     `json:"at"`
	By         string        `json:"by"`
	How        string        `json:"how,omitempty"`
	Note       string        `json:"note,omitempty"`
	SetAside   string        `json:"setAside,omitempty"`
	Stands     bool          `json:"stands"`
	InConflict bool          `json:"inConflict"`
	Photos     []int64       `json:"photos"`
}

// CalibrationSheet is how one calibration of one subject stands.
type CalibrationSheet struct {
	calibration.Calibration
	Subject      calibration.Subject       `json:"subject" doc:"What it belongs to; empty is the machine as a whole"`
	Name         string                    `json:"name" doc:"Its title, with the subject where there are several"`
	Together     bool                      `json:"together" doc:"Those of all subjects are seen in one go"`
	DependsOn    []string                  `json:"dependsOn" doc:"Parts of this machine; valid while all are unchanged"`
	Step         change.Step               `json:"step" doc:"How it is recorded by itself"`
	State        calibration.StateWord     `json:"state" enum:"valid,invalid,cannot be told,failed,never recorded"`
	Value        string                    `json:"value,omitempty"`
	Store        string                    `json:"store,omitempty"`
	Method       string                    `json:"method,omitempty"`
	Proof        *calibration.Proof        `json:"proof,omitempty"`
	At           *time.Time                `json:"at,omitempty"`
	By           string                    `json:"by,omitempty"`
	Invalid      *calibration.Invalid      `json:"invalid,omitempty"`
	Again        *change.Data              `json:"again,omitempty" doc:"What to type to enter the valid value again"`
	Disagreement *calibration.Disagreement `json:"disagreement,omitempty" doc:"Where two places differ"`
}

// HistoryRow is a part that was taken out.
type HistoryRow struct {
	Slot      string    `json:"slot"`
	Part      int64     `json:"part"`
	Model     string    `json:"model"`
	From      time.Time `json:"from"`
	To        time.Time `json:"to"`
	WorkOrder *int64    `json:"workOrder,omitempty"`
}

func (s *Server) sheet(ctx context.Context, _ user, in *ByID) (*answer[Sheet], error) {
	return s.sheetOf(ctx, in.ID)
}

func (s *Server) sheetOf(ctx context.Context, id int64) (*answer[Sheet], error) {
	m, err := s.Store.Machine(ctx, id)
	if err != nil {
		return nil, err
	}
	one := []store.Machine{m}
	if err := s.Store.Wear(ctx, one); err != nil {
		return nil, err
	}
	m = one[0]
	now := s.now()
	out := Sheet{
		ID:         m.ID,
		Version:    m.Version,
		Fields:     m.Fields,
		Since:      m.Since,
		Retired:    m.RetiredWhy,
		Protection: m.Protection(now),
		OpenOrder:  m.OpenOrder,
		Planned:    m.Planned,
		Missing:    change.Missing(m.Facts, m.Records),
		Due:        maintenance.DueList(m.Subject(now), now),
		History:    []HistoryRow{},
	}
	if out.Missing == nil {
		out.Missing = []string{}
	}
	photos, err := s.Store.PhotosOfReadings(ctx, readingIDs(m.Readings))
	if err != nil {
		return nil, err
	}
	out.Slots = s.slotSheets(m.Facts, m.Readings, photos)
	fitted, err := s.Store.FittedParts(ctx, id)
	if err != nil {
		return nil, err
	}
	for i := range out.Slots {
		out.Slots[i].Part = fitted[out.Slots[i].Key]
	}
	out.Family, out.NotPlaced = m.Family(), []string{}
	for _, p := range m.Facts.Structure().NotPlaced() {
		out.NotPlaced = append(out.NotPlaced, p.Label)
	}
	out.Use, out.OpenFaults = m.Use, m.OpenFaults
	out.Contradictions = inspection.ContradictionsOf(m.Facts, m.Records, m.Configured)
	out.Needs = fit.Stand(m.Facts)
	if out.Cost, err = s.Store.CostOf(ctx, id); err != nil {
		return nil, err
	}
	since, err := s.Store.SinceOf(ctx, id)
	if err != nil {
		return nil, err
	}
	found, err := s.app.Found(ctx, &m)
	if err != nil {
		return nil, err
	}
	out.Disagreements = calibration.Disagreements(m.Facts, m.Records, since, found...)
	if out.Disagreements == nil {
		out.Disagreements = []calibration.Disagreement{}
	}
	out.Calibrations = calibrationSheets(m, out.Disagreements)
	for i := range out.Disagreements {
		for _, key := range out.Disagreements[i].Keys {
			out.mark(key, &out.Disagreements[i])
		}
	}
	out.Meters = meterSheets(m.Meters, now)
	history, err := s.Store.History(ctx, id)
	for _, h := range history {
		slot, _ := s.Store.Vocabulary(ctx).Position(h.Slot)
		out.History = append(
			out.History,
			HistoryRow{
				Slot:      slot.Label,
				Part:      h.PartID,
				Model:     h.Model,
				From:      h.FittedAt,
				To:        *h.RemovedAt,
				WorkOrder: h.WorkOrderID,
			},
		)
	}
	return answerOf(out, err)
}

// mark puts a disagreement beside a trait.
func (s *Sheet) mark(key machine.Key, d *calibration.Disagreement) {
	for i := range s.Slots {
		for j := range s.Slots[i].Traits {
			if t := &s.Slots[i].Traits[j]; t.Key == key {
				t.Disagreement = d
			}
		}
	}
}

// calibrationSheets is how each calibration of a machine stands; those that machines can
// do without are left out until one is recorded.
func calibrationSheets(m store.Machine, disagreements []calibration.Disagreement) []CalibrationSheet {
	out := []CalibrationSheet{}
	for _, st := range calibration.States(m.Facts, m.Records) {
		if st.Record == nil && st.Calibration.Optional {
			continue
		}
		c := CalibrationSheet{
			Calibration: st.Calibration,
			Subject:     st.Subject,
			Name:        st.Title(m.Facts),
			State:       st.Word,
			Invalid:     st.Invalid,
			Together:    st.Calibration.Together(),
			DependsOn:   []string{},
		}
		c.Step, _ = change.StepFor(m.Facts, st.Calibration.Kind, st.Subject)
		for _, n := range st.Calibration.DependsOn(m.Facts, st.Subject) {
			c.DependsOn = append(c.DependsOn, n.Says())
		}
		if r := st.Record; r != nil {
			c.Value, c.Store, c.Method, c.At, c.By = r.Value, r.Store, r.Method, &r.At, r.By
			if r.Proof != (calibration.Proof{}) {
				c.Proof = &r.Proof
			}
			if st.Invalid != nil && st.Invalid.Remedy == calibration.EnterAgain && c.Step.Form == change.CalibrationForm {
				again := c.Step.Again(*r)
				c.Again = &again
			}
		}
		for i := range disagreements {
			if disagreements[i].Kind == st.Calibration.Kind && disagreements[i].Subject == st.Subject {
				c.Disagreement = &disagreements[i]
			}
		}
		out = append(out, c)
	}
	return out
}

func readingIDs(rs []machine.Reading) []int64 {
	out := make([]int64, len(rs))
	for i, r := range rs {
		out[i] = r.ID
	}
	return out
}

// slotSheets writes a snapshot slot by slot, with all its readings where they
// are given.
func (s *Server) slotSheets(facts machine.Snapshot, all []machine.Reading, photos map[int64][]int64) []SlotSheet {
	readings := map[machine.Key][]machine.Reading{}
	for _, r := range all {
		readings[r.Key] = append(readings[r.Key], r)
	}
	var out []SlotSheet
	at := map[string]int{}
	voc := facts.Vocabulary()
	for _, p := range facts.Structure().Positions() {
		at[p.Key] = len(out)
		out = append(out, SlotSheet{Position: *p, Runs: voc.Software(p.Kind)})
	}
	for _, t := range voc.Traits {
		i, listed := at[t.Slot]
		if !listed {
			continue
		}
		f := facts.Fact(t.Key())
		if t.Superseded != "" && f.Grade == machine.Unknown {
			continue
		}
		rs := readings[t.Key()]
		if all == nil && f.Stands != nil {
			rs = []machine.Reading{*f.Stands}
		}
		fact := factSheet(voc, f, rs, photos)
		fact.Help = inspection.HelpFor(t, facts)
		out[i].Traits = append(out[i].Traits, fact)
	}
	return out
}

func factSheet(voc *machine.Vocabulary, f machine.Fact, readings []machine.Reading,
	photos map[int64][]int64) FactSheet {
	t := f.Trait
	out := FactSheet{
		Key:       t.Key(),
		Label:     t.Label,
		Short:     t.Short,
		Kind:      t.Kind,
		Unit:      t.Unit,
		Choices:   t.Called(),
		Value:     t.Show(f.Value),
		Grade:     f.Grade,
		Conflict:  len(f.Conflict) > 0,
		Hint:      t.Hint,
		FromModel: f.FromModel,
		Readings:  []ReadingSheet{},
		Ways:      []WaySheet{},
	}
	for _, g := range t.Grades() {
		out.Grades = append(out.Grades, g.String())
	}
	if way, ok := t.Surest(); ok {
		out.Surest = way.Inspection
	}
	if out.Choices == nil {
		out.Choices = []string{}
	}
	out.Carried = f.HowCarried()
	if out.Conflict {
		out.Value = "in conflict"
	}
	for i := len(readings) - 1; i >= 0; i-- {
		r := readings[i]
		pictures := photos[r.ID]
		if pictures == nil {
			pictures = []int64{}
		}
		out.Readings = append(
			out.Readings,
			ReadingSheet{ID: r.ID, Value: t.Show(r.Value), Grade: r.Grade, At: r.TakenAt, By: r.By, How: r.How, Note: r.Note,
				SetAside: r.Superseded, Stands: f.Stands != nil && f.Stands.ID == r.ID, InConflict: f.Disputes(r.ID),
				Photos: pictures},
		)
	}
	for _, w := range t.FindBy {
		if in, ok := voc.Inspection(w.Inspection); ok {
			out.Ways = append(out.Ways, WaySheet{in, w.Grade})
		}
	}
	return out
}

// Recorded is a machine's sheet after a reading, with the reading's number.
type Recorded struct {
	ID    int64 `json:"id"`
	Sheet Sheet `json:"sheet"`
}

type addReading struct {
	ByID
	Body struct {
		Key   machine.Key `json:"key"`
		Value string      `json:"value" maxLength:"500"`
		Grade string      `json:"grade" enum:"claimed,marked,observed,proven"`
		How   string      `json:"how,omitempty" maxLength:"300"`
		Note  string      `json:"note,omitempty" maxLength:"1000"`
		Day   string      `json:"day,omitempty" doc:"ISO 8601; today when empty"`
		// Differs says what a value that differs from the one that stands means.
		// Wrong: the record was wrong; empty: not known.
		Differs machine.Differs `json:"differs,omitempty" enum:"changed,wrong," doc:"changed: the machine is otherwise since"`
	}
}

func (s *Server) addReading(ctx context.Context, u user, in *addReading) (*answer[Recorded], error) {
	grade, err := machine.ParseGrade(in.Body.Grade)
	if err != nil {
		return nil, app.Refused(err)
	}
	at, err := s.moment(in.Body.Day)
	if err != nil {
		return nil, err
	}
	r := machine.Reading{Grade: grade, TakenAt: at, By: u.Name, How: in.Body.How, Note: in.Body.Note}
	id, err := s.app.AddDiffering(ctx, in.ID, in.Body.Key, in.Body.Value, r, in.Body.Differs, s.now())
	if err != nil {
		return nil, err
	}
	sheet, err := s.sheetOf(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	return answerOf(Recorded{id, sheet.Body}, nil)
}

type takeBack struct {
	ByID
	Body struct {
		Why string `json:"why"`
	}
}

func (s *Server) takeBack(ctx context.Context, u user, in *takeBack) (*none, error) {
	return nil, s.app.Retract(ctx, in.ID, in.Body.Why, u.Name, s.now())
}

type settle struct {
	ByID
	Body struct {
		Key    machine.Key `json:"key"`
		Chosen int64       `json:"chosen" doc:"Number of the reading that stands"`
		Why    string      `json:"why"`
	}
}

func (s *Server) settle(ctx context.Context, u user, in *settle) (*answer[Sheet], error) {
	if err := s.app.Settle(ctx, in.ID, in.Body.Key, in.Body.Chosen, in.Body.Why, u.Name, s.now()); err != nil {
		return nil, err
	}
	return s.sheetOf(ctx, in.ID)
}

type exchange struct {
	ByID
	Body struct {
		Slot  string `json:"slot"`
		Model string `json:"model" doc:"none for an emptied position"`
		How   string `json:"how,omitempty"`
	}
}

func (s *Server) exchange(ctx context.Context, u user, in *exchange) (*answer[Sheet], error) {
	if err := s.app.ReplacePart(ctx, in.ID, in.Body.Slot, in.Body.Model, in.Body.How, u.Name, s.now()); err != nil {
		return nil, err
	}
	return s.sheetOf(ctx, in.ID)
}

type calibrate struct {
	ByID
	Body struct {
		Kind calibration.Kind `json:"kind"`
		// May be left out where the machine has one only.
		Subject calibration.Subject `json:"subject,omitempty" doc:"Head 2, axis x, bed …"`
		Data    change.Data         `json:"data"`
	}
}

func (s *Server) calibrate(ctx context.Context, u user, in *calibrate) (*answer[Sheet], error) {
	x, err := calibration.ParseSubject(string(in.Body.Subject))
	if err != nil {
		return nil, app.Refused(err)
	}
	if err := s.app.Calibrate(ctx, in.ID, in.Body.Kind, x, in.Body.Data, u.Name, s.now()); err != nil {
		return nil, err
	}
	return s.sheetOf(ctx, in.ID)
}

type markDone struct {
	ByID
	Body struct {
		Task string `json:"task"`
		Note string `json:"note,omitempty" maxLength:"1000"`
		Day  string `json:"day,omitempty"`
		// Renewed says whether new parts went in; as the task is for when absent.
		Renewed *bool    `json:"renewed,omitempty"`
		Slots   []string `json:"slots,omitempty" doc:"Where they went in; everywhere when empty"`
		New     bool     `json:"new,omitempty"   doc:"Other parts are there now than before: the old ones are scrapped"`
		// Spares are those of the shelf that went in, by position.
		Spares map[string]int64 `json:"spares,omitempty" doc:"Numbers of parts of the shelf, by position"`
		Also   []int64          `json:"also,omitempty"   doc:"Other machines on which the same was done" maxItems:"500"`
	}
}

func (s *Server) markDone(ctx context.Context, u user, in *markDone) (*answer[Sheet], error) {
	at, err := s.moment(in.Body.Day)
	if err != nil {
		return nil, err
	}
	b := in.Body
	done := maintenance.Completion{Task: b.Task, At: at, Renewed: b.Renewed, Slots: b.Slots, New: b.New, Spares: b.Spares}
	machines := append([]int64{in.ID}, b.Also...)
	if err := s.app.MarkDone(ctx, machines, done, b.Note, u.Name, s.now()); err != nil {
		return nil, err
	}
	return s.sheetOf(ctx, in.ID)
}

type undoDone struct {
	ByID
	Body struct {
		Task string `json:"task"`
	}
}

func (s *Server) undoDone(ctx context.Context, _ user, in *undoDone) (*none, error) {
	return nil, s.app.UndoDone(ctx, in.ID, in.Body.Task)
}
