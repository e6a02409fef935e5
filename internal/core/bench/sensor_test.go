package bench_test

import (
	"math"
	"strings"
	"testing"
	"testing/quick"

	"wardifex/internal/core/bench"
)

// Source: IEC 60751, table of Pt100 resistances, on both sides of 0 °C.
func TestPlatinum(t *testing.T) {
	t.Parallel()
	for celsius, ohms := range map[float64]float64{-200: 18.52, -100: 60.26, -50: 80.31, -30: 88.22, -10: 96.09, 0: 100,
		25: 109.73, 100: 138.51, 200: 175.86, 300: 212.05, 400: 247.09, 850: 390.48} {
		if got := bench.PlatinumOhms(100, celsius); math.Abs(got-ohms) > 0.006 {
			t.Errorf("Pt100 at %g °C: %.3f Ω, want %g", celsius, got, ohms)
		}
		back, ok := bench.PlatinumCelsius(100, bench.PlatinumOhms(100, celsius))
		if !ok || math.Abs(back-celsius) > 1e-6 {
			t.Errorf("Pt100 at %g °C reads back as %.6f, %v", celsius, back, ok)
		}
	}
	for _, ohms := range []float64{18.4, 390.6, 0, -5, math.NaN(), math.Inf(1)} {
		if got, ok := bench.PlatinumCelsius(100, ohms); ok {
			t.Errorf("a Pt100 of %g Ω is at %g °C", ohms, got)
		}
	}
}

// Every pair of sensors, fitted and believed. By the slopes of the two: where they are opposite the number falls with
// heat and nothing stops the heater; where they go the same way the sign of the error over the whole range decides.
// Worked from IEC 60751 and the β model; what a cold machine shows at 25 °C decides whether it heats at all.
func TestEveryWrongSensor(t *testing.T) {
	t.Parallel()
	c, _ := bench.Find("wrong-sensor")
	const (
		harmless = iota
		hotter   // at some temperature that it is set to
		runsAway
		refuses // cold it is below the scale: with no alarm for that it heats on
	)
	for _, tt := range []struct {
		is, believed string
		want         int
		real         float64 // at a shown 200 °C; 0 where it is not reached
	}{
		{"100k thermistor", "100k thermistor", harmless, 200},
		{"100k thermistor", "104 thermistor", hotter, 223.4},
		{"104 thermistor", "100k thermistor", harmless, 180.0},
		{"104 thermistor", "104 thermistor", harmless, 200},
		{"100k thermistor", "Pt100", runsAway, 0}, {"100k thermistor", "Pt1000", runsAway, 0},
		{"104 thermistor", "Pt100", runsAway, 0}, {"104 thermistor", "Pt1000", runsAway, 0},
		{"Pt100", "100k thermistor", runsAway, 0}, {"Pt100", "104 thermistor", runsAway, 0},
		{"Pt1000", "100k thermistor", runsAway, 0}, {"Pt1000", "104 thermistor", runsAway, 0},
		{"Pt100", "Pt100", harmless, 200}, {"Pt1000", "Pt1000", harmless, 200},
		{"Pt1000", "Pt100", harmless, 0}, // 1097 Ω is beyond the scale of a Pt100
		{"Pt100", "Pt1000", refuses, 0},  // 110 Ω is below the scale of a Pt1000
	} {
		r, err := c.Work(map[string]string{"is": tt.is, "believed": tt.believed, "shown": "200"})
		if err != nil {
			t.Errorf("%s as %s: %v", tt.is, tt.believed, err)
			continue
		}
		said := strings.Join(r.Cautions, " ")
		got := harmless
		switch {
		case strings.Contains(said, "opposite"):
			got = runsAway
		case strings.Contains(said, "minimum-temperature"):
			got = refuses
		case said != "":
			got = hotter
		}
		real := 0.0
		for _, f := range r.Figures {
			if f.Key == "real" {
				real = f.Number
			}
		}
		if got != tt.want || math.Abs(real-tt.real) > 0.5 {
			t.Errorf("%s as %s: really %.1f °C, %q", tt.is, tt.believed, real, said)
		}
	}
}

