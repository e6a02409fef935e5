package fit

import (
	"maps"
	"slices"

	"wardifex/internal/core/machine"
)

// placed are the facts of the parts that a kit fits, which stand in place of the
// machine's own once it is in. Of a slot that it empties nothing else is known.
type placed map[*machine.Trait]*machine.Fact

func partsOf(effects []Effect, voc *machine.Vocabulary) (placed, error) {
	out := placed{}
	for _, e := range effects {
		values, err := e.Values(voc)
		if err != nil {
			return nil, err
		}
		for _, t := range voc.Traits {
			if v, stated := values[t.Name]; t.Slot == e.Slot && stated {
				out[t] = &machine.Fact{Trait: t, Value: v, Grade: machine.Read}
			} else if t.Slot == e.Slot && e.Model == machine.None {
				out[t] = &machine.Fact{}
			}
		}
	}
	return out, nil
}

// with are these parts and more, of which the latter count.
func (p placed) with(more placed) placed {
	out := maps.Clone(p)
	maps.Copy(out, more)
	return out
}

// at is what is known of a trait once the parts are in.
func (p placed) at(s machine.Snapshot, t *machine.Trait) *machine.Fact {
	if f, ok := p[t]; ok {
		return f
	}
	return s.At(t)
}

// implied are the budgets on which parts draw, or which they replenish, by what
// they are, where nothing is written of them as used.
func (p placed) implied(written []Use, voc *machine.Vocabulary) []Use {
	var out []Use
	for _, b := range budgets {
		states := func(t Term) bool {
			trait, ok := voc.Trait(machine.KeyOf(t.Slot, t.Trait))
			return ok && p[trait] != nil
		}
		if b.ByParts && !uses(written, b.Key) && slices.ContainsFunc(slices.Concat(b.Offers, b.Takes), states) {
			out = append(out, Use{Budget: b.Key, implied: true})
		}
	}
	return out
}

func uses(written []Use, budget string) bool {
	return slices.ContainsFunc(written, func(u Use) bool { return u.Budget == budget && !u.implied })
}
