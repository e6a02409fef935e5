package fit

import (
	"slices"

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
// parts stand as read, and what the kit takes is spent. Where a part that it
// fits already counts in a budget, it is not counted twice.
func (j *Judge) After(st Standing, further []Further) (Standing, error) {
	slots := map[string]map[string]machine.Value{}
	effects := append([]Effect(nil), j.Kit.Effects...)
	for _, f := range further {
		effects = append(effects, f.Effects...)
	}
	for _, e := range effects {
		values, err := e.Values(j.voc)
		if err != nil {
			return st, err
		}
		if e.Slot == "firmware" { // the build's other facts stay as they are known
			for name, v := range values {
				st.w.Snapshot = st.w.Assume(machine.KeyOf(e.Slot, name), v, machine.Read)
			}
			continue
		}
		slots[e.Slot] = values
	}
	out := Standing{world{Snapshot: st.w.With(slots, machine.Read), spent: map[string]float64{}}}
	for k, v := range st.w.spent {
		out.w.spent[k] = v
	}
	for _, n := range j.root.parts {
		if n.kind != budgetKind {
			continue
		}
		b := n.budget
		taken := 0.0
		for _, u := range b.uses {
			taken += u.Amount
		}
		lo, hi, _ := b.bounds(world{Snapshot: st.w.Snapshot})
		lo2, hi2, _ := b.bounds(world{Snapshot: out.w.Snapshot})
		if lo == hi && lo2 == hi2 {
			taken -= lo - lo2 // what the new parts take by being there
		}
		out.w.spent[b.Key] += taken
	}
	return out, nil
}

// Touching tells of a kit whether it changes something that any of these kits
// looks at: a slot that its needs test, or a budget that they draw on.
func Touching(these []*Judge) func(*Judge) bool {
	looks := map[string]bool{}
	budgets := map[string]bool{}
	var walk func(n *node)
	walk = func(n *node) {
		for i := range n.parts {
			walk(&n.parts[i])
		}
		for _, t := range n.looksAt() {
			looks[t.Slot] = true
		}
		if n.budget != nil {
			budgets[n.budget.Key] = true
		}
	}
	for _, j := range these {
		walk(&j.root)
	}
	return func(j *Judge) bool {
		return slices.ContainsFunc(j.Kit.allEffects(), func(e Effect) bool { return looks[e.Slot] }) ||
			slices.ContainsFunc(j.Kit.Uses, func(u Use) bool { return budgets[u.Budget] })
	}
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
			return -hi
		}
	}
	return 0
}
