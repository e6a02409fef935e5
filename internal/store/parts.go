package store

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

type partRow struct {
	ID          int64
	Kind        string
	Tag         string
	Serial      string
	Supplier    string
	Price       *float64
	BoughtOn    *time.Time
	Note        string
	Shelf       string
	Lot         string
	ForMachine  *int64 `gorm:"column:for_machine_id"`
	ScrappedAt  *time.Time
	ScrappedWhy string
	Version     int
	ChangedBy   string
	ChangedAt   time.Time
}

func (partRow) TableName() string { return "parts" }

// PartFields are what a person writes about a part.
type PartFields struct {
	Tag      string   `json:"tag" maxLength:"60" doc:"The shop's own label on it"`
	Serial   string   `json:"serial" maxLength:"120"`
	Supplier string   `json:"supplier" maxLength:"120"`
	Price    *float64 `json:"price,omitempty" minimum:"0" staff:"only" doc:"In the shop's currency"`
	BoughtOn string   `json:"boughtOn,omitempty" doc:"ISO 8601"`
	Note     string   `json:"note" maxLength:"120"`
	Shelf    string   `json:"shelf" maxLength:"60" doc:"Where it lies while it is in no machine"`
	Lot      string   `json:"lot,omitempty" maxLength:"60" doc:"The maker's lot or the delivery that it came with"`
	// It lies on the shelf for that machine.
	ForMachine *int64 `json:"forMachine,omitempty" doc:"Number of the machine that it was bought for"`
}

// row is the part as it is kept; the day is ISO 8601.
func (f PartFields) row() (partRow, error) {
	row := partRow{Tag: f.Tag, Serial: f.Serial, Supplier: f.Supplier, Price: f.Price, Note: f.Note, Shelf: f.Shelf,
		Lot: f.Lot, ForMachine: f.ForMachine}
	var err error
	row.BoughtOn, err = dateOf(f.BoughtOn)
	return row, err
}

// isoDay writes a date of the database; empty where it has none.
func isoDay(date *time.Time) string {
	if date == nil {
		return ""
	}
	return date.Format(civil.ISO)
}

func (r partRow) fields() PartFields {
	f := PartFields{Tag: r.Tag, Serial: r.Serial, Supplier: r.Supplier, Price: r.Price, Note: r.Note, Shelf: r.Shelf,
		Lot: r.Lot, ForMachine: r.ForMachine}
	f.BoughtOn = isoDay(r.BoughtOn)
	return f
}

// Place is where a part was, or is.
type Place struct {
	MachineID int64      `json:"machineId,omitempty"`
	Machine   string     `json:"machine,omitempty"`
	Slot      string     `json:"slot,omitempty"`
	From      time.Time  `json:"from"`
	To        *time.Time `json:"to,omitempty"`
	WorkOrder *int64     `json:"workOrder,omitempty"`
	Why       string     `json:"why,omitempty"`
	By        string     `json:"by,omitempty"`
}

// Part is one part with where it has been.
type Part struct {
	ID   int64  `json:"id"`
	Kind string `json:"kind"`
	PartFields
	Model       string        `json:"model" doc:"What stands as its model; empty when unknown"`
	Grade       machine.Grade `json:"grade"`
	ForName     string        `json:"forMachineName,omitempty" doc:"Of the machine that it was bought for"`
	ScrappedAt  *time.Time    `json:"scrappedAt,omitempty"`
	ScrappedWhy string        `json:"scrappedWhy,omitempty"`
	Version     int           `json:"version"`
	ChangedBy   string        `json:"-"`
	ChangedAt   time.Time     `json:"-"`
	// The first without an end is where it is.
	Places   []Place           `json:"places" doc:"Machines it was in, newest first"`
	Readings []machine.Reading `json:"-"`
}

// Now is where the part is: in a machine, scrapped, or (nil) on the shelf.
func (p *Part) Now() *Place {
	for i := range p.Places { // moves noted within a moment may stand in another order
		if p.Places[i].To == nil {
			return &p.Places[i]
		}
	}
	return nil
}

// Parts lists the parts of a fleet, builds and placeholders of empty slots left
// out; with ids only those, whatever they are.
func (s *Store) Parts(ctx context.Context, ids ...int64) ([]Part, error) {
	return s.parts(s.from(ctx), ids...)
}

