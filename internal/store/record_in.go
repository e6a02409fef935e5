package store

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/recordfile"
	"wardifex/internal/picture"
)

// LockRecord lets nobody else write machines, parts, what is fitted, what was read or
// questions until the transaction ends.
func (s *Store) LockRecord(ctx context.Context) error {
	return s.from(ctx).Exec("lock table machines, parts, fittings, readings, questions in share row exclusive mode").Error
}

// OnRecord is what a record file may not bring a second time, and what is on record beside
// it.
func (s *Store) OnRecord(ctx context.Context, builds []recordfile.Build) (recordfile.OnRecord, error) {
	tx := s.from(ctx)
	on := recordfile.OnRecord{Builds: map[string]firmware.Build{}}
	if err := tx.Model(&machineRow{}).Pluck("name", &on.Machines).Error; err != nil {
		return on, err
	}
	if err := tx.Model(&partRow{}).Where("tag <> ''").Pluck("tag", &on.Tags).Error; err != nil {
		return on, err
	}
	for _, b := range builds {
		var known buildRow
		if err := tx.Where("lower(name) = lower(?)", b.Name).Limit(1).Find(&known).Error; err != nil {
			return on, err
		}
		if known.ID == 0 {
			continue
		}
		is, err := known.build()
		if err != nil {
			return on, err
		}
		on.Builds[strings.ToLower(b.Name)] = is
	}
	var err error
	on.Positions, err = everyPosition(tx)
	return on, err
}

// BadPicture is a picture in a record file that is none.
type BadPicture struct {
	At      time.Time
	Because error
}

func (b *BadPicture) Error() string {
	return fmt.Sprintf("a picture of %s: %s", b.At.Format(civil.Moment), b.Because)
}

func (b *BadPicture) Unwrap() error { return b.Because }

// WriteRecord writes a record file beside what is on record.
func (s *Store) WriteRecord(ctx context.Context, f recordfile.File) error {
	in := importer{s: s, ctx: ctx, tx: s.from(ctx), parts: map[int]int64{}, software: map[int]recordfile.Part{},
		builds: map[string]int64{}}
	if err := in.all(f); err != nil {
		return err
	}
	if err := s.learnPositions(in.tx, f.PositionsBesides()...); err != nil {
		return err
	}
	if parts := slices.Collect(maps.Values(in.parts)); len(parts) > 0 {
		if err := s.nameParts(in.tx, parts...); err != nil {
			return err
		}
	}
	return s.nameRuns(in.tx)
}

// importer writes a record file into the database: each table in few statements, however many machines the file has.
type importer struct {
	s     *Store
	ctx   context.Context
	tx    *gorm.DB
	parts map[int]int64
	// software are the builds that files of earlier versions have as parts.
	software map[int]recordfile.Part
	builds   map[string]int64 // by name, in small letters
	machines []newMachine
}

// newMachine is a machine of a file as it is being written.
type newMachine struct {
	recordfile.Machine
	id     int64
	orders []int64 // by their numbers in the file, from 1
}

func (m *newMachine) order(no int) *int64 {
	if no == 0 {
		return nil
	}
	return &m.orders[no]
}

func (in *importer) all(f recordfile.File) error {
	for _, b := range f.Builds {
		if err := in.build(b); err != nil {
			return fmt.Errorf("build %s: %w", b.Name, err)
		}
	}
	for _, write := range []func() error{
		func() error { return in.writeParts(f.Parts) },
		func() error { return in.writeMachines(f.Machines) },
		in.writeOrders, in.writePositions, in.writeFittings, in.writeCalibrations, in.writeHistory, in.writeFaults,
	} {
		if err := write(); err != nil {
			return err
		}
	}
	for _, q := range f.Questions {
		text, err := json.Marshal(q.Question)
		if err != nil {
			return err
		}
		if err := in.tx.Exec("insert into questions (name, definition, version, changed_by, changed_at) values (?, ?, "+
			"?, ?, ?) on conflict do nothing", q.Name, string(
			text), q.Changed.Version, q.Changed.By, q.Changed.At).Error; err != nil {
			return err
		}
	}
	return in.tasks(f.Tasks)
}

// tasks writes the tasks of a shop; those that this one keeps as its own stay.
func (in *importer) tasks(list []maintenance.Task) error {
	own, err := ownTasks(in.tx)
	if err != nil {
		return err
	}
	for _, t := range list {
		if slices.ContainsFunc(own, func(is OwnTask) bool { return is.Key == t.Key }) {
			continue
		}
		if err := in.s.SaveTask(in.ctx, t, 0); err != nil {
			return err
		}
	}
	return nil
}

