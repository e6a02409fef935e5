package calibration_test

import (
	"testing"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/parts"
)

// An extruder rides along with its head where its tube is shorter than 100 mm (from
// memory); of one without a tube on record it cannot be told.
func TestAShortTubeIsADirectDrives(t *testing.T) {
	t.Parallel()
	for length, want := range map[string][2]bool{"99": {true, true}, "100": {false, true}, "": {false, false}} {
		known := map[string]string{}
		if length != "" {
			known["tube.length"] = length
		}
		s := machinetest.Facts(catalogue.Vocabulary(), known)
		rides, sure := calibration.RidesAlong(s, s.First(parts.Extruder))
		if got := [2]bool{rides, sure}; got != want {
			t.Errorf("a tube of %q mm: rides and sure %v, want %v", length, got, want)
		}
	}
}
