package change

import (
	"fmt"
	"math"
	"strings"

	"wardifex/internal/core/machine"
)

// Consequence is something else that a change brings with it.
type Consequence struct {
	What       string `json:"what"`
	Says       string `json:"says"`
	Arithmetic string `json:"arithmetic,omitempty"`
}

// usualToolhead is the mass of a toolhead of which none is on record, in g.
// Source: from memory.
const usualToolhead = 350

// Consequences lists what follows from a change besides calibrations: the build
// and what it must have, moving mass with what it does to resonance and
// acceleration, print area, retraction, start code and slicer. Source: a mass on
// a spring, f ∝ 1/√m; the acceleration that a shaper allows ∝ f².
func (c Change) Consequences() []Consequence {
	out := []Consequence{}
	add := func(what, says, arithmetic string) { out = append(out, Consequence{what, says, arithmetic}) }
	if c.Kit.NewBuild != "" {
		add("Firmware build", "The build is no longer right; the new one must have: "+c.Kit.NewBuild+".", "")
	}
	if g := c.Kit.ToolheadGrams; g != 0 {
		before, note := float64(usualToolhead), " (no mass on record: taken as usual)"
		if f := c.Before.Fact("toolhead.grams"); f.Known() {
			before, note = f.Value.Number, ""
		}
		says, arithmetic := heavier(before, g)
		add("Moving mass, toolhead", fmt.Sprintf("%+.0f g on %.0f g%s. %s", g, before, note, says), arithmetic)
	}
	if g := c.Kit.BedGrams; g != 0 {
		add("Moving mass, bed", fmt.Sprintf("%+.0f g: where the bed moves, its axis resonates lower; measure again.", g), "")
	}
	for i, axis := range []string{"X", "Y", "Z"} {
		loss := c.Kit.AreaLoss[i]
		if loss == 0 {
			continue
		}
		key := machine.Key("frame." + string("xyz"[i]))
		says := fmt.Sprintf("%g mm lost in %s.", loss, axis)
		if loss < 0 {
			says = fmt.Sprintf("%g mm more in %s.", -loss, axis)
		}
		arithmetic := ""
		if f := c.Before.Fact(key); f.Known() {
			arithmetic = fmt.Sprintf("%s − %g = %g mm", f.Value.Text, loss, f.Value.Number-loss)
		}
		add("Print area", says, arithmetic)
	}
	if before, after := c.Before.Fact("tube.length"), c.After.Fact("tube.length"); before.Known() && after.Known() && before.Value.Number != after.Value.Number {
		add("Retraction", fmt.Sprintf("The tube goes from %s to %s mm: %s.", before.Value.Text, after.Value.Text, regime(after.Value.Number)), "")
	}
	for _, s := range c.Kit.StartCode {
		add("Start code and files", s+".", "")
	}
	for _, s := range c.Kit.Slicer {
		add("Slicer", s+".", "")
	}
	return out
}

func heavier(before, added float64) (says, arithmetic string) {
	m := before / (before + added)
	f := math.Sqrt(m)
	return fmt.Sprintf("Its resonance falls to about %.0f %% of what it was, and the acceleration for the same smoothing to about %.0f %%.", 100*f, 100*m),
		fmt.Sprintf("f ∝ 1/√m: √(%.0f ÷ %.0f) = %.2f; a ∝ f²: %.2f", before, before+added, f, m)
}

// regime is how retraction is tuned at a length of tube. Source: common
// practice: 6 to 7 mm for a long tube, from 1.2 mm on for a direct drive.
func regime(tube float64) string {
	if tube < 100 {
		return "retraction from 1.2 mm on, ooze features off, tune again"
	}
	return "retraction about 6 to 7 mm, tune again"
}

// Spare is a part that a change sets free.
type Spare struct {
	Slot  string `json:"slot"`
	Label string `json:"label"`
	Model string `json:"model"`
}

// Serves reports whether a machine carries the same model in the same slot, so
// that the part is a spare for it.
func (s Spare) Serves(m machine.Snapshot) bool {
	return strings.EqualFold(m.Model(s.Slot), s.Model)
}

// Spares lists the parts that come out and have a name.
func (c Change) Spares() []Spare {
	out := []Spare{}
	for _, x := range c.Exchanges {
		if model := c.Before.Model(x.Slot); model != "" && model != machine.None && x.Slot != "firmware" {
			out = append(out, Spare{x.Slot, x.Label, model})
		}
	}
	return out
}
