package catalogue

import (
	"maps"
	"slices"

	"wardifex/internal/core/machine"
)

// Upgraded is a catalogue of an older version with what it could not say yet:
// where its positions are, how its kinds hang together, what is possible, and what
// parts need. What it says itself stays; a need that a shop does not want is dropped
// by its key.
func Upgraded(c machine.Catalogue) machine.Catalogue {
	c.Slots, c.Kinds = slices.Clone(c.Slots), slices.Clone(c.Kinds)
	for i := range c.Slots {
		c.Slots[i] = Placed(c.Slots[i])
	}
	for i := range c.Kinds {
		at := slices.IndexFunc(shipped().Kinds, func(k machine.PartKind) bool { return k.Key == c.Kinds[i].Key })
		if at >= 0 {
			c.Kinds[i] = related(c.Kinds[i], shipped().Kinds[at])
		}
	}
	c.Models = slices.Clone(c.Models)
	for i := range c.Models {
		m := &c.Models[i]
		at := slices.IndexFunc(shipped().Models, func(o machine.Model) bool { return ModelKey(o) == ModelKey(*m) })
		if at < 0 {
			continue
		}
		m.Needs = withNeeds(m.Needs, shipped().Models[at].Needs)
		if m.Uses == nil {
			m.Uses = shipped().Models[at].Uses
		}
	}
	return c
}

// withNeeds are needs with those that ship and are not among them by their key.
func withNeeds(own, shipped []machine.Need) []machine.Need {
	out := slices.Clone(own)
	for _, n := range shipped {
		if !slices.ContainsFunc(own, func(o machine.Need) bool { return o.Key == n.Key }) {
			out = append(out, n)
		}
	}
	return out
}

// related is a kind with how the shipped one hangs together with others, what is possible
// of it and what it needs, where it does not say itself.
func related(k, shipped machine.PartKind) machine.PartKind {
	if k.OnePer == "" {
		k.OnePer = shipped.OnePer
	}
	if k.FedBy == nil {
		k.FedBy = shipped.FedBy
	}
	if k.RidesOn == nil {
		k.RidesOn = shipped.RidesOn
	}
	if k.Serves == nil {
		k.Serves = shipped.Serves
	}
	if k.Features == nil {
		k.Features = shipped.Features
	}
	needs := withNeeds(k.Needs, shipped.Needs)
	k.Traits = slices.Clone(k.Traits)
	for _, t := range shipped.Traits { // what a need that is new to it reads comes with the need
		has := func(o machine.TraitDef) bool { return o.Name == t.Name }
		if slices.ContainsFunc(needs[len(k.Needs):], func(n machine.Need) bool { return readsOwn(n, k.Key, t.Name) }) &&
			!slices.ContainsFunc(k.Traits, has) {
			k.Traits = append(k.Traits, t)
		}
	}
	k.Needs = needs
	for i, t := range k.Traits {
		at := slices.IndexFunc(shipped.Traits, func(o machine.TraitDef) bool { return o.Name == t.Name })
		if at < 0 || t.Kind != machine.Number {
			continue
		}
		if t.Nominal == nil {
			k.Traits[i].Nominal = shipped.Traits[at].Nominal
		}
		if t.Possible == nil {
			k.Traits[i].Possible = maps.Clone(shipped.Traits[at].Possible)
		}
	}
	return k
}

// readsOwn reports whether a need of a kind reads a trait of the part itself.
func readsOwn(n machine.Need, kind, trait string) bool {
	var reads func(r machine.Requirement) bool
	reads = func(r machine.Requirement) bool {
		if t := r.Test; t != nil && (t.Own == trait || t.Trait == trait && t.Of != nil && t.Of.Kind == kind) {
			return true
		}
		return slices.ContainsFunc(slices.Concat(r.All, r.Any, r.None), reads)
	}
	return reads(n.That) || n.When != nil && reads(*n.When)
}

// Placed is a position with its place, where its key says it and nobody has said
// otherwise.
func Placed(p machine.Position) machine.Position {
	if p.Serves == machine.NoPlace {
		if serves, n, ok := PlaceOf(p.Key, p.Kind); ok {
			p.Serves = serves
			if n > 1 {
				p.N = n
			}
		}
	}
	return p
}
