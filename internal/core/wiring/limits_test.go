package wiring_test

import (
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/parts"
	"wardifex/internal/core/quantity"
	"wardifex/internal/core/wiring"
)

// 3 % of the supply may be lost on the way there and back. Gauge 20 is 0.5176 mm² (ASTM
// B258: 0.127 mm · 92^((36−20)/39)), copper 0.0172 Ω·mm²/m (IEC 60028): 24 V and 72 W are
// 3 A, so that 0.72 V are lost over 2 · 3.611 m.
func TestVoltageLostThereAndBack(t *testing.T) {
	t.Parallel()
	for metres, lost := range map[float64]bool{3.55: false, 3.67: true} {
		findings, err := wiring.Check(wiring.Loom{Wires: []wiring.Wire{{
			Connector: "bed", Way: 1, Carries: "heater", ContactAmps: 30, Volts: 24, Watts: 72, AWG: 20, Metres: metres,
		}}})
		if err != nil {
			t.Fatal(err)
		}
		said := false
		for _, f := range findings {
			said = said || strings.Contains(f.Sentence, "there and back")
		}
		if said != lost {
			t.Errorf("%g m: said %v", metres, said)
		}
	}
}

// A wire in a loom bears 6 A for each mm² (from memory), and just that is within: gauge 20 is 0.5176 mm².
func TestCurrentInALoom(t *testing.T) {
	t.Parallel()
	bears := quantity.GaugeArea(20) * parts.LoomDensity
	for amps, over := range map[float64]bool{bears: false, bears * 1.001: true} {
		findings, err := wiring.Check(wiring.Loom{Wires: []wiring.Wire{{
			Connector: "bed", Way: 1, Carries: "heater", ContactAmps: 30, Volts: 1, Watts: amps, AWG: 20, Metres: 0.01,
		}}})
		if err != nil {
			t.Fatal(err)
		}
		bad := slices.ContainsFunc(findings, func(f wiring.Finding) bool { return f.Bad })
		if bad != over {
			t.Errorf("%g A of %g: bad %v", amps, bears, bad)
		}
	}
}
