package roster

import (
	"cmp"
	"math"
	"slices"
	"time"
)

// Search says how long and with which seed a plan is looked for.
type Search struct {
	Seed   uint64
	Rounds int                     // at most; each takes some jobs out and puts them back
	Stop   func() bool             // asked between rounds; nil never stops
	Seen   func(round int, p Plan) // told now and then, and of the last; nil where nobody looks
}

func (s Search) stopped() bool { return s.Stop != nil && s.Stop() }

// tellEvery is after how many rounds progress is told.
const tellEvery = 200

// Make looks for a cheap plan: the most urgent work first, each in its cheapest spot; then it takes
// some jobs that have to do with each other out, again and again, and puts them back otherwise.
// The same problem and search give the same plan, unless it is stopped.
func Make(p *Problem, how Search) (Plan, error) {
	if err := p.Check(); err != nil {
		return Plan{}, err
	}
	g := newGrid(p)
	s := newState(g)
	s.rush()
	held := make([]bool, len(p.Jobs))
	for _, j := range g.dangers {
		held[j] = true
	}
	for _, j := range g.urgent() {
		if how.stopped() {
			break
		}
		if held[j] {
			continue
		}
		if at, ok := s.best(j, nil); ok {
			s.add(j, at)
		}
	}
	s.improve(how, held)
	return s.plan(), nil
}

// urgent is the jobs, each after those that it waits for, the most urgent first.
func (g *grid) urgent() []int {
	level := g.levels()
	out := slices.Clone(g.order)
	when := func(j int) (t time.Time) {
		if t = g.Jobs[j].Limit; t.IsZero() {
			t = g.Jobs[j].Due
		}
		if t.IsZero() {
			t = g.moment(g.Slots)
		}
		return t
	}
	slices.SortStableFunc(out, func(a, b int) int {
		x, y := &g.Jobs[a], &g.Jobs[b]
		return cmp.Or(cmp.Compare(level[a], level[b]), g.upkeepLast(a, b), -cmp.Compare(x.Risk, y.Risk),
			when(a).Compare(when(b)), cmp.Compare(x.Kind, y.Kind))
	})
	return out
}

// upkeepLast puts maintenance that goes after repairs behind all else.
func (g *grid) upkeepLast(a, b int) int {
	return min(len(g.repairs[a]), 1) - min(len(g.repairs[b]), 1)
}

// levels is how many jobs in a row come before each.
func (g *grid) levels() []int {
	out := make([]int, len(g.Jobs))
	for _, j := range g.order {
		for _, b := range g.before[j] {
			out[j] = max(out[j], out[b]+1)
		}
	}
	return out
}

// Bounds of a round, and how it cools. Source: from memory.
const (
	mostOut   = 12
	blink     = 0.04 // of the spots are overlooked; more where a job makes room for others
	wideBlink = 0.7
	wide      = 4    // one round of so many
	coolFrom  = 0.02 // of the mean cost of a job may a plan be dearer at first, and still be gone on from
	coolUntil = 0.0001
)

// improve takes jobs out and puts them back; those that are held stay.
func (s *state) improve(how Search, held []bool) {
	n := len(s.Jobs)
	random := chance(how.Seed)
	best, least := slices.Clone(s.at), s.total()
	level := s.levels()
	held = s.withThoseBefore(held)
	free := make([]int, 0, n)
	for j := range n {
		if !held[j] {
			free = append(free, j)
		}
	}
	mean := float64(s.cost)/float64(max(1, n)) + float64(s.setUp())
	for round := 0; round < how.Rounds && len(free) > 0 && !how.stopped(); round++ {
		was := s.total()
		out := s.chosen(&random, free, held)
		before := make([]spot, len(out))
		for i := len(out) - 1; i >= 0; i-- { // those that wait first
			if before[i] = s.at[out[i]]; before[i].placed() {
				s.remove(out[i])
			}
		}
		s.putBack(out, level, &random)
		heat := mean * coolFrom * math.Pow(coolUntil/coolFrom, float64(round)/float64(how.Rounds))
		if now := s.total(); float64(now-was) > -heat*math.Log(1-random.share()) {
			s.putAs(out, before)
		} else if now < least {
			best, least = slices.Clone(s.at), now
		}
		if how.Seen != nil && round%tellEvery == tellEvery-1 {
			now := slices.Clone(s.at)
			s.become(best)
			how.Seen(round+1, s.plan())
			s.become(now)
		}
	}
	s.become(best)
	if how.Seen != nil {
		how.Seen(how.Rounds, s.plan())
	}
}

