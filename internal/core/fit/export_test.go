package fit

import "wardifex/internal/core/machine"

// Furthers gives tests a kit's additional changes.
func (k Kit) Furthers() []Further { return k.furthers() }

// JudgedLeft is what the judge says will be left of each capacity that a kit, with
// additional changes, draws on.
func JudgedLeft(s machine.Snapshot, k Kit, further []Further) (map[string][2]float64, error) {
	spenders := []spending{{k.Spends(), k.Effects}}
	for _, f := range further {
		spenders = append(spenders, spendingOf(f))
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
