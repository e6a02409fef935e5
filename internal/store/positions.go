package store

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"wardifex/internal/core/catalogue"
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
	p, ok := s.Vocabulary().Position(slot)
	if !ok {
		return refuse("there is no position %s", slot)
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

// structureChanged notes that what is remembered of a machine is no longer so.
func structureChanged(tx *gorm.DB, machineID int64) error {
	return tx.Exec("update machines set structure = structure + 1 where id = ?", machineID).Error
}

// Like says after what a new machine is built: another machine, or a model of the
// catalogue; the usual positions where both are empty.
type Like struct {
	Machine int64  `json:"machine,omitempty" doc:"Number of a machine that is built alike"`
	Model   string `json:"model,omitempty" doc:"Name of a model of machine in the catalogue"`
}

// positionsLike are the positions of a new machine.
func (s *Store) positionsLike(tx *gorm.DB, like Like) ([]machine.Position, error) {
	voc := s.Vocabulary()
	switch {
	case like.Machine != 0:
		listed, err := listedNow(tx, []int64{like.Machine})
		if err == nil && len(listed[like.Machine]) == 0 {
			err = ErrNotFound
		}
		return listed[like.Machine], err
	case like.Model != "":
		for _, k := range voc.Catalogue.Kinds {
			if m, ok := voc.Model(k.Key, like.Model); ok && len(m.Positions) > 0 {
				return m.Positions, nil
			}
		}
		return nil, refuse("the catalogue has no model of machine named %s with positions", like.Model)
	}
	return voc.Usual(func(machine.Position) bool { return false }), nil
}

// ChangedStructure is a change of a machine's positions over the version that its
// editor saw.
type ChangedStructure struct {
	Version int       `json:"version" doc:"Of the structure that the editor saw"`
	By      string    `json:"-"`
	At      time.Time `json:"-"`
}

// lockStructure takes a machine for a change of its positions.
func (s *Store) lockStructure(tx *gorm.DB, machineID int64, c ChangedStructure) (Machine, error) {
	if err := lockCatalogue(tx); err != nil { // a new position changes what the fleet is described in
		return Machine{}, err
	}
	if _, err := lockMachine(tx, machineID); err != nil {
		return Machine{}, err
	}
	m, err := s.machine(tx, machineID)
	switch {
	case err != nil:
	case m.RetiredAt != nil:
		err = refuse("%s is retired; bring it back before its positions are changed", m.Name)
	case m.OpenOrder != nil:
		err = refuse("work order %d is open on %s; finish it before its positions are changed", m.OpenOrder.ID, m.Name)
	case m.Structure != c.Version:
		err = &Conflict{
			Sentence: fmt.Sprintf(
				"somebody changed the positions of %s while you were editing; nothing was overwritten. Look at the list again",
				m.Name,
			),
			Current: m.Facts.Structure().Listed(),
		}
	}
	return m, err
}

// AddPosition lists one more position on a machine. Its key follows from its kind
// and place; p.N 0 takes the next that is free there.
func (s *Store) AddPosition(
	ctx context.Context,
	machineID int64,
	p machine.Position,
	c ChangedStructure,
) (key string, err error) {
	err = s.tx(ctx, func(tx *gorm.DB) error {
		m, err := s.lockStructure(tx, machineID, c)
		if err != nil {
			return err
		}
		if p, err = s.newPosition(m, p); err != nil {
			return err
		}
		key = p.Key
		if err := addPositions(tx, machineID, []machine.Position{p}, c.By, c.At); err != nil {
			return err
		}
		return s.learnPositions(tx, p)
	})
	return key, err
}

// newPosition checks a position that is to be listed, and gives it its ordinal, key,
// label and group.
func (s *Store) newPosition(m Machine, p machine.Position) (machine.Position, error) {
	p, err := m.Facts.Structure().NewPosition(p, catalogue.KeyFor)
	if err != nil {
		return p, refuse("%s", err)
	}
	if faults := s.Vocabulary().Catalogue.PositionFaults(p); len(faults) > 0 {
		return p, refuse("position %s", strings.Join(faults, "; "))
	}
	return p, nil
}

// learnPositions makes the vocabulary anew where positions came that it lacks.
func (s *Store) learnPositions(tx *gorm.DB, list ...machine.Position) error {
	known := !slices.ContainsFunc(list, func(p machine.Position) bool { return s.Vocabulary().At(p.Key) == nil })
	if known {
		return nil
	}
	if err := bumpCatalogue(tx); err != nil {
		return err
	}
	return s.reload(tx)
}

// ChangePosition places a position of a machine otherwise, names it otherwise, or
// says what it rides on and what feeds it. What a key stands for is the same on every
// machine: a position that was not placed is placed, and any is named otherwise,
// wherever it is listed; one that is placed otherwise gets the key of its new place,
// with all that was fitted there since it is listed.
func (s *Store) ChangePosition(ctx context.Context, machineID int64, p machine.Position, c ChangedStructure) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		m, err := s.lockStructure(tx, machineID, c)
		if err != nil {
			return err
		}
		key, known := p.Key, s.Vocabulary().At(p.Key)
		if p, err = m.Facts.Structure().Changed(p, catalogue.KeyFor); err != nil {
			return refuse("%s", err)
		}
		if faults := s.Vocabulary().Catalogue.PositionFaults(p); len(faults) > 0 {
			return refuse("position %s", strings.Join(faults, "; "))
		}
		if p.Key != key {
			if err := rekey(tx, machineID, key, p); err != nil {
				return err
			}
		} else if err := s.everywhere(tx, p, c); err != nil {
			return err
		}
		if err := endPosition(tx, machineID, p.Key, c.At); err != nil {
			return err
		}
		if err := addPositions(tx, machineID, []machine.Position{p}, c.By, c.At); err != nil {
			return err
		}
		if known != nil && p.Key == key && known.Label == p.Label && known.Serves == p.Serves &&
			known.Ordinal() == p.Ordinal() {
			return nil // it is linked otherwise, which is the machine's own affair
		}
		if err := bumpCatalogue(tx); err != nil {
			return err
		}
		return s.reload(tx)
	})
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

