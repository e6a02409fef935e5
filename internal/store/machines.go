package store

import (
	"cmp"
	"context"
	"slices"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/parts"
)

type machineRow struct {
	ID         int64
	Name       string
	Bay        string
	Maker      string
	Serial     string
	Note       string
	Supplier   string
	Price      *float64
	BoughtOn   *time.Time
	Since      time.Time
	RetiredAt  *time.Time
	RetiredWhy string
	Version    int
	Structure  int
	Revision   int64 `gorm:"->"` // the database counts it
	ChangedBy  string
	ChangedAt  time.Time
}

func (machineRow) TableName() string { return "machines" }

// Fields are what a person writes about a machine as a whole.
type Fields struct {
	Name   string `json:"name"`
	Bay    string `json:"bay"`
	Maker  string `json:"maker"`
	Serial string `json:"serial"`
	Note   string `json:"note"`
	// Supplier answers for what came with the machine.
	Supplier string   `json:"supplier,omitempty"`
	Price    *float64 `json:"price,omitempty" minimum:"0" staff:"only" doc:"In the shop's currency"`
	BoughtOn string   `json:"boughtOn,omitempty" maxLength:"40" doc:"ISO 8601"`
}

// row is the machine as it is kept; the day is ISO 8601.
func (f Fields) row(by string, now time.Time) (machineRow, error) {
	row := machineRow{
		Name:      f.Name,
		Bay:       f.Bay,
		Maker:     f.Maker,
		Serial:    f.Serial,
		Note:      f.Note,
		Supplier:  f.Supplier,
		Price:     f.Price,
		ChangedBy: by,
		ChangedAt: now,
	}
	var err error
	row.BoughtOn, err = dateOf(f.BoughtOn)
	return row, err
}

// Machine is one machine with all that is on record of it now.
type Machine struct {
	ID int64
	Fields
	Since      time.Time
	RetiredAt  *time.Time
	RetiredWhy string
	Version    int
	Structure  int // version of its positions and of what is taken on it
	Revision   int64
	ChangedBy  string
	ChangedAt  time.Time
	Facts      machine.Snapshot
	Readings   []machine.Reading    // of the parts now fitted, set aside ones too
	Records    []calibration.Record // calibrations and proofs, oldest first
	// Configured is for what the builds that run are configured, as far as it is known.
	Configured map[machine.Key]string
	Meters     []maintenance.Meter
	Done       []maintenance.Done
	Happened   []maintenance.Happened // after which tasks may be due
	Tasks      []maintenance.Task     // of the shop
	// Worn are the lives of the parts that wear, by position, where Wear was asked for them.
	Worn       map[string]maintenance.Part
	OpenOrder  *OrderHead
	Planned    []OrderHead // work that waits its turn, in its order
	Use        UseSince
	OpenFaults int
	// Danger is the first danger that was reported and whose fault is open; nil where none is.
	Danger *OpenDanger

	stays map[string][]stayRow // of the parts that wear, by position
}

// Family is the firmware family that stands; empty when it is unknown.
func (m *Machine) Family() string {
	return m.Facts.Of(m.Facts.First(parts.Firmware), parts.FirmwareFamily).Value.Text
}

// LastFile is the name of the build file last flashed; empty when it is unknown.
func (m *Machine) LastFile() string {
	return m.Facts.Of(m.Facts.First(parts.Firmware), parts.FirmwareFile).Value.Text
}

// Protection is whether the machine may be left running. Whatever was proven, nothing is while a danger is open.
func (m *Machine) Protection(now time.Time) calibration.ProtectionState {
	p := calibration.ProtectionOf(m.Facts, m.Records, now)
	if m.Danger != nil {
		return p.Doubted(m.Danger.String() + "; unproven until somebody has looked")
	}
	return p
}

// Subject is the machine as upkeep sees it.
func (m *Machine) Subject(now time.Time) maintenance.Subject {
	return maintenance.Subject{
		Since:      m.Since,
		Facts:      m.Facts,
		Meters:     m.Meters,
		Done:       m.Done,
		Happened:   m.Happened,
		Tasks:      m.Tasks,
		Protection: m.Protection(now),
		Parts:      m.Worn,
	}
}

// Fleet loads machines that are not retired, by name; with ids only those,
// retired or not.
func (s *Store) Fleet(ctx context.Context, ids ...int64) ([]Machine, error) {
	if tx := s.inTx(ctx); tx != nil || len(ids) > 0 {
		return s.fleet(s.from(ctx), ids...) // what is not committed yet is not remembered
	}
	return s.cachedFleet(s.from(ctx))
}

// Machine loads one machine.
func (s *Store) Machine(ctx context.Context, id int64) (Machine, error) {
	return s.machine(s.from(ctx), id)
}

func (s *Store) machine(tx *gorm.DB, id int64) (Machine, error) {
	ms, err := s.fleet(tx, id)
	if err != nil {
		return Machine{}, err
	}
	if len(ms) == 0 {
		return Machine{}, ErrNotFound
	}
	return ms[0], nil
}

