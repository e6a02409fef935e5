package store

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/change"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/plan"
)

type orderRow struct {
	ID        int64
	MachineID int64
	KitKey    string
	Kit       []byte `gorm:"type:jsonb"`
	Further   []byte `gorm:"type:jsonb"`
	Verdict   []byte `gorm:"type:jsonb"`
	Reason    string
	State     string
	OpenedBy  string
	OpenedAt  time.Time
	ClosedBy  string
	ClosedAt  *time.Time
	Closing   []byte `gorm:"type:jsonb"`
}

func (orderRow) TableName() string { return "work_orders" }

type stepRow struct {
	WorkOrderID int64 `gorm:"primaryKey"`
	Seq         int   `gorm:"primaryKey"`
	Key         string
	Step        []byte `gorm:"type:jsonb"`
	Data        []byte `gorm:"type:jsonb"`
	Note        string
	DoneBy      string
	DoneAt      *time.Time
	SkippedWhy  string
	Version     int
}

func (stepRow) TableName() string { return "work_steps" }

// OrderHead is a work order without its steps.
type OrderHead struct {
	ID        int64      `json:"id"`
	MachineID int64      `json:"machineId"`
	Machine   string     `json:"machine"`
	Kit       string     `json:"kit"`
	Reason    string     `json:"reason"`
	State     string     `json:"state" enum:"planned,open,finished,abandoned"`
	OpenedBy  string     `json:"openedBy"`
	OpenedAt  time.Time  `json:"openedAt"`
	ClosedBy  string     `json:"closedBy,omitempty"`
	ClosedAt  *time.Time `json:"closedAt,omitempty"`
	Done      int        `json:"done"`
	Steps     int        `json:"steps"`
}

func (o orderRow) head() OrderHead {
	h := OrderHead{
		ID:        o.ID,
		MachineID: o.MachineID,
		Reason:    o.Reason,
		State:     o.State,
		OpenedBy:  o.OpenedBy,
		OpenedAt:  o.OpenedAt,
		ClosedBy:  o.ClosedBy,
		ClosedAt:  o.ClosedAt,
	}
	var k struct{ Name string }
	if json.Unmarshal(o.Kit, &k) == nil {
		h.Kit = k.Name
	}
	return h
}

// OrderStep is a step with how far it has come.
type OrderStep struct {
	change.Step
	Data       change.Data `json:"data"`
	Note       string      `json:"note"`
	DoneBy     string      `json:"doneBy,omitempty"`
	DoneAt     *time.Time  `json:"doneAt,omitempty"`
	SkippedWhy string      `json:"skippedWhy,omitempty"`
	Version    int         `json:"version"`
	Photos     []int64     `json:"photos"`
}

func (s OrderStep) progressed() change.Progressed {
	return change.Progressed{Step: s.Step, Done: s.DoneAt != nil, Skipped: s.SkippedWhy != ""}
}

func (o Order) progress() change.Progress {
	p := make(change.Progress, len(o.StepList))
	for i, s := range o.StepList {
		p[i] = s.progressed()
	}
	return p
}

// Closing is what finishing a work order did to the record.
type Closing struct {
	Exchanges []change.PartChange   `json:"exchanges"`
	Invalid   []calibration.Invalid `json:"voided" doc:"What is no longer valid"`
	Recorded  []string              `json:"recorded"`
	Missing   []string              `json:"missing" doc:"What the machine still lacks"`
}

// Order is a work order.
type Order struct {
	OrderHead
	Family string `json:"family" doc:"Firmware family, for the lines that store a value"`
	// And what has to be in before it is run.
	Remarks  []string    `json:"remarks" doc:"What was not right on the machine already when it was opened"`
	Delivery []string    `json:"delivery" doc:"What of the kit's parts is to be checked when it comes"`
	Expected Closing     `json:"expected" doc:"What the work will exchange and make invalid"`
	StepList []OrderStep `json:"stepList"`
	Closing  *Closing    `json:"closing,omitempty"`
	Planned  []OrderHead `json:"planned" doc:"What waits its turn on this machine"`
	Locked   int64       `json:"locked,omitempty" doc:"Number of the order that is open on the machine"`
}

