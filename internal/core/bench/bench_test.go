package bench_test

import (
	"fmt"
	"math"
	"strings"
	"testing"
	"testing/quick"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/quantity"
)

// Source: the processor datasheets' table "Ordering information" (pin count,
// flash size, package, temperature range), each letter once.
var orderingTable = struct {
	pins, flash         map[string]int
	packages, temperatu map[string]string
}{
	map[string]int{"T": 36, "C": 48, "R": 64, "V": 100, "Z": 144},
	map[string]int{"4": 16, "6": 32, "8": 64, "B": 128, "C": 256, "D": 384, "E": 512, "F": 768, "G": 1024},
	map[string]string{"T": "LQFP", "H": "BGA", "U": "QFN", "Y": "WLCSP"},
	map[string]string{"6": "−40 to 85 °C", "7": "−40 to 105 °C"},
}

func TestEveryOrderingCodeDecodes(t *testing.T) {
	n := 0
	for p, pins := range orderingTable.pins {
		for f, flash := range orderingTable.flash {
			for c, packageName := range orderingTable.packages {
				for h, heat := range orderingTable.temperatu {
					n++
					m := bench.DecodeProcessorMarking(p + f + c + h)
					if !m.Complete || m.Pins != pins || m.FlashKiB != flash || m.Package != packageName || m.Temperature != heat ||
						m.Refusal() != "" {
						t.Fatalf("%s%s%s%s: %+v", p, f, c, h, m)
					}
				}
			}
		}
	}
	if n != 5*9*4*2 {
		t.Errorf("decoded %d codes", n)
	}
}

func TestMarkingAsTyped(t *testing.T) {
	tests := []struct {
		typed    string
		complete bool
		flash    int
		position int
		alike    string // one look-alike that must be proposed; "" for none
	}{
		{"", false, 0, 0, ""},
		{"R", false, 0, 0, ""},
		{"re", false, 512, 0, ""},
		{"RET6", true, 512, 0, ""},
		{" ret 6 ", true, 512, 0, ""},
		{"PART1-03RET6", true, 512, 0, ""}, // the whole line: its last four characters
		{"R0T6", false, 0, 2, "RDT6"},      // 0 is no flash size; it looks like D
		{"RST6", false, 0, 2, "R6T6"},      // S for 6
		{"2ET6", false, 0, 1, "ZET6"},
		{"REV6", false, 512, 3, "REU6"},
		{"RETG", false, 512, 4, "RET6"},
		{"RE%6", false, 0, 0, ""},
	}
	for _, tt := range tests {
		m := bench.DecodeProcessorMarking(tt.typed)
		if m.Complete != tt.complete || m.FlashKiB != tt.flash || m.Position != tt.position {
			t.Errorf("%q: got %+v", tt.typed, m)
		}
		if tt.alike != "" && !strings.Contains(strings.Join(m.LookAlikes, " "), tt.alike) {
			t.Errorf("%q: look-alikes %v lack %s", tt.typed, m.LookAlikes, tt.alike)
		}
		if !tt.complete && m.Refusal() == "" {
			t.Errorf("%q: an incomplete marking could be recorded", tt.typed)
		}
	}
}

