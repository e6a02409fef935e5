package store

import (
	"context"
	"encoding/json"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Planning is what the shop says of its planning, as it is kept: empty where it has said nothing.
func (s *Store) Planning(ctx context.Context) (json.RawMessage, error) {
	var text string
	err := s.from(ctx).Raw("select planning::text from shop").Scan(&text).Error
	return json.RawMessage(text), err
}

// SavePlanning keeps what the shop says of its planning, over the settings of a version.
func (s *Store) SavePlanning(ctx context.Context, planning any, version int) error {
	text, err := json.Marshal(planning)
	if err != nil {
		return err
	}
	written := s.from(ctx).Exec("update shop set planning = ?::jsonb, version = version + 1 where version = ?",
		string(text), version)
	if written.Error == nil && written.RowsAffected == 0 {
		return ErrChanged
	}
	return written.Error
}

// Floor is how many machines that answer a saved question stay up.
type Floor struct {
	QuestionID int64 `json:"question"`
	Least      int   `json:"least" minimum:"1" maximum:"10000"`
}

// Circuit is what machines hang on.
type Circuit struct {
	ID       int64   `json:"id"`
	Name     string  `json:"name"     maxLength:"60"`
	Watts    float64 `json:"watts"    minimum:"1" maximum:"1000000" doc:"What it bears for long, W"`
	Machines []int64 `json:"machines" gorm:"-"`
	Version  int     `json:"-"`
}

// SpareLevel is how many pieces of a model the shelf should hold at least.
type SpareLevel struct {
	Model string `json:"model"`
	Least int    `json:"least" minimum:"0" maximum:"10000"`
}

// Floors are those that the shop has set.
func (s *Store) Floors(ctx context.Context) ([]Floor, error) {
	out := []Floor{}
	err := s.from(ctx).Order("question_id").Find(&out).Error
	return out, err
}

// Circuits are those of the shop, by name, with the machines on each.
func (s *Store) Circuits(ctx context.Context) ([]Circuit, error) {
	out := []Circuit{}
	if err := s.from(ctx).Order("lower(name)").Find(&out).Error; err != nil {
		return nil, err
	}
	var on []struct{ MachineID, CircuitID int64 }
	err := s.from(ctx).Table("machine_circuits").Order("machine_id").Scan(&on).Error
	for i := range out {
		out[i].Machines = []int64{}
		for _, m := range on {
			if m.CircuitID == out[i].ID {
				out[i].Machines = append(out[i].Machines, m.MachineID)
			}
		}
	}
	return out, err
}

// SpareLevels are those that the shop has set.
func (s *Store) SpareLevels(ctx context.Context) ([]SpareLevel, error) {
	out := []SpareLevel{}
	err := s.from(ctx).Order("model").Find(&out).Error
	return out, err
}

// SaveFloors writes all floors in place of those before.
func (s *Store) SaveFloors(ctx context.Context, floors []Floor) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		if err := tx.Exec("delete from floors").Error; err != nil || len(floors) == 0 {
			return err
		}
		return tx.Create(&floors).Error
	})
}

// SaveCircuits writes all circuits with their machines in place of those before.
func (s *Store) SaveCircuits(ctx context.Context, circuits []Circuit) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		if err := tx.Exec("delete from circuits").Error; err != nil {
			return err
		}
		for _, c := range circuits {
			c.ID, c.Version = 0, 1
			if err := taken(tx.Create(&c).Error); err != nil {
				return err
			}
			for _, m := range c.Machines {
				if err := tx.Exec("insert into machine_circuits values (?, ?)", m, c.ID).Error; err != nil {
					return err
				}
			}
		}
		return nil
	})
}

// SaveSpareLevel sets how many pieces of a model the shelf should hold; 0 is that it was not said.
func (s *Store) SaveSpareLevel(ctx context.Context, level SpareLevel) error {
	if level.Least == 0 {
		return s.from(ctx).Where("model = ?", level.Model).Delete(&SpareLevel{}).Error
	}
	return s.from(ctx).Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "model"}},
		DoUpdates: clause.AssignmentColumns([]string{"least"})}).Create(&level).Error
}

// Run is a run of the planner.
type Run struct {
	ID      int64      `json:"id"`
	State   string     `json:"state" enum:"queued,running,done,failed"`
	AskedBy string     `json:"askedBy"`
	AskedAt time.Time  `json:"askedAt"`
	Keep    bool       `json:"keep" doc:"What is planned stays where it can"`
	BegunAt *time.Time `json:"begunAt,omitempty"`
	EndedAt *time.Time `json:"endedAt,omitempty"`
	Share   float64    `json:"share" doc:"Of the search that is done, from 0 to 1"`
	Stop    bool       `json:"stop"`
	Says    string     `json:"says"`
	Plan    []byte     `json:"-" gorm:"type:jsonb"`
	TakenAt *time.Time `json:"takenAt,omitempty" doc:"When it was put into force"`
	TakenBy string     `json:"takenBy,omitempty"`
	// Basis is the version of the plan that the run started from; nil of one of an earlier version.
	Basis   *int64     `json:"-"`
	HeardAt *time.Time `json:"-"` // of the instance that makes it
}

