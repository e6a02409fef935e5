package roster

import (
	"cmp"
	"slices"
)

// Replanned is a plan that keeps an earlier one as far as it can.
type Replanned struct {
	Plan
	Moved []int // jobs that stand otherwise than before, or no more
	Loose []int // pinned, but nothing can stand there any more: placed like the others
}

// Replan keeps pinned jobs where they are, and moves as few others from where they stood as can
// be: least unplaced work first, then fewest moves, then cost. Up to so many jobs that follow from
// trying every choice of what moves; of more, what has to move is found exactly, and which others
// make room for what is left unplaced among those that have to do with it.
func Replan(p *Problem, was, pinned []Placement, how Search) (Replanned, error) {
	if err := p.Check(); err != nil {
		return Replanned{}, err
	}
	s := newState(newGrid(p))
	r := replan{state: s, how: how, old: make([]spot, len(p.Jobs)), pin: make([]spot, len(p.Jobs))}
	for j := range p.Jobs {
		r.old[j], r.pin[j] = nowhere, nowhere
	}
	for _, x := range was {
		r.old[x.Job] = s.spotOf(x)
	}
	for _, x := range pinned {
		r.pin[x.Job] = s.spotOf(x)
	}
	return r.run(), nil
}

type replan struct {
	*state
	how  Search
	old  []spot // where each job stood
	pin  []spot
	left int // nodes that may still be looked at

	best     []spot
	missing  int64
	moves    int
	dearness int64
}

// Bounds of a search for the fewest moves. Source: from memory.
const (
	everyChoice = 10     // jobs of which every choice is tried
	mostNodes   = 20_000 // of one choice
	mostSpots   = 64     // of one job, the cheapest
	mostFree    = 8      // jobs that are placed together exactly
	mostRelated = 60
)

func (r *replan) run() Replanned {
	var out Replanned
	out.Moved, out.Loose = r.rushed()
	out.Loose = append(out.Loose, r.putPins()...)
	r.search()
	if r.best == nil {
		// What a pinned job waits for cannot come before it.
		for _, j := range r.order {
			if r.pin[j].placed() && slices.ContainsFunc(r.before[j], func(b int) bool { return !r.pin[b].placed() }) {
				r.pin[j] = nowhere
				out.Loose = append(out.Loose, j)
			}
		}
		r.become(r.pin)
		r.search()
	}
	r.become(r.best)
	out.Plan = r.plan()
	for j := range r.at {
		if r.old[j].placed() && r.at[j] != r.old[j] && !r.pin[j].placed() {
			out.Moved = append(out.Moved, j)
		}
	}
	return out
}

// rushed pins the repairs of dangers where they can begin first, unless somebody has pinned them; it gives those
// that stood elsewhere, and those that cannot stand where they were pinned.
func (r *replan) rushed() (moved, loose []int) {
	fixed := make([]bool, len(r.Jobs))
	for _, j := range r.dangers {
		if fixed[j] = r.pin[j].placed() && r.fits(j, r.pin[j]); fixed[j] {
			r.add(j, r.pin[j])
		}
	}
	for _, j := range r.dangers {
		if fixed[j] {
			continue
		}
		if r.pin[j].placed() {
			loose = append(loose, j)
		}
		at, ok := r.earliest(j, nil)
		if r.pin[j] = nowhere; ok {
			r.pin[j] = at
			r.add(j, at)
		}
		if r.old[j].placed() && r.old[j] != r.pin[j] {
			moved = append(moved, j)
		}
		r.old[j] = r.pin[j]
	}
	for _, j := range r.dangers { // putPins puts them in place again
		if r.at[j].placed() {
			r.remove(j)
		}
	}
	return moved, loose
}

// putPins places what is pinned, and gives what cannot stand there any more.
func (r *replan) putPins() (loose []int) {
	for _, j := range append(slices.Clone(r.dangers), r.order...) {
		if !r.pin[j].placed() || r.at[j].placed() {
			continue
		}
		if !r.fitsBut(j, r.pin[j], func(b int) bool { return !r.at[b].placed() }) { // it may still come before
			r.pin[j] = nowhere
			loose = append(loose, j)
			continue
		}
		r.add(j, r.pin[j])
	}
	return loose
}

