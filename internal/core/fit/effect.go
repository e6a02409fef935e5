package fit

import (
	"fmt"
	"slices"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// once refuses effects of which two are on one slot, or move one part twice.
func once(effects []Effect, voc *machine.Vocabulary) error {
	for i, e := range effects {
		for _, o := range effects[:i] {
			slot, _ := voc.Position(e.Slot)
			if o.Slot == e.Slot {
				return fmt.Errorf("%s is changed twice; say it in one", slot.Label)
			}
			if e.Moves() && o.From == e.From {
				from, _ := voc.Position(e.From)
				return fmt.Errorf("the part of %s cannot be at two positions", from.Label)
			}
		}
	}
	return nil
}

// Leaves are the slots that effects leave empty by moving their part elsewhere.
func Leaves(effects []Effect) []string {
	var out []string
	for _, e := range effects {
		if e.Moves() && !slices.ContainsFunc(effects, func(o Effect) bool { return o.Slot == e.From }) {
			out = append(out, e.From)
		}
	}
	return out
}

// overlayOf prepares effects once for any machine: new parts stand as read, a part
// that is moved brings along what is known of it, and what is set is set. A new
// build keeps what is known of the one before, but for what is stated.
func overlayOf(effects []Effect, voc *machine.Vocabulary) (*machine.Overlay, error) {
	o := machine.NewOverlay(voc)
	if len(effects) == 0 {
		return nil, nil
	}
	for _, slot := range Leaves(effects) {
		o.Empty(slot)
	}
	for _, e := range effects {
		values, err := e.Values(voc)
		if err != nil {
			return nil, err
		}
		at := voc.At(e.Slot)
		switch {
		case e.Moves():
			o.Move(e.From, e.Slot)
			o.Set(e.Slot, values, machine.Observed)
		case e.Stays(), voc.Is(at.Kind, parts.Firmware):
			amounts, err := e.Amounts(voc)
			if err != nil {
				return nil, err
			}
			o.Set(e.Slot, values, machine.Observed)
			o.Add(e.Slot, amounts)
		case e.Model == machine.None:
			o.Empty(e.Slot)
		default:
			o.Fit(e.Slot, values, machine.Observed)
		}
	}
	return o, nil
}
