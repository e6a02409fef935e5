package plan

import (
	"cmp"
	"container/heap"
	"fmt"
	"maps"
	"slices"

	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// Remedy is a set of further kits after which a kit fits.
type Remedy struct {
	Kits    []Stage    `json:"kits" doc:"In order, before the kit itself"`
	Then    fit.Answer `json:"then" enum:"fits,fits if,look first" doc:"What the kit's verdict is afterwards"`
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
	Whole bool `json:"whole"`
	Tried int  `json:"tried" doc:"How many sets were tried"`
}

// MostFurther is how many further kits are thought of together.
const MostFurther = 4

// mostNear and mostSets bound the search, whatever the size of the catalogue: the
// cheapest are thought of first.
const (
	mostNear = 200
	mostSets = 4000
)

// FindRemedies finds the cheapest set of further kits of the catalogue that would
// make a kit fit which does not; nothing when it fits already. Cost is price,
// with a technician's time counted as money. A set is thought of when each of
// its kits may help the kit, or another of the set (any other would only cost),
// and none takes another's part out again.
func FindRemedies(kit *fit.Judge, catalogue []*fit.Judge, s machine.Snapshot, records []change.Record) (Remedies, error) {
	start := s
	out := Remedies{Whole: true}
	if kit.Truth(start).Answer() != fit.DoesNotFit {
		return out, nil
	}
	x := remedySearch{kit: kit, start: start}
	x.near, out.Whole = nearest(kit, catalogue)
	x.begin()
	var sure, perhaps *course
	for {
		set, ok := x.next()
		if !ok {
			break
		}
		if out.Tried++; out.Tried > mostSets {
			out.Whole = false
			break
		}
		if sure != nil && set.least >= sure.weight {
			break // all that follow cost more
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
	var err error
	if out.Sure, err = x.written(sure, records); err != nil {
		return out, err
	}
	out.Perhaps, err = x.written(perhaps, records)
	return out, err
}

// remedySearch walks through sets of kits from the cheapest to the dearest.
type remedySearch struct {
	kit   *fit.Judge
	start machine.Snapshot
	near  []*fit.Judge // the cheapest first
	// What each of near changes, and what it and, last, the kit itself looks at
	// and what of that is not met on the machine as it stands.
	changes, looks, unmet []map[fit.Dependency]bool
	open                  setHeap
	seen                  map[string]bool
	first                 map[int]turn // near kits on the machine as it stands
}

// turn is how a kit does when its turn comes.
type turn struct {
	answer fit.Answer
	weight float64 // with the further changes
	after  machine.Snapshot
}

// kitSet is a set of kits by their places in near, ascending.
type kitSet struct {
	kits  []int
	least float64 // what it costs at least: without further changes
}

type setHeap []kitSet

func (h setHeap) Len() int { return len(h) }
func (h setHeap) Less(a, b int) bool {
	return cmp.Or(cmp.Compare(h[a].least, h[b].least), cmp.Compare(len(h[a].kits), len(h[b].kits)), slices.Compare(h[a].kits, h[b].kits)) < 0
}
func (h setHeap) Swap(a, b int) { h[a], h[b] = h[b], h[a] }
func (h *setHeap) Push(x any)   { *h = append(*h, x.(kitSet)) }
func (h *setHeap) Pop() any {
	last := (*h)[len(*h)-1]
	*h = (*h)[:len(*h)-1]
	return last
}

// begin works out what bears on what, and begins with the single kits.
func (x *remedySearch) begin() {
	x.seen, x.first = map[string]bool{}, map[int]turn{}
	for _, j := range append(slices.Clone(x.near), x.kit) {
		x.changes, x.looks, x.unmet = append(x.changes, j.Writes()), append(x.looks, j.Reads()), append(x.unmet, j.Unmet(x.start))
	}
	for i := range x.near {
		if x.bears(i, nil) {
			x.push([]int{i})
		}
	}
}

// bears reports whether a kit may help a set: it changes something unmet of the
// kit itself or of one of the set, or something of theirs that another of the
// set changes, and so may have spoilt.
func (x *remedySearch) bears(i int, set []int) bool {
	for _, on := range append(slices.Clone(set), len(x.near)) {
		for m := range x.changes[i] {
			if x.unmet[on][m] || x.looks[on][m] && slices.ContainsFunc(set, func(k int) bool { return k != on && x.changes[k][m] }) {
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
	if len(set.kits) < MostFurther && len(x.seen) < 10*mostSets {
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
	order  []*fit.Judge
	then   fit.Answer
	sure   bool // nothing of it is to be looked at first
	weight float64
}

// order is the best order of a set in which each kit fits in its turn, and the
// kit itself at the end: a sure one before others, then the cheapest; nil when
// there is none.
func (x *remedySearch) order(set []int) (*course, error) {
	var best *course
	var walk func(done course, left []int, st machine.Snapshot) error
	walk = func(done course, left []int, st machine.Snapshot) error {
		if len(left) == 0 {
			done.then = x.kit.Truth(st).Answer()
			if done.then == fit.LookFirst {
				done.sure = false
			}
			if done.then != fit.DoesNotFit && (best == nil || done.sure && !best.sure || done.sure == best.sure && done.weight < best.weight) {
				done.order = slices.Clone(done.order)
				best = &done
			}
			return nil
		}
		for i, k := range left {
			t, cached := x.first[k]
			if !cached || len(done.order) > 0 {
				var err error
				if t, err = x.turnOf(x.near[k], st); err != nil {
					return err
				}
				if len(done.order) == 0 {
					x.first[k] = t
				}
			}
			if t.answer == fit.DoesNotFit {
				continue
			}
			next := done
			next.order = append(slices.Clone(done.order), x.near[k])
			next.sure = done.sure && t.answer != fit.LookFirst
			next.weight += t.weight
			if err := walk(next, slices.Delete(slices.Clone(left), i, i+1), t.after); err != nil {
				return err
			}
		}
		return nil
	}
	err := walk(course{sure: true}, set, x.start)
	return best, err
}

func (x *remedySearch) turnOf(j *fit.Judge, st machine.Snapshot) (t turn, err error) {
	if t.answer = j.Truth(st).Answer(); t.answer == fit.DoesNotFit {
		return t, nil
	}
	var further []fit.Further
	if t.answer != fit.Fits {
		further = j.Verdict(st).Further
	}
	t.weight = fit.Weight(j.Kit.Cost(further))
	t.after, err = j.After(st, further)
	return t, err
}

// written is a course as it is read; nil for none.
func (x *remedySearch) written(c *course, records []change.Record) (*Remedy, error) {
	if c == nil {
		return nil, nil
	}
	r := Remedy{Then: c.then, Risks: []string{}}
	st := x.start
	for _, j := range c.order {
		step, after, err := searcher{records: records, start: x.start}.step(j, st)
		if err != nil {
			return nil, err
		}
		st = after
		r.Kits = append(r.Kits, step)
		r.Price, r.Minutes = r.Price+step.Price, r.Minutes+step.Minutes
		if j.Kit.Risk != "" {
			r.Risks = append(r.Risks, j.Kit.Name+": "+j.Kit.Risk)
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
