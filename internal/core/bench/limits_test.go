package bench_test

import (
	"math"
	"testing"

	"wardifex/internal/core/bench"
)

// Each limit of the calculators with a case on either side.
// Source: resistances of platinum by IEC 60751; rooms of 0 to 45 °C, 5 °C and 3 % from memory.
func TestLimits(t *testing.T) {
	t.Parallel()
	cold := func(room, shown float64) bool {
		return bench.ColdCheck(room, []bench.ColdReading{{Name: "Bed", Celsius: shown}}) == nil
	}
	sensor := func(r0 float64) string {
		at := func(celsius float64) bench.Point {
			return bench.Point{Ohms: bench.PlatinumOhms(r0, celsius), Celsius: celsius}
		}
		f, err := bench.IdentifySensor(at(20), at(60))
		if err != nil {
			t.Fatal(err)
		}
		return f.Type
	}
	point := func(ohms, celsius float64) bool {
		_, err := bench.IdentifySensor(bench.Point{Ohms: ohms, Celsius: celsius}, bench.Point{Ohms: 9e4, Celsius: 30})
		return err == nil
	}
	thermistor := func(celsius float64) bool {
		back, ok := bench.BetaCelsius(1e5, 3950, bench.BetaOhms(1e5, 3950, celsius))
		return ok && math.Abs(back-celsius) < 1e-6
	}
	for _, c := range []struct {
		name string
		got  bool
		want bool
	}{
		{"a room of 0 °C", cold(0, 0), true},
		{"a room below 0 °C", cold(-0.1, -0.1), false},
		{"a room of 45 °C", cold(45, 45), true},
		{"a room above 45 °C", cold(45.1, 45.1), false},
		{"5 °C above the room", cold(20, 25), true},
		{"more than 5 °C above it", cold(20, 25.1), false},
		{"5 °C below the room", cold(20, 15), true},
		{"more than 5 °C below it", cold(20, 14.9), false},
		{"a point at −39.9 °C", point(1e6, -39.9), true},
		{"a point at −40 °C", point(1e6, -40), false},
		{"a point at 349.9 °C", point(200, 349.9), true},
		{"a point at 350 °C", point(200, 350), false},
		{"a point of 0.9 Ω", point(0.9, 200), false},
		{"a point of 20 MΩ", point(2e7, -20), true},
		{"a point of over 20 MΩ", point(2.01e7, -20), false},
		{"a thermistor at −49.9 °C", thermistor(-49.9), true},
		{"a thermistor below −50 °C", thermistor(-50.1), false},
		{"a thermistor at 499 °C", thermistor(499), true},
		{"a thermistor above 500 °C", thermistor(501), false},
		{"a Pt100 2.9 % high", sensor(102.9) == "Pt100", true},
		{"a Pt100 3.1 % high", sensor(103.1) == "Pt100", false},
		{"a Pt100 2.9 % low", sensor(97.1) == "Pt100", true},
		{"a Pt100 3.1 % low", sensor(96.9) == "Pt100", false},
		{"a Pt1000 2.9 % high", sensor(1029) == "Pt1000", true},
		{"a Pt1000 3.1 % high", sensor(1031) == "Pt1000", false},
	} {
		t.Run(c.name, func(t *testing.T) {
			if c.got != c.want {
				t.Errorf("taken: %v", c.got)
			}
		})
	}
	if math.IsNaN(bench.PlatinumOhms(100, 0)) {
		t.Error("no resistance at 0 °C")
	}
}
