package inspection_test

import (
	"slices"
	"testing"

	"wardifex/internal/core/inspection"
	"wardifex/internal/core/machine"
)

// What tells machines apart is asked for that aim alone, and no more once it was observed;
// safety is asked for every aim.
func TestAims(t *testing.T) {
	bare := facts(t, map[string]string{"firmware.family": "compiled"})
	apart := []string{
		"mainboard.model", "mainboard.revision", "mainboard.processor", "driver-x.marking", "probe.model",
		"extruder.model", "nozzle.bore", "firmware.version",
	}
	for aim, want := range map[inspection.Aim]bool{
		inspection.Identity: true, inspection.Needs: false, inspection.SafetyOnly: false,
	} {
		asked := keys(inspection.Questions(bare, aim, nil, never))
		for _, key := range apart {
			if slices.Contains(asked, key) != want {
				t.Errorf("aim %q asks %s: %v", aim, key, !want)
			}
		}
		if !slices.Contains(asked, "case-fan.wiring") {
			t.Errorf("aim %q does not ask how the case fan is wired", aim)
		}
	}
	seen := facts(t, map[string]string{"mainboard.revision": "4.2", "nozzle.bore": "0.4/claimed"})
	asked := keys(inspection.Questions(seen, inspection.Identity, nil, never))
	if slices.Contains(asked, "mainboard.revision") || !slices.Contains(asked, "nozzle.bore") {
		t.Errorf("an observed revision is asked again, or a claimed bore is not: %v", asked)
	}
}

// What was tried in every way is named, not forgotten.
func TestNotRead(t *testing.T) {
	s := facts(t, map[string]string{"firmware.family": "compiled"})
	tried := func(key machine.Key, _ string) bool { return key == "mainboard.revision" }
	asked := keys(inspection.Questions(s, inspection.Identity, nil, tried))
	left := keys(inspection.NotRead(s, inspection.Identity, nil, tried))
	if slices.Contains(asked, "mainboard.revision") || !slices.Equal(left, []string{"mainboard.revision"}) {
		t.Errorf("asked still: %v; not read: %v", slices.Contains(asked, "mainboard.revision"), left)
	}
	if left := inspection.NotRead(s, inspection.Identity, nil, never); len(left) != 0 {
		t.Errorf("nothing was tried, yet %v cannot be read", keys(left))
	}
}
