package wiring_test

import (
	"strings"
	"testing"

	"wardifex/internal/core/wiring"
)

// A wire goes to the connector of its name and the pin that carries the same; what the lists
// do not tell is said and never guessed; a motor's leads follow the new header.
func TestWiresMoveToAnotherBoard(t *testing.T) {
	ports := []wiring.Port{
		{Name: "heater", Ways: 2},
		{Name: "fan", Ways: 2},
		{Name: "probe", Ways: 3},
		{Name: "screen", Ways: 3, Pins: []string{"GND", "5V", "data"}},
		{Name: "motor", Ways: 4, Pins: []string{"1A", "2A", "1B", "2B"}},
	}
	loom := wiring.Loom{
		Wires: []wiring.Wire{
			{Connector: "Heater", Way: 2, Carries: "hotend"},
			{Connector: "Heater 2", Way: 1, Carries: "second hotend"},
			{Connector: "screen", Way: 1, Carries: "5V"},
			{Connector: "screen", Way: 2, Carries: "clock"},
			{Connector: "probe", Way: 5, Carries: "signal"},
			{Connector: "fan", Way: 1, Carries: "part fan"},
			{Connector: "lamp", Way: 1},
		},
		Motors: []wiring.Motor{{Name: "Motor X", Leads: "1A 1B 2A 2B", Header: "1A 1B 2A 2B"}},
	}
	got := wiring.Move(loom, ports)
	for i, want := range []struct {
		to   string
		pin  int
		note string
	}{
		{"heater", 2, ""},
		{"heater", 1, ""},
		{"screen", 2, "another pin than before"},
		{"screen", 0, "its pins are GND 5V data: find clock"},
		{"probe", 0, "it has 3 pins and the old one at least 5"},
		{"fan", 1, "polarity matters"},
		{"", 0, "no connector of this name"},
	} {
		w := got.Wires[i]
		noted := strings.Contains(w.Note, want.note) && (want.note == "") == (w.Note == "")
		if w.To != want.to || w.ToPin != want.pin || !noted {
			t.Errorf("%s pin %d: to %q pin %d, %q", w.Connector, w.Pin, w.To, w.ToPin, w.Note)
		}
	}
	if len(got.Motors) != 1 || !strings.Contains(got.Motors[0].Repin.Words, "Swap the leads on pins 2 and 3") {
		t.Errorf("the motor: %+v", got.Motors)
	}
	ports = append(ports, wiring.Port{Name: "drive", Ways: 4, Pins: []string{"1A", "1B", "2A", "2B"}})
	if two := wiring.Move(loom, ports); len(two.Motors) != 1 {
		t.Errorf("a motor whose header is named: %+v", two.Motors)
	}
	loom.Motors[0].Name = "left lead screw"
	if two := wiring.Move(loom, ports); len(two.Motors) != 0 {
		t.Errorf("of two kinds of header one is guessed: %+v", two.Motors)
	}
}
