package roster

import (
	"maps"
	"slices"
	"sort"
)

// spot is where a job stands: its doer and its slots, from from up to before to.
type spot struct{ person, from, to int }

var nowhere = spot{person: -1}

func (s spot) placed() bool { return s.person >= 0 }

// state is a plan while it is made, with what its jobs take up.
type state struct {
	*grid
	at       []spot
	busy     []slots // of each person
	working  []slots // of each machine: jobs on it
	up       [][]int16
	tight    []slots // of each floor: slots in which no machine more may be down
	stock    map[string][]int
	load     map[string][]float64
	byDay    [][]int // jobs of a person on a day in their order; index person × days + day
	cost     int64   // of what is placed, with set-ups
	unplaced int64   // what is not placed costs
	free     slots   // scratch
	blocked  slots
}

func newState(g *grid) *state {
	s := &state{grid: g, stock: maps.Clone(g.stock), load: maps.Clone(g.load), byDay: make([][]int, len(g.People)*g.days),
		free: newSlots(g.Slots), blocked: newSlots(g.Slots)}
	for range g.People {
		s.busy = append(s.busy, newSlots(g.Slots))
	}
	for range g.Machines {
		s.working = append(s.working, newSlots(g.Slots))
	}
	for model := range s.stock {
		s.stock[model] = slices.Clone(s.stock[model])
	}
	for name := range s.load {
		s.load[name] = slices.Clone(s.load[name])
	}
	for f := range g.up {
		s.up, s.tight = append(s.up, slices.Clone(g.up[f])), append(s.tight, newSlots(g.Slots))
		s.tighten(f, 0, g.Slots)
	}
	for j := range g.Jobs {
		s.at, s.unplaced = append(s.at, nowhere), s.unplaced+g.dear[j]
	}
	return s
}

// total is what the plan costs: unplaced work outweighs all else.
func (s *state) total() int64 { return s.unplaced + s.cost }

func (s *state) tighten(f, from, to int) {
	for i := from; i < to; i++ {
		if s.least[f][i] > 0 && s.up[f][i] <= s.least[f][i] {
			s.tight[f].set(i, i+1)
		} else {
			s.tight[f].clear(i, i+1)
		}
	}
}

// add places a job, which must fit there.
func (s *state) add(j int, at spot) {
	s.at[j] = at
	s.unplaced -= s.dear[j]
	s.cost += s.grid.cost(j, at.from, at.to)
	s.take(j, at, 1)
	day := s.dayOf(at)
	i := sort.Search(len(*day), func(i int) bool { return s.at[(*day)[i]].from > at.from })
	s.cost += s.setUpAt(*day, i, j)
	*day = slices.Insert(*day, i, j)
}

// remove takes a placed job out.
func (s *state) remove(j int) {
	at := s.at[j]
	day := s.dayOf(at)
	i := slices.Index(*day, j)
	*day = slices.Delete(*day, i, i+1)
	s.cost -= s.setUpAt(*day, i, j)
	s.take(j, at, -1)
	s.cost -= s.grid.cost(j, at.from, at.to)
	s.unplaced += s.dear[j]
	s.at[j] = nowhere
}

func (s *state) dayOf(at spot) *[]int { return &s.byDay[at.person*s.days+s.day[at.from]] }

// setUpAt is what a job adds to the set-ups and walks of somebody's day that it is not in, before its i-th.
func (s *state) setUpAt(day []int, i, j int) int64 {
	before, after := -1, -1
	if i > 0 {
		before = day[i-1]
	}
	if i < len(day) {
		after = day[i]
	}
	return s.turn(before, j) + s.turn(j, after) - s.turn(before, after)
}

