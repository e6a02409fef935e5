package settings

import (
	"fmt"
	"math"
	"strings"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/parts"
)

// Write gives the lines that put a value on record into a machine of a firmware family, to be
// copied as they stand; none where the family has no word for it that follows from the value
// alone: a rotation distance needs the gears, a driver's section its chip. Read understands
// them. Source of the words: from memory.
func Write(family string, k calibration.Kind, x calibration.Subject, value string) []string {
	c, ok := calibration.Of(k)
	if !ok {
		return nil
	}
	n := c.Numbers(x, value)
	if len(n) == 0 || len(n) < len(c.Parts) {
		return nil
	}
	if k == calibration.ZOffset {
		return bench.SetZOffset(family, n[0])
	}
	switch family {
	case parts.Compiled:
		return gcode(k, x, n, "M851")
	case parts.Scripted:
		if k == calibration.HotendPID || k == calibration.BedPID {
			return nil // the family models its heaters otherwise
		}
		if x.Head() > 1 && (k == calibration.Steps || k == calibration.Current) {
			return nil // one list states all heads, and the others are not known here
		}
		if k == calibration.Current {
			n[0] *= math.Sqrt2 // peak
		}
		return gcode(k, x, n, "G31")
	case parts.Hosted:
		return section(k, x, n)
	}
	return nil
}

// gcode is a value as a G-code word; probe is the family's word of where the probe is.
func gcode(k calibration.Kind, x calibration.Subject, n []float64, probe string) []string {
	tool, heater := "", ""
	if h := x.Place().Head(); h > 1 {
		tool, heater = fmt.Sprintf("T%d ", h-1), fmt.Sprintf("E%d ", h-1)
	}
	switch k {
	case calibration.Steps:
		return []string{fmt.Sprintf("M92 %sE%s", tool, number(n[0]))}
	case calibration.AxisSteps:
		return []string{fmt.Sprintf("M92 %s%s", strings.ToUpper(strings.TrimPrefix(string(x), "axis ")), number(n[0]))}
	case calibration.HotendPID:
		return []string{"M301 " + heater + pidOf(n)}
	case calibration.BedPID:
		return []string{"M304 " + pidOf(n)}
	case calibration.ProbeXY:
		return []string{fmt.Sprintf("%s X%s Y%s", probe, number(n[0]), number(n[1]))}
	case calibration.Current:
		letter := "E"
		if axis, is := strings.CutPrefix(string(x), "axis "); is && len(axis) == 1 {
			letter = strings.ToUpper(axis)
		}
		return []string{fmt.Sprintf("M906 %s%s%.0f", tool, letter, n[0]*1000)}
	}
	return nil
}

// section is a value as keys under their section.
func section(k calibration.Kind, x calibration.Subject, n []float64) []string {
	keys := []string{"pid_kp", "pid_ki", "pid_kd"}
	var at string
	switch k {
	case calibration.HotendPID:
		at = extruderSection(x.Place().Head())
	case calibration.BedPID:
		at = "heater_bed"
	case calibration.ProbeXY:
		at, keys = "probe", []string{"x_offset", "y_offset"}
	default:
		return nil
	}
	out := []string{"[" + at + "]"}
	for i, key := range keys {
		out = append(out, key+": "+number(n[i]))
	}
	return out
}

// extruderSection is the section of a head of the hosted family, from 1.
func extruderSection(head int) string {
	const first = "extruder"
	if head <= 1 {
		return first
	}
	return fmt.Sprintf("%s%d", first, head-1)
}

func pidOf(n []float64) string {
	return fmt.Sprintf("P%s I%s D%s", number(n[0]), number(n[1]), number(n[2]))
}
