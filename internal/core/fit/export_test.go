package fit

import "wardifex/internal/core/machine"

// Furthers gives tests a kit's additional changes.
func (k Kit) Furthers() []Further { return k.furthers() }

// JudgedLeft is what the judge says will be left of each capacity that a kit, with
// additional changes, draws on.
func JudgedLeft(s machine.Snapshot, k Kit, further []Further) (map[string][2]float64, error) {
	spenders := []spending{spendingOf(k, s.Vocabulary())}
	for _, f := range further {
		spenders = append(spenders, spendingBy(f, s.Vocabulary()))
	}
	nodes, err := compileUses(s.Vocabulary(), spenders...)
	if err != nil {
		return nil, err
	}
	out := map[string][2]float64{}
	for _, n := range nodes {
		x := worst(n.capacity.sums(s, false))
		if !x.idle {
			out[n.capacity.Key] = [2]float64{x.lo.float(), x.hi.float()}
		}
	}
	return out, nil
}

// AsSpecified is a machine after a change with what its parts are specified to be taken
// as read, as its verdict takes it.
func AsSpecified(p Projection) machine.Snapshot {
	o, err := overlayOf(p.Effects, p.Before.Vocabulary())
	if err != nil || o == nil {
		return p.After
	}
	return p.After.Specified(o.Specified())
}
