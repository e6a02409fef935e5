package fit_test

import (
	"slices"
	"strconv"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// make makes a change on the reference's machine, by the sentences on what comes, goes, moves and is set.
func (r *reference) make(effects []fit.Effect) {
	was := map[machine.Key]known{}
	for _, e := range effects {
		for _, t := range voc.TraitsAt(e.From) {
			was[t.Key()] = r.at(e.From, t.Name)
		}
	}
	forget := func(slot string) {
		for _, t := range voc.TraitsAt(slot) {
			r.made[t.Key()] = known{}
		}
	}
	for _, e := range effects {
		if e.Moves() && !slices.ContainsFunc(effects, func(o fit.Effect) bool { return o.Slot == e.From }) {
			forget(e.From)
			r.made[machine.KeyOf(e.From, "model")] = known{machine.Observed, []machine.Value{{Text: "none"}}}
		}
	}
	for _, e := range effects {
		if !e.Stays() {
			forget(e.Slot)
		}
		if e.Moves() {
			for _, t := range voc.TraitsAt(e.From) {
				r.made[machine.KeyOf(e.Slot, t.Name)] = was[machine.KeyOf(e.From, t.Name)]
			}
		}
		r.there[e.Slot] = r.there[e.Slot] || e.Moves() || e.Fits()
		if e.From == "" {
			r.made[machine.KeyOf(e.Slot, "model")] = known{machine.Observed, []machine.Value{{Text: e.Model}}}
			for name, v := range voc.DefaultsOf(voc.At(e.Slot).Kind, e.Model) {
				r.made[machine.KeyOf(e.Slot, name)] = known{machine.Claimed, []machine.Value{v}}
			}
		}
		for name, text := range e.Traits {
			t, _ := voc.Trait(machine.KeyOf(e.Slot, name))
			v, _ := t.ParseRecorded(text)
			r.made[t.Key()] = known{machine.Observed, []machine.Value{v}}
		}
		for name, text := range e.Adds {
			k := r.at(e.Slot, name)
			n, _ := strconv.ParseFloat(text, 64)
			if len(k.values) == 1 {
				r.made[machine.KeyOf(e.Slot, name)] = known{k.grade, []machine.Value{{Number: k.values[0].Number + n,
					Text: "sum"}}}
			}
		}
	}
}

// clash reports whether two effects are on one position, or move one part.
func clash(effects []fit.Effect) bool {
	for i, e := range effects {
		for _, o := range effects[:i] {
			if e.Slot == o.Slot || e.Moves() && e.From == o.From {
				return true
			}
		}
	}
	return false
}