// OpenWork opens a work order for a kit on a machine that it fits; the machine
// is locked out until the order is closed.
func (s *Store) OpenWork(
	ctx context.Context,
	machineID int64,
	kitKey, reason, by string,
	now time.Time,
) (int64, error) {
	var id int64
	err := s.tx(ctx, func(tx *gorm.DB) error {
		m, err := s.lockForNewOrder(tx, machineID, reason)
		if err != nil {
			return err
		}
		j, err := s.judge(tx, kitKey)
		if err != nil {
			return err
		}
		id, err = s.begin(ctx, tx, m, j, nil, orderRow{MachineID: machineID, KitKey: kitKey, Reason: reason}, by, now)
		return err
	})
	return id, err
}

// lockForNewOrder takes a machine's row for this transaction, and refuses work on it
// without a reason, on a retired machine, and while other work is open.
func (s *Store) lockForNewOrder(tx *gorm.DB, machineID int64, reason string) (Machine, error) {
	if err := machine.PlainText(reason); err != nil {
		return Machine{}, refuse("say why the machine is touched: a machine that works is left alone")
	}
	if _, err := lockMachine(tx, machineID); err != nil {
		return Machine{}, err
	}
	m, err := s.machine(tx, machineID)
	switch {
	case err != nil:
	case m.RetiredAt != nil:
		err = refuse("%s is retired", m.Name)
	case m.OpenOrder != nil:
		err = refuse(
			"%s is locked out: work order %d is open since %s",
			m.Name,
			m.OpenOrder.ID,
			m.OpenOrder.OpenedAt.Format(civil.Shown),
		)
	}
	return m, err
}

// begin judges a kit on a machine as it is now and writes the order's steps. rest are the
// kits that a plan has after it: where parts need what they bring, the machine is not run
// before they are in.
func (s *Store) begin(
	ctx context.Context,
	tx *gorm.DB,
	m Machine,
	j *fit.Judge,
	rest []*fit.Judge,
	row orderRow,
	by string,
	now time.Time,
) (int64, error) {
	j = j.On(m.Facts)
	row.KitKey = j.Kit.Key
	v := j.Verdict(m.Facts)
	if v.Answer == fit.DoesNotFit && len(rest) > 0 {
		until, ok, err := plan.Ahead(ctx, j, rest, m.Facts, m.Records)
		if err != nil {
			return 0, err
		}
		if ok {
			v = j.AtFitting().Verdict(m.Facts)
			v.Remarks = append(v.Remarks, "Not to be run before this is in as well: "+strings.Join(until, "; "))
		}
	}
	if v.Answer != fit.Fits && v.Answer != fit.FitsIf {
		return 0, refuse("%s on %s: %s. %s", j.Kit.Name, m.Name, v.Answer, v.Headline)
	}
	c, err := change.NewChange(j.Kit, v.Further, m.Facts)
	if err != nil {
		return 0, err
	}
	row.State, row.OpenedBy, row.OpenedAt, row.Closing = "open", by, now, []byte("null")
	if err := row.judged(j.Kit, v); err != nil {
		return 0, err
	}
	if err := tx.Save(&row).Error; err != nil {
		return 0, err
	}
	for i, step := range c.WorkOrder(m.Records) {
		text, err := json.Marshal(step)
		if err != nil {
			return 0, err
		}
		if err := tx.Create(&stepRow{WorkOrderID: row.ID, Seq: i + 1, Key: step.Key, Step: text, Data: []byte("{}"),
			Version: 1}).Error; err != nil {
			return 0, err
		}
	}
	return row.ID, nil
}

// judged keeps the kit as it was judged, with its verdict.
func (o *orderRow) judged(k fit.Kit, v fit.Verdict) (err error) {
	for _, part := range []struct {
		into *[]byte
		from any
	}{{&o.Kit, k}, {&o.Further, v.Further}, {&o.Verdict, v}} {
		if *part.into, err = json.Marshal(part.from); err != nil {
			return err
		}
	}
	return nil
}

