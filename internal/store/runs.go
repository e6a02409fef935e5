package store

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/change"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/quantity"
)

// runRow says of a fitting that it is no part: a build that a board runs.
type runRow struct {
	FittingID  int64 `gorm:"primaryKey"`
	Board      string
	BuildID    *int64
	Configured []byte `gorm:"type:jsonb"`
}

func (runRow) TableName() string { return "build_runs" }

func (r runRow) configured() (map[machine.Key]string, error) {
	out := map[machine.Key]string{}
	return out, json.Unmarshal(r.Configured, &out)
}

// runs enters a run of a build that nobody has named yet; its fitting gets its number.
func (s *Store) runs(tx *gorm.DB, f *fittingRow) error {
	listed, err := listedNow(tx, []int64{f.MachineID})
	if err != nil {
		return err
	}
	f.PartID = nil
	if err := tx.Create(f).Error; err != nil {
		return err
	}
	return tx.Create(
		&runRow{FittingID: f.ID, Board: s.boardOf(listed[f.MachineID], f.Slot), Configured: []byte("{}")},
	).Error
}

// boardOf is the key of the board that runs what is at a position; empty where the machine
// lists no board.
func (s *Store) boardOf(list []machine.Position, slot string) string {
	structure := s.Vocabulary().Structure(list)
	board := structure.FedBy(s.Vocabulary().At(slot)).To
	if board == nil {
		board = structure.First(parts.Mainboard)
	}
	if board == nil {
		return ""
	}
	return board.Key
}

// loadConfigured loads for what the builds that run are configured, as far as it is
// known: what the build is recorded to be goes before what the machine was when it was
// flashed.
func loadConfigured(tx *gorm.DB, at map[int64]*Machine, only func(column string) func(*gorm.DB) *gorm.DB) error {
	var rows []struct {
		MachineID  int64
		Configured []byte
		Build      []byte
	}
	err := tx.Table("build_runs u").
		Select("f.machine_id, u.configured, b.configured as build").
		Joins("join fittings f on f.id = u.fitting_id and f.removed_at is null").
		Joins("left join builds b on b.id = u.build_id").
		Scopes(only("f.machine_id")).
		Scan(&rows).
		Error
	if err != nil {
		return err
	}
	for _, r := range rows {
		m := at[r.MachineID]
		if m == nil {
			continue
		}
		if m.Configured == nil {
			m.Configured = map[machine.Key]string{}
		}
		for _, text := range [][]byte{r.Configured, r.Build} {
			if len(text) == 0 {
				continue
			}
			if err := json.Unmarshal(text, &m.Configured); err != nil {
				return err
			}
		}
	}
	return nil
}

// configure notes for what the builds now running on a machine are configured. What was
// noted before stays where keep is set.
func configure(tx *gorm.DB, machineID int64, values map[machine.Key]string, keep bool) error {
	if len(values) == 0 {
		return nil
	}
	var rows []runRow
	err := tx.Table("build_runs").
		Select("build_runs.*").
		Joins("join fittings f on f.id = fitting_id and f.removed_at is null and f.machine_id = ?", machineID).
		Find(&rows).
		Error
	if err != nil {
		return err
	}
	for _, r := range rows {
		now := maps.Clone(values)
		if keep {
			was, err := r.configured()
			if err != nil {
				return err
			}
			maps.Copy(now, was)
		}
		text, err := json.Marshal(now)
		if err != nil {
			return err
		}
		if err := tx.Model(&runRow{}).Where("fitting_id = ?", r.FittingID).Update("configured", text).Error; err != nil {
			return err
		}
	}
	return nil
}

// RunOnRecord is a build that a board runs or ran.
type RunOnRecord struct {
	ID        int64         `json:"id"`
	Slot      string        `json:"slot"`
	Board     string        `json:"board" doc:"Key of the position of the board that runs it"`
	BuildID   int64         `json:"buildId,omitempty" doc:"0 while nobody has said which build it is"`
	Name      string        `json:"name" doc:"The build's name, or what was read of the run"`
	From      time.Time     `json:"from"`
	To        *time.Time    `json:"to,omitempty"`
	By        string        `json:"by,omitempty"`
	Why       string        `json:"why,omitempty"`
	WorkOrder *int64        `json:"workOrder,omitempty"`
	Grade     machine.Grade `json:"grade" doc:"How surely it is that build"`
	MachineID int64         `json:"machineId"`
	Machine   string        `json:"machine"`
}

