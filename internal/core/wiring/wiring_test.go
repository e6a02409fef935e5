package wiring_test

import (
	"math"
	"strings"
	"testing"

	"wardifex/internal/core/quantity/quantitytest"
	"wardifex/internal/core/wiring"
)

// orders are all 24 orders of four leads.
func orders() []wiring.Order {
	leads := []wiring.Lead{{Coil: 1}, {Coil: 1, B: true}, {Coil: 2}, {Coil: 2, B: true}}
	var out []wiring.Order
	for a := range 4 {
		for b := range 4 {
			for c := range 4 {
				d := 6 - a - b - c
				if a != b && b != c && a != c {
					out = append(out, wiring.Order{leads[a], leads[b], leads[c], leads[d]})
				}
			}
		}
	}
	return out
}

// turns works the motor out from its fields, as against the tables of the
// package: the header's drivers step through four quarter turns of current; the
// field of the motor's coils must step round too, and the way it goes round is
// the direction. 0 when it only shakes.
func turns(motor, header wiring.Order) int {
	quarter := [4][3]float64{{0, 1, 0}, {0, 0, 1}, {0, -1, 0}, {0, 0, -1}} // current in pair 1 and 2
	var field [4][2]float64
	for q := range quarter {
		volts := map[int]float64{} // by way: what the driver puts on it
		for w, h := range header {
			volts[w] = quarter[q][h.Coil]
			if h.B {
				volts[w] = -quarter[q][h.Coil]
			}
		}
		var coil [3]float64
		for w, lead := range motor {
			if lead.B {
				coil[lead.Coil] -= volts[w]
			} else {
				coil[lead.Coil] += volts[w]
			}
		}
		field[q] = [2]float64{coil[1], coil[2]}
	}
	sum := 0.0
	for q := range field {
		a, b := field[q], field[(q+1)%4]
		sum += a[0]*b[1] - a[1]*b[0]
		if a[0] != 0 && a[1] != 0 {
			return 0 // a quarter's current is spread over both coils: they are split over the pairs
		}
	}
	return int(math.Copysign(1, sum))
}

func apply(o wiring.Order, swaps []wiring.Swap) wiring.Order {
	for _, s := range swaps {
		o[s.A-1], o[s.B-1] = o[s.B-1], o[s.A-1]
	}
	return o
}

// Every motor on every header, straight and reversed: 1,152 cases, against the
// motor's field and against trying every exchange of fewer leads.
func TestRepinEveryPermutation(t *testing.T) {
	cases := 0
	for _, motor := range orders() {
		for _, header := range orders() {
			before := turns(motor, header)
			for _, reverse := range []bool{false, true} {
				cases++
				r := wiring.Repin(motor, header, reverse)
				if (r.Now == wiring.Buzzes) != (before == 0) || (r.Now == wiring.Backward) != (before == -1) {
					t.Fatalf("%s on %s: said it %s, its field says %d", motor, header, r.Now, before)
				}
				want := func(dir int) bool {
					switch {
					case !reverse:
						return dir != 0
					case before == 0:
						return dir == -1 // against the way it turns with ends as named
					}
					return dir == -before
				}
				if after := turns(apply(motor, r.Swaps), header); !want(after) {
					t.Fatalf("%s on %s, reverse %v: after %v it does %d", motor, header, reverse, r.Swaps, after)
				}
				for w, lead := range r.Leads {
					if apply(motor, r.Swaps)[w] != motor[lead-1] {
						t.Fatalf("%s on %s: leads %v do not follow from %v", motor, header, r.Leads, r.Swaps)
					}
				}
				if n := fewest(motor, header, want); len(r.Swaps) != n {
					t.Fatalf("%s on %s, reverse %v: %d exchanges, %d would do", motor, header, reverse, len(r.Swaps), n)
				}
				if before == 0 && !reverse && turns(apply(motor, r.Swaps), header) < 0 &&
					fewest(motor, header, func(dir int) bool { return dir == 1 }) == len(r.Swaps) {
					t.Fatalf("%s on %s: %v turns against the names of the ends, and as few would turn by them", motor, header, r.Swaps)
				}
				if reverse && before != 0 && len(r.Swaps) != 1 {
					t.Fatalf("reversing takes one exchange, not %v", r.Swaps)
				}
			}
		}
	}
	if cases != 24*24*2 {
		t.Errorf("%d cases", cases)
	}
}