func (s *Store) parts(tx *gorm.DB, ids ...int64) ([]Part, error) {
	narrow := func(column string) func(*gorm.DB) *gorm.DB {
		return func(q *gorm.DB) *gorm.DB {
			if len(ids) > 0 {
				return q.Where(column+" in ?", ids)
			}
			return q
		}
	}
	var rows []struct {
		Part    partRow `gorm:"embedded"`
		ForName *string
	}
	if err := tx.Table("parts").Scopes(narrow("parts.id")).Order("parts.id").
		Select("parts.*, m.name as for_name").Joins("left join machines m on m.id = parts.for_machine_id").
		Scan(&rows).Error; err != nil {
		return nil, err
	}
	parts := make([]Part, len(rows))
	at := map[int64]*Part{}
	for i, row := range rows {
		r := row.Part
		parts[i] = Part{
			ID:          r.ID,
			Kind:        r.Kind,
			PartFields:  r.fields(),
			ScrappedAt:  r.ScrappedAt,
			ScrappedWhy: r.ScrappedWhy,
			Version:     r.Version,
			ChangedBy:   r.ChangedBy,
			ChangedAt:   r.ChangedAt,
			Places:      []Place{},
		}
		if row.ForName != nil {
			parts[i].ForName = *row.ForName
		}
		at[r.ID] = &parts[i]
	}
	var places []struct {
		Fitting fittingRow `gorm:"embedded"`
		Machine string
	}
	err := tx.Table("fittings").
		Scopes(narrow("part_id")).
		Select("fittings.*, machines.name as machine").
		Joins("join machines on machines.id = fittings.machine_id").
		Order("fitted_at desc, fittings.id desc").
		Scan(&places).
		Error
	if err != nil {
		return nil, err
	}
	for _, p := range places {
		f := p.Fitting
		if part := at[f.part()]; part != nil {
			part.Places = append(
				part.Places,
				Place{
					MachineID: f.MachineID,
					Machine:   p.Machine,
					Slot:      f.Slot,
					From:      f.FittedAt,
					To:        f.RemovedAt,
					WorkOrder: f.WorkOrderID,
					Why:       f.Why,
					By:        f.MovedBy,
				},
			)
		}
	}
	var readings []readingRow
	if err := tx.Scopes(narrow("part_id")).Order("id").Find(&readings).Error; err != nil {
		return nil, err
	}
	voc := s.vocabularyOf(tx)
	traits := map[[2]string]*machine.Trait{}
	for _, r := range readings {
		part := at[r.held().Part]
		if part == nil {
			continue
		}
		key := [2]string{part.Kind, r.Trait}
		t, known := traits[key]
		if !known {
			t = voc.TraitOfKind(part.Kind, r.Trait)
			traits[key] = t
		}
		if t != nil {
			part.Readings = append(part.Readings, r.reading(t))
		}
	}
	out := parts[:0]
	for i := range parts {
		f := parts[i].Fact(voc, machine.ModelTrait)
		parts[i].Model, parts[i].Grade = f.Value.Text, f.Grade
		kind, _ := voc.Kind(parts[i].Kind)
		if f.Value.Text != machine.None && !kind.Software || len(ids) > 0 {
			out = append(out, parts[i])
		}
	}
	return out, nil
}

// Trait is a trait that parts of the part's kind have; nil where they have none of that
// name.
func (p *Part) Trait(voc *machine.Vocabulary, name string) *machine.Trait {
	return voc.TraitOfKind(p.Kind, name)
}

// Fact is what stands of one trait of the part.
func (p *Part) Fact(voc *machine.Vocabulary, trait string) machine.Fact {
	t := voc.TraitOfKind(p.Kind, trait)
	if t == nil {
		return machine.Fact{}
	}
	var of []machine.Reading
	for _, r := range p.Readings {
		if r.Key.Trait() == trait {
			of = append(of, r)
		}
	}
	return machine.Standing(t, of)
}

// Loose is the part with what is known of it, as it can be judged for a machine.
func (p *Part) Loose(voc *machine.Vocabulary) fit.Loose {
	out := fit.Loose{Kind: p.Kind, Facts: map[string]machine.Fact{}}
	for _, def := range voc.TraitsOf(p.Kind) {
		if f := p.Fact(voc, def.Name); f.Grade != machine.Unknown {
			out.Facts[def.Name] = f
		}
	}
	return out
}