// take books what a job takes up, or gives it back where sign is -1.
func (s *state) take(j int, at spot, sign int) {
	job := &s.Jobs[j]
	if sign > 0 {
		s.busy[at.person].set(at.from, at.to)
		s.working[job.Machine].set(at.from, at.to)
	} else {
		s.busy[at.person].clear(at.from, at.to)
		s.working[job.Machine].clear(at.from, at.to)
	}
	for _, f := range s.floors[job.Machine] {
		for i := at.from; i < at.to; i++ {
			s.up[f][i] -= int16(sign)
		}
		s.tighten(f, at.from, at.to)
	}
	for model, n := range job.Parts {
		if pieces, known := s.stock[model]; known {
			for i := at.from; i < s.Slots; i++ {
				pieces[i] -= sign * n
			}
		}
	}
	if load := s.load[s.Machines[job.Machine].Circuit]; load != nil && job.Heats > 0 {
		for i := at.from; i < at.to; i++ {
			load[i] += float64(sign) * job.Heats
		}
	}
}

// Rule is a hard rule, as far as it can stand in the way of a job.
type Rule string

// The rules, in the order in which they are told.
const (
	Skill    Rule = "skill"
	Parts    Rule = "parts"
	Order    Rule = "order"    // what comes before it is not placed
	Safety   Rule = "limit"    // it has to be done by then
	Shifts   Rule = "shifts"   // nobody able works so long
	Bookings Rule = "bookings" // of its machine
	Floors   Rule = "floor"
	Power    Rule = "power"
	Others   Rule = "work" // of its doers, and on its machine
)

// Rules lists them.
func Rules() []Rule {
	return []Rule{Skill, Parts, Order, Safety, Shifts, Bookings, Floors, Power, Others}
}

// without are rules that are looked away from, to tell what stands in the way.
type without []Rule

func (w without) has(r Rule) bool { return slices.Contains(w, r) }

// window is between which slots a job lies, by what comes before and after it, its parts and its limit; ok is false
// where nothing of it is left.
func (s *state) window(j int, w without) (from, to int, ok bool) {
	from, to = s.first[j], s.last[j]
	if w.has(Safety) {
		to = s.Slots
	}
	if !w.has(Order) {
		if m := s.Jobs[j].Machine; s.Machines[m].Locked && !s.Jobs[j].Unlocks && len(s.unlocks[m]) == 0 &&
			s.Jobs[j].Stage != DangerRepair {
			return 0, 0, false
		}
		for _, b := range s.before[j] {
			if !s.at[b].placed() {
				return 0, 0, false
			}
			from = max(from, s.at[b].to)
		}
		for _, b := range s.behind[j] {
			if s.at[b].placed() {
				to = min(to, s.at[b].from)
			}
		}
		for _, r := range s.repairs[j] {
			if s.at[r].placed() {
				from = max(from, s.at[r].to)
			}
		}
		for _, u := range s.upkeep[j] {
			if s.at[u].placed() {
				to = min(to, s.at[u].from)
			}
		}
	}
	if !w.has(Parts) {
		for model, n := range s.Jobs[j].Parts {
			pieces := s.stock[model] // none of a model that is not kept
			if len(pieces) == 0 {
				return 0, 0, false
			}
			i := len(pieces)
			for i > 0 && pieces[i-1] >= n {
				i--
			}
			if i >= s.Slots {
				return 0, 0, false
			}
			from = max(from, i)
		}
	}
	return from, to, from < to
}

// obstacles are the slots in which a job's machine cannot be worked on.
func (s *state) obstacles(j int, w without) slots {
	clear(s.blocked)
	job := &s.Jobs[j]
	if !w.has(Bookings) && job.Stage != DangerRepair {
		s.blocked.add(s.booked[job.Machine])
	}
	if !w.has(Others) {
		s.blocked.add(s.working[job.Machine])
	}
	if !w.has(Floors) {
		for _, f := range s.floors[job.Machine] {
			s.blocked.add(s.tight[f])
		}
	}
	circuit := s.Machines[job.Machine].Circuit
	if load := s.load[circuit]; load != nil && job.Heats > 0 && !w.has(Power) {
		for i, is := range load {
			if is+job.Heats > s.Circuits[circuit] {
				s.blocked.set(i, i+1)
			}
		}
	}
	return s.blocked
}

