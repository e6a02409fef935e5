package change

import (
	"math"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/quantity"
)

// takes are the figures of a calculator that a calibration records. A feed on the hosted
// family gives a rotation distance, and how level a plate is tells no one figure of its mesh
// alone: these are typed.
var takes = map[string][]string{
	"steps-feed": {"steps"}, "axis-belt": {"steps"}, "axis-screw": {"steps"}, "voltage-for-current": {"rms"},
	"mesh": {"spread"}, "filament-change": {"slow", "fast", "purge"},
}

// NameFigures sets the figures that the step takes from its calculator. Orders of earlier versions kept steps without
// them.
func (s *Step) NameFigures() {
	if s.Calibration != "" && s.Calibration != calibration.Tramming {
		s.Takes = takes[s.Sum]
	}
}

// sumFor is the calculator that helps with a calibration of a subject, by its key, and what
// the machine's record knows of what it asks for.
func sumFor(s machine.Snapshot, k calibration.Kind, x calibration.Subject) (key string, given map[string]string) {
	given = map[string]string{}
	switch k {
	case calibration.Steps:
		d, e := driveAt(s, x)
		family := familyOf(s)
		if family == parts.Hosted {
			if e > 0 {
				given["old"] = figureText(360 / d.StepAngle * d.Microsteps * d.Ratio / e)
			}
			return "rotation-feed", given
		}
		if family != "" {
			given["family"] = family
		}
		if e > 0 {
			given["old"] = figureText(e)
		}
		return "steps-feed", given
	case calibration.AxisSteps:
		for _, motor := range s.Structure().At(parts.Motor, x.Place()) {
			knows(given, "angle", s, motor, parts.MotorStepAngle)
			knows(given, "microsteps", s, s.Structure().FedBy(motor).To, parts.DriverMicrosteps)
			break // further motors of the axis are like the first
		}
		if len(s.Structure().At(parts.ZDrive, x.Place())) > 0 {
			return "axis-screw", given
		}
		knows(given, "pitch", s, s.First(parts.Belts), parts.BeltPitch)
		knows(given, "teeth", s, s.First(parts.Belts), parts.BeltTeeth)
		return "axis-belt", given
	case calibration.Current:
		for _, p := range s.Each(parts.Driver) {
			if p.Serves != x.Place() {
				continue
			}
			if l := s.Of(p, parts.DriverLaw).Value.Text; l == bench.GainOf8 || l == bench.GainOf5 || l == bench.FullScale {
				given["law"] = l
			}
			if rs := s.Of(p, parts.DriverSense); rs.Known() {
				given["rs"] = quantity.Format(rs.Value.Number)
			}
		}
		return "voltage-for-current", given
	case calibration.Tramming, calibration.Mesh:
		return "mesh", given
	case calibration.LoadLength:
		if _, e := driveAt(s, x); e > 0 {
			given["steps"] = figureText(e)
		}
		return "filament-change", given
	}
	return "", nil
}

// knows puts a number of the record before the field that asks for it, where it is known.
func knows(given map[string]string, field string, s machine.Snapshot, at *machine.Position, t machine.TraitOf) {
	if n, ok := s.Number(at, t); ok {
		given[field] = quantity.Format(n)
	}
}

// driveAt is the drive of the head that a subject names, with the steps/mm that follow from
// its parts; 0 where one of them is unknown.
func driveAt(s machine.Snapshot, x calibration.Subject) (bench.Drive, float64) {
	for _, p := range s.Each(parts.Extruder) {
		if p.Serves == x.Place() {
			d := bench.DriveOf(s, p)
			return d, d.StepsPerMM()
		}
	}
	return bench.Drive{}, 0
}

func figureText(n float64) string { return quantity.Format(math.Round(n*100) / 100) }
