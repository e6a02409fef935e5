package bench

import (
	"fmt"
	"math"
)

var (
	law = Input{Key: "law", Label: "Kind of driver", Default: FullScale,
		Choices: choices(FullScale, "silent, 0.325 V full scale", GainOf8, "chopper, gain of 8", GainOf5,
			"chopper, gain of 5")}
	senseOhms = Input{Key: "rs", Label: "Sense resistor", Unit: "Ω", Min: 0.01, Max: 1, Usual: [2]float64{0.05, 0.25},
		Default: "0.11", Hint: "Printed on it: R100 is 0.1, R110 is 0.11"}
	wired = Input{Key: "wired", Label: "Motors on this driver", Default: "one",
		Choices: choices("one", "one motor", "parallel", "two in parallel", "series", "two in series")}
)

func currentCalculators() []Calculator {
	const group = "Motor current"
	const sources = "A4988 datasheet (gain of 8); DRV8825 datasheet (gain of 5); TMC2208 datasheet (0.325 V full scale, " +
		"20 mΩ in the chip); usable range of its reference: from memory"
	return []Calculator{
		{
			Key: "current-from-voltage", Title: "Current from a reference voltage", Group: group,
			About: "What the pot on the driver is set to now.", Source: sources,
			Inputs: []Input{law, senseOhms,
				{Key: "vref", Label: "Reference voltage", Unit: "V", Min: 0, Max: 5, Usual: [2]float64{0.1, 2.5}}, wired},
			work: currentFromVoltage,
		},
		{
			Key: "voltage-for-current", Title: "Reference voltage for a current", Group: group,
			About: "The set-point for the meter, with what is near enough.", Source: sources,
			Inputs: []Input{law, senseOhms,
				{Key: "rms", Label: "Current wanted in each motor, RMS", Unit: "A", Min: 0.05, Max: 5, Usual: [2]float64{0.2, 2}},
				wired},
			work: voltageForCurrent,
		},
		{
			Key: "current-register", Title: "Current by register", Group: group,
			About:  "Drivers that are set by firmware know 32 steps: which one is taken.",
			Source: "TMC2208 datasheet, I rms = (CS + 1)/32 × Vfs ÷ (Rs + 0.02) ÷ √2",
			Inputs: []Input{senseOhms,
				{Key: "scale", Label: "Full scale", Default: "0.325",
					Choices: choices("0.325", "0.325 V", "0.180", "0.180 V (high sensitivity)")},
				{Key: "rms", Label: "Current wanted, RMS", Unit: "A", Min: 0.01, Max: 5, Usual: [2]float64{0.2, 2}}, family},
			work: currentRegister,
		},
	}
}

// perMotor is the share of a driver's current that each motor gets.
func perMotor(wired string) float64 {
	if wired == "parallel" {
		return 0.5
	}
	return 1
}

// potCautions stand where a pot is set: the power is on.
var potCautions = []string{
	"The power is on while this is set: a plastic screwdriver, touch nothing else, tiny turns. Never plug or unplug " +
		"a motor " +
		"with power on.",
}

func currentFromVoltage(v Values) (Result, error) {
	c, err := CurrentAt(v.Word("law"), v.Number("vref"), v.Number("rs"))
	if err != nil {
		return Result{}, err
	}
	each := perMotor(v.Word("wired"))
	r := Result{
		Figures: []Figure{figure("rms", "Current in each motor, RMS", c.RMS*each, "A"),
			figure("peak", "Peak", c.Peak*each, "A")},
		Formula: []string{fmt.Sprintf("%s; Vref %s V, Rs %s Ω: peak %s A, ÷ √2 = %s A RMS", c.Formula,
			Rounded(v.Number("vref")),
			Rounded(v.Number("rs")), Rounded(c.Peak), Rounded(c.RMS))},
		Remarks:  fullScaleRange(v.Word("law"), v.Number("vref")),
		Cautions: potCautions,
		Next:     "Compiled and hosted firmware state RMS, scripted the peak: compare like with like.",
	}
	if each < 1 {
		r.Remarks = append(r.Remarks, "Two motors in parallel share the driver's current: each has half.")
	}
	return r, nil
}