func fewest(motor, header wiring.Order, want func(int) bool) int {
	if want(turns(motor, header)) {
		return 0
	}
	layer := []wiring.Order{motor}
	for n := 1; ; n++ {
		var next []wiring.Order
		for _, o := range layer {
			for a := 1; a <= 4; a++ {
				for b := a + 1; b <= 4; b++ {
					p := apply(o, []wiring.Swap{{A: a, B: b}})
					if want(turns(p, header)) {
						return n
					}
					next = append(next, p)
				}
			}
		}
		layer = next
	}
}

func TestParseOrder(t *testing.T) {
	for text, want := range map[string]string{"1A 1B 2A 2B": "1A 1B 2A 2B", "b+, a+, b−, a-": "2A 1A 2B 1B",
		"A/B/A'/B'":       "1A 2A 1B 2B",
		"A + A - B + B −": "1A 1B 2A 2B", "1 A, 1 B, 2 B, 2 A": "1A 1B 2B 2A", "A A′ B B’": "1A 1B 2A 2B",
		"A ' A B B '": "1B 1A 2A 2B", "A1 A2 B1 B2": "1A 1B 2A 2B"} {
		if o, err := wiring.ParseOrder(text); err != nil || o.String() != want {
			t.Errorf("%q: %s, %v", text, o, err)
		}
	}
	for text, part := range map[string]string{"1A 1B 2A": "four ends", "1A 1B 2A 3A": "no end of a coil",
		"1A 1A 2A 2B": "twice"} {
		if _, err := wiring.ParseOrder(text); err == nil || !strings.Contains(err.Error(), part) {
			t.Errorf("%q: %v", text, err)
		}
	}
}

func TestCheck(t *testing.T) {
	s := wiring.Loom{Wires: []wiring.Wire{
		{Connector: "plate", Way: 1, Carries: "heater 40 W", ContactAmps: 3, Volts: 12, Watts: 40, AWG: 24},  // 3.33 A
		{Connector: "plate", Way: 2, Carries: "heater 40 W", ContactAmps: 10, Volts: 24, Watts: 40, AWG: 20}, // 1.67 A
		{
			Connector:   "Plate",
			Way:         2,
			Carries:     "part fan",
			ColourBoard: "red",
			ColourFar:   "yellow",
		}, // twice, no polarity, no label
		{
			Connector: "plate",
			Way:       3,
			Carries:   "thermistor",
		}, // nothing to say
		{
			Connector:   "bed",
			Way:         1,
			Carries:     "bed",
			ContactAmps: 15,
			Volts:       12,
			Watts:       120,
			AWG:         14,
			Metres:      1.5,
		}, // 10 A, 0.25 V
	}}
	found, err := wiring.Check(s)
	if err != nil {
		t.Fatal(err)
	}
	var said []string
	for _, f := range found {
		said = append(said, strings.Repeat("!", map[bool]int{true: 1}[f.Bad])+f.Sentence)
	}
	want := []string{
		"!3.33 A: over the contact's 3 A.",
		"!3.33 A: over the 1.2 A that gauge 24 bears in a loom. Gauge 18 would do.",
		"1.67 A: within the contact's 10 A.",
		"1.67 A: within the 3.1 A that gauge 20 bears in a loom.",
		"!Pin 2 of Plate is on line 2 already.",
		"Polarity matters here and is not on the sheet.",
		"The colour changes on the way: label both ends.",
		"10.00 A: within the contact's 15 A.",
		"10.00 A: within the 12.5 A that gauge 14 bears in a loom.",
	}
	if strings.Join(said, "\n") != strings.Join(want, "\n") {
		t.Errorf("got\n%s\nwant\n%s", strings.Join(said, "\n"), strings.Join(want, "\n"))
	}
	// 12 V carries twice the current of 24 V. Source: common practice.
	if !quantitytest.Holds(found[0].Arithmetic, "40 W ÷ 12 V = 3.33 A") {
		t.Errorf("arithmetic %q", found[0].Arithmetic)
	}
	for part, w := range map[string]wiring.Wire{"a connector's name": {Way: 1},
		"gauge 99": {Connector: "x", Way: 1, AWG: 99}, "cannot be right": {Connector: "x", Way: 1, Watts: -4}} {
		if _, err := wiring.Check(wiring.Loom{Wires: []wiring.Wire{w}}); err == nil || !strings.Contains(err.Error(), part) {
			t.Errorf("%+v: %v", w, err)
		}
	}
}
