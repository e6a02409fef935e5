package plan

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// MostKits bounds a plan: every order of them is tried.
const MostKits = 6

// Stage is a kit in its place in a plan.
type Stage struct {
	Kit        string                 `json:"kit" doc:"Key"`
	Name       string                 `json:"name"`
	Answer     fit.Answer             `json:"answer" enum:"fits,fits if,look first,does not fit"`
	Lean       fit.Answer             `json:"lean,omitempty" enum:"fits,fits if,does not fit,no lean,"`
	Headline   string                 `json:"headline"`
	Additional []fit.AdditionalChange `json:"further"`
	// The machine is not run in between.
	Together     bool     `json:"together" doc:"To be made together with the one before"`
	Waits        string   `json:"waits,omitempty" doc:"What is not met until a later kit is in"`
	Calibrations []string `json:"calibrations" doc:"To be made after it"`
	Opens        bool     `json:"opens" doc:"The cover has to be off"`
	Flashes      bool     `json:"flashes" doc:"It brings a new build"`
	Price        float64  `json:"price"`
	Minutes      int      `json:"minutes"`

	lookNow []string // open facts that no earlier kit changes
}

// PlanVerdict is several kits on one machine, judged together.
type PlanVerdict struct {
	// In the best order.
	Answer fit.Answer `json:"answer" enum:"fits,fits if,look first,does not fit" doc:"The worst of its steps"`
	// Where something is to be looked at first.
	Lean  fit.Answer `json:"lean,omitempty" enum:"fits,fits if,does not fit,no lean," doc:"Which way the claims lean"`
	Whole bool       `json:"whole" doc:"Every order was thought of"`
	Steps []Stage    `json:"steps" doc:"In the best order; as given when they cannot all be fitted"`
	// Each fact once.
	LookNow  []string `json:"lookNow" doc:"What can be looked at, and has to be before any of it is bought or begun"`
	Conflict []string `json:"conflict" doc:"Names of the smallest set of them that cannot go together in any order"`
	Why      string   `json:"why,omitempty" doc:"What is in the way of the conflict"`
	Without  []Rest   `json:"without" doc:"What can be done when one kit of the conflict is left out; the best first"`
	// Repeated counts calibrations that are made more than once, Openings how
	// often the cover comes off, Builds how often a build is flashed.
	Repeated int     `json:"repeated"`
	Openings int     `json:"openings"`
	Builds   int     `json:"builds"`
	Price    float64 `json:"price"`
	Minutes  int     `json:"minutes"`

	after     machine.Snapshot
	togethers int
}

// After is the machine once all of it is done; where it cannot be done, once
// those are that can.
func (p PlanVerdict) After() machine.Snapshot { return p.after }

// Rest is a plan from which one kit was left out.
type Rest struct {
	Kit  string `json:"kit" doc:"Key of the kit left out"`
	Name string `json:"name"`
	// Does not fit where they conflict in turn.
	Answer  fit.Answer `json:"answer" enum:"fits,fits if,look first,does not fit" doc:"Of the others"`
	Order   []string   `json:"order" doc:"Names of the others in the best order"`
	Price   float64    `json:"price"`
	Minutes int        `json:"minutes"`
}

// rank orders answers from best to worst.
var rank = map[fit.Answer]int{fit.Fits: 0, fit.FitsIf: 1, fit.LookFirst: 2, fit.DoesNotFit: 3}

// mostSteps bounds a plan: so many kits are judged in their turn, over all orders that
// are thought of.
const mostSteps = 8000