// everywhere places and names a position wherever it is listed, where that is new.
func (s *Store) everywhere(tx *gorm.DB, p machine.Position, c ChangedStructure) error {
	known := s.Vocabulary().At(p.Key)
	if known == nil || known.Label == p.Label && known.Serves == p.Serves && known.Ordinal() == p.Ordinal() {
		return nil
	}
	cat := s.Vocabulary().Catalogue
	if i := slices.IndexFunc(cat.Slots, func(o machine.Position) bool { return o.Key == p.Key }); i >= 0 {
		one := cat.Slots[i]
		one.Label, one.Serves, one.N = p.Label, p.Serves, p.N
		plan, err := s.planCatalogue(tx, machine.Catalogue{Slots: []machine.Position{one}}, nil)
		if err != nil {
			return err
		}
		if err := s.writeCatalogue(tx, plan, c.By, c.At); err != nil {
			return err
		}
	}
	rows := tx.Model(&positionRow{}).Where("key = ?", p.Key)
	return rows.Updates(map[string]any{"label": p.Label, "serves": string(p.Serves), "n": p.Ordinal()}).Error
}

func endPosition(tx *gorm.DB, machineID int64, key string, at time.Time) error {
	return tx.Model(&positionRow{}).
		Where("machine_id = ? and key = ? and to_at is null", machineID, key).
		Update("to_at", at).
		Error
}

// RemovePosition takes a position off a machine's list; nothing may be fitted there.
func (s *Store) RemovePosition(ctx context.Context, machineID int64, key string, c ChangedStructure) error {
	return s.tx(ctx, func(tx *gorm.DB) error {
		m, err := s.lockStructure(tx, machineID, c)
		if err != nil {
			return err
		}
		if err := m.Facts.MayRemove(key); err != nil {
			return refuse("%s", err)
		}
		if err := s.closeFitting(tx, machineID, key, c.At); err != nil {
			return err
		}
		if err := endPosition(tx, machineID, key, c.At); err != nil {
			return err
		}
		return structureChanged(tx, machineID)
	})
}
