package plan

import (
	"cmp"
	"fmt"
	"slices"

	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// MostKits bounds a plan: every order of them is tried.
const MostKits = 6

// Stage is a kit in its place in a plan.
type Stage struct {
	Kit          string        `json:"kit" doc:"Key"`
	Name         string        `json:"name"`
	Answer       fit.Answer    `json:"answer" enum:"fits,fits if,look first,does not fit"`
	Headline     string        `json:"headline"`
	Further      []fit.Further `json:"further"`
	Calibrations []string      `json:"calibrations" doc:"To be made after it"`
	Opens        bool          `json:"opens" doc:"The cover has to be off"`
	Flashes      bool          `json:"flashes" doc:"It brings a new build"`
	Price        float64       `json:"price"`
	Minutes      int           `json:"minutes"`

	lookNow []string // open facts that no earlier kit changes
}

// Joint is several kits on one machine, judged together.
type Joint struct {
	Answer   fit.Answer `json:"answer" enum:"fits,fits if,look first,does not fit" doc:"The worst of its steps, in the best order"`
	Steps    []Stage    `json:"steps" doc:"In the best order; as given when they cannot all be fitted"`
	LookNow  []string   `json:"lookNow" doc:"What can be looked at, and has to be before any of it is bought or begun; each fact once"`
	Conflict []string   `json:"conflict" doc:"Names of the smallest set of them that cannot go together in any order"`
	Why      string     `json:"why,omitempty" doc:"What is in the way of the conflict"`
	Without  []Rest     `json:"without" doc:"What can be done when one kit of the conflict is left out; the best first"`
	// Repeated counts calibrations that are made more than once, Openings how
	// often the cover comes off, Builds how often a build is flashed.
	Repeated int     `json:"repeated"`
	Openings int     `json:"openings"`
	Builds   int     `json:"builds"`
	Price    float64 `json:"price"`
	Minutes  int     `json:"minutes"`

	after machine.Snapshot
}

// After is the machine once all of it is done; where it cannot be done, once
// those are that can.
func (p Joint) After() machine.Snapshot { return p.after }

// Rest is a plan from which one kit was left out.
type Rest struct {
	Kit     string     `json:"kit" doc:"Key of the kit left out"`
	Name    string     `json:"name"`
	Answer  fit.Answer `json:"answer" enum:"fits,fits if,look first,does not fit" doc:"Of the others; does not fit where they conflict in turn"`
	Order   []string   `json:"order" doc:"Names of the others in the best order"`
	Price   float64    `json:"price"`
	Minutes int        `json:"minutes"`
}

// rank orders answers from best to worst.
var rank = map[fit.Answer]int{fit.Fits: 0, fit.FitsIf: 1, fit.LookFirst: 2, fit.DoesNotFit: 3}

// Judge judges kits on one machine together, each in its turn on what the
// earlier ones leave. The order is the one with the best answer and, of those,
// the least rework: repeated calibrations and openings.
func Judge(kits []*fit.Judge, s machine.Snapshot, records []change.Record) (Joint, error) {
	if len(kits) == 0 {
		return Joint{}, fmt.Errorf("the plan is empty; choose the kits to be fitted")
	}
	if len(kits) > MostKits {
		return Joint{}, fmt.Errorf("a plan has at most %d kits; fit some of them first", MostKits)
	}
	for i, k := range kits {
		if slices.ContainsFunc(kits[:i], func(o *fit.Judge) bool { return o.Kit.Key == k.Kit.Key }) {
			return Joint{}, fmt.Errorf("%s is in the plan twice", k.Kit.Name)
		}
	}
	search := searcher{kits: kits, records: records, start: s}
	best, err := search.best(s)
	if err != nil {
		return Joint{}, err
	}
	if best != nil {
		return *best, nil
	}
	p := Joint{Answer: fit.DoesNotFit, LookNow: []string{}}
	if p.Conflict, p.Why, err = search.conflict(s); err != nil {
		return p, err
	}
	if p.Without, err = search.without(p.Conflict, s); err != nil {
		return p, err
	}
	st := s
	for _, j := range kits { // as given, each on what came before as far as it goes
		step, after, err := search.step(j, st)
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

func (p *Joint) add(s Stage) {
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
	kits    []*fit.Judge
	records []change.Record
	start   machine.Snapshot
}

// of is the search among some kits of the same plan.
func (x searcher) of(kits []*fit.Judge) searcher { x.kits = kits; return x }

func (x searcher) step(j *fit.Judge, st machine.Snapshot) (Stage, machine.Snapshot, error) {
	v := j.Verdict(st)
	s := Stage{Kit: j.Kit.Key, Name: j.Kit.Name, Answer: v.Answer, Headline: v.Headline, Further: v.Further, Calibrations: []string{}, Opens: opens(j.Kit, v.Further)}
	if v.Answer == fit.LookFirst {
		for _, f := range j.Open(st) {
			if x.untouched(f.Trait, st) {
				s.lookNow = append(s.lookNow, f.Trait.Label)
			}
		}
	}
	s.Price, s.Minutes = j.Kit.Cost(v.Further)
	c, err := change.NewChange(j.Kit, v.Further, st)
	if err != nil {
		return s, st, err
	}
	s.Flashes = c.Flashes()
	for _, cal := range c.Needed(x.records) {
		s.Calibrations = append(s.Calibrations, cal.Title)
	}
	after, err := j.After(st, v.Further)
	return s, after, err
}

// untouched reports whether a fact and the part that it is of are those that the
// plan began with.
func (x searcher) untouched(t *machine.Trait, st machine.Snapshot) bool {
	model := machine.KeyOf(t.Slot, machine.ModelTrait)
	return x.start.At(t).Value == st.At(t).Value && x.start.Fact(model).Value == st.Fact(model).Value
}

// opens reports whether the cover has to come off for a kit: something is wired
// or a build is flashed by card or programmer behind it.
func opens(k fit.Kit, further []fit.Further) bool {
	wires := func(s fit.FittingStep) bool { return s.Phase == "wire" }
	return slices.ContainsFunc(k.Steps, wires) || slices.ContainsFunc(further, func(f fit.Further) bool { return slices.ContainsFunc(f.Steps, wires) })
}

// best tries every order; nil when in none of them all can be fitted.
func (x searcher) best(st machine.Snapshot) (*Joint, error) {
	if _, why := takenOut(x.kits); why != "" {
		return nil, nil
	}
	var best *Joint
	var walk func(done Joint, left []*fit.Judge, st machine.Snapshot, worst int) error
	walk = func(done Joint, left []*fit.Judge, st machine.Snapshot, worst int) error {
		if best != nil && worst > rank[best.Answer] {
			return nil
		}
		if len(left) == 0 {
			done.measure()
			for a, r := range rank {
				if r == worst {
					done.Answer = a
				}
			}
			done.Conflict, done.Without, done.after = []string{}, []Rest{}, st
			if best == nil || worst < rank[best.Answer] || done.rework() < best.rework() {
				kept := done
				best = &kept
			}
			return nil
		}
		for i, j := range left {
			if j.Truth(st).Answer() == fit.DoesNotFit {
				continue
			}
			step, after, err := x.step(j, st)
			if err != nil {
				return err
			}
			next := done
			next.Steps = slices.Clone(done.Steps)
			next.add(step)
			if err := walk(next, append(slices.Clone(left[:i]), left[i+1:]...), after, max(worst, rank[step.Answer])); err != nil {
				return err
			}
		}
		return nil
	}
	err := walk(Joint{LookNow: []string{}}, x.kits, st, 0)
	return best, err
}

// measure counts what an order repeats.
func (p *Joint) measure() {
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
		open = s.Opens
		if s.Flashes {
			p.Builds++
		}
	}
}

func (p *Joint) rework() int { return p.Repeated + p.Openings }

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
				return []*fit.Judge{other.kit, j}, fmt.Sprintf("both put a part at the position %s: %s and %s. One would take the other's out again", e.Slot, other.model, model)
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
func (x searcher) conflict(st machine.Snapshot) ([]string, string, error) {
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
		best, err := x.of(some(mask)).best(st)
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
				return names(kits), x.reason(kits, st), nil
			}
		}
	}
	return []string{}, "", nil
}

// without tries to leave out each kit of a conflict, by name.
func (x searcher) without(conflict []string, st machine.Snapshot) ([]Rest, error) {
	out := []Rest{}
	for i, j := range x.kits {
		if len(x.kits) == 1 || !slices.Contains(conflict, j.Kit.Name) {
			continue
		}
		others := slices.Delete(slices.Clone(x.kits), i, i+1)
		best, err := x.of(others).best(st)
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

// reason is the headline of the kit of a conflict that does not fit once the
// others, and what helps them, are in.
func (x searcher) reason(kits []*fit.Judge, st machine.Snapshot) string {
	for _, j := range x.kits {
		if slices.Contains(kits, j) || j.Truth(st).Answer() == fit.DoesNotFit {
			continue
		}
		if _, why := takenOut(append(slices.Clone(kits), j)); why != "" {
			continue
		}
		if after, err := j.After(st, j.Verdict(st).Further); err == nil {
			st = after
		}
	}
	for _, j := range kits {
		v := j.Verdict(st)
		if v.Answer == fit.DoesNotFit {
			return j.Kit.Name + ": " + v.Headline
		}
		if after, err := j.After(st, v.Further); err == nil {
			st = after
		}
	}
	return ""
}