// Runs lists the builds that boards run or ran, newest first: of a machine, or of a
// build; 0 is any.
func (s *Store) Runs(ctx context.Context, machineID, buildID int64) ([]RunOnRecord, error) {
	var rows []struct {
		Fitting fittingRow `gorm:"embedded"`
		Board   string
		BuildID *int64
		Build   string
		Machine string
	}
	q := s.from(ctx).
		Table("fittings f").
		Select("f.*, u.board, u.build_id, coalesce(b.name, '') as build, m.name as machine").
		Joins("join build_runs u on u.fitting_id = f.id").
		Joins("join machines m on m.id = f.machine_id").
		Joins("left join builds b on b.id = u.build_id").
		Order("f.fitted_at desc, f.id desc")
	if machineID != 0 {
		q = q.Where("f.machine_id = ?", machineID)
	}
	if buildID != 0 {
		q = q.Where("u.build_id = ?", buildID)
	}
	if err := q.Scan(&rows).Error; err != nil {
		return nil, err
	}
	ids := []int64{0}
	for _, r := range rows {
		ids = append(ids, r.Fitting.ID)
	}
	var readings []readingRow
	if err := s.from(ctx).Where("fitting_id in ? and set_aside_why = ''",
		ids).Order("id").Find(&readings).Error; err != nil {
		return nil, err
	}
	of := map[int64][]machine.Reading{}
	voc := s.Vocabulary()
	at := map[int64]string{}
	for _, r := range rows {
		at[r.Fitting.ID] = r.Fitting.Slot
	}
	for _, r := range readings {
		if t, ok := voc.Trait(machine.KeyOf(at[*r.FittingID], r.Trait)); ok {
			of[*r.FittingID] = append(of[*r.FittingID], r.reading(t))
		}
	}
	out := make([]RunOnRecord, len(rows))
	for i, r := range rows {
		f := r.Fitting
		known := machine.NewSnapshot(voc, machine.Record{Readings: of[f.ID]})
		name, fact := known.Named(f.Slot)
		run := RunOnRecord{
			ID:        f.ID,
			Slot:      f.Slot,
			Board:     r.Board,
			Name:      name,
			From:      f.FittedAt,
			To:        f.RemovedAt,
			By:        f.MovedBy,
			Why:       f.Why,
			WorkOrder: f.WorkOrderID,
			Grade:     fact.Grade,
			MachineID: f.MachineID,
			Machine:   r.Machine,
		}
		if r.BuildID != nil {
			run.BuildID, run.Name = *r.BuildID, r.Build
		}
		out[i] = run
	}
	return out, nil
}

// NewRun is a build that a board runs from a day on.
type NewRun struct {
	Board   string // key of the position of the board
	Head    int    // the head that carries it, where a head carries a build of its own; else 0
	BuildID int64  // 0: nobody knows which
	From    time.Time
	Grade   machine.Grade
	How     string
	// MadeFor says that it was made for the machine as it is.
	MadeFor bool
}

