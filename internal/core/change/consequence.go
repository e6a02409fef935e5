package change

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/quantity"
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
// and what it must have, what is left of each capacity, moving mass with what it
// does to resonance and acceleration, print area, retraction, steps/mm, motor
// current, start code, files and slicer.
func (c Change) Consequences(records []calibration.Record) []Consequence {
	out := c.ofBuild()
	for _, s := range c.Shifts() {
		says := "Still enough."
		if s.Short {
			says = "It may not be enough."
		}
		out = append(out, Consequence{s.Title, says, s.Arithmetic})
	}
	out = append(out, c.ofMass(records)...)
	out = append(out, c.ofArea()...)
	out = append(out, c.ofDrive()...)
	out = append(out, c.ofZero(records)...)
	out = append(out, c.ofHeads()...)
	for _, s := range c.StaleFiles() {
		out = append(out, Consequence{What: "Start code and files", Says: s + "."})
	}
	for _, s := range c.Kit.Slicer {
		out = append(out, Consequence{What: "Slicer", Says: s + "."})
	}
	return out
}

// ofBuild says what the build must have, or that it stays.
func (c Change) ofBuild() []Consequence {
	what := "Firmware build"
	if familyOf(c.After) == parts.Hosted {
		what = "Configuration"
	}
	if !c.Flashes() {
		if len(c.PartChanges) == 0 {
			return []Consequence{}
		}
		return []Consequence{{What: what, Says: "It stays: nothing changes that it states."}}
	}
	return []Consequence{
		{
			what,
			"The " + strings.ToLower(what) + " is no longer right; the new one must have: " + c.buildMust() + ".",
			strings.Join(c.Restated, "; "),
		},
	}
}

// ofMass says how far toolhead and bed ring lower. Source: a mass on a spring,
// f ∝ 1/√m; the acceleration that a shaper allows for the same smoothing ∝ f²
// (Singer & Seering 1990: the impulses lie half a period apart).
func (c Change) ofMass(records []calibration.Record) []Consequence {
	var out []Consequence
	for _, m := range []struct {
		what, capacity string
		grams          machine.TraitOf
		usual          float64
	}{{"toolhead", headMass, parts.ToolheadGrams, usualToolhead}, {"bed", bedMass, parts.PlateGrams, 0}} {
		added, before, note := c.more(m.capacity), m.usual, " (no mass on record: taken as usual)"
		for _, p := range c.After.Each(m.grams.Kind) {
			was, is, changed := c.numbers(p, m.grams)
			if changed {
				added = is.Value.Number - was.Value.Number
			}
			if was.Known() {
				before, note = was.Value.Number, ""
			}
			if changed {
				break // the one that the change is about
			}
		}
		switch {
		case added == 0:
		case before == 0 || before+added <= 0:
			out = append(
				out,
				Consequence{
					What: "Moving mass, " + m.what,
					Says: fmt.Sprintf(
						"%+.0f g: its axis rings otherwise where it moves; measure again. How much, its mass on record would tell.",
						added,
					),
				},
			)
		default:
			says, arithmetic := heavier(before, added, calibration.NumberOf(c.Before, records, calibration.Resonance))
			out = append(
				out,
				Consequence{
					"Moving mass, " + m.what,
					fmt.Sprintf("%+.0f g on %.0f g%s. %s", added, before, note, says),
					arithmetic,
				},
			)
		}
	}
	return out
}

// heavier says what added grams on a mass do; hertz is the resonance on record,
// 0 when there is none.
func heavier(before, added, hertz float64) (says, arithmetic string) {
	m := before / (before + added)
	f := math.Sqrt(m)
	verb := "falls"
	if added < 0 {
		verb = "rises"
	}
	says = fmt.Sprintf(
		"Its resonance %s to about %.0f %% of what it was, and the acceleration for the same smoothing to about %.0f %%.",
		verb,
		100*f,
		100*m,
	)
	arithmetic = fmt.Sprintf("f ∝ 1/√m: √(%.0f ÷ %.0f) = %.2f; a ∝ f²: %.2f", before, before+added, f, m)
	if hertz > 0 {
		arithmetic += fmt.Sprintf("; %.0f Hz × %.2f = %.0f Hz", hertz, f, hertz*f)
	}
	return says, arithmetic
}