type readingRow struct {
	ID          int64
	PartID      *int64 // of a part, or
	FittingID   *int64 // of a run of a build
	Trait       string
	Value       string
	Grade       int16
	TakenAt     time.Time
	TakenBy     string
	How, Note   string
	SetAsideWhy string
	SetAsideBy  string
	SetAsideAt  *time.Time
	AsFitted    bool
}

func (readingRow) TableName() string { return "readings" }

func (r readingRow) reading(t *machine.Trait) machine.Reading {
	out := machine.Reading{
		ID:         r.ID,
		Key:        t.Key(),
		Value:      t.Stored(r.Value),
		Grade:      machine.Grade(r.Grade),
		TakenAt:    r.TakenAt,
		By:         r.TakenBy,
		How:        r.How,
		Note:       r.Note,
		Superseded: r.SetAsideWhy,
		AsFitted:   r.AsFitted,
	}
	if r.AsFitted { // earlier versions wrote that down as observed
		out.Grade = min(out.Grade, machine.StatedGrade(r.Trait, r.Value))
	}
	if r.SetAsideAt != nil {
		out.SupersededAt = *r.SetAsideAt
	}
	return out
}

// fleet loads machines as this transaction sees them.
func (s *Store) fleet(tx *gorm.DB, ids ...int64) ([]Machine, error) {
	var rows []machineRow
	q := tx.Order("lower(name), id")
	one := func(column string) func(*gorm.DB) *gorm.DB {
		return func(q *gorm.DB) *gorm.DB {
			if len(ids) > 0 {
				return q.Where(column+" in ?", ids)
			}
			return q
		}
	}
	if len(ids) > 0 {
		q = q.Where("id in ?", ids)
	} else {
		q = q.Where("retired_at is null")
	}
	if err := q.Find(&rows).Error; err != nil {
		return nil, err
	}
	out := make([]Machine, len(rows))
	at := make(map[int64]*Machine, len(rows))
	tasks := s.Tasks(tx.Statement.Context)
	for i, r := range rows {
		out[i] = r.machine()
		out[i].Tasks = tasks
		at[r.ID] = &out[i]
	}
	if err := s.loadReadings(tx, s.vocabularyOf(tx), at, ids); err != nil {
		return nil, err
	}
	if err := loadCalibrations(tx, at, one); err != nil {
		return nil, err
	}
	if err := loadConfigured(tx, at, one); err != nil {
		return nil, err
	}
	if err := loadCounters(tx, at, one); err != nil {
		return nil, err
	}
	if err := loadHappened(tx, at, one); err != nil {
		return nil, err
	}
	if err := loadStays(tx, at, one); err != nil {
		return nil, err
	}
	if err := loadUses(tx.Scopes(one("machine_id")), at); err != nil {
		return nil, err
	}
	var orders []orderRow
	if err := tx.Scopes(one("machine_id")).Where("state in ('open', 'planned')").Order("id").Find(
		&orders).Error; err != nil {
		return nil, err
	}
	for _, o := range orders {
		if m := at[o.MachineID]; m != nil {
			head := o.head()
			if o.State == "planned" {
				m.Planned = append(m.Planned, head)
			} else {
				m.OpenOrder = &head
			}
		}
	}
	return out, nil
}

func (r machineRow) machine() Machine {
	return Machine{
		Planned:    []OrderHead{},
		ID:         r.ID,
		Fields:     r.fields(),
		Since:      r.Since,
		RetiredAt:  r.RetiredAt,
		RetiredWhy: r.RetiredWhy,
		Version:    r.Version,
		Structure:  r.Structure,
		Revision:   r.Revision,
		ChangedBy:  r.ChangedBy,
		ChangedAt:  r.ChangedAt,
	}
}

func (r machineRow) fields() Fields {
	return Fields{
		Name:     r.Name,
		Bay:      r.Bay,
		Maker:    r.Maker,
		Serial:   r.Serial,
		Note:     r.Note,
		Supplier: r.Supplier,
		Price:    r.Price,
		BoughtOn: isoDay(r.BoughtOn),
	}
}

// loadReadings reads the readings of the parts now fitted, row by row: for a
// large fleet they are by far the most. With ids it reads those machines only.
func (s *Store) loadReadings(tx *gorm.DB, voc *machine.Vocabulary, at map[int64]*Machine, ids []int64) error {
	positions, err := listedNow(tx, ids)
	if err != nil {
		return err
	}
	if err := s.checkListed(tx, voc, positions); err != nil {
		return err
	}
	takings, err := takingsOf(tx, ids)
	if err != nil {
		return err
	}
	q := tx.Table("held_readings").Where("removed_at is null")
	if len(ids) > 0 {
		q = q.Where("machine_id in ?", ids)
	}
	rows, err := q.Select("id, machine_id, slot, trait, value, grade, taken_at, taken_by, how, note, set_aside_why, " +
		"set_aside_at, as_fitted").
		Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	var r readingRow
	var machineID int64
	var slot string
	for rows.Next() {
		if err := rows.Scan(&r.ID, &machineID, &slot, &r.Trait, &r.Value, &r.Grade, &r.TakenAt, &r.TakenBy, &r.How,
			&r.Note, &r.SetAsideWhy, &r.SetAsideAt, &r.AsFitted); err != nil {
			return err
		}
		m := at[machineID]
		t, ok := voc.Trait(machine.KeyOf(slot, r.Trait))
		if m == nil || !ok {
			continue
		}
		m.Readings = append(m.Readings, r.reading(t))
	}
	for _, m := range at {
		// Sorted here: the database would sort the whole fleet's on disk.
		slices.SortFunc(m.Readings, func(a, b machine.Reading) int { return cmp.Compare(a.ID, b.ID) })
		m.Facts = machine.NewSnapshot(
			voc,
			machine.Record{Readings: m.Readings, Positions: positions[m.ID], Takings: takings[m.ID]},
		)
	}
	return rows.Err()
}

