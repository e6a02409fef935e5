package fit

import (
	"fmt"
	"slices"
	"strings"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Effect is what a kit does to a slot: it fits a new part, leaves the slot empty,
// moves the part of another slot into it, or sets something of the part that
// stays.
type Effect struct {
	Slot   string            `json:"slot"`
	Model  string            `json:"model" doc:"The model fitted, or none when the slot is emptied; empty with from"`
	From   string            `json:"from,omitempty" doc:"The slot whose part it is from now on: another of its kind, which is left empty, or the slot itself, whose part stays"`
	Traits map[string]string `json:"traits,omitempty" doc:"What the part is known to be afterwards"`
}

// Stays reports whether the part stays in its slot and is set otherwise.
func (e Effect) Stays() bool { return e.From != "" && e.From == e.Slot }

// Moves reports whether the part of another slot is moved here.
func (e Effect) Moves() bool { return e.From != "" && e.From != e.Slot }

// Fits reports whether a new part is fitted.
func (e Effect) Fits() bool { return e.From == "" && e.Model != machine.None }

// Values are the effect's traits in a vocabulary, with the model of a new part
// among them.
func (e Effect) Values(voc *machine.Vocabulary) (map[string]machine.Value, error) {
	slot, ok := voc.Position(e.Slot)
	if !ok {
		return nil, fmt.Errorf("there is no position %q", e.Slot)
	}
	out := map[string]machine.Value{}
	switch from, there := voc.Position(e.From); {
	case e.From == "" && strings.TrimSpace(e.Model) == "":
		return nil, fmt.Errorf("%s: say which model is fitted, or none where the position is left empty", slot.Label)
	case e.From == "":
		out[machine.ModelTrait] = machine.Value{Text: e.Model}
	case !there:
		return nil, fmt.Errorf("there is no position %q", e.From)
	case e.Model != "":
		return nil, fmt.Errorf("%s: either a model is fitted, or the part of %s is used", slot.Label, from.Label)
	case from.Kind != slot.Kind:
		return nil, fmt.Errorf("the part of %s cannot be moved to %s: they hold parts of different kinds", from.Label, slot.Label)
	case e.Stays() && len(e.Traits) == 0:
		return nil, fmt.Errorf("%s: its part stays; say what of it is set otherwise", slot.Label)
	}
	for name, written := range e.Traits {
		t, ok := voc.Trait(machine.KeyOf(e.Slot, name))
		if !ok {
			return nil, fmt.Errorf("position %s has no trait %q", e.Slot, name)
		}
		v, err := t.Parse(written)
		if err != nil {
			return nil, err
		}
		out[name] = v
	}
	return out, nil
}

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
			o.Set(e.Slot, values, machine.Read)
		case e.Stays(), voc.Is(at.Kind, parts.Firmware):
			o.Set(e.Slot, values, machine.Read)
		case e.Model == machine.None:
			o.Empty(e.Slot)
		default:
			o.Fit(e.Slot, values, machine.Read)
		}
	}
	return o, nil
}