// StartRun records that a board runs another build from a day on: what it ran before ends
// then. What depends on the build is no longer valid.
func (s *Store) StartRun(ctx context.Context, machineID int64, r NewRun, by string, now time.Time) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		m, err := s.lockIdle(tx, machineID)
		if err != nil {
			return err
		}
		slot, err := s.runSlot(tx, m, r, by, now)
		if err != nil {
			return err
		}
		if m, err = s.machine(tx, machineID); err != nil {
			return err
		}
		traits := map[string]string{}
		name := "another build"
		var build buildRow
		if r.BuildID != 0 {
			if err := tx.First(&build, r.BuildID).Error; err != nil {
				return found(err)
			}
			b, err := build.build()
			if err != nil {
				return err
			}
			traits, name = b.Traits(), b.Name
		}
		others, err := runsOf(tx, machineID, slot, 0)
		if err != nil {
			return err
		}
		for i := range others {
			if others[i].To.IsZero() && others[i].From.Before(r.From) {
				others[i].To = r.From // it ends where this one begins
			}
		}
		if err := firmware.CheckRun(firmware.Run{Slot: slot, From: r.From}, others, now); err != nil {
			return refuse("%s", err)
		}
		c, err := change.ByHand(slot, name, m.Facts)
		if err != nil {
			return refuse("%s", err)
		}
		d := c.Difference()
		d.Until = r.From
		if err := invalidate(tx, d.Invalidated(m.Records), cause{}, now); err != nil {
			return err
		}
		var was fittingRow
		if err := tx.Where("machine_id = ? and slot = ? and removed_at is null", machineID,
			slot).Limit(1).Find(&was).Error; err != nil {
			return err
		}
		at := fittingRow{MachineID: machineID, Slot: slot, FittedAt: r.From, Why: r.How, MovedBy: by}
		if err := s.exchange(tx, at, change.Fitting{}); err != nil {
			return err
		}
		of, err := s.heldAt(tx, machineID, slot, by, r.From)
		if err != nil {
			return err
		}
		// What was read since is of what runs since.
		moved := tx.Model(&readingRow{}).
			Where("fitting_id = ? and taken_at > ?", was.ID, r.From).
			Update("fitting_id", of.fitting)
		if moved.Error != nil {
			return moved.Error
		}
		if r.BuildID != 0 {
			if err := tx.Model(&runRow{}).Where("fitting_id = ?", of.fitting).Update("build_id", r.BuildID).Error; err != nil {
				return err
			}
			if err := readAsBuild(tx, of.fitting, name, traits, r.Grade, r.From, by); err != nil {
				return err
			}
		}
		if r.MadeFor {
			return configure(tx, machineID, firmware.Configuration(m.Facts), false)
		}
		return nil
	})
}

// asBuild is how a reading was found that follows from which build runs.
func asBuild(name string) string { return "as the build " + name + " is recorded" }

// readAsBuild records of a run what is known of its build.
func readAsBuild(
	tx *gorm.DB,
	run int64,
	name string,
	traits map[string]string,
	grade machine.Grade,
	at time.Time,
	by string,
) error {
	for _, trait := range slices.Sorted(maps.Keys(traits)) {
		row := readingRow{
			FittingID: &run,
			Trait:     trait,
			Value:     traits[trait],
			Grade:     int16(grade),
			TakenAt:   at,
			TakenBy:   by,
			How:       asBuild(name),
		}
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
	}
	return nil
}

// runSlot is the position of what a board runs, or of what a head carries; it is listed
// where the machine does not have it.
func (s *Store) runSlot(tx *gorm.DB, m Machine, r NewRun, by string, now time.Time) (string, error) {
	voc := m.Facts.Vocabulary()
	board := voc.At(r.Board)
	switch {
	case !m.Facts.Has(board):
		return "", refuse("%s has no position %q for a board", m.Name, r.Board)
	case !voc.Is(board.Kind, parts.Mainboard) && !voc.Is(board.Kind, parts.ToolheadBoard):
		return "", refuse("%s is no board that runs a build; say the mainboard or a toolhead board", board.Label)
	case r.Head != 0 && !slices.Contains(m.Facts.Structure().Heads(), r.Head):
		return "", refuse("%s has no head %d", m.Name, r.Head)
	}
	serves := board.Serves
	if r.Head != 0 {
		serves = machine.Head(r.Head)
	}
	for _, p := range calibration.RunsOf(m.Facts, board) {
		if p.Serves == serves {
			return p.Key, nil
		}
	}
	label := "Build of " + board.Label
	if r.Head != 0 {
		label = fmt.Sprintf("Build of head %d", r.Head)
	}
	p, err := s.newPosition(
		m,
		machine.Position{
			Kind:   parts.Firmware,
			Label:  label,
			Serves: serves,
			FedBy:  &machine.Link{To: board.Key, Grade: machine.Read, By: by},
		},
	)
	if err != nil {
		return "", err
	}
	if err := addPositions(tx, m.ID, []machine.Position{p}, by, now); err != nil {
		return "", err
	}
	return p.Key, s.learnPositions(tx, p)
}

