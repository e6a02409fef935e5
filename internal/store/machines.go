package store

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/csvimport"
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
	Price    *float64 `json:"price,omitempty" minimum:"0" doc:"In the shop's currency"`
	BoughtOn string   `json:"boughtOn,omitempty" maxLength:"40" doc:"ISO 8601"`
}

// row is the machine as it is written; what is wrong with it is refused.
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
	if err := f.check(); err != nil {
		return row, err
	}
	var err error
	row.BoughtOn, err = boughtOn(f.BoughtOn, now)
	return row, err
}

func (f Fields) check() error {
	if err := csvimport.CheckName(f.Name); err != nil {
		return refuse("name: %s", err)
	}
	for _, t := range []struct{ what, text string }{{"bay", f.Bay}, {"maker", f.Maker}, {"serial number", f.Serial},
		{"note", f.Note}, {"supplier", f.Supplier}} {
		if t.text == "" {
			continue
		}
		if err := machine.PlainText(t.text); err != nil {
			return refuse("%s: %s", t.what, err)
		}
	}
	return nil
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
	// Worn are the lives of the parts that wear, by position, where Wear was asked for them.
	Worn       map[string]maintenance.Part
	OpenOrder  *OrderHead
	Planned    []OrderHead // work that waits its turn, in its order
	Use        UseSince
	OpenFaults int
}

// Family is the firmware family that stands; empty when it is unknown.
func (m *Machine) Family() string {
	return m.Facts.Of(m.Facts.First(parts.Firmware), parts.FirmwareFamily).Value.Text
}

// LastFile is the name of the build file last flashed; empty when it is unknown.
func (m *Machine) LastFile() string {
	return m.Facts.Of(m.Facts.First(parts.Firmware), parts.FirmwareFile).Value.Text
}

// Protection is whether the machine may be left running.
func (m *Machine) Protection(now time.Time) calibration.ProtectionState {
	return calibration.ProtectionOf(m.Facts, m.Records, now)
}

// Subject is the machine as upkeep sees it.
func (m *Machine) Subject(now time.Time) maintenance.Subject {
	return maintenance.Subject{
		Since:      m.Since,
		Facts:      m.Facts,
		Meters:     m.Meters,
		Done:       m.Done,
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
	return s.fleetWith(s.from(ctx), s.loadRemembered)
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
		ID:       r.ID,
		Key:      t.Key(),
		Value:    t.Stored(r.Value),
		Grade:    machine.Grade(r.Grade),
		TakenAt:  r.TakenAt,
		By:       r.TakenBy,
		How:      r.How,
		Note:     r.Note,
		SetAside: r.SetAsideWhy,
		AsFitted: r.AsFitted,
	}
	if r.SetAsideAt != nil {
		out.SetAsideAt = *r.SetAsideAt
	}
	return out
}

// fleet loads machines with their readings as this transaction sees them.
func (s *Store) fleet(tx *gorm.DB, ids ...int64) ([]Machine, error) {
	return s.fleetWith(tx, func(tx *gorm.DB, at map[int64]*Machine) error {
		return s.loadReadings(tx, s.Vocabulary(), at, ids)
	}, ids...)
}

