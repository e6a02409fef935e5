package machine_test

import (
	"testing"

	"wardifex/internal/core/machine"
)

// width is a frame's print width as it was read on days of January, each reading with
// the next number.
func width(readings ...machine.Reading) []machine.Reading {
	for i := range readings {
		readings[i].ID, readings[i].Key = int64(i+1), "frame.x"
		if readings[i].Grade == machine.Unknown {
			readings[i].Grade = machine.Observed
		}
	}
	return readings
}

func mm(text string, n float64, on int) machine.Reading {
	return machine.Reading{Value: machine.Value{Text: text, Number: n}, TakenAt: day(on), By: "x"}
}

// A dock takes 40 mm from one day to another: what is known of the width on the days
// before, between and after, by readings from before, between and after.
func TestTakingsCarryObservationsOn(t *testing.T) {
	c := machine.Catalogue{
		Kinds: []machine.PartKind{
			kind("frame", machine.TraitDef{Name: "x", Short: "print width", Kind: machine.Number, Unit: "mm", Max: 2000}),
			kind("dock"),
		},
		Slots: []machine.Position{{Key: "frame", Label: "Frame", Kind: "frame"}, {Key: "dock", Label: "Dock", Kind: "dock"}},
	}
	voc, err := c.Vocabulary()
	if err != nil {
		t.Fatal(err)
	}
	taking := func(from, to int) machine.Taking {
		x := machine.Taking{Capacity: "print-width", Amount: 40, Key: "frame.x", Shift: -40, Slot: "dock", From: day(from)}
		if to > 0 {
			x.To = day(to)
		}
		return x
	}
	weak := mm("235", 235, 3)
	weak.Grade = machine.Claimed
	fitted := mm("300", 300, 1)
	fitted.AsFitted = true
	for _, tt := range []struct {
		what     string
		readings []machine.Reading
		takings  []machine.Taking
		want     float64
		carried  int
	}{
		{"nothing taken", width(mm("235", 235, 3)), nil, 235, 0},
		{"read before the dock", width(mm("235", 235, 3)), []machine.Taking{taking(5, 0)}, 195, 1},
		{"claimed before the dock", width(weak), []machine.Taking{taking(5, 0)}, 195, 1},
		{"read with the dock", width(mm("195", 195, 7)), []machine.Taking{taking(5, 0)}, 195, 0},
		{"read before and with it", width(mm("235", 235, 3), mm("196", 196, 7)), []machine.Taking{taking(5, 0)}, 196, 0},
		{"read before, and the dock is out again", width(mm("235", 235, 3)), []machine.Taking{taking(5, 9)}, 235, 0},
		{"read with the dock, which is out again", width(mm("195", 195, 7)), []machine.Taking{taking(5, 9)}, 235, 1},
		{"read after it was out again", width(mm("195", 195, 7), mm("234", 234, 11)), []machine.Taking{taking(5, 9)}, 234, 0},
		{"two docks, one after the other", width(mm("235", 235, 3)), []machine.Taking{taking(5, 9), taking(9, 0)}, 195, 1},
		{"two docks at once", width(mm("235", 235, 3)), []machine.Taking{taking(5, 0), taking(6, 0)}, 155, 2},
		{"a frame as fitted, a dock that is there", width(fitted), []machine.Taking{taking(5, 0)}, 260, 1},
		{"a frame as fitted, a dock that was there", width(fitted), []machine.Taking{taking(5, 9)}, 300, 0},
	} {
		s := machine.NewSnapshot(voc, machine.Record{Readings: tt.readings, Takings: tt.takings})
		f := s.Fact("frame.x")
		if !f.Known() || f.Value.Number != tt.want || len(f.Carried) != tt.carried {
			t.Errorf(
				"%s: %q, carried on %d times, in conflict %d; want %g, %d times",
				tt.what,
				f.Value.Text,
				len(f.Carried),
				len(f.Conflict),
				tt.want,
				tt.carried,
			)
		}
	}
	// What differs with nothing in between is a conflict for a person to settle.
	s := machine.NewSnapshot(
		voc,
		machine.Record{Readings: width(mm("235", 235, 6), mm("195", 195, 7)), Takings: []machine.Taking{taking(5, 0)}},
	)
	if f := s.Fact("frame.x"); len(f.Conflict) != 2 {
		t.Errorf("two readings of one state: %+v", f)
	}
	// Readings and fittings at one and the same moment: their numbers tell.
	at := taking(7, 0)
	at.AfterReading = 1
	s = machine.NewSnapshot(voc, machine.Record{Readings: width(mm("235", 235, 7)), Takings: []machine.Taking{at}})
	if f := s.Fact("frame.x"); f.Value.Number != 195 {
		t.Errorf("read just before, it is %q", f.Value.Text)
	}
	at.AfterReading = 0
	s = machine.NewSnapshot(voc, machine.Record{Readings: width(mm("195", 195, 7)), Takings: []machine.Taking{at}})
	if f := s.Fact("frame.x"); f.Value.Number != 195 {
		t.Errorf("read just after, it is %q", f.Value.Text)
	}
}
