package store

import (
	"context"
	"fmt"
	"maps"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"wardifex/internal/core/change"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/firmware"
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
	Price    *float64 `json:"price,omitempty" minimum:"0" doc:"In the shop's currency"`
	BoughtOn string   `json:"boughtOn,omitempty" doc:"ISO 8601"`
	Note     string   `json:"note" maxLength:"120"`
	Shelf    string   `json:"shelf" maxLength:"60" doc:"Where it lies while it is in no machine"`
}

func (f PartFields) row(now time.Time) (partRow, error) {
	row := partRow{Tag: f.Tag, Serial: f.Serial, Supplier: f.Supplier, Price: f.Price, Note: f.Note, Shelf: f.Shelf}
	for _, t := range []struct{ what, text string }{{"tag", f.Tag}, {"serial number", f.Serial},
		{"supplier", f.Supplier}, {"note", f.Note}, {"shelf", f.Shelf}} {
		if t.text == "" {
			continue
		}
		if err := machine.PlainText(t.text); err != nil {
			return row, refuse("%s: %s", t.what, err)
		}
	}
	var err error
	row.BoughtOn, err = boughtOn(f.BoughtOn, now)
	return row, err
}

// boughtOn reads the day on which something was bought, as typed; nil where it is empty.
// Dates in the database have no time zone: they are kept as days of UTC.
func boughtOn(text string, now time.Time) (*time.Time, error) {
	if text == "" {
		return nil, nil
	}
	day, err := civil.ParseDay(text, civil.Unsaid)
	if err != nil {
		return nil, refuse("bought on: %s", err)
	}
	if day > civil.Of(now) {
		return nil, refuse("bought on %s, which is still to come; it is %s now", day.Show(), now.Format(civil.Shown))
	}
	at := day.Start(time.UTC)
	return &at, nil
}

// isoDay writes a date of the database; empty where it has none.
func isoDay(date *time.Time) string {
	if date == nil {
		return ""
	}
	return date.Format(civil.ISO)
}

