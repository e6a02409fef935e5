package maintenance_test

import (
	"math"
	"math/rand"
	"testing"
	"time"

	"wardifex/internal/core/maintenance"
)

// history generates readings of a machine used irregularly, in one of several ways, and
// its true life by day.
func history(random *rand.Rand, way int) (readings []maintenance.Meter, life []float64) {
	const length = 420
	base := 1 + 7*random.Float64()
	spell, busy := 0, true
	total := 0.0
	for d := range length {
		use := base
		switch way {
		case 0: // each day for itself, many without use
			use *= 2 * random.ExpFloat64() * float64(random.Intn(2))
		case 1: // spells of projects and of rest
			if spell--; spell < 0 {
				spell, busy = 3+random.Intn(18), !busy
			}
			use *= random.Float64() * map[bool]float64{true: 2.6, false: 0.3}[busy]
		case 2: // weekdays only, with holidays
			if d%7 >= 5 || d%90 > 78 {
				use = 0
			}
			use *= 0.5 + random.Float64()
		case 3: // terms that come and go
			use *= (1 + 0.5*math.Sin(float64(d)/40)) * 2 * random.Float64()
		}
		total += math.Min(use, 24)
		life = append(life, total)
	}
	for d := 0; d < 300; d += 3 + random.Intn(25) {
		readings = append(readings, maintenance.HoursAt(on(d), life[d]))
	}
	return readings, life
}

// The 80 % range covers 70 to 90 % of later readings over 200 histories, near and far,
// in each way of use not much less.
func TestForecastCovers(t *testing.T) {
	random := rand.New(rand.NewSource(80))
	inside, all := map[int]int{}, map[int]int{}
	total, hits := 0, 0
	for i := range 200 {
		readings, life := history(random, i%4)
		l := maintenance.NewLife(readings)
		last := int(l.Last().Sub(start).Hours() / 24)
		for _, ahead := range []int{7, 21, 45, 90} {
			day := last + ahead
			r, ok := l.Forecast(on(day))
			if !ok || r.Low > r.Middle || r.Middle > r.High {
				t.Fatalf("history %d, %d days ahead: %+v, %v", i, ahead, r, ok)
			}
			all[i%4]++
			total++
			if life[day] >= r.Low && life[day] <= r.High {
				inside[i%4]++
				hits++
			}
		}
	}
	if share := float64(hits) / float64(total); share < 0.7 || share > 0.9 {
		t.Errorf("the range covers %.0f %% of later readings", 100*share)
	}
	for way, n := range all {
		if share := float64(inside[way]) / float64(n); share < 0.65 {
			t.Errorf("use of kind %d: the range covers only %.0f %%", way, 100*share)
		}
		t.Logf("use of kind %d: %.0f %%", way, 100*float64(inside[way])/float64(n))
	}
}

// The range widens with the meter's age; both ends and the middle never fall.
func TestForecastWidens(t *testing.T) {
	random := rand.New(rand.NewSource(3))
	for i := range 60 {
		readings, _ := history(random, i%4)
		l := maintenance.NewLife(readings)
		before := maintenance.Range{}
		for d := 1; d < 400; d += 3 {
			r, _ := l.Forecast(l.Last().AddDate(0, 0, d))
			if d > 1 && (r.High-r.Low < before.High-before.Low-1e-9 || r.Middle < before.Middle) {
				t.Fatalf("history %d: after %d days %+v, before %+v", i, d, r, before)
			}
			before = r
		}
	}
}

// A machine used evenly, by hand: 4 h a day, 100 h to go, 25 days.
func TestDates(t *testing.T) {
	l := maintenance.NewLife(
		[]maintenance.Meter{
			maintenance.HoursAt(on(0), 0),
			maintenance.HoursAt(on(30), 120),
			maintenance.HoursAt(on(60), 240),
			maintenance.HoursAt(on(90), 360),
		},
	)
	early, middle, late, ok := l.Dates(460, time.UTC)
	if off := middle.Sub(on(115)); !ok || off.Abs() > time.Hour {
		t.Errorf("100 h at 4 h a day from day 90: %v", middle)
	}
	if !early.After(on(90)) || !early.Before(middle) || !late.After(middle) {
		t.Errorf("range %v to %v", early, late)
	}
	if r, _ := l.Forecast(on(115)); math.Abs(r.Middle-460) > 1e-9 {
		t.Errorf("day 115: %+v", r)
	}
	// It stood still: the rate is 0, and there is no date.
	still := maintenance.NewLife([]maintenance.Meter{maintenance.HoursAt(on(0), 80), maintenance.HoursAt(on(90), 80)})
	if rate, ok := still.Rate(); !ok || rate != 0 {
		t.Errorf("standing still: %g, %v", rate, ok)
	}
	if r, ok := still.Forecast(on(200)); !ok || r != (maintenance.Range{Low: 80, Middle: 80, High: 80}) {
		t.Errorf("standing still: %+v", r)
	}
	if _, _, _, ok := still.Dates(100, time.UTC); ok {
		t.Error("a date for a machine that stands still")
	}
	// One reading, or two of a day, tell no rate.
	for _, rs := range [][]maintenance.Meter{{maintenance.HoursAt(on(0), 5)},
		{maintenance.HoursAt(on(0), 5), maintenance.HoursAt(on(0).Add(time.Hour), 6)}} {
		if _, ok := maintenance.NewLife(rs).Rate(); ok {
			t.Errorf("%v tell a rate", rs)
		}
	}
	if at, ok := l.Reached(250); !ok || at.Sub(on(60)) != 60*time.Hour {
		t.Errorf("250 h were reached %v", at)
	}
	if _, ok := l.Reached(361); ok {
		t.Error("the record shows 361 h")
	}
}