// Orders lists work orders, open ones first, then what is planned, then the
// newest.
func (s *Store) Orders(ctx context.Context) ([]OrderHead, error) {
	var rows []struct {
		Order       orderRow `gorm:"embedded"`
		Machine     string
		Done, Steps int
	}
	err := s.from(ctx).Raw(`
		select w.*, m.name as machine, count(t.seq) as steps, count(t.seq) filter (where t.done_at is not null or
			t.skipped_why <> '') as done
		from work_orders w join machines m on m.id = w.machine_id left join work_steps t on t.work_order_id = w.id
		group by w.id, m.name
		order by w.state = 'open' desc, w.state = 'planned' desc, case w.state when 'planned' then w.id end,
		  coalesce(w.closed_at, w.opened_at) desc, w.id desc limit 200`).Scan(&rows).Error
	out := make([]OrderHead, len(rows))
	for i, r := range rows {
		out[i] = r.Order.head()
		out[i].Machine, out[i].Done, out[i].Steps = r.Machine, r.Done, r.Steps
	}
	return out, err
}

// Order loads a work order with its steps.
func (s *Store) Order(ctx context.Context, id int64) (Order, error) {
	o, _, _, err := s.order(s.from(ctx), id)
	return o, err
}

func (s *Store) order(tx *gorm.DB, id int64) (Order, change.Change, Machine, error) {
	var row orderRow
	if err := tx.First(&row, id).Error; err != nil {
		return Order{}, change.Change{}, Machine{}, found(err)
	}
	m, err := s.machine(tx, row.MachineID)
	if err != nil {
		return Order{}, change.Change{}, m, err
	}
	o := Order{OrderHead: row.head(), StepList: []OrderStep{}, Remarks: []string{}, Delivery: []string{}}
	var judged struct{ Remarks, Delivery []string } // as it was opened; of an earlier version it has neither
	if len(row.Verdict) > 0 {
		if err := json.Unmarshal(row.Verdict, &judged); err != nil {
			return o, change.Change{}, m, err
		}
	}
	o.Remarks, o.Delivery = append(o.Remarks, judged.Remarks...), append(o.Delivery, judged.Delivery...)
	o.Machine, o.Family, o.Planned = m.Name, m.Family(), m.Planned
	if m.OpenOrder != nil {
		o.Locked = m.OpenOrder.ID
	}
	kit, further, err := row.kit()
	if err != nil {
		return o, change.Change{}, m, err
	}
	c, err := change.NewChange(kit, further, m.Facts)
	if err != nil {
		return o, c, m, err
	}
	o.Expected = Closing{
		Exchanges: c.Exchanges,
		Invalid:   c.Invalidated(m.Records),
		Recorded:  []string{},
		Missing:   []string{},
	}
	if row.State == "finished" {
		if err := json.Unmarshal(row.Closing, &o.Closing); err != nil {
			return o, c, m, err
		}
		o.Expected = *o.Closing
	}
	var steps []stepRow
	if err := tx.Where("work_order_id = ?", id).Order("seq").Find(&steps).Error; err != nil {
		return o, c, m, err
	}
	var photos []struct {
		ID      int64
		StepKey string
	}
	if err := tx.Table("photos").Select("id, step_key").Where("work_order_id = ?",
		id).Order("id").Scan(&photos).Error; err != nil {
		return o, c, m, err
	}
	for _, r := range steps {
		step := OrderStep{
			Note:       r.Note,
			DoneBy:     r.DoneBy,
			DoneAt:     r.DoneAt,
			SkippedWhy: r.SkippedWhy,
			Version:    r.Version,
			Photos:     []int64{},
		}
		if err := json.Unmarshal(r.Step, &step.Step); err != nil {
			return o, c, m, err
		}
		if err := json.Unmarshal(r.Data, &step.Data); err != nil {
			return o, c, m, err
		}
		for _, p := range photos {
			if p.StepKey == r.Key {
				step.Photos = append(step.Photos, p.ID)
			}
		}
		if step.progressed().Settled() {
			o.Done++
		}
		o.StepList = append(o.StepList, step)
	}
	o.Steps = len(o.StepList)
	return o, c, m, nil
}

// StepChange is what a technician does to a step.
type StepChange struct {
	Version int         `json:"version"`
	Data    change.Data `json:"data"`
	Note    string      `json:"note" maxLength:"20000"`
	Do      string      `json:"do" enum:"save,tick,skip,undo" doc:"save keeps what is typed so far"`
	Why     string      `json:"why,omitempty" doc:"Reason for skipping"`
}

