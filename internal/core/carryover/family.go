package carryover

import (
	"fmt"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/settings"
)

// Fate is what becomes of something when the family of the firmware changes.
type Fate string

// Fates.
const (
	CarriesOver Fate = "carries over"
	Measure     Fate = "measure again"
	Lost        Fate = "lost"
)

// FamilyItem is something that a change of family touches.
type FamilyItem struct {
	Title string   `json:"title"`
	Fate  Fate     `json:"fate" enum:"carries over,measure again,lost"`
	Value string   `json:"value,omitempty" doc:"What is on record"`
	Lines []string `json:"lines,omitempty" doc:"In the words of the new family"`
	Why   string   `json:"why"`
}

// remeasured are the calibrations whose numbers mean something else in another family, or are void
// with it. Source: from memory; a proof of protection is of one build.
var remeasured = map[calibration.Kind]string{
	calibration.Protection: "the new family has its own watch: prove it before the machine runs unattended",
	calibration.Direction:  "pins and their signs are named anew: move each axis a little first",
	calibration.HotendPID:  "the families scale these numbers otherwise: the old ones are a start at best",
	calibration.BedPID:     "the families scale these numbers otherwise: the old ones are a start at best",
	calibration.Mesh:       "the stored mesh is of another form",
	calibration.Resonance:  "the shapers of the families differ",
	calibration.Sensors:    "the sensor's type is configured anew: read all of them cold",
}

// Family is what becomes of a machine's values, displays and features when its firmware is of
// another family: what carries over and in which form, what has to be measured again, what is lost.
// Source of what each family has: from memory.
func Family(s machine.Snapshot, records []calibration.Record, from, to string) ([]FamilyItem, error) {
	if from == to {
		return nil, fmt.Errorf("its firmware is of the %s family already", to)
	}
	out := []FamilyItem{}
	for _, st := range calibration.States(s, records) {
		if st.Word != calibration.Valid {
			continue
		}
		it := FamilyItem{Title: st.Title(s), Value: st.Record.Value, Fate: CarriesOver}
		if why, again := remeasured[st.Calibration.Kind]; again {
			it.Fate, it.Why = Measure, why
			out = append(out, it)
			continue
		}
		it.Lines = settings.WriteOn(s, to, st.Calibration.Kind, st.Subject, st.Record.Value)
		switch {
		case st.Record.Store == calibration.StorePart:
			it.Why = "it is set at the part itself"
		case len(it.Lines) > 0:
			it.Why = "in the words of the " + to + " family; check it before you trust it"
		default:
			it.Why = form(st, to)
		}
		out = append(out, it)
	}
	return append(out, losses(s, from, to)...), nil
}

// form says how a value is stated in a family that has no word for it alone.
func form(st calibration.State, to string) string {
	switch {
	case (st.Calibration.Kind == calibration.Steps || st.Calibration.Kind == calibration.AxisSteps) && to == parts.Hosted:
		return "as rotation distance: full steps × microsteps × gear ratio ÷ steps per mm, with the gear pairs apart; the " +
			"motor's step angle, the microsteps or the ratio is not on record"
	case st.Calibration.Kind == calibration.Current && to == parts.Hosted:
		return "as run_current in the section of its driver, A RMS"
	}
	return "the number carries over; the new configuration has its own place for it"
}

// losses are what the old family gave and the new one does not.
func losses(s machine.Snapshot, from, to string) []FamilyItem {
	var out []FamilyItem
	lose := func(title, why string) { out = append(out, FamilyItem{Title: title, Fate: Lost, Why: why}) }
	if d := s.First(parts.Display); d != nil && s.Says(d, parts.DisplayKind, parts.ClosedDisplay) {
		lose("The closed display", "it speaks to the old firmware alone; unplug it before flashing, it stays dark")
	}
	switch from {
	case parts.Compiled:
		lose("The stored settings (M500)",
			"the new family keeps its values in files; what was stored is gone once it is flashed")
	case parts.Hosted:
		lose("Changes without building", "every change of the configuration is a new build now")
		lose("Macros of the configuration",
			"the other families have none of this form: print start and end go into the slicer")
		lose("The host's web page and its add-ons", "upload, camera and remote control hang on the host")
		lose("The saved block at the end of the configuration", "its values are entered into the new store by hand")
		lose("Meshing the print's area alone, leaving objects out", "where the new build lacks the feature")
	case parts.Scripted:
		lose("Start scripts on the card", "the new family does not run them: their values carry over by the list above")
	}
	switch to {
	case parts.Hosted:
		out = append(out, FamilyItem{Title: "A host computer", Fate: Measure,
			Why: "with its own supply, its processor on the " +
				"list that the family supports, and its password changed"})
		out = append(out, FamilyItem{Title: "Start code of sliced files", Fate: Measure,
			Why: "M92, M301, M851 in it are errors " +
				"now: see which files are stale under Files"})
	case parts.Scripted:
		out = append(out, FamilyItem{Title: "Motor currents in start code", Fate: Measure,
			Why: "M906 is peak here, and RMS " +
				"before: a factor of 1.4"})
	}
	return out
}
