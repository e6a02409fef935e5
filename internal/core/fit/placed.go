package fit

import (
	"cmp"
	"fmt"
	"slices"

	"wardifex/internal/core/machine"
)

// placed are the facts that stand in place of the machine's own once a kit is
// in. Of a slot that it empties nothing is known but that.
type placed map[*machine.Trait]source

// source is a fact of a part that is fitted, or the trait of the slot that it is
// moved from.
type source struct {
	fact *machine.Fact
	from *machine.Trait
}

func partsOf(effects []Effect, voc *machine.Vocabulary) (placed, error) {
	out := placed{}
	for _, slot := range Leaves(effects) {
		out.empty(slot, voc)
	}
	for _, e := range effects {
		values, err := e.Values(voc)
		if err != nil {
			return nil, err
		}
		if e.Model == machine.None {
			out.empty(e.Slot, voc)
		}
		for _, t := range voc.Traits {
			if t.Slot != e.Slot {
				continue
			}
			if v, stated := values[t.Name]; stated {
				out[t] = source{fact: &machine.Fact{Trait: t, Value: v, Grade: machine.Read}}
			} else if from, ok := voc.Trait(machine.KeyOf(e.From, t.Name)); ok && e.Moves() {
				out[t] = source{from: from}
			}
		}
	}
	return out, nil
}

func (p placed) empty(slot string, voc *machine.Vocabulary) {
	for _, t := range voc.Traits {
		if t.Slot == slot {
			p[t] = source{fact: &machine.Fact{}}
		}
	}
	if model, ok := voc.Trait(machine.KeyOf(slot, machine.ModelTrait)); ok {
		p[model] = source{fact: &machine.Fact{Trait: model, Value: machine.Value{Text: machine.None}, Grade: machine.Read}}
	}
}

// at is what is known of a trait once the parts are in.
func (p placed) at(s machine.Snapshot, t *machine.Trait) *machine.Fact {
	if src, ok := p[t]; ok && src.from != nil {
		return s.At(src.from)
	} else if ok {
		return src.fact
	}
	return s.At(t)
}

// change reports whether the parts may change what is known of a trait.
func (p placed) change(t *machine.Trait) bool {
	_, ok := p[t]
	return ok
}

// spending is what a kit, or a further change, does to the budgets: what is
// written as used, and the parts that it fits.
type spending struct {
	uses  []Use
	parts placed
}

// writes reports whether anything is written as used of a budget. That is then
// the whole of what is taken; what the parts take by being what they are is not
// counted besides.
func (x spending) writes(budget string) bool {
	return slices.ContainsFunc(x.uses, func(u Use) bool { return u.Budget == budget && !u.implied })
}

// of is the part of it that is about one budget.
func (x spending) of(budget string) spending {
	x.uses = slices.DeleteFunc(slices.Clone(x.uses), func(u Use) bool { return u.Budget != budget })
	return x
}

// spendingOf is what a further change does to the budgets.
func spendingOf(f Further, voc *machine.Vocabulary) (spending, error) {
	parts, err := partsOf(f.Effects, voc)
	if err != nil {
		err = fmt.Errorf("%s: %w", f.Title, err)
	}
	uses := slices.Clone(f.Uses)
	for i := range uses {
		uses[i].For = cmp.Or(uses[i].For, f.Title)
	}
	return spending{uses, parts}, err
}

// implied are the budgets on which parts draw, or which they replenish, by what
// they are, where nothing is written of them as used.
func (x spending) implied(voc *machine.Vocabulary) []Use {
	var out []Use
	for _, b := range budgets {
		states := func(t Term) bool {
			trait, ok := voc.Trait(machine.KeyOf(t.Slot, t.Trait))
			return ok && x.parts.change(trait)
		}
		if b.ByParts && !x.writes(b.Key) && slices.ContainsFunc(slices.Concat(b.Offers, b.Takes), states) {
			out = append(out, Use{Budget: b.Key, implied: true})
		}
	}
	return out
}