// search finds what moves, with the pinned jobs in place.
func (r *replan) search() {
	least := r.unavoidable()
	var old, fresh []int
	for _, j := range r.order {
		switch {
		case r.pin[j].placed():
		case r.old[j].placed():
			old = append(old, j)
		default:
			fresh = append(fresh, j)
		}
	}
	contested := r.contested(old)
	choices := old
	must := []int{}
	if len(old) > everyChoice {
		must, choices = contested, r.related(old, contested, fresh)
	}
	for size := 0; size <= len(choices); size++ {
		if r.best != nil && (r.missing <= least && r.moves <= size-1+len(must) || r.how.stopped()) {
			break
		}
		if len(old) > everyChoice && size > 2 {
			break
		}
		subsets(choices, size, func(more []int) bool {
			r.try(append(slices.Clone(must), more...), fresh)
			return r.best == nil || !r.how.stopped()
		})
	}
}

// unavoidable is what work costs that cannot be placed beside the pinned jobs alone.
func (r *replan) unavoidable() (sum int64) {
	lost := make([]bool, len(r.Jobs))
	for _, j := range r.order {
		if r.at[j].placed() {
			continue
		}
		lost[j] = true
		if !slices.ContainsFunc(r.before[j], func(b int) bool { return lost[b] }) {
			r.spots(j, without{Order}, func(spot) bool { lost[j] = false; return false })
		}
		if lost[j] {
			sum += r.dear[j]
		}
	}
	return sum + r.lacking(lost)
}

// lacking is what work costs at least that stays unplaced because there are too few parts for all of it, besides
// what is lost already.
func (r *replan) lacking(lost []bool) int64 {
	least := int64(0)
	for model := range r.stock {
		var wanting []int
		wanted, most := 0, 0
		for j, job := range r.Jobs {
			if n := job.Parts[model]; n > 0 && !lost[j] && !r.at[j].placed() {
				wanting = append(wanting, j)
				wanted, most = wanted+n, max(most, n)
			}
		}
		left := 0
		if pieces := r.stock[model]; len(pieces) > 0 {
			left = max(0, pieces[len(pieces)-1])
		}
		if wanted <= left {
			continue
		}
		slices.SortFunc(wanting, func(a, b int) int { return cmp.Compare(r.dear[a], r.dear[b]) })
		sum := int64(0)
		for _, j := range wanting[:(wanted-left+most-1)/most] {
			sum += r.dear[j]
		}
		least = max(least, sum) // a job may lack several models: the sums are not added
	}
	return least
}

// contested are the jobs that cannot stay where they stood, with the pinned ones and those before
// them in place; it leaves the others there.
func (r *replan) contested(old []int) []int {
	out := []int{}
	for _, j := range old {
		if r.fits(j, r.old[j]) {
			r.add(j, r.old[j])
		} else {
			out = append(out, j)
		}
	}
	return out
}

// related are jobs that may make room for others: those near where they stood, of those who can do
// them or on their machine, the nearest first.
func (r *replan) related(old, contested, fresh []int) []int {
	distance := map[int]int{}
	for _, j := range append(slices.Clone(contested), fresh...) {
		at := r.old[j]
		if !at.placed() {
			at.from = r.slotUp(r.Jobs[j].Due)
		}
		for _, x := range old {
			if slices.Contains(contested, x) {
				continue
			}
			if r.Jobs[x].Machine != r.Jobs[j].Machine && !slices.Contains(r.able[j], r.old[x].person) {
				continue
			}
			away := max(at.from-r.old[x].from, r.old[x].from-at.from)
			if is, seen := distance[x]; !seen || away < is {
				distance[x] = away
			}
		}
	}
	out := make([]int, 0, len(distance))
	for x := range distance {
		out = append(out, x)
	}
	slices.SortFunc(out, func(a, b int) int { return cmp.Or(cmp.Compare(distance[a], distance[b]), cmp.Compare(a, b)) })
	return out[:min(len(out), mostRelated)]
}

// subsets calls f with each choice of so many of the jobs, until it returns false.
func subsets(of []int, size int, f func([]int) bool) {
	var choose func(from int, chosen []int) bool
	choose = func(from int, chosen []int) bool {
		if len(chosen) == size {
			return f(chosen)
		}
		for i := from; i <= len(of)-(size-len(chosen)); i++ {
			if !choose(i+1, append(chosen, of[i])) {
				return false
			}
		}
		return true
	}
	choose(0, make([]int, 0, size))
}