// TableName is that of the table.
func (Run) TableName() string { return "roster_runs" }

// States of a run.
const (
	RunQueued  = "queued"
	RunRunning = "running"
	RunDone    = "done"
	RunFailed  = "failed"
)

// AddRun writes a run down, and gives its number.
func (s *Store) AddRun(ctx context.Context, keep bool, by string, at time.Time) (int64, error) {
	r := Run{State: RunQueued, Keep: keep, AskedBy: by, AskedAt: at, Plan: []byte("null")}
	err := s.from(ctx).Create(&r).Error
	return r.ID, err
}

// RunOf is the run of a number; ErrNotFound where there is none.
func (s *Store) RunOf(ctx context.Context, id int64) (Run, error) {
	var r Run
	err := s.from(ctx).First(&r, id).Error
	return r, found(err)
}

// NewestRun is the run that was asked for last; ErrNotFound where none was.
func (s *Store) NewestRun(ctx context.Context) (Run, error) {
	var r Run
	err := s.from(ctx).Order("id desc").First(&r).Error
	return r, found(err)
}

// SetRun changes columns of a run.
func (s *Store) SetRun(ctx context.Context, id int64, set map[string]any) error {
	return gone(s.from(ctx).Model(&Run{}).Where("id = ?", id).Updates(set))
}

// PlannedWork is a piece of work that is planned.
type PlannedWork struct {
	Key       string
	MachineID int64
	AccountID int64
	Starts    time.Time
	Ends      time.Time
	Pinned    bool
	Kind      string
	Title     string
	Task      string
	OrderID   *int64
	FaultID   *int64
	Why       []string       `gorm:"serializer:json"`
	Parts     map[string]int `gorm:"serializer:json"` // pieces that it needs, by model
}

// TableName is that of the table.
func (PlannedWork) TableName() string { return "planned_work" }

// PlannedWork is all that is planned, in its order.
func (s *Store) PlannedWork(ctx context.Context) ([]PlannedWork, error) {
	var out []PlannedWork
	err := s.from(ctx).Order("starts, key").Find(&out).Error
	return out, err
}

// LockPlannedWork lets nobody else change what is planned until the transaction ends.
func (s *Store) LockPlannedWork(ctx context.Context) error {
	return s.from(ctx).Exec("lock table planned_work in share row exclusive mode").Error
}

// PlanVersion is how often what is planned was changed.
func (s *Store) PlanVersion(ctx context.Context) (version int64, err error) {
	return version, s.from(ctx).Raw("select version from plan_version").Scan(&version).Error
}

// SavePlannedWork writes what is planned in place of what was: what stays the same is not written.
func (s *Store) SavePlannedWork(ctx context.Context, all []PlannedWork) error {
	was, err := s.PlannedWork(ctx)
	if err != nil {
		return err
	}
	return s.tx(ctx, func(tx *gorm.DB) error {
		before := map[string]string{}
		for _, w := range was {
			before[w.Key] = w.written()
		}
		var changed []PlannedWork
		for _, w := range all {
			if w.Why == nil {
				w.Why = []string{}
			}
			if w.Parts == nil {
				w.Parts = map[string]int{}
			}
			if before[w.Key] != w.written() {
				changed = append(changed, w)
			}
			delete(before, w.Key)
		}
		for key := range before {
			if err := tx.Where("key = ?", key).Delete(&PlannedWork{}).Error; err != nil {
				return err
			}
		}
		if len(changed) == 0 && len(before) == 0 {
			return nil
		}
		if err := tx.Exec("update plan_version set version = version + 1").Error; err != nil {
			return err
		}
		if len(changed) == 0 {
			return nil
		}
		return tx.Clauses(clause.OnConflict{UpdateAll: true, Columns: []clause.Column{{Name: "key"}}}).
			CreateInBatches(changed, 200).Error
	})
}

func (w PlannedWork) written() string {
	w.Starts, w.Ends = w.Starts.UTC(), w.Ends.UTC()
	text, _ := json.Marshal(w) // of plain fields alone
	return string(text)
}

// DropPlannedWork takes what was planned away, once it is done or gone.
func (s *Store) DropPlannedWork(ctx context.Context, keys ...string) error {
	return s.from(ctx).Where("key in ?", keys).Delete(&PlannedWork{}).Error
}

