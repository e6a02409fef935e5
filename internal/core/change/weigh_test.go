package change_test

import (
	"strings"
	"testing"

	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
)

// A head twice as heavy resonates at 1/√2 and allows half the acceleration: a
// mass on a spring.
func TestConsequences(t *testing.T) {
	kit := fit.Kit{Key: "x", ToolheadGrams: 300, BedGrams: 100, AreaLoss: [3]float64{40, 0, -100}, NewBuild: "the new head", StartCode: []string{"M92 out"}, Slicer: []string{"print area"},
		Effects: []fit.Effect{{Slot: "tube", Model: "direct", Traits: map[string]string{"length": "40"}}, {Slot: "probe", Model: "none"}}}
	c, err := change.NewChange(kit, nil, facts(map[string]string{"toolhead.grams": "300", "frame.x": "235", "tube.length": "450", "tube.model": "long tube", "probe.model": "Sounder"}))
	if err != nil {
		t.Fatal(err)
	}
	said := ""
	for _, x := range c.Consequences() {
		said += x.What + ": " + x.Says + " " + x.Arithmetic + "\n"
	}
	for _, want := range []string{"must have: the new head", "about 71 %", "about 50 %", "√(300 ÷ 600) = 0.71", "235 − 40 = 195 mm", "100 mm more in Z", "from 450 to 40 mm: retraction from 1.2 mm", "M92 out", "Slicer: print area", "Moving mass, bed"} {
		if !strings.Contains(said, want) {
			t.Errorf("%q is not said:\n%s", want, said)
		}
	}
	if s := c.Spares(); len(s) != 2 || s[0].Model != "Sounder" && s[1].Model != "Sounder" {
		t.Errorf("set free: %+v", s)
	}
	plain, _ := change.NewChange(fit.Kit{Key: "y"}, nil, facts(nil))
	if len(plain.Consequences()) != 0 || len(plain.Spares()) != 0 {
		t.Error("a kit that changes nothing has consequences")
	}
}
