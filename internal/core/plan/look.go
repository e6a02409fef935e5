package plan

import (
	"cmp"
	"context"
	"math"
	"slices"
	"strings"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// Prior gives what a fact which is not known may turn out to be.
type Prior func(t *machine.Trait) Expected

// Expected are the values that a fact may turn out to have, each with its weight;
// weights need not add up to 1.
type Expected struct {
	Values   []Weighted
	Readings int // that the weights rest on
}

// Weighted is a value with its weight.
type Weighted struct {
	Value  machine.Value
	Weight float64
}

// FleetPrior takes what was read of a trait on other machines of the batch as
// what to expect, each reading once, with what its kind allows as half a reading
// each: little is known of a batch of which little was read.
func FleetPrior(batch []machine.Snapshot) Prior {
	return func(t *machine.Trait) Expected {
		var out Expected
		add := func(v machine.Value, w float64) {
			for i := range out.Values {
				if t.Same(out.Values[i].Value, v) {
					out.Values[i].Weight += w
					return
				}
			}
			out.Values = append(out.Values, Weighted{v, w})
		}
		for _, w := range t.Words() {
			add(machine.Value{Text: w}, 0.5)
		}
		for _, s := range batch {
			if f := s.Fact(t.Key()); f.Known() && f.Grade >= machine.Marked {
				add(f.Value, 1)
				out.Readings++
			}
		}
		return out
	}
}

// InspectionPlan is the best inspection to make first, and what to expect.
type InspectionPlan struct {
	// Empty when nothing is open or nothing answers it.
	First   string  `json:"first,omitempty" doc:"Key of the inspection"`
	Title   string  `json:"title,omitempty"`
	Minutes float64 `json:"minutes" doc:"Expected until the verdict is settled, stopping as soon as it is"`
	All     int     `json:"all" doc:"Minutes of all inspections that may be needed"`
	// Only where it rests on enough readings, or nothing is open.
	Chance   *float64 `json:"chance,omitempty" doc:"Of fitting, changes included, 0 to 1"`
	Readings int      `json:"readings" doc:"In the batch, of the open fact that was read least"`
	// What the order is found by: a guess where Chance is empty.
	Likely float64 `json:"-"`
	// Else the inspection that answers most for its minutes is taken, and the minutes are those of all of them.
	Exact    bool     `json:"exact" doc:"Every order was tried"`
	Sequence []string `json:"sequence" doc:"Titles in the order that is best while each turns out as is likeliest"`
	Keys     []string `json:"keys" doc:"Of the inspections, in that order"`
}

// leastReadings is how many readings a chance has to rest on before anybody is told it.
// Source: common practice; a share of fewer says nothing of the next.
const leastReadings = 5

// What may be found is followed in counted steps, so that the advice is the same on every
// machine: so many for one machine by itself; of a fleet 200 for each of a few and 5 for
// each of many, which machines of which more is known leave to the others.
const looksAtOne = 3000

// looksAt are the steps for a fleet, and for any one of it at most.
func looksAt(machines int) (all, each int) {
	all = max(looksAtOne+5*machines, min(200*machines, 10_000))
	return all, max(150, 2*all/max(1, machines))
}

// LookFirst plans the inspections of one machine for a kit: the order expected
// to settle its verdict in the fewest minutes, one inspection after another,
// stopping as soon as it is settled. Facts are taken to be independent. The error says
// that nobody waits for it any more.
func LookFirst(ctx context.Context, j *fit.Judge, s machine.Snapshot, prior Prior) (InspectionPlan, error) {
	return newInspectionPlanner(j, prior, newBudget(ctx, looksAtOne), looksAtOne).First(s)
}

// FleetInspectionPlanner plans the looks at many machines for one kit; what it works out for one
// serves the next. It is for one goroutine.
type FleetInspectionPlanner struct {
	j       *fit.Judge
	budget  *budget
	each    int
	batches map[string]*InspectionPlanner
}

// NewFleetInspectionPlanner plans for a kit on so many machines.
func NewFleetInspectionPlanner(ctx context.Context, j *fit.Judge, machines int) *FleetInspectionPlanner {
	all, each := looksAt(machines)
	return &FleetInspectionPlanner{j: j, budget: newBudget(ctx, all), each: each, batches: map[string]*InspectionPlanner{}}
}

// In plans for machines of a batch, of which prior says what is to be expected.
func (f *FleetInspectionPlanner) In(batch string, prior func() Prior) *InspectionPlanner {
	if f.batches[batch] == nil {
		f.batches[batch] = newInspectionPlanner(f.j, prior(), f.budget, f.each)
	}
	return f.batches[batch]
}

func newInspectionPlanner(j *fit.Judge, prior Prior, b *budget, most int) *InspectionPlanner {
	return &InspectionPlanner{j: j, prior: memoised(prior), known: map[string]*policy{}, budget: b, most: most}
}

// First is LookFirst for one machine.
func (l *InspectionPlanner) First(s machine.Snapshot) (InspectionPlan, error) {
	out := InspectionPlan{Sequence: []string{}, Keys: []string{}, Exact: true}
	if err := l.budget.gone(); err != nil {
		return out, err
	}
	l.left = l.most
	p := l.best(s, l.j.UndecidedKey(s), nil)
	out.Minutes, out.Likely, out.Exact, out.All = p.minutes, p.chance, p.exact, p.all
	settled := settles(l.j.Truth(s))
	if !settled {
		out.Readings = l.readings(s)
	}
	if settled || p.exact && out.Readings >= leastReadings {
		out.Chance = &out.Likely
	}
	for at := p; at != nil && at.first != nil; at = l.known[at.then] {
		if out.First == "" {
			out.First, out.Title = at.first.in.Key, at.first.in.Title
		}
		out.Sequence = append(out.Sequence, at.first.in.Title)
		out.Keys = append(out.Keys, at.first.in.Key)
	}
	return out, l.budget.gone()
}

// Candidate is the machine of a plan among those of a fleet.
func (p *InspectionPlan) Candidate(id int64) Candidate {
	return Candidate{ID: id, Chance: p.Likely, Minutes: p.Minutes, Guess: p.Chance == nil}
}

// settles says whether a kit is known to go on, with changes or without, or known not to.
func settles(t fit.Truth) bool { return t.Lo() > fit.No || t.Decided() }

// readings are those that the chance of a machine rests on: of the open fact of which the
// fewest were read. A fact that no inspection answers stays a guess.
func (l *InspectionPlanner) readings(s machine.Snapshot) int {
	least := -1
	for _, open := range l.j.Open(s) {
		if _, _, found := s.Vocabulary().CheapestWay(open.Trait, open.Least); !found {
			return 0
		}
		if n := l.prior(open.Trait).Readings; least < 0 || n < least {
			least = n
		}
	}
	return max(0, least)
}

// InspectionPlanner remembers the best course from every state that it has been in: what
// is open, and what was looked at. It is for one goroutine.
type InspectionPlanner struct {
	j      *fit.Judge
	prior  Prior
	known  map[string]*policy
	budget *budget
	most   int // steps for one machine
	left   int // of them
}

// spend takes one step; false when there are no more, or nobody waits any longer.
func (l *InspectionPlanner) spend() bool {
	l.left--
	return l.left >= 0 && l.budget.spend() && l.budget.gone() == nil
}

// memoised asks a prior once for each trait.
func memoised(prior Prior) Prior {
	known := map[*machine.Trait]Expected{}
	return func(t *machine.Trait) Expected {
		w, ok := known[t]
		if !ok {
			w = prior(t)
			known[t] = w
		}
		return w
	}
}

// group is an inspection with the open facts that it answers.
type group struct {
	in     machine.Inspection
	traits []*machine.Trait
	grades map[*machine.Trait]machine.Grade
}

// groups puts the open facts to the cheapest inspections that answer them.
func (l *InspectionPlanner) groups(s machine.Snapshot) []group {
	at := map[string]int{}
	var out []group
	for _, open := range l.j.Open(s) {
		best, grade, found := s.Vocabulary().CheapestWay(open.Trait, open.Least)
		if !found {
			continue
		}
		i, ok := at[best.Key]
		if !ok {
			i = len(out)
			at[best.Key] = i
			out = append(out, group{in: best, grades: map[*machine.Trait]machine.Grade{}})
		}
		out[i].traits = append(out[i].traits, open.Trait)
		out[i].grades[open.Trait] = grade
	}
	return out
}

// outcome is a machine as one inspection may find it.
type outcome struct {
	s      machine.Snapshot
	key    string
	weight float64
}

// outcomes lists what an inspection may find. Values that judge alike are one
// outcome. A fact without any expectation stays open. ok is false when the budget is
// spent.
func (l *InspectionPlanner) outcomes(s machine.Snapshot, key string, g group) (out []outcome, ok bool) {
	out = []outcome{{s, key, 1}}
	for _, t := range g.traits {
		expected := l.prior(t).Values
		total := 0.0
		for _, w := range expected {
			total += w.Weight
		}
		if total == 0 {
			continue
		}
		var next []outcome
		seen := map[string]int{}
		for _, o := range out {
			for _, w := range expected {
				if !l.spend() {
					return nil, false
				}
				found := outcome{
					s:      o.s.WithValue(t.Key(), w.Value, max(g.grades[t], machine.Marked)),
					weight: o.weight * w.Weight / total,
				}
				found.key = l.j.UndecidedKey(found.s)
				if i, ok := seen[found.key]; ok {
					next[i].weight += found.weight
					continue
				}
				seen[found.key] = len(next)
				next = append(next, found)
			}
		}
		out = next
	}
	return out, true
}

// policy is the best course from a state.
type policy struct {
	first   *group // nil: settled, or nothing answers
	minutes float64
	chance  float64
	exact   bool   // every order was tried
	all     int    // minutes of every inspection that may be needed
	then    string // the state after it as is likeliest
}

func state(key string, done []string) string { return key + "|" + strings.Join(done, ",") }

// best finds what to look at first: by trying every order while the budget lasts, else by
// what answers most for its minutes. done were looked at, in the order of their keys.
func (l *InspectionPlanner) best(s machine.Snapshot, key string, done []string) *policy {
	at := state(key, done)
	if p, ok := l.known[at]; ok {
		return p
	}
	var p *policy
	switch t := l.j.Truth(s); {
	case !settles(t):
		p = l.search(s, key, done)
	case t.Lo() > fit.No:
		p = &policy{chance: 1, exact: true}
	default:
		p = &policy{exact: true}
	}
	if p.exact || len(done) == 0 {
		l.known[at] = p
	}
	return p
}

func (l *InspectionPlanner) search(s machine.Snapshot, key string, done []string) *policy {
	groups := slices.DeleteFunc(l.groups(s), func(g group) bool { return slices.Contains(done, g.in.Key) })
	best := &policy{minutes: math.Inf(1), exact: true}
	all := 0
	for i := range groups {
		g := &groups[i]
		all += g.in.Minutes
		p := &policy{first: g, minutes: cost(g.in, s, done), exact: true}
		outcomes, ok := l.outcomes(s, key, *g)
		if !ok {
			return l.rough(s, groups, done)
		}
		with := slices.Sorted(slices.Values(append(slices.Clone(done), g.in.Key)))
		likeliest := 0
		for k, o := range outcomes {
			after := l.best(o.s, o.key, with)
			p.minutes += o.weight * after.minutes
			p.chance += o.weight * after.chance
			p.exact = p.exact && after.exact
			if o.weight > outcomes[likeliest].weight {
				likeliest = k
			}
		}
		if !p.exact {
			return l.rough(s, groups, done)
		}
		p.then = state(outcomes[likeliest].key, with)
		if p.minutes < best.minutes-1e-9 {
			best = p
		}
	}
	if best.first == nil {
		return &policy{chance: 0.5, exact: true} // open, and no inspection on record answers it
	}
	best.all = all
	return best
}

// rough is a course that follows nothing up: the inspection that answers most for its
// minutes first.
func (l *InspectionPlanner) rough(s machine.Snapshot, groups []group, done []string) *policy {
	p := &policy{chance: 0.5}
	most := 0.0
	for i := range groups {
		g := &groups[i]
		p.all += g.in.Minutes
		p.minutes += cost(g.in, s, done)
		if worth := float64(len(g.traits)) / math.Max(1, cost(g.in, s, done)); worth > most {
			p.first, most = g, worth
		}
	}
	return p
}

// cost is what an inspection takes after those done: what is opened on the way
// is opened once.
func cost(in machine.Inspection, s machine.Snapshot, done []string) float64 {
	minutes := float64(in.Minutes)
	for _, key := range done {
		other, ok := s.Vocabulary().Inspection(key)
		if !ok || in.Within == "" {
			continue
		}
		if key == in.Within || other.Within == in.Within {
			within, _ := s.Vocabulary().Inspection(in.Within)
			return math.Max(1, minutes-float64(within.Minutes))
		}
	}
	return minutes
}

// Candidate is a machine that may fit a kit, before anybody has looked.
type Candidate struct {
	ID      int64
	Chance  float64 // of fitting, 0 to 1; 1 when it is known to fit, 0 when not
	Minutes float64 // expected until its verdict is settled; 0 when it is
	Guess   bool    // the chance rests on too few readings to be told
}

// FleetLook is which machines to open first.
type FleetLook struct {
	Sure    int     `json:"sure" doc:"Machines known to fit"`
	Needed  int     `json:"needed" doc:"Machines that still have to be found"`
	Order   []int64 `json:"order" doc:"Machines to look at, in the order that holds while none fits or fails out of turn"`
	Minutes float64 `json:"minutes" doc:"Expected until it is known whether at least so many fit"`
	// Only where the chance of every machine rests on enough readings.
	Chance *float64 `json:"chance,omitempty" doc:"That at least so many fit, 0 to 1"`
}

// LookAtFleet plans which machines to open first, so that it is known with the
// fewest expected minutes whether at least n of them fit. The next is always one
// that is among the first so many by minutes per chance of fitting and among the
// first so many by minutes per chance of not fitting: whichever way the answer
// goes, it has to be looked at. Source: from memory, the optimal order for
// k-out-of-n systems (Ben-Dov 1981).
func LookAtFleet(fleet []Candidate, n int) FleetLook {
	var open []Candidate
	out := FleetLook{Order: []int64{}}
	for _, c := range fleet {
		switch {
		case c.Minutes == 0 && c.Chance >= 1:
			out.Sure++
		case c.Chance > 0 && c.Minutes > 0:
			open = append(open, c)
		}
	}
	out.Needed = max(0, n-out.Sure)
	minutes, chance := expect(open, out.Needed)
	out.Minutes = minutes
	if out.Needed > 0 && !slices.ContainsFunc(open, func(c Candidate) bool { return c.Guess }) {
		out.Chance = &chance
	}
	for need := out.Needed; need > 0 && need <= len(open); {
		i := next(open, need)
		out.Order = append(out.Order, open[i].ID)
		if open[i].Chance >= 0.5 {
			need--
		}
		open = append(slices.Clone(open[:i]), open[i+1:]...)
	}
	return out
}

// next is which of the machines left to look at: the need first by cost per
// chance of fitting meet the rest first by cost per chance of failing.
func next(open []Candidate, need int) int {
	order := func(per func(Candidate) float64) []int {
		at := make([]int, len(open))
		for i := range at {
			at[i] = i
		}
		slices.SortStableFunc(at, func(a, b int) int { return cmp.Compare(per(open[a]), per(open[b])) })
		return at
	}
	fits := order(func(c Candidate) float64 { return c.Minutes / math.Max(c.Chance, 1e-9) })[:need]
	fails := order(func(c Candidate) float64 { return c.Minutes / math.Max(1-c.Chance, 1e-9) })[:len(open)-need+1]
	for _, i := range fits {
		if slices.Contains(fails, i) {
			return i
		}
	}
	return fits[0]
}

// expect is the expected minutes of the policy, and the chance of enough. Of a
// large fleet, where the policy has too many courses to follow, it is that of
// the fixed order by minutes per chance of fitting.
func expect(open []Candidate, need int) (minutes, chance float64) {
	switch {
	case need <= 0:
		return 0, 1
	case need > len(open):
		return 0, 0
	case len(open) > exactFleet:
		return fixed(open, need)
	}
	i := next(open, need)
	c := open[i]
	rest := append(slices.Clone(open[:i]), open[i+1:]...)
	yes, p := expect(rest, need-1)
	no, q := expect(rest, need)
	return c.Minutes + c.Chance*yes + (1-c.Chance)*no, c.Chance*p + (1-c.Chance)*q
}

// exactFleet is up to how many open machines the policy is followed exactly.
const exactFleet = 14

// fixed is the expectation of looking in one fixed order until enough fit, or
// too few are left. chances[k] is the chance that k fit so far and it goes on.
func fixed(open []Candidate, need int) (minutes, chance float64) {
	order := slices.Clone(open)
	slices.SortStableFunc(order, func(a, b Candidate) int { return cmp.Compare(a.Minutes/a.Chance, b.Minutes/b.Chance) })
	chances := make([]float64, need+1)
	chances[0] = 1
	for i, c := range order {
		left := len(order) - i
		for k := need - 1; k >= 0; k-- {
			if chances[k] == 0 || need-k > left {
				continue // given up: too few are left
			}
			minutes += chances[k] * c.Minutes
			chances[k+1] += chances[k] * c.Chance
			chances[k] *= 1 - c.Chance
		}
	}
	return minutes, chances[need]
}
