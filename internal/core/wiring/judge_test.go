package wiring_test

import (
	"strings"
	"testing"

	"wardifex/internal/core/quantity/quantitytest"
	"wardifex/internal/core/wiring"
)

// Every wire and every motor of a loom is judged; a motor whose order cannot be
// read is named with the end at fault and does not stop the others.
// Source: I = P ÷ U, by hand.
func TestJudge(t *testing.T) {
	j, err := wiring.Judge(wiring.Loom{
		Wires: []wiring.Wire{{Connector: "head", Way: 1, Carries: "heater", Watts: 60, Volts: 24, ContactAmps: 2}},
		Motors: []wiring.Motor{
			{Name: "E", Leads: "1A 1B 2A 2B", Header: "1A 1B 2A 2B"},
			{Name: "X", Leads: "1A 2A 1B 2B", Header: "1A 1B 2A 2B"},
			{Name: "Y", Leads: "1A 1B 2A", Header: "1A 1B 2A 2B"},
			{Name: "Z", Leads: "1A 1B 2A 2B", Header: "red 1B 2A 2B"},
			{Name: "both wrong", Leads: "", Header: ""},
		},
	})
	if err != nil {
		t.Fatal(err)
	}
	if len(j.Findings) != 1 || !j.Findings[0].Bad ||
		!quantitytest.Holds(j.Findings[0].Arithmetic, "60 W ÷ 24 V = 2.50 A") {
		t.Errorf("findings: %+v", j.Findings)
	}
	for i, want := range []struct {
		swaps int
		fault string
	}{{0, ""}, {1, ""}, {0, "motor: "}, {0, "header: "}, {0, "motor: "}} {
		m := j.Motors[i]
		if len(m.Repin.Swaps) != want.swaps || !strings.HasPrefix(m.Fault, want.fault) ||
			(want.fault == "") != (m.Fault == "") {
			t.Errorf("%s: %+v", m.Name, m)
		}
		if ways := len(m.Motor) + len(m.Header); want.fault == "" && ways != 8 || want.fault != "" && ways != 0 {
			t.Errorf("%s: %v on %v", m.Name, m.Motor, m.Header)
		}
	}
	if _, err := wiring.Judge(wiring.Loom{Wires: []wiring.Wire{{Connector: "head", Way: 99}}}); err == nil {
		t.Error("a way that there is not is judged")
	}
	if j, err := wiring.Judge(wiring.Loom{}); err != nil || j.Findings == nil || j.Motors == nil {
		t.Errorf("an empty loom: %+v, %v", j, err)
	}
}
