package plan_test

import (
	"testing"

	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/plan"
)

// A part set free finds a home where a kit that fits this very model is judged
// to fit: not where the same is in already, nor where it does not fit.
func TestHomesFor(t *testing.T) {
	all := whole(t)
	probe := change.Spare{Slot: "probe", Model: "plumbline contact PROBE"}
	homes := plan.HomesFor(probe, all, room())
	if len(homes) != 1 || homes[0].Kit != "plumbline-probe" || homes[0].Answer != fit.Fits {
		t.Errorf("a free probe on a machine that takes it: %+v", homes)
	}
	for name, m := range map[string][]string{
		"no header":       {"mainboard.probe-port", "no", "mainboard.display-port", "no"},
		"the same in it":  {"probe.model", "Plumbline contact probe"},
		"nobody has seen": {"mainboard.chip-maker", ""},
	} {
		if homes := plan.HomesFor(probe, all, room(m...)); len(homes) != 0 {
			t.Errorf("%s: %+v", name, homes)
		}
	}
	if homes := plan.HomesFor(change.Spare{Slot: "probe", Model: "of no kit"}, all, room()); len(homes) != 0 {
		t.Errorf("a part that no kit fits: %+v", homes)
	}
	// A driver of one axis serves another axis.
	driver := change.Spare{Slot: "driver-x", Model: "Hush 8"}
	if !driver.Serves(room("driver-e.model", "Hush 8")) || driver.Serves(room("driver-e.model", "Hush 9")) {
		t.Error("a driver is a spare for every axis that carries the same")
	}
}
