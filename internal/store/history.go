package store

import (
	"context"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/machine"
)

// Histories loads what was in machines when, with every reading of those parts:
// of all machines, retired ones too, or of those given.
func (s *Store) Histories(ctx context.Context, ids ...int64) (map[int64]*machine.History, error) {
	tenures, err := s.tenures(s.from(ctx), ids...)
	if err != nil {
		return nil, err
	}
	lived, err := livedPositions(s.from(ctx), ids)
	if err != nil {
		return nil, err
	}
	out := make(map[int64]*machine.History, len(tenures))
	for id, ts := range tenures {
		h := machine.NewHistory(s.Vocabulary(ctx), ts, lived[id]...)
		out[id] = &h
	}
	return out, nil
}

// livedPositions are the positions that machines have or had, with their dates.
func livedPositions(tx *gorm.DB, ids []int64) (map[int64][]machine.Lived, error) {
	q := tx.Order("id")
	if len(ids) > 0 {
		q = q.Where("machine_id in ?", ids)
	}
	var rows []positionRow
	if err := q.Find(&rows).Error; err != nil {
		return nil, err
	}
	out := map[int64][]machine.Lived{}
	for _, r := range rows {
		p, err := r.lived()
		if err != nil {
			return nil, err
		}
		out[r.MachineID] = append(out[r.MachineID], p)
	}
	return out, nil
}

func (s *Store) tenures(tx *gorm.DB, ids ...int64) (map[int64][]machine.Tenure, error) {
	q := tx.Order("fitted_at, id")
	if len(ids) > 0 {
		q = q.Where("machine_id in ?", ids)
	}
	var fittings []fittingRow
	if err := q.Find(&fittings).Error; err != nil {
		return nil, err
	}
	r := tx.Order("id")
	if len(ids) > 0 {
		r = r.Where(`id in (
			select r.id from readings r join fittings f on f.part_id = r.part_id where f.machine_id in ?
			union all select r.id from readings r join fittings f on f.id = r.fitting_id where f.machine_id in ?)`, ids, ids)
	}
	var rows []readingRow
	if err := r.Find(&rows).Error; err != nil {
		return nil, err
	}
	of := map[Held][]readingRow{}
	for _, r := range rows {
		of[r.held()] = append(of[r.held()], r)
	}
	var taken []takingRow
	t := tx.Order("id")
	if len(ids) > 0 {
		t = t.Where("machine_id in ?", ids)
	}
	if err := t.Find(&taken).Error; err != nil {
		return nil, err
	}
	takes := map[int64][]machine.Taking{} // by fitting
	for _, row := range taken {
		x, err := row.taking()
		if err != nil {
			return nil, err
		}
		if row.FittingID != nil {
			takes[*row.FittingID] = append(takes[*row.FittingID], x)
		}
	}
	voc := s.vocabularyOf(tx)
	out := map[int64][]machine.Tenure{}
	for _, f := range fittings {
		t := machine.Tenure{Slot: f.Slot, Part: f.part(), From: f.FittedAt, Takes: takes[f.ID]}
		if f.RemovedAt != nil {
			t.To = *f.RemovedAt
		}
		for _, r := range of[f.held()] {
			if trait, ok := voc.Trait(machine.KeyOf(f.Slot, r.Trait)); ok {
				t.Readings = append(t.Readings, r.reading(trait))
			}
		}
		out[f.MachineID] = append(out[f.MachineID], t)
	}
	return out, nil
}

// Event is something that happened to a machine.
type Event struct {
	At    time.Time `json:"at"`
	Kind  string    `json:"kind" enum:"reading,set aside,part,work,fault,use,calibration,build,upkeep,labour,register"`
	Slot  string    `json:"slot,omitempty"`
	Title string    `json:"title"`
	Text  string    `json:"text,omitempty"`
	By    string    `json:"by,omitempty"`
	Order int64     `json:"order,omitempty" doc:"Work order"`
	Part  int64     `json:"part,omitempty"`
}

