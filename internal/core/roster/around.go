package roster

// MakeAround is Make with some jobs pinned where they are. Those of them that cannot stand there are
// placed like the others, and given as loose.
func MakeAround(p *Problem, pinned []Placement, how Search) (plan Plan, loose []int, err error) {
	if len(pinned) == 0 {
		plan, err = Make(p, how)
		return plan, nil, err
	}
	// The fewest moves from no plan at all: what is pinned stands, and all else is placed around it.
	first, err := Replan(p, nil, pinned, Search{Seed: how.Seed, Rounds: 1, Stop: how.Stop})
	if err != nil {
		return plan, nil, err
	}
	s := stateOf(p, first.Plan)
	held := make([]bool, len(p.Jobs))
	for _, x := range pinned {
		held[x.Job] = true
	}
	for _, j := range first.Loose {
		held[j] = false
	}
	s.improve(how, held)
	return s.plan(), first.Loose, nil
}

// Moves are the jobs of a plan that stand otherwise than in an earlier one, or no more.
func Moves(was []Placement, plan Plan) []int {
	at := map[int]Placement{}
	for _, x := range plan.Placed {
		at[x.Job] = x
	}
	var out []int
	for _, x := range was {
		if is, placed := at[x.Job]; !placed || is.Person != x.Person || !is.From.Equal(x.From) {
			out = append(out, x.Job)
		}
	}
	return out
}

// Cost is what placed jobs cost, in minutes, as far as they lie within the slots.
func Cost(p *Problem, placed []Placement) float64 {
	s := newState(newGrid(p))
	for _, x := range placed {
		if at := s.spotOf(x); at.placed() {
			s.add(x.Job, at)
		}
	}
	return minutes(s.cost)
}

// Try is a placement with its end, beside some that are placed already; where a rule is against it,
// which.
func Try(p *Problem, placed []Placement, x Placement) (Placement, Rule) {
	s := stateOf(p, Plan{Placed: placed})
	from := s.slotUp(x.From)
	out, found := x, false
	s.spots(x.Job, without{Order}, func(at spot) bool {
		if at.person == x.Person && at.from == from {
			out.From, out.To, found = s.moment(at.from), s.moment(at.to), true
		}
		return !found
	})
	if found {
		return out, ""
	}
	out.To = x.From.Add(s.Slot)
	return out, s.against(x.Job, spot{x.Person, from, from + s.length[x.Job]})
}