func (r partRow) fields() PartFields {
	f := PartFields{Tag: r.Tag, Serial: r.Serial, Supplier: r.Supplier, Price: r.Price, Note: r.Note, Shelf: r.Shelf}
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
	ScrappedAt  *time.Time    `json:"scrappedAt,omitempty"`
	ScrappedWhy string        `json:"scrappedWhy,omitempty"`
	Version     int           `json:"version"`
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
	var rows []partRow
	if err := tx.Scopes(narrow("id")).Order("id").Find(&rows).Error; err != nil {
		return nil, err
	}
	parts := make([]Part, len(rows))
	at := map[int64]*Part{}
	for i, r := range rows {
		parts[i] = Part{
			ID:          r.ID,
			Kind:        r.Kind,
			PartFields:  r.fields(),
			ScrappedAt:  r.ScrappedAt,
			ScrappedWhy: r.ScrappedWhy,
			Version:     r.Version,
			Places:      []Place{},
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
	voc := s.Vocabulary()
	for _, r := range readings {
		if part := at[r.held().part]; part != nil {
			if t := traitOfKind(voc, part.Kind, r.Trait); t != nil {
				part.Readings = append(part.Readings, r.reading(t))
			}
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

// traitOfKind is a trait of a kind of part, in no slot.
func traitOfKind(voc *machine.Vocabulary, kind, name string) *machine.Trait {
	k, ok := voc.Kind(kind)
	if !ok {
		return nil
	}
	for _, def := range voc.TraitsOf(kind) {
		if def.Name == name {
			return &machine.Trait{Slot: "part", TraitDef: def, Label: k.Label + ": " + def.Short}
		}
	}
	return nil
}

// Fact is what stands of one trait of the part.
func (p *Part) Fact(voc *machine.Vocabulary, trait string) machine.Fact {
	t := traitOfKind(voc, p.Kind, trait)
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

func tagFree(tx *gorm.DB, tag string, except int64) error {
	if tag == "" {
		return nil
	}
	if err := tx.Exec("select pg_advisory_xact_lock(hashtext('part tags'))").Error; err != nil {
		return err
	}
	var n int64
	if err := tx.Model(&partRow{}).Where("lower(tag) = lower(?) and id <> ?", tag, except).Count(&n).Error; err != nil {
		return err
	}
	if n > 0 {
		return refuse("there is a part tagged %s already; tags tell parts apart", tag)
	}
	return nil
}

// AddPart puts a part on the shelf, with its model as a claim of its supplier.
func (s *Store) AddPart(
	ctx context.Context,
	kind, model string,
	f PartFields,
	by string,
	now time.Time,
) (int64, error) {
	if k, ok := s.Vocabulary().Kind(kind); !ok {
		return 0, refuse("there is no kind of part %q", kind)
	} else if s.software(kind) {
		return 0, refuse("a %s lies on no shelf: boards run it. Record the build by itself, and on a machine that its "+
			"board runs it", strings.ToLower(k.Label))
	}
	row, err := f.row(now)
	if err != nil {
		return 0, err
	}
	if err := machine.PlainText(model); err != nil || model == machine.None {
		return 0, refuse("name the part's model as its supplier does")
	}
	row.Kind, row.Version, row.ChangedBy, row.ChangedAt = kind, 1, by, now
	err = s.tx(ctx, func(tx *gorm.DB) error {
		if err := tagFree(tx, f.Tag, 0); err != nil {
			return err
		}
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
		return tx.Create(
			&readingRow{
				PartID:  &row.ID,
				Trait:   machine.ModelTrait,
				Value:   model,
				Grade:   int16(machine.Claimed),
				TakenAt: now,
				TakenBy: by,
				How:     "as bought",
			},
		).Error
	})
	return row.ID, err
}

// ChangePart writes a part's fields over the version that the editor saw.
func (s *Store) ChangePart(ctx context.Context, id int64, version int, f PartFields, by string, now time.Time) error {
	set, err := f.row(now)
	if err != nil {
		return err
	}
	return s.tx(ctx, func(tx *gorm.DB) error {
		row, err := lockPart(tx, id)
		if err != nil {
			return err
		}
		if row.Version != version {
			return &Conflict{
				Sentence: fmt.Sprintf(
					"%s changed this part on %s while you were editing; nothing of yours was overwritten or lost",
					row.ChangedBy,
					row.ChangedAt.Format(civil.Moment),
				),
				Current: row.fields(),
			}
		}
		if err := tagFree(tx, f.Tag, id); err != nil {
			return err
		}
		set.Version, set.ChangedBy, set.ChangedAt = version+1, by, now
		return tx.Model(&row).
			Select("tag", "serial", "supplier", "price", "bought_on", "note", "shelf", "version", "changed_by", "changed_at").
			Updates(set).
			Error
	})
}

func lockPart(tx *gorm.DB, id int64) (partRow, error) {
	var row partRow
	err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).First(&row, id).Error
	return row, found(err)
}

// Move is where a part goes.
type Move struct {
	To        string `json:"to" enum:"machine,shelf,scrap"`
	MachineID int64  `json:"machineId,omitempty"`
	Slot      string `json:"slot,omitempty"`
	Shelf     string `json:"shelf,omitempty" maxLength:"60"`
	Why       string `json:"why" maxLength:"120"`
	From      Origin `json:"from" doc:"Where the mover sees the part; moved meanwhile, it stays where it is"`
	// Replaces says that what is in the slot now goes to the shelf.
	Replaces bool `json:"replaces,omitempty"`
}

// Origin is where a part is before it is moved: at a position of a machine or, without
// one, on the shelf or scrapped.
type Origin struct {
	MachineID int64  `json:"machineId,omitempty"`
	Slot      string `json:"slot,omitempty"`
}

// MovePart moves a part from where it is into a machine, onto the shelf or to
// scrap. What rested on the part in the machine it leaves, and on what was in
// the slot it enters, is no longer valid.
func (s *Store) MovePart(ctx context.Context, id int64, m Move, by string, now time.Time) error {
	if err := machine.PlainText(m.Why); err != nil {
		return refuse("say why the part is moved: %s", err)
	}
	return s.tx(ctx, func(tx *gorm.DB) error {
		// Machines before parts, and each in the order of their numbers, as everywhere: who
		// moves parts to and fro at the same time waits, and nobody for one another.
		if err := lockMachines(tx, m.From.MachineID, m.MachineID); err != nil {
			return err
		}
		row, err := lockPart(tx, id)
		if err != nil {
			return err
		}
		if row.ScrappedAt != nil && m.To != "shelf" {
			return refuse(
				"this part was scrapped on %s: %s. Bring it back to the shelf first",
				row.ScrappedAt.Format(civil.Shown),
				row.ScrappedWhy,
			)
		}
		var at []fittingRow
		if err := tx.Where("part_id = ? and removed_at is null", id).Find(&at).Error; err != nil {
			return err
		}
		var is Origin
		if len(at) > 0 {
			is = Origin{at[0].MachineID, at[0].Slot}
		}
		if is != m.From {
			return &Conflict{
				Sentence: "somebody moved this part meanwhile; nothing was moved. Look where it is now",
				Current:  is,
			}
		}
		if m.To != "machine" {
			if len(at) > 0 {
				if err := s.empty(tx, at[0], m.Why, by, now); err != nil {
					return err
				}
			}
			set := map[string]any{
				"shelf":        m.Shelf,
				"scrapped_at":  nil,
				"scrapped_why": "",
				"version":      row.Version + 1,
				"changed_by":   by,
				"changed_at":   now,
			}
			if m.To == "scrap" {
				set["scrapped_at"], set["scrapped_why"] = now, m.Why
			}
			return tx.Model(&row).Updates(set).Error
		}
		return s.moveIn(tx, row, at, m, by, now)
	})
}

func (s *Store) moveIn(tx *gorm.DB, row partRow, at []fittingRow, m Move, by string, now time.Time) error {
	slot, ok := s.Vocabulary().Position(m.Slot)
	if !ok {
		return refuse("there is no position %q", m.Slot)
	}
	if s.software(slot.Kind) {
		return refuse(
			"%s holds no part: boards run builds. Record on the machine's page of builds what its board runs",
			slot.Label,
		)
	}
	if slot.Kind != row.Kind {
		return refuse("%s holds a %s; this part is a %s", slot.Label, slot.Kind, row.Kind)
	}
	if len(at) > 0 && at[0].MachineID == m.MachineID && at[0].Slot == m.Slot {
		return refuse("the part is at this position already")
	}
	if len(at) > 0 {
		if err := s.empty(tx, at[0], m.Why, by, now); err != nil {
			return err
		}
	}
	on, err := s.lockIdle(tx, m.MachineID)
	if err != nil {
		return err
	}
	if on.Facts.Fitted(m.Slot) && !m.Replaces {
		return refuse(
			"%s of %s holds %s. A part cannot be where another is: say that it replaces it, and that one goes to the shelf",
			slot.Label,
			on.Name,
			on.Facts.Model(m.Slot),
		)
	}
	parts, err := s.parts(tx, row.ID)
	if err != nil {
		return err
	}
	if err := s.partChanged(tx, on, m.Slot, parts[0].Model, now); err != nil {
		return err
	}
	if err := s.closeFitting(tx, m.MachineID, m.Slot, now); err != nil {
		return err
	}
	_, err = s.fitted(
		tx,
		fittingRow{MachineID: m.MachineID, Slot: m.Slot, PartID: &row.ID, FittedAt: now, Why: m.Why, MovedBy: by},
	)
	return err
}

// lockIdle takes a machine's row for this transaction and refuses it while
// work is open on it.
func (s *Store) lockIdle(tx *gorm.DB, id int64) (Machine, error) {
	if _, err := lockMachine(tx, id); err != nil {
		return Machine{}, err
	}
	m, err := s.machine(tx, id)
	if err == nil && m.OpenOrder != nil {
		err = refuse("work order %d is open on %s; record the exchange there, or finish it first", m.OpenOrder.ID, m.Name)
	}
	return m, err
}

// empty takes a part out of its slot, which is then known to be empty.
func (s *Store) empty(tx *gorm.DB, f fittingRow, why, by string, now time.Time) error {
	m, err := s.lockIdle(tx, f.MachineID)
	if err != nil {
		return err
	}
	if err := s.partChanged(tx, m, f.Slot, machine.None, now); err != nil {
		return err
	}
	return s.exchange(
		tx,
		fittingRow{MachineID: m.ID, Slot: f.Slot, FittedAt: now, Why: why, MovedBy: by},
		change.Fitting{Found: map[string]string{machine.ModelTrait: machine.None}},
	)
}

// partChanged marks what depends on a position whose part is exchanged for a model.
func (s *Store) partChanged(tx *gorm.DB, m Machine, slot, model string, now time.Time) error {
	if model == "" {
		model = "unnamed part"
	}
	c, err := change.ByHand(slot, model, m.Facts)
	if err != nil {
		return refuse("%s", err)
	}
	// Of a part that is exchanged, the build that stays is still configured for the old one.
	was := firmware.Configuration(m.Facts)
	maps.DeleteFunc(was, func(k machine.Key, _ string) bool { return k.Slot() != slot })
	if err := configure(tx, m.ID, was, true); err != nil {
		return err
	}
	if err := invalidate(tx, c.Invalidated(m.Records), cause{}, now); err != nil {
		return err
	}
	return s.endRuns(tx, m, slot, now)
}

// closeFitting ends what is at a position, and with it what that takes.
func (s *Store) closeFitting(tx *gorm.DB, machineID int64, slot string, now time.Time) error {
	if err := tx.Model(&fittingRow{}).Where("machine_id = ? and slot = ? and removed_at is null", machineID,
		slot).Update("removed_at", now).Error; err != nil {
		return err
	}
	err := tx.Exec(`update takings set until_reading = (select coalesce(max(id), 0) from readings)
		where fitting_id in (select id from fittings where machine_id = ? and slot = ? and removed_at = ?)`, machineID,
		slot, now).Error
	if err != nil {
		return err
	}
	return structureChanged(tx, machineID)
}

// Claims lists the claims on record of parts of which something better is known as well,
// with their supplier: the part's, or for what came with a machine, the machine's. Of the
// others it counts how many each supplier made.
func (s *Store) Claims(ctx context.Context) (claims []machine.Claim, unchecked map[string]int, err error) {
	tx := s.from(ctx)
	var better []int64
	const isBetter = `exists (select from readings r where r.part_id = p.id and r.grade > ? and r.set_aside_why = '')`
	err = s.realParts(tx).Where(isBetter, int16(machine.Claimed)).Pluck("p.id", &better).Error
	if err != nil {
		return nil, nil, err
	}
	const nobody = "nobody named"
	var counts []struct {
		Seller string
		N      int
	}
	err = s.realParts(tx).
		Where("not "+isBetter, int16(machine.Claimed)).
		Joins("join readings c on c.part_id = p.id and c.grade = ? and not starts_with(c.set_aside_why, ?)",
			int16(machine.Claimed), machine.TakenBackMark).
		Select(`coalesce(nullif(p.supplier, ''), nullif((
			select o.supplier from fittings b join machines o on o.id = b.machine_id
			where b.part_id = p.id order by b.fitted_at, b.id limit 1), ''), ?) as seller, count(*) as n`, nobody).
		Group("seller").Scan(&counts).Error
	if err != nil {
		return nil, nil, err
	}
	unchecked = map[string]int{}
	for _, c := range counts {
		unchecked[c.Seller] = c.N
	}
	if len(better) == 0 {
		return nil, unchecked, nil
	}
	parts, err := s.parts(tx, better...)
	if err != nil {
		return nil, nil, err
	}
	var rows []machineRow
	if err := tx.Find(&rows).Error; err != nil {
		return nil, nil, err
	}
	supplier := map[int64]string{}
	for _, m := range rows {
		supplier[m.ID] = m.Supplier
	}
	voc := s.Vocabulary()
	for i := range parts {
		p := &parts[i]
		from := p.Supplier
		if n := len(p.Places); from == "" && n > 0 {
			from = supplier[p.Places[n-1].MachineID]
		}
		if from == "" {
			from = nobody
		}
		for _, r := range p.Readings {
			if r.Grade != machine.Claimed || r.TakenBack() {
				continue
			}
			t := traitOfKind(voc, p.Kind, r.Key.Trait())
			claims = append(claims, machine.Claim{Supplier: from, Trait: t, Claimed: r, Standing: p.Fact(voc, r.Key.Trait())})
		}
	}
	return claims, unchecked, nil
}

// CostOf adds up what a machine has cost.
func (s *Store) CostOf(ctx context.Context, id int64) (machine.Cost, error) {
	tx := s.from(ctx)
	var row machineRow
	if err := tx.First(&row, id).Error; err != nil {
		return machine.Cost{}, found(err)
	}
	var stays []machine.Stay
	err := tx.Raw(`select f.part_id as part, f.machine_id as machine, f.fitted_at as "from", p.price,
		  exists (select 1 from readings r where r.part_id = p.id and r.trait = 'model' and r.value = 'none' and
			r.set_aside_why = '') as empty
		from fittings f join parts p on p.id = f.part_id
		where f.part_id in (select part_id from fittings where machine_id = ?)`, id).Scan(&stays).Error
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

// LogWork records time spent on a machine outside a work order.
func (s *Store) LogWork(ctx context.Context, machineID int64, minutes int, what, by string, at time.Time) error {
	if minutes <= 0 || minutes > 24*60 {
		return refuse("%d minutes of work cannot be right; write 1 to 1440", minutes)
	}
	if err := machine.PlainText(what); err != nil {
		return refuse("what was done: %s", err)
	}
	return s.tx(ctx, func(tx *gorm.DB) error {
		if _, err := lockMachine(tx, machineID); err != nil {
			return err
		}
		return tx.Create(&labourRow{MachineID: machineID, At: at, By: by, Minutes: minutes, What: what}).Error
	})
}
