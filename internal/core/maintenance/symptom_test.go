package maintenance_test

import (
	"testing"

	"wardifex/internal/core/maintenance"
)

// Usual causes by what people write. Source: common practice.
func TestPropose(t *testing.T) {
	for words, want := range map[string]string{
		"It makes a clicking noise when loading":      "extruder-clicks",
		"Motor just buzzes, doesn't move":             "motor-buzzes",
		"X runs backwards":                            "axis-backwards",
		"Screen is blank after flashing":              "blank-display",
		"the probe's light is blinking":               "probe-blinks",
		"it won't take the firmware update":           "wont-update",
		"first layer doesn't stick any more":          "first-layer-high",
		"have to level it again every day, it drifts": "levels-drift",
		"ghosting next to letters, ringing":           "ringing",
		"walls are thin, under-extruding":             "under-extrusion",
		"the host cannot connect":                     "host-lost",
		"clicks and there was a burnt smell":          "too-hot",
	} {
		if got := maintenance.Propose(words); len(got) == 0 || got[0].Key != want {
			t.Errorf("%q: got %v, want %s first", words, got, want)
		}
	}
	if got := maintenance.Propose("please look at it"); got != nil {
		t.Errorf("nothing recognisable: %v", got)
	}
	for _, s := range maintenance.Symptoms() {
		for _, c := range s.Causes {
			if c.Cause == "" || c.Check == "" {
				t.Errorf("%s has half a cause", s.Key)
			}
		}
	}
}

// Every usual repair says how long it takes.
func TestRepairsTakeTime(t *testing.T) {
	for _, s := range maintenance.Symptoms() {
		repairs := maintenance.Repairs(s.Key)
		if len(repairs) != len(s.Causes) {
			t.Errorf("%s: %d repairs of %d causes", s.Key, len(repairs), len(s.Causes))
		}
		for _, r := range repairs {
			if r.Minutes < 5 || r.Minutes > 240 {
				t.Errorf("%s: %s takes %g min", s.Key, r.Cause.Cause, r.Minutes)
			}
		}
	}
	if n := maintenance.RepairMinutes("nothing of the kind"); n != 0 {
		t.Errorf("an unknown symptom takes %g min", n)
	}
}
