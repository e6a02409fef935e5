package bench_test

import (
	"math"
	"strings"
	"testing"
	"testing/quick"

	"wardifex/internal/core/bench"
)

// Source: IEC 60751, table of Pt100 resistances.
func TestPlatinum(t *testing.T) {
	for celsius, ohms := range map[float64]float64{-100: 60.26, 0: 100, 25: 109.73, 100: 138.51, 200: 175.86,
		300: 212.05, 400: 247.09} {
		if got := bench.PlatinumOhms(100, celsius); math.Abs(got-ohms) > 0.006 {
			t.Errorf("Pt100 at %g °C: %.3f Ω, want %g", celsius, got, ohms)
		}
		if celsius >= 0 {
			if got := bench.PlatinumCelsius(100, ohms); math.Abs(got-celsius) > 0.02 {
				t.Errorf("Pt100 of %g Ω: %.3f °C, want %g", ohms, got, celsius)
			}
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
		return math.Abs(bench.BetaCelsius(1e5, 3950, bench.BetaOhms(1e5, 3950, celsius))-celsius) < 1e-6 &&
			math.Abs(bench.PlatinumCelsius(1000, bench.PlatinumOhms(1000, celsius))-celsius) < 1e-6
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
