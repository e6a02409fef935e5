package fit

import (
	"slices"

	"wardifex/internal/core/machine"
)

// MoveLasting moves needs of the kit to the model that it fits: there they hold as long as
// a part of it is fitted, whoever fitted it. at are their places among the kit's needs;
// known gives the catalogue's model of a kind and name. ok is false where none of them can
// be moved.
func (k Kit) MoveLasting(at []int, known func(kind, name string) (machine.Model, bool), voc *machine.Vocabulary) (
	left Kit, model machine.Model, ok bool) {
	for _, o := range k.Lasting(voc) {
		if !slices.Contains(at, o.At) {
			continue
		}
		if !ok {
			var is bool
			if model, is = known(o.Kind, o.Model); !is {
				model = machine.Model{Kind: o.Kind, Name: o.Model}
			}
			model.Needs, ok = slices.Clone(model.Needs), true
		}
		for slices.ContainsFunc(model.Needs, func(n machine.Need) bool { return n.Key == o.Need.Key }) {
			o.Need.Key += "-2"
		}
		model.Needs = append(model.Needs, o.Need)
	}
	return k.WithoutNeeds(at...), model, ok
}
