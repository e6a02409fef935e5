package catalogue_test

import (
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Where a position is, as keys of older records say it; the key of a position says it again.
func TestPlaceOf(t *testing.T) {
	for _, tt := range []struct {
		key, kind string
		serves    machine.Place
		n         int
		ok        bool
	}{
		{"bed-heater", parts.Heater, machine.Bed, 1, true},
		{"heater", parts.Heater, machine.Head(1), 1, true},
		{"heater-3", parts.Heater, machine.Head(3), 1, true},
		{"heater-50", parts.Heater, machine.Head(50), 1, true},
		{"heater-51", parts.Heater, machine.Head(51), 1, false}, // a machine has 50 heads at most
		{"heater-0", parts.Heater, machine.NoPlace, 0, false},
		{"motor-z2", parts.Motor, machine.Axis("z"), 2, true},
		{"driver-e4", parts.Driver, machine.Head(4), 1, true},
		{"driver-e51", parts.Driver, machine.Head(51), 1, false},
		{"mod-3", "mod", machine.Frame, 3, true},
		{"springs-2", parts.Springs, machine.Bed, 2, true},
		{"heater-3", parts.Sensor, machine.NoPlace, 0, false}, // the key of another kind
		{"heater", parts.Sensor, machine.Head(1), 1, false},
		{"motor-z2", parts.Driver, machine.NoPlace, 0, false},
		{"ghost-2", "ghost", machine.NoPlace, 0, false},
		{"anything", parts.Heater, machine.NoPlace, 0, false},
	} {
		serves, n, ok := catalogue.PlaceOf(tt.key, tt.kind)
		if ok != tt.ok || ok && (serves != tt.serves || n != tt.n) {
			t.Errorf("%s of a %s is %s number %d, %t; want %s number %d, %t", tt.key, tt.kind, serves, n, ok, tt.serves, tt.n,
				tt.ok)
		}
		if tt.ok {
			if key := catalogue.KeyFor(tt.kind, tt.serves, tt.n); key != tt.key {
				t.Errorf("number %d of the %ss at %s has the key %q, want %q", tt.n, tt.kind, tt.serves, key, tt.key)
			}
		}
	}
	for _, tt := range []struct {
		kind   string
		serves machine.Place
		n      int
		key    string
	}{
		{parts.Heater, machine.Head(2), 2, "heater-2-b"},
		{parts.Motor, machine.Head(1), 2, "motor-e-b"},
		{parts.Motor, machine.Axis("u"), 1, "motor-u"},
		{parts.Endstop, machine.Axis("x"), 2, "x-endstop-2"},
		{parts.Heater, machine.Bed, 3, "bed-heater-3"},
		{parts.Heater, machine.Enclosure, 1, "enclosure-heater"},
		{parts.Frame, machine.Frame, 2, "frame-2"},
		{parts.Supply, machine.Electronics, 0, "supply"},
	} {
		if key := catalogue.KeyFor(tt.kind, tt.serves, tt.n); key != tt.key {
			t.Errorf("number %d of the %ss at %s has the key %q, want %q", tt.n, tt.kind, tt.serves, key, tt.key)
		}
	}
}