// What is harmless where it is set now can be a hazard elsewhere: leads of 8 Ω on a Pt100 make it colder than shown
// throughout; on a thermistor they make it hotter than shown, the more the hotter it is.
func TestTheWholeRangeOfAWrongSensorCounts(t *testing.T) {
	t.Parallel()
	c, _ := bench.Find("wrong-sensor")
	for _, tt := range []struct {
		is, shown, lead string
		caution         bool
	}{{"Pt100", "60", "8", false}, {"100k thermistor", "60", "20", true}, {"100k thermistor", "60", "0", false},
		{"100k thermistor", "390", "20", true}} {
		r, err := c.Work(map[string]string{"is": tt.is, "believed": tt.is, "shown": tt.shown, "lead": tt.lead})
		if err != nil || (len(r.Cautions) > 0) != tt.caution {
			t.Errorf("%+v: %q, %v", tt, r.Cautions, err)
		}
	}
}

// Source: from memory, the textbook's thermistor of 3 kΩ at 25 °C: A 1.40e-3,
// B 2.37e-4, C 9.90e-8; its curve is recovered from any three of its points.
func TestSteinhartHart(t *testing.T) {
	known := bench.SteinhartHart{A: 1.40e-3, B: 2.37e-4, C: 9.90e-8}
	if got := known.Celsius(3000); math.Abs(got-25.5) > 0.2 {
		t.Errorf("3 kΩ at %.2f °C", got)
	}
	var points [3]bench.Point
	for i, ohms := range []float64{9800, 3000, 500} {
		points[i] = bench.Point{Ohms: ohms, Celsius: known.Celsius(ohms)}
	}
	fit, err := bench.FitSteinhartHart(points)
	if err != nil || math.Abs(fit.A/known.A-1) > 1e-6 || math.Abs(fit.B/known.B-1) > 1e-6 ||
		math.Abs(fit.C/known.C-1) > 1e-4 {
		t.Errorf("fitted %+v, %v", fit, err)
	}
	if _, err := bench.FitSteinhartHart([3]bench.Point{{Ohms: 1000, Celsius: 20}, {Ohms: 1000, Celsius: 40},
		{Ohms: 500, Celsius: 60}}); err == nil {
		t.Error("two points of one resistance were fitted")
	}
}

func TestIdentifySensor(t *testing.T) {
	for _, tt := range []struct {
		name string
		a, b bench.Point
		want string // type; or part of the sentence
	}{
		// IEC 60751
		{"a platinum sensor, warm one first", bench.Point{Ohms: 123.24, Celsius: 60},
			bench.Point{Ohms: 107.79, Celsius: 20}, "Pt100"},
		{"its thousandfold", bench.Point{Ohms: 1077.9, Celsius: 20}, bench.Point{Ohms: 1309, Celsius: 80}, "Pt1000"},
		{"the common thermistor", bench.Point{Ohms: 1e5, Celsius: 25},
			bench.Point{Ohms: bench.BetaOhms(1e5, 3950, 60), Celsius: 60}, "100k thermistor"},
		{"the steeper one", bench.Point{Ohms: 1e5, Celsius: 25},
			bench.Point{Ohms: bench.BetaOhms(1e5, 4267, 60), Celsius: 60}, "104 thermistor"},
		{"measured two per cent off", bench.Point{Ohms: 1.02e5, Celsius: 25},
			bench.Point{Ohms: bench.BetaOhms(1e5, 3950, 60), Celsius: 60}, "100k thermistor"},
		{"a 10 kΩ one", bench.Point{Ohms: 1e4, Celsius: 25}, bench.Point{Ohms: 3000, Celsius: 60}, "not of 100 kΩ"},
		{"neither of the two", bench.Point{Ohms: 240, Celsius: 20}, bench.Point{Ohms: 270, Celsius: 60},
			"neither Pt100 nor Pt1000"},
		{"too near each other", bench.Point{Ohms: 1e5, Celsius: 25}, bench.Point{Ohms: 9e4, Celsius: 30},
			"warm the sensor further"},
		{"broken", bench.Point{Ohms: 0, Celsius: 25}, bench.Point{Ohms: 0, Celsius: 60}, "broken"},
		{"no bench", bench.Point{Ohms: 100, Celsius: 900}, bench.Point{Ohms: 100, Celsius: 25}, "cannot be measured"},
	} {
		f, err := bench.IdentifySensor(tt.a, tt.b)
		said := f.Type + f.Sentence
		if err != nil {
			said = err.Error()
		}
		if !strings.Contains(said, tt.want) ||
			(tt.want == "Pt100" || strings.HasSuffix(tt.want, "thermistor")) && f.Type != tt.want {
			t.Errorf("%s: %q, want %q", tt.name, said, tt.want)
		}
	}
}

