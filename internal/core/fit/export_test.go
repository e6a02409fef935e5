package fit

import "wardifex/internal/core/machine"

// Furthers gives tests a kit's additional changes.
func (k Kit) AdditionalChanges() []AdditionalChange { return k.additionalChanges() }

// JudgedLeft is what the judge says will be left of each capacity that a kit, with
// additional changes, draws on.
func JudgedLeft(s machine.Snapshot, k Kit, changes []AdditionalChange) (map[string][2]float64, error) {
	spenders := []consumption{consumptionOf(k, s.Vocabulary())}
	for _, f := range changes {
		spenders = append(spenders, consumptionBy(f, s.Vocabulary()))
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

// NeedOn is a need of the part at a position of a machine, as it stands.
type NeedOn struct {
	machine.Need
	At             *machine.Position
	Model, Feature string // that needs it; both empty where any part of its kind does
	Truth          Truth
}

// NeedsOn lists what parts of a machine need.
func NeedsOn(s machine.Snapshot) []NeedOn {
	var out []NeedOn
	for _, x := range lastingOf(s.Vocabulary()).instances(s) {
		of := x.need.of
		out = append(out, NeedOn{x.need.Need, x.at, of.model, of.feature, x.root.truth(s)})
	}
	return out
}