// fullScaleRange says where a reference voltage does not do what the law says. Source: TMC2208
// datasheet for the upper bound; the lower from memory.
func fullScaleRange(law string, vref float64) []string {
	switch {
	case law != FullScale:
		return nil
	case vref > 2.5:
		return []string{"This driver counts its reference up to 2.5 V only: more changes nothing."}
	case vref < 0.5:
		return []string{"Below 0.5 V this driver's reference is unreliable: set it by register, or take another sense " +
			"resistor."}
	}
	return nil
}

func voltageForCurrent(v Values) (Result, error) {
	wanted := v.Number("rms") / perMotor(v.Word("wired"))
	one, err := CurrentAt(v.Word("law"), 1, v.Number("rs"))
	if err != nil {
		return Result{}, err
	}
	vref := wanted / one.RMS
	if vref > 5 {
		return Result{}, fault("rms", "%s A would need %s V: this driver with this resistor cannot give it", Rounded(wanted),
			Rounded(vref))
	}
	r := Result{
		Figures: []Figure{
			figure("vref", "Reference voltage", vref, "V"),
			figure("low", "Near enough from", vref*0.95, "V"),
			figure("high", "to", vref*1.05, "V"),
			figure("rms", "Current in each motor, RMS", v.Number("rms"), "A"),
			figure("peak", "Peak in each motor", v.Number("rms")*math.Sqrt2, "A"),
		},
		Formula: []string{fmt.Sprintf("1 V gives %s A RMS: %s ÷ %s = %s V", Rounded(one.RMS), Rounded(wanted),
			Rounded(one.RMS),
			Rounded(vref))},
		Remarks:  fullScaleRange(v.Word("law"), vref),
		Cautions: potCautions,
		Next: "Meter minus on the supply's minus, plus on the pot's screw. Measure again after each turn; within 5 " +
			"% is done.",
	}
	if v.Word("wired") == "parallel" {
		r.Remarks = append(r.Remarks, "Two motors in parallel share the driver's current: the driver is set to twice.")
	}
	return r, nil
}

// RegisterCurrent is the current, A RMS, of step cs (0 to 31) of a driver that is set by
// register, with its full scale in V and its sense resistor in Ω. Source: TMC2208 datasheet.
func RegisterCurrent(cs int, scale, rs float64) float64 {
	return float64(cs+1) / 32 * scale / (rs + 0.02) / math.Sqrt2
}

func currentRegister(v Values) (Result, error) {
	scale := 0.325
	if v.Word("scale") == "0.180" {
		scale = 0.180
	}
	rs, wanted := v.Number("rs"), v.Number("rms")
	greatest := RegisterCurrent(31, scale, rs)
	if wanted > greatest {
		return Result{}, fault("rms", "%s A is more than this driver can be set to: %s A at most with %s Ω", Rounded(wanted),
			Rounded(greatest), Rounded(rs))
	}
	// The step at or below what is wanted: a motor bears less, not more.
	cs := max(0, int(math.Floor(wanted/greatest*32+1e-9))-1)
	is := RegisterCurrent(cs, scale, rs)
	r := Result{
		Figures: []Figure{
			figure("is", "Current that is set, RMS", is, "A"),
			figure("cs", "Step (CS)", float64(cs), ""),
			figure("peak", "Peak", is*math.Sqrt2, "A"),
			figure("next", "The next step would give", RegisterCurrent(min(31, cs+1), scale, rs), "A"),
		},
		Formula: []string{fmt.Sprintf("(%d + 1)/32 × %g ÷ (%s + 0.02) ÷ √2 = %s A RMS", cs, scale, Rounded(rs), Rounded(is))},
	}
	switch v.Word("family") {
	case "compiled":
		r.Lines = []string{fmt.Sprintf("M906 X%d", int(math.Round(wanted*1000)))}
		r.Remarks = []string{"Compiled firmware takes milliamperes RMS."}
	case "scripted":
		r.Lines = []string{fmt.Sprintf("M906 X%d", int(math.Round(wanted*1000*math.Sqrt2)))}
		r.Remarks = []string{"Scripted firmware takes milliamperes of the peak: √2 times the RMS."}
	case "hosted":
		r.Lines = []string{fmt.Sprintf("run_current: %.3f", wanted)}
		r.Remarks = []string{"Hosted firmware takes amperes RMS."}
	}
	return r, nil
}
