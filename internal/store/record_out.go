package store

import (
	"context"
	"encoding/json"
	"io"
	"slices"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/recordfile"
)

// exporter writes a record file from the database, a few parts or one machine at a time.
type exporter struct {
	tx        *gorm.DB
	out       *recordfile.Writer
	partNo    map[int64]int
	orders    map[int64]int // number within the machine, by id
	buildName map[int64]string
	// These are of the parts or the machine that are being written.
	readings   map[Held][]readingRow
	unreadable map[Held][]recordfile.Unreadable
	photos     map[int64][]recordfile.Photo // by reading or fault
	steps      map[int64]map[string][]recordfile.Photo
}

// WriteRecordTo writes the whole record of machines: of those given, with the parts that are or were in them, or of the
// fleet with its shelf, retired machines and saved questions. It is read as of one moment.
func (s *Store) WriteRecordTo(ctx context.Context, to io.Writer, ids ...int64) error {
	e := exporter{out: recordfile.NewWriter(to), partNo: map[int64]int{}, orders: map[int64]int{},
		buildName: map[int64]string{}}
	return s.from(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Exec("set transaction isolation level repeatable read, read only").Error; err != nil {
			return err
		}
		e.tx = tx
		return e.gather(ids)
	})
}

func list[T any](tx *gorm.DB, order, where string, args ...any) ([]T, error) {
	var rows []T
	q := tx.Order(order)
	if where != "" {
		q = q.Where(where, args...)
	}
	return rows, q.Find(&rows).Error
}

func (e *exporter) gather(ids []int64) error {
	catalogue, _, err := loadCatalogue(e.tx)
	if err != nil {
		return err
	}
	head := recordfile.File{Catalogue: catalogue}
	if len(ids) == 0 {
		if head.Kits, err = kits(e.tx); err != nil {
			return err
		}
	}
	of := func(column string) (string, []any) {
		if len(ids) == 0 {
			return "", nil
		}
		return column + " in ?", []any{ids}
	}
	where, args := of("id")
	machines, err := list[machineRow](e.tx, "lower(name), id", where, args...)
	if err != nil {
		return err
	}
	if len(machines) < len(ids) {
		return ErrNotFound
	}
	if err := e.out.Begin(head); err != nil {
		return err
	}
	where, args = of("machine_id")
	fittings, err := list[fittingRow](e.tx, "fitted_at, id", where, args...)
	if err != nil {
		return err
	}
	if err := e.parts(ids, machines, fittings); err != nil {
		return err
	}
	if err := e.builds(ids); err != nil {
		return err
	}
	at := map[int64][]fittingRow{}
	for _, f := range fittings {
		at[f.MachineID] = append(at[f.MachineID], f)
	}
	for _, m := range machines {
		if err := e.machine(m, at[m.ID]); err != nil {
			return err
		}
	}
	end := recordfile.File{}
	if len(ids) == 0 {
		if end, err = e.questions(); err != nil {
			return err
		}
	}
	return e.out.End(end)
}

// loadPhotos reads pictures of something, by what they belong to.
func (e *exporter) loadPhotos(where string, args ...any) error {
	e.photos, e.steps = map[int64][]recordfile.Photo{}, map[int64]map[string][]recordfile.Photo{}
	rows, err := list[photoRow](e.tx, "id", where, args...)
	if err != nil {
		return err
	}
	for _, r := range rows {
		h, ok := hashOf(r.Sha256)
		if !ok {
			continue // its file was lost before pictures were kept in the database
		}
		jpeg, err := file(e.tx, h)
		if err != nil {
			return err
		}
		p := recordfile.Photo{JPEG: jpeg, At: r.TakenAt.UTC(), By: r.TakenBy}
		switch {
		case r.ReadingID != nil:
			e.photos[*r.ReadingID] = append(e.photos[*r.ReadingID], p)
		case r.FaultID != nil:
			e.photos[*r.FaultID] = append(e.photos[*r.FaultID], p)
		default:
			if e.steps[*r.WorkOrderID] == nil {
				e.steps[*r.WorkOrderID] = map[string][]recordfile.Photo{}
			}
			e.steps[*r.WorkOrderID][*r.StepKey] = append(e.steps[*r.WorkOrderID][*r.StepKey], p)
		}
	}
	return nil
}