// spots calls f with every spot in which a job fits, by person and begin, until f returns false.
func (s *state) spots(j int, w without, f func(spot) bool) {
	from, last, ok := s.window(j, w)
	if !ok {
		return
	}
	blocked := s.obstacles(j, w)
	able := s.able[j]
	if w.has(Skill) {
		able = everybody(len(s.People))
	}
	for _, p := range able {
		for i := range s.free {
			s.free[i] = ^blocked[i]
			if !w.has(Shifts) {
				s.free[i] &= s.works[p][i]
			}
			if !w.has(Others) {
				s.free[i] &^= s.busy[p][i]
			}
		}
		for at := s.free.next(from); at < last; at = s.free.next(at + 1) {
			to, jump := s.endOf(j, p, at, last, w)
			if to == 0 {
				if jump == 0 {
					break
				}
				at = jump - 1
				continue
			}
			if !f(spot{p, at, to}) {
				return
			}
		}
	}
}

// endOf is the slot after a job that somebody begins in a slot; 0 where it does not fit. jump is then the next slot
// in which to try, 0 where none is left.
func (s *state) endOf(j, p, at, last int, w without) (to, jump int) {
	length := s.length[j]
	if !s.Jobs[j].Pause || w.has(Shifts) {
		if at+length > last {
			return 0, 0
		}
		// The last slot that is not free tells where to go on.
		for i := at + length - 1; i > at; i-- {
			if !s.free.has(i) {
				return 0, i + 1
			}
		}
		return at + length, 0
	}
	rank := s.ranks[p]
	want := rank[at] + length
	to = sort.Search(s.Slots+1, func(i int) bool { return rank[i] >= want })
	if to > last {
		return 0, 0
	}
	if s.blocked.any(at, to) || !w.has(Others) && s.busy[p].any(at, to) {
		return 0, at + 1
	}
	return to, 0
}

func everybody(n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = i
	}
	return out
}

// price is what a job costs in a spot, with what it does to set-ups.
func (s *state) price(j int, at spot) int64 {
	day := *s.dayOf(at)
	i := sort.Search(len(day), func(i int) bool { return s.at[day[i]].from > at.from })
	return s.grid.cost(j, at.from, at.to) + s.setUpAt(day, i, j)
}

// best is the cheapest spot of a job; ok is false where none fits. Of equal ones it is the earliest.
func (s *state) best(j int, skip func() bool) (out spot, ok bool) {
	least := int64(0)
	s.spots(j, nil, func(at spot) bool {
		price := s.price(j, at)
		if ok && (price > least || price == least && at.from >= out.from) || skip != nil && skip() {
			return true
		}
		out, least, ok = at, price, true
		return true
	})
	return out, ok
}

// rush places the repairs of dangers, each as early as it can beside those before it.
func (s *state) rush() {
	for _, j := range s.dangers {
		if at, ok := s.earliest(j, nil); ok {
			s.add(j, at)
		}
	}
}

// fits reports whether a job can be put exactly there.
func (s *state) fits(j int, at spot) bool {
	if at.person < 0 || at.person >= len(s.People) || !slices.Contains(s.able[j], at.person) {
		return false
	}
	from, last, ok := s.window(j, nil)
	if !ok || at.from < from || at.to > last {
		return false
	}
	blocked := s.obstacles(j, nil)
	for i := range s.free {
		s.free[i] = s.works[at.person][i] &^ s.busy[at.person][i] &^ blocked[i]
	}
	if !s.free.has(at.from) {
		return false
	}
	to, _ := s.endOf(j, at.person, at.from, last, nil)
	return to == at.to
}

// plan is the state as others see it.
func (s *state) plan() Plan {
	out := Plan{Cost: s.cost}
	for j, at := range s.at {
		if at.placed() {
			out.Placed = append(out.Placed, Placement{j, at.person, s.moment(at.from), s.moment(at.to)})
		} else {
			out.Unplaced = append(out.Unplaced, j)
		}
	}
	return out
}
