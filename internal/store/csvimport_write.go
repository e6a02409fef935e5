package store

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/csvimport"
	"wardifex/internal/core/machine"
)

// registerImport writes a plan. What nobody else can touch, parts and their readings, is
// written first; what others may wait for, last.
type registerImport struct {
	s   *Store
	ctx context.Context
	tx  *gorm.DB
	by  string
	now time.Time

	open     map[place]*fittingRow // what is at positions now, and what is put there
	parts    []string              // kinds of new parts
	ofPart   []*fittingRow         // their fittings
	runs     []*fittingRow
	readings []claimed
}

type place struct {
	machine int64
	slot    string
}

// claimed is a value that is claimed of what is at a position.
type claimed struct {
	of         *fittingRow
	trait      string
	value, how string
}

func (in *registerImport) write(p csvimport.Plan) error {
	var created, changed []*csvimport.Row
	for i := range p.Rows {
		switch p.Rows[i].Action {
		case csvimport.Create:
			created = append(created, &p.Rows[i])
		case csvimport.Change:
			changed = append(changed, &p.Rows[i])
		}
	}
	ids, err := newIDs(in.tx, "machines", len(created))
	if err != nil {
		return err
	}
	for i, r := range created {
		r.MachineID = ids[i]
	}
	if err := in.opened(changed); err != nil {
		return err
	}
	for _, r := range slices.Concat(created, changed) {
		in.claims(r)
	}
	if err := in.writeParts(); err != nil {
		return err
	}
	if err := in.writeMachines(created); err != nil {
		return err
	}
	if err := in.writeFittings(ids); err != nil {
		return err
	}
	if err := in.writeMeters(slices.Concat(created, changed)); err != nil {
		return err
	}
	return in.changeMachines(changed)
}

// opened loads what is at the positions of machines now.
func (in *registerImport) opened(changed []*csvimport.Row) error {
	in.open = map[place]*fittingRow{}
	if len(changed) == 0 {
		return nil
	}
	ids := make([]int64, len(changed))
	for i, r := range changed {
		ids[i] = r.MachineID
	}
	var open []fittingRow
	if err := in.tx.Where("removed_at is null and machine_id in ?", ids).Find(&open).Error; err != nil {
		return err
	}
	for i := range open {
		in.open[place{open[i].MachineID, open[i].Slot}] = &open[i]
	}
	return nil
}

func (in *registerImport) claims(r *csvimport.Row) {
	for _, w := range r.Changes {
		t, ok := in.s.vocabularyOf(in.tx).Trait(machine.Key(w.Target))
		if !ok || w.Value.IsZero() {
			continue
		}
		at := place{r.MachineID, t.Slot}
		f := in.open[at]
		if f == nil {
			slot, _ := in.s.vocabularyOf(in.tx).Position(t.Slot)
			f = &fittingRow{MachineID: at.machine, Slot: at.slot, FittedAt: in.now, MovedBy: in.by}
			in.open[at] = f
			if in.s.vocabularyOf(in.tx).Software(slot.Kind) {
				in.runs = append(in.runs, f)
			} else {
				in.parts, in.ofPart = append(in.parts, slot.Kind), append(in.ofPart, f)
			}
		}
		how := "imported with the register"
		if w.How != "" {
			how = w.How
		}
		in.readings = append(in.readings, claimed{f, t.Name, w.Value.Text, how})
	}
}

// writeParts writes new parts with what is claimed of them, and what is claimed of parts
// that are there.
func (in *registerImport) writeParts() error {
	ids, err := newIDs(in.tx, "parts", len(in.parts))
	if err != nil {
		return err
	}
	for i, f := range in.ofPart {
		f.PartID = &ids[i]
	}
	n := len(ids)
	if n > 0 {
		err := insertAll(
			in.tx,
			"parts",
			bulkColumn{"id", "bigint", ids},
			bulkColumn{"kind", "text", in.parts},
			bulkColumn{
				"version",
				"integer",
				repeat(int32(1), n),
			},
			bulkColumn{"changed_by", "text", repeat(in.by, n)},
			bulkColumn{"changed_at", "timestamptz", repeat(in.now, n)},
		)
		if err != nil {
			return err
		}
	}
	return in.writeReadings(false)
}

