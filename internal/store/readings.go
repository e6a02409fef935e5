package store

import (
	"context"
	"maps"
	"slices"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

type fittingRow struct {
	ID          int64
	MachineID   int64
	Slot        string
	FittedAt    time.Time
	RemovedAt   *time.Time
	WorkOrderID *int64
	PartID      *int64 // nil of a run of a build
	Why         string
	MovedBy     string
}

func (fittingRow) TableName() string { return "fittings" }

// held is what a reading is of: a part, or a run of a build by its fitting.
type held struct{ part, fitting int64 }

func (f fittingRow) held() held {
	if f.PartID != nil {
		return held{part: *f.PartID}
	}
	return held{fitting: f.ID}
}

// part is the number of the part; 0 of a run.
func (f fittingRow) part() int64 { return f.held().part }

func (r readingRow) held() held {
	if r.PartID != nil {
		return held{part: *r.PartID}
	}
	return held{fitting: *r.FittingID}
}

func (h held) partID() *int64    { return orNil(h.part) }
func (h held) fittingID() *int64 { return orNil(h.fitting) }

func orNil(id int64) *int64 {
	if id == 0 {
		return nil
	}
	return &id
}

// software reports whether a kind is no thing: boards run it.
func (s *Store) software(kind string) bool {
	voc := s.Vocabulary()
	for _, k := range voc.Catalogue.Kinds {
		if k.Software && voc.Is(kind, k.Key) {
			return true
		}
	}
	return false
}

// heldAt finds what is at a position now, or enters something of which nothing was
// recorded yet.
func (s *Store) heldAt(tx *gorm.DB, machineID int64, slot, by string, now time.Time) (held, error) {
	var row fittingRow
	err := tx.Where("machine_id = ? and slot = ? and removed_at is null", machineID, slot).Limit(1).Find(&row).Error
	if err != nil || row.ID != 0 {
		return row.held(), err
	}
	row, err = s.fitted(tx, fittingRow{MachineID: machineID, Slot: slot, FittedAt: now, MovedBy: by})
	return row.held(), err
}

// fitted enters a part at its position, a new one where it has no number; or a run of a
// build. What the machine did not have on its list is on it from now on.
func (s *Store) fitted(tx *gorm.DB, f fittingRow) (fittingRow, error) {
	at, ok := s.Vocabulary().Position(f.Slot)
	if !ok {
		return f, refuse("there is no position %s", f.Slot)
	}
	if err := s.listed(tx, f.MachineID, f.Slot, f.MovedBy, f.FittedAt); err != nil {
		return f, err
	}
	if s.software(at.Kind) {
		return f, s.runs(tx, &f)
	}
	if f.PartID == nil {
		part := partRow{Kind: at.Kind, Version: 1, ChangedBy: f.MovedBy, ChangedAt: f.FittedAt}
		if err := tx.Create(&part).Error; err != nil {
			return f, err
		}
		f.PartID = &part.ID
	}
	return f, tx.Create(&f).Error
}

// AddReading records a reading of a trait of the part now fitted, and gives the
// number of the reading. A complete processor marking brings pins, flash,
// package and temperature range with it.
//
// A reading that differs from what stands makes invalid what depends on it, unless the
// reader says that the record was wrong.
func (s *Store) AddReading(
	ctx context.Context,
	machineID int64,
	key machine.Key,
	text string,
	r machine.Reading,
	now time.Time,
) (int64, error) {
	return s.AddDiffering(ctx, machineID, key, text, r, NotSaid, now)
}

// Differs is what the reader of a value that differs from the one that stands says of it.
type Differs string

const (
	// NotSaid leaves the two in conflict where they are of one grade.
	NotSaid Differs = ""
	// Changed says that it was changed since.
	Changed Differs = "changed"
	// WasWrong says that the record was wrong: the machine is as it was.
	WasWrong Differs = "wrong"
)

// AddDiffering is AddReading with what the reader says of a value that differs.
func (s *Store) AddDiffering(
	ctx context.Context, machineID int64, key machine.Key, text string, r machine.Reading, differs Differs, now time.Time,
) (int64, error) {
	t, v, err := s.parseReading(key, text, r, now)
	if err != nil {
		return 0, err
	}
	var id int64
	err = s.tx(ctx, func(tx *gorm.DB) error {
		if _, err := lockMachine(tx, machineID); err != nil {
			return err
		}
		m := Machine{ID: machineID}
		var calibrated bool
		if err := tx.Raw("select exists (select from calibrations where machine_id = ?)",
			machineID).Scan(&calibrated).Error; err != nil {
			return err
		}
		if calibrated || differs != NotSaid {
			if m, err = s.machine(tx, machineID); err != nil {
				return err
			}
		}
		id, err = s.addReading(tx, m, t, v, r, differs, now)
		return err
	})
	return id, err
}

// addReading writes a reading down, sets aside what it says is no longer so, and marks
// what it makes invalid.
func (s *Store) addReading(
	tx *gorm.DB, m Machine, t *machine.Trait, v machine.Value, r machine.Reading, differs Differs, now time.Time,
) (int64, error) {
	of, err := s.heldAt(tx, m.ID, t.Slot, r.By, minTime(r.TakenAt, now))
	if err != nil {
		return 0, err
	}
	if why := map[Differs]string{Changed: "changed since", WasWrong: "the record was wrong"}[differs]; why != "" {
		var others []int64
		for _, old := range m.Readings {
			if old.Key == t.Key() && old.SetAside == "" && !t.Same(old.Value, v) && old.Grade >= r.Grade {
				others = append(others, old.ID)
			}
		}
		if len(others) > 0 {
			if err := setAside(tx, others, why+": "+t.Show(v), r.By, now); err != nil {
				return 0, err
			}
			if differs == WasWrong {
				if err := validAgain(tx, others); err != nil {
					return 0, err
				}
			}
		}
	}
	id, err := s.keepReading(tx, of, t, v, r, func() (machine.Snapshot, error) {
		m, err := s.machine(tx, m.ID)
		return m.Facts, err
	})
	if err != nil || differs == WasWrong || len(m.Records) == 0 {
		return id, err
	}
	after, err := s.machine(tx, m.ID)
	if err != nil {
		return id, err
	}
	return id, invalidate(
		tx,
		calibration.ReadAnew(m.Facts, after.Facts, t, r.TakenAt).Invalidated(m.Records),
		cause{reading: &id},
		now,
	)
}

func minTime(a, b time.Time) time.Time {
	if a.Before(b) {
		return a
	}
	return b
}

// TakeBack sets a reading aside; it is never erased. What it made invalid is valid again.
func (s *Store) TakeBack(ctx context.Context, readingID int64, why, by string, now time.Time) error {
	if err := machine.PlainText(why); err != nil {
		return refuse("say why it is taken back: %s", err)
	}
	return s.tx(ctx, func(tx *gorm.DB) error {
		if err := setAside(tx, []int64{readingID}, machine.WhyTakenBack(why), by, now); err != nil {
			return err
		}
		return validAgain(tx, []int64{readingID})
	})
}

func setAside(tx *gorm.DB, ids []int64, why, by string, now time.Time) error {
	done := tx.Model(&readingRow{}).Where("id in ? and set_aside_why = ''", ids).
		Updates(map[string]any{"set_aside_why": why, "set_aside_by": by, "set_aside_at": now})
	if done.Error == nil && done.RowsAffected != int64(len(ids)) {
		return &Conflict{Sentence: "somebody has set one of these readings aside already; look again"}
	}
	return done.Error
}

// SetAside sets readings aside with a reason; what they made invalid is valid again. It is
// a conflict where somebody has set one of them aside already.
func (s *Store) SetAside(ctx context.Context, ids []int64, why, by string, now time.Time) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		if err := setAside(tx, ids, why, by, now); err != nil {
			return err
		}
		return validAgain(tx, ids)
	})
}

