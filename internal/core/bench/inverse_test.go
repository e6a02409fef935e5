package bench_test

import (
	"math"
	"math/rand/v2"
	"strconv"
	"testing"

	"wardifex/internal/core/bench"
)

// What one sum makes, another takes back, over random numbers.
func TestInversePairs(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 7))
	between := func(low, high float64) float64 { return low + random.Float64()*(high-low) }
	text := func(n float64) string { return strconv.FormatFloat(n, 'f', -1, 64) }
	work := func(key string, typed map[string]string, figure string) float64 {
		t.Helper()
		c, _ := bench.Find(key)
		r, err := c.Work(typed)
		if err != nil {
			t.Fatalf("%s %v: %v", key, typed, err)
		}
		n, ok := figureOf(r, figure)
		if !ok {
			t.Fatalf("%s has no %s", key, figure)
		}
		return n
	}
	same := func(what string, got, want float64) {
		t.Helper()
		if math.Abs(got-want) > 1e-6*math.Max(1, math.Abs(want)) {
			t.Errorf("%s: %v, want %v", what, got, want)
		}
	}
	for range 200 {
		// A current is set and read back, by each law and however motors are wired.
		for _, law := range []string{bench.GainOf8, bench.GainOf5, bench.FullScale} {
			for _, wired := range []string{"one", "parallel", "series"} {
				rms := between(0.1, 0.6)
				given := map[string]string{"law": law, "rs": "0.1", "wired": wired, "rms": text(rms)}
				given["vref"] = text(work("voltage-for-current", given, "vref"))
				same("current "+law, work("current-from-voltage", given, "rms"), rms)
			}
		}
		// A feed is corrected, and then delivers what is asked; steps and distance agree.
		old, came := between(80, 900), between(80, 120)
		e := work("steps-feed", map[string]string{"old": text(old), "delivered": text(came)}, "steps")
		same("what comes then", 100*came/100*e/old, 100)
		parts := map[string]string{"angle": "1.8", "microsteps": "16", "driven": "44", "driving": "12",
			"diameter": text(between(6, 12))}
		parts["steps"] = text(work("steps-parts", parts, "steps"))
		same("rotation distance", work("rotation-convert", parts, "rotation"), work("steps-parts", parts, "rotation"))
		// The gap that an offset leaves is closed by one round, in each family's sign.
		for _, family := range []string{"compiled", "hosted", "scripted"} {
			offset, gap := between(-3, 3), math.Round(between(-0.4, 3)*100)/100
			next := work("z-offset-gap", map[string]string{"family": family, "offset": text(math.Round(offset*100) / 100),
				"gap": text(gap)}, "offset")
			sign := map[string]float64{"compiled": -1}[family]
			if sign == 0 {
				sign = 1
			}
			same(family, next-sign*gap, math.Round(offset*100)/100)
		}
		// A heater's resistance tells its power, and its power the resistance.
		watts := between(20, 80)
		ohms := work("heater-power", map[string]string{"watts": text(watts), "volts": "24"}, "ohms")
		same("power", work("heater-ohms", map[string]string{"volts": "24", "ohms": text(ohms)}, "watts"), watts)
		// A background is added and taken off again.
		loud, quiet := between(60, 80), between(30, 55)
		if back, told := bench.WithoutBackground(bench.LevelSum([]float64{loud, quiet}), quiet); !told {
			t.Errorf("%v over %v cannot be told", loud, quiet)
		} else {
			same("level", back, loud)
		}
		// A sensor believed to be what it is shows the truth.
		shown := between(0, 300)
		for _, sensor := range []string{"100k thermistor", "104 thermistor", "Pt100", "Pt1000"} {
			same(sensor, work("wrong-sensor", map[string]string{"is": sensor, "believed": sensor, "shown": text(shown)}, "real"),
				shown)
		}
	}
	// On both sides of what a background can be taken off: 3 dB.
	if _, told := bench.WithoutBackground(57, 54); !told {
		t.Error("3 dB over the background can be told")
	}
	if _, told := bench.WithoutBackground(56.9, 54); told {
		t.Error("less than 3 dB over it cannot")
	}
	// It never gets there exactly where the loss eats all of the power.
	if !math.IsInf(bench.WarmUp(1.2, 897, 2, 170, 85), 1) || math.IsInf(bench.WarmUp(1.2, 897, 2, 170.1, 85), 1) {
		t.Error("170 W against 2 W/K × 85 K")
	}
}