// writeReadings writes what is claimed of parts, or of runs of builds.
func (in *registerImport) writeReadings(ofRuns bool) error {
	var of []int64
	var traits, values, how []string
	for _, r := range in.readings {
		if (r.of.PartID == nil) != ofRuns {
			continue
		}
		id := r.of.ID
		if !ofRuns {
			id = *r.of.PartID
		}
		of, traits, values, how = append(of, id), append(traits, r.trait), append(values, r.value), append(how, r.how)
	}
	if len(of) == 0 {
		return nil
	}
	holder := map[bool]string{true: "fitting_id", false: "part_id"}[ofRuns]
	n := len(of)
	err := insertAll(
		in.tx,
		"readings",
		bulkColumn{holder, "bigint", of},
		bulkColumn{"trait", "text", traits},
		bulkColumn{"value", "text", values},
		bulkColumn{"how", "text", how},
		bulkColumn{"grade", "smallint", repeat(int16(machine.Claimed), n)},
		bulkColumn{"taken_at", "timestamptz", repeat(in.now, n)},
		bulkColumn{"taken_by", "text", repeat(in.by, n)},
	)
	var named []int64
	for i, trait := range traits {
		if trait == machine.ModelTrait {
			named = append(named, of[i])
		}
	}
	if err != nil || len(named) == 0 {
		return err
	}
	if ofRuns {
		return in.s.nameRuns(in.tx, named...)
	}
	return in.s.nameParts(in.tx, named...)
}

// writeMachines writes new machines, each with the usual positions and those of which
// something is claimed.
func (in *registerImport) writeMachines(created []*csvimport.Row) error {
	if len(created) == 0 {
		return nil
	}
	rows := make([]machineRow, len(created))
	for i, r := range created {
		rows[i] = machineRow{ID: r.MachineID, Name: r.Name, Since: in.now, Version: 1, ChangedBy: in.by, ChangedAt: in.now}
		f, _ := fieldsOf(r.Changes)
		rows[i].set(f)
	}
	if err := insertMachines(in.tx, rows); err != nil {
		return err
	}
	return in.writePositions(created)
}

// writePositions lists the usual positions of new machines, and those besides of which
// something is claimed.
func (in *registerImport) writePositions(created []*csvimport.Row) error {
	voc := in.s.vocabularyOf(in.tx)
	var usual, besides []positionRow
	listed := map[string]bool{}
	for _, p := range voc.Usual(func(machine.Position) bool { return false }) {
		row, err := positionOf(0, p, in.by, in.now)
		if err != nil {
			return err
		}
		usual, listed[p.Key] = append(usual, row), true
	}
	machines := make([]int64, len(created))
	for i, r := range created {
		machines[i] = r.MachineID
		more := map[string]bool{}
		for _, w := range r.Changes {
			t, ok := voc.Trait(machine.Key(w.Target))
			if !ok || listed[t.Slot] || more[t.Slot] {
				continue
			}
			more[t.Slot] = true
			p, _ := voc.Position(t.Slot)
			row, err := positionOf(r.MachineID, p, in.by, in.now)
			if err != nil {
				return err
			}
			besides = append(besides, row)
		}
	}
	// The usual ones are alike: they are sent once and written for each machine.
	alike := positionColumns(usual)[1:]
	names, places, args := "machine_id", "", []any{machines}
	for i, c := range alike {
		names += ", " + c.name
		if i > 0 {
			places += ", "
		}
		places += fmt.Sprintf("$%d::%s[]", i+2, c.kind)
		args = append(args, c.values)
	}
	sql := fmt.Sprintf(
		"insert into positions (%s) select m.id, u.* from unnest($1::bigint[]) as m(id), unnest(%s) as u",
		names,
		places,
	)
	if _, err := in.tx.Statement.ConnPool.ExecContext(in.tx.Statement.Context, sql, args...); err != nil {
		return err
	}
	if len(besides) == 0 {
		return nil
	}
	return insertAll(in.tx, "positions", positionColumns(besides)...)
}

func insertMachines(tx *gorm.DB, rows []machineRow) error {
	return insertAll(tx, "machines",
		columnOf("id", "bigint", rows, func(r machineRow) int64 { return r.ID }),
		columnOf("name", "text", rows, func(r machineRow) string { return r.Name }),
		columnOf("bay", "text", rows, func(r machineRow) string { return r.Bay }),
		columnOf("maker", "text", rows, func(r machineRow) string { return r.Maker }),
		columnOf("serial", "text", rows, func(r machineRow) string { return r.Serial }),
		columnOf("note", "text", rows, func(r machineRow) string { return r.Note }),
		columnOf("supplier", "text", rows, func(r machineRow) string { return r.Supplier }),
		columnOf("price", "double precision", rows, func(r machineRow) *float64 { return r.Price }),
		columnOf("bought_on", "date", rows, func(r machineRow) *time.Time { return r.BoughtOn }),
		columnOf("since", "timestamptz", rows, func(r machineRow) time.Time { return r.Since }),
		columnOf("changed_by", "text", rows, func(r machineRow) string { return r.ChangedBy }),
		columnOf("changed_at", "timestamptz", rows, func(r machineRow) time.Time { return r.ChangedAt }),
	)
}

