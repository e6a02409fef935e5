package bench

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Drive is what pushes the filament: motor, driver and gears. A zero is a fact
// that is unknown.
type Drive struct {
	StepAngle  float64 // °, of a full step
	Microsteps float64 // per full step
	Ratio      float64 // motor turns per drive-gear turn
	Diameter   float64 // mm, effective, of the drive gear
}

// DriveOf gathers what pushes the filament of an extruder: the motor of the same
// head, and the driver that feeds it.
func DriveOf(s machine.Snapshot, extruder *machine.Position) Drive {
	motor, driver := DriveParts(s, extruder)
	n := func(p *machine.Position, name machine.TraitOf) float64 { return s.Of(p, name).Value.Number }
	return Drive{StepAngle: n(motor, parts.MotorStepAngle), Microsteps: n(driver, parts.DriverMicrosteps),
		Ratio: n(extruder, parts.ExtruderRatio), Diameter: n(extruder, parts.ExtruderGearDiameter)}
}

// DriveParts are the motor of an extruder and the driver that feeds it; nil where
// the machine has none.
func DriveParts(s machine.Snapshot, extruder *machine.Position) (motor, driver *machine.Position) {
	motor = s.Structure().Beside(extruder, parts.Motor)
	return motor, s.Structure().FedBy(motor).To
}

// agree is how far two statements of steps per mm may differ and still be the
// same: filament sinks into the teeth, so that the effective diameter differs a
// little. A larger difference is a finding. Source: common practice.
const agree = 0.05

// StepsPerMM is e = 360/angle × microsteps × ratio ÷ (π × diameter), in
// steps/mm; 0 when a fact is unknown. Source: common practice.
func (d Drive) StepsPerMM() float64 {
	if d.StepAngle <= 0 || d.Microsteps <= 0 || d.Ratio <= 0 || d.Diameter <= 0 {
		return 0
	}
	return 360 / d.StepAngle * d.Microsteps * d.Ratio / (math.Pi * d.Diameter)
}

// GearDiameter is the effective drive-gear diameter, in mm, that gives the
// measured steps/mm; 0 when one of the other facts is unknown.
func (d Drive) GearDiameter(steps float64) float64 {
	d.Diameter = 1 / math.Pi
	if e := d.StepsPerMM(); e > 0 && steps > 0 {
		return e / (math.Pi * steps)
	}
	return 0
}

// Explanation is one fact which, being other than stated, would give the
// measured steps per mm with all else as stated.
type Explanation struct {
	Fact   string  `json:"fact" enum:"step angle,microsteps,gear ratio,drive-gear diameter"`
	Stated float64 `json:"stated"`
	Would  float64 `json:"would" doc:"What it would have to be"`
	Why    string  `json:"why"`
}

// Contradicted reports whether stated parts and measured steps/mm do not agree.
func (d Drive) Contradicted(steps float64) bool {
	e := d.StepsPerMM()
	return e > 0 && steps > 0 && math.Abs(steps/e-1) > agree
}

// Explain lists which single fact would explain the measured steps/mm, the
// likeliest first: a motor of the other step angle or other microsteps when
// the number is off by a power of two, then another gear pair, then another
// drive gear. What no maker builds is left out; an empty list means that no
// single fact explains it. Source: common practice.
func (d Drive) Explain(steps float64) []Explanation {
	if !d.Contradicted(steps) {
		return nil
	}
	factor := steps / d.StepsPerMM()
	var out []Explanation
	near := func(x, y float64) bool { return math.Abs(x/y-1) <= agree }
	for _, angle := range []float64{0.9, 1.8} {
		if near(d.StepAngle/factor, angle) {
			out = append(out, Explanation{"step angle", d.StepAngle, angle, fmt.Sprintf("a motor of %g°: %s steps/mm", angle, show(Drive{angle, d.Microsteps, d.Ratio, d.Diameter}.StepsPerMM()))})
		}
	}
	for m := 1.0; m <= 256; m *= 2 {
		if near(d.Microsteps*factor, m) && m != d.Microsteps {
			out = append(out, Explanation{"microsteps", d.Microsteps, m, fmt.Sprintf("a driver set to 1/%g step: %s steps/mm", m, show(Drive{d.StepAngle, m, d.Ratio, d.Diameter}.StepsPerMM()))})
		}
	}
	if r := d.Ratio * factor; r >= 0.99 && r <= 60 {
		out = append(out, Explanation{"gear ratio", d.Ratio, math.Round(r*100) / 100, fmt.Sprintf("a gear pair of about %s:1 instead of %s:1", show(r), show(d.Ratio))})
	}
	if dia := d.Diameter / factor; dia >= 5 && dia <= 15 {
		out = append(out, Explanation{"drive-gear diameter", d.Diameter, math.Round(dia*100) / 100, fmt.Sprintf("a drive gear of %s mm instead of %s mm", show(dia), show(d.Diameter))})
	}
	order := map[string]int{"step angle": 0, "microsteps": 1, "gear ratio": 2, "drive-gear diameter": 3}
	slices.SortStableFunc(out, func(a, b Explanation) int { return cmp.Compare(order[a.Fact], order[b.Fact]) })
	return out
}

func show(x float64) string { return fmt.Sprintf("%.4g", x) }
