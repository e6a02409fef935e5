package app

import (
	"cmp"
	"context"
	"iter"
	"slices"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/purchase"
	"wardifex/internal/store"
)

// nobodyNamed stands for the supplier of what nobody is on record for.
const nobodyNamed = "nobody named"

// Suppliers compares suppliers by how their claims fared: of parts, their own supplier's;
// of what came with a machine, that machine's.
func (a *App) Suppliers(ctx context.Context) ([]machine.SupplierTally, error) {
	fleet, err := a.store.Fleet(ctx)
	if err != nil {
		return nil, err
	}
	answerers, err := a.store.Answerers(ctx)
	if err != nil {
		return nil, err
	}
	other := make(map[place]string, len(answerers))
	for _, o := range answerers {
		other[place{o.MachineID, o.Slot}] = o.Supplier
	}
	outside, err := a.claimsOutside(ctx)
	if err != nil {
		return nil, err
	}
	return machine.TallyClaims(func(yield func(machine.Claim) bool) {
		for i := range fleet {
			for c := range claimsOf(&fleet[i], other) {
				if !yield(c) {
					return
				}
			}
		}
		for _, c := range outside {
			if !yield(c) {
				return
			}
		}
	}), ctx.Err()
}

// claimsOf are those of what is in a machine. other names who answers for parts for which
// the machine's supplier does not.
func claimsOf(m *store.Machine, other map[place]string) iter.Seq[machine.Claim] {
	voc := m.Facts.Vocabulary()
	trait := func(k machine.Key) *machine.Trait {
		t, ok := voc.Trait(k)
		if !ok || voc.Software(t.Position().Kind) || m.Facts.ModelAt(t.Position()) == machine.None {
			return nil
		}
		return t
	}
	return machine.Claims(m.Readings, trait, func(t *machine.Trait) string {
		supplier, ok := other[place{m.ID, t.Slot}]
		if !ok {
			supplier = m.Supplier
		}
		return cmp.Or(supplier, nobodyNamed)
	})
}

type place struct {
	machine int64
	slot    string
}

// claimsOutside are those of parts that are in no machine of the fleet.
func (a *App) claimsOutside(ctx context.Context) ([]machine.Claim, error) {
	parts, err := a.store.PartsOutside(ctx)
	if err != nil {
		return nil, err
	}
	wrong, err := a.store.WrongGoods(ctx)
	if err != nil || len(parts)+len(wrong) == 0 {
		return nil, err
	}
	machines, err := a.store.Names(ctx)
	if err != nil {
		return nil, err
	}
	supplier := map[int64]string{}
	for _, m := range machines {
		supplier[m.ID] = m.Supplier
	}
	var out []machine.Claim
	voc := a.store.Vocabulary(ctx)
	for i := range parts {
		p := &parts[i]
		from := p.Supplier
		if n := len(p.Places); from == "" && n > 0 {
			from = supplier[p.Places[n-1].MachineID]
		}
		from = cmp.Or(from, nobodyNamed)
		trait := func(k machine.Key) *machine.Trait { return p.Trait(voc, k.Trait()) }
		out = slices.AppendSeq(out, machine.Claims(p.Readings, trait, func(*machine.Trait) string { return from }))
	}
	for _, w := range wrong {
		out = append(out, purchase.Claims(voc, w.Supplier, w.Kind, w.What, w.Outcome, w.Findings)...)
	}
	return out, nil
}
