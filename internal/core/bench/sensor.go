package bench

import (
	"errors"
	"fmt"
	"math"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/quantity"
)

// Point is a resistance at a temperature.
type Point struct {
	Ohms    float64 `json:"ohms" doc:"Ω"`
	Celsius float64 `json:"celsius" doc:"°C"`
}

func (p Point) check() error {
	switch {
	case !(p.Celsius > -40 && p.Celsius < 350):
		return fmt.Errorf("%g °C cannot be measured on a bench; write °C such as 21 or 80", p.Celsius)
	case !(p.Ohms >= 1 && p.Ohms <= 2e7):
		return fmt.Errorf(
			"%g Ω is no sensor: a broken one reads none, a bridged one nearly 0. Write ohms, such as 100000 or 108.6",
			p.Ohms,
		)
	}
	return nil
}

// SteinhartHart are the coefficients of 1/T = A + B ln R + C (ln R)³, T in K
// and R in Ω. Source: J. S. Steinhart and S. R. Hart, "Calibration curves for
// thermistors", Deep-Sea Research 15 (1968).
type SteinhartHart struct{ A, B, C float64 }

// FitSteinhartHart finds the coefficients from three points at different
// temperatures.
func FitSteinhartHart(p [3]Point) (SteinhartHart, error) {
	var l, y [3]float64
	for i, q := range p {
		if err := q.check(); err != nil {
			return SteinhartHart{}, err
		}
		l[i], y[i] = math.Log(q.Ohms), 1/(q.Celsius+quantity.ZeroCelsius)
	}
	if l[0] == l[1] || l[1] == l[2] || l[0] == l[2] {
		return SteinhartHart{}, errors.New("two of the points have one resistance; measure at three temperatures well apart")
	}
	g2, g3 := (y[1]-y[0])/(l[1]-l[0]), (y[2]-y[0])/(l[2]-l[0])
	var s SteinhartHart
	s.C = (g3 - g2) / (l[2] - l[1]) / (l[0] + l[1] + l[2])
	s.B = g2 - s.C*(l[0]*l[0]+l[0]*l[1]+l[1]*l[1])
	s.A = y[0] - l[0]*(s.B+s.C*l[0]*l[0])
	return s, nil
}

// Celsius is the temperature at a resistance in Ω.
func (s SteinhartHart) Celsius(ohms float64) float64 {
	l := math.Log(ohms)
	return 1/(s.A+s.B*l+s.C*l*l*l) - quantity.ZeroCelsius
}

// SensorFinding is what two points say of a sensor.
type SensorFinding struct {
	Type       string   `json:"type" doc:"Empty when none that is known here fits"`
	Sentence   string   `json:"sentence"`
	Arithmetic string   `json:"arithmetic"`
	Wrong      []Belief `json:"wrong" doc:"What a build shows that believes in another sensor"`
}

// Belief is what a build that believes in a sensor shows at a true 200 °C.
type Belief struct {
	Believes string  `json:"believes"`
	Shows    float64 `json:"shows" doc:"°C shown at a true 200 °C"`
	Hotter   float64 `json:"hotter" doc:"How much hotter than shown the hotend is, °C; 0 where it is not"`
	RunsAway bool    `json:"runsAway" doc:"The number shown falls with heat, so it heats on until a protection trips"`
}

// leastSpread is how far two points must lie apart for β to tell the two
// thermistors from each other, in °C: 2 % of error in a resistance then moves
// β by about 120 K.
const leastSpread = 15

// IdentifySensor tells a thermistor from platinum, and which, from the
// resistance at two temperatures, in any order.
func IdentifySensor(a, b Point) (SensorFinding, error) {
	for _, p := range []Point{a, b} {
		if err := p.check(); err != nil {
			return SensorFinding{}, err
		}
	}
	if a.Celsius > b.Celsius {
		a, b = b, a
	}
	if b.Celsius-a.Celsius < leastSpread {
		return SensorFinding{}, fmt.Errorf(
			"the two points are %.0f °C apart; warm the sensor further: at least %d °C tell the sensors apart",
			b.Celsius-a.Celsius,
			leastSpread,
		)
	}
	if b.Ohms > a.Ohms {
		return platinum(a, b), nil
	}
	return thermistor(a, b), nil
}