// runsOf are the runs at a position but one.
func runsOf(tx *gorm.DB, machineID int64, slot string, but int64) ([]firmware.Run, error) {
	rows, err := list[fittingRow](tx, "fitted_at, id", "machine_id = ? and slot = ? and id <> ?", machineID, slot, but)
	var out []firmware.Run
	for _, f := range rows {
		r := firmware.Run{Slot: slot, From: f.FittedAt}
		if f.RemovedAt != nil {
			r.To = *f.RemovedAt
		}
		out = append(out, r)
	}
	return out, err
}

// CorrectedRun is what is corrected of a run.
type CorrectedRun struct {
	BuildID int64
	Grade   machine.Grade
	From    time.Time
	To      *time.Time // nil while it runs
}

// CorrectRun says which build a run is of, and from when to when it ran: the record was
// wrong, and nothing that depends on the build is touched.
func (s *Store) CorrectRun(ctx context.Context, machineID, id int64, c CorrectedRun, by string, now time.Time) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		if _, err := lockMachine(tx, machineID); err != nil {
			return err
		}
		var at fittingRow
		if err := tx.Where("id = ? and machine_id = ? and part_id is null", id, machineID).First(&at).Error; err != nil {
			return found(err)
		}
		others, err := runsOf(tx, machineID, at.Slot, id)
		if err != nil {
			return err
		}
		r := firmware.Run{Slot: at.Slot, From: c.From}
		if c.To != nil {
			r.To = *c.To
		}
		if err := firmware.CheckRun(r, others, now); err != nil {
			return refuse("%s", err)
		}
		if err := tx.Model(&at).Updates(map[string]any{"fitted_at": c.From, "removed_at": c.To}).Error; err != nil {
			return err
		}
		var row runRow
		if err := tx.First(&row, "fitting_id = ?", id).Error; err != nil {
			return err
		}
		was := int64(0)
		if row.BuildID != nil {
			was = *row.BuildID
		}
		if was != c.BuildID {
			if err := s.identify(tx, id, was, c, by, now); err != nil {
				return err
			}
		}
		return structureChanged(tx, machineID)
	})
}

// identify says which build a run is of: what was recorded of it as another one no longer
// counts.
func (s *Store) identify(tx *gorm.DB, id, was int64, c CorrectedRun, by string, now time.Time) error {
	var old, build buildRow
	if was != 0 {
		if err := tx.First(&old, was).Error; err != nil {
			return err
		}
		if err := asideAsBuild(tx, id, old.Name, "it is another build", by, now); err != nil {
			return err
		}
	}
	if err := tx.Model(&runRow{}).Where("fitting_id = ?", id).Update("build_id", orNil(c.BuildID)).Error; err != nil ||
		c.BuildID == 0 {
		return err
	}
	if err := tx.First(&build, c.BuildID).Error; err != nil {
		return found(err)
	}
	b, err := build.build()
	if err != nil {
		return err
	}
	// What it was called before nobody knew which build it is names nothing.
	if err := tx.Model(&readingRow{}).Where("fitting_id = ? and trait = ? and set_aside_why = ''", id, machine.ModelTrait).
		Updates(map[string]any{"set_aside_why": "identified as the build " + b.Name, "set_aside_by": by,
			"set_aside_at": now}).Error; err != nil {
		return err
	}
	return readAsBuild(tx, id, b.Name, b.Traits(), c.Grade, now, by)
}

// asideAsBuild sets aside what was recorded of a run because of its build.
func asideAsBuild(tx *gorm.DB, run int64, name, why, by string, now time.Time) error {
	return tx.Model(&readingRow{}).Where("fitting_id = ? and how = ? and set_aside_why = ''", run, asBuild(name)).
		Updates(map[string]any{"set_aside_why": why, "set_aside_by": by, "set_aside_at": now}).Error
}

