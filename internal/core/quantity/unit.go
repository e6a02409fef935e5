package quantity

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Dimension is a unit as powers of KiB, mm, V, A, h, °C, ° and g.
type Dimension [8]int8

// Area is the dimension of cross-sections.
var Area = Dimension{1: 2}

var (
	memory      = Dimension{0: 1}
	length      = Dimension{1: 1}
	tension     = Dimension{2: 1}
	current     = Dimension{3: 1}
	power       = Dimension{2: 1, 3: 1}
	resistance  = Dimension{2: 1, 3: -1}
	duration    = Dimension{4: 1}
	frequency   = Dimension{4: -1}
	temperature = Dimension{5: 1}
	angle       = Dimension{6: 1}
	mass        = Dimension{7: 1}
	perLength   = Dimension{1: -1}
	speed       = Dimension{1: 1, 4: -1}
	slope       = Dimension{1: 1, 4: -2}
)

// Times is the dimension of a product, or of a quotient with sign −1.
func (d Dimension) Times(r Dimension, sign int8) Dimension {
	for i := range d {
		d[i] += sign * r[i]
	}
	return d
}

// String names the dimension by the unit in which it is counted.
func (d Dimension) String() string {
	if d == (Dimension{}) {
		return "a plain number"
	}
	for _, u := range units {
		if u.Dimension == d && u.factor == 1 && u.offset == 0 && u.gauge == nil {
			return u.Name
		}
	}
	return "a mixture of units"
}

// Unit is one unit. A number in it is (number + offset) × factor in the unit in
// which its dimension is counted, or what gauge makes of it.
type Unit struct {
	Name      string
	Dimension Dimension

	factor, offset float64
	gauge          func(float64) float64
	spellings      []string // besides the name
}

// Base is a number of the unit in the unit in which the dimension is counted.
func (u Unit) Base(n float64) float64 {
	if u.gauge != nil {
		return u.gauge(n)
	}
	return (n + u.offset) * u.factor
}

// From is a number of the unit in which the dimension is counted, in this unit,
// which is no gauge.
func (u Unit) From(base float64) float64 { return base/u.factor - u.offset }

// Gauge reports whether the unit is a scale of sizes and no multiple of another.
func (u Unit) Gauge() bool { return u.gauge != nil }

// GaugeDiameter is the diameter of a wire in mm by its American wire gauge.
// Source: ASTM B258.
func GaugeDiameter(awg float64) float64 { return 0.127 * math.Pow(92, (36-awg)/39) }

// GaugeArea is the cross-section of a wire in mm² by its American wire gauge.
// Source: ASTM B258.
func GaugeArea(awg float64) float64 { return math.Pi / 4 * GaugeDiameter(awg) * GaugeDiameter(awg) }

// ZeroCelsius is 0 °C in K. Source: the SI brochure, 2.3.1.
const ZeroCelsius = 273.15

const perHour = 3600.0

