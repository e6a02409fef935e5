package maintenance

import (
	"errors"
	"math"

	"wardifex/internal/core/quantity"
)

// Counter is what a machine counts of its use.
type Counter string

// What can be counted, each in its unit.
const (
	Hours    Counter = "hours"    // of printing
	Filament Counter = "filament" // m, pushed through
	Prints   Counter = "prints"   // begun
)

// counting is what is known of a counter: its unit, the most that an hour can bring, and the
// most that a machine ever shows. Source: a print hour lasts an hour; the rest from memory, a
// fast hotend melting 75 m of 1.75 mm filament in an hour.
type counting struct {
	unit    string
	name    string
	perHour float64
	most    float64
	absurd  string // what a larger number probably is
}

var countings = map[Counter]counting{
	Hours: {"h", "print hours", 1, 200_000, "more than twenty years without a stop; type hours, not minutes or seconds"},
	Filament: {"m", "metres of filament", 150, 20_000_000,
		"more than a machine melts in a life; type metres, not millimetres"},
	Prints: {"prints", "prints", 120, 2_000_000, "more than a machine begins in a life"},
}

// Counters lists what can be counted.
func Counters() []Counter { return []Counter{Hours, Filament, Prints} }

// Unit is the unit of a counter, as it is shown.
func (c Counter) Unit() string { return countings[c].unit }

// IsCounter reports whether there is a counter of that name.
func IsCounter(c Counter) bool { _, ok := countings[c]; return ok }

// perDay is the most that a day can bring; what only slips of memory bound is not bounded in
// a forecast.
func (c Counter) perDay() float64 {
	if c == Hours {
		return hoursADay
	}
	return math.Inf(1)
}

// GramsPerMetre is the mass of a metre of filament of 1.75 mm in the common material, in g:
// π/4 × 1.75² mm² × 1.24 g/cm³. Source: the density is common practice.
const GramsPerMetre = 2.98

// ReadAmount reads what a meter shows, as typed. Filament may be typed as a mass: it is that of
// 1.75 mm in the common material.
func ReadAmount(c Counter, text string) (float64, error) {
	switch c {
	case Prints:
		n, err := quantity.In(text, "", quantity.Unsaid, 0, 0)
		if err == nil && n != math.Trunc(n) {
			return 0, errors.New("prints are counted whole")
		}
		return n, err
	case Filament:
		metres, err := quantity.In(text, "m", quantity.Unsaid, 0, 0)
		if err == nil {
			return metres, nil
		}
		if grams, massErr := quantity.In(text, "g", quantity.Unsaid, 0, 0); massErr == nil {
			return grams / GramsPerMetre, nil
		}
		return 0, err
	}
	return quantity.In(text, countings[c].unit, quantity.Unsaid, 0, 0)
}