// Exchange records that a part was changed outside a work order: the old one
// goes to the shelf with its readings, and what depends on it is no longer valid.
func (s *Store) Exchange(ctx context.Context, machineID int64, slot, model, how, by string, now time.Time) error {
	if err := machine.PlainText(model); err != nil {
		return refuse("model: %s; write none for an emptied position", err)
	}
	if _, ok := s.Vocabulary().Position(slot); !ok {
		return refuse("there is no position %s", slot)
	}
	return s.tx(ctx, func(tx *gorm.DB) error {
		m, err := s.lockIdle(tx, machineID)
		if err != nil {
			return err
		}
		if err := s.partChanged(tx, m, slot, model, now); err != nil {
			return err
		}
		return s.exchange(
			tx,
			fittingRow{MachineID: machineID, Slot: slot, FittedAt: now, Why: how, MovedBy: by},
			change.Fitting{Found: map[string]string{machine.ModelTrait: model}},
		)
	})
}

// exchange takes out what is at a position and fits a new part with its readings, and
// with what it takes.
func (s *Store) exchange(tx *gorm.DB, at fittingRow, part change.Fitting) error {
	if err := s.closeFitting(tx, at.MachineID, at.Slot, at.FittedAt); err != nil {
		return err
	}
	at, err := s.fitted(tx, at)
	if err != nil {
		return err
	}
	// What is read off the part at its fitting has seen already what it takes.
	if err := takes(tx, at.MachineID, &at.ID, part.Takes); err != nil {
		return err
	}
	for _, known := range []struct {
		traits   map[string]string
		grade    machine.Grade
		asFitted bool
		how      string
	}{
		{part.Traits, machine.Read, true, at.Why},
		{part.Found, machine.Read, false, at.Why},
		{part.Carried, machine.Claimed, false, "carried over from the build before, not read again"},
	} {
		for _, trait := range slices.Sorted(maps.Keys(known.traits)) {
			r := readingRow{
				PartID:    at.held().partID(),
				FittingID: at.held().fittingID(),
				Trait:     trait,
				Value:     known.traits[trait],
				Grade:     int16(known.grade),
				TakenAt:   at.FittedAt,
				TakenBy:   at.MovedBy,
				How:       known.how,
				AsFitted:  known.asFitted,
			}
			if err := tx.Create(&r).Error; err != nil {
				return err
			}
		}
	}
	return nil
}