func utc(t *time.Time) *time.Time {
	if t == nil {
		return nil
	}
	u := t.UTC()
	return &u
}

func changed(version int, by string, at time.Time) recordfile.Changed {
	return recordfile.Changed{Version: version, By: by, At: at.UTC()}
}

// parts writes the parts in the order of the machines that they were fitted in
// first, so that the same record gives the same file from any database.
func (e *exporter) parts(ids []int64, machines []machineRow, fittings []fittingRow) error {
	rows, err := list[partRow](e.tx, "id", "")
	if err != nil {
		return err
	}
	at := map[int64]partRow{}
	for _, r := range rows {
		at[r.ID] = r
	}
	var order []int64
	place := map[int64]int{}
	for i, m := range machines {
		place[m.ID] = i
	}
	sorted := slices.Clone(fittings)
	slices.SortStableFunc(sorted, func(a, b fittingRow) int { return place[a.MachineID] - place[b.MachineID] })
	seen := map[int64]bool{}
	for _, f := range sorted {
		if id := f.part(); id != 0 && !seen[id] {
			seen[id] = true
			order = append(order, id)
		}
	}
	if len(ids) == 0 {
		for _, r := range rows { // those that were never in a machine
			if !seen[r.ID] {
				order = append(order, r.ID)
			}
		}
	}
	for i, id := range order {
		e.partNo[id] = i + 1
	}
	for some := range slices.Chunk(order, partsAtOnce) {
		if err := e.loadFound("part_id", some); err != nil {
			return err
		}
		for _, id := range some {
			r := at[id]
			err := e.out.Part(recordfile.Part{
				No:          e.partNo[id],
				Kind:        r.Kind,
				Tag:         r.Tag,
				Serial:      r.Serial,
				Supplier:    r.Supplier,
				Price:       r.Price,
				BoughtOn:    r.fields().BoughtOn,
				Note:        r.Note,
				Shelf:       r.Shelf,
				Lot:         r.Lot,
				ScrappedAt:  utc(r.ScrappedAt),
				ScrappedWhy: r.ScrappedWhy,
				Changed:     changed(r.Version, r.ChangedBy, r.ChangedAt),
				Readings:    e.found(Held{Part: id}),
				Unreadable:  e.unreadable[Held{Part: id}],
			})
			if err != nil {
				return err
			}
		}
	}
	return nil
}

// partsAtOnce is of how many parts the readings are in memory.
const partsAtOnce = 200

// loadFound reads what was read of parts or of what was fitted, with its pictures.
func (e *exporter) loadFound(column string, ids []int64) error {
	e.readings, e.unreadable = map[Held][]readingRow{}, map[Held][]recordfile.Unreadable{}
	where := column + " = any(?::bigint[])"
	readings, err := list[readingRow](e.tx, "taken_at, id", where, arrayOf(ids))
	if err != nil {
		return err
	}
	for _, r := range readings {
		e.readings[r.held()] = append(e.readings[r.held()], r)
	}
	tried, err := list[unreadableRow](e.tx, "at, id", where, arrayOf(ids))
	if err != nil {
		return err
	}
	for _, u := range tried {
		of := Held{Part: orZero(u.PartID), Fitting: orZero(u.FittingID)}
		e.unreadable[of] = append(
			e.unreadable[of],
			recordfile.Unreadable{Trait: u.Trait, Inspection: u.Inspection, Why: u.Why, At: u.At.UTC(), By: u.By},
		)
	}
	return e.loadPhotos("reading_id in (select id from readings where "+where+")", arrayOf(ids))
}

// found are the readings of something.
func (e *exporter) found(of Held) []recordfile.Reading {
	var out []recordfile.Reading
	for _, x := range e.readings[of] {
		out = append(
			out,
			recordfile.Reading{
				Trait:       x.Trait,
				Value:       x.Value,
				Grade:       machine.Grade(x.Grade),
				At:          x.TakenAt.UTC(),
				By:          x.TakenBy,
				How:         x.How,
				Note:        x.Note,
				SetAsideWhy: x.SetAsideWhy,
				SetAsideBy:  x.SetAsideBy,
				SetAsideAt:  utc(x.SetAsideAt),
				AsFitted:    x.AsFitted,
				Photos:      e.photos[x.ID],
			},
		)
	}
	return out
}

