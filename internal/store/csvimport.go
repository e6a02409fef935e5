package store

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/csvimport"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/quantity"
)

func (s *Store) existing(tx *gorm.DB) ([]csvimport.Existing, error) {
	fleet, err := s.fleetWith(tx, s.loadRemembered)
	if err != nil {
		return nil, err
	}
	var retired []machineRow
	if err := tx.Where("retired_at is not null").Find(&retired).Error; err != nil {
		return nil, err
	}
	out := make([]csvimport.Existing, 0, len(fleet)+len(retired))
	for _, m := range fleet {
		e := csvimport.Existing{
			ID:      m.ID,
			Version: m.Version,
			Fields:  fieldMap(m.Fields),
			Facts:   m.Facts,
			Meters:  m.Meters,
			Held:    map[machine.Key][]machine.Value{},
		}
		for _, r := range m.Readings {
			// A reading set aside was heard too: hearing it again adds nothing.
			e.Held[r.Key] = append(e.Held[r.Key], r.Value)
		}
		out = append(out, e)
	}
	nothing := machine.NewSnapshot(s.Vocabulary(), machine.Record{})
	for _, r := range retired {
		out = append(out, csvimport.Existing{ID: r.ID, Fields: fieldMap(r.fields()), Retired: true, Facts: nothing})
	}
	return out, nil
}

func fieldMap(f Fields) map[string]string {
	price := ""
	if f.Price != nil {
		price = quantity.Format(*f.Price)
	}
	return map[string]string{
		csvimport.Name:     f.Name,
		csvimport.Bay:      f.Bay,
		csvimport.Maker:    f.Maker,
		csvimport.Serial:   f.Serial,
		csvimport.Note:     f.Note,
		csvimport.Supplier: f.Supplier,
		csvimport.Price:    price,
		csvimport.Bought:   f.BoughtOn,
	}
}

// PlanRegister judges a register file against the fleet as it is now.
func (s *Store) PlanRegister(
	ctx context.Context,
	t csvimport.Table,
	d csvimport.Decisions,
	now time.Time,
) (csvimport.Plan, error) {
	fleet, err := s.existing(s.db.WithContext(ctx))
	if err != nil {
		return csvimport.Plan{}, err
	}
	p, err := csvimport.NewPlan(t, d, fleet, s.Vocabulary(), now)
	if err != nil {
		return p, refuse("%s", err)
	}
	return p, nil
}

// Headings are what headings of registers were matched to by hand before.
func (s *Store) Headings(ctx context.Context) (csvimport.Remembered, error) {
	var rows []headingRow
	if err := s.db.WithContext(ctx).Find(&rows).Error; err != nil {
		return nil, err
	}
	out := csvimport.Remembered{}
	for _, r := range rows {
		out[r.Heading] = r.Target
	}
	return out, nil
}

type headingRow struct {
	Heading string `gorm:"primaryKey"`
	Target  string
	SetBy   string
	SetAt   time.Time
}

func (headingRow) TableName() string { return "register_headings" }

// ImportFile is a file that is imported.
type ImportFile struct {
	Name string
	Data []byte
}

type importRow struct {
	ID         int64
	What       string
	File       string
	SHA256     string `gorm:"column:sha256"`
	Result     []byte `gorm:"type:jsonb"`
	ImportedBy string
	ImportedAt time.Time
}

func (importRow) TableName() string { return "imports" }

// noteImport records who imported which file.
func noteImport(tx *gorm.DB, what string, f ImportFile, result map[string]int, by string, now time.Time) error {
	text, err := json.Marshal(result)
	if err != nil {
		return err
	}
	sum := sha256.Sum256(f.Data)
	return tx.Create(
		&importRow{
			What:       what,
			File:       f.Name,
			SHA256:     hex.EncodeToString(sum[:]),
			Result:     text,
			ImportedBy: by,
			ImportedAt: now,
		},
	).Error
}