// shift moves the part of a slot, with its readings, into another one of the same
// machine; what was there comes out. A part that nobody has recorded is moved
// without a name.
func (s *Store) shift(tx *gorm.DB, from string, to fittingRow, takings []machine.Taking) (err error) {
	of, err := s.heldAt(tx, to.MachineID, from, to.MovedBy, to.FittedAt)
	if err != nil {
		return err
	}
	to.PartID = of.partID()
	// What the part takes it takes along.
	moved := tx.Raw("select id from fittings where machine_id = ? and slot = ? and removed_at is null", to.MachineID, from)
	var was int64
	if err := moved.Scan(&was).Error; err != nil {
		return err
	}
	for _, slot := range []string{from, to.Slot} {
		if err := s.closeFitting(tx, to.MachineID, slot, to.FittedAt); err != nil {
			return err
		}
	}
	if to, err = s.fitted(tx, to); err != nil {
		return err
	}
	if err := tx.Exec("update takings set fitting_id = ? where fitting_id = ?", to.ID, was).Error; err != nil {
		return err
	}
	return takes(tx, to.MachineID, &to.ID, takings)
}

// set records what work made of a fact of a part that stays: the readings of what it
// was before no longer count.
func (s *Store) set(tx *gorm.DB, m Machine, a fit.Stated, how, by string, now time.Time) error {
	trait, ok := s.Vocabulary().Trait(a.Key)
	if !ok {
		return refuse("there is no trait %s", a.Key)
	}
	of, err := s.heldAt(tx, m.ID, trait.Slot, by, now)
	if err != nil {
		return err
	}
	if err := tx.Model(&readingRow{}).Where("(part_id = ? or fitting_id = ?) and trait = ? and set_aside_why = ''",
		of.part, of.fitting, trait.Name).
		Updates(map[string]any{"set_aside_why": how, "set_aside_by": by, "set_aside_at": now}).Error; err != nil {
		return err
	}
	return tx.Create(
		&readingRow{
			PartID:    of.partID(),
			FittingID: of.fittingID(),
			Trait:     trait.Name,
			Value:     a.Value.Text,
			Grade:     int16(machine.Read),
			TakenAt:   now,
			TakenBy:   by,
			How:       how,
		},
	).Error
}

// History lists the parts a machine has carried in each slot, newest first.
func (s *Store) History(ctx context.Context, machineID int64) ([]Fitted, error) {
	var out []Fitted
	err := s.from(ctx).Raw(`
		select f.slot, coalesce(f.part_id, 0) as part_id, f.fitted_at, f.removed_at, f.work_order_id,
		  coalesce((select b.name from build_runs u join builds b on b.id = u.build_id where u.fitting_id = f.id),
		    (select r.value from held_readings r where r.held_by = f.id and r.trait = 'model' and r.set_aside_why = ''
		            order by r.grade desc, r.taken_at desc, r.id desc limit 1), '') as model
		from fittings f where f.machine_id = ? and f.removed_at is not null order by f.removed_at desc, f.id desc`,
		machineID).Scan(&out).Error
	return out, err
}

// Fitted is a part that was in a slot.
type Fitted struct {
	Slot        string
	PartID      int64
	Model       string
	FittedAt    time.Time
	RemovedAt   *time.Time
	WorkOrderID *int64
}

// SinceOf tells since when parts of a machine are at their positions that took the place
// of others. What was there first is as old as the record of it, and changed nothing.
func (s *Store) SinceOf(ctx context.Context, machineID int64) (calibration.Since, error) {
	var rows []fittingRow
	err := s.from(ctx).Where(`machine_id = ? and removed_at is null and exists (
		select from fittings before where before.machine_id = fittings.machine_id and before.slot = fittings.slot
			and before.removed_at <= fittings.fitted_at)`, machineID).Find(&rows).Error
	at := map[string]time.Time{}
	for _, r := range rows {
		at[r.Slot] = r.FittedAt
	}
	return func(slot string) time.Time { return at[slot] }, err
}
