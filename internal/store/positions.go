package store

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/machine"
)

type positionRow struct {
	ID        int64
	MachineID int64
	Key       string
	Kind      string
	Label     string
	Grp       string
	Serves    string
	N         int
	RidesOn   []byte `gorm:"type:jsonb"`
	FedBy     []byte `gorm:"type:jsonb"`
	FromAt    time.Time
	ToAt      *time.Time
	ChangedBy string
}

func (positionRow) TableName() string { return "positions" }

func positionOf(machineID int64, p machine.Position, by string, from time.Time) (positionRow, error) {
	row := positionRow{
		MachineID: machineID,
		Key:       p.Key,
		Kind:      p.Kind,
		Label:     p.Label,
		Grp:       p.Group,
		Serves:    string(p.Serves),
		N:         p.Ordinal(),
		FromAt:    from,
		ChangedBy: by,
	}
	for _, l := range []struct {
		into *[]byte
		link *machine.Link
	}{{&row.RidesOn, p.RidesOn}, {&row.FedBy, p.FedBy}} {
		if l.link == nil {
			continue
		}
		var err error
		if *l.into, err = json.Marshal(l.link); err != nil {
			return row, err
		}
	}
	return row, nil
}

func (r positionRow) position() (machine.Position, error) {
	p := machine.Position{Key: r.Key, Kind: r.Kind, Label: r.Label, Group: r.Grp, Serves: machine.Place(r.Serves), N: r.N}
	for _, l := range []struct {
		text []byte
		into **machine.Link
	}{{r.RidesOn, &p.RidesOn}, {r.FedBy, &p.FedBy}} {
		if len(l.text) == 0 || string(l.text) == "null" {
			continue
		}
		*l.into = new(machine.Link)
		if err := json.Unmarshal(l.text, *l.into); err != nil {
			return p, fmt.Errorf("position %s of machine %d: %w", r.Key, r.MachineID, err)
		}
	}
	return p, nil
}

func (r positionRow) lived() (machine.Lived, error) {
	p, err := r.position()
	out := machine.Lived{Position: p, From: r.FromAt}
	if r.ToAt != nil {
		out.To = *r.ToAt
	}
	return out, err
}

// listedNow are the positions that machines have now, by machine; of all machines
// without ids.
func listedNow(tx *gorm.DB, ids []int64) (map[int64][]machine.Position, error) {
	q := tx.Where("to_at is null").Order("id")
	if len(ids) > 0 {
		q = q.Where("machine_id in ?", ids)
	}
	var rows []positionRow
	if err := q.Find(&rows).Error; err != nil {
		return nil, err
	}
	out := map[int64][]machine.Position{}
	for _, r := range rows {
		p, err := r.position()
		if err != nil {
			return nil, err
		}
		out[r.MachineID] = append(out[r.MachineID], p)
	}
	return out, nil
}

// everyPosition lists each position that any machine has or had, once, for the
// vocabulary of the fleet.
func everyPosition(tx *gorm.DB) ([]machine.Position, error) {
	var rows []positionRow
	err := tx.Raw("select distinct on (key) key, kind, label, grp, serves, n from positions order by key, to_at is " +
		"null desc, serves <> '' desc, id").
		Scan(&rows).
		Error
	out := make([]machine.Position, 0, len(rows))
	for _, r := range rows {
		p, err := r.position()
		if err != nil {
			return nil, err
		}
		out = append(out, p)
	}
	return out, err
}

// listed enters a position on a machine's list where it is not on it.
func (s *Store) listed(tx *gorm.DB, machineID int64, slot, by string, from time.Time) error {
	var n int64
	if err := tx.Model(&positionRow{}).Where("machine_id = ? and key = ? and to_at is null", machineID,
		slot).Count(&n).Error; err != nil ||
		n > 0 {
		return err
	}
	p, ok := s.vocabularyOf(tx).Position(slot)
	if !ok {
		return fmt.Errorf("there is no position %s", slot)
	}
	return addPositions(tx, machineID, []machine.Position{p}, by, from)
}

func addPositions(tx *gorm.DB, machineID int64, list []machine.Position, by string, from time.Time) error {
	rows := make([]positionRow, 0, len(list))
	for _, p := range list {
		row, err := positionOf(machineID, p, by, from)
		if err != nil {
			return err
		}
		rows = append(rows, row)
	}
	if len(rows) == 0 {
		return nil
	}
	if err := tx.CreateInBatches(rows, 1000).Error; err != nil {
		return err
	}
	return structureChanged(tx, machineID)
}

// AddPositions lists positions on a machine; those that no machine had are in the
// vocabulary from then on.
func (s *Store) AddPositions(ctx context.Context, machineID int64, list []machine.Position, by string,
	at time.Time) error {
	if err := addPositions(s.from(ctx), machineID, list, by, at); err != nil {
		return err
	}
	return s.learnPositions(s.from(ctx), list...)
}

