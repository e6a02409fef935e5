package change

import (
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/parts"
)

// prove is what a machine has to show before it is trusted, in the order in which nothing
// heats before its sensor is believed and nothing moves before its motor is set. Source:
// common practice.
func (c Change) prove(w *writer, x extent, records []calibration.Record) {
	w.phase = "Prove"
	// Without heat and without mains: the board hangs on USB alone.
	for _, of := range x.subjects(calibration.Protection) {
		w.add(stepOn(c.After, calibration.Protection, of))
	}
	c.newSurface(w, records)
	switch {
	case x.wired || x.flashes:
		w.add(Step{
			Key:      "first-power",
			Title:    "Power on: smell and look",
			Do:       "Hand at the switch. Smoke, smell, a hot board or a fan that stands still: off again.",
			Cautions: []string{mains, unproof},
		})
	case x.off || x.bed:
		w.add(Step{Key: "first-power", Title: "Power on", Do: "Hand at the switch; nothing touches what it should not."})
	}
	if x.needs(calibration.Sensors) || x.flashes {
		w.add(coldStep(c.After))
	}
	for _, of := range x.subjects(calibration.Current) {
		w.add(c.currentStep(of))
	}
	if x.wired {
		w.add(Step{
			Key:   "cover-on",
			Title: "Cover on, before anything moves or heats",
			Do: "Power off and plug out for it. No wire in the gap; slack at the far end of every axis. Then plug in " +
				"again.",
			Cautions: []string{mains, sharp},
		})
	}
	c.proveHeat(w, x)
	c.proveMotion(w, x)
}

func (c Change) proveHeat(w *writer, x extent) {
	if x.needs(calibration.HotendPID) || x.flashes || x.wired && x.onHead {
		w.add(Step{Key: "hotend-fan", Title: "Hotend fan",
			Do: "It runs as soon as the hotend is warm, or always: it does not stand " +
				"still while the hotend heats.", Cautions: []string{burn}})
	}
	if x.needs(calibration.Sensors) || x.needs(calibration.HotendPID) || x.needs(calibration.BedPID) ||
		x.needs(calibration.Protection) || x.flashes {
		w.add(Step{
			Key:      "heaters",
			Title:    "Each heater rises where it should",
			Do:       "Nozzle to 50 °C: the nozzle's reading rises, the bed's does not. Then the bed. Then both off.",
			Cautions: []string{unproof, "Hot nozzle and bed: burns."},
		})
	}
}

func (c Change) proveMotion(w *writer, x extent) {
	if c.exchanges(parts.Probe) || c.exchanges(parts.Endstop) || x.flashes {
		title := "Each endstop and the probe reads open and closed by hand"
		if without(c.After, parts.Probe) {
			title = "Each endstop reads open and closed by hand"
		}
		w.add(Step{
			Key:      "switches",
			Title:    title,
			Do:       c.switches(),
			Cautions: []string{"Moving axes: keep fingers out from under the nozzle."},
		})
	}
	if of := x.subjects(calibration.Direction); len(of) > 0 {
		w.add(directionStep(of))
	}
	if x.moves {
		where := "X and Y first, then Z."
		if holds(c.After, parts.Probe) {
			where = "X and Y first, then Z over the bed's centre: at the corner a probe would miss the bed and crash the nozzle."
		}
		w.add(Step{Key: "home", Title: "Home", Do: "Hand at the switch. " + where, Cautions: []string{pinch}})
	}
	if x.flashes || x.wired && (x.onHead || c.exchanges(parts.CaseFan) || c.exchanges(parts.Mainboard)) {
		w.add(Step{Key: "fans", Title: "Fans", Do: "Part fan at half and full, case fan as it should."})
	}
}

// switches says how the states of the endstops and the probe are read.
func (c Change) switches() string {
	do := "Press each endstop and read its state (M119)."
	if familyOf(c.After) == parts.Hosted {
		do = "Press each endstop and read its state (QUERY_ENDSTOPS in the console)."
	}
	switch {
	case touches(c.After):
		do += " Deploy the probe clear of the bed, touch its pin, see it switch. A probe too close to the bed at " +
			"power-up fails its self-test and blinks: lift Z and cycle power."
	case holds(c.After, parts.Probe):
		do += " Hold metal under the probe and see it switch."
	}
	return do
}

// currentStep is the step at which a motor's current is set.
func (c Change) currentStep(of calibration.Subject) Step {
	s := stepOn(c.After, calibration.Current, of)
	if guardsMains(c.After) {
		s.Cautions = append(s.Cautions,
			"Mains wiring lies under this cover: it is not opened under power. Set the current by "+
				"register, or have it set by licensed practice.")
		return s
	}
	s.Cautions = append(s.Cautions,
		"The cover is open and the power on for this step alone: plastic screwdriver, touch nothing "+
			"else, never plug or unplug a motor.")
	return s
}
