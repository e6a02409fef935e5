package quantity_test

import (
	"errors"
	"math"
	"math/rand"
	"strings"
	"testing"

	"wardifex/internal/core/quantity"
)

// Forms of numbers. Source: common practice; the blank as a thousands mark is that
// of ISO 80000-1.
func TestParse(t *testing.T) {
	for _, tt := range []struct {
		text  string
		want  float64
		fault string
	}{
		{"12", 12, ""}, {"0.4", 0.4, ""}, {"0,4", 0.4, ""}, {".5", 0.5, ""}, {"5.", 5, ""}, {"-2.70", -2.7,
			""}, {"−2,70", -2.7, ""},
		{"+3", 3, ""}, {"95,4", 95.4, ""}, {"95,42", 95.42, ""}, {"95,4213", 95.4213, ""}, {"1234,567", 1234.567, ""},
		{"0,400", 0.4, ""}, {"0.125", 0.125, ""}, {"-0", 0, ""}, {"1e3", 1000, ""}, {"1.2E+05", 120000, ""},
		{"1,234.5", 1234.5, ""}, {"1.234,5", 1234.5, ""}, {"1,234,567", 1234567, ""}, {"1.234.567", 1234567, ""},
		{"12 000", 12000, ""}, {"12\u00a0000,5", 12000.5, ""}, {"12'000.5", 12000.5, ""}, {"12’000", 12000,
			""}, {"1 234.567", 1234.567, ""},
		{"1,200", 0, "1.2 or 1200"}, {"1.200", 0, "1.2 or 1200"}, {"12.345", 0, "12.345 or 12345"}, {"-1,200", 0,
			"-1.2 or -1200"},
		{"1,23,4", 0, "mark"}, {"12,34.5", 0, "mark"}, {"1.2.3", 0, "mark"}, {"12 34", 0, "mark"}, {"1 234'567", 0,
			"mark"}, {"1.234'567.890", 0, "mark"},
		{"lots", 0, "not a number"}, {"", 0, "not a number"}, {"-", 0, "not a number"}, {"=1+1", 0, "formula"}, {"@x", 0,
			"formula"}, {"1e999", 0, "not a number"},
		{"1e", 0, "not a number"}, {"NaN", 0, "not a number"}, {"0x10", 0, "not a number"},
	} {
		got, err := quantity.Parse(tt.text)
		if (err == nil) != (tt.fault == "") || err != nil && !strings.Contains(err.Error(), tt.fault) || got != tt.want {
			t.Errorf("%q: %v, %v; want %v, %q", tt.text, got, err, tt.want, tt.fault)
		}
	}
}

func TestParseWith(t *testing.T) {
	for _, tt := range []struct {
		text string
		mark quantity.Mark
		want float64
		ok   bool
	}{
		{"1,200", quantity.Comma, 1.2, true}, {"1,200", quantity.Point, 1200, true}, {"1.200", quantity.Point, 1.2, true},
		{"1.200", quantity.Comma, 1200, true}, {"1,200.5", quantity.Comma, 0, false}, {"95.4", quantity.Comma, 0,
			false}, {"12", quantity.Comma, 12, true},
	} {
		if got, err := quantity.ParseWith(tt.text, tt.mark); got != tt.want || (err == nil) != tt.ok {
			t.Errorf("%q with %q: %v, %v", tt.text, tt.mark, got, err)
		}
	}
}

func TestMarkOf(t *testing.T) {
	for text, want := range map[string]quantity.Mark{
		"95,4": quantity.Comma, "95.4 mm": quantity.Point, "1,200": quantity.Unsaid, "1.200,5": quantity.Comma,
		"1,234,567": quantity.Point,
		"12":        quantity.Unsaid, "words": quantity.Unsaid, "0,400": quantity.Comma, "": quantity.Unsaid,
	} {
		if got := quantity.MarkOf(text); got != want {
			t.Errorf("%q: %q", text, got)
		}
	}
}

// A number written unmistakably reads back to itself, as typed and as recorded.
func TestUnmistakable(t *testing.T) {
	random := rand.New(rand.NewSource(12))
	for range 20000 {
		n := math.Round(
			random.NormFloat64()*math.Pow(10, float64(random.Intn(7)))*1000,
		) / math.Pow(
			10,
			float64(random.Intn(5)),
		)
		if got, err := quantity.Parse(quantity.Unmistakable(n)); err != nil || got != n {
			t.Fatalf("%v is written %q and read %v, %v", n, quantity.Unmistakable(n), got, err)
		}
		if got, err := quantity.Recorded(quantity.Format(n)); err != nil || got != n {
			t.Fatalf("%v is recorded %q and read %v, %v", n, quantity.Format(n), got, err)
		}
	}
	_, err := quantity.Parse("1,125")
	var two *quantity.TwoMeanings
	if !errors.As(err, &two) || two.Either() != [2]string{"1.1250", "1125"} {
		t.Errorf("1,125: %v", err)
	}
}