func platinum(a, b Point) SensorFinding {
	r0a, r0b := a.Ohms/PlatinumOhms(1, a.Celsius), b.Ohms/PlatinumOhms(1, b.Celsius)
	f := SensorFinding{
		Arithmetic: fmt.Sprintf(
			"resistance rises with heat: platinum. R0 = R ÷ (1 + A T + B T²) = %.4g Ω and %.4g Ω (IEC 60751)",
			r0a,
			r0b,
		),
	}
	for _, pt := range []struct {
		name string
		r0   float64
	}{{"Pt100", 100}, {"Pt1000", 1000}} {
		if math.Abs(r0a/pt.r0-1) < 0.03 && math.Abs(r0b/pt.r0-1) < 0.03 {
			return found(f, pt.name)
		}
	}
	f.Sentence = "It rises like a metal, but is neither Pt100 nor Pt1000. Measure again with the leads' own " +
		"resistance taken off."
	return f
}

func thermistor(a, b Point) SensorFinding {
	beta := Beta(a, b)
	r25 := BetaOhms(a.Ohms, beta, 25) / BetaOhms(1, beta, a.Celsius)
	f := SensorFinding{
		Arithmetic: fmt.Sprintf(
			"resistance falls with heat: a thermistor. β = ln(%.4g ÷ %.4g) ÷ (1/%.2f − 1/%.2f) = %.0f K; at 25 °C %.3g Ω",
			a.Ohms,
			b.Ohms,
			a.Celsius+quantity.ZeroCelsius,
			b.Celsius+quantity.ZeroCelsius,
			beta,
			r25,
		),
	}
	switch {
	case math.Abs(r25/1e5-1) > 0.15:
		f.Sentence = fmt.Sprintf("A thermistor of %.3g Ω at 25 °C, not of 100 kΩ: none that is known here.", r25)
	case beta < 3600 || beta > 4600:
		f.Sentence = fmt.Sprintf(
			"A 100 kΩ thermistor whose β of %.0f K belongs to none that is known here. Measure again: both temperatures "+
				"must have settled.",
			beta,
		)
	case beta < (3950+4267)/2:
		return found(f, "100k thermistor")
	default:
		return found(f, "104 thermistor")
	}
	return f
}

// found names the type and computes how wrong a build is that believes in
// another, at a true 200 °C.
func found(f SensorFinding, name string) SensorFinding {
	f.Type, f.Sentence = name, "This is a "+name+"."
	var own sensorType
	for _, s := range sensorTypes {
		if s.name == name {
			own = s
		}
	}
	for _, s := range sensorTypes {
		if s.name == name {
			continue
		}
		m := mistaken{is: own, believed: s}
		shows, where := m.shows(200)
		shows = math.Round(shows)
		if where != onScale || shows < -50 && !m.opposite() {
			continue // the build reports a broken sensor and stops
		}
		f.Wrong = append(f.Wrong, Belief{Believes: s.name, Shows: shows, Hotter: max(0, 200-shows), RunsAway: m.opposite()})
	}
	if f.Wrong == nil {
		f.Wrong = []Belief{}
	}
	return f
}

// ParseOhms reads a resistance as a meter shows it: 108.6, 98.7k, 1.08 kΩ.
func ParseOhms(text string) (float64, error) {
	v, err := resistance.Parse(text)
	if err != nil {
		return 0, fmt.Errorf("%q is no resistance; write ohms, such as 108.6, or thousands, such as 98.7 kΩ: %w", text, err)
	}
	return v.Number, nil
}

var resistance = machine.Trait{
	Label:    "Resistance",
	TraitDef: machine.TraitDef{Kind: machine.Number, Unit: "Ω", Min: 0.001, Max: 5e6},
}