// builds writes the builds that run or ran on the machines, all of them of a whole fleet.
func (e *exporter) builds(ids []int64) error {
	where, args := "", []any{}
	if len(ids) > 0 {
		where, args = "id in (select build_id from build_runs u join fittings f on f.id = u.fitting_id where "+
			"f.machine_id in ?)", []any{
			ids,
		}
	}
	rows, err := list[buildRow](e.tx, "lower(name)", where, args...)
	if err != nil {
		return err
	}
	var out []recordfile.Build
	for _, r := range rows {
		b, err := r.build()
		if err != nil {
			return err
		}
		e.buildName[r.ID] = r.Name
		out = append(out, recordfile.Build{Build: b, Changed: changed(r.Version, r.ChangedBy, r.ChangedAt)})
	}
	return e.out.Builds(out)
}

// run writes what a board ran.
func (e *exporter) run(f fittingRow, order int, takes []machine.Taking) (recordfile.Run, error) {
	out := recordfile.Run{
		Slot:       f.Slot,
		From:       f.FittedAt.UTC(),
		To:         utc(f.RemovedAt),
		Order:      order,
		Why:        f.Why,
		By:         f.MovedBy,
		Takes:      takes,
		Readings:   e.found(f.held()),
		Unreadable: e.unreadable[f.held()],
	}
	var row runRow
	if err := e.tx.First(&row, "fitting_id = ?", f.ID).Error; err != nil {
		return out, err
	}
	out.Board = row.Board
	if row.BuildID != nil {
		out.Build = e.buildName[*row.BuildID]
	}
	var err error
	out.Configured, err = row.configured()
	return out, err
}

