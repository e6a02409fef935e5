package fit

import (
	"fmt"
	"slices"

	"wardifex/internal/core/machine"
)

// Altered is a fact of a part that stays, as a kit leaves it.
type Altered struct {
	Key        machine.Key
	Value      machine.Value
	Grade      machine.Grade // of the fact that it is computed from
	Arithmetic string        // such as 235 − 40 = 195 mm
}

// Alters is what a kit with its further changes does to parts that stay or are
// moved: what it sets of them, and what it does to the print area, to the mass of
// toolhead and bed, and to what is noted as free or taken. What is not known
// before is not known after, and where the part itself is exchanged, its effect
// says what it is.
func (k Kit) Alters(s machine.Snapshot, further []Further) []Altered {
	var out []Altered
	exchanged := map[string]bool{}
	effects := k.Effects
	for _, f := range further {
		effects = slices.Concat(f.Effects, effects)
	}
	for _, e := range effects {
		exchanged[e.Slot] = exchanged[e.Slot] || !e.Stays()
	}
	alter := func(key machine.Key, by float64) {
		if by == 0 {
			return
		}
		f := s.Fact(key)
		if !f.Known() || exchanged[f.Trait.Slot] {
			return
		}
		sign := "+"
		if by < 0 {
			sign = "−"
		}
		sum, arithmetic := figure(f.Value.Number+by), ""
		if f.Trait.Kind == machine.YesNo {
			if sum = "yes"; by < 0 {
				sum = "no"
			}
			if sum == f.Value.Text {
				return
			}
			arithmetic = f.Value.Text + " → " + sum
		}
		v, err := f.Trait.Parse(sum)
		if err != nil { // outside of what the trait can be: to be measured
			return
		}
		if arithmetic == "" {
			arithmetic = fmt.Sprintf("%s %s %s = %s", f.Value.Text, sign, figure(max(by, -by)), f.Trait.Show(v))
		}
		out = append(out, Altered{Key: key, Value: v, Grade: f.Grade, Arithmetic: arithmetic})
	}
	for i, axis := range []machine.Key{"frame.x", "frame.y", "frame.z"} {
		alter(axis, -k.AreaLoss[i])
	}
	alter("toolhead.grams", k.ToolheadGrams)
	alter("plate.grams", k.BedGrams)
	uses := append(slices.Clone(k.Uses), usesOf(further)...)
	for _, b := range budgets {
		by := 0.0
		for _, u := range uses {
			if u.Budget == b.Key && b.Noted != "" {
				by -= u.Amount
			}
		}
		if b.NotedTakes {
			by = -by
		}
		alter(b.Noted, by)
	}
	for _, e := range effects {
		if e.From != "" {
			out = append(out, e.sets(s)...)
		}
	}
	return out
}

// sets are the traits that an effect sets of a part that stays or is moved, in
// the order of the vocabulary.
func (e Effect) sets(s machine.Snapshot) []Altered {
	var out []Altered
	values, err := e.Values(s.Vocabulary())
	if err != nil { // NewJudge has refused it
		return nil
	}
	for _, t := range s.Vocabulary().Traits {
		v, stated := values[t.Name]
		if t.Slot != e.Slot || !stated {
			continue
		}
		was := s.Fact(machine.KeyOf(e.From, t.Name))
		before := "unknown"
		if was.Known() {
			before = t.Show(was.Value)
		}
		if !was.Known() || !t.Same(was.Value, v) || e.Moves() {
			out = append(out, Altered{t.Key(), v, machine.Read, before + " → " + t.Show(v)})
		}
	}
	return out
}
