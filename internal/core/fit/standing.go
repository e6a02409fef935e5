package fit

import (
	"maps"
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
	effects := slices.Clone(j.Kit.Effects)
	values := slices.Clone(j.values)
	for _, f := range further {
		for _, e := range f.Effects {
			v, err := e.Values(j.voc)
			if err != nil {
				return st, err
			}
			effects, values = append(effects, e), append(values, v)
		}
	}
	spent := []spending{j.spends}
	for _, f := range further {
		x, err := spendingOf(f, j.voc)
		if err != nil {
			return st, err
		}
		spent = append(spent, x)
	}
	altered := j.Kit.Alters(st.w.Snapshot, further)
	before := st.w.Snapshot
	for i, e := range effects {
		if e.Slot != "firmware" || !e.Fits() {
			continue
		}
		family := before.Fact("firmware.family")
		if family.Known() && strings.EqualFold(family.Value.Text, values[i]["family"].Text) || values[i]["family"].IsZero() {
			// The build's other facts stay as they are known.
			effects[i].From, effects[i].Model = e.Slot, ""
		} else if listed := before.Fact("firmware.listed-chip"); listed.Known() {
			// Another family: of the build nothing is known, but what its processor can run is.
			values[i] = maps.Clone(values[i])
			values[i]["listed-chip"] = listed.Value
		}
	}
	out := Standing{world{Snapshot: apply(effects, values, before), spent: map[string]float64{}}}
	for _, a := range altered {
		out.w.Snapshot = out.w.Assume(a.Key, a.Value, a.Grade)
	}
	for k, v := range st.w.spent {
		out.w.spent[k] = v
	}
	taken, err := compileUses(j.voc, spent...)
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

// Short is by how much a budget does not suffice for a kit at best, in its
// unit; 0 when it may suffice or the kit takes nothing of it.
func (j *Judge) Short(budget string, st Standing) float64 {
	for i := range j.root.parts {
		part := &j.root.parts[i]
		n := part
		if n.kind == anyNode {
			n = &n.parts[0] // itself, before what would relieve it
		}
		if n.kind == budgetKind && n.budget.Key == budget && part.truth(st.w) == isNo {
			_, hi, _ := n.budget.bounds(st.w)
			return n.budget.keep() - hi
		}
	}
	return 0
}
