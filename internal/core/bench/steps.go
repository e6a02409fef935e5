package bench

import (
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

// Agree is how far two statements of steps per mm may differ and still be the
// same: filament sinks into the teeth, so that the effective diameter differs a
// little. A larger difference is a finding. Source: common practice.
const Agree = 0.05

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

// Explanation is a smallest set of facts, one or two, which, being other than stated,
// would give the measured steps per mm with all else as stated.
type Explanation struct {
	Changes []ChangedFact `json:"changes"`
	Why     string        `json:"why"`
}

// ChangedFact is a fact that would have to be another one.
type ChangedFact struct {
	Fact   string  `json:"fact" enum:"step angle,microsteps,gear ratio,drive-gear diameter"`
	Stated float64 `json:"stated"`
	Would  float64 `json:"would" doc:"What it would have to be"`

	words string
	then  Drive
}

// Contradicted reports whether stated parts and measured steps/mm do not agree.
func (d Drive) Contradicted(steps float64) bool {
	e := d.StepsPerMM()
	return e > 0 && steps > 0 && math.Abs(steps/e-1) > Agree
}

// teeth are gear pairs that extruders are built with, motor turns per drive-gear turn.
// Source: from memory.
var teeth = [][2]float64{{1, 1}, {50, 17}, {30, 10}, {35, 10}, {44, 12}, {37, 10}, {62, 16}, {50, 10}}

// pairOf is the pair of teeth of a ratio, as people write it: " (44:12)"; empty where no
// usual pair has it.
func pairOf(ratio float64) string {
	for _, t := range teeth {
		if math.Abs(ratio/(t[0]/t[1])-1) < 0.005 && t[1] > 1 {
			return fmt.Sprintf(" (%g:%g)", t[0], t[1])
		}
	}
	return ""
}

func near(x, y float64) bool { return math.Abs(x/y-1) <= Agree }

// Explain lists the smallest sets of facts that would explain the measured steps/mm, the
// likeliest first: a motor of the other step angle or other microsteps when the number is
// off by a power of two, then another gear pair, then another drive gear. Only where no
// single fact does, two: step angle or microsteps with one of the usual gear pairs. What
// no maker builds, and what is stated already, is left out; an empty list means that
// neither one fact nor two explain it. Source: common practice.
func (d Drive) Explain(steps float64) []Explanation {
	if !d.Contradicted(steps) {
		return nil
	}
	factor := steps / d.StepsPerMM()
	var out []Explanation
	for _, c := range slices.Concat(d.motions(), d.gears(factor)) {
		if near(c.then.StepsPerMM(), steps) {
			out = append(out, Explanation{[]ChangedFact{c}, fmt.Sprintf("%s: %s steps/mm", c.words, show(c.then.StepsPerMM()))})
		}
	}
	if len(out) > 0 {
		return out
	}
	for _, first := range d.motions() {
		for _, t := range teeth {
			second := first.then
			if second.Ratio = t[0] / t[1]; near(second.Ratio, d.Ratio) || !near(second.StepsPerMM(), steps) {
				continue
			}
			words := fmt.Sprintf("%s and a gear pair of %g:%g instead of %s:1", first.words, t[0], t[1], show(d.Ratio))
			out = append(
				out,
				Explanation{
					[]ChangedFact{first, {Fact: "gear ratio", Stated: d.Ratio, Would: second.Ratio, words: words, then: second}},
					fmt.Sprintf("%s: %s steps/mm", words, show(second.StepsPerMM())),
				},
			)
		}
	}
	return out
}

// motions are the other step angles and microsteps that there are.
func (d Drive) motions() []ChangedFact {
	var out []ChangedFact
	for _, angle := range []float64{0.9, 1.8} {
		if then := d; angle != d.StepAngle {
			then.StepAngle = angle
			out = append(out, ChangedFact{"step angle", d.StepAngle, angle, fmt.Sprintf("a motor of %g°", angle), then})
		}
	}
	for m := 1.0; m <= 256; m *= 2 {
		if then := d; m != d.Microsteps {
			then.Microsteps = m
			out = append(out, ChangedFact{"microsteps", d.Microsteps, m, fmt.Sprintf("a driver set to 1/%g step", m), then})
		}
	}
	return out
}

// gears are the gear pair and the drive gear by which the number would be so many times
// what it is, as far as such are built.
func (d Drive) gears(factor float64) []ChangedFact {
	var out []ChangedFact
	if r := d.Ratio * factor; r >= 0.99 && r <= 60 {
		then := d
		then.Ratio = r
		out = append(
			out,
			ChangedFact{
				"gear ratio",
				d.Ratio,
				hundredth(r),
				fmt.Sprintf("a gear pair of about %s:1%s instead of %s:1%s", show(r), pairOf(r), show(d.Ratio), pairOf(d.Ratio)),
				then,
			},
		)
	}
	if dia := d.Diameter / factor; dia >= 5 && dia <= 15 {
		then := d
		then.Diameter = dia
		out = append(
			out,
			ChangedFact{
				"drive-gear diameter",
				d.Diameter,
				hundredth(dia),
				fmt.Sprintf("a drive gear of %s mm instead of %s mm", show(dia), show(d.Diameter)),
				then,
			},
		)
	}
	return out
}

func hundredth(x float64) float64 { return math.Round(x*100) / 100 }

// ExplainChange says what a new number of steps/mm against an old one of the same drive
// means, where its parts are not all known; empty where the two agree. Source: common
// practice: half the step angle or double the microsteps gives exactly twice, a changed
// gear pair scales by the ratio of ratios.
func ExplainChange(old, now float64) []string {
	if old <= 0 || now <= 0 || near(now, old) {
		return nil
	}
	factor := now / old
	var out []string
	for k := 0.125; k <= 8; k *= 2 {
		if k != 1 && near(factor, k) {
			out = append(
				out,
				fmt.Sprintf(
					"%s ÷ %s is about %g: other microsteps, or for 2 and 0.5 the other step angle",
					show(now),
					show(old),
					k,
				),
			)
		}
	}
	for _, t := range teeth[1:] {
		if near(factor, t[0]/t[1]) {
			out = append(out, fmt.Sprintf("a gear pair of %g:%g where there was a direct drive", t[0], t[1]))
		}
		if near(1/factor, t[0]/t[1]) {
			out = append(out, fmt.Sprintf("a direct drive where there was a gear pair of %g:%g", t[0], t[1]))
		}
	}
	if len(out) == 0 {
		out = append(out, fmt.Sprintf("a gear pair %s times the one before: %s ÷ %s", show(factor), show(now), show(old)))
	}
	return out
}

func show(x float64) string { return fmt.Sprintf("%.4g", x) }