// timeline gathers events of a machine as the tables hold them. Readings taken
// by one person at one moment in one slot are one event.
const timeline = `
select at, kind, slot, title, text, by, coalesce("order", 0) as "order", coalesce(part, 0) as part from (
  select r.taken_at as at, 'reading' as kind, r.slot, string_agg(distinct r.trait, ', ') as title,
    string_agg(r.trait || ' ' || r.value, '; ' order by r.id) as text, r.taken_by as by, null::bigint as "order",
	r.part_id as part
  from held_readings r where r.taken_at >= r.fitted_at and (r.removed_at is null or r.taken_at < r.removed_at)
    and r.machine_id = @id and not (r.trait = 'model' and r.taken_at = r.fitted_at) group by r.taken_at, r.slot,
	r.taken_by, r.part_id
  union all
  select r.set_aside_at, 'set aside', r.slot, r.trait || ' ' || r.value, r.set_aside_why, r.set_aside_by, null,
	r.part_id
  from held_readings r where r.set_aside_at >= r.fitted_at and (r.removed_at is null or r.set_aside_at <
	r.removed_at) and r.machine_id = @id
  union all
  select f.fitted_at, case when f.part_id is null then 'build' else 'part' end, f.slot, 'in: ' || coalesce(b.name,
	nullif(u.standing_model, ''), nullif(p.standing_model, ''),
	case when f.part_id is null then 'unnamed build' else 'unnamed part' end),
    f.why, f.moved_by, f.work_order_id, f.part_id
  from fittings f left join parts p on p.id = f.part_id left join build_runs u on u.fitting_id = f.id
    left join builds b on b.id = u.build_id
  where f.machine_id = @id and (f.why <> '' or f.work_order_id is not null)
  union all
  select opened_at, 'work', '', 'order ' || id || ' opened', reason, opened_by, id, null from work_orders where
	machine_id = @id
  union all
  select closed_at, 'work', '', 'order ' || id || ' ' || state, kit->>'name', closed_by, id, null from work_orders
	where machine_id = @id and closed_at is not null
  union all
  select done_at, 'calibration', '', kind, case when subject = '' then '' else subject || ': ' end || value || case
	when passed then '' else ' (failed)' end, done_by, work_order_id, null from calibrations where machine_id = @id
  union all
  select v.at, 'calibration', '', c.kind, case when v.subject = '' then '' else v.subject || ' ' end ||
	'no longer valid: ' || v.reason, '', v.work_order_id, null
  from calibration_invalid v join calibrations c on c.id = v.calibration_id where c.machine_id = @id
  union all
  select done_at, 'maintenance', '', task, note, done_by, null, null from upkeep_done where machine_id = @id
  union all
  select reported_at, 'fault', '', 'reported', words, reported_by, null, null from faults where machine_id = @id
  union all
  select closed_at, 'fault', '', 'answered', answer, closed_by, null, null from faults where machine_id = @id and
	closed_at is not null
  union all
  select at, 'use', '', use, why, by, null, null from machine_uses where machine_id = @id
  union all
  select at, 'labour', '', minutes || ' min', what, by, work_order_id, null from labour where machine_id = @id
  union all
  select since, 'register', '', 'in the register', maker, changed_by, null, null from machines where id = @id
) as events`

// Timeline lists what happened to a machine, newest first.
func (s *Store) Timeline(ctx context.Context, id int64, c Cut) (Listed[Event], error) {
	out := Listed[Event]{Rows: []Event{}}
	args := map[string]any{"id": id, "most": c.rows(), "offset": c.Offset}
	err := s.from(ctx).Raw(timeline+" order by at desc, kind, slot, 4, 5, 6 limit nullif(@most, -1) offset @offset", args).
		Scan(&out.Rows).Error
	if err == nil {
		err = s.from(ctx).Raw("select count(*) from ("+timeline+") counted", args).Scan(&out.Found).Error
	}
	return out, err
}

// AddUnreadable writes down that a trait of something could not be read by an inspection.
func (s *Store) AddUnreadable(ctx context.Context, of Held, trait, inspection, why, by string, at time.Time) error {
	return s.from(ctx).Create(&unreadableRow{PartID: of.partID(), FittingID: of.fittingID(), Trait: trait,
		Inspection: inspection, Why: why, At: at, By: by}).Error
}

// DropUnreadable deletes the newest mark that a trait of what is now fitted at a position could not be read by an
// inspection; ErrNotFound where there is none.
func (s *Store) DropUnreadable(ctx context.Context, machineID int64, key machine.Key, inspection string) error {
	return gone(s.from(ctx).Exec(`delete from unreadable where id = (select max(u.id) from unreadable u join fittings f
		on (u.part_id = f.part_id or u.fitting_id = f.id) and f.removed_at is null
		where f.machine_id = ? and f.slot = ? and u.trait = ? and u.inspection = ?)`,
		machineID, key.Slot(), key.Trait(), inspection))
}

type unreadableRow struct {
	ID         int64
	PartID     *int64
	FittingID  *int64 // of a run of a build
	Trait      string
	Inspection string
	Why        string
	At         time.Time
	By         string
}

func (unreadableRow) TableName() string { return "unreadable" }

// Unreadable lists, by machine, which traits of the parts now fitted could not
// be read by which inspection.
func (s *Store) Unreadable(ctx context.Context, ids ...int64) (map[int64]map[machine.Key]map[string]bool, error) {
	var rows []struct {
		MachineID   int64
		Slot, Trait string
		Inspection  string
	}
	q := s.from(ctx).
		Table("unreadable").
		Select("fittings.machine_id, fittings.slot, unreadable.trait, unreadable.inspection").
		Joins("join fittings on (fittings.part_id = unreadable.part_id or fittings.id = unreadable.fitting_id) and " +
			"fittings.removed_at is null")
	if len(ids) > 0 {
		q = q.Where("fittings.machine_id in ?", ids)
	}
	if err := q.Scan(&rows).Error; err != nil {
		return nil, err
	}
	out := map[int64]map[machine.Key]map[string]bool{}
	for _, r := range rows {
		k := machine.KeyOf(r.Slot, r.Trait)
		if out[r.MachineID] == nil {
			out[r.MachineID] = map[machine.Key]map[string]bool{}
		}
		if out[r.MachineID][k] == nil {
			out[r.MachineID][k] = map[string]bool{}
		}
		out[r.MachineID][k][r.Inspection] = true
	}
	return out, nil
}

// FittedParts lists the numbers of the parts now in a machine, by slot.
func (s *Store) FittedParts(ctx context.Context, machineID int64) (map[string]int64, error) {
	rows, err := list[fittingRow](s.from(ctx), "id", "machine_id = ? and removed_at is null", machineID)
	out := make(map[string]int64, len(rows))
	for _, f := range rows {
		if f.PartID != nil {
			out[f.Slot] = *f.PartID
		}
	}
	return out, err
}