// Whatever is typed, no letter is guessed: a complete code has only letters of
// the table, and every look-alike that is proposed is another whole code, right itself
// and in agreement with what is known.
func TestMarkingNeverGuesses(t *testing.T) {
	check := func(s string, knowPins, knowFlash bool) bool {
		m := bench.DecodeProcessorMarking(s)
		pins, flash := 0, 0
		if knowPins {
			pins = 64
		}
		if knowFlash {
			flash = 512
		}
		if len([]rune(m.Code)) == 4 {
			for _, a := range m.Agreeing(pins, flash).LookAlikes {
				b := bench.DecodeProcessorMarking(a)
				if !b.Complete || a == m.Code || pins > 0 && b.Pins != pins || flash > 0 && b.FlashKiB != flash {
					return false
				}
			}
		}
		return !m.Complete || m.Problem == "" && m.Pins > 0 && m.FlashKiB > 0
	}
	if err := quick.Check(check, nil); err != nil {
		t.Error(err)
	}
	for _, tt := range []struct {
		typed       string
		pins, flash int
		want        string
	}{
		{"R8T6", 0, 0, ""},              // right as it stands
		{"RST6", 64, 32, "R6T6"},        // S for 6, where 32 KiB are known
		{"RST6", 64, 1024, ""},          // nothing that looks like S has 1 MiB
		{"2ET6", 144, 0, "ZET6"},        // 2 for Z
		{"2EV6", 144, 512, "ZEU6 ZEY6"}, // two letters misread
	} {
		got := strings.Join(bench.DecodeProcessorMarking(tt.typed).Agreeing(tt.pins, tt.flash).LookAlikes, " ")
		if got != tt.want {
			t.Errorf("%s with %d pins and %d KiB: %q, want %q", tt.typed, tt.pins, tt.flash, got, tt.want)
		}
	}
	if r := bench.DecodeProcessorMarking("RST6").Agreeing(64, 1024).Refusal(); !strings.Contains(
		r,
		"another maker's scheme",
	) {
		t.Errorf("nothing agrees: %s", r)
	}
}

func TestZOffset(t *testing.T) {
	// Common practice, a worked case: 2 mm seen at 0, −2.00 tried, 0.70 left, −2.70 final.
	first := bench.NextZOffset(0, 2, false)
	second := bench.NextZOffset(first.Next, 0.7, false)
	third := bench.NextZOffset(second.Next, 0, true)
	if first.Next != -2 || second.Next != -2.7 || third.Next != -2.7 {
		t.Errorf("0 → %g → %g → %g, want −2, −2.7, −2.7", first.Next, second.Next, third.Next)
	}
	if want := "next = offset − gap = −2.00 − 0.70 = −2.70 mm"; second.Formula != want {
		t.Errorf("formula %q, want %q", second.Formula, want)
	}
	if offset, err := bench.FinishZOffset([]bench.ZOffsetRound{first, second, third}); offset != -2.7 || err != nil {
		t.Errorf("finished at %g, %v", offset, err)
	}
	if _, err := bench.FinishZOffset([]bench.ZOffsetRound{first, second}); err == nil ||
		!strings.Contains(err.Error(), "−2.70") {
		t.Errorf("a loop without paper was finished: %v", err)
	}
	if _, err := bench.FinishZOffset(nil); err == nil {
		t.Error("an empty loop was finished")
	}
	// A nozzle that presses is a negative gap: the offset comes up.
	if r := bench.NextZOffset(-2.7, -0.1, false); r.Next != -2.6 {
		t.Errorf("pressing by 0.1 at −2.70: next %g, want −2.6", r.Next)
	}
}

// After moving by the gap seen, the gap is gone, to the hundredth.
func TestZOffsetClosesTheGap(t *testing.T) {
	check := func(o, g int16) bool {
		offset, gap := float64(o%2000)/100, float64(g%1000)/100
		r := bench.NextZOffset(offset, gap, false)
		return math.Abs(offset-gap-r.Next) <= 0.005+1e-9
	}
	if err := quick.Check(check, nil); err != nil {
		t.Error(err)
	}
}

func TestZOffsetInput(t *testing.T) {
	for text, want := range map[string]float64{"0,7": 0.7, "0.7 mm": 0.7, "−0.05": -0.05, "-0,05": -0.05} {
		if got, err := bench.ParseGap(text); got != want || err != nil {
			t.Errorf("gap %q: %g, %v", text, got, err)
		}
	}
	for text, part := range map[string]string{"40": "more than this loop is for", "": "not a length",
		"a bit": "not a length", "1,2,3": "not a length"} {
		if _, err := bench.ParseGap(text); err == nil || !strings.Contains(err.Error(), part) {
			t.Errorf("gap %q: %v", text, err)
		}
	}
	if _, err := bench.ParseOffset("-270"); err == nil || !strings.Contains(err.Error(), "cannot be right") {
		t.Errorf("offset −270: %v", err)
	}
}

