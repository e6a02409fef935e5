package change

import (
	"fmt"
	"math"
	"slices"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/quantity"
)

// prepare is what comes before anything is taken apart. Source: common practice.
func (c Change) prepare(w *writer, x extent) {
	w.phase = "Prepare"
	list, found := append(slices.Clone(c.Kit.Parts), furtherTitles(c.Additional)...), c.delivered()
	if len(list) > 0 || len(found) > 0 {
		s := Step{
			Key:   "check-kit",
			Title: "Check what came against its list",
			Do:    "Screws in the bag differ from the sheet; directions may be for another model. Clear the bench.",
			Lines: list,
			Found: found,
		}
		if len(found) > 0 {
			s.Do += " Read what you can off the parts: what is found stands against what was advertised, for the machine and " +
				"for the supplier."
		}
		w.add(s)
	}
	if x.flashes || c.exchanges(parts.Mainboard) || c.exchanges(parts.Card) || c.exchanges(parts.Host) {
		w.add(Step{Key: "record-settings", Title: "Record the present settings and build", Form: NoteForm, Settings: true,
			Do: "This is the way back. " + settingsReport(familyOf(c.Before)) + " Keep the file of the present build."})
	}
	if x.measured() {
		w.add(Step{
			Key: beforeKey, Title: "Take the baseline", Form: MeasuresForm, Parts: measures(), Do: c.baselineWords(),
		})
	}
	if x.filament {
		w.add(Step{
			Key:      "filament-out",
			Title:    "Take the filament out and let it cool",
			Do:       "Heat, retract, switch the heater off, wait until the hotend is cold.",
			Cautions: []string{burn},
		})
	}
	switch {
	case c.Kit.What == repairWhat && !x.wired:
		w.add(Step{
			Key:      "safe",
			Title:    "Before you open it or reach in: power off, plug out, let it cool",
			Do:       "What has to be seen under power is seen with the cover on and hands away from it.",
			Cautions: []string{burn, mains, locals},
		})
	case x.wired:
		w.add(Step{
			Key:   "plug-out",
			Title: "Power off and pull the mains plug",
			Do: "Then cover off. A fan hangs on the cover by its wire. One cover screw may be longer and goes into " +
				"aluminium: do not overtighten it later.",
			Cautions: []string{mains, sharp, static, locals},
		})
		w.add(Step{
			Key:   "photograph",
			Title: "Photograph every connection, label both ends",
			Do:    "Axis, top or bottom, left or right. Pull on connectors, not on wires; hot glue is peeled, not yanked.",
		})
	case x.off:
		w.add(Step{
			Key:      "plug-out",
			Title:    "Power off and pull the mains plug",
			Do:       "The cover stays on. Let hot parts cool first.",
			Cautions: []string{burn, mains},
		})
	case x.bed:
		w.add(Step{
			Key:      "cool",
			Title:    "Heaters off; let the bed cool, then power off",
			Do:       "The cover stays on, and no wire is touched.",
			Cautions: []string{"Hot bed: burns."},
		})
	}
}

// baselineWords say how the baseline is taken, and warn where several changes share it.
func (c Change) baselineWords() string {
	do := "Print the shop's test file with the usual spool, in the usual place: the same is printed at the end. " +
		"Measure what you " +
		"have the means for: noise with the same phone at the same place, the mesh, the ringing."
	parts := 0
	for _, p := range c.PartChanges {
		if !p.build && p.After != machine.None {
			parts++
		}
	}
	if len(c.Additional) > 0 || parts > 1 {
		return do + " Several things change at once here: nobody will know which of them helped."
	}
	return do + " One change at a time."
}

// settingsReport says how a family's present settings are recorded.
func settingsReport(family string) string {
	switch family {
	case parts.Hosted:
		return "Copy the configuration file, with those it includes, and paste it into the note without its passwords " +
			"and keys."
	case parts.Scripted:
		return "Copy the scripts that run at start from the card or over the network, and paste them into the note."
	case parts.Compiled:
		return "Send M503 and paste the reply into the note."
	}
	return "Send M503, or copy the configuration, and paste it into the note."
}

func furtherTitles(further []fit.AdditionalChange) []string {
	var out []string
	for _, f := range further {
		out = append(out, f.Title)
	}
	return out
}

// newSurface is the step at which the endstop or the offset follows another surface, before
// power goes on. Source: common practice.
func (c Change) newSurface(w *writer, records []calibration.Record) {
	surface := c.After.First(parts.Surface)
	before, after, changed := c.numbers(surface, parts.SurfaceThickness)
	if !changed {
		return
	}
	thicker := after.Value.Number - before.Value.Number
	higher, says := "higher", "thicker"
	var crash []string
	if thicker < 0 {
		higher, says = "lower", "thinner"
	} else {
		crash = []string{"As it is, the nozzle is driven into the thicker surface at homing."}
	}
	given := map[string]string{"before": quantity.Format(before.Value.Number),
		"after": quantity.Format(after.Value.Number)}
	diff := fmt.Sprintf("%s − %s = %s mm", after.Value.Text, before.Value.Text, minus(thicker))
	switch {
	case touches(c.After): // it follows the surface by itself
	case holds(c.After, parts.Probe):
		given["senses"], given["family"] = "metal", familyOf(c.After)
		s := Step{
			Key:   "offset-of-surface",
			Title: "Enter the offset for the new surface before the first homing",
			Do:    "The probe senses the metal, not the surface: the offset moves by the thickness difference, " + diff + ".",
			Sum:   "another-surface", Given: given, Touches: true, Cautions: crash,
		}
		if old := calibration.NumberOf(c.Before, records, calibration.ZOffset); old != 0 {
			// The record has it with the compiled family's sign; it is entered with this family's.
			was := bench.InFamily(given["family"], old)
			is := bench.InFamily(given["family"], old+thicker)
			given["offset"] = quantity.Format(was)
			s.Do += fmt.Sprintf(" %s %s = %s mm.", minus(was), plus(is-was), minus(is))
		}
		w.add(s)
	case without(c.After, parts.Probe):
		given["senses"] = "endstop"
		w.add(Step{
			Key: "endstop-of-surface",
			Title: fmt.Sprintf("Set the Z endstop %s mm %s before power goes on", quantity.Format(math.Abs(round(thicker))),
				higher),
			Do:  fmt.Sprintf("The new surface is %s: %s. Then paper at the corners.", says, diff),
			Sum: "another-surface", Given: given, Touches: true, Cautions: crash,
		})
	}
}

func round(mm float64) float64 { return math.Round(mm*100) / 100 }

func minus(mm float64) string {
	if mm < 0 {
		return "−" + quantity.Format(-round(mm))
	}
	return quantity.Format(round(mm))
}

func plus(mm float64) string {
	if mm < 0 {
		return "− " + quantity.Format(-round(mm))
	}
	return "+ " + quantity.Format(round(mm))
}