// Import is a file that somebody imported.
type Import struct {
	What   string         `json:"what"`
	File   string         `json:"file"`
	Result map[string]int `json:"result" doc:"How many of what came of it"`
	By     string         `json:"by"`
	At     time.Time      `json:"at"`
}

// Imports lists what was imported, newest first.
func (s *Store) Imports(ctx context.Context) ([]Import, error) {
	var rows []importRow
	if err := s.db.WithContext(ctx).Order("id desc").Limit(200).Find(&rows).Error; err != nil {
		return nil, err
	}
	out := make([]Import, len(rows))
	for i, r := range rows {
		out[i] = Import{What: r.What, File: r.File, By: r.ImportedBy, At: r.ImportedAt}
		if err := json.Unmarshal(r.Result, &out[i].Result); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// ImportRegister writes a register file as it was previewed, all in one transaction.
// fingerprint is the previewed plan's; when the fleet has changed since, the plan differs
// and nothing is written. Other writers go on meanwhile: only where one of them wrote the
// same machine or position is nothing written.
func (s *Store) ImportRegister(
	ctx context.Context,
	f ImportFile,
	t csvimport.Table,
	d csvimport.Decisions,
	fingerprint, by string,
	now time.Time,
) (csvimport.Plan, error) {
	before, err := s.Headings(ctx)
	if err != nil {
		return csvimport.Plan{}, err
	}
	var p csvimport.Plan
	changed := &Conflict{
		Sentence: "the fleet or the file has changed since the preview; nothing was imported. Look at the new preview",
	}
	err = s.tx(ctx, func(tx *gorm.DB) error {
		if err := tx.Exec("select pg_advisory_xact_lock(hashtext('wardifex import'))").Error; err != nil {
			return err
		}
		fleet, err := s.existing(tx)
		if err != nil {
			return err
		}
		if p, err = csvimport.NewPlan(t, d, fleet, s.Vocabulary(), now); err != nil {
			return refuse("%s", err)
		}
		switch {
		case p.Fingerprint != fingerprint:
			return changed
		case p.Faulty > 0:
			return refuse("%d rows have faults; correct them or leave them out", p.Faulty)
		case len(p.Questions) > 0:
			return refuse("%s", p.Questions[0].Text)
		}
		in := registerImport{s: s, tx: tx, by: by, now: now}
		if err := in.write(p); err != nil {
			return err
		}
		if err := rememberHeadings(tx, t, d.Mapping, csvimport.Propose(t, s.Vocabulary(), before), by, now); err != nil {
			return err
		}
		return noteImport(
			tx,
			"register",
			f,
			map[string]int{"new": p.Created, "changed": p.Changed, "the same": p.Same, "left out": p.LeftOut},
			by,
			now,
		)
	})
	if isTwice(err) {
		return p, changed
	}
	return p, err
}

// rememberHeadings keeps what was matched otherwise than proposed, for the next register.
func rememberHeadings(
	tx *gorm.DB,
	t csvimport.Table,
	mapping []string,
	proposed []csvimport.Match,
	by string,
	now time.Time,
) error {
	for i, m := range proposed {
		key := csvimport.HeadingKey(m.Heading)
		if i >= len(mapping) || mapping[i] == m.Target || key == "" || key == " " {
			continue
		}
		row := headingRow{Heading: key, Target: mapping[i], SetBy: by, SetAt: now}
		if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error; err != nil {
			return err
		}
	}
	return nil
}

// registerImport writes a plan. What nobody else can touch, parts and their readings, is
// written first; what others may wait for, last.
type registerImport struct {
	s   *Store
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
		t, ok := in.s.Vocabulary().Trait(machine.Key(w.Target))
		if !ok || w.Value.IsZero() {
			continue
		}
		at := place{r.MachineID, t.Slot}
		f := in.open[at]
		if f == nil {
			slot, _ := in.s.Vocabulary().Position(t.Slot)
			f = &fittingRow{MachineID: at.machine, Slot: at.slot, FittedAt: in.now, MovedBy: in.by}
			in.open[at] = f
			if in.s.software(slot.Kind) {
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
	return insertAll(
		in.tx,
		"readings",
		bulkColumn{holder, "bigint", of},
		bulkColumn{"trait", "text", traits},
		bulkColumn{"value", "text", values},
		bulkColumn{"how", "text", how},
		bulkColumn{
			"grade",
			"smallint",
			repeat(int16(machine.Claimed), n),
		},
		bulkColumn{"taken_at", "timestamptz", repeat(in.now, n)},
		bulkColumn{"taken_by", "text", repeat(in.by, n)},
	)
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
		rows[i].set(r.Changes)
	}
	if err := insertMachines(in.tx, rows); err != nil {
		return err
	}
	return in.writePositions(created)
}

// writePositions lists the usual positions of new machines, and those besides of which
// something is claimed.
func (in *registerImport) writePositions(created []*csvimport.Row) error {
	voc := in.s.Vocabulary()
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
	var id []int64
	var name, bay, maker, serial, note, supplier, by []string
	var price []*float64
	var bought []*time.Time
	var at []time.Time
	for _, r := range rows {
		id, name, bay, maker, serial = append(
			id,
			r.ID,
		), append(
			name,
			r.Name,
		), append(
			bay,
			r.Bay,
		), append(
			maker,
			r.Maker,
		), append(
			serial,
			r.Serial,
		)
		note, supplier, price, bought = append(
			note,
			r.Note,
		), append(
			supplier,
			r.Supplier,
		), append(
			price,
			r.Price,
		), append(
			bought,
			r.BoughtOn,
		)
		by, at = append(by, r.ChangedBy), append(at, r.Since)
	}
	return insertAll(
		tx,
		"machines",
		bulkColumn{"id", "bigint", id},
		bulkColumn{"name", "text", name},
		bulkColumn{"bay", "text", bay},
		bulkColumn{"maker", "text", maker},
		bulkColumn{
			"serial",
			"text",
			serial,
		},
		bulkColumn{"note", "text", note},
		bulkColumn{"supplier", "text", supplier},
		bulkColumn{"price", "double precision", price},
		bulkColumn{
			"bought_on",
			"date",
			bought,
		},
		bulkColumn{"since", "timestamptz", at},
		bulkColumn{"changed_by", "text", by},
		bulkColumn{"changed_at", "timestamptz", at},
	)
}

// positionColumns are positions as columns, the machine first.
func positionColumns(rows []positionRow) []bulkColumn {
	var id []int64
	var key, kind, label, group, serves, by []string
	var n []int32
	var rides, fed []*string
	var from []time.Time
	text := func(b []byte) *string {
		if b == nil {
			return nil
		}
		s := string(b)
		return &s
	}
	for _, r := range rows {
		id, key, kind, label, group = append(
			id,
			r.MachineID,
		), append(
			key,
			r.Key,
		), append(
			kind,
			r.Kind,
		), append(
			label,
			r.Label,
		), append(
			group,
			r.Grp,
		)
		serves, n, rides, fed = append(
			serves,
			r.Serves,
		), append(
			n,
			int32(r.N),
		), append(
			rides,
			text(r.RidesOn),
		), append(
			fed,
			text(r.FedBy),
		)
		by, from = append(by, r.ChangedBy), append(from, r.FromAt)
	}
	return []bulkColumn{
		{"machine_id", "bigint", id},
		{"key", "text", key},
		{"kind", "text", kind},
		{"label", "text", label},
		{"grp", "text", group},
		{"serves", "text", serves},
		{
			"n",
			"integer",
			n,
		},
		{"rides_on", "jsonb", rides},
		{"fed_by", "jsonb", fed},
		{"from_at", "timestamptz", from},
		{"changed_by", "text", by},
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
	return in.s.listFitted(
		in.tx,
		slices.DeleteFunc(all, func(f *fittingRow) bool { return isNew[f.MachineID] }),
		in.by,
		in.now,
	)
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
				board = in.s.boardOf(in.s.Vocabulary().Usual(func(p machine.Position) bool { return p.Key == f.Slot }), f.Slot)
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
	var id []int64
	var hours []float64
	var at []time.Time
	for _, r := range rows {
		if r.Meter != nil {
			id, hours, at = append(id, r.MachineID), append(hours, r.Meter.Hours), append(at, r.Meter.At)
		}
	}
	if len(id) == 0 {
		return nil
	}
	return insertAll(
		in.tx,
		"meters",
		bulkColumn{"machine_id", "bigint", id},
		bulkColumn{"hours", "double precision", hours},
		bulkColumn{"read_at", "timestamptz", at},
		bulkColumn{"taken_by", "text", repeat(in.by, len(id))},
	)
}

// changeMachines writes changed fields over the versions that the plan was made of.
func (in *registerImport) changeMachines(changed []*csvimport.Row) error {
	for _, r := range changed {
		var m machineRow
		fields := m.set(r.Changes)
		if len(fields) == 0 {
			continue
		}
		fields["version"], fields["changed_by"], fields["changed_at"] = r.Version+1, in.by, in.now
		done := in.tx.Model(&machineRow{}).Where("id = ? and version = ?", r.MachineID, r.Version).Updates(fields)
		if done.Error != nil {
			return done.Error
		}
		if done.RowsAffected == 0 {
			return &Conflict{Sentence: r.Name + " was changed since the preview; nothing was imported. Look at the new preview"}
		}
	}
	return nil
}

// set takes over the fields among the changes, and lists them by their columns.
func (m *machineRow) set(changes []csvimport.Written) map[string]any {
	out := map[string]any{}
	text := map[string]*string{
		csvimport.Bay:      &m.Bay,
		csvimport.Maker:    &m.Maker,
		csvimport.Serial:   &m.Serial,
		csvimport.Note:     &m.Note,
		csvimport.Supplier: &m.Supplier,
	}
	for _, w := range changes {
		if field, ok := text[w.Target]; ok {
			*field, out[w.Target] = w.After, w.After
			continue
		}
		switch w.Target {
		case csvimport.Price:
			price := w.Number
			m.Price, out["price"] = &price, price
		case csvimport.Bought:
			day := w.Day.Start(time.UTC)
			m.BoughtOn, out["bought_on"] = &day, day
		}
	}
	return out
}

// listFitted enters the positions of fittings on their machines' lists, where they are
// not on them.
func (s *Store) listFitted(tx *gorm.DB, fittings []*fittingRow, by string, now time.Time) error {
	if len(fittings) == 0 {
		return nil
	}
	machines := map[int64]bool{}
	for _, f := range fittings {
		machines[f.MachineID] = true
	}
	listed, err := listedNow(tx, slices.Sorted(maps.Keys(machines)))
	if err != nil {
		return err
	}
	on := map[place]bool{}
	for id, list := range listed {
		for _, p := range list {
			on[place{id, p.Key}] = true
		}
	}
	for _, f := range fittings {
		if p, ok := s.Vocabulary().Position(f.Slot); ok && !on[place{f.MachineID, f.Slot}] {
			on[place{f.MachineID, f.Slot}] = true
			if err := addPositions(tx, f.MachineID, []machine.Position{p}, by, now); err != nil {
				return err
			}
		}
	}
	return nil
}

// RegisterCSV writes the register of the fleet, retired machines left out.
func (s *Store) RegisterCSV(ctx context.Context) ([]byte, error) {
	fleet, err := s.existing(s.db.WithContext(ctx))
	if err != nil {
		return nil, err
	}
	standing := slices.DeleteFunc(fleet, func(e csvimport.Existing) bool { return e.Retired })
	for i := range standing {
		if n := len(standing[i].Meters); n > 0 {
			m := standing[i].Meters[n-1]
			standing[i].Fields[csvimport.Hours] = quantity.Unmistakable(m.Hours)
			standing[i].Fields[csvimport.HoursOn] = civil.Of(m.At).String()
		}
	}
	var b bytes.Buffer
	if err := csvimport.Write(&b, standing, s.Vocabulary()); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}