// units is every unit of the program. Memory sizes of boards are binary whatever
// the letters say: a board sold with "256 KB" has 256 KiB. Source: common practice.
var units = []Unit{
	{Name: "KiB", Dimension: memory, factor: 1, spellings: []string{"KB", "kB", "K", "kbyte", "kbytes", "kilobytes"}},
	{Name: "MiB", Dimension: memory, factor: 1024, spellings: []string{"MB", "M", "mbyte", "mbytes", "megabytes"}},
	{Name: "B", Dimension: memory, factor: 1.0 / 1024, spellings: []string{"byte", "bytes"}},

	{
		Name:      "mm",
		Dimension: length,
		factor:    1,
		spellings: []string{"millimetre", "millimetres", "millimeter", "millimeters"},
	},
	{Name: "cm", Dimension: length, factor: 10},
	{Name: "m", Dimension: length, factor: 1000, spellings: []string{"metre", "metres", "meter", "meters"}},
	{Name: "µm", Dimension: length, factor: 0.001, spellings: []string{"um", "micron", "microns"}},
	{Name: "in", Dimension: length, factor: 25.4, spellings: []string{"inch", "inches", `"`, "″"}},
	{Name: "AWG", Dimension: length, gauge: GaugeDiameter, spellings: []string{"ga", "gauge"}},

	{Name: "mm²", Dimension: Area, factor: 1, spellings: []string{"mm2", "mm^2", "sq mm", "sqmm", "qmm"}},
	{Name: "cm²", Dimension: Area, factor: 100, spellings: []string{"cm2", "cm^2", "sq cm"}},
	{Name: "m²", Dimension: Area, factor: 1e6, spellings: []string{"m2", "m^2"}},
	{Name: "AWG", Dimension: Area, gauge: GaugeArea, spellings: []string{"ga", "gauge"}},

	{
		Name:      "V",
		Dimension: tension,
		factor:    1,
		spellings: []string{"volt", "volts", "VDC", "VAC", "V DC", "V AC", "V=", "V~"},
	},
	{Name: "mV", Dimension: tension, factor: 0.001, spellings: []string{"millivolt", "millivolts"}},
	{Name: "kV", Dimension: tension, factor: 1000},

	{Name: "A", Dimension: current, factor: 1, spellings: []string{"amp", "amps", "ampere", "amperes"}},
	{Name: "mA", Dimension: current, factor: 0.001, spellings: []string{"milliamp", "milliamps"}},
	{Name: "µA", Dimension: current, factor: 1e-6, spellings: []string{"uA"}},

	{Name: "W", Dimension: power, factor: 1, spellings: []string{"watt", "watts"}},
	{Name: "mW", Dimension: power, factor: 0.001},
	{Name: "kW", Dimension: power, factor: 1000},

	{Name: "Ω", Dimension: resistance, factor: 1, spellings: []string{"ohm", "ohms", "R"}},
	{
		Name:      "mΩ",
		Dimension: resistance,
		factor:    0.001,
		spellings: []string{"mohm", "mohms", "milliohm", "milliohms", "mR"},
	},
	{Name: "kΩ", Dimension: resistance, factor: 1000, spellings: []string{"k", "kohm", "kohms", "kR"}},
	{Name: "MΩ", Dimension: resistance, factor: 1e6, spellings: []string{"Mohm", "Mohms", "megohm", "MR"}},

	{Name: "h", Dimension: duration, factor: 1, spellings: []string{"hr", "hrs", "hour", "hours"}},
	{Name: "min", Dimension: duration, factor: 1.0 / 60, spellings: []string{"mins", "minute", "minutes"}},
	{Name: "s", Dimension: duration, factor: 1 / perHour, spellings: []string{"sec", "secs", "second", "seconds"}},
	{Name: "d", Dimension: duration, factor: 24, spellings: []string{"day", "days"}},

	{Name: "Hz", Dimension: frequency, factor: perHour},
	{Name: "kHz", Dimension: frequency, factor: 1000 * perHour},
	{Name: "MHz", Dimension: frequency, factor: 1e6 * perHour},

	{Name: "°C", Dimension: temperature, factor: 1, spellings: []string{"C", "℃", "celsius", "deg C", "degC"}},
	{
		Name:      "°F",
		Dimension: temperature,
		factor:    5.0 / 9,
		offset:    -32,
		spellings: []string{"F", "fahrenheit", "deg F", "degF"},
	},
	{Name: "K", Dimension: temperature, factor: 1, offset: -ZeroCelsius, spellings: []string{"kelvin"}},

	{Name: "°", Dimension: angle, factor: 1, spellings: []string{"deg", "degree", "degrees"}},

	{Name: "g", Dimension: mass, factor: 1, spellings: []string{"gram", "grams", "gr"}},
	{Name: "kg", Dimension: mass, factor: 1000, spellings: []string{"kilo", "kilos"}},
	{Name: "mg", Dimension: mass, factor: 0.001},

	{
		Name:      "steps/mm",
		Dimension: perLength,
		factor:    1,
		spellings: []string{"step/mm", "stp/mm", "st/mm", "steps per mm", "steps / mm"},
	},
	{Name: "mm/s", Dimension: speed, factor: perHour, spellings: []string{"mm/sec", "mm per s"}},
	{Name: "mm/min", Dimension: speed, factor: 60},
	{Name: "mm/s²", Dimension: slope, factor: perHour * perHour, spellings: []string{"mm/s2", "mm/s^2"}},

	{Name: "%", Dimension: Dimension{}, factor: 0.01, spellings: []string{"percent", "pct"}},
	{Name: "", Dimension: Dimension{}, factor: 1},
}

// sameSign writes signs that have two code points with one of them: the micro
// sign, the ohm sign, and the ordinal that stands for a degree.
var sameSign = strings.NewReplacer(
	"\u03bc",
	"\u00b5",
	"\u2126",
	"\u03a9",
	"\u00ba",
	"\u00b0",
	"\u00a0",
	" ",
	"\u202f",
	" ",
)