// Judge judges kits on one machine together, each in its turn on what the
// earlier ones leave, and all of them on the machine that they end in: a plan is good
// when nothing that worked is broken there, nor at any stage that is run on the way. The
// order is the one with the best answer and, of those, the least rework: repeated
// calibrations and openings.
func Judge(ctx context.Context, kits []*fit.Judge, s machine.Snapshot, records []calibration.Record) (PlanVerdict,
	error) {
	if len(kits) == 0 {
		return PlanVerdict{}, fmt.Errorf("the plan is empty; choose the kits to be fitted")
	}
	if len(kits) > MostKits {
		return PlanVerdict{}, fmt.Errorf("a plan has at most %d kits; fit some of them first", MostKits)
	}
	for i, k := range kits {
		if slices.ContainsFunc(kits[:i], func(o *fit.Judge) bool { return o.Kit.Key == k.Kit.Key }) {
			return PlanVerdict{}, fmt.Errorf("%s is in the plan twice", k.Kit.Name)
		}
	}
	kits = on(kits, s)
	search := searcher{sequencer: newSequencer(s, records, newBudget(ctx, mostSteps)), kits: kits}
	best, err := search.best()
	if err != nil {
		return PlanVerdict{}, err
	}
	if best != nil {
		best.Whole = !search.budget.cut
		return *best, nil
	}
	p := PlanVerdict{Answer: fit.DoesNotFit, LookNow: []string{}}
	if p.Conflict, p.Why, err = search.conflict(); err != nil {
		return p, err
	}
	if p.Without, err = search.without(p.Conflict); err != nil {
		return p, err
	}
	p.Whole = !search.budget.cut
	st := s
	for _, j := range kits { // as given, each on what came before as far as it goes
		step, after, err := search.stage(j, j.Verdict(st), st, j)
		if err != nil {
			return p, err
		}
		p.add(step)
		if step.Answer != fit.DoesNotFit {
			st = after
		}
	}
	p.after = st
	return p, nil
}

func (p *PlanVerdict) add(s Stage) {
	p.Steps = append(p.Steps, s)
	p.Price, p.Minutes = p.Price+s.Price, p.Minutes+s.Minutes
	p.LookNow = slices.Clone(p.LookNow)
	for _, label := range s.lookNow {
		if !slices.Contains(p.LookNow, label) {
			p.LookNow = append(p.LookNow, label)
		}
	}
}

type searcher struct {
	*sequencer
	kits []*fit.Judge
}

// of is the search among some kits of the same plan.
func (x searcher) of(kits []*fit.Judge) searcher { x.kits = kits; return x }

// best tries every order; nil when in none of them all can be fitted.
func (x searcher) best() (*PlanVerdict, error) {
	if _, why := takenOut(x.kits); why != "" {
		return nil, nil
	}
	var best *PlanVerdict
	var walk func(done *sequence, left []*fit.Judge) error
	walk = func(done *sequence, left []*fit.Judge) error {
		if best != nil && rank[done.truth.Answer()] > rank[best.Answer] {
			return nil
		}
		if len(left) == 0 {
			t, ends := done.ends(x.kits)
			if !ends {
				return nil
			}
			p := PlanVerdict{
				Answer:   t.Answer(),
				Lean:     t.Lean(),
				LookNow:  []string{},
				Conflict: []string{},
				Without:  []Rest{},
				after:    done.st,
			}
			for _, s := range done.stages {
				p.add(s)
			}
			p.measure()
			if best == nil || rank[p.Answer] < rank[best.Answer] || p.Answer == best.Answer && p.rework() < best.rework() {
				best = &p
			}
			return nil
		}
		for i, j := range left {
			next, err := x.then(done, j)
			if err != nil {
				return err
			}
			if next == nil {
				continue
			}
			if err := walk(next, append(slices.Clone(left[:i]), left[i+1:]...)); err != nil {
				return err
			}
		}
		return nil
	}
	err := walk(x.begin(), x.kits)
	return best, err
}

// on are kits for the heads of a machine that they fit best as it stands.
func on(kits []*fit.Judge, s machine.Snapshot) []*fit.Judge {
	out := make([]*fit.Judge, len(kits))
	for i, j := range kits {
		out[i] = j.On(s)
	}
	return out
}

// measure counts what an order repeats.
func (p *PlanVerdict) measure() {
	seen := map[string]bool{}
	open := false
	for _, s := range p.Steps {
		for _, c := range s.Calibrations {
			if seen[c] {
				p.Repeated++
			}
			seen[c] = true
		}
		if s.Opens && !open {
			p.Openings++
		}
		if s.Together {
			p.togethers++
		}
		open = s.Opens
		if s.Flashes {
			p.Builds++
		}
	}
}

// rework is what an order costs besides: also that kits are made together, since then
// nobody knows which of them helped.
func (p *PlanVerdict) rework() int { return p.Repeated + p.Openings + p.togethers }

