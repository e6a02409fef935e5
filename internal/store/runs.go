package store

import (
	"context"
	"encoding/json"
	"maps"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/firmware"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
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
		&runRow{FittingID: f.ID, Board: boardOf(s.vocabularyOf(tx), listed[f.MachineID], f.Slot), Configured: []byte("{}")},
	).Error
}

// boardOf is the key of the board that runs what is at a position; empty where the machine
// lists no board.
func boardOf(voc *machine.Vocabulary, list []machine.Position, slot string) string {
	structure := voc.Structure(list)
	board := structure.FedBy(voc.At(slot)).To
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

// BuildFor notes for what the builds now running on a machine are configured. What was
// noted before stays where keep is set.
func (s *Store) BuildFor(ctx context.Context, machineID int64, values map[machine.Key]string, keep bool) error {
	if len(values) == 0 {
		return nil
	}
	tx := s.from(ctx)
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
	voc := s.Vocabulary(ctx)
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

// RunsAt are the runs at a position of a machine but one, in their order.
func (s *Store) RunsAt(ctx context.Context, machineID int64, slot string, but int64) ([]firmware.Run, error) {
	rows, err := list[fittingRow](s.from(ctx), "fitted_at, id", "machine_id = ? and slot = ? and id <> ?", machineID,
		slot, but)
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

// Run is a run of a build on a machine: where it is, and of which build; 0 is unknown.
func (s *Store) Run(ctx context.Context, machineID, id int64) (slot string, build int64, err error) {
	var at fittingRow
	tx := s.from(ctx)
	if err := tx.Where("id = ? and machine_id = ? and part_id is null", id, machineID).First(&at).Error; err != nil {
		return "", 0, found(err)
	}
	var row runRow
	if err := tx.First(&row, "fitting_id = ?", id).Error; err != nil {
		return "", 0, found(err)
	}
	if row.BuildID != nil {
		build = *row.BuildID
	}
	return at.Slot, build, nil
}

// SetPeriod writes from when to when something was at a position; to is nil while it is.
func (s *Store) SetPeriod(ctx context.Context, machineID, fitting int64, from time.Time, to *time.Time) error {
	err := s.from(ctx).Model(&fittingRow{}).Where("id = ?", fitting).
		Updates(map[string]any{"fitted_at": from, "removed_at": to}).Error
	if err != nil {
		return err
	}
	return structureChanged(s.from(ctx), machineID)
}

// SetRunBuild says of which build a run is; 0 is unknown.
func (s *Store) SetRunBuild(ctx context.Context, run, build int64) error {
	return s.from(ctx).Model(&runRow{}).Where("fitting_id = ?", run).Update("build_id", orNil(build)).Error
}

// RunningAt is the number of what is at a position now; 0 where nothing is on record.
func (s *Store) RunningAt(ctx context.Context, machineID int64, slot string) (int64, error) {
	row, err := openAt(s.from(ctx), machineID, slot)
	return row.ID, err
}

// MoveReadings makes what was read of one run since a moment readings of another.
func (s *Store) MoveReadings(ctx context.Context, from, to int64, since time.Time) error {
	tx := s.from(ctx)
	err := tx.Model(&readingRow{}).Where("fitting_id = ? and taken_at > ?", from, since).Update("fitting_id", to).Error
	if err != nil {
		return err
	}
	return s.nameRuns(tx, from, to)
}

// SetAsideFoundBy sets aside what was found of a run in one way.
func (s *Store) SetAsideFoundBy(ctx context.Context, run int64, how, why, by string, at time.Time) error {
	tx := s.from(ctx)
	err := tx.Model(&readingRow{}).Where("fitting_id = ? and how = ? and set_aside_why = ''", run, how).
		Updates(map[string]any{"set_aside_why": why, "set_aside_by": by, "set_aside_at": at}).Error
	if err != nil {
		return err
	}
	return s.nameRuns(tx, run)
}

// ReadOf is the newest value of a trait that was read of a run; empty where none was.
func (s *Store) ReadOf(ctx context.Context, run int64, trait string) (string, error) {
	var values []string
	err := s.from(ctx).Model(&readingRow{}).Where("fitting_id = ? and trait = ? and set_aside_why = ''", run, trait).
		Order("id desc").Limit(1).Pluck("value", &values).Error
	if err != nil || len(values) == 0 {
		return "", err
	}
	return values[0], nil
}

// RunningBuild is a board that runs a build now.
type RunningBuild struct {
	MachineID int64
	Run       int64
	// Grade is how surely it runs that build: that of what was found in one way; claimed
	// where nothing was.
	Grade machine.Grade
}

// RunningBuilds lists the boards that run a build now; how is the way of being found whose
// grade is asked for. Machines are in the order of their numbers.
func (s *Store) RunningBuilds(ctx context.Context, build int64, how string) ([]RunningBuild, error) {
	var out []RunningBuild
	err := s.from(ctx).Raw(`select f.machine_id, f.id as run, coalesce((select max(grade) from readings r
			where r.fitting_id = f.id and r.how = ? and r.set_aside_why = ''), ?) as grade
		from fittings f join build_runs u on u.fitting_id = f.id
		where u.build_id = ? and f.removed_at is null order by f.machine_id, f.id`,
		how, int16(machine.Claimed), build).Scan(&out).Error
	return out, err
}
