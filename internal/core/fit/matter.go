package fit

import (
	"strings"
)

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
		if e.Moves() {
			out[Matter{Slot: e.From}] = true
		}
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
