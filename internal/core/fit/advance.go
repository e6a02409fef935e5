package fit

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"wardifex/internal/core/machine"
)

// Standing is a machine in the course of a plan: as earlier kits leave it, with
// what they have taken of its budgets.
type Standing struct{ w world }

// Stand begins a plan on a machine.
func Stand(s machine.Snapshot) Standing { return Standing{world{Snapshot: s}} }

// Facts is the machine as it stands in the plan.
func (st Standing) Facts() machine.Snapshot { return st.w.Snapshot }

// TruthIn judges a kit on a machine in the course of a plan.
func (j *Judge) TruthIn(st Standing) Truth { return j.root.truth(st.w) }

// VerdictIn judges and explains in the course of a plan.
func (j *Judge) VerdictIn(st Standing) Verdict { return j.verdict(st.w) }

// After is the machine once a kit and its further changes are fitted: their
// parts stand as read, what the kit alters of parts that stay is altered, and
// what it takes is spent. Where a part that it fits already counts in a budget,
// it is not counted twice.
func (j *Judge) After(st Standing, further []Further) (Standing, error) {
	slots := map[string]map[string]machine.Value{}
	effects := slices.Clone(j.Kit.Effects)
	placed := slices.Clone(j.placed)
	for _, f := range further {
		for _, e := range f.Effects {
			values, err := e.Values(j.voc)
			if err != nil {
				return st, err
			}
			effects, placed = append(effects, e), append(placed, values)
		}
	}
	altered := j.Kit.Alters(st.w.Snapshot, further)
	for i, e := range effects {
		values := placed[i]
		if e.Slot == "firmware" {
			if family := st.w.Fact("firmware.family"); family.Known() && strings.EqualFold(family.Value.Text, values["family"].Text) || values["family"].IsZero() {
				for name, v := range values { // the build's other facts stay as they are known
					st.w.Snapshot = st.w.Assume(machine.KeyOf(e.Slot, name), v, machine.Read)
				}
				continue
			}
			// Another family: of the build nothing is known, but what its processor can run is.
			if listed := st.w.Fact("firmware.listed-chip"); listed.Known() {
				values = maps.Clone(values)
				values["listed-chip"] = listed.Value
			}
		}
		slots[e.Slot] = values
	}
	out := Standing{world{Snapshot: st.w.With(slots, machine.Read), spent: map[string]float64{}}}
	for _, a := range altered {
		out.w.Snapshot = out.w.Assume(a.Key, a.Value, a.Grade)
	}
	for k, v := range st.w.spent {
		out.w.spent[k] = v
	}
	taken, err := compileUses(append(j.Kit.Spends(), usesOf(further)...), j.voc)
	if err != nil {
		return st, err
	}
	for _, n := range taken {
		b := n.budget
		amount := 0.0
		for _, u := range b.uses {
			amount += u.Amount
		}
		lo, hi, _ := b.bounds(world{Snapshot: st.w.Snapshot})
		lo2, hi2, _ := b.bounds(world{Snapshot: out.w.Snapshot})
		if lo == hi && lo2 == hi2 {
			amount -= lo - lo2 // what the new parts take by being there
		}
		out.w.spent[b.Key] += amount
	}
	return out, nil
}

func usesOf(further []Further) []Use {
	var out []Use
	for _, f := range further {
		out = append(out, f.Uses...)
	}
	return out
}

// Matter is something that one kit changes and another looks at: a slot, or a
// budget.
type Matter struct{ Slot, Budget string }

// Looks lists what a kit's needs look at.
func (j *Judge) Looks() map[Matter]bool { return j.looks(everything) }

// Unmet lists what those needs look at that are not met, or not for certain, in
// the course of a plan.
func (j *Judge) Unmet(st Standing) map[Matter]bool {
	return j.looks(func(n *node) bool { return n.truth(st.w) != isYes })
}

func everything(*node) bool { return true }

func (j *Judge) looks(into func(*node) bool) map[Matter]bool {
	out := map[Matter]bool{}
	var walk func(n *node, into func(*node) bool)
	walk = func(n *node, into func(*node) bool) {
		if !into(n) {
			return
		}
		if n.kind == noneNode { // what is met there is in the way
			into = everything
		}
		for i := range n.parts {
			walk(&n.parts[i], into)
		}
		for _, t := range n.looksAt() {
			out[Matter{Slot: t.Slot}] = true
		}
		if n.budget != nil {
			out[Matter{Budget: n.budget.Key}] = true
		}
	}
	walk(&j.root, into)
	return out
}

