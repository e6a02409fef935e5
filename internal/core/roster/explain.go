package roster

import (
	"slices"
)

// Reason is why a job stands where it does: what it costs there, in minutes, and what the
// cheapest other day would cost.
type Reason struct {
	Job   int
	Late  float64
	Waste float64
	Down  float64
	SetUp float64
	With  []int // jobs of its kind that its doer does right before and after it
	// Else is the cheapest spot on another day, with all else as it is; nil where none fits.
	Else   *Placement
	Dearer float64 // by which Else costs more
}

// Blocked is a job that is not placed, with what would let it be.
type Blocked struct {
	Job  int
	Ways []Way // the fewest rules first
}

// Way is a choice of rules without which a job could be placed, and where.
type Way struct {
	Rules []Rule
	First Placement // the earliest; its person is one who works then, able or not
}

// Reasons explains each placement of a plan, in their order.
func Reasons(p *Problem, plan Plan) []Reason {
	s := stateOf(p, plan)
	out := make([]Reason, 0, len(plan.Placed))
	for j, at := range s.at {
		if !at.placed() {
			continue
		}
		late, waste, down := s.terms(j, at.from, at.to)
		r := Reason{Job: j, Late: minutes(late), Waste: minutes(waste), Down: minutes(down), With: s.beside(j)}
		s.remove(j)
		price := s.price(j, at)
		r.SetUp = minutes(price - late - waste - down)
		var other spot
		least, found := int64(0), false
		s.spots(j, nil, func(x spot) bool {
			if s.day[x.from] != s.day[at.from] {
				if price := s.price(j, x); !found || price < least {
					other, least, found = x, price, true
				}
			}
			return true
		})
		if found {
			r.Else = &Placement{j, other.person, s.moment(other.from), s.moment(other.to)}
			r.Dearer = minutes(least - price)
		}
		s.add(j, at)
		out = append(out, r)
	}
	return out
}

func minutes(thousandths int64) float64 { return float64(thousandths) / thousandth }

// beside are the jobs of a job's kind that its doer does right before and after it on its day.
func (s *state) beside(j int) []int {
	list := *s.dayOf(s.at[j])
	i := slices.Index(list, j)
	var out []int
	for b := i - 1; b >= 0 && s.Jobs[list[b]].Kind == s.Jobs[j].Kind; b-- {
		out = append(out, list[b])
	}
	for b := i + 1; b < len(list) && s.Jobs[list[b]].Kind == s.Jobs[j].Kind; b++ {
		out = append(out, list[b])
	}
	slices.Sort(out)
	return out
}

// mostRules is how many rules at once are looked away from to find a way. Source: from memory.
const mostRules = 3

// Blocks tells of each unplaced job what stands in its way: rules without one of which it could be
// placed beside the rest; where none alone suffices, two or three together.
func Blocks(p *Problem, plan Plan) []Blocked {
	s := stateOf(p, plan)
	out := make([]Blocked, 0, len(plan.Unplaced))
	for _, j := range plan.Unplaced {
		b := Blocked{Job: j}
		rules := Rules()
		for size := 1; size <= mostRules && len(b.Ways) == 0; size++ {
			subsets(everybody(len(rules)), size, func(chosen []int) bool {
				w := make(without, 0, size)
				for _, i := range chosen {
					w = append(w, rules[i])
				}
				if at, ok := s.earliest(j, w); ok {
					b.Ways = append(b.Ways, Way{w, Placement{j, at.person, s.moment(at.from), s.moment(at.to)}})
				}
				return true
			})
		}
		out = append(out, b)
	}
	return out
}

// earliest is the first spot of a job without some rules; of those that begin at once the one that ends first.
func (s *state) earliest(j int, w without) (out spot, ok bool) {
	s.spots(j, w, func(at spot) bool {
		if !ok || at.from < out.from || at.from == out.from && at.to < out.to {
			out, ok = at, true
		}
		return true
	})
	return out, ok
}

func stateOf(p *Problem, plan Plan) *state {
	s := newState(newGrid(p))
	at := make([]spot, len(p.Jobs))
	for j := range at {
		at[j] = nowhere
	}
	for _, x := range plan.Placed {
		at[x.Job] = s.spotOf(x)
	}
	s.become(at)
	return s
}

// Breaks is the rule that a job would break in a place beside the rest of a plan; empty where it
// breaks none.
func Breaks(p *Problem, plan Plan, x Placement) Rule {
	s := stateOf(p, plan)
	if s.at[x.Job].placed() {
		s.remove(x.Job)
	}
	at := s.spotOf(x)
	if at.placed() && s.fits(x.Job, at) {
		return ""
	}
	if !at.placed() {
		return Shifts
	}
	return s.against(x.Job, at)
}

// Broken is a placement that breaks a rule.
type Broken struct {
	Placement
	Rule Rule
}

// Check lists the placements that break a rule beside those before them in time, by their begin.
func Check(p *Problem, placed []Placement) []Broken {
	s := newState(newGrid(p))
	var out []Broken
	ordered := slices.SortedStableFunc(slices.Values(placed), func(a, b Placement) int { return a.From.Compare(b.From) })
	for _, x := range ordered {
		switch at := s.spotOf(x); {
		case !at.placed():
			out = append(out, Broken{x, Shifts})
		case !s.fits(x.Job, at):
			out = append(out, Broken{x, s.against(x.Job, at)})
		default:
			s.add(x.Job, at)
		}
	}
	return out
}

// against is the rule that alone keeps a job from a spot; of several the first.
func (s *state) against(j int, at spot) Rule {
	if !slices.Contains(s.able[j], at.person) {
		return Skill
	}
	for _, r := range Rules() {
		found := false
		s.spots(j, without{r}, func(is spot) bool {
			found = is.person == at.person && is.from == at.from
			return !found
		})
		if found {
			return r
		}
	}
	return Shifts
}