// ofArea says what is left of the print area, or what is gained.
func (c Change) ofArea() []Consequence {
	var out []Consequence
	frame := c.After.First(parts.Frame)
	for i, width := range []machine.TraitOf{parts.FrameX, parts.FrameY, parts.FrameZ} {
		axis, loss, arithmetic := string("XYZ"[i]), c.more(areas[i]), ""
		if before, after, changed := c.numbers(frame, width); changed {
			loss = before.Value.Number - after.Value.Number
			sign := "−"
			if loss < 0 {
				sign = "+"
			}
			arithmetic = fmt.Sprintf(
				"%s %s %s = %s",
				before.Value.Text,
				sign,
				quantity.Format(math.Abs(loss)),
				after.Trait.Show(after.Value),
			)
		}
		switch {
		case loss > 0:
			out = append(
				out,
				Consequence{"Print area", fmt.Sprintf("%s mm lost in %s.", quantity.Format(loss), axis), arithmetic},
			)
		case loss < 0:
			out = append(
				out,
				Consequence{"Print area", fmt.Sprintf("%s mm more in %s.", quantity.Format(-loss), axis), arithmetic},
			)
		}
	}
	return out
}

// ofZero says how the zero of Z follows another thickness of the surface.
// Source: common practice: a probe that touches the surface follows it; one that
// senses metal, and an endstop, do not.
func (c Change) ofZero(records []calibration.Record) []Consequence {
	before, after, changed := c.numbers(c.After.First(parts.Surface), parts.SurfaceThickness)
	if !changed {
		return nil
	}
	thicker := after.Value.Number - before.Value.Number
	sum := fmt.Sprintf("%s − %s = %+.2f mm", after.Value.Text, before.Value.Text, thicker)
	switch {
	case touches(c.After):
		return []Consequence{
			{
				What: "Zero of Z",
				Says: "The probe touches the surface and follows it: the offset stays. Check it with paper all the same.",
			},
		}
	case holds(c.After, parts.Probe) && holds(c.Before, parts.Probe):
		says := fmt.Sprintf("The probe senses the metal, not the surface: the offset moves by %+.2f mm.", thicker)
		if old := calibration.NumberOf(c.Before, records, calibration.ZOffset); old != 0 {
			sum += fmt.Sprintf("; %.2f %+.2f = %.2f mm", old, thicker, old+thicker)
		}
		return []Consequence{{"Zero of Z", strings.ReplaceAll(says, "-", "−"), strings.ReplaceAll(sum, "-", "−")}}
	case without(c.After, parts.Probe):
		way := "Raise"
		if thicker < 0 {
			way = "Lower"
		}
		return []Consequence{
			{
				"Zero of Z",
				fmt.Sprintf(
					"%s the Z endstop by %.2f mm before the first homing, then paper at the corners.",
					way,
					math.Abs(thicker),
				),
				strings.ReplaceAll(sum, "-", "−"),
			},
		}
	}
	return nil
}

// ofHeads says what a tool plate asks of each head. Source: common practice: a
// head carries its build, or its values.
func (c Change) ofHeads() []Consequence {
	if !c.exchanges(parts.ToolPlate) || !holds(c.After, parts.ToolPlate) {
		return nil
	}
	carries := func(what string) bool {
		return slices.ContainsFunc(
			c.After.Each(parts.Toolhead),
			func(p *machine.Position) bool { return c.After.Says(p, parts.ToolheadCarries, what) },
		)
	}
	switch {
	case carries(parts.OwnBuild):
		return []Consequence{
			{
				What: "Heads",
				Says: "Each head carries its own build: whoever changes heads swaps the card, and the flash makes what " +
					"depends on the build invalid.",
			},
		}
	case carries(parts.OwnValues):
		return []Consequence{
			{
				What: "Heads",
				Says: "One build, with values of each head: whoever changes heads enters its offsets, steps/mm and PID, or " +
					"loads them from the store.",
			},
		}
	}
	return []Consequence{
		{What: "Heads", Says: "Decide whether each head carries its own build or its own values, and record it."},
	}
}