func (s *Store) fleetWith(
	tx *gorm.DB,
	loadReadings func(*gorm.DB, map[int64]*Machine) error,
	ids ...int64,
) ([]Machine, error) {
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
	for i, r := range rows {
		out[i] = r.machine()
		at[r.ID] = &out[i]
	}
	if err := loadReadings(tx, at); err != nil {
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

// AddMachine puts a machine into the register, with positions like another's.
func (s *Store) AddMachine(ctx context.Context, f Fields, like Like, by string, now time.Time) (int64, error) {
	row, err := f.row(by, now)
	if err != nil {
		return 0, err
	}
	row.Since, row.Version = now, 1
	err = s.tx(ctx, func(tx *gorm.DB) error {
		if err := nameFree(tx, f.Name, 0); err != nil {
			return err
		}
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
		list, err := s.positionsLike(tx, like)
		if err != nil {
			return err
		}
		if err := addPositions(tx, row.ID, list, by, now); err != nil {
			return err
		}
		return s.learnPositions(tx, list...)
	})
	return row.ID, nameTaken(err, f.Name)
}

// nameTaken is the refusal of a name that another writer took at the same time.
func nameTaken(err error, name string) error {
	if isTwice(err) {
		return refuse("there is a machine named %s already; names tell machines apart", name)
	}
	return err
}

func nameFree(tx *gorm.DB, name string, except int64) error {
	// One writer of names at a time, so that two cannot take one name at once.
	if err := tx.Exec("select pg_advisory_xact_lock(hashtext('machine names'))").Error; err != nil {
		return err
	}
	var n int64
	if err := tx.Model(&machineRow{}).Where("lower(name) = lower(?) and id <> ?", name,
		except).Count(&n).Error; err != nil {
		return err
	}
	if n > 0 {
		return refuse("there is a machine named %s already; names tell machines apart", name)
	}
	return nil
}

// lockMachine takes a machine's row for this transaction.
func lockMachine(tx *gorm.DB, id int64) (machineRow, error) {
	var row machineRow
	err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).First(&row, id).Error
	return row, found(err)
}

// LockedMachine takes a machine for the transaction, and loads it.
func (s *Store) LockedMachine(ctx context.Context, id int64) (Machine, error) {
	tx := s.from(ctx)
	if _, err := lockMachine(tx, id); err != nil {
		return Machine{}, err
	}
	return s.machine(tx, id)
}

// lockMachines takes the rows of several machines, in the order of their numbers; 0 is none.
func lockMachines(tx *gorm.DB, ids ...int64) error {
	return tx.Exec("select id from machines where id in ? order by id for update", ids).Error
}

// ChangeMachine writes a machine's fields over the version that the editor
// saw. When it is no longer that version, Conflict carries the fields as they
// are now.
func (s *Store) ChangeMachine(ctx context.Context, id int64, version int, f Fields, by string, now time.Time) error {
	changed, err := f.row(by, now)
	if err != nil {
		return err
	}
	err = s.tx(ctx, func(tx *gorm.DB) error {
		row, err := lockMachine(tx, id)
		if err != nil {
			return err
		}
		if row.Version != version {
			return &Conflict{
				Sentence: fmt.Sprintf(
					"%s changed this machine on %s while you were editing; nothing of yours was overwritten or lost",
					row.ChangedBy,
					row.ChangedAt.Format(civil.Moment),
				),
				Current: Edited{Version: row.Version, Fields: row.fields()},
			}
		}
		if err := nameFree(tx, f.Name, id); err != nil {
			return err
		}
		changed.Version = row.Version + 1
		return tx.Model(&row).
			Select("name", "bay", "maker", "serial", "note", "supplier", "price", "bought_on", "version", "changed_by",
				"changed_at").
			Updates(changed).
			Error
	})
	return nameTaken(err, f.Name)
}

// Edited is a machine's fields with their version.
type Edited struct {
	Version int    `json:"version"`
	Fields  Fields `json:"fields"`
}

// Retire takes a machine out of the fleet; its record stays. An empty reason
// brings it back.
func (s *Store) Retire(ctx context.Context, id int64, why, by string, now time.Time) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		row, err := lockMachine(tx, id)
		if err != nil {
			return err
		}
		var open int64
		if err := tx.Model(&orderRow{}).Where("machine_id = ? and state = 'open'", id).Count(&open).Error; err != nil {
			return err
		}
		if open > 0 {
			return refuse("work is open on %s; finish or close it before the machine is retired", row.Name)
		}
		at := &now
		if why == "" {
			at = nil
		} else if err := machine.PlainText(why); err != nil {
			return refuse("reason: %s", err)
		}
		return tx.Model(&row).Select("retired_at", "retired_why", "version", "changed_by", "changed_at").
			Updates(machineRow{RetiredAt: at, RetiredWhy: why, Version: row.Version + 1, ChangedBy: by, ChangedAt: now}).Error
	})
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
