package bench

import (
	"fmt"
	"math"
)

func heaterCalculators() []Calculator {
	const group = "Heaters"
	volts := Input{Key: "volts", Label: "Voltage", Unit: "V", Min: 1, Max: 400, Usual: [2]float64{5, 240}}
	material := choices("897", "aluminium", "840", "glass", "490", "steel")
	return []Calculator{
		{
			Key: "heater-ohms", Title: "Heater power from its resistance", Group: group,
			About:  "An ohmmeter on the cold heater tells its power, and whether it is for this voltage.",
			Source: "P = V² ÷ R",
			Inputs: []Input{volts, {Key: "ohms", Label: "Resistance, cold", Unit: "Ω", Min: 0.1, Max: 10000,
				Usual: [2]float64{1, 500},
				Hint:  "Power off, plug pulled, heater unplugged"}},
			work: heaterOhms,
		},
		{
			Key: "heater-power", Title: "Heater current and power cap", Group: group,
			About:  "What a heater draws, and how far its power has to be capped for a supply, a breaker or a contact.",
			Source: "P = V²/R, I = P/V; at duty d: power d, RMS current √d, thermal limit d ≤ (I limit ÷ I)²",
			Inputs: []Input{{Key: "watts", Label: "Power of the heater", Unit: "W", Min: 1, Max: 5000, Usual: [2]float64{20,
				1500}}, volts,
				{Key: "limit", Label: "Current that may flow", Unit: "A", Min: 0.1, Max: 100, Optional: true},
				{Key: "duty", Label: "Duty that is set", Unit: "%", Min: 1, Max: 100, Default: "100"}},
			work: heaterPower,
		},
		{
			Key: "warm-up", Title: "Bed warm-up", Group: group,
			About:  "How long a plate takes, and how hot it gets at all.",
			Source: "t = (m·c/k) · ln(P/(P − k·ΔT)); specific heat: CRC Handbook (aluminium 897, glass about 840 J/(kg·K))",
			Inputs: []Input{
				{Key: "watts", Label: "Power", Unit: "W", Min: 1, Max: 5000, Usual: [2]float64{60, 1500}},
				{Key: "mass", Label: "Mass of the plate", Unit: "kg", Min: 0.01, Max: 50, Usual: [2]float64{0.2, 8}},
				{Key: "material", Label: "Plate", Default: "897", Choices: material},
				{Key: "loss", Label: "Loss", Unit: "W/K", Min: 0.01, Max: 100, Default: "2",
					Hint: "Watts lost for each degree over the room; about 2 for a small open bed"},
				{Key: "rise", Label: "Rise over the room, in degrees", Min: 1, Max: 300, Default: "85"},
				{Key: "area", Label: "Area of the plate", Unit: "cm²", Min: 10, Max: 20000, Optional: true},
			},
			work: warmUp,
		},
	}
}

func heaterOhms(v Values) (Result, error) {
	volts, ohms := v.Number("volts"), v.Number("ohms")
	p := volts * volts / ohms
	r := Result{
		Figures: []Figure{figure("watts", "Power", p, "W"), figure("amperes", "Current", volts/ohms, "A")},
		Formula: []string{fmt.Sprintf("%s² ÷ %s = %s W", Rounded(volts), Rounded(ohms), Rounded(p))},
		Cautions: []string{"Power off and the mains plug pulled before the meter is put on; a bed on mains is measured " +
			"by licensed " +
			"practice as local rules require."},
		Next: "Record it as the heater's power, observed.",
	}
	if mainsVolts(volts) {
		return r, nil
	}
	for _, other := range []float64{12, 24} {
		if q := other * other / ohms; other != volts && p > 120 && q >= 20 && q <= 80 {
			r.Questions = append(r.Questions,
				fmt.Sprintf("%s W is much for a cartridge: on %g V it would be %s W. Is it for %g V?",
					Rounded(p), other, Rounded(q), other))
		}
	}
	return r, nil
}

