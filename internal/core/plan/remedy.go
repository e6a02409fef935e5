package plan

import (
	"cmp"
	"container/heap"
	"context"
	"fmt"
	"maps"
	"slices"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// Remedy is a set of further kits after which a kit fits.
type Remedy struct {
	Kits    []Stage    `json:"kits" doc:"In order, before the kit itself"`
	Then    fit.Answer `json:"then" enum:"fits,fits if,look first" doc:"What the kit's verdict is afterwards"`
	Lean    fit.Answer `json:"lean,omitempty" enum:"fits,fits if,does not fit,no lean," doc:"Which way claims lean there"`
	Price   float64    `json:"price"`
	Minutes int        `json:"minutes"`
	Risks   []string   `json:"risks"`
}

// Remedies is what would make a kit fit that does not.
type Remedies struct {
	// Sure is the cheapest set of further kits that would, as far as is known;
	// Perhaps a cheaper one of which something is to be looked at first. Both are
	// nil when there is none.
	Sure    *Remedy `json:"sure,omitempty"`
	Perhaps *Remedy `json:"perhaps,omitempty" doc:"Cheaper, but something of it is to be looked at first"`
	// Whole says that every set of up to MostFurther kits was thought of.
	Whole bool `json:"whole" doc:"Every set of up to four kits was thought of"`
	Tried int  `json:"tried" doc:"How many sets were tried"`
}

// MostFurther is how many further kits are thought of together.
const MostFurther = 4

// mostNear, mostSets and mostTurns bound the search, whatever the size of the catalogue:
// the cheapest are thought of first, and so many kits are judged in their turn. Counted
// in steps, the answer is the same on every machine.
const (
	mostNear  = 200
	mostSets  = 4000
	mostTurns = 8_000
)

// FindRemedies finds the cheapest set of further kits of the catalogue that would
// make a kit fit which does not; nothing when it fits already. Cost is price,
// with a technician's time counted as money. A set is thought of when each of
// its kits may help the kit, or another of the set (any other would only cost),
// and none takes another's part out again.
func FindRemedies(
	ctx context.Context,
	kit *fit.Judge,
	catalogue []*fit.Judge,
	s machine.Snapshot,
	records []calibration.Record,
) (Remedies, error) {
	out := Remedies{Whole: true}
	if fits(kit.Truth(s)) {
		return out, nil
	}
	x := remedySearch{sequencer: newSequencer(s, records, newBudget(ctx, mostTurns)), kit: kit}
	x.brief = true
	x.near, out.Whole = nearest(x.kit, on(catalogue, s))
	x.prepare()
	if !x.changedBy(len(x.near), x.all()) {
		return out, nil // nothing in the catalogue changes something that surely is not so
	}
	var sure, perhaps *course
	for {
		set, ok := x.next()
		if !ok {
			break
		}
		if out.Tried++; out.Tried > mostSets || x.budget.cut {
			out.Whole = false
			break
		}
		if sure != nil && set.least >= sure.weight {
			break // all that follow cost more
		}
		if !x.hopeful(set.kits) {
			continue
		}
		c, err := x.order(set.kits)
		switch {
		case err != nil:
			return out, err
		case c == nil:
		case c.sure && (sure == nil || c.weight < sure.weight):
			sure = c
		case !c.sure && (perhaps == nil || c.weight < perhaps.weight):
			perhaps = c
		}
	}
	if perhaps != nil && sure != nil && perhaps.weight >= sure.weight {
		perhaps = nil
	}
	out.Whole = out.Whole && !x.budget.cut && len(x.seen) < mostSeen
	var err error
	if out.Sure, err = x.written(sure); err != nil {
		return out, err
	}
	out.Perhaps, err = x.written(perhaps)
	return out, err
}

// mostSeen is how many sets wait to be thought of at most.
const mostSeen = 10 * mostSets

// remedySearch walks through sets of kits from the cheapest to the dearest.
type remedySearch struct {
	*sequencer
	kit  *fit.Judge
	near []*fit.Judge // the cheapest first
	// What each of near changes, and what it and, last, the kit itself looks at
	// and what of that is not met on the machine as it stands.
	changes, looks, unmet []map[fit.Dependency]bool
	failing               [][]map[fit.Dependency]bool // what surely has to change before each can fit
	open                  setHeap
	seen                  map[string]bool
}

// kitSet is a set of kits by their places in near, ascending.
type kitSet struct {
	kits  []int
	least float64 // what it costs at least: without additional changes
}

type setHeap []kitSet

func (h setHeap) Len() int { return len(h) }
func (h setHeap) Less(a, b int) bool {
	return cmp.Or(
		cmp.Compare(h[a].least, h[b].least),
		cmp.Compare(len(h[a].kits), len(h[b].kits)),
		slices.Compare(h[a].kits, h[b].kits),
	) < 0
}
func (h setHeap) Swap(a, b int) { h[a], h[b] = h[b], h[a] }
func (h *setHeap) Push(x any)   { *h = append(*h, x.(kitSet)) }
func (h *setHeap) Pop() any {
	last := (*h)[len(*h)-1]
	*h = (*h)[:len(*h)-1]
	return last
}

// prepare works out what bears on what, and begins with the single kits.
func (x *remedySearch) prepare() {
	x.seen = map[string]bool{}
	for _, j := range append(slices.Clone(x.near), x.kit) {
		x.changes, x.looks, x.unmet = append(
			x.changes,
			j.Writes(),
		), append(
			x.looks,
			j.Reads(),
		), append(
			x.unmet,
			j.Unmet(x.start),
		)
		x.failing = append(x.failing, j.Failing(x.start))
	}
	for i := range x.near {
		if x.bears(i, nil) {
			x.push([]int{i})
		}
	}
}

// hopeful reports whether of everything that surely is not so, for the kit itself and for
// each of a set, something is changed by another of them.
func (x *remedySearch) hopeful(set []int) bool {
	for _, on := range append(slices.Clone(set), len(x.near)) {
		if !x.changedBy(on, set) {
			return false
		}
	}
	return true
}

// changedBy reports whether everything that surely is not so for one kit is changed by
// another of a set, or by the kit itself, which may need each other.
func (x *remedySearch) changedBy(on int, set []int) bool {
	set = append(slices.Clone(set), len(x.near))
	for _, reads := range x.failing[on] {
		if !slices.ContainsFunc(set, func(k int) bool { return k != on && meets(x.changes[k], reads) }) {
			return false
		}
	}
	return true
}

// all are the places of all near kits.
func (x *remedySearch) all() []int {
	out := make([]int, len(x.near))
	for i := range out {
		out[i] = i
	}
	return out
}

// bears reports whether a kit may help a set: it changes something unmet of the
// kit itself or of one of the set, or something of theirs that another of the
// set changes, and so may have spoilt.
func (x *remedySearch) bears(i int, set []int) bool {
	for _, on := range append(slices.Clone(set), len(x.near)) {
		for m := range x.changes[i] {
			if x.unmet[on][m] ||
				x.looks[on][m] && slices.ContainsFunc(set, func(k int) bool { return k != on && x.changes[k][m] }) {
				return true
			}
		}
	}
	return false
}

func (x *remedySearch) push(kits []int) {
	key := fmt.Sprint(kits)
	if x.seen[key] {
		return
	}
	x.seen[key] = true
	if _, why := takenOut(append(x.picked(kits), x.kit)); why != "" {
		return
	}
	least := 0.0
	for _, i := range kits {
		least += fit.Weight(x.near[i].Kit.Cost(nil))
	}
	heap.Push(&x.open, kitSet{kits, least})
}

func (x *remedySearch) picked(kits []int) []*fit.Judge {
	out := make([]*fit.Judge, len(kits), len(kits)+1)
	for i, k := range kits {
		out[i] = x.near[k]
	}
	return out
}

// next is the cheapest set not yet thought of; the sets with one kit more that
// bears on it wait from now on.
func (x *remedySearch) next() (kitSet, bool) {
	if len(x.open) == 0 {
		return kitSet{}, false
	}
	set := heap.Pop(&x.open).(kitSet)
	if len(set.kits) < MostFurther && len(x.seen) < mostSeen {
		for i := range x.near {
			if at, in := slices.BinarySearch(set.kits, i); !in && x.bears(i, set.kits) {
				x.push(slices.Insert(slices.Clone(set.kits), at, i))
			}
		}
	}
	return set, true
}

// course is a set of kits in an order in which the kit fits at the end.
type course struct {
	*sequence
	then   fit.Truth // of the kit itself
	sure   bool      // nothing of it is to be looked at first
	weight float64   // of the further kits
}

// order is the best order of a set in which each kit fits in its turn, and the
// kit itself at the end: a sure one before others, then the cheapest; nil when
// there is none.
func (x *remedySearch) order(set []int) (*course, error) {
	var best *course
	all := append(x.picked(set), x.kit)
	var walk func(done *sequence, left []int, last int) error
	walk = func(done *sequence, left []int, last int) error {
		if len(left) == 0 {
			end, err := x.then(done, x.kit)
			if err != nil || end == nil {
				return err
			}
			t, ends := end.ends(all)
			if !ends {
				return nil
			}
			c := course{sequence: end, then: t, weight: done.weight, sure: t.Answer() != fit.LookFirst}
			for _, s := range end.stages[:len(end.stages)-1] {
				c.sure = c.sure && s.Answer != fit.LookFirst
			}
			if best == nil || c.sure && !best.sure || c.sure == best.sure && c.weight < best.weight {
				best = &c
			}
			return nil
		}
		for i, k := range left {
			if last > k && x.apart(last, k) {
				continue // the other way round comes to the same
			}
			next, err := x.then(done, x.near[k])
			if err != nil {
				return err
			}
			rest := slices.Delete(slices.Clone(left), i, i+1)
			if next == nil || !x.mends(rest, next.failing) {
				continue
			}
			if err := walk(next, rest, k); err != nil {
				return err
			}
		}
		return nil
	}
	err := walk(x.begin(), set, -1)
	return best, err
}

// mends reports whether of everything that parts need and is not met yet, something is
// changed by kits that are still to come, the kit itself among them.
func (x *remedySearch) mends(left []int, failing []map[fit.Dependency]bool) bool {
	for _, reads := range failing {
		if !meets(x.changes[len(x.near)], reads) &&
			!slices.ContainsFunc(left, func(k int) bool { return meets(x.changes[k], reads) }) {
			return false
		}
	}
	return true
}

// apart reports whether two kits have nothing to do with each other, so that their order
// does not matter.
func (x *remedySearch) apart(a, b int) bool {
	return !meets(x.changes[a], x.looks[b]) && !meets(x.changes[b], x.looks[a]) && !meets(x.changes[a], x.changes[b])
}

// written is a course as it is read; nil for none.
func (x *remedySearch) written(c *course) (*Remedy, error) {
	if c == nil {
		return nil, nil
	}
	r := Remedy{Risks: []string{}}
	whole := newSequencer(x.start, x.records, newBudget(x.budget.ctx, len(c.stages)))
	s := whole.begin()
	for _, stage := range c.stages {
		j := fit.Find(append(x.near, x.kit), stage.Kit)
		var err error
		if s, err = whole.then(s, j); err != nil {
			return nil, err
		}
	}
	for i, stage := range s.stages {
		if i == len(s.stages)-1 {
			r.Then, r.Lean = stage.Answer, stage.Lean
			break
		}
		r.Kits = append(r.Kits, stage)
		r.Price, r.Minutes = r.Price+stage.Price, r.Minutes+stage.Minutes
		j := fit.Find(x.near, stage.Kit)
		if j.Kit.Risk != "" {
			r.Risks = append(r.Risks, stage.Name+": "+j.Kit.Risk)
		}
	}
	return &r, nil
}

// nearest are the kits that change what the kit looks at, and those that change
// what these look at, and so on, the cheapest first; whole is false when some
// were left out.
func nearest(kit *fit.Judge, catalogue []*fit.Judge) (near []*fit.Judge, whole bool) {
	in := map[string]bool{kit.Kit.Key: true}
	looks := kit.Reads()
	for range MostFurther {
		var next []*fit.Judge
		for _, j := range catalogue {
			if !in[j.Kit.Key] && meets(j.Writes(), looks) {
				in[j.Kit.Key] = true
				next = append(next, j)
			}
		}
		near = append(near, next...)
		for _, j := range next {
			maps.Copy(looks, j.Reads())
		}
	}
	weight := func(j *fit.Judge) float64 { return fit.Weight(j.Kit.Cost(nil)) }
	slices.SortStableFunc(near, func(a, b *fit.Judge) int { return cmp.Compare(weight(a), weight(b)) })
	return near[:min(len(near), mostNear)], len(near) <= mostNear
}

func meets(a, b map[fit.Dependency]bool) bool {
	for m := range a {
		if b[m] {
			return true
		}
	}
	return false
}
