package calibration_test

import (
	"strings"
	"testing"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/machine"
)

// Subjects as they are written, and what they are.
func TestParseSubject(t *testing.T) {
	for text, want := range map[string]struct {
		place   machine.Place
		ordinal int
		mounted int
		shown   string
	}{
		"":                    {machine.NoPlace, 1, 0, "whole machine"},
		"head 2":              {machine.Head(2), 1, 0, "head 2"},
		"Head 2 ":             {machine.Head(2), 1, 0, "head 2"},
		"axis z #2":           {machine.Axis("z"), 2, 0, "axis Z #2"},
		"axis x with head 3":  {machine.Axis("x"), 1, 3, "axis X with head 3"},
		"bed":                 {machine.Bed, 1, 0, "bed"},
		"surface":             {machine.Bed, 1, 0, "surface"},
		"enclosure":           {machine.Enclosure, 1, 0, "enclosure"},
		"position heater-old": {machine.NoPlace, 1, 0, "position heater-old"},
	} {
		x, err := calibration.ParseSubject(text)
		if err != nil {
			t.Errorf("%q: %v", text, err)
			continue
		}
		if x.Place() != want.place || x.Ordinal() != want.ordinal || x.Mounted() != want.mounted || x.String() != want.shown {
			t.Errorf("%q: %q %d %d %q, want %+v", text, x.Place(), x.Ordinal(), x.Mounted(), x, want)
		}
	}
	for _, text := range []string{"head", "head 0", "head 51", "axis q", "axis x #0", "kitchen", "head 2; drop table",
		strings.Repeat("head ", 1000), "axis x with head 0"} {
		if x, err := calibration.ParseSubject(text); err == nil {
			t.Errorf("%.20q is %q", text, x)
		}
	}
}

// Which subjects a machine has of each kind.
func TestSubjects(t *testing.T) {
	for name, tt := range map[string]struct {
		s    machine.Snapshot
		k    calibration.Kind
		want string
	}{
		"heaters": {with(nil), calibration.Protection, "head 1, bed"},
		"no bed heater": {with(map[string]string{"bed-heater.model": "none"}), calibration.Protection,
			"head 1"},
		"motors": {with(map[string]string{"motor-z2.model": "m"}), calibration.Current,
			"head 1, axis x, axis y, axis z, axis z #2"},
		"no probe, no mesh":          {with(map[string]string{"probe.model": "none"}), calibration.Mesh, ""},
		"a probe":                    {with(nil), calibration.Mesh, "surface"},
		"one head rings on two axes": {with(nil), calibration.Resonance, "axis x, axis y"},
		"heads together ring as one": {twoHeads("together", nil), calibration.Resonance, "axis x, axis y"},
		"each head that is changed rings": {twoHeads("by hand", nil), calibration.Resonance,
			"axis x with head 1, axis x with head 2, axis y with head 1, axis y with head 2"},
		"one zero of heads together":     {twoHeads("together", nil), calibration.ZOffset, "head 1"},
		"a zero of each that is changed": {twoHeads("changed by the machine", nil), calibration.ZOffset, "head 1, head 2"},
		"the second nozzle":              {twoHeads("together", nil), calibration.Nozzles, "head 2"},
		"one nozzle":                     {with(nil), calibration.Nozzles, ""},
		"the area of the machine":        {with(nil), calibration.PrintArea, "whole machine"},
		"of each head that is changed":   {twoHeads("by hand", nil), calibration.PrintArea, "head 1, head 2"},
		"a cold bed has no PID":          {with(map[string]string{"bed-heater.model": "none"}), calibration.BedPID, ""},
	} {
		c, _ := calibration.Of(tt.k)
		var got []string
		for _, x := range c.Subjects(tt.s) {
			if x == calibration.WholeMachine {
				got = append(got, x.String())
			} else {
				got = append(got, string(x))
			}
		}
		if strings.Join(got, ", ") != tt.want {
			t.Errorf("%s: %s, want %s", name, strings.Join(got, ", "), tt.want)
		}
	}
}

// What a machine has as a subject is read back as the same.
func TestSubjectsAreReadBack(t *testing.T) {
	many := map[string]string{"motor-z2.model": "m", "heater-2.model": "h"}
	for _, s := range []machine.Snapshot{with(many), twoHeads("by hand", many), twoHeads("together", many),
		withToolheadBoard(t)} {
		for _, c := range calibration.All() {
			for _, x := range c.Subjects(s) {
				if back, err := calibration.ParseSubject(string(x)); err != nil || back != x {
					t.Errorf("%s of %q comes back as %q: %v", c.Kind, x, back, err)
				}
			}
		}
	}
}

// A title says which one where a machine has several, and where it is asked for one that the machine does not have.
func TestTitleOfASubject(t *testing.T) {
	pid, _ := calibration.Of(calibration.HotendPID)
	for _, tt := range []struct {
		s     machine.Snapshot
		x     calibration.Subject
		alone bool
	}{
		{with(nil), "head 1", true},
		{with(nil), calibration.WholeMachine, true},
		{with(nil), "head 2", false},
		{twoHeads("by hand", nil), "head 1", false},
		{twoHeads("by hand", nil), "head 2", false},
	} {
		if got := pid.On(tt.s, tt.x); (got == pid.Title) != tt.alone || !strings.HasPrefix(got, pid.Title) {
			t.Errorf("of %q: %q", tt.x, got)
		}
	}
}

// Where each head reaches an area of its own, a file keeps within the smallest that is valid.
func TestPrintAreaOf(t *testing.T) {
	record := func(id int64, x calibration.Subject, value string, passed bool) calibration.Record {
		return calibration.Record{ID: id, Kind: calibration.PrintArea, Subject: x, Value: value, Passed: passed,
			Store: calibration.StoreSettings, At: on(-9), By: "x"}
	}
	for name, tt := range map[string]struct {
		records []calibration.Record
		x, y    float64
		ok      bool
	}{
		"none":           {nil, 0, 0, false},
		"of one head":    {[]calibration.Record{record(1, "head 1", "235 × 230 mm", true)}, 235, 230, true},
		"one that fails": {[]calibration.Record{record(1, "head 1", "235 × 230 mm", false)}, 0, 0, false},
		"one number":     {[]calibration.Record{record(1, "head 1", "235 mm", true)}, 0, 0, false},
		"the second is smaller": {[]calibration.Record{record(1, "head 1", "235 × 230 mm", true),
			record(2, "head 2", "200.5 × 230 mm", true)}, 200.5, 230, true},
		"the first is smaller": {[]calibration.Record{record(1, "head 1", "180 × 180 mm", true),
			record(2, "head 2", "200 × 200 mm", true)}, 180, 180, true},
	} {
		if x, y, ok := calibration.PrintAreaOf(twoHeads("by hand", nil), tt.records); x != tt.x || y != tt.y || ok != tt.ok {
			t.Errorf("%s: %g × %g, %t", name, x, y, ok)
		}
	}
}