// Wire sizes. Source: ASTM B258, table of nominal diameters and areas.
func TestIn(t *testing.T) {
	for _, tt := range []struct {
		text, unit string
		min, max   float64
		want       float64
		fault      string
	}{
		{"512 KB", "KiB", 0, 0, 512, ""}, {"1 MiB", "KiB", 0, 0, 1024, ""}, {"256k", "KiB", 0, 0, 256,
			""}, {"262144 bytes", "KiB", 0, 0, 256, ""},
		{"110 m\u03a9", "Ω", 0, 0, 0.11, ""}, {"110 m\u2126", "Ω", 0, 0, 0.11, ""}, {"110mohm", "Ω", 0, 0, 0.11,
			""}, {"4.7 MΩ", "Ω", 0, 0, 4.7e6, ""},
		{"R110", "Ω", 0, 0, 0.11, ""}, {"0R11", "Ω", 0, 0, 0.11, ""}, {"4k7", "Ω", 0, 0, 4700, ""}, {"100k", "Ω", 0, 0,
			100000, ""},
		{"400 \u00b5m", "mm", 0, 0, 0.4, ""}, {"400 \u03bcm", "mm", 0, 0, 0.4, ""}, {"400um", "mm", 0, 0, 0.4,
			""}, {`2"`, "mm", 0, 0, 50.8, ""},
		{"850 mA", "A", 0, 0, 0.85, ""}, {"0,85A", "A", 0, 0, 0.85, ""}, {"24VDC", "V", 0, 0, 24, ""}, {"24 v", "V", 0,
			0, 24, ""},
		{"AWG 24", "mm²", 0, 0, 0.2047, ""}, {"18 AWG", "mm", 0, 0, 1.0237, ""}, {"AWG 22", "mm", 0, 0, 0.6438,
			""}, {"36 AWG", "mm", 0, 0, 0.127, ""}, {"24awg", "mm", 0, 0, 0.5106, ""}, {"20 ga", "mm²", 0, 0, 0.5176, ""},
		{"0.75 mm2", "mm²", 0, 0, 0.75, ""}, {"9 cm²", "mm²", 0, 0, 900, ""}, {"428 °F", "°C", 0, 0, 220, ""}, {"220 º",
			"°", 0, 0, 220, ""},
		{"1.5 kg", "g", 0, 0, 1500, ""}, {"90 min", "h", 0, 0, 1.5, ""}, {"1e3 mm", "mm", 0, 0, 1000, ""},
		{"24,000", "V", 5, 60, 24, ""}, {"1,200", "steps/mm", 1, 20000, 0, "1.2 or 1200"}, {"1,200 mm", "mm", 20, 3000,
			1200, ""},
		{"24 A", "V", 0, 0, 0, `has the unit "A"; it is recorded in V`}, {"24 V", "", 0, 0, 0,
			"plain numbers"}, {"24 mv", "V", 0, 0, 0.024, ""},
		{"4 mOHM", "Ω", 0, 0, 0, "has the unit"}, {"lots", "V", 0, 0, 0, "not a number"},
		{"40 %", "", 0, 0, 0.4, ""}, {"40 %", "%", 0, 0, 40, ""},
	} {
		got, err := quantity.In(tt.text, tt.unit, quantity.Unsaid, tt.min, tt.max)
		if (err == nil) != (tt.fault == "") || err != nil && !strings.Contains(err.Error(), tt.fault) ||
			math.Abs(got-tt.want) > 1e-4*math.Max(1, math.Abs(tt.want)) {
			t.Errorf("%q in %s: %v, %v; want %v, %q", tt.text, tt.unit, got, err, tt.want, tt.fault)
		}
	}
}

// Every unit by name converts to itself, and every two of one dimension there and back.
func TestConvert(t *testing.T) {
	for name := range strings.SplitSeq(quantity.Names(), ", ") {
		u, ok := quantity.Lookup(name)
		if !ok {
			t.Errorf("%s is not found by its name", name)
			continue
		}
		if u.Gauge() {
			continue
		}
		if n, ok := quantity.Convert(12.5, name, name); !ok || math.Abs(n-12.5) > 1e-9 {
			t.Errorf("12.5 %s are %v %s", name, n, name)
		}
		for other := range strings.SplitSeq(quantity.Names(), ", ") {
			n, ok := quantity.Convert(3, name, other)
			back, okBack := quantity.Convert(n, other, name)
			o, _ := quantity.Lookup(other)
			if o.Dimension == u.Dimension && !o.Gauge() && (!ok || !okBack || math.Abs(back-3) > 1e-9) {
				t.Errorf("3 %s → %v %s → %v", name, n, other, back)
			}
		}
	}
	if quantity.Known("AWG") || quantity.Known("parsec") || !quantity.Known("") || !quantity.Known("mΩ") {
		t.Error("units that can be recorded in")
	}
}

func FuzzIn(f *testing.F) {
	for _, s := range []string{"1,200", "R110", "AWG 24", "12'000 µm", "-1e3 mΩ", "\u00a0", "e", "1.e+"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		for _, unit := range []string{"Ω", "mm", "", "KiB"} {
			if n, err := quantity.In(text, unit, quantity.Unsaid, 0, 0); err == nil && (math.IsNaN(n) || math.IsInf(n, 0)) {
				t.Errorf("%q is read %v", text, n)
			}
		}
	})
}

// What a current does in a resistance: Ohm's law, the power, and a frequency against a time, by their units.
func TestUnitsGoTogether(t *testing.T) {
	of := func(name string) quantity.Dimension {
		u, ok := quantity.Lookup(name)
		if !ok {
			t.Fatalf("no unit %s", name)
		}
		return u.Dimension
	}
	if of("Ω").Times(of("A"), 1) != of("V") {
		t.Error("ohms times amperes are no volts")
	}
	if of("V").Times(of("A"), 1) != of("W") {
		t.Error("volts times amperes are no watts")
	}
	if of("Hz").Times(of("s"), 1) != of("") {
		t.Error("hertz times seconds are no number")
	}
}

func TestSpelled(t *testing.T) {
	for text, want := range map[string]bool{"mm": true, "KiB": true, "°C": true, "": false, "furlong": false} {
		if got := quantity.Spelled(text); got != want {
			t.Errorf("%q is a unit: %t", text, got)
		}
	}
}
