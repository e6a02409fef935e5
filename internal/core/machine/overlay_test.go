package machine_test

import (
	"testing"

	"wardifex/internal/core/machine"
)

// A frame of 195 mm beside a dock that takes 40 of them, and a place for a spare dock: what changes make of the width,
// and of what is known of the docks.
func TestOverlay(t *testing.T) {
	length := func(name string) machine.TraitDef {
		return machine.TraitDef{Name: name, Short: name, Kind: machine.Number, Unit: "mm", Max: 2000}
	}
	voc := vocabulary(t, machine.Catalogue{
		Kinds: []machine.PartKind{kind("frame", length("x"), length("y")), kind("dock", length("reach"))},
		Slots: []machine.Position{{Key: "frame", Label: "Frame", Kind: "frame"}, {Key: "dock", Label: "Dock", Kind: "dock"},
			{Key: "spare", Label: "Spare dock", Kind: "dock"}},
	})
	mm := func(n string) machine.Value {
		v, err := (&machine.Trait{TraitDef: length("x")}).Parse(n)
		if err != nil {
			t.Fatal(err)
		}
		return v
	}
	read := func(id int64, k machine.Key, n string) machine.Reading {
		return machine.Reading{ID: id, Key: k, Value: mm(n), Grade: machine.Observed, TakenAt: day(3), By: "x"}
	}
	s := machine.NewSnapshot(voc, machine.Record{
		Readings: []machine.Reading{read(1, "frame.x", "195"), read(2, "frame.y", "200"), read(3, "dock.reach", "30")},
		Takings: []machine.Taking{
			{Capacity: "width", Amount: 40, Key: "frame.x", Shift: -40, Slot: "dock", From: day(1)},
		},
	})
	for _, tt := range []struct {
		what   string
		change func(o *machine.Overlay)
		want   [4]string // frame.x, frame.y, dock.reach, spare.reach
		states []machine.Key
	}{
		{"nothing", func(*machine.Overlay) {}, [4]string{"195", "200", "30", ""}, nil},
		{"the dock goes, and gives back what it took", func(o *machine.Overlay) { o.Empty("dock") },
			[4]string{"235", "200", "", ""}, []machine.Key{"dock.model"}},
		{"another dock, of which more is known", func(o *machine.Overlay) {
			o.Fit("dock", map[string]machine.Value{"reach": mm("50")}, machine.Observed)
		}, [4]string{"235", "200", "50", ""}, []machine.Key{"dock.reach"}},
		{"the dock moves, with all that is known of it", func(o *machine.Overlay) { o.Move("dock", "spare") },
			[4]string{"195", "200", "30", "30"}, nil},
		{"it moves, and its place is left empty", func(o *machine.Overlay) {
			o.Move("dock", "spare")
			o.Empty("dock")
		}, [4]string{"195", "200", "", "30"}, []machine.Key{"dock.model"}},
		{"a new frame carries what hung on the old one", func(o *machine.Overlay) {
			o.Fit("frame", map[string]machine.Value{"x": mm("300"), "y": mm("310")}, machine.Observed)
		}, [4]string{"260", "310", "30", ""}, []machine.Key{"frame.x", "frame.y"}},
		{"a number that changes by an amount", func(o *machine.Overlay) {
			o.Add("frame", map[string]float64{"y": -12.5, "ghost": 4})
		}, [4]string{"195", "187.5", "30", ""}, nil},
		{"what nobody knows is not known by what is added", func(o *machine.Overlay) {
			o.Add("spare", map[string]float64{"reach": 5})
		}, [4]string{"195", "200", "30", ""}, nil},
		{"a value that is stated", func(o *machine.Overlay) {
			o.Set("frame", map[string]machine.Value{"x": mm("210")}, machine.Claimed)
		}, [4]string{"210", "200", "30", ""}, []machine.Key{"frame.x"}},
	} {
		o := machine.NewOverlay(voc)
		tt.change(o)
		after := s.Over(o)
		for i, k := range []machine.Key{"frame.x", "frame.y", "dock.reach", "spare.reach"} {
			if got := after.Fact(k).Value.Text; got != tt.want[i] {
				t.Errorf("%s: %s is %q, want %q", tt.what, k, got, tt.want[i])
			}
		}
		stated := map[machine.Key]bool{}
		for _, k := range tt.states {
			stated[k] = true
		}
		for _, x := range voc.Traits {
			if o.States(x) != stated[x.Key()] {
				t.Errorf("%s: states %s: %t", tt.what, x.Key(), o.States(x))
			}
		}
		if o.States(nil) || (*machine.Overlay)(nil).States(voc.Traits[0]) {
			t.Errorf("%s: what is not there is stated", tt.what)
		}
	}
}