func (in *importer) writeParts(list []recordfile.Part) error {
	var hardware []recordfile.Part
	var rows []partRow
	for _, p := range list {
		if in.s.vocabularyOf(in.tx).Software(p.Kind) {
			in.software[p.No] = p
			continue
		}
		row := partRow{
			Kind:        p.Kind,
			Tag:         p.Tag,
			Serial:      p.Serial,
			Supplier:    p.Supplier,
			Price:       p.Price,
			Note:        p.Note,
			Shelf:       p.Shelf,
			Lot:         p.Lot,
			ScrappedAt:  p.ScrappedAt,
			ScrappedWhy: p.ScrappedWhy,
			Version:     p.Changed.Version,
			ChangedBy:   p.Changed.By,
			ChangedAt:   p.Changed.At,
		}
		var err error
		if row.BoughtOn, err = dateOf(p.BoughtOn); err != nil {
			return fmt.Errorf("part %d: %w", p.No, err)
		}
		hardware, rows = append(hardware, p), append(rows, row)
	}
	if err := createAll(in.tx, rows); err != nil {
		return err
	}
	found := make([]foundOf, len(rows))
	for i, p := range hardware {
		in.parts[p.No] = rows[i].ID
		found[i] = foundOf{Held{Part: rows[i].ID}, p.Readings, p.Unreadable}
	}
	return in.writeFound(found)
}

// foundOf is what was read of something, and what could not be.
type foundOf struct {
	of         Held
	readings   []recordfile.Reading
	unreadable []recordfile.Unreadable
}

func (in *importer) writeFound(list []foundOf) error {
	var rows []readingRow
	var photos [][]recordfile.Photo // by reading
	var unreadable []unreadableRow
	for _, f := range list {
		for _, r := range f.readings {
			rows = append(rows, readingRow{
				PartID:      f.of.partID(),
				FittingID:   f.of.fittingID(),
				Trait:       r.Trait,
				Value:       r.Value,
				Grade:       int16(r.Grade),
				TakenAt:     r.At,
				TakenBy:     r.By,
				How:         r.How,
				Note:        r.Note,
				SetAsideWhy: r.SetAsideWhy,
				SetAsideBy:  r.SetAsideBy,
				SetAsideAt:  r.SetAsideAt,
				AsFitted:    r.AsFitted,
			})
			photos = append(photos, r.Photos)
		}
		for _, u := range f.unreadable {
			unreadable = append(unreadable, unreadableRow{PartID: f.of.partID(), FittingID: f.of.fittingID(), Trait: u.Trait,
				Inspection: u.Inspection, Why: u.Why, At: u.At, By: u.By})
		}
	}
	if err := createAll(in.tx, rows); err != nil {
		return err
	}
	for i := range rows {
		if err := in.photos(photos[i], photoRow{ReadingID: &rows[i].ID}); err != nil {
			return err
		}
	}
	return createAll(in.tx, unreadable)
}

// build writes a build, or finds the one of its name, which is the same: the plan has
// looked.
func (in *importer) build(b recordfile.Build) error {
	var known buildRow
	if err := in.tx.Where("lower(name) = lower(?)", b.Name).Limit(1).Find(&known).Error; err != nil {
		return err
	}
	if known.ID == 0 {
		row, err := rowOf(b.Build, b.Changed.By, b.Changed.At)
		if err != nil {
			return err
		}
		if row.Version = max(b.Changed.Version, 1); err == nil {
			err = in.tx.Create(&row).Error
		}
		if err != nil {
			return err
		}
		known = row
	}
	in.builds[strings.ToLower(b.Name)] = known.ID
	return nil
}

// ran are the runs of a machine: those of the file, and the builds that files of earlier
// versions have as parts.
func (in *importer) ran(m recordfile.Machine) []recordfile.Run {
	out := slices.Clone(m.Runs)
	for _, f := range m.Fittings {
		if p, ok := in.software[f.Part]; ok {
			run := recordfile.Run{Slot: f.Slot, From: f.From, To: f.To, Order: f.Order, Why: f.Why, By: f.By, Takes: f.Takes}
			run.Readings, run.Unreadable = p.Readings, p.Unreadable
			delete(in.software, f.Part) // what was read of it is there once
			in.software[f.Part] = recordfile.Part{}
			out = append(out, run)
		}
	}
	return out
}

// photos keeps pictures of something, of which row says what it is.
func (in *importer) photos(list []recordfile.Photo, row photoRow) error {
	for _, p := range list {
		if err := in.photo(p, row); err != nil {
			return err
		}
	}
	return nil
}

// photo keeps a picture as it stands in the file, when it is one.
func (in *importer) photo(p recordfile.Photo, row photoRow) error {
	k, err := picture.Take(p.JPEG)
	if err != nil {
		return &BadPicture{p.At, err}
	}
	if picture.Plain(p.JPEG) {
		k.JPEG = p.JPEG // encoded here before: not a second time
	}
	if err := in.s.keepPicture(in.ctx, &row, k); err != nil {
		return err
	}
	row.Width, row.Height, row.TakenBy, row.TakenAt = k.Width, k.Height, p.By, p.At
	return in.tx.Create(&row).Error
}

func orNull(text json.RawMessage) []byte {
	if len(text) == 0 {
		return []byte("null")
	}
	return text
}

// dateOf reads a day as files write it; nil where it is empty.
func dateOf(text string) (*time.Time, error) {
	if text == "" {
		return nil, nil
	}
	at, err := time.Parse(civil.ISO, text)
	return &at, err
}
