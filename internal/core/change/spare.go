package change

import (
	"slices"
	"strings"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// Spare is a part that a change sets free.
type Spare struct {
	Slot  string `json:"slot"`
	Label string `json:"label"`
	Model string `json:"model"`
}

// Serves reports whether a machine carries the same model in a slot of the same
// kind, so that the part is a spare for it.
func (s Spare) Serves(m machine.Snapshot) bool {
	voc := m.Vocabulary()
	own, _ := voc.Position(s.Slot)
	return slices.ContainsFunc(voc.Slots, func(o machine.Position) bool {
		return o.Kind == own.Kind && strings.EqualFold(m.Model(o.Key), s.Model)
	})
}

// Spares lists the parts that come out and have a name.
func (c Change) Spares() []Spare {
	out := []Spare{}
	for _, x := range c.PartChanges {
		if x.Stays || slices.ContainsFunc(c.Effects, func(e fit.Effect) bool { return e.From == x.Slot }) {
			continue
		}
		if model := c.Before.Model(x.Slot); model != "" && model != machine.None && !x.build {
			out = append(out, Spare{x.Slot, x.Label, model})
		}
	}
	return out
}