func (e *exporter) machine(r machineRow, fittings []fittingRow) error {
	m := recordfile.Machine{
		Name:       r.Name,
		Bay:        r.Bay,
		Maker:      r.Maker,
		Serial:     r.Serial,
		Note:       r.Note,
		Supplier:   r.Supplier,
		Price:      r.Price,
		BoughtOn:   isoDay(r.BoughtOn),
		Since:      r.Since.UTC(),
		RetiredAt:  utc(r.RetiredAt),
		RetiredWhy: r.RetiredWhy,
		Changed:    changed(r.Version, r.ChangedBy, r.ChangedAt),
	}
	if err := e.loadPhotos("work_order_id in (select id from work_orders where machine_id = ?)", r.ID); err != nil {
		return err
	}
	if err := e.work(&m, r.ID); err != nil {
		return err
	}
	var runs []int64
	for _, f := range fittings {
		if f.PartID == nil {
			runs = append(runs, f.ID)
		}
	}
	if err := e.loadFound("fitting_id", runs); err != nil {
		return err
	}
	no := func(id *int64) int {
		if id == nil {
			return 0
		}
		return e.orders[*id]
	}
	taken, err := e.structure(&m, r.ID)
	if err != nil {
		return err
	}
	for _, f := range fittings {
		switch {
		case f.PartID == nil:
			run, err := e.run(f, no(f.WorkOrderID), taken[f.ID])
			if err != nil {
				return err
			}
			m.Runs = append(m.Runs, run)
		default:
			m.Fittings = append(
				m.Fittings,
				recordfile.Fitting{
					Slot:  f.Slot,
					Part:  e.partNo[*f.PartID],
					From:  f.FittedAt.UTC(),
					To:    utc(f.RemovedAt),
					Order: no(f.WorkOrderID),
					Why:   f.Why,
					By:    f.MovedBy,
					Takes: taken[f.ID],
				},
			)
		}
	}
	cals, err := list[calibrationRow](e.tx, "id", "machine_id = ?", r.ID)
	if err != nil {
		return err
	}
	gone, err := list[invalidRow](e.tx, "id", "calibration_id in (select id from calibrations where machine_id = ?)",
		r.ID)
	if err != nil {
		return err
	}
	for _, c := range cals {
		out := recordfile.Calibration{
			Kind:    c.Kind,
			Subject: c.Subject,
			Value:   c.Value,
			Store:   c.Store,
			Method:  c.Method,
			Passed:  c.Passed,
			At:      c.DoneAt.UTC(),
			By:      c.DoneBy,
			Order:   no(c.WorkOrderID),
		}
		of, err := c.record()
		if err != nil {
			return err
		}
		if of.Proof != (calibration.Proof{}) {
			out.Proof = &of.Proof
		}
		for _, g := range gone {
			if g.CalibrationID != c.ID {
				continue
			}
			v, err := g.invalid(&of)
			if err != nil {
				return err
			}
			out.Invalid = append(
				out.Invalid,
				recordfile.Invalid{
					Subject: g.Subject,
					Reason:  g.Reason,
					Remedy:  g.Remedy,
					Causes:  v.Causes,
					At:      g.At.UTC(),
					Order:   no(g.WorkOrderID),
				},
			)
		}
		m.Calibrations = append(m.Calibrations, out)
	}
	meters, err := list[meterRow](e.tx, "read_at, id", "machine_id = ?", r.ID)
	if err != nil {
		return err
	}
	for _, x := range meters {
		m.Meters = append(m.Meters, recordfile.Meter{
			Counter: x.Counter, At: x.ReadAt.UTC(), Hours: x.Amount, Reset: x.Reset, By: x.TakenBy})
	}
	done, err := list[doneRow](e.tx, "done_at, id", "machine_id = ?", r.ID)
	if err != nil {
		return err
	}
	for _, x := range done {
		m.Done = append(m.Done, recordfile.Done{Task: x.Task, At: x.DoneAt.UTC(), By: x.DoneBy, Note: x.Note,
			NewParts: x.NewParts})
	}
	labour, err := list[labourRow](e.tx, "at, id", "machine_id = ?", r.ID)
	if err != nil {
		return err
	}
	for _, x := range labour {
		m.Labour = append(
			m.Labour,
			recordfile.Labour{At: x.At.UTC(), By: x.By, Minutes: x.Minutes, What: x.What, Order: no(x.WorkOrderID)},
		)
	}
	uses, err := list[useRow](e.tx, "at, id", "machine_id = ?", r.ID)
	if err != nil {
		return err
	}
	for _, x := range uses {
		m.Uses = append(m.Uses, recordfile.UseState{Use: maintenance.Use(x.Use), Why: x.Why, At: x.At.UTC(), By: x.By})
	}
	faults, err := list[faultRow](e.tx, "reported_at, id", "machine_id = ?", r.ID)
	if err != nil {
		return err
	}
	if err := e.loadPhotos("fault_id in (select id from faults where machine_id = ?)", r.ID); err != nil {
		return err
	}
	for _, x := range faults {
		m.Faults = append(
			m.Faults,
			recordfile.Fault{
				Symptom:  x.Symptom,
				Words:    x.Words,
				By:       x.ReportedBy,
				At:       x.ReportedAt.UTC(),
				ClosedAt: utc(x.ClosedAt),
				ClosedBy: x.ClosedBy,
				Answer:   x.Answer,
				Version:  x.Version,
				Photos:   e.photos[x.ID],
			},
		)
	}
	wires, err := list[wireRow](e.tx, "head", "machine_id = ?", r.ID)
	if err != nil {
		return err
	}
	for _, x := range wires {
		w := recordfile.WireSheet{Head: x.Head, Changed: changed(x.Version, x.ChangedBy, x.ChangedAt)}
		if err := json.Unmarshal(x.Definition, &w.Sheet); err != nil {
			return err
		}
		m.WireSheets = append(m.WireSheets, w)
	}
	return e.out.Machine(m)
}

