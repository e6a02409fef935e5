package change

import (
	"fmt"
	"slices"
	"strings"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// StaleFiles is what has to be changed in the start code, and which files sliced
// before no longer print as they should: what the kit says, and what follows
// from the machine before and after. Source: common practice.
func (c Change) StaleFiles() []string {
	out := slices.Clone(c.Kit.StartCode)
	said := func(word string) bool {
		return slices.ContainsFunc(out, func(s string) bool { return strings.Contains(s, word) })
	}
	was, is := holds(c.Before, parts.Probe), holds(c.After, parts.Probe)
	switch {
	case is && !was && !said("G29"):
		out = append(out, "G29 on the line after G28 in the start code; files sliced before print unprobed")
	case was && without(c.After, parts.Probe) && !said("G29"):
		out = append(out, "G29 out of the start code: there is no probe any more; files sliced before stop at it")
	}
	if c.feedsOtherwise() && !said("M92") {
		out = append(
			out,
			"M92 out of the start code and of files sliced before: it would override the new steps/mm on every print",
		)
	}
	for _, nozzle := range c.After.Each(parts.Nozzle) {
		if before, after, changed := c.numbers(nozzle, parts.NozzleBore); changed {
			out = append(
				out,
				fmt.Sprintf("files sliced for a bore of %s mm: slice them again for %s mm", before.Value.Text, after.Value.Text),
			)
		}
	}
	for _, hotend := range c.After.Each(parts.Hotend) {
		if before, after, changed := c.numbers(hotend, parts.HotendRating); changed &&
			after.Value.Number < before.Value.Number {
			out = append(out, fmt.Sprintf("files that print above %s °C: the hotend no longer bears them", after.Value.Text))
		}
	}
	for _, width := range []machine.TraitOf{parts.FrameX, parts.FrameY, parts.FrameZ} {
		if before, after, changed := c.numbers(c.After.First(parts.Frame), width); changed &&
			after.Value.Number < before.Value.Number {
			out = append(
				out,
				fmt.Sprintf("files with more than %s in %s: they no longer fit", after.Trait.Show(after.Value), after.Trait.Short),
			)
		}
	}
	return out
}

// numbers are a fact of a position before and after, and whether both are known and
// differ.
func (c Change) numbers(p *machine.Position, name machine.TraitOf) (before, after machine.Fact, changed bool) {
	t := c.After.Vocabulary().Of(p, name)
	before, after = *c.Before.At(t), *c.After.At(t)
	before.Trait, after.Trait = t, t
	return before, after, before.Known() && after.Known() && before.Value.Number != after.Value.Number
}

// feedsOtherwise reports whether an extruder's steps/mm are others afterwards, or may
// be: its gear, its motor or the step range changes.
func (c Change) feedsOtherwise() bool {
	for _, name := range []machine.TraitOf{parts.ExtruderRatio, parts.ExtruderGearDiameter, parts.MotorStepAngle,
		parts.DriverMicrosteps} {
		for _, p := range c.After.Each(name.Kind) {
			if _, _, changed := c.numbers(p, name); changed && p.Serves.Head() > 0 {
				return true
			}
		}
	}
	return c.exchanges(parts.Extruder)
}
