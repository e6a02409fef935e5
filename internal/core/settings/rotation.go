package settings

import (
	"strings"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// usualSteps are the full steps of a turn that the hosted family takes where nothing else is said.
const usualSteps = 200

// WriteOn is Write for a machine: what follows from its motor, driver and gears as well, as the hosted family's
// rotation distance does. None where one of these is not on record.
func WriteOn(s machine.Snapshot, family string, k calibration.Kind, x calibration.Subject, value string) []string {
	if family != parts.Hosted || k != calibration.Steps && k != calibration.AxisSteps {
		return Write(family, k, x, value)
	}
	c, _ := calibration.Of(k)
	n := c.Numbers(x, value)
	if len(n) != 1 || n[0] <= 0 {
		return nil
	}
	section, d := "", bench.Drive{Ratio: 1}
	if axis, is := strings.CutPrefix(string(x), "axis "); is && k == calibration.AxisSteps {
		section = "stepper_" + axis
		if angle, microsteps := bench.AxisMotor(s, x.Place()); angle != nil {
			d.StepAngle, d.Microsteps = angle.Value.Number, microsteps.Value.Number
		}
	} else if k == calibration.Steps {
		section = extruderSection(x.Place().Head())
		for _, extruder := range s.Structure().At(parts.Extruder, x.Place()) {
			d = bench.DriveOf(s, extruder)
		}
	}
	if d.StepAngle <= 0 || d.Microsteps <= 0 || d.Ratio <= 0 {
		return nil
	}
	full := 360 / d.StepAngle
	lines := []string{"[" + section + "]", "microsteps: " + number(d.Microsteps)}
	if full != usualSteps {
		lines = append(lines, "full_steps_per_rotation: "+number(full))
	}
	if d.Ratio != 1 {
		lines = append(lines, "gear_ratio: "+number(d.Ratio)+":1")
	}
	return append(lines, "rotation_distance: "+number(round(full*d.Microsteps*d.Ratio/n[0], 6)))
}
