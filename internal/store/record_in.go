package store

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/recordfile"
	"wardifex/internal/picture"
)

// LockRecord lets nobody else write machines, parts, what is fitted, what was read or
// questions until the transaction ends.
func (s *Store) LockRecord(ctx context.Context) error {
	return s.from(ctx).Exec("lock table machines, parts, fittings, readings, questions in share row exclusive mode").Error
}

// OnRecord is what a record file may not bring a second time, and what is on record beside
// it.
func (s *Store) OnRecord(ctx context.Context, builds []recordfile.Build) (recordfile.OnRecord, error) {
	tx := s.from(ctx)
	on := recordfile.OnRecord{Builds: map[string]firmware.Build{}}
	if err := tx.Model(&machineRow{}).Pluck("name", &on.Machines).Error; err != nil {
		return on, err
	}
	if err := tx.Model(&partRow{}).Where("tag <> ''").Pluck("tag", &on.Tags).Error; err != nil {
		return on, err
	}
	for _, b := range builds {
		var known buildRow
		if err := tx.Where("lower(name) = lower(?)", b.Name).Limit(1).Find(&known).Error; err != nil {
			return on, err
		}
		if known.ID == 0 {
			continue
		}
		is, err := known.build()
		if err != nil {
			return on, err
		}
		on.Builds[strings.ToLower(b.Name)] = is
	}
	var err error
	on.Positions, err = everyPosition(tx)
	return on, err
}

// BadPicture is a picture in a record file that is none.
type BadPicture struct {
	At      time.Time
	Because error
}

func (b *BadPicture) Error() string {
	return fmt.Sprintf("a picture of %s: %s", b.At.Format(civil.Moment), b.Because)
}

func (b *BadPicture) Unwrap() error { return b.Because }

// WriteRecord writes a record file beside what is on record.
func (s *Store) WriteRecord(ctx context.Context, f recordfile.File) error {
	in := importer{s: s, ctx: ctx, tx: s.from(ctx), parts: map[int]int64{}, software: map[int]recordfile.Part{},
		builds: map[string]int64{}}
	if err := in.all(f); err != nil {
		return err
	}
	if err := s.learnPositions(in.tx, f.PositionsBesides()...); err != nil {
		return err
	}
	if parts := slices.Collect(maps.Values(in.parts)); len(parts) > 0 {
		if err := s.nameParts(in.tx, parts...); err != nil {
			return err
		}
	}
	return s.nameRuns(in.tx)
}

// importer writes a record file into the database.
type importer struct {
	s     *Store
	ctx   context.Context
	tx    *gorm.DB
	parts map[int]int64
	// software are the builds that files of earlier versions have as parts.
	software map[int]recordfile.Part
	builds   map[string]int64 // by name, in small letters
}

func (in *importer) all(f recordfile.File) error {
	for _, b := range f.Builds {
		if err := in.build(b); err != nil {
			return fmt.Errorf("build %s: %w", b.Name, err)
		}
	}
	for _, p := range f.Parts {
		if in.s.vocabularyOf(in.tx).Software(p.Kind) {
			in.software[p.No] = p
			continue
		}
		if err := in.part(p); err != nil {
			return fmt.Errorf("part %d: %w", p.No, err)
		}
	}
	for _, m := range f.Machines {
		if err := in.machine(m); err != nil {
			return fmt.Errorf("machine %s: %w", m.Name, err)
		}
	}
	for _, q := range f.Questions {
		text, err := json.Marshal(q.Question)
		if err != nil {
			return err
		}
		if err := in.tx.Exec("insert into questions (name, definition, version, changed_by, changed_at) values (?, ?, "+
			"?, ?, ?) on conflict do nothing", q.Name, string(
			text), q.Changed.Version, q.Changed.By, q.Changed.At).Error; err != nil {
			return err
		}
	}
	return in.tasks(f.Tasks)
}

// tasks writes the tasks of a shop; those that this one keeps as its own stay.
func (in *importer) tasks(list []maintenance.Task) error {
	own, err := ownTasks(in.tx)
	if err != nil {
		return err
	}
	for _, t := range list {
		if slices.ContainsFunc(own, func(is OwnTask) bool { return is.Key == t.Key }) {
			continue
		}
		if err := in.s.SaveTask(in.ctx, t, 0); err != nil {
			return err
		}
	}
	return nil
}