// try moves some jobs, with all others where they stood, and places fresh ones.
func (r *replan) try(moving, fresh []int) {
	moves := make([]bool, len(r.Jobs))
	for _, j := range moving {
		moves[j] = true
	}
	for j, at := range r.at {
		if at.placed() && !r.pin[j].placed() && (moves[j] || r.at[j] != r.old[j]) {
			r.remove(j)
		}
	}
	free := append(slices.Clone(moving), fresh...)
	for _, j := range r.order {
		if !r.at[j].placed() && !moves[j] && r.old[j].placed() && !r.pin[j].placed() {
			if !r.fitsBut(j, r.old[j], func(b int) bool { return slices.Contains(free, b) }) {
				return
			}
			r.add(j, r.old[j])
		}
	}
	rank := make(map[int]int, len(free))
	for i, j := range r.order {
		rank[j] = i
	}
	slices.SortFunc(free, func(a, b int) int { return cmp.Compare(rank[a], rank[b]) })
	if len(free) <= mostFree {
		r.left = mostNodes
		r.place(free, 0)
		return
	}
	held := make([]bool, len(r.Jobs))
	for j := range held {
		held[j] = !slices.Contains(free, j)
	}
	for _, j := range free {
		if r.old[j].placed() && r.fits(j, r.old[j]) {
			r.add(j, r.old[j])
		} else if at, ok := r.state.best(j, nil); ok {
			r.add(j, at)
		}
	}
	r.improve(Search{Seed: r.how.Seed, Rounds: min(r.how.Rounds, 50*len(free)), Stop: r.how.Stop}, held)
	r.see()
}

// fitsBut is fits where some of what the job waits for is placed later.
func (r *replan) fitsBut(j int, at spot, later func(int) bool) bool {
	before := r.before[j]
	r.before[j] = slices.DeleteFunc(slices.Clone(before), later)
	ok := r.fits(j, at)
	r.before[j] = before
	return ok
}

// place tries the spots of the i-th free job and of those after it.
func (r *replan) place(free []int, moves int) {
	if r.best != nil && (r.unplacedWithout(free) > r.missing ||
		r.unplacedWithout(free) == r.missing && (moves > r.moves || moves == r.moves && r.cost >= r.dearness)) {
		return
	}
	if len(free) == 0 {
		r.see()
		return
	}
	if r.left--; r.left < 0 {
		return
	}
	j, rest := free[0], free[1:]
	type offer struct {
		at    spot
		moved int
		price int64
	}
	var offers []offer
	r.spots(j, nil, func(at spot) bool {
		moved := 0
		if r.old[j].placed() && at != r.old[j] {
			moved = 1
		}
		offers = append(offers, offer{at, moved, r.price(j, at)})
		return true
	})
	slices.SortFunc(offers, func(a, b offer) int {
		return cmp.Or(cmp.Compare(a.moved, b.moved), cmp.Compare(a.price, b.price), cmp.Compare(a.at.from, b.at.from),
			cmp.Compare(a.at.person, b.at.person))
	})
	for _, o := range offers[:min(len(offers), mostSpots)] {
		r.add(j, o.at)
		r.place(rest, moves+o.moved)
		r.remove(j)
	}
	gone := 0
	if r.old[j].placed() {
		gone = 1
	}
	r.place(rest, moves+gone)
}

// unplacedWithout is what is unplaced if all that is still free is placed.
func (r *replan) unplacedWithout(free []int) int64 {
	sum := r.state.unplaced
	for _, j := range free {
		sum -= r.dear[j]
	}
	return sum
}

// see keeps the state where it is the best so far, and breaks no order.
func (r *replan) see() {
	moves := 0
	for j, at := range r.at {
		if at.placed() && slices.ContainsFunc(r.before[j], func(b int) bool { return !r.at[b].placed() }) {
			return
		}
		if r.old[j].placed() && !r.pin[j].placed() && at != r.old[j] {
			moves++
		}
	}
	if r.best == nil || cmp.Or(cmp.Compare(r.state.unplaced, r.missing), cmp.Compare(moves, r.moves),
		cmp.Compare(r.cost, r.dearness)) < 0 {
		r.best, r.missing, r.moves, r.dearness = slices.Clone(r.at), r.state.unplaced, moves, r.cost
	}
}

// spotOf is where a placement lies on the grid; nowhere where it lies on none.
func (g *grid) spotOf(x Placement) spot {
	from, to := g.slot(x.From), g.slotUp(x.To)
	if x.Person < 0 || x.Person >= len(g.People) || !g.moment(from).Equal(x.From) || from >= to {
		return nowhere
	}
	return spot{x.Person, from, to}
}
