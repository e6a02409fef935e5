package store

import (
	"context"
	"encoding/json"
	"strconv"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
)

type orderRow struct {
	ID         int64
	MachineID  int64
	KitKey     string
	Kit        []byte `gorm:"type:jsonb"`
	Further    []byte `gorm:"type:jsonb"`
	Verdict    []byte `gorm:"type:jsonb"`
	Reason     string
	State      string
	OpenedBy   string
	OpenedByID *int64
	OpenedAt   time.Time
	ClosedBy   string
	ClosedAt   *time.Time
	Closing    []byte `gorm:"type:jsonb"`

	ParkedAt     *time.Time
	ParkedBy     string
	ParkedWhy    string
	ParkedLoose  string
	ParkedScrews string
	ParkedWaits  string

	FaultID *int64
	Task    string
	Batch   *int64
	Spares  []byte `gorm:"type:jsonb"`

	BackAt  *time.Time
	BackBy  string
	BackWhy string
}

// rolledBack is why the work is rolled back; nil where it is not.
func (o orderRow) rolledBack() *RolledBack {
	if o.BackAt == nil {
		return nil
	}
	return &RolledBack{Why: o.BackWhy, By: o.BackBy, At: *o.BackAt}
}

// RolledBack is why and by whom work is rolled back.
type RolledBack struct {
	Why string    `json:"why"`
	By  string    `json:"by"`
	At  time.Time `json:"at"`
}

// parked is why and how the work was left; nil where it goes on.
func (o orderRow) parked() *change.Parked {
	if o.ParkedAt == nil {
		return nil
	}
	return &change.Parked{Why: o.ParkedWhy, Loose: o.ParkedLoose, Screws: o.ParkedScrews, Waits: o.ParkedWaits,
		At: o.ParkedAt, By: o.ParkedBy}
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
	ID         int64      `json:"id"`
	MachineID  int64      `json:"machineId"`
	Machine    string     `json:"machine"`
	Kit        string     `json:"kit"`
	Reason     string     `json:"reason"`
	State      string     `json:"state" enum:"planned,open,finished,abandoned"`
	OpenedBy   string     `json:"openedBy"`
	OpenedByID int64      `json:"openedById,omitempty" doc:"Number of the account that opened it"`
	OpenedAt   time.Time  `json:"openedAt"`
	ClosedBy   string     `json:"closedBy,omitempty"`
	ClosedAt   *time.Time `json:"closedAt,omitempty"`
	Done       int        `json:"done"`
	Steps      int        `json:"steps"`
	Fault      int64      `json:"fault,omitempty" doc:"Number of the fault that it mends"`
	Task       string     `json:"task,omitempty" doc:"Key of the maintenance task that it is"`
	Batch      int64      `json:"batch,omitempty" doc:"Number of the first order of those that are done together"`
}