func (in *importer) part(p recordfile.Part) error {
	row := partRow{
		Kind:        p.Kind,
		Tag:         p.Tag,
		Serial:      p.Serial,
		Supplier:    p.Supplier,
		Price:       p.Price,
		Note:        p.Note,
		Shelf:       p.Shelf,
		Lot:         p.Lot,
		ScrappedAt:  p.ScrappedAt,
		ScrappedWhy: p.ScrappedWhy,
		Version:     p.Changed.Version,
		ChangedBy:   p.Changed.By,
		ChangedAt:   p.Changed.At,
	}
	var err error
	if row.BoughtOn, err = dateOf(p.BoughtOn); err != nil {
		return err
	}
	if err := in.tx.Create(&row).Error; err != nil {
		return err
	}
	in.parts[p.No] = row.ID
	return in.found(Held{Part: row.ID}, p.Readings, p.Unreadable)
}

// found writes what was read of something, and what could not be.
func (in *importer) found(of Held, readings []recordfile.Reading, unreadable []recordfile.Unreadable) error {
	for _, r := range readings {
		reading := readingRow{
			PartID:      of.partID(),
			FittingID:   of.fittingID(),
			Trait:       r.Trait,
			Value:       r.Value,
			Grade:       int16(r.Grade),
			TakenAt:     r.At,
			TakenBy:     r.By,
			How:         r.How,
			Note:        r.Note,
			SetAsideWhy: r.SetAsideWhy,
			SetAsideBy:  r.SetAsideBy,
			SetAsideAt:  r.SetAsideAt,
			AsFitted:    r.AsFitted,
		}
		if err := in.tx.Create(&reading).Error; err != nil {
			return err
		}
		for _, photo := range r.Photos {
			if err := in.photo(photo, photoRow{ReadingID: &reading.ID}); err != nil {
				return err
			}
		}
	}
	for _, u := range unreadable {
		if err := in.tx.Create(&unreadableRow{PartID: of.partID(), FittingID: of.fittingID(), Trait: u.Trait,
			Inspection: u.Inspection, Why: u.Why, At: u.At, By: u.By}).Error; err != nil {
			return err
		}
	}
	return nil
}

// build writes a build, or finds the one of its name, which is the same: the plan has
// looked.
func (in *importer) build(b recordfile.Build) error {
	var known buildRow
	if err := in.tx.Where("lower(name) = lower(?)", b.Name).Limit(1).Find(&known).Error; err != nil {
		return err
	}
	if known.ID == 0 {
		row, err := rowOf(b.Build, b.Changed.By, b.Changed.At)
		if err != nil {
			return err
		}
		if row.Version = max(b.Changed.Version, 1); err == nil {
			err = in.tx.Create(&row).Error
		}
		if err != nil {
			return err
		}
		known = row
	}
	in.builds[strings.ToLower(b.Name)] = known.ID
	return nil
}

// ran are the runs of a machine: those of the file, and the builds that files of earlier
// versions have as parts.
func (in *importer) ran(m recordfile.Machine) []recordfile.Run {
	out := slices.Clone(m.Runs)
	for _, f := range m.Fittings {
		if p, ok := in.software[f.Part]; ok {
			run := recordfile.Run{Slot: f.Slot, From: f.From, To: f.To, Order: f.Order, Why: f.Why, By: f.By, Takes: f.Takes}
			run.Readings, run.Unreadable = p.Readings, p.Unreadable
			delete(in.software, f.Part) // what was read of it is there once
			in.software[f.Part] = recordfile.Part{}
			out = append(out, run)
		}
	}
	return out
}

// run writes a run with what was read of it.
func (in *importer) run(machineID int64, r recordfile.Run, order *int64) error {
	at := fittingRow{
		MachineID:   machineID,
		Slot:        r.Slot,
		FittedAt:    r.From,
		RemovedAt:   r.To,
		WorkOrderID: order,
		Why:         r.Why,
		MovedBy:     r.By,
	}
	if err := in.s.runs(in.tx, &at); err != nil {
		return err
	}
	set := map[string]any{}
	if r.Board != "" {
		set["board"] = r.Board
	}
	if id := in.builds[strings.ToLower(r.Build)]; r.Build != "" && id != 0 {
		set["build_id"] = id
	}
	if len(r.Configured) > 0 {
		text, err := json.Marshal(r.Configured)
		if err != nil {
			return err
		}
		set["configured"] = text
	}
	if len(set) > 0 {
		if err := in.tx.Model(&runRow{}).Where("fitting_id = ?", at.ID).Updates(set).Error; err != nil {
			return err
		}
	}
	if err := takes(in.tx, machineID, &at.ID, r.Takes); err != nil {
		return err
	}
	return in.found(at.held(), r.Readings, r.Unreadable)
}