// positionColumns are positions as columns, the machine first.
func positionColumns(rows []positionRow) []bulkColumn {
	text := func(b []byte) *string {
		if b == nil {
			return nil
		}
		s := string(b)
		return &s
	}
	return []bulkColumn{
		columnOf("machine_id", "bigint", rows, func(r positionRow) int64 { return r.MachineID }),
		columnOf("key", "text", rows, func(r positionRow) string { return r.Key }),
		columnOf("kind", "text", rows, func(r positionRow) string { return r.Kind }),
		columnOf("label", "text", rows, func(r positionRow) string { return r.Label }),
		columnOf("grp", "text", rows, func(r positionRow) string { return r.Grp }),
		columnOf("serves", "text", rows, func(r positionRow) string { return r.Serves }),
		columnOf("n", "integer", rows, func(r positionRow) int32 { return int32(r.N) }),
		columnOf("rides_on", "jsonb", rows, func(r positionRow) *string { return text(r.RidesOn) }),
		columnOf("fed_by", "jsonb", rows, func(r positionRow) *string { return text(r.FedBy) }),
		columnOf("from_at", "timestamptz", rows, func(r positionRow) time.Time { return r.FromAt }),
		columnOf("changed_by", "text", rows, func(r positionRow) string { return r.ChangedBy }),
	}
}

// writeFittings puts new parts and runs into their machines. created are the machines
// that have their positions already.
func (in *registerImport) writeFittings(created []int64) error {
	all := slices.Concat(in.ofPart, in.runs)
	if len(all) == 0 {
		return nil
	}
	ids, err := newIDs(in.tx, "fittings", len(all))
	if err != nil {
		return err
	}
	var machines []int64
	var slots []string
	var parts []*int64
	for i, f := range all {
		f.ID = ids[i]
		machines, slots, parts = append(machines, f.MachineID), append(slots, f.Slot), append(parts, f.PartID)
	}
	n := len(all)
	err = insertAll(
		in.tx,
		"fittings",
		bulkColumn{"id", "bigint", ids},
		bulkColumn{"machine_id", "bigint", machines},
		bulkColumn{"slot", "text", slots},
		bulkColumn{"part_id", "bigint", parts},
		bulkColumn{"fitted_at", "timestamptz", repeat(in.now, n)},
		bulkColumn{"moved_by", "text", repeat(in.by, n)},
	)
	if err != nil {
		return err
	}
	if err := in.writeRuns(); err != nil {
		return err
	}
	isNew := map[int64]bool{}
	for _, id := range created {
		isNew[id] = true
	}
	return in.listFitted(slices.DeleteFunc(all, func(f *fittingRow) bool { return isNew[f.MachineID] }))
}

// writeRuns enters builds of which only a register tells that boards run them.
func (in *registerImport) writeRuns() error {
	if n := len(in.runs); n > 0 {
		boards := map[string]string{}
		var ids []int64
		var on []string
		for _, f := range in.runs {
			board, known := boards[f.Slot]
			if !known {
				voc := in.s.vocabularyOf(in.tx)
				board = boardOf(voc, voc.Usual(func(p machine.Position) bool { return p.Key == f.Slot }), f.Slot)
				boards[f.Slot] = board
			}
			ids, on = append(ids, f.ID), append(on, board)
		}
		err := insertAll(
			in.tx,
			"build_runs",
			bulkColumn{"fitting_id", "bigint", ids},
			bulkColumn{"board", "text", on},
			bulkColumn{"configured", "jsonb", repeat("{}", n)},
		)
		if err != nil {
			return err
		}
	}
	return in.writeReadings(true)
}

func (in *registerImport) writeMeters(rows []*csvimport.Row) error {
	var list []MeterOf
	for _, r := range rows {
		if r.Meter != nil {
			list = append(list, MeterOf{r.MachineID, *r.Meter})
		}
	}
	if len(list) == 0 {
		return nil
	}
	return in.s.AddMeters(in.ctx, list, in.by)
}

// changed is what a register says anew of a machine; nil is what stays.
type changedFields struct {
	bay, maker, serial, note, supplier *string
	price                              *float64
	bought                             *time.Time
}