// PositionsOf are the positions that a machine has now; ErrNotFound where it has none.
func (s *Store) PositionsOf(ctx context.Context, machineID int64) ([]machine.Position, error) {
	all, err := listedNow(s.from(ctx), []int64{machineID})
	if err == nil && len(all[machineID]) == 0 {
		err = ErrNotFound
	}
	return all[machineID], err
}

// EndPosition takes a position off a machine's list, and what is on record of what is
// there with it.
func (s *Store) EndPosition(ctx context.Context, machineID int64, key string, at time.Time) error {
	tx := s.from(ctx)
	if err := closeFitting(tx, machineID, key, at); err != nil {
		return err
	}
	if err := endPosition(tx, machineID, key, at); err != nil {
		return err
	}
	return structureChanged(tx, machineID)
}

// WritePosition writes what a position of a machine is from a moment on. was is its key
// until then; where that is another one, all that was fitted there since it is listed goes
// along.
func (s *Store) WritePosition(ctx context.Context, machineID int64, was string, p machine.Position, by string,
	at time.Time) error {
	tx := s.from(ctx)
	if p.Key != was {
		if err := rekey(tx, machineID, was, p); err != nil {
			return err
		}
	}
	if err := endPosition(tx, machineID, p.Key, at); err != nil {
		return err
	}
	return addPositions(tx, machineID, []machine.Position{p}, by, at)
}

// NamePosition places and names a position on every machine that has or had it.
func (s *Store) NamePosition(ctx context.Context, p machine.Position) error {
	return s.from(ctx).Model(&positionRow{}).Where("key = ?", p.Key).
		Updates(map[string]any{"label": p.Label, "serves": string(p.Serves), "n": p.Ordinal()}).Error
}

// StructureChanged notes that what is remembered of a machine is no longer so.
func (s *Store) StructureChanged(ctx context.Context, machineID int64) error {
	return structureChanged(s.from(ctx), machineID)
}

// structureChanged notes that what is remembered of a machine is no longer so.
func structureChanged(tx *gorm.DB, machineID int64) error {
	return tx.Exec("update machines set structure = structure + 1 where id = ?", machineID).Error
}

// learnPositions makes the vocabulary anew where positions came that it lacks.
func (s *Store) learnPositions(tx *gorm.DB, list ...machine.Position) error {
	known := !slices.ContainsFunc(list, func(p machine.Position) bool { return s.vocabularyOf(tx).At(p.Key) == nil })
	if known {
		return nil
	}
	if err := bumpCatalogue(tx); err != nil {
		return err
	}
	return s.reload(tx)
}

// rekey gives what is at a position of a machine, since it is listed, the key of
// another, and what hangs on it.
func rekey(tx *gorm.DB, machineID int64, was string, p machine.Position) error {
	args := map[string]any{
		"machine": machineID,
		"was":     was,
		"is":      p.Key,
		"serves":  string(p.Serves),
		"n":       p.Ordinal(),
		"label":   p.Label,
		"grp":     p.Group,
	}
	for _, sql := range []string{
		`update fittings f set slot = @is from positions p where f.machine_id = @machine and f.slot = @was and
			p.machine_id = @machine and p.key = @was
			and p.to_at is null and (f.removed_at is null or f.removed_at > p.from_at)`,
		`update takings set key = @is || substr(key, length(@was) + 1) where machine_id = @machine and starts_with(key,
			@was || '.')`,
		`update takings set covers = (select jsonb_agg(case when e = to_jsonb(cast(@was as text)) then to_jsonb(cast(@is
			as text)) else e end) from jsonb_array_elements(covers) e)
			where machine_id = @machine and jsonb_exists(covers, @was)`,
		`update positions set rides_on = jsonb_set(rides_on, '{to}', to_jsonb(cast(@is as text))) where machine_id =
			@machine and to_at is null and rides_on->>'to' = @was`,
		`update positions set fed_by = jsonb_set(fed_by, '{to}', to_jsonb(cast(@is as text))) where machine_id = @machine
			and to_at is null and fed_by->>'to' = @was`,
		`update positions set key = @is, serves = @serves, n = @n, label = @label, grp = @grp where machine_id = @machine
			and to_at is null and key = @was`,
	} {
		if err := tx.Exec(sql, args).Error; err != nil {
			return err
		}
	}
	return nil
}

func endPosition(tx *gorm.DB, machineID int64, key string, at time.Time) error {
	return tx.Model(&positionRow{}).
		Where("machine_id = ? and key = ? and to_at is null", machineID, key).
		Update("to_at", at).
		Error
}