// withThoseBefore are jobs that stay, with those that they wait for.
func (s *state) withThoseBefore(held []bool) []bool {
	out := make([]bool, len(s.Jobs))
	copy(out, held)
	for i := len(s.grid.order) - 1; i >= 0; i-- {
		if j := s.grid.order[i]; out[j] && s.at[j].placed() {
			for _, b := range s.before[j] {
				out[b] = true
			}
		}
	}
	return out
}

// chosen are jobs to take out, each after those that it waits for: one by chance, some that have to
// do with it, and all that wait for one of them.
func (s *state) chosen(random *chance, free []int, held []bool) []int {
	first := free[random.below(len(free))]
	if random.below(2) == 0 { // rather one that is unplaced
		from := random.below(len(free))
		for i := range free {
			if j := free[(from+i)%len(free)]; !s.at[j].placed() {
				first = j
				break
			}
		}
	}
	picked := map[int]bool{first: true}
	pick := func(j int) {
		if !held[j] {
			picked[j] = true
		}
	}
	most := 1 + random.below(min(mostOut, len(free)))
	job, at := &s.Jobs[first], s.at[first]
	if !at.placed() && len(s.able[first]) > 0 {
		person := s.able[first][random.below(len(s.able[first]))]
		if i := s.works[person].next(random.below(s.Slots)); i < s.Slots {
			at = spot{person, i, i}
		}
	}
	how := random.below(4)
	from := random.below(len(free))
	for i := 0; i < len(free) && len(picked) < most; i++ {
		j := free[(from+i)%len(free)]
		other := s.at[j]
		near := at.placed() && other.placed() && s.day[other.from] == s.day[at.from]
		switch {
		case s.Jobs[j].Machine == job.Machine, how == 0 && near && other.person == at.person, how == 1 && near,
			how == 2 && s.Jobs[j].Kind == job.Kind, how == 3 && random.below(2) == 0:
			pick(j)
		}
	}
	var out []int
	for _, j := range s.grid.order {
		if !picked[j] && s.at[j].placed() && slices.ContainsFunc(s.before[j], func(b int) bool { return picked[b] }) {
			pick(j) // it cannot stand without them
		}
		if picked[j] {
			out = append(out, j)
		}
	}
	return out
}

// putBack places jobs that were taken out in an order by chance, each after those that it waits for.
func (s *state) putBack(out, level []int, random *chance) {
	again := slices.Clone(out)
	random.shuffle(again)
	repairsFirst := random.below(8) > 0 // not always: now and then a repair is better left out
	slices.SortStableFunc(again, func(a, b int) int {
		if n := cmp.Compare(level[a], level[b]); n != 0 || !repairsFirst {
			return n
		}
		return s.upkeepLast(a, b)
	})
	share := blink
	if random.below(wide) == 0 {
		share = wideBlink
	}
	skip := func() bool { return random.share() < share }
	for _, j := range again {
		if at, ok := s.best(j, skip); ok {
			s.add(j, at)
		}
	}
}

// putAs takes jobs from where they stand, and puts them where they stood.
func (s *state) putAs(jobs []int, at []spot) {
	for _, j := range jobs {
		if s.at[j].placed() {
			s.remove(j)
		}
	}
	for i, j := range jobs {
		if at[i].placed() {
			s.add(j, at[i])
		}
	}
}

// become makes the state another one of the same problem.
func (s *state) become(at []spot) {
	for j := range s.at {
		if s.at[j] != at[j] && s.at[j].placed() {
			s.remove(j)
		}
	}
	for j := range s.at {
		if at[j].placed() && !s.at[j].placed() {
			s.add(j, at[j])
		}
	}
}