// Part loads one part.
func (s *Store) Part(ctx context.Context, id int64) (Part, error) {
	ps, err := s.Parts(ctx, id)
	if err != nil || len(ps) == 0 {
		return Part{}, found(cmpErr(err, ErrNotFound))
	}
	return ps[0], nil
}

func cmpErr(err, otherwise error) error {
	if err != nil {
		return err
	}
	return otherwise
}

// LockPart takes a part for the transaction, and loads it.
func (s *Store) LockPart(ctx context.Context, id int64) (Part, error) {
	var row partRow
	if err := s.from(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).First(&row, id).Error; err != nil {
		return Part{}, found(err)
	}
	return s.Part(ctx, id)
}

// AddPart writes a part of a kind that is in no machine yet; ErrTaken where another has
// its tag.
func (s *Store) AddPart(ctx context.Context, kind string, f PartFields, by string, at time.Time) (int64, error) {
	row, err := f.row()
	if err != nil {
		return 0, err
	}
	row.Kind, row.Version, row.ChangedBy, row.ChangedAt = kind, 1, by, at
	err = s.from(ctx).Create(&row).Error
	return row.ID, taken(err)
}

// WritePart writes the fields of a part as the next version; ErrTaken where another has its
// tag.
func (s *Store) WritePart(ctx context.Context, id int64, f PartFields, by string, at time.Time) error {
	set, err := f.row()
	if err != nil {
		return err
	}
	return taken(s.from(ctx).Model(&partRow{}).Where("id = ?", id).Updates(map[string]any{
		"tag": set.Tag, "serial": set.Serial, "supplier": set.Supplier, "price": set.Price, "bought_on": set.BoughtOn,
		"note": set.Note, "shelf": set.Shelf, "lot": set.Lot, "for_machine_id": set.ForMachine,
		"version": gorm.Expr("version + 1"), "changed_by": by, "changed_at": at,
	}).Error)
}

// LayDown notes on which shelf a part lies that is in no machine or, with a reason, that
// it was scrapped.
func (s *Store) LayDown(ctx context.Context, id int64, shelf, scrappedWhy, by string, at time.Time) error {
	set := map[string]any{"shelf": shelf, "for_machine_id": nil, "scrapped_at": nil, "scrapped_why": scrappedWhy,
		"version": gorm.Expr("version + 1"), "changed_by": by, "changed_at": at}
	if scrappedWhy != "" {
		set["scrapped_at"] = at
	}
	return s.from(ctx).Model(&partRow{}).Where("id = ?", id).Updates(set).Error
}

// CostOf adds up what a machine has cost.
func (s *Store) CostOf(ctx context.Context, id int64) (machine.Cost, error) {
	tx := s.from(ctx)
	var row machineRow
	if err := tx.First(&row, id).Error; err != nil {
		return machine.Cost{}, found(err)
	}
	var stays []machine.Installation
	err := tx.Raw(`select f.part_id as part, f.machine_id as machine, f.fitted_at as "from", p.price,
		  p.standing_model = ? as empty
		from fittings f join parts p on p.id = f.part_id
		where f.part_id in (select part_id from fittings where machine_id = ?)`, machine.None, id).Scan(&stays).Error
	if err != nil {
		return machine.Cost{}, err
	}
	var minutes int
	if err := tx.Raw("select coalesce(sum(minutes), 0) from labour where machine_id = ?",
		id).Scan(&minutes).Error; err != nil {
		return machine.Cost{}, err
	}
	return machine.CostOf(id, row.Price, row.Since, stays, minutes), nil
}

type labourRow struct {
	ID          int64
	MachineID   int64
	WorkOrderID *int64
	At          time.Time
	By          string
	Minutes     int
	What        string
}

func (labourRow) TableName() string { return "labour" }

// AddLabour writes down minutes of work on a machine, and the work order that they were
// for; 0 for none.
func (s *Store) AddLabour(ctx context.Context, machineID, order int64, minutes int, what, by string,
	at time.Time) error {
	return s.from(ctx).Create(&labourRow{MachineID: machineID, WorkOrderID: orNil(order), At: at, By: by,
		Minutes: minutes, What: what}).Error
}