// ofDrive says what becomes of retraction, steps/mm and motor current. Source:
// common practice.
func (c Change) ofDrive() []Consequence {
	var out []Consequence
	for _, tube := range c.After.Each(parts.Tube) {
		if before, after, changed := c.numbers(tube, parts.TubeLength); changed {
			out = append(
				out,
				Consequence{
					What: "Retraction",
					Says: fmt.Sprintf(
						"The tube goes from %s to %s mm: %s.",
						before.Value.Text,
						after.Value.Text,
						regime(after.Value.Number),
					),
				},
			)
		}
	}
	for _, extruder := range c.After.Each(parts.Extruder) {
		was, is := bench.DriveOf(c.Before, extruder), bench.DriveOf(c.After, extruder)
		e := is.StepsPerMM()
		if e <= 0 || is == was {
			continue
		}
		says := fmt.Sprintf("About %.0f steps/mm follow from the parts.", e)
		if old := was.StepsPerMM(); old > 0 {
			says = fmt.Sprintf("About %.0f steps/mm follow from the parts, %.0f before.", e, old)
			if e > old {
				says += " Finer and stronger feed, lower top speed: check the step rate against the board."
			}
		}
		out = append(
			out,
			Consequence{
				"Steps per mm",
				says,
				fmt.Sprintf("360 ÷ %g × %g × %g ÷ (π × %g mm) = %.1f", is.StepAngle, is.Microsteps, is.Ratio, is.Diameter, e),
			},
		)
	}
	for _, motor := range c.After.Each(parts.Motor) {
		before, after, changed := c.numbers(motor, parts.MotorCurrent)
		if !changed {
			continue
		}
		more := "more"
		if after.Value.Number < before.Value.Number {
			more = "less"
		}
		t := after.Trait
		out = append(
			out,
			Consequence{
				What: "Motor current",
				Says: fmt.Sprintf(
					"%s: rated %s, %s before: set %s. Hosted firmware takes the RMS value, scripted the peak, which is √2 as much.",
					t.Label,
					t.Show(after.Value),
					t.Show(before.Value),
					more,
				),
			},
		)
	}
	return append(out, c.ofSplitLead()...)
}

// ofSplitLead says what two motors on one driver need from now on.
func (c Change) ofSplitLead() []Consequence {
	var out []Consequence
	for _, drive := range c.After.Each(parts.ZDrive) {
		if !c.After.Says(drive, parts.ZMotors, parts.SplitLead) || c.Before.Says(drive, parts.ZMotors, parts.SplitLead) {
			continue
		}
		arithmetic := ""
		if motor := c.After.Structure().Beside(drive, parts.Motor); motor != nil {
			if f := c.After.Of(motor, parts.MotorCurrent); f.Known() {
				arithmetic = fmt.Sprintf("2 × %s = %s A", f.Trait.Show(f.Value), quantity.Format(2*f.Value.Number))
			}
		}
		out = append(
			out,
			Consequence{"Motor current", "Two motors on one driver share its current: set it for both.", arithmetic},
		)
	}
	return out
}

// touches reports whether a probe that touches the surface is fitted.
func touches(s machine.Snapshot) bool {
	return slices.ContainsFunc(
		s.Each(parts.Probe),
		func(p *machine.Position) bool { return s.Says(p, parts.ProbeSenses, parts.ByTouch) },
	)
}

// regime is how retraction is tuned at a length of tube. Source: common
// practice: 6 to 7 mm for a long tube, from 1.2 mm on for a direct drive.
func regime(tube float64) string {
	if tube < calibration.DirectTube {
		return "retraction from 1.2 mm on, ooze features off, tune again. A direct drive is easy to tune and takes " +
			"flexible filament; the head is heavier"
	}
	return "retraction about 6 to 7 mm, tune again. A long tube keeps the head light; flexible filament wants a " +
		"shorter path"
}