// byExact and byFolded are the places of the units in the table by their spellings.
var byExact, byFolded = func() (map[string][]int, map[string][]int) {
	exact, folded := map[string][]int{}, map[string][]int{}
	for i, u := range units {
		for _, s := range append([]string{u.Name}, u.spellings...) {
			exact[s] = append(exact[s], i)
			if f := strings.ToLower(s); !slices.Contains(folded[f], i) {
				folded[f] = append(folded[f], i)
			}
		}
	}
	return exact, folded
}()

// spelled finds the units that a text can mean: those with exactly these letters first,
// then without regard to case.
func spelled(text string) []Unit {
	text = strings.TrimSpace(sameSign.Replace(text))
	var out []Unit
	for _, i := range byExact[text] {
		out = append(out, units[i])
	}
	for _, i := range byFolded[strings.ToLower(text)] {
		if !slices.Contains(byExact[text], i) {
			out = append(out, units[i])
		}
	}
	return out
}

// Spelled reports whether a text is a spelling of a unit.
func Spelled(text string) bool { return text != "" && len(spelled(text)) > 0 }

// Lookup finds a unit by its name, or else by a spelling that only one dimension has.
func Lookup(text string) (Unit, bool) {
	list := spelled(text)
	for _, u := range list {
		if u.Name == text {
			return u, true
		}
	}
	if len(list) == 0 {
		return Unit{}, false
	}
	for _, u := range list[1:] {
		if u.Dimension != list[0].Dimension {
			return Unit{}, false
		}
	}
	return list[0], true
}

// Meant is the unit of a dimension that a text means: the one that is spelled
// exactly so, or the only one that is, without regard to case.
func Meant(text string, of Dimension) (Unit, bool) {
	var found []Unit
	text = strings.TrimSpace(sameSign.Replace(text))
	for _, u := range spelled(text) {
		if u.Dimension != of {
			continue
		}
		if u.Name == text || slices.Contains(u.spellings, text) {
			return u, true
		}
		found = append(found, u)
	}
	if len(found) != 1 {
		return Unit{}, false // "Mohm" in other letters may be milli or mega
	}
	return found[0], true
}

// Convert is a number of one unit, as written, in another, by its name; ok is
// false where they are of different dimensions or the unit is unknown.
func Convert(n float64, from, to string) (converted float64, ok bool) {
	target, known := Lookup(to)
	if !known || target.gauge != nil {
		return 0, false
	}
	source, known := Meant(from, target.Dimension)
	if !known {
		return 0, false
	}
	return target.From(source.Base(n)), true
}

// Known reports whether numbers can be recorded in a unit; the empty unit is for
// plain numbers.
func Known(unit string) bool {
	for _, u := range units {
		if u.Name == unit {
			return u.gauge == nil
		}
	}
	return false
}

// Names lists the units, for a message.
func Names() string {
	var out []string
	for _, u := range units {
		if u.Name != "" && !slices.Contains(out, u.Name) {
			out = append(out, u.Name)
		}
	}
	return strings.Join(out, ", ")
}

// Prefix finds the unit with which a text begins, as whole letters, and how many
// bytes it takes; the longest wins. ok is false where the text begins with none.
func Prefix(text string) (unit Unit, length int, ok bool) {
	for _, u := range units {
		for _, s := range append([]string{u.Name}, u.spellings...) {
			if s == "" || strings.ContainsRune(s, ' ') {
				continue
			}
			n, begins := prefixed(text, s)
			if !begins || n < length || n == length && u.Name != s {
				continue
			}
			if next, _ := utf8.DecodeRuneInString(text[n:]); unicode.IsLetter(next) {
				continue
			}
			unit, length, ok = u, n, true
		}
	}
	return unit, length, ok
}

// prefixed reports whether a text begins with a spelling, signs of two code points
// taken as one, and how many bytes of the text that is.
func prefixed(text, spelling string) (bytes int, begins bool) {
	for _, want := range spelling {
		r, size := utf8.DecodeRuneInString(text[bytes:])
		if size == 0 || sameSign.Replace(string(r)) != string(want) {
			return 0, false
		}
		bytes += size
	}
	return bytes, true
}

func wrongUnit(written, unit, want string) error {
	if want == "" {
		want = "plain numbers"
	}
	return fmt.Errorf("%s has the unit %q; it is recorded in %s", Clip(written), unit, want)
}