// structure writes a machine's positions, and gives what its parts take, by fitting.
func (e *exporter) structure(m *recordfile.Machine, id int64) (map[int64][]machine.Taking, error) {
	positions, err := list[positionRow](e.tx, "from_at, id", "machine_id = ?", id)
	if err != nil {
		return nil, err
	}
	m.Positions = []recordfile.Listed{}
	for _, p := range positions {
		at, err := p.position()
		if err != nil {
			return nil, err
		}
		m.Positions = append(m.Positions, recordfile.Listed{Position: at, From: p.FromAt.UTC(), To: utc(p.ToAt),
			By: p.ChangedBy})
	}
	rows, err := list[takingRow](e.tx, "id", "machine_id = ?", id)
	if err != nil {
		return nil, err
	}
	out := map[int64][]machine.Taking{}
	for _, r := range rows {
		t, err := r.taking()
		if err != nil {
			return nil, err
		}
		if r.FittingID == nil {
			m.Takings = append(m.Takings, t)
		} else {
			out[*r.FittingID] = append(out[*r.FittingID], t)
		}
	}
	return out, nil
}

// interrupted notes whose locks were on, why the work was left, and why it was rolled back.
func (e *exporter) interrupted(out *recordfile.Order, o orderRow) error {
	locks, err := list[lockRow](e.tx, "put_on, id", "work_order_id = ?", o.ID)
	for _, l := range locks {
		out.Locks = append(out.Locks, recordfile.Lock{Name: l.Name, PutOn: l.PutOn.UTC(), Off: utc(l.TakenOff),
			OffBy: l.TakenOffBy, Why: l.Why})
	}
	if o.ParkedAt != nil {
		out.Parked = &recordfile.Parked{At: o.ParkedAt.UTC(), By: o.ParkedBy, Why: o.ParkedWhy, Loose: o.ParkedLoose,
			Screws: o.ParkedScrews, Waits: o.ParkedWaits}
	}
	if o.BackAt != nil {
		out.Back = &recordfile.RolledBack{At: o.BackAt.UTC(), By: o.BackBy, Why: o.BackWhy}
	}
	return err
}

func (e *exporter) work(m *recordfile.Machine, id int64) error {
	orders, err := list[orderRow](e.tx, "opened_at, id", "machine_id = ?", id)
	if err != nil {
		return err
	}
	for i, o := range orders {
		e.orders[o.ID] = i + 1
		out := recordfile.Order{
			KitKey:   o.KitKey,
			Kit:      o.Kit,
			Further:  o.Further,
			Verdict:  o.Verdict,
			Reason:   o.Reason,
			State:    o.State,
			OpenedBy: o.OpenedBy,
			OpenedAt: o.OpenedAt.UTC(),
			ClosedBy: o.ClosedBy,
			ClosedAt: utc(o.ClosedAt),
			Closing:  o.Closing,
			Steps:    []recordfile.Step{},
			Task:     o.Task,
		}
		if err := e.interrupted(&out, o); err != nil {
			return err
		}
		steps, err := list[stepRow](e.tx, "seq", "work_order_id = ?", o.ID)
		if err != nil {
			return err
		}
		for _, s := range steps {
			out.Steps = append(
				out.Steps,
				recordfile.Step{
					Key:        s.Key,
					Step:       s.Step,
					Data:       s.Data,
					Note:       s.Note,
					DoneBy:     s.DoneBy,
					DoneAt:     utc(s.DoneAt),
					SkippedWhy: s.SkippedWhy,
					Version:    s.Version,
					Photos:     e.steps[o.ID][s.Key],
				},
			)
		}
		m.Orders = append(m.Orders, out)
	}
	return nil
}

// questions are the saved questions and the shop's own tasks.
func (e *exporter) questions() (out recordfile.File, err error) {
	rows, err := list[questionRow](e.tx, "lower(name)", "")
	if err != nil {
		return out, err
	}
	for _, r := range rows {
		q := recordfile.SavedQuestion{Name: r.Name, Changed: changed(r.Version, r.ChangedBy, r.ChangedAt)}
		if err := json.Unmarshal(r.Definition, &q.Question); err != nil {
			return out, err
		}
		out.Questions = append(out.Questions, q)
	}
	own, err := ownTasks(e.tx)
	for _, t := range own {
		out.Tasks = append(out.Tasks, t.Task)
	}
	return out, err
}