func TestStoreZOffset(t *testing.T) {
	// From memory: the compiled family keeps the sign, the others state the
	// probe's trigger height.
	for family, want := range map[string]string{"compiled": "[M851 Z-2.70 M500]",
		"hosted": "[[probe] z_offset: 2.70]", "scripted": "[G31 Z2.70]", "": "[]"} {
		if got := fmt.Sprint(bench.StoreZOffset(family, -2.7)); got != want {
			t.Errorf("%s: %s, want %s", family, got, want)
		}
	}
}

func TestColdCheck(t *testing.T) {
	if err := bench.ColdCheck(21, []bench.ColdReading{{"the nozzle", 23}, {"the bed", 20}}); err != nil {
		t.Error(err)
	}
	// Common practice: a sensor tens of degrees off the room is the wrong type.
	err := bench.ColdCheck(21, []bench.ColdReading{{"the nozzle", 71}, {"the bed", 20}})
	if err == nil || !strings.Contains(err.Error(), "nozzle shows +50") || strings.Contains(err.Error(), "the bed shows") {
		t.Errorf("a nozzle 50 °C above the room: %v", err)
	}
	if bench.ColdCheck(120, nil) == nil {
		t.Error("a room of 120 °C was accepted")
	}
}

// Where no probe is fitted the endstop itself goes down by the gap, and up where paper is too tight.
func TestMoveEndstop(t *testing.T) {
	for _, tt := range []struct {
		moved, gap float64
		pinched    bool
		next       float64
		way        string
	}{
		{0, 0.5, false, -0.5, "down by 0.50"}, {-0.5, -0.1, false, -0.4, "up by 0.10"}, {-0.4, 0, true, -0.4, "pinched"},
	} {
		r := bench.MoveEndstop(tt.moved, tt.gap, tt.pinched)
		if r.Next != tt.next || !strings.Contains(r.Formula, tt.way) || tt.pinched == strings.Contains(r.Formula, "by 0.") {
			t.Errorf("%+v: %+v", tt, r)
		}
	}
	if _, err := bench.FinishZOffset([]bench.ZOffsetRound{{Pinched: true}, {Next: -1}}); err == nil {
		t.Error("the loop has ended with a gap in its last round")
	}
	// A gap is asked for unless paper is pinched.
	asked := bench.ZOffsetAsked{Offset: "-1.5", Endstop: true}
	if a, err := asked.Answer(); err == nil {
		t.Errorf("without a gap: %+v", a)
	}
	asked.Pinched = true
	if a, err := asked.Answer(); err != nil || a.Round.Next != -1.5 || len(a.Lines) != 0 {
		t.Errorf("pinched: %+v, %v", a, err)
	}
}

// What is known of a board besides its marking: more than a claim, and not what the marking itself brought.
func TestKnownOf(t *testing.T) {
	voc := catalogue.Vocabulary()
	board := voc.First(parts.Mainboard)
	pins, flash := voc.Of(board, parts.MainboardPins).Key(), voc.Of(board, parts.MainboardFlash).Key()
	read := func(k machine.Key, n float64, g machine.Grade, how string) machine.Reading {
		return machine.Reading{ID: 1, Key: k, Value: machine.Value{Text: quantity.Format(n), Number: n}, Grade: g, How: how,
			TakenAt: machinetest.Day, By: "x"}
	}
	for name, tt := range map[string]struct {
		readings    []machine.Reading
		pins, flash int
	}{
		"nothing": {nil, 0, 0},
		"claimed": {[]machine.Reading{read(pins, 64, machine.Claimed, ""), read(flash, 512, machine.Claimed, "")}, 0, 0},
		"observed": {[]machine.Reading{read(pins, 64, machine.Observed, "counted"), read(flash, 512, machine.Marked, "")},
			64, 512},
		"decoded": {[]machine.Reading{read(pins, 64, machine.Observed, bench.DecodedFrom+"RET6"),
			read(flash, 512, machine.Proven, "reported")}, 0, 512},
	} {
		p, f := bench.KnownOf(board, machine.NewSnapshot(voc, machine.Record{Readings: tt.readings}))
		if p != tt.pins || f != tt.flash {
			t.Errorf("%s: %d pins, %d KiB; want %d, %d", name, p, f, tt.pins, tt.flash)
		}
	}
}