// photo keeps a picture as it stands in the file, when it is one.
func (in *importer) photo(p recordfile.Photo, row photoRow) error {
	k, err := picture.Take(p.JPEG)
	if err != nil {
		return &BadPicture{p.At, err}
	}
	if picture.Plain(p.JPEG) {
		k.JPEG = p.JPEG // encoded here before: not a second time
	}
	if err := in.s.keepPicture(in.ctx, &row, k); err != nil {
		return err
	}
	row.Width, row.Height, row.TakenBy, row.TakenAt = k.Width, k.Height, p.By, p.At
	return in.tx.Create(&row).Error
}

func orNull(text json.RawMessage) []byte {
	if len(text) == 0 {
		return []byte("null")
	}
	return text
}

// dateOf reads a day as files write it; nil where it is empty.
func dateOf(text string) (*time.Time, error) {
	if text == "" {
		return nil, nil
	}
	at, err := time.Parse(civil.ISO, text)
	return &at, err
}

func (in *importer) machine(m recordfile.Machine) error {
	row := machineRow{
		Name:       m.Name,
		Bay:        m.Bay,
		Maker:      m.Maker,
		Serial:     m.Serial,
		Note:       m.Note,
		Supplier:   m.Supplier,
		Price:      m.Price,
		Since:      m.Since,
		RetiredAt:  m.RetiredAt,
		RetiredWhy: m.RetiredWhy,
		Version:    m.Changed.Version,
		ChangedBy:  m.Changed.By,
		ChangedAt:  m.Changed.At,
	}
	var err error
	if row.BoughtOn, err = dateOf(m.BoughtOn); err != nil {
		return err
	}
	if err := in.tx.Create(&row).Error; err != nil {
		return err
	}
	orders := make([]int64, len(m.Orders)+1)
	for i, o := range m.Orders {
		id, err := in.order(row.ID, o)
		if err != nil {
			return err
		}
		orders[i+1] = id
	}
	order := func(no int) *int64 {
		if no == 0 {
			return nil
		}
		return &orders[no]
	}
	if err := in.positions(row.ID, m); err != nil {
		return err
	}
	for _, r := range in.ran(m) {
		if err := in.run(row.ID, r, order(r.Order)); err != nil {
			return err
		}
	}
	for _, f := range m.Fittings {
		if _, software := in.software[f.Part]; software {
			continue
		}
		part := in.parts[f.Part]
		at := fittingRow{
			MachineID:   row.ID,
			Slot:        f.Slot,
			FittedAt:    f.From,
			RemovedAt:   f.To,
			WorkOrderID: order(f.Order),
			PartID:      &part,
			Why:         f.Why,
			MovedBy:     f.By,
		}
		if err := in.tx.Create(&at).Error; err != nil {
			return err
		}
		if err := takes(in.tx, row.ID, &at.ID, f.Takes); err != nil {
			return err
		}
	}
	if err := takes(in.tx, row.ID, nil, m.Takings); err != nil {
		return err
	}
	var rows []any
	for _, c := range m.Calibrations {
		if err := in.calibration(row.ID, c, order); err != nil {
			return err
		}
	}
	for _, x := range m.Meters {
		rows = append(rows, &meterRow{MachineID: row.ID, Counter: x.Counts(), ReadAt: x.At, Amount: x.Hours,
			Reset: x.Reset, TakenBy: x.By})
	}
	for _, x := range m.Done {
		rows = append(rows, &doneRow{MachineID: row.ID, Task: x.Task, DoneAt: x.At, DoneBy: x.By, Note: x.Note,
			NewParts: append([]string{}, x.NewParts...)})
	}
	for _, x := range m.Labour {
		rows = append(
			rows,
			&labourRow{MachineID: row.ID, WorkOrderID: order(x.Order), At: x.At, By: x.By, Minutes: x.Minutes, What: x.What},
		)
	}
	for _, x := range m.Uses {
		rows = append(rows, &useRow{MachineID: row.ID, Use: string(x.Use), Why: x.Why, At: x.At, By: x.By})
	}
	for _, w := range m.WireSheets {
		text, err := json.Marshal(w.Sheet)
		if err != nil {
			return err
		}
		rows = append(
			rows,
			&wireRow{
				MachineID:  row.ID,
				Head:       w.Head,
				Definition: text,
				Version:    w.Changed.Version,
				ChangedBy:  w.Changed.By,
				ChangedAt:  w.Changed.At,
			},
		)
	}
	for _, r := range rows {
		if err := in.tx.Create(r).Error; err != nil {
			return err
		}
	}
	for _, x := range m.Faults {
		f := faultRow{
			MachineID:  row.ID,
			Symptom:    x.Symptom,
			Words:      x.Words,
			ReportedBy: x.By,
			ReportedAt: x.At,
			ClosedAt:   x.ClosedAt,
			ClosedBy:   x.ClosedBy,
			Answer:     x.Answer,
			Danger:     maintenance.IsDanger(x.Symptom, x.Words),
			Version:    x.Version,
		}
		if err := in.tx.Create(&f).Error; err != nil {
			return err
		}
		for _, photo := range x.Photos {
			if err := in.photo(photo, photoRow{FaultID: &f.ID}); err != nil {
				return err
			}
		}
	}
	return nil
}