func mainsVolts(v float64) bool { return v >= 100 }

var mainsCautions = []string{
	"A cap replaces no circuit of the right size, and a relay can fail closed: a mains bed wants a thermal cut-off " +
		"of its own. " +
		"Mains wiring is for a licensed electrician, or as local rules require.",
}

func heaterPower(v Values) (Result, error) {
	watts, volts, d := v.Number("watts"), v.Number("volts"), v.Number("duty")/100
	i := watts / volts
	r := Result{
		Figures: []Figure{
			figure("amperes", "Current while on", i, "A"),
			figure("rms", "RMS current at this duty", i*math.Sqrt(d), "A"),
			figure("average", "Average power at this duty", watts*d, "W"),
			figure("ohms", "Resistance", volts*volts/watts, "Ω"),
		},
		Formula: []string{fmt.Sprintf("%s ÷ %s = %s A; × √%s = %s A RMS", Rounded(watts), Rounded(volts), Rounded(i),
			Rounded(d),
			Rounded(i*math.Sqrt(d)))},
		Remarks: []string{"Copper traces lose about a quarter of their power from 20 to 100 °C."},
	}
	if mainsVolts(volts) {
		r.Cautions = mainsCautions
	}
	if limit := v.Number("limit"); limit > 0 {
		most := math.Min(1, (limit/i)*(limit/i))
		r.Figures = append(r.Figures, figure("most", "Duty at most", 100*most, "%"))
		r.Formula = append(r.Formula, fmt.Sprintf("(%s ÷ %s)² = %s", Rounded(limit), Rounded(i), Rounded(most)))
		if most < d {
			r.Remarks = append(r.Remarks, fmt.Sprintf("At %s %% it is too much for %s A: cap it at %s %%.", Rounded(100*d),
				Rounded(limit),
				Rounded(100*most)))
		}
	}
	return r, nil
}

// WarmUp is the time in s that a mass (kg) of a specific heat (J/(kg·K)) takes to rise by so
// many K at a power (W) with a loss (W/K) that grows with the rise; +Inf where it never does.
func WarmUp(mass, heat, loss, watts, rise float64) float64 {
	if watts <= loss*rise {
		return math.Inf(1)
	}
	return mass * heat / loss * math.Log(watts/(watts-loss*rise))
}

func warmUp(v Values) (Result, error) {
	heat := map[string]float64{"897": 897, "840": 840, "490": 490}[v.Word("material")]
	p, k, rise, m := v.Number("watts"), v.Number("loss"), v.Number("rise"), v.Number("mass")
	t := WarmUp(m, heat, k, p, rise)
	r := Result{
		Figures: []Figure{figure("hottest", "Hottest over the room", p/k, "K")},
		Formula: []string{fmt.Sprintf("(%s × %s ÷ %s) × ln(%s ÷ (%s − %s × %s))", Rounded(m), Rounded(heat), Rounded(k),
			Rounded(p),
			Rounded(p), Rounded(k), Rounded(rise))},
		Remarks: []string{"The surface lags the sensor: wait some minutes more before anything is measured."},
	}
	if math.IsInf(t, 1) {
		r.Remarks = append([]string{fmt.Sprintf("It never gets there: %s W are lost at %s K, and the heater has %s W.",
			Rounded(k*rise),
			Rounded(rise), Rounded(p))}, r.Remarks...)
	} else {
		r.Figures = append([]Figure{figure("seconds", "Warm-up", t, "s"), figure("minutes", "or", t/60, "min")}, r.Figures...)
	}
	if area := v.Number("area"); area > 0 {
		r.Figures = append(r.Figures, figure("density", "Power for each cm²", p/area, "W/cm²"))
		if p/area < 0.3 {
			r.Remarks = append(r.Remarks, "Little power for this area: a larger plate on the old heater warms slowly.")
		}
	}
	return r, nil
}