// A build that believes in the common thermistor where the steeper one sits
// shows more than there is; the other way round less: tens of degrees.
func TestWrongBelief(t *testing.T) {
	f, err := bench.IdentifySensor(
		bench.Point{Ohms: 1e5, Celsius: 25},
		bench.Point{Ohms: bench.BetaOhms(1e5, 3950, 60), Celsius: 60},
	)
	if err != nil || len(f.Wrong) == 0 {
		t.Fatal(f, err)
	}
	for _, w := range f.Wrong {
		if w.Believes == "104 thermistor" && (w.Hotter == 0 || w.Shows > 185 || w.Shows < 170) {
			t.Errorf("believing in the steeper one, 200 °C shows as %g", w.Shows)
		}
	}
	// Whatever the sensor, what it is and how it is read agree with each other.
	if err := quick.Check(func(x uint8) bool {
		celsius := 20 + float64(x)
		ntc, one := bench.BetaCelsius(1e5, 3950, bench.BetaOhms(1e5, 3950, celsius))
		pt, other := bench.PlatinumCelsius(1000, bench.PlatinumOhms(1000, celsius))
		return one && other && math.Abs(ntc-celsius) < 1e-6 && math.Abs(pt-celsius) < 1e-6
	}, nil); err != nil {
		t.Error(err)
	}
}

func TestParseOhms(t *testing.T) {
	for text, want := range map[string]float64{"108.6": 108.6, "98,7 kΩ": 98700, "98.7k": 98700, "1.08 kohm": 1080} {
		if got, err := bench.ParseOhms(text); err != nil || math.Abs(got-want) > 1e-9 {
			t.Errorf("%q: %g, %v", text, got, err)
		}
	}
	if _, err := bench.ParseOhms("infinite"); err == nil {
		t.Error("infinite is no resistance")
	}
}

// Source: A4988 datasheet (I = VREF ÷ (8 × RS)); DRV8825 datasheet
// (I = VREF ÷ (5 × RSENSE)); TMC2208 datasheet (0.325 V full scale, 20 mΩ
// inside; its table gives 1.77 A RMS at 0.11 Ω and 2.5 V).
func TestCurrentAt(t *testing.T) {
	for _, tt := range []struct {
		law            string
		vref, rs       float64
		peak, rms, off float64
	}{
		{bench.GainOf8, 0.8, 0.1, 1, 0.7071, 1e-4},
		{bench.GainOf5, 0.5, 0.1, 1, 0.7071, 1e-4},
		{bench.FullScale, 2.5, 0.11, 2.5, 1.77, 5e-3},
	} {
		c, err := bench.CurrentAt(tt.law, tt.vref, tt.rs)
		if err != nil || math.Abs(c.Peak-tt.peak) > tt.off || math.Abs(c.RMS-tt.rms) > tt.off || c.Formula == "" {
			t.Errorf("%s: %+v, %v", tt.law, c, err)
		}
	}
	for _, bad := range []struct {
		law      string
		vref, rs float64
	}{{"none", 1, 0.1}, {bench.GainOf8, 1, 0}, {bench.GainOf8, 12, 0.1}} {
		if _, err := bench.CurrentAt(bad.law, bad.vref, bad.rs); err == nil {
			t.Errorf("%+v was computed", bad)
		}
	}
}