// DropPlannedOn takes away all that was planned on a machine, and returns it.
func (s *Store) DropPlannedOn(ctx context.Context, machineID int64) ([]PlannedWork, error) {
	var out []PlannedWork
	err := s.from(ctx).Clauses(clause.Returning{}).Where("machine_id = ?", machineID).Delete(&out).Error
	return out, err
}

// PlannedIsOrder has what was planned under one key be done in an order.
func (s *Store) PlannedIsOrder(ctx context.Context, from, to string, order int64) error {
	return s.from(ctx).Model(&PlannedWork{}).Where("key = ?", from).
		Updates(map[string]any{"key": to, "order_id": order, "fault_id": nil}).Error
}

// Notice is something that somebody is told.
type Notice struct {
	ID        int64      `json:"id"`
	AccountID int64      `json:"-"`
	At        time.Time  `json:"at"`
	Words     string     `json:"words"`
	Link      string     `json:"link" doc:"Page that it is about; empty where there is none"`
	Danger    bool       `json:"danger" doc:"It is about something that can hurt somebody"`
	ReadAt    *time.Time `json:"readAt,omitempty"`
}

// AddNotice tells somebody something.
func (s *Store) AddNotice(ctx context.Context, n Notice) error { return s.from(ctx).Create(&n).Error }

// Notices are somebody's newest, the newest first.
func (s *Store) Notices(ctx context.Context, account int64, most int) ([]Notice, error) {
	out := []Notice{}
	err := s.from(ctx).Where("account_id = ?", account).Order("id desc").Limit(most).Find(&out).Error
	return out, err
}

// ReadNotices notes that somebody has seen all up to a number.
func (s *Store) ReadNotices(ctx context.Context, account, upTo int64, at time.Time) error {
	return s.from(ctx).Model(&Notice{}).Where("account_id = ? and id <= ? and read_at is null", account, upTo).
		Update("read_at", at).Error
}

// apart is how long after a visit the next one counts as another.
const apart = 2 * time.Hour

// Visit notes that somebody is here.
func (s *Store) Visit(ctx context.Context, account int64, at time.Time) error {
	return s.from(ctx).Exec(`insert into visits as v (account_id, at) values (?, ?) on conflict (account_id) do update set
		before = case when excluded.at - v.at > ? * interval '1 second' then v.at else v.before end,
		at = greatest(v.at, excluded.at)`, account, at, apart.Seconds()).Error
}

// HereBefore is when somebody was here before they are now; nil where never.
func (s *Store) HereBefore(ctx context.Context, account int64, now time.Time) (*time.Time, error) {
	var row struct{ At, Before *time.Time }
	err := s.from(ctx).Raw("select at, before from visits where account_id = ?", account).Scan(&row).Error
	if row.At != nil && now.Sub(*row.At) > apart {
		return row.At, err
	}
	return row.Before, err
}

// WorkAhead is a work order that is open or waits for its turn, as far as planning needs it.
type WorkAhead struct {
	ID         int64
	MachineID  int64
	Title      string
	State      string
	Task       string
	FaultID    int64
	Minutes    float64  // that all of it usually takes; 0 where nobody knows
	Mains      bool     // a step that is not done puts hands on mains wiring
	Experience string   // what its kit says of who should fit it
	Models     []string `gorm:"serializer:json"` // of the parts that it fits
	Done       int
	Steps      int
	OpenedAt   time.Time
	Waits      string // for what it is left
}

// WorkAhead lists the orders that are open, and those that wait for their turn, in their order.
func (s *Store) WorkAhead(ctx context.Context) ([]WorkAhead, error) {
	var out []WorkAhead
	err := s.from(ctx).Raw(`
		select w.id, w.machine_id, coalesce(w.kit->>'name', '') as title, w.state, w.task,
			coalesce(w.fault_id, 0) as fault_id,
			coalesce((w.kit->>'minutes')::float, 0) as minutes, coalesce(w.kit->>'skill', '') as experience, w.opened_at,
			exists (select from work_steps t where t.work_order_id = w.id and t.done_at is null and t.skipped_why = ''
				and t.step->>'licensed' = 'true') as mains,
			coalesce((select jsonb_agg(distinct e->>'model') from jsonb_array_elements(case jsonb_typeof(w.kit->'effects')
				when 'array' then w.kit->'effects' else '[]' end) e where e->>'model' is not null), '[]') as models,
			(select count(*) from work_steps t where t.work_order_id = w.id) as steps,
			(select count(*) from work_steps t where t.work_order_id = w.id and
				(t.done_at is not null or t.skipped_why <> '')) as done,
			coalesce(nullif(w.parked_waits, ''), w.parked_why, '') as waits
		from work_orders w where w.state in ('open', 'planned') order by w.state = 'planned', w.id`).Scan(&out).Error
	return out, err
}
