package machine_test

import (
	"math"
	"slices"
	"testing"
	"time"

	"wardifex/internal/core/machine"
)

func TestTallyClaims(t *testing.T) {
	voc := vocabulary(t, small())
	flash, _ := voc.Trait("board.flash")
	claim := func(supplier, said string, stands machine.Grade, is string) machine.Claim {
		f := machine.Standing(flash, []machine.Reading{boardReading(1, "flash", is, stands, 2)})
		return machine.Claim{
			Supplier: supplier,
			Trait:    flash,
			Claimed:  boardReading(2, "flash", said, machine.Claimed, 1),
			Standing: f,
		}
	}
	got := machine.TallyClaims(slices.Values([]machine.Claim{
		claim(
			"Quick Parts",
			"512",
			machine.Observed,
			"256",
		), claim("Quick Parts", "512", machine.Observed, "512"), claim("Quick Parts", "512", machine.Claimed, "512"),
		claim("Slow Parts", "512", machine.Proven, "512"),
	}))
	if len(got) != 2 || got[0].Supplier != "Quick Parts" || got[0].Claims != 3 || got[0].Checked != 2 ||
		got[0].False != 1 ||
		got[1].False != 0 ||
		got[1].Checked != 1 {
		t.Errorf("got %+v", got)
	}
	// Source: from memory, 2 of 10 gives 0.0567 to 0.5098 by Wilson's interval.
	many := []machine.Claim{}
	for i := range 10 {
		is := "512"
		if i < 2 {
			is = "256"
		}
		many = append(many, claim("x", "512", machine.Observed, is))
	}
	if w := machine.TallyClaims(slices.Values(many))[0]; math.Abs(w.Low-0.0567) > 5e-4 || math.Abs(w.High-0.5098) > 5e-4 {
		t.Errorf("2 of 10 false: %.4f to %.4f", w.Low, w.High)
	}
}

// A claim is held against what was read more strongly since and stands; a stronger reading that was taken back holds
// nothing against it.
func TestClaims(t *testing.T) {
	voc := vocabulary(t, small())
	said, seen := boardReading(1, "flash", "512", machine.Claimed, 1), boardReading(2, "flash", "256", machine.Observed, 2)
	takenBack := seen
	takenBack.Superseded = "taken back"
	for _, tt := range []struct {
		readings []machine.Reading
		is       string
	}{
		{[]machine.Reading{said}, ""},
		{[]machine.Reading{said, seen}, "256"},
		{[]machine.Reading{said, takenBack}, ""},
	} {
		trait := func(k machine.Key) *machine.Trait { t, _ := voc.Trait(k); return t }
		n := 0
		for c := range machine.Claims(tt.readings, trait, func(*machine.Trait) string { return "Quick Parts" }) {
			if n++; c.Claimed.ID != 1 || c.Standing.Value.Text != tt.is || c.Supplier != "Quick Parts" {
				t.Errorf("%+v, want one against %q", c, tt.is)
			}
		}
		if n != 1 {
			t.Errorf("%d claims among %d readings", n, len(tt.readings))
		}
	}
}

// A price counts once, where the part was first fitted.
func TestCostOf(t *testing.T) {
	p := func(x float64) *float64 { return &x }
	stays := []machine.Installation{
		{Part: 1, Machine: 7, From: day(1)},                                                     // came with the machine
		{Part: 2, Machine: 7, From: day(9), Price: p(46)},                                       // bought for it
		{Part: 3, Machine: 8, From: day(2), Price: p(30)}, {Part: 3, Machine: 7, From: day(12)}, // moved in
		{Part: 4, Machine: 7, From: day(10), Empty: true},
		{Part: 5, Machine: 7, From: day(11)}, // nobody knows its price
		{Part: 2, Machine: 8, From: day(20), Price: p(46)},
	}
	if c := machine.CostOf(7, p(300), day(1), stays,
		75); c != (machine.Cost{Machine: 300, Parts: 46, Priced: 1, Unpriced: 1, MovedIn: 1, Minutes: 75}) {
		t.Errorf("machine 7: %+v", c)
	}
	if c := machine.CostOf(8, nil, day(1).Add(-24*time.Hour), stays, 0); c.Parts != 30 || c.MovedIn != 1 {
		t.Errorf("machine 8: %+v", c)
	}
}

// What was fitted within a day of a machine's coming came with it; later, its price is
// missing.
func TestWhatCameWithAMachine(t *testing.T) {
	t.Parallel()
	for after, unpriced := range map[time.Duration]int{24 * time.Hour: 0, 24*time.Hour + time.Second: 1} {
		stays := []machine.Installation{{Part: 1, Machine: 7, From: day(1).Add(after)}}
		if c := machine.CostOf(7, nil, day(1), stays, 0); c.Unpriced != unpriced {
			t.Errorf("fitted %s after: %d without a price, want %d", after, c.Unpriced, unpriced)
		}
	}
}
