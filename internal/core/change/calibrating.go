package change

import (
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/parts"
)

// hot are the calibrations that are made on a warm machine: they follow one another, so that
// it is heated once. Source: common practice.
var hot = map[calibration.Kind]bool{
	calibration.HotendPID: true, calibration.BedPID: true, calibration.Tramming: true, calibration.ZOffset: true,
	calibration.Mesh: true, calibration.Steps: true, calibration.Retraction: true, calibration.LoadLength: true,
	calibration.Nozzles: true,
}

// proven are those that are made while the machine is proven, before anything is measured.
var proven = map[calibration.Kind]bool{
	calibration.Protection: true, calibration.Direction: true, calibration.Sensors: true, calibration.Current: true,
}

// calibrate is what is measured again: what is made cold first, then, in one heating, the
// rest in its order.
func (c Change) calibrate(w *writer, x extent) {
	w.phase = "Calibrate"
	var cold, warm []Step
	for _, due := range x.needed {
		switch k := due.Calibration.Kind; {
		case proven[k]:
		case hot[k]:
			warm = append(warm, stepOn(c.After, k, due.Subject))
		default:
			cold = append(cold, stepOn(c.After, k, due.Subject))
		}
	}
	before, after := splitMoving(cold)
	for _, s := range before {
		w.add(s)
	}
	if len(warm) > 1 {
		w.add(Step{
			Key:   "heat-once",
			Title: "Heat the bed and the nozzle once",
			Do: "To the temperatures of the usual material, and wait some minutes: the next steps are all made warm, " +
				"one after the other.",
			Cautions: []string{unproof, "Hot nozzle and bed: burns."},
		})
	}
	for _, s := range warm {
		w.add(s)
	}
	for _, s := range after {
		w.add(s)
	}
}

// splitMoving parts what is made before the bed is levelled from what is made after: a
// resonance is measured on a machine whose heights are right.
func splitMoving(cold []Step) (before, after []Step) {
	for _, s := range cold {
		if s.Calibration == calibration.Resonance {
			after = append(after, s)
			continue
		}
		before = append(before, s)
	}
	return before, after
}

// WhatItWas is the key of the step that says what a fault was and what was done.
const WhatItWas = "what-it-was"

// verify is what shows that the machine prints as it should.
func (c Change) verify(w *writer, x extent) {
	w.phase = "Verify"
	if x.zero() || x.measured() {
		do := "One layer over the whole bed. Watch it."
		if !without(c.After, parts.Probe) {
			do = "One layer over the whole bed. Watch it: a probe that fails during probing may be ignored by the build."
		}
		w.add(Step{Key: firstLayerKey, Title: "First layer", Do: do, Cautions: []string{"Hot nozzle and bed: burns."}})
	}
	if x.measured() {
		w.add(Step{
			Key: afterKey, Title: "Test print beside the baseline", Form: MeasuresForm, Parts: measures(),
			Do: "Same file, same spool, same place. Write down what is better and what is not.",
		})
	}
	if c.Kit.What == repairWhat {
		w.add(Step{Key: WhatItWas, Title: "Say what it was and what was done", Form: NoteForm,
			Do: "The fault is closed with these words; the next who meets it reads them."})
	}
	if len(w.steps) == 0 || w.steps[len(w.steps)-1].Phase != w.phase {
		w.add(Step{Key: "look", Title: "See that it works", Do: "Try what was changed. Cables clear, bench tidy."})
	}
}
