package maintenance

import (
	"cmp"
	"slices"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// suspect is a part, or one trait of it, whose difference between two machines can be why
// only one of them shows a symptom.
type suspect struct {
	kind, trait string // any trait of the kind where trait is empty
	why         string
}

// suspects are those of each symptom, likeliest first. Source: common practice.
var suspects = map[string][]suspect{
	"extruder-clicks": {
		{parts.Tube, "length", "a load that is right for one path runs into the melt zone of a shorter one"},
		{parts.Nozzle, "bore", "a finer nozzle holds back more"},
		{parts.Motor, "current", "a weaker current lets the gear slip"},
		{parts.Hotend, "", "another hotend melts another length at once"},
		{parts.Extruder, "", "another gear grips otherwise"},
	},
	"motor-buzzes": {
		{parts.Motor, "leads", "another order of leads splits the coils over the driver's pairs"},
		{parts.Motor, "", "another motor has another lead order"},
		{parts.Driver, "", "another driver stalls at another current"},
	},
	"axis-backwards": {
		{parts.Motor, "mark", "the revision of that mark turns the other way"},
		{parts.Motor, "leads", "one coil is the other way round"},
		{parts.Firmware, "", "another build inverts another axis"},
	},
	"blank-display": {
		{parts.Firmware, "", "the build is for another display"},
		{parts.Display, "", "another display, or its plug in another connector"},
		{parts.Mainboard, "display-port", "another header"},
	},
	"probe-blinks": {{parts.Probe, "", "another probe"}, {parts.Bracket, "", "the bracket holds it lower"}},
	"wont-update": {
		{parts.Firmware, "file", "the board ignores the name that it flashed last"},
		{parts.Mainboard, "bootloader", "without a bootloader nothing takes the file"},
		{parts.Card, "", "another card"},
		{parts.Mainboard, "upload", "another way in"},
	},
	"first-layer-high": {
		{parts.Surface, "thickness", "a thinner surface lies lower under the same offset"},
		{parts.Card, "", "the offset belongs to the card"},
		{parts.Probe, "", "another probe has another offset"},
		{parts.Springs, "", "the bed stands at another height"},
		{parts.Nozzle, "", "another nozzle ends at another height"},
	},
	"levels-drift": {
		{parts.Springs, "", "weak springs give way"},
		{parts.Plate, "", "another plate bends otherwise"},
		{parts.ZDrive, "", "one motor of two lets the gantry lean"},
	},
	"salmon-skin": {
		{parts.Driver, "silent", "drivers that are not silent draw these stripes"},
		{parts.Driver, "", "another driver"},
		{parts.Motor, "step-angle", "half as many steps a turn"},
	},
	"ringing": {
		{parts.Toolhead, "grams", "a heavier head rings at a lower frequency"},
		{parts.Belts, "", "other belts"},
		{parts.Extruder, "", "an extruder that rides along is mass on the head"},
		{parts.Frame, "", "another frame"},
	},
	"under-extrusion": {
		{parts.Extruder, "ratio", "steps per mm follow from the gear"},
		{parts.Extruder, "", "steps per mm are those of another extruder"},
		{parts.Nozzle, "", "a finer or worn nozzle gives less"},
		{parts.Driver, "microsteps", "steps per mm follow from the microsteps"},
		{parts.Motor, "step-angle", "steps per mm follow from the step angle"},
	},
	"host-lost": {
		{parts.Host, "version", "host and mainboard must be of one version"},
		{parts.Firmware, "version", "host and mainboard must be of one version"},
		{parts.Mainboard, "", "another serial chip has another path"},
	},
	"not-sticking": {
		{parts.Surface, "", "another surface holds otherwise"},
		{parts.Plate, "", "another plate bends or heats otherwise"},
		{parts.Sensor, "type", "a bed whose sensor is another shows another temperature"},
		{parts.Probe, "", "another probe has another offset"},
	},
	"clogged": {
		{parts.Nozzle, "bore", "a finer nozzle clogs sooner"},
		{parts.Hotend, "", "another hotend lets heat creep up"},
		{parts.Tube, "", "a tube that is not seated leaves a gap that fills"},
		{parts.Extruder, "", "another gear grinds the filament"},
	},
	"shifted": {
		{parts.Belts, "", "other belts"},
		{parts.Driver, "", "another driver stalls at another current"},
		{parts.Motor, "", "a weaker motor loses steps"},
		{parts.Toolhead, "grams", "a heavier head needs more force"},
	},
	"ran-out": {
		{parts.Runout, "", "another run-out sensor, or none"},
		{parts.Firmware, "", "a build without filament change"},
	},
	"sparks": {
		{parts.Supply, "", "another supply"},
		{parts.Heater, "", "a stronger heater draws more than a terminal bears"},
	},
	"shock": {
		{parts.Relay, "earthed", "without an earthed plate a fault puts mains voltage on it"},
		{parts.Supply, "", "another supply leaks otherwise"},
	},
	"heater-stays-on": {
		{parts.Sensor, "type", "a build that believes in another sensor shows another temperature"},
		{parts.Relay, "amperes", "a relay under its load fails closed"},
		{parts.Mainboard, "", "another board's output fails otherwise"},
	},
	"cracked-lead": {
		{parts.Heater, "", "a heater of more watts has stiffer leads"},
		{parts.Plate, "", "another plate leads them otherwise"},
	},
	"too-hot": {
		{parts.Sensor, "type", "a build that believes in another sensor shows another temperature"},
		{parts.Firmware, "", "the build believes in another sensor"},
		{parts.Heater, "", "a stronger heater"},
		{parts.Supply, "volts", "double the volts is four times the power"},
	},
}

// Suspicion is a difference that can cause a symptom.
type Suspicion struct {
	machine.Difference
	Why string // empty where it is not known to cause it
}

// Rank puts first the differences that can cause a symptom, likeliest first, with why;
// the others follow in their order. A difference of certainty alone causes nothing.
func Rank(voc *machine.Vocabulary, symptom string, differences []machine.Difference) []Suspicion {
	order := suspects[symptom]
	rank := func(d machine.Difference) int {
		if d.Value {
			for i, s := range order {
				if voc.Is(d.Trait.Position().Kind, s.kind) && (s.trait == "" || s.trait == d.Trait.Name) {
					return i
				}
			}
		}
		return len(order)
	}
	out := make([]Suspicion, len(differences))
	ranks := map[machine.Key]int{}
	for i, d := range differences {
		out[i].Difference = d
		n := rank(d)
		ranks[d.Trait.Key()] = n
		if n < len(order) {
			out[i].Why = order[n].why
		}
	}
	slices.SortStableFunc(out, func(a, b Suspicion) int {
		return cmp.Compare(ranks[a.Trait.Key()], ranks[b.Trait.Key()])
	})
	return out
}
