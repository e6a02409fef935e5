package wiring

import (
	"fmt"
	"strings"

	"wardifex/internal/core/parts"
	"wardifex/internal/core/quantity"
)

// Wire is one way of one connector.
type Wire struct {
	Connector   string  `json:"connector" maxLength:"60"`
	Way         int     `json:"way" minimum:"1" maximum:"64"`
	Carries     string  `json:"carries" maxLength:"80" doc:"What hangs on it"`
	ColourBoard string  `json:"colourBoard" maxLength:"40" doc:"Colour at the board's end"`
	ColourFar   string  `json:"colourFar" maxLength:"40" doc:"Colour at the far end"`
	Label       string  `json:"label" maxLength:"40"`
	Polarity    string  `json:"polarity" enum:"+,−,signal," doc:"Empty where it does not matter: heaters, thermistors"`
	ContactAmps float64 `json:"contactAmps,omitempty" doc:"Rating of the contact, A"`
	AWG         int     `json:"awg,omitempty" doc:"American wire gauge"`
	Volts       float64 `json:"volts,omitempty" doc:"Of what hangs on it, V"`
	Watts       float64 `json:"watts,omitempty" doc:"Of what hangs on it, W"`
	Metres      float64 `json:"metres,omitempty" doc:"Length one way, m"`
}

// Motor is a motor's cable.
type Motor struct {
	Name    string `json:"name" maxLength:"60"`
	Leads   string `json:"leads" maxLength:"60" doc:"What the pins of its connector are: 1A 1B 2A 2B"`
	Header  string `json:"header" maxLength:"60" doc:"What the pins of the board's header are"`
	Reverse bool   `json:"reverse,omitempty" doc:"It must turn the other way than it does"`
}

// Loom is the wiring of a machine, or of one head.
type Loom struct {
	Wires  []Wire  `json:"wires" maxItems:"400"`
	Motors []Motor `json:"motors" maxItems:"40"`
}

// Finding is what is to be said of one wire.
type Finding struct {
	Wire       int    `json:"wire" doc:"Its place in the sheet, from 0"`
	Bad        bool   `json:"bad" doc:"It must not be switched on so"`
	Sentence   string `json:"sentence"`
	Arithmetic string `json:"arithmetic,omitempty"`
}

// resistivity of copper, in Ω·mm²/m at 20 °C. Source: IEC 60028, 1/58.
const resistivity = 1.0 / 58

// Check judges a sheet: the current on each wire, I = P ÷ V, against its
// contact and its gauge; ways that are there twice; polarity that is missing.
// An error says what cannot be read at all.
func Check(s Loom) ([]Finding, error) {
	out := []Finding{}
	at := map[string]int{}
	for i, w := range s.Wires {
		if strings.TrimSpace(w.Connector) == "" || w.Way < 1 || w.Way > 64 {
			return nil, fmt.Errorf("line %d: a connector's name and a pin from 1 to 64 are needed", i+1)
		}
		for what, n := range map[string]float64{"contact rating": w.ContactAmps, "voltage": w.Volts, "power": w.Watts,
			"length": w.Metres} {
			if n < 0 || n > 1e5 {
				return nil, fmt.Errorf("line %d: a %s of %g cannot be right", i+1, what, n)
			}
		}
		if w.AWG != 0 && (w.AWG < 4 || w.AWG > 40) {
			return nil, fmt.Errorf("line %d: gauge %d is no wire of a printer; 4 to 40 are", i+1, w.AWG)
		}
		key := strings.ToLower(w.Connector) + fmt.Sprint(" ", w.Way)
		if j, twice := at[key]; twice {
			out = append(
				out,
				Finding{Wire: i, Bad: true, Sentence: fmt.Sprintf("Pin %d of %s is on line %d already.", w.Way, w.Connector, j+1)},
			)
		}
		at[key] = i
		out = append(out, current(i, w)...)
		if w.Polarity == "" && polar(w.Carries) {
			out = append(out, Finding{Wire: i, Sentence: "Polarity matters here and is not on the sheet."})
		}
		if w.Label == "" && w.ColourBoard != "" && w.ColourFar != "" && !strings.EqualFold(w.ColourBoard, w.ColourFar) {
			out = append(out, Finding{Wire: i, Sentence: "The colour changes on the way: label both ends."})
		}
	}
	return out, nil
}

// polar reports whether polarity matters to what hangs on a wire. Source:
// common practice.
func polar(carries string) bool {
	c := strings.ToLower(carries)
	for _, word := range []string{"fan", "probe", "led", "light"} {
		if strings.Contains(c, word) {
			return true
		}
	}
	return false
}

func current(i int, w Wire) []Finding {
	if w.Watts == 0 || w.Volts == 0 {
		return nil
	}
	var out []Finding
	amps := w.Watts / w.Volts
	sum := fmt.Sprintf("I = P ÷ V = %.4g W ÷ %.4g V = %.2f A", w.Watts, w.Volts, amps)
	if w.ContactAmps > 0 {
		over := amps > w.ContactAmps
		word := "within"
		if over {
			word = "over"
		}
		out = append(
			out,
			Finding{
				Wire:       i,
				Bad:        over,
				Sentence:   fmt.Sprintf("%.2f A: %s the contact's %.4g A.", amps, word, w.ContactAmps),
				Arithmetic: sum,
			},
		)
	}
	if w.AWG > 0 {
		bears := quantity.GaugeArea(float64(w.AWG)) * parts.LoomDensity
		over := amps > bears
		word := "within"
		if over {
			word = "over"
		}
		f := Finding{
			Wire:     i,
			Bad:      over,
			Sentence: fmt.Sprintf("%.2f A: %s the %.1f A that gauge %d bears in a loom.", amps, word, bears, w.AWG),
			Arithmetic: fmt.Sprintf(
				"%s; gauge %d: %.2f mm thick, %.3f mm² × %g A/mm² = %.1f A",
				sum,
				w.AWG,
				quantity.GaugeDiameter(float64(w.AWG)),
				quantity.GaugeArea(float64(w.AWG)),
				parts.LoomDensity,
				bears,
			),
		}
		if over {
			f.Sentence += fmt.Sprintf(" Gauge %d would do.", gaugeFor(amps))
		}
		out = append(out, f)
		if w.Metres > 0 {
			drop := 2 * w.Metres * resistivity / quantity.GaugeArea(float64(w.AWG)) * amps
			if share := drop / w.Volts; share > 0.03 {
				out = append(
					out,
					Finding{
						Wire:     i,
						Sentence: fmt.Sprintf("%.2f V are lost on the way there and back, %.0f %% of the supply.", drop, share*100),
						Arithmetic: fmt.Sprintf(
							"2 × %.2g m × %.5f Ω·mm²/m ÷ %.3f mm² × %.2f A = %.2f V",
							w.Metres,
							resistivity,
							quantity.GaugeArea(float64(w.AWG)),
							amps,
							drop,
						),
					},
				)
			}
		}
	}
	return out
}

// gaugeFor is the thinnest even gauge that bears a current.
func gaugeFor(amps float64) int {
	for n := 30; n > 4; n -= 2 {
		if quantity.GaugeArea(float64(n))*parts.LoomDensity >= amps {
			return n
		}
	}
	return 4
}