// positions lists what the machine has and had. A file of the first version says
// nothing of it: there it has the usual positions, and those that held something.
func (in *importer) positions(machineID int64, m recordfile.Machine) error {
	if m.Positions == nil {
		held := map[string]bool{}
		for _, f := range m.Fittings {
			held[f.Slot] = true
		}
		list := in.s.vocabularyOf(in.tx).Usual(func(p machine.Position) bool { return held[p.Key] })
		return addPositions(in.tx, machineID, list, m.Changed.By, m.Since)
	}
	for _, p := range m.Positions {
		row, err := positionOf(machineID, p.Position, p.By, p.From)
		if err != nil {
			return err
		}
		row.ToAt = p.To
		if err := in.tx.Create(&row).Error; err != nil {
			return err
		}
	}
	return structureChanged(in.tx, machineID)
}

func (in *importer) order(machineID int64, o recordfile.Order) (int64, error) {
	row := orderRow{
		MachineID: machineID,
		KitKey:    o.KitKey,
		Kit:       orNull(o.Kit),
		Further:   orNull(o.Further),
		Verdict:   orNull(o.Verdict),
		Reason:    o.Reason,
		State:     o.State,
		OpenedBy:  o.OpenedBy,
		OpenedAt:  o.OpenedAt,
		ClosedBy:  o.ClosedBy,
		ClosedAt:  o.ClosedAt,
		Closing:   orNull(o.Closing),
		Task:      o.Task,
		Spares:    []byte("{}"), // what lay on another shop's shelf has other numbers here
	}
	if p := o.Parked; p != nil {
		row.ParkedAt, row.ParkedBy, row.ParkedWhy = &p.At, p.By, p.Why
		row.ParkedLoose, row.ParkedScrews, row.ParkedWaits = p.Loose, p.Screws, p.Waits
	}
	if b := o.Back; b != nil {
		row.BackAt, row.BackBy, row.BackWhy = &b.At, b.By, b.Why
	}
	if err := in.tx.Create(&row).Error; err != nil {
		return 0, err
	}
	for _, l := range o.Locks {
		if err := in.tx.Create(&lockRow{WorkOrderID: row.ID, Name: l.Name, PutOn: l.PutOn, TakenOff: l.Off,
			TakenOffBy: l.OffBy, Why: l.Why}).Error; err != nil {
			return 0, err
		}
	}
	for i, s := range o.Steps {
		step := stepRow{
			WorkOrderID: row.ID,
			Seq:         i + 1,
			Key:         s.Key,
			Step:        orNull(s.Step),
			Data:        orNull(s.Data),
			Note:        s.Note,
			DoneBy:      s.DoneBy,
			DoneAt:      s.DoneAt,
			SkippedWhy:  s.SkippedWhy,
			Version:     s.Version,
		}
		if err := in.tx.Create(&step).Error; err != nil {
			return 0, err
		}
		for _, photo := range s.Photos {
			key := s.Key
			if err := in.photo(photo, photoRow{WorkOrderID: &row.ID, StepKey: &key}); err != nil {
				return 0, err
			}
		}
	}
	return row.ID, nil
}

// calibration writes a record with what made it invalid.
func (in *importer) calibration(machineID int64, c recordfile.Calibration, order func(int) *int64) error {
	r := calibration.Record{}
	if c.Proof != nil {
		r.Proof = *c.Proof
	}
	proof, err := json.Marshal(r.Proof)
	if err != nil {
		return err
	}
	row := calibrationRow{
		MachineID:   machineID,
		Kind:        c.Kind,
		Subject:     c.Subject,
		Value:       c.Value,
		Store:       c.Store,
		Method:      c.Method,
		Passed:      c.Passed,
		Proof:       proof,
		DoneAt:      c.At,
		DoneBy:      c.By,
		WorkOrderID: order(c.Order),
	}
	if err := in.tx.Create(&row).Error; err != nil {
		return err
	}
	for _, v := range c.Gone() {
		gone := calibration.Invalid{
			Record:  row.ID,
			Subject: calibration.Subject(v.Subject),
			Reason:  v.Reason,
			Remedy:  calibration.Remedy(v.Remedy),
			Causes:  v.Causes,
		}
		because := Cause{}
		if no := order(v.Order); no != nil {
			because.Order = *no
		}
		if err := in.s.Invalidate(in.ctx, []calibration.Invalid{gone}, because, v.At); err != nil {
			return err
		}
	}
	return nil
}