// SaveStep keeps what was typed into a step and, as asked, ticks it, skips it
// with a reason, or undoes that. Steps are done in their order.
func (s *Store) SaveStep(ctx context.Context, id int64, key string, ch StepChange, by string, now time.Time) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		if err := lockOrder(tx, id); err != nil {
			return err
		}
		o, c, m, err := s.order(tx, id)
		if err != nil {
			return err
		}
		at := -1
		for i := range o.StepList {
			if o.StepList[i].Key == key {
				at = i
			}
		}
		if at < 0 {
			return ErrNotFound
		}
		step := o.StepList[at]
		if step.Version != ch.Version {
			return &Conflict{
				Sentence: "this step was changed on another screen meanwhile; what you typed is kept here, compare it with " +
					"what is there now",
				Current: step,
			}
		}
		set := map[string]any{"version": step.Version + 1}
		if ch.Do != "undo" {
			if step.progressed().Settled() {
				return refuse("%q is settled already; undo it before you change it", step.Title)
			}
			data, err := json.Marshal(ch.Data)
			if err != nil {
				return err
			}
			set["data"], set["note"] = data, ch.Note
		}
		switch ch.Do {
		case "tick", "skip":
			if err := o.progress().MaySettle(at); err != nil {
				return refuse("%s", err)
			}
			if ch.Do == "skip" {
				if err := machine.PlainText(ch.Why); err != nil {
					return refuse("a step is skipped with a reason: %s", err)
				}
				set["skipped_why"], set["done_by"] = ch.Why, by
				break
			}
			res, err := step.Check(ch.Data, m.LastFile(), strings.TrimSpace(ch.Note) != "", c.After)
			if err != nil {
				return refused(err)
			}
			if err := s.checkFlashed(tx, res); err != nil {
				return err
			}
			set["done_by"], set["done_at"] = by, now
		case "undo":
			if err := o.progress().MayUndo(at); err != nil {
				return refuse("%s", err)
			}
			set["done_by"], set["done_at"], set["skipped_why"] = "", nil, ""
		}
		return tx.Model(&stepRow{}).Where("work_order_id = ? and key = ?", id, key).Updates(set).Error
	})
}

// lockOrder takes an open order's row for this transaction.
func lockOrder(tx *gorm.DB, id int64) error {
	var row orderRow
	if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).First(&row, id).Error; err != nil {
		return found(err)
	}
	if row.State != "open" {
		return refuse("work order %d is %s", id, row.State)
	}
	return nil
}

// Abandon closes a work order of which nothing was done to the machine yet, or
// takes a planned one out of its plan.
func (s *Store) Abandon(ctx context.Context, id int64, by string, now time.Time) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		closed := map[string]any{"state": "abandoned", "closed_by": by, "closed_at": now}
		if planned := tx.Model(&orderRow{}).Where("id = ? and state = 'planned'", id).Updates(closed); planned.Error != nil ||
			planned.RowsAffected == 1 {
			return planned.Error
		}
		if err := lockOrder(tx, id); err != nil {
			return err
		}
		o, _, _, err := s.order(tx, id)
		if err != nil {
			return err
		}
		if err := o.progress().MayAbandon(); err != nil {
			return refuse("%s", err)
		}
		return tx.Model(&orderRow{}).Where("id = ?", id).Updates(closed).Error
	})
}

