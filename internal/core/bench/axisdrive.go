package bench

import (
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// AxisDrive is what the steps of an axis follow from.
type AxisDrive struct {
	StepsPerMM float64
	By         string          // "screw", or "pulley and belt"
	Facts      []*machine.Fact // the step angle, the microsteps, and the lead, or the teeth and the pitch
}

// AxisMotor are the step angle of the motor that moves an axis and the microsteps of the driver that feeds it; nil
// where it has none. Further motors of an axis are like its first.
func AxisMotor(s machine.Snapshot, axis machine.Place) (angle, microsteps *machine.Fact) {
	motors := s.Structure().At(parts.Motor, axis)
	if len(motors) == 0 {
		return nil, nil
	}
	return s.Of(motors[0], parts.MotorStepAngle), s.Of(s.Structure().FedBy(motors[0]).To, parts.DriverMicrosteps)
}

// AxisDriveOf is full steps × microsteps ÷ lead of an axis that a screw drives, and ÷ (teeth × pitch) of X and
// Y where belts do; false where a fact is unknown, or belts of two kinds are on record. Source: common practice.
func AxisDriveOf(s machine.Snapshot, axis machine.Place) (AxisDrive, bool) {
	angle, microsteps := AxisMotor(s, axis)
	if angle == nil {
		return AxisDrive{}, false
	}
	d := AxisDrive{Facts: []*machine.Fact{angle, microsteps}}
	perTurn := 1.0
	by := func(words string, facts ...*machine.Fact) {
		d.By, d.Facts = words, append(d.Facts, facts...)
		for _, f := range facts {
			perTurn *= f.Value.Number
		}
	}
	if screws := s.Structure().At(parts.ZDrive, axis); len(screws) > 0 {
		by("screw", s.Of(screws[0], parts.ZLead))
	} else if belts := s.Each(parts.Belts); len(belts) > 0 && (axis == machine.Axis("x") || axis == machine.Axis("y")) {
		teeth, pitch := s.Of(belts[0], parts.BeltTeeth), s.Of(belts[0], parts.BeltPitch)
		for _, other := range belts[1:] {
			if s.Of(other, parts.BeltTeeth).Value != teeth.Value || s.Of(other, parts.BeltPitch).Value != pitch.Value {
				return AxisDrive{}, false
			}
		}
		by("pulley and belt", teeth, pitch)
	}
	if d.By == "" {
		return AxisDrive{}, false
	}
	for _, f := range d.Facts {
		if !f.Known() || f.Value.Number <= 0 {
			return AxisDrive{}, false
		}
	}
	d.StepsPerMM = 360 / d.Facts[0].Value.Number * d.Facts[1].Value.Number / perTurn
	return d, true
}
