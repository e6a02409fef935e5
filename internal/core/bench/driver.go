package bench

import (
	"fmt"
	"math"
)

// Laws by which a driver's reference voltage sets its current.
const (
	GainOf8   = "gain-of-8 chopper"
	GainOf5   = "gain-of-5 chopper"
	FullScale = "full-scale 0.325 V"
)

// DriverCurrent is what a reference voltage sets.
type DriverCurrent struct {
	Peak    float64 `json:"peak" doc:"A"`
	RMS     float64 `json:"rms" doc:"A; what the hosted family takes. The scripted family takes the peak"`
	Formula string  `json:"formula" doc:"The law, with the numbers in it where they are known"`
}

// CurrentAt is the current that a reference voltage (V) sets by a law with a
// sense resistor (Ω). A sine drive's RMS is its peak ÷ √2.
// Source: A4988 datasheet (gain of 8), DRV8825 datasheet (gain of 5),
// TMC2208 datasheet, "Setting the motor current" (0.325 V full scale, 20 mΩ of
// wiring in the chip).
func CurrentAt(law string, vref, rs float64) (DriverCurrent, error) {
	if rs <= 0 || rs > 1 || vref < 0 || vref > 5 {
		return DriverCurrent{}, fmt.Errorf(
			"a sense resistor of %g Ω and a reference of %g V cannot be: write Ω such as 0.1, and volts from 0 to 5",
			rs,
			vref,
		)
	}
	var c DriverCurrent
	switch law {
	case GainOf8:
		c.Peak = vref / (8 * rs)
	case GainOf5:
		c.Peak = vref / (5 * rs)
	case FullScale:
		c.Peak = 0.325 / (rs + 0.02) * vref / 2.5
	default:
		return c, fmt.Errorf("%q is no law that is known here", law)
	}
	c.RMS = c.Peak / math.Sqrt2
	c.Formula = LawFormula(law)
	return c, nil
}

// LawFormula writes a law; empty when there is none of the name.
func LawFormula(law string) string {
	switch law {
	case GainOf8:
		return "I peak = Vref ÷ (8 × Rs)"
	case GainOf5:
		return "I peak = Vref ÷ (5 × Rs)"
	case FullScale:
		return "I rms = 0.325 ÷ (Rs + 0.02) ÷ √2 × Vref ÷ 2.5"
	}
	return ""
}