func (o orderRow) head() OrderHead {
	h := OrderHead{
		ID:         o.ID,
		MachineID:  o.MachineID,
		Reason:     o.Reason,
		State:      o.State,
		OpenedBy:   o.OpenedBy,
		OpenedByID: orZero(o.OpenedByID),
		OpenedAt:   o.OpenedAt,
		ClosedBy:   o.ClosedBy,
		ClosedAt:   o.ClosedAt,
		Task:       o.Task,
	}
	h.Fault, h.Batch = orZero(o.FaultID), orZero(o.Batch)
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

// StoredOrder is a work order as it is kept: what was judged when it was opened, its steps
// as they stand, and what came of it.
type StoredOrder struct {
	OrderHead
	KitKey     string
	Kit        fit.Kit
	Additional []fit.AdditionalChange
	// Remarks and Delivery are those of the verdict; empty of an order of earlier versions.
	Remarks, Delivery []string
	StepList          []OrderStep
	Closing           *change.Closing // of a finished one
	Parked            *change.Parked
	Locks             []change.Lock
	Back              *RolledBack
	Spares            map[string]int64 // parts of the shelf that go in, by position
}

// Orders lists work orders, open ones first, then what is planned, then the
// newest.
func (s *Store) Orders(ctx context.Context, c Cut) (Listed[OrderHead], error) {
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
		  coalesce(w.closed_at, w.opened_at) desc, w.id desc limit nullif(?, -1) offset ?`, c.rows(), c.Offset).
		Scan(&rows).Error
	if err != nil {
		return Listed[OrderHead]{}, err
	}
	out := Listed[OrderHead]{Rows: make([]OrderHead, len(rows))}
	for i, r := range rows {
		out.Rows[i] = r.Order.head()
		out.Rows[i].Machine, out.Rows[i].Done, out.Rows[i].Steps = r.Machine, r.Done, r.Steps
	}
	return out, s.from(ctx).Raw("select count(*) from work_orders").Scan(&out.Found).Error
}

// Order loads a work order with its steps; its head counts them and names the machine.
func (s *Store) Order(ctx context.Context, id int64) (StoredOrder, error) {
	tx := s.from(ctx)
	var row orderRow
	if err := tx.First(&row, id).Error; err != nil {
		return StoredOrder{}, found(err)
	}
	o := StoredOrder{OrderHead: row.head(), KitKey: row.KitKey, Parked: row.parked(), Back: row.rolledBack()}
	var err error
	if o.Locks, err = s.Locks(ctx, id); err != nil {
		return o, err
	}
	if o.Kit, o.Additional, err = row.kit(); err != nil {
		return o, err
	}
	if err := json.Unmarshal(row.Spares, &o.Spares); err != nil {
		return o, err
	}
	var judged struct{ Remarks, Delivery []string }
	if len(row.Verdict) > 0 {
		if err := json.Unmarshal(row.Verdict, &judged); err != nil {
			return o, err
		}
	}
	o.Remarks, o.Delivery = append([]string{}, judged.Remarks...), append([]string{}, judged.Delivery...)
	if row.State == Finished || row.BackAt != nil && row.State == Abandoned {
		if err := json.Unmarshal(row.Closing, &o.Closing); err != nil {
			return o, err
		}
		// Until lists were always written, one of nothing was kept as null.
		o.Closing.Recorded = append([]string{}, o.Closing.Recorded...)
		o.Closing.Missing = append([]string{}, o.Closing.Missing...)
	}
	if err := tx.Table("machines").Where("id = ?", row.MachineID).Pluck("name", &o.Machine).Error; err != nil {
		return o, err
	}
	o.StepList, err = stepsOf(tx, id)
	o.Steps = len(o.StepList)
	for _, step := range o.StepList {
		if step.DoneAt != nil || step.SkippedWhy != "" {
			o.Done++
		}
	}
	return o, err
}

// stepsOf are the steps of an order in their order.
func stepsOf(tx *gorm.DB, order int64) ([]OrderStep, error) {
	var rows []stepRow
	if err := tx.Where("work_order_id = ?", order).Order("seq").Find(&rows).Error; err != nil {
		return nil, err
	}
	var photos []struct {
		ID      int64
		StepKey string
	}
	if err := tx.Table("photos").Select("id, step_key").Where("work_order_id = ?",
		order).Order("id").Scan(&photos).Error; err != nil {
		return nil, err
	}
	of := map[string][]int64{}
	for _, p := range photos {
		of[p.StepKey] = append(of[p.StepKey], p.ID)
	}
	out := make([]OrderStep, len(rows))
	for i, r := range rows {
		out[i] = OrderStep{Note: r.Note, DoneBy: r.DoneBy, DoneAt: r.DoneAt, SkippedWhy: r.SkippedWhy, Version: r.Version,
			Photos: append([]int64{}, of[r.Key]...)}
		if err := json.Unmarshal(r.Step, &out[i].Step); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(r.Data, &out[i].Data); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// States of a work order.
const (
	Planned   = "planned"
	Opened    = "open"
	Finished  = "finished"
	Abandoned = "abandoned"
)

// NewOrder is a work order that is written, or a planned one that is begun.
type NewOrder struct {
	ID        int64 // of the planned one; 0 for a new one
	MachineID int64
	KitKey    string
	Kit       fit.Kit
	Verdict   fit.Verdict
	Reason    string
	State     string // Planned or Opened
	By        string
	At        time.Time
	Steps     []change.Step // none while it is planned
	Fault     int64         // that it mends; 0 where it is for none
	Task      string        // of maintenance; empty where it is none
	Batch     int64         // the first order of those done together; 0 where it is by itself
	Spares    map[string]int64
}

// WriteOrder writes a work order with its steps, and gives its number.
func (s *Store) WriteOrder(ctx context.Context, o NewOrder) (int64, error) {
	row := orderRow{ID: o.ID, MachineID: o.MachineID, KitKey: o.KitKey, Reason: o.Reason, State: o.State, OpenedBy: o.By,
		OpenedByID: orNil(actorOf(ctx).Account), OpenedAt: o.At, Closing: []byte("null"), Task: o.Task}
	row.FaultID, row.Batch = orNil(o.Fault), orNil(o.Batch)
	spares := o.Spares
	if spares == nil {
		spares = map[string]int64{}
	}
	for _, part := range []struct {
		into *[]byte
		from any
	}{{&row.Kit, o.Kit}, {&row.Further, o.Verdict.Additional}, {&row.Verdict, o.Verdict}, {&row.Spares, spares}} {
		var err error
		if *part.into, err = json.Marshal(part.from); err != nil {
			return 0, err
		}
	}
	if err := s.from(ctx).Save(&row).Error; err != nil {
		return 0, err
	}
	for i, step := range o.Steps {
		text, err := json.Marshal(step)
		if err != nil {
			return 0, err
		}
		if err := s.from(ctx).Create(&stepRow{WorkOrderID: row.ID, Seq: i + 1, Key: step.Key, Step: text,
			Data: []byte("{}"), Version: 1}).Error; err != nil {
			return 0, err
		}
	}
	return row.ID, nil
}

// AddStep puts a step into an order after one of its steps.
func (s *Store) AddStep(ctx context.Context, order int64, after string, step change.Step) error {
	text, err := json.Marshal(step)
	if err != nil {
		return err
	}
	return s.tx(ctx, func(tx *gorm.DB) error {
		var at stepRow
		if err := tx.Where("work_order_id = ? and key = ?", order, after).First(&at).Error; err != nil {
			return found(err)
		}
		// Out of the way first: two steps never have one place.
		if err := tx.Exec("update work_steps set seq = -(seq + 1) where work_order_id = ? and seq > ?", order,
			at.Seq).Error; err != nil {
			return err
		}
		if err := tx.Exec("update work_steps set seq = -seq where work_order_id = ? and seq < 0", order).Error; err != nil {
			return err
		}
		return tx.Create(&stepRow{WorkOrderID: order, Seq: at.Seq + 1, Key: step.Key, Step: text, Data: []byte("{}"),
			Version: 1}).Error
	})
}

// WriteOrderKit writes what an order changes, as it is done now.
func (s *Store) WriteOrderKit(ctx context.Context, order int64, kit fit.Kit) error {
	text, err := json.Marshal(kit)
	if err != nil {
		return err
	}
	return s.from(ctx).Model(&orderRow{}).Where("id = ?", order).Update("kit", text).Error
}

// WriteSteps writes the steps of an order anew, in their order, each as its next version.
func (s *Store) WriteSteps(ctx context.Context, order int64, steps []OrderStep) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		if err := tx.Where("work_order_id = ?", order).Delete(&stepRow{}).Error; err != nil {
			return err
		}
		for i, st := range steps {
			row := stepRow{WorkOrderID: order, Seq: i + 1, Key: st.Key, Note: st.Note, DoneBy: st.DoneBy, DoneAt: st.DoneAt,
				SkippedWhy: st.SkippedWhy, Version: st.Version + 1}
			var err error
			if row.Step, err = json.Marshal(st.Step); err != nil {
				return err
			}
			if row.Data, err = json.Marshal(st.Data); err != nil {
				return err
			}
			if err := tx.Create(&row).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

// SpareOf is the open order for which a part of the shelf is meant; 0 where it is for none.
func (s *Store) SpareOf(ctx context.Context, part int64) (order int64, err error) {
	err = s.from(ctx).Raw(`select w.id from work_orders w, jsonb_each_text(w.spares) as spare
		where w.state = ? and spare.value = ? limit 1`, Opened, strconv.FormatInt(part, 10)).Scan(&order).Error
	return order, err
}

// RollBack notes that an order is rolled back.
func (s *Store) RollBack(ctx context.Context, order int64, b RolledBack) error {
	return s.from(ctx).Model(&orderRow{}).Where("id = ?", order).
		Updates(map[string]any{"back_at": b.At, "back_by": b.By, "back_why": b.Why}).Error
}

// InBatch makes an order the first of a batch, or another of it.
func (s *Store) InBatch(ctx context.Context, order, first int64) error {
	return s.from(ctx).Model(&orderRow{}).Where("id = ?", order).Update("batch", first).Error
}

// BatchOf lists the numbers of the orders of a batch.
func (s *Store) BatchOf(ctx context.Context, first int64) (ids []int64, err error) {
	err = s.from(ctx).Model(&orderRow{}).Where("batch = ?", first).Order("id").Pluck("id", &ids).Error
	return ids, err
}

// LockOrder takes a work order for the transaction, and tells its state.
func (s *Store) LockOrder(ctx context.Context, id int64) (state string, err error) {
	if err := s.lockMachineOf(ctx, "work_orders", id); err != nil {
		return "", err
	}
	var row orderRow
	err = s.from(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).Select("id", "state").First(&row, id).Error
	return row.State, found(err)
}

// HasStep reports whether an order has a step of a key.
func (s *Store) HasStep(ctx context.Context, order int64, key string) (bool, error) {
	var n int64
	err := s.from(ctx).Model(&stepRow{}).Where("work_order_id = ? and key = ?", order, key).Count(&n).Error
	return n > 0, err
}

// WriteStep writes how far a step has come, as its next version.
func (s *Store) WriteStep(ctx context.Context, order int64, step OrderStep) error {
	data, err := json.Marshal(step.Data)
	if err != nil {
		return err
	}
	return s.from(ctx).Model(&stepRow{}).Where("work_order_id = ? and key = ?", order, step.Key).
		Updates(map[string]any{"data": data, "note": step.Note, "done_by": step.DoneBy, "done_at": step.DoneAt,
			"skipped_why": step.SkippedWhy, "version": gorm.Expr("version + 1")}).Error
}

// CloseOrder ends a work order as Finished, with what came of it, or as Abandoned.
func (s *Store) CloseOrder(ctx context.Context, id int64, state string, closing *change.Closing, by string,
	at time.Time) error {
	text, err := json.Marshal(closing)
	if err != nil {
		return err
	}
	return s.from(ctx).Model(&orderRow{}).Where("id = ?", id).
		Updates(map[string]any{"state": state, "closed_by": by, "closed_at": at, "closing": text}).Error
}

// ReplanOrder puts an abandoned order back into the plan of its machine. ErrNotFound is for an order that was begun
// before, which has steps, for a retired machine, and for a machine with newer orders.
func (s *Store) ReplanOrder(ctx context.Context, id int64) error {
	return gone(s.from(ctx).Exec(`update work_orders o set state = @planned, closed_by = '', closed_at = null,
			closing = 'null'
		where id = @id and state = @abandoned
			and not exists (select 1 from work_steps t where t.work_order_id = o.id)
			and exists (select 1 from machines m where m.id = o.machine_id and m.retired_at is null)
			and not exists (select 1 from work_orders l where l.machine_id = o.machine_id and l.id > o.id
				and l.opened_at > o.closed_at)`,
		map[string]any{"id": id, "planned": Planned, "abandoned": Abandoned}))
}

// PlannedAfter lists the keys of the kits that a machine's plan has after an order.
func (s *Store) PlannedAfter(ctx context.Context, machineID, id int64) (keys []string, err error) {
	err = s.from(ctx).Raw("select kit_key from work_orders where machine_id = ? and state = ? and id > ? order by id",
		machineID, Planned, id).Scan(&keys).Error
	return keys, err
}
