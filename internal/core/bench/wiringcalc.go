package bench

import (
	"fmt"
	"strings"

	"wardifex/internal/core/quantity"
)

// Limits of wires. Source: from memory for the current density in a bundle; CRC Handbook for
// the resistivity of copper at 20 °C, in Ω·mm²/m.
const (
	amperesPerMM2 = 6
	copper        = 0.0172
)

func wiringCalculators() []Calculator {
	const group = "Wires and supply"
	return []Calculator{
		{
			Key: "wire", Title: "Contact and wire for a load", Group: group,
			About: "Whether a contact and a wire bear what a heater or motor draws.",
			Source: "I = P ÷ V; at most 6 A/mm² in a bundle: from memory; copper 0.0172 Ω·mm²/m: CRC Handbook; gauges: " +
				"ASTM B258",
			Inputs: []Input{
				{Key: "watts", Label: "Load", Unit: "W", Min: 0.1, Max: 5000, Usual: [2]float64{1, 1500}},
				{Key: "volts", Label: "Voltage", Unit: "V", Min: 1, Max: 400, Usual: [2]float64{5, 240}},
				{Key: "contact", Label: "One contact is rated", Unit: "A", Min: 0.1, Max: 100, Default: "3",
					Hint: "Light contacts about 3 A, heavy ones about 10 A"},
				{Key: "contacts", Label: "Contacts that share it", Min: 1, Max: 12, Default: "1"},
				{Key: "area", Label: "Wire", Unit: "mm²", Min: 0.01, Max: 50, Hint: "A cross-section, or a gauge such as AWG 18"},
				{Key: "length", Label: "Length, one way", Unit: "m", Min: 0.01, Max: 50, Default: "1"},
			},
			work: wireLoad,
		},
		{
			Key: "supply-left", Title: "What is left of the supply", Group: group,
			About:  "The loads on a power supply, added up.",
			Source: "sum of the loads; 20 % in reserve: common practice",
			Inputs: []Input{
				{Key: "watts", Label: "Power of the supply", Unit: "W", Min: 1, Max: 10000, Usual: [2]float64{60, 1200}},
				{Key: "loads", Label: "Loads: name and watts", Lines: true, Hint: "One a line, such as: bed 220"},
				{Key: "reserve", Label: "Kept in reserve", Unit: "%", Min: 0, Max: 80, Default: "20"},
			},
			work: supplyLeft,
		},
	}
}

func wireLoad(v Values) (Result, error) {
	i := v.Number("watts") / v.Number("volts")
	area, n := v.Number("area"), v.Number("contacts")
	each := i / n
	ohms := copper * 2 * v.Number("length") / area
	r := Result{
		Figures: []Figure{
			figure("amperes", "Current", i, "A"),
			figure("each", "Through each contact", each, "A"),
			figure("density", "In the wire", i/area, "A/mm²"),
			figure("needs", "Wire at least", i/amperesPerMM2, "mm²"),
			figure("drop", "Voltage lost, there and back", i*ohms, "V"),
		},
		Formula: []string{
			fmt.Sprintf("%s ÷ %s = %s A", Rounded(v.Number("watts")), Rounded(v.Number("volts")), Rounded(i)),
			fmt.Sprintf("%g × 2 × %s ÷ %s = %s Ω", copper, Rounded(v.Number("length")), Rounded(area), Rounded(ohms)),
		},
	}
	if each > v.Number("contact") {
		r.Cautions = append(r.Cautions,
			fmt.Sprintf("%s A through a contact of %s A: it overheats and burns. Share it over %d contacts, or "+
				"take heavier ones.", Rounded(each), Rounded(v.Number("contact")), int(i/v.Number("contact"))+1))
	}
	if i/area > amperesPerMM2 {
		r.Cautions = append(r.Cautions, fmt.Sprintf("The wire is too thin for a bundle: %s mm² at least.",
			Rounded(i/amperesPerMM2)))
	}
	if v.Number("volts") <= 15 {
		r.Remarks = append(r.Remarks, "A 12 V system carries twice the current of a 24 V one for the same heater.")
	}
	if mainsVolts(v.Number("volts")) {
		r.Cautions = append(r.Cautions, mainsCautions...)
	}
	return r, nil
}

func supplyLeft(v Values) (Result, error) {
	var sum float64
	var terms []string
	for i, line := range strings.Split(v.Word("loads"), "\n") {
		fields := strings.Fields(line)
		if len(fields) == 0 {
			continue
		}
		n, err := quantity.In(fields[len(fields)-1], "W", quantity.Unsaid, 0, 10000)
		if err != nil {
			return Result{}, fault("loads", "line %d: write a name and watts, such as: bed 220", i+1)
		}
		sum += n
		terms = append(terms, Rounded(n))
	}
	if len(terms) == 0 {
		return Result{}, fault("loads", "write one load at least")
	}
	has := v.Number("watts")
	usable := has * (1 - v.Number("reserve")/100)
	r := Result{
		Figures: []Figure{figure("left", "Left, with the reserve kept", usable-sum, "W"), figure("sum", "Loads", sum, "W"),
			figure("share", "Of the supply", 100*sum/has, "%")},
		Formula: []string{fmt.Sprintf("%s × (1 − %s %%) − (%s) = %s W", Rounded(has), Rounded(v.Number("reserve")),
			strings.Join(terms, " + "), Rounded(usable-sum))},
	}
	switch {
	case sum > has:
		r.Cautions = []string{"More than the supply gives: it shuts down, or overheats."}
	case sum > usable:
		r.Remarks = []string{"It eats into the reserve: makers rate supplies at the best of times."}
	}
	return r, nil
}