// checkFlashed refuses a build that is recorded otherwise than what a step read off the
// machine: the screen proves what runs.
func (s *Store) checkFlashed(tx *gorm.DB, r change.Result) error {
	if r.BuildName != "" {
		return buildNameFree(tx, r.BuildName, 0)
	}
	if r.Build == 0 {
		return nil
	}
	var row buildRow
	if err := tx.First(&row, r.Build).Error; err != nil {
		return found(err)
	}
	b, err := row.build()
	if err != nil {
		return err
	}
	traits := b.Traits()
	for key, value := range r.Readings {
		t, ok := s.Vocabulary().Trait(key)
		if !ok || traits[key.Trait()] == "" || t.Same(t.Stored(traits[key.Trait()]), t.Stored(value)) {
			continue
		}
		return refuse(
			"%s: the machine shows %s, and the build %s is recorded with %s. The machine proves what runs: choose the "+
				"build that it is, or correct the record of the build",
			t.Label,
			value,
			b.Name,
			traits[key.Trait()],
		)
	}
	return nil
}

// flashed says which build an order flashed, and records it where it is a new one. What
// the step read of it stays what was read.
func (s *Store) flashed(tx *gorm.DB, m Machine, results []change.Result, by string, now time.Time) error {
	i := slices.IndexFunc(results, func(r change.Result) bool { return r.Build != 0 || r.BuildName != "" })
	slot := m.Facts.First(parts.Firmware)
	if i < 0 || slot == nil {
		return nil
	}
	of, err := s.heldAt(tx, m.ID, slot.Key, by, now)
	if err != nil || of.fitting == 0 {
		return err
	}
	id := results[i].Build
	if id == 0 {
		if id, err = s.buildAsFlashed(tx, of.fitting, results[i], by, now); err != nil {
			return err
		}
	}
	var row buildRow
	if err := tx.First(&row, id).Error; err != nil {
		return found(err)
	}
	b, err := row.build()
	if err != nil {
		return err
	}
	if err := tx.Model(&runRow{}).Where("fitting_id = ?", of.fitting).Update("build_id", id).Error; err != nil {
		return err
	}
	traits := b.Traits()
	for key := range results[i].Readings {
		delete(traits, key.Trait())
	}
	// The name it got at the flash, and what it should have kept of the build before, give
	// way to what is on record of it.
	if err := tx.Model(&readingRow{}).Where("fitting_id = ? and trait in ? and set_aside_why = ''", of.fitting,
		slices.Collect(maps.Keys(traits))).
		Updates(map[string]any{"set_aside_why": "it is the build " + b.Name, "set_aside_by": by,
			"set_aside_at": now}).Error; err != nil {
		return err
	}
	return readAsBuild(tx, of.fitting, b.Name, traits, machine.Read, now, by)
}

// buildAsFlashed records a build by what a step read of it.
func (s *Store) buildAsFlashed(tx *gorm.DB, run int64, r change.Result, by string, now time.Time) (int64, error) {
	b := firmware.Build{Name: r.BuildName}
	var family []string
	if err := tx.Model(&readingRow{}).Where("fitting_id = ? and trait = ? and set_aside_why = ''", run,
		parts.FirmwareFamily.Name).Pluck("value", &family).Error; err != nil {
		return 0, err
	}
	if len(family) > 0 {
		b.Family = family[0]
	}
	for key, value := range r.Readings {
		switch key.Trait() {
		case parts.FirmwareVersion.Name:
			b.Version = value
		case parts.FirmwareLabel.Name:
			b.Label = value
		case parts.FirmwareFile.Name:
			b.File = value
		case parts.FirmwareSize.Name:
			if n, err := quantity.Recorded(value); err == nil {
				b.KiB = n
			}
		}
	}
	row, err := s.buildRow(b, by, now)
	if err != nil {
		return 0, err
	}
	if err := buildNameFree(tx, b.Name, 0); err != nil {
		return 0, err
	}
	err = tx.Create(&row).Error
	return row.ID, err
}

// endRuns ends what a board ran that is exchanged by hand: what the new one runs, somebody
// has to read.
func (s *Store) endRuns(tx *gorm.DB, m Machine, slot string, now time.Time) error {
	voc := m.Facts.Vocabulary()
	board := voc.At(slot)
	if !m.Facts.Has(board) || !voc.Is(board.Kind, parts.Mainboard) && !voc.Is(board.Kind, parts.ToolheadBoard) ||
		!m.Facts.Holds(board) {
		return nil
	}
	for _, run := range calibration.RunsOf(m.Facts, board) {
		if err := s.closeFitting(tx, m.ID, run.Key, now); err != nil {
			return err
		}
	}
	return nil
}