// fieldsOf are the fields among the changes of a row, and whether there are any.
func fieldsOf(changes []csvimport.Written) (f changedFields, any bool) {
	text := map[string]**string{
		csvimport.Bay:      &f.bay,
		csvimport.Maker:    &f.maker,
		csvimport.Serial:   &f.serial,
		csvimport.Note:     &f.note,
		csvimport.Supplier: &f.supplier,
	}
	for _, w := range changes {
		field, is := text[w.Target]
		switch {
		case is:
			*field = &w.After
		case w.Target == csvimport.Price:
			f.price = &w.Number
		case w.Target == csvimport.Bought:
			day := w.Day.Start(time.UTC)
			f.bought = &day
		default:
			continue
		}
		any = true
	}
	return f, any
}

// set takes over the fields of a new machine.
func (m *machineRow) set(f changedFields) {
	for field, text := range map[*string]*string{
		&m.Bay: f.bay, &m.Maker: f.maker, &m.Serial: f.serial, &m.Note: f.note, &m.Supplier: f.supplier,
	} {
		if text != nil {
			*field = *text
		}
	}
	m.Price, m.BoughtOn = f.price, f.bought
}

// changeMachines writes changed fields over the versions that the plan was made of, in one
// statement, so that others wait for these machines but for a moment.
func (in *registerImport) changeMachines(changed []*csvimport.Row) error {
	var id []int64
	var version []int32
	var bay, maker, serial, note, supplier []*string
	var price []*float64
	var bought []*time.Time
	for _, r := range changed {
		f, any := fieldsOf(r.Changes)
		if !any {
			continue
		}
		id, version = append(id, r.MachineID), append(version, int32(r.Version))
		bay, maker, serial = append(bay, f.bay), append(maker, f.maker), append(serial, f.serial)
		note, supplier = append(note, f.note), append(supplier, f.supplier)
		price, bought = append(price, f.price), append(bought, f.bought)
	}
	if len(id) == 0 {
		return nil
	}
	done, err := in.tx.Statement.ConnPool.ExecContext(in.tx.Statement.Context, `
		update machines m set bay = coalesce(u.bay, m.bay), maker = coalesce(u.maker, m.maker),
		  serial = coalesce(u.serial, m.serial), note = coalesce(u.note, m.note),
		  supplier = coalesce(u.supplier, m.supplier), price = coalesce(u.price, m.price),
		  bought_on = coalesce(u.bought, m.bought_on), version = m.version + 1, changed_by = $10, changed_at = $11
		from unnest($1::bigint[], $2::integer[], $3::text[], $4::text[], $5::text[], $6::text[], $7::text[],
		  $8::double precision[], $9::date[]) as u(id, version, bay, maker, serial, note, supplier, price, bought)
		where m.id = u.id and m.version = u.version`,
		id, version, bay, maker, serial, note, supplier, price, bought, in.by, in.now)
	if err != nil {
		return err
	}
	if n, err := done.RowsAffected(); err != nil || n != int64(len(id)) {
		return errors.Join(err, ErrChanged)
	}
	return nil
}

// listFitted enters the positions of fittings on their machines' lists, where they are
// not on them.
func (in *registerImport) listFitted(fittings []*fittingRow) error {
	if len(fittings) == 0 {
		return nil
	}
	machines := map[int64]bool{}
	for _, f := range fittings {
		machines[f.MachineID] = true
	}
	listed, err := listedNow(in.tx, slices.Sorted(maps.Keys(machines)))
	if err != nil {
		return err
	}
	on := map[place]bool{}
	for id, list := range listed {
		for _, p := range list {
			on[place{id, p.Key}] = true
		}
	}
	var rows []positionRow
	longer := map[int64]bool{}
	for _, f := range fittings {
		p, ok := in.s.vocabularyOf(in.tx).Position(f.Slot)
		at := place{f.MachineID, f.Slot}
		if !ok || on[at] {
			continue
		}
		on[at] = true
		row, err := positionOf(f.MachineID, p, in.by, in.now)
		if err != nil {
			return err
		}
		rows, longer[f.MachineID] = append(rows, row), true
	}
	if len(rows) == 0 {
		return nil
	}
	if err := insertAll(in.tx, "positions", positionColumns(rows)...); err != nil {
		return err
	}
	ids := slices.Collect(maps.Keys(longer))
	return in.tx.Exec("update machines set structure = structure + 1 where id in ?", ids).Error
}
