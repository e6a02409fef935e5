package fit

import "math"

// Shift is what a kit does to a budget of a machine.
type Shift struct {
	Budget     string
	Title      string
	Arithmetic string // what is left afterwards, as a sum
	Short      bool   // it may not suffice
}

// Shifts lists the budgets that a kit with its further changes draws on, as
// they stand once it is fitted; those are left out of which nothing is known.
func (j *Judge) Shifts(st Standing, further []Further) ([]Shift, error) {
	after, err := j.After(st, further)
	if err != nil {
		return nil, err
	}
	var every []Use
	for _, b := range budgets {
		every = append(every, Use{Budget: b.Key})
	}
	nodes, err := compileUses(j.voc, spending{uses: every})
	if err != nil {
		return nil, err
	}
	after.w.spentBy = "this kit"
	var out []Shift
	for i := range nodes {
		b := nodes[i].budget
		b.uses = nil
		lo, hi, _ := b.bounds(st.w)
		lo2, hi2, _ := b.bounds(after.w)
		if b.idle(after.w) || lo == lo2 && hi == hi2 || math.IsInf(lo2, 0) || math.IsInf(hi2, 0) || b.unless != nil && b.unless.truth(after.w) == isYes {
			continue
		}
		out = append(out, Shift{b.Key, b.Title, b.arithmetic(after.w), lo2 < -same})
	}
	return out, nil
}