// Finish closes a work order all of whose steps are settled: the parts it
// fitted become the as-fitted record, what depends on the old ones is no longer valid, and
// what its steps found is recorded. minutes is the time it took; 0 counts the
// kit's own.
func (s *Store) Finish(ctx context.Context, id int64, minutes int, by string, now time.Time) (Closing, error) {
	var closing Closing
	err := s.tx(ctx, func(tx *gorm.DB) error {
		if err := lockOrder(tx, id); err != nil {
			return err
		}
		o, c, m, err := s.order(tx, id)
		if err != nil {
			return err
		}
		if err := o.progress().MayFinish(); err != nil {
			return refuse("%s", err)
		}
		closing = Closing{Exchanges: c.Exchanges, Invalid: c.Invalidated(m.Records), Recorded: []string{}}
		if err := invalidate(tx, closing.Invalid, cause{order: &id}, now); err != nil {
			return err
		}
		results := make([]change.Result, len(o.StepList))
		for i, step := range o.StepList {
			if step.DoneAt == nil {
				continue
			}
			if results[i], err = step.Check(step.Data, m.LastFile(), step.Note != "", c.After); err != nil {
				return refuse("%s: %s", step.Title, err)
			}
		}
		for _, f := range c.AsFitted(results, now) {
			at := fittingRow{
				MachineID:   m.ID,
				Slot:        f.Slot,
				FittedAt:    now,
				WorkOrderID: &id,
				Why:         fmt.Sprintf("fitted in work order %d", id),
				MovedBy:     by,
			}
			switch {
			case f.Slot == "":
				err = takes(tx, m.ID, nil, f.Takes)
			case f.From != "":
				err = s.shift(tx, f.From, at, f.Takes)
			default:
				err = s.exchange(tx, at, f)
			}
			if err != nil {
				return err
			}
		}
		if c.Build {
			if err := configure(tx, m.ID, firmware.Configuration(c.After), false); err != nil {
				return err
			}
		}
		for _, a := range c.Set {
			trait := m.Facts.Fact(a.Key).Trait
			says := a.Before + " → " + trait.Show(a.Value)
			if err := s.set(tx, m, a, fmt.Sprintf("work order %d: %s", id, says), by, now); err != nil {
				return err
			}
			closing.Recorded = append(closing.Recorded, trait.Label+": "+says)
		}
		closing.Recorded = append(closing.Recorded, c.Carried()...)
		if c.Build {
			if err := s.flashed(tx, m, results, by, now); err != nil {
				return err
			}
		}
		after, err := s.machine(tx, m.ID)
		if err != nil {
			return err
		}
		if err := s.recordResults(tx, m, after, o, results, c.Build, &closing, now); err != nil {
			return err
		}
		if minutes == 0 {
			_, minutes = c.Cost()
		}
		if minutes > 0 {
			if err := tx.Create(&labourRow{MachineID: m.ID, WorkOrderID: &id, At: now, By: by, Minutes: minutes,
				What: o.Kit}).Error; err != nil {
				return err
			}
		}
		if after, err = s.machine(tx, m.ID); err != nil {
			return err
		}
		closing.Missing = change.Missing(after.Facts, after.Records)
		text, err := json.Marshal(closing)
		if err != nil {
			return err
		}
		return tx.Model(&orderRow{}).
			Where("id = ?", id).
			Updates(map[string]any{"state": "finished", "closed_by": by, "closed_at": now, "closing": text}).
			Error
	})
	return closing, err
}

// recordResults records what the steps found, in their order, and the values that were
// entered again after the new build. after is the machine with its new parts; what was
// read off a new build is on record already.
func (s *Store) recordResults(
	tx *gorm.DB,
	m, after Machine,
	o Order,
	results []change.Result,
	flashed bool,
	closing *Closing,
	now time.Time,
) error {
	keep := func(r calibration.Record, where string) error {
		c, _ := calibration.Of(r.Kind)
		closing.Recorded = append(closing.Recorded, fmt.Sprintf("%s: %s%s", c.On(after.Facts, r.Subject), r.Value, where))
		r.Proof.Build = proven(r, after.Facts)
		return recordCalibration(tx, m.ID, &o.ID, r)
	}
	for i, step := range o.StepList {
		if step.DoneAt == nil {
			continue
		}
		if step.Key == change.Reenter {
			for _, r := range calibration.EnteredAgain(closing.Invalid, m.Records, step.DoneBy, *step.DoneAt) {
				if err := keep(r, ", entered again"); err != nil {
					return err
				}
			}
		}
		if !flashed {
			if err := s.read(tx, after, results[i].Readings, step.DoneBy, now); err != nil {
				return err
			}
		}
		for _, r := range results[i].Calibrations {
			r.At, r.By = *step.DoneAt, step.DoneBy
			if err := keep(r, " ("+r.Store+")"); err != nil {
				return err
			}
			if err := testDone(tx, m.ID, r, now); err != nil {
				return err
			}
		}
	}
	return nil
}