// takenOut finds two kits that put different parts into one slot: whichever is
// fitted later takes the other's out again.
func takenOut(kits []*fit.Judge) (pair []*fit.Judge, why string) {
	type part struct {
		kit   *fit.Judge
		model string
	}
	placed := map[string]part{}
	for _, j := range kits {
		for _, e := range j.Kit.Effects {
			if e.Model == machine.None || e.Stays() || isBuild(j, e.Slot) {
				continue
			}
			model := e.Model
			if e.Moves() {
				model = "the part of " + e.From
			}
			if other, ok := placed[e.Slot]; ok && other.model != model {
				return []*fit.Judge{
						other.kit,
						j,
					}, fmt.Sprintf(
						"both put a part at the position %s: %s and %s. One would take the other's out again",
						e.Slot,
						other.model,
						model,
					)
			}
			placed[e.Slot] = part{j, model}
		}
	}
	return nil, ""
}

// isBuild reports whether a position is that of the firmware build: kits take turns
// there.
func isBuild(j *fit.Judge, slot string) bool {
	voc := j.Vocabulary()
	p := voc.At(slot)
	return p != nil && voc.Is(p.Kind, parts.Firmware)
}

// conflict finds the smallest set of the kits that cannot be fitted together in
// any order, with any of the others to help, and what is in the way.
func (x searcher) conflict() ([]string, string, error) {
	n := len(x.kits)
	some := func(mask int) []*fit.Judge {
		var out []*fit.Judge
		for i := range n {
			if mask>>i&1 == 1 {
				out = append(out, x.kits[i])
			}
		}
		return out
	}
	feasible := make([]bool, 1<<n)
	for mask := 1; mask < 1<<n; mask++ {
		best, err := x.of(some(mask)).best()
		if err != nil {
			return nil, "", err
		}
		feasible[mask] = best != nil
	}
	helped := func(mask int) bool {
		for with := mask; with < 1<<n; with++ {
			if with&mask == mask && feasible[with] {
				return true
			}
		}
		return false
	}
	for size := 1; size <= n; size++ {
		for mask := 1; mask < 1<<n; mask++ {
			if kits := some(mask); len(kits) == size && !helped(mask) {
				if pair, why := takenOut(kits); pair != nil {
					return names(kits), why, nil
				}
				return names(kits), x.reason(kits), nil
			}
		}
	}
	return []string{}, "", nil
}

// without tries to leave out each kit of a conflict, by name.
func (x searcher) without(conflict []string) ([]Rest, error) {
	out := []Rest{}
	for i, j := range x.kits {
		if len(x.kits) == 1 || !slices.Contains(conflict, j.Kit.Name) {
			continue
		}
		others := slices.Delete(slices.Clone(x.kits), i, i+1)
		best, err := x.of(others).best()
		if err != nil {
			return nil, err
		}
		r := Rest{Kit: j.Kit.Key, Name: j.Kit.Name, Answer: fit.DoesNotFit, Order: names(others)}
		if best != nil {
			r.Answer, r.Order, r.Price, r.Minutes = best.Answer, nil, best.Price, best.Minutes
			for _, s := range best.Steps {
				r.Order = append(r.Order, s.Name)
			}
		}
		out = append(out, r)
	}
	slices.SortStableFunc(out, func(a, b Rest) int { return cmp.Compare(rank[a.Answer], rank[b.Answer]) })
	return out, nil
}

func names(kits []*fit.Judge) []string {
	out := make([]string, len(kits))
	for i, k := range kits {
		out[i] = k.Kit.Name
	}
	return out
}

// reason says what is in the way of a conflict: the kit of it that does not fit once the
// others, and what helps them, are in; or what is not so at the end.
func (x searcher) reason(kits []*fit.Judge) string {
	st := x.start
	for _, j := range x.kits {
		if slices.Contains(kits, j) || !fits(j.Truth(st)) {
			continue
		}
		if _, why := takenOut(append(slices.Clone(kits), j)); why != "" {
			continue
		}
		if after, err := j.After(st, j.Verdict(st).Additional); err == nil {
			st = after
		}
	}
	for _, j := range kits {
		v := j.Verdict(st)
		if v.Answer == fit.DoesNotFit {
			return j.Kit.Name + ": " + v.Headline
		}
		if after, err := j.After(st, v.Additional); err == nil {
			st = after
		}
	}
	for _, j := range kits {
		if says := j.ResultSays(st); says != "" {
			return j.Kit.Name + ": " + says
		}
	}
	return ""
}
