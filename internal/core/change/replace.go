package change

import (
	"maps"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Replacement is what it does to the record of a machine that the part at a position is
// replaced outside of any work order.
type Replacement struct {
	// Invalid are the records that no longer hold.
	Invalid []calibration.Invalid
	// BuiltFor is what of the old part the build that stays is still configured for; what is
	// on record of the build already goes before it.
	BuiltFor map[machine.Key]string
	// EndedRuns are the positions of the builds that leave with a board.
	EndedRuns []string
}

// Replace is the replacement of what is at a position of a machine by a part of a model;
// machine.None empties the position, and "" is a part that nobody has named. The error is
// that of a position which the machine cannot have.
func Replace(slot, model string, on machine.Snapshot, records []calibration.Record) (Replacement, error) {
	if model == "" {
		model = "unnamed part"
	}
	c, err := ByHand(slot, model, on)
	if err != nil {
		return Replacement{}, err
	}
	r := Replacement{Invalid: c.Invalidated(records), BuiltFor: firmware.Configuration(on)}
	maps.DeleteFunc(r.BuiltFor, func(k machine.Key, _ string) bool { return k.Slot() != slot })
	voc := on.Vocabulary()
	board := voc.At(slot)
	if !on.Has(board) || !RunsBuilds(voc, board) || !on.Holds(board) {
		return r, nil
	}
	for _, run := range calibration.RunsOf(on, board) {
		r.EndedRuns = append(r.EndedRuns, run.Key)
	}
	return r, nil
}

// LikeBefore is a new part in the place of a worn one of the same model: it is taken to be as
// that one was read to be, until somebody reads it.
func LikeBefore(slot string, on machine.Snapshot) Fitting {
	f := Fitting{Slot: slot, Traits: map[string]string{}, Carried: map[string]string{}}
	for _, t := range on.Vocabulary().TraitsAt(slot) {
		switch fact := on.At(t); {
		case fact.Stands == nil:
		case t.Name == machine.ModelTrait:
			f.Traits[t.Name] = fact.Value.Text
		default:
			f.Carried[t.Name] = fact.Value.Text
		}
	}
	return f
}

// RunsBuilds reports whether a position is of a board that runs builds: the mainboard, or
// a toolhead board.
func RunsBuilds(voc *machine.Vocabulary, p *machine.Position) bool {
	return voc.Is(p.Kind, parts.Mainboard) || voc.Is(p.Kind, parts.ToolheadBoard)
}