// checkListed returns ErrOutdated when machines list positions that the vocabulary lacks because it is of an earlier
// catalogue: they would be left out of the machine.
func (s *Store) checkListed(tx *gorm.DB, voc *machine.Vocabulary, listed map[int64][]machine.Position) error {
	for _, list := range listed {
		if slices.ContainsFunc(list, func(p machine.Position) bool { return voc.At(p.Key) == nil }) {
			return s.CheckPin(tx.Statement.Context)
		}
	}
	return nil
}

// lockMachine takes a machine's row for this transaction.
func lockMachine(tx *gorm.DB, id int64) (machineRow, error) {
	var row machineRow
	err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).First(&row, id).Error
	return row, found(err)
}

// LockMachine takes a machine's row for the transaction; ErrNotFound where there is none.
func (s *Store) LockMachine(ctx context.Context, id int64) error {
	_, err := lockMachine(s.from(ctx), id)
	return err
}

// lockMachineOf takes the machine of a row of a table, before the row itself is taken: every writer takes machines
// first, then their orders and faults, then what is planned, so that no two wait for each other.
func (s *Store) lockMachineOf(ctx context.Context, table string, id int64) error {
	var machine int64
	err := s.from(ctx).Table(table).Where("id = ?", id).Limit(1).Pluck("machine_id", &machine).Error
	if err != nil || machine == 0 {
		return cmpErr(err, ErrNotFound)
	}
	return s.LockMachine(ctx, machine)
}

// LockMachines takes the rows of several machines, in the order of their numbers; 0 is none.
func (s *Store) LockMachines(ctx context.Context, ids ...int64) error {
	return s.from(ctx).Exec("select id from machines where id in ? order by id for update", ids).Error
}

// AddMachine writes a machine into the register, without positions; ErrTaken where another
// has its name.
func (s *Store) AddMachine(ctx context.Context, f Fields, by string, at time.Time) (int64, error) {
	row, err := f.row(by, at)
	if err != nil {
		return 0, err
	}
	row.Since, row.Version = at, 1
	err = s.from(ctx).Create(&row).Error
	return row.ID, taken(err)
}

// WriteMachine writes the fields of a machine as its next version; ErrTaken where another
// has its name.
func (s *Store) WriteMachine(ctx context.Context, id int64, f Fields, by string, at time.Time) error {
	set, err := f.row(by, at)
	if err != nil {
		return err
	}
	return taken(s.from(ctx).Model(&machineRow{}).Where("id = ?", id).Updates(map[string]any{
		"name": set.Name, "bay": set.Bay, "maker": set.Maker, "serial": set.Serial, "note": set.Note,
		"supplier": set.Supplier, "price": set.Price, "bought_on": set.BoughtOn,
		"version": gorm.Expr("version + 1"), "changed_by": by, "changed_at": at}).Error)
}

// SetRetired takes a machine out of the fleet with a reason, or with none brings it back.
func (s *Store) SetRetired(ctx context.Context, id int64, why, by string, at time.Time) error {
	set := map[string]any{"retired_at": nil, "retired_why": why, "version": gorm.Expr("version + 1"), "changed_by": by,
		"changed_at": at}
	if why != "" {
		set["retired_at"] = at
	}
	return s.from(ctx).Model(&machineRow{}).Where("id = ?", id).Updates(set).Error
}

// LockedMachine takes a machine for the transaction, and loads it.
func (s *Store) LockedMachine(ctx context.Context, id int64) (Machine, error) {
	tx := s.from(ctx)
	if _, err := lockMachine(tx, id); err != nil {
		return Machine{}, err
	}
	return s.machine(tx, id)
}

// Names lists every machine without what is in it, retired ones too, by name.
func (s *Store) Names(ctx context.Context) ([]Machine, error) {
	rows, err := list[machineRow](s.from(ctx), "lower(name), id", "")
	out := make([]Machine, len(rows))
	for i, r := range rows {
		out[i] = r.machine()
	}
	return out, err
}

// RetiredMachines lists the machines taken out of the fleet.
func (s *Store) RetiredMachines(ctx context.Context) ([]Machine, error) {
	var ids []int64
	if err := s.from(ctx).Model(&machineRow{}).Where("retired_at is not null").Pluck("id", &ids).Error; err != nil ||
		len(ids) == 0 {
		return nil, err
	}
	return s.Fleet(ctx, ids...)
}
