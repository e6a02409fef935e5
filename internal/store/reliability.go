package store

import (
	"context"
	"time"
)

// Outage is a stretch in which a machine could not be used, or a fault was open; To is nil where it
// still is.
type Outage struct {
	MachineID int64
	From      time.Time
	To        *time.Time
}

// Outages are, of all machines, when they were out of use, and when work was open on them.
func (s *Store) Outages(ctx context.Context) ([]Outage, error) {
	var out []Outage
	err := s.from(ctx).Raw(`
		select machine_id, "from", "to" from (
			select machine_id, use, at as "from", lead(at) over (partition by machine_id order by at, id) as "to"
			from machine_uses) u where use = 'out of use'
		union all
		select machine_id, opened_at, closed_at from work_orders where state <> 'planned'`).Scan(&out).Error
	return out, err
}

// FaultTimes are, of all machines, when faults were reported and closed.
func (s *Store) FaultTimes(ctx context.Context) ([]Outage, error) {
	var out []Outage
	err := s.from(ctx).Raw(`select machine_id, reported_at as "from", closed_at as "to" from faults`).Scan(&out).Error
	return out, err
}

// Laboured is how long work on a machine took, and whether it was for a fault.
type Laboured struct {
	MachineID int64
	Minutes   float64
	Fault     bool
}

// LabouredWithin sums the minutes of work on record within a while.
func (s *Store) LabouredWithin(ctx context.Context, from, to time.Time) ([]Laboured, error) {
	var out []Laboured
	err := s.from(ctx).Raw(`
		select l.machine_id, coalesce(w.fault_id is not null, false) as fault, sum(l.minutes) as minutes
		from labour l left join work_orders w on w.id = l.work_order_id where l.at >= ? and l.at < ? group by 1, 2`,
		from, to).Scan(&out).Error
	return out, err
}

// DoneCount is how often a task was done on a machine.
type DoneCount struct {
	MachineID int64
	Task      string
	Times     int
}

// DoneWithin counts the tasks done within a while, without those that were done in a work order.
func (s *Store) DoneWithin(ctx context.Context, from, to time.Time) ([]DoneCount, error) {
	var out []DoneCount
	err := s.from(ctx).Raw(`select machine_id, task, count(*) as times from upkeep_done u
		where done_at >= ? and done_at < ?
		and not exists (select from work_orders w
			where w.machine_id = u.machine_id and w.task = u.task and w.closed_at = u.done_at)
		group by 1, 2`, from, to).Scan(&out).Error
	return out, err
}

// StockLine is a part on the shelf, as far as stock is told.
type StockLine struct {
	Kind  string
	Model string
	Lot   string
	Shelf string
	N     int
}

// Stock counts the parts on the shelf by model, lot and shelf.
func (s *Store) Stock(ctx context.Context) ([]StockLine, error) {
	var out []StockLine
	err := s.from(ctx).Raw(`select p.kind, p.standing_model as model, coalesce(p.lot, '') as lot,
			coalesce(p.shelf, '') as shelf,
			count(*) as n
		from parts p where p.standing_model not in ('', 'none') and p.scrapped_at is null and not exists (
			select from fittings f where f.part_id = p.id and f.removed_at is null)
		group by 1, 2, 3, 4 order by lower(p.standing_model), 3, 4`).Scan(&out).Error
	return out, err
}

// Happening is what became of the fleet after a moment, in few words.
type Happening struct {
	At      time.Time
	What    string // "fault", "fault closed", "order opened", "order closed", "use", "done"
	Machine string
}

// HappenedSince lists what became of the fleet after a moment, but not by an account, the newest first.
func (s *Store) HappenedSince(ctx context.Context, since time.Time, but int64, most int) ([]Happening, error) {
	var out []Happening
	err := s.from(ctx).Raw(`
		select e.at, m.name as machine, case
			when e.relation = 'faults' and e.done = 'insert' then 'fault'
			when e.relation = 'faults' and e.is_now->>'closed_at' is not null then 'fault closed'
			when e.relation = 'work_orders' and e.is_now->>'state' = 'open' then 'order opened'
			when e.relation = 'work_orders' and e.is_now->>'state' in ('finished', 'abandoned') then 'order closed'
			when e.relation = 'machine_uses' and e.done = 'insert' then 'use'
			when e.relation = 'upkeep_done' and e.done = 'insert' then 'done' end as what
		from events e join machines m on m.id = e.machine_id
		where e.at > ? and e.account_id is distinct from ?
			and e.relation in ('faults', 'work_orders', 'machine_uses', 'upkeep_done')
		order by e.id desc limit ?`, since, but, most).Scan(&out).Error
	return out, err
}