// Changes lists what a kit changes, with whatever further changes.
func (k Kit) Changes() map[Matter]bool {
	out := map[Matter]bool{}
	for _, e := range k.allEffects() {
		out[Matter{Slot: e.Slot}] = true
	}
	for _, u := range append(k.Spends(), usesOf(k.furthers())...) {
		out[Matter{Budget: u.Budget}] = true
	}
	for slot, changed := range map[string]bool{"frame": k.AreaLoss != [3]float64{}, "toolhead": k.ToolheadGrams != 0, "plate": k.BedGrams != 0} {
		if changed {
			out[Matter{Slot: slot}] = true
		}
	}
	for _, b := range budgets {
		if slot, _, ok := strings.Cut(string(b.Noted), "."); ok && out[Matter{Budget: b.Key}] {
			out[Matter{Slot: slot}] = true
		}
	}
	return out
}

// NeedsOf lists the keys of the kits that a kit needs.
func (k Kit) NeedsOf() []string {
	var out []string
	var walk func(r Requirement)
	walk = func(r Requirement) {
		if r.Kit != nil {
			out = append(out, r.Kit.Key)
		}
		for _, group := range [][]Requirement{r.All, r.Any} {
			for _, p := range group {
				walk(p)
			}
		}
	}
	walk(k.Needs)
	return out
}

// Circle finds kits that need each other in a circle, which none of them can
// ever fit; nil when there is none.
func Circle(kits []Kit) []string {
	needs := map[string][]string{}
	for _, k := range kits {
		needs[k.Key] = k.NeedsOf()
	}
	state := map[string]int{} // 1 on the way, 2 done
	var path []string
	var visit func(key string) []string
	visit = func(key string) []string {
		switch state[key] {
		case 1:
			for i, k := range path {
				if k == key {
					return append(append([]string(nil), path[i:]...), key)
				}
			}
		case 2:
			return nil
		}
		state[key] = 1
		path = append(path, key)
		for _, next := range needs[key] {
			if found := visit(next); found != nil {
				return found
			}
		}
		path = path[:len(path)-1]
		state[key] = 2
		return nil
	}
	for _, k := range kits {
		if found := visit(k.Key); found != nil {
			return found
		}
	}
	return nil
}

// Cost is what a kit with further changes costs, and the minutes it takes.
func (k Kit) Cost(further []Further) (price float64, minutes int) {
	price, minutes = k.Price, k.Minutes
	for _, f := range further {
		price, minutes = price+f.Price, minutes+f.Minutes
	}
	return price, minutes
}

// Weight is a cost in money alone: a technician's hour counts as hourRate.
func Weight(price float64, minutes int) float64 { return price + float64(minutes)/60*hourRate }

// Short is by how much a budget does not suffice for a kit at best, in its
// unit; 0 when it may suffice or the kit takes nothing of it.
func (j *Judge) Short(budget string, st Standing) float64 {
	for _, n := range j.root.parts {
		if n.kind == budgetKind && n.budget.Key == budget && n.budget.truth(st.w) == isNo {
			_, hi, _ := n.budget.bounds(st.w)
			return n.budget.keep() - hi
		}
	}
	return 0
}

// Altered is a fact of a part that stays, as a kit leaves it.
type Altered struct {
	Key        machine.Key
	Value      machine.Value
	Grade      machine.Grade // of the fact that it is computed from
	Arithmetic string        // such as 235 − 40 = 195 mm
}

// Alters is what a kit with its further changes does to parts that stay: to the
// print area, to the mass of toolhead and bed, and to what is noted as free or
// taken. What is not known before is not known after, and where the part itself
// is exchanged, its effect says what it is.
func (k Kit) Alters(s machine.Snapshot, further []Further) []Altered {
	var out []Altered
	exchanged := map[string]bool{}
	for _, e := range k.Effects {
		exchanged[e.Slot] = true
	}
	for _, f := range further {
		for _, e := range f.Effects {
			exchanged[e.Slot] = true
		}
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
	return out
}

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
	nodes, err := compileUses(every, j.voc)
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
