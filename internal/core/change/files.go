package change

import (
	"fmt"
	"slices"
	"strings"

	"wardifex/internal/core/machine"
)

// StaleFiles is what has to be changed in the start code, and which files sliced
// before no longer print as they should: what the kit says, and what follows
// from the machine before and after. Source: common practice.
func (c Change) StaleFiles() []string {
	out := slices.Clone(c.Kit.StartCode)
	said := func(word string) bool {
		return slices.ContainsFunc(out, func(s string) bool { return strings.Contains(s, word) })
	}
	was, is := c.Before.Fitted("probe"), c.After.Fitted("probe")
	switch {
	case is && !was && !said("G29"):
		out = append(out, "G29 on the line after G28 in the start code; files sliced before print unprobed")
	case was && c.After.Model("probe") == machine.None && !said("G29"):
		out = append(out, "G29 out of the start code: there is no probe any more; files sliced before stop at it")
	}
	if c.feedsOtherwise() && !said("M92") {
		out = append(out, "M92 out of the start code and of files sliced before: it would override the new steps/mm on every print")
	}
	if before, after, changed := c.numbers("nozzle.bore"); changed {
		out = append(out, fmt.Sprintf("files sliced for a bore of %s mm: slice them again for %s mm", before.Value.Text, after.Value.Text))
	}
	if before, after, changed := c.numbers("hotend.rating"); changed && after.Value.Number < before.Value.Number {
		out = append(out, fmt.Sprintf("files that print above %s °C: the hotend no longer bears them", after.Value.Text))
	}
	for _, axis := range []machine.Key{"frame.x", "frame.y", "frame.z"} {
		if before, after, changed := c.numbers(axis); changed && after.Value.Number < before.Value.Number {
			out = append(out, fmt.Sprintf("files with more than %s in %s: they no longer fit", after.Trait.Show(after.Value), after.Trait.Short))
		}
	}
	return out
}

// numbers are a fact before and after, and whether both are known and differ.
func (c Change) numbers(key machine.Key) (before, after machine.Fact, changed bool) {
	before, after = c.Before.Fact(key), c.After.Fact(key)
	return before, after, before.Known() && after.Known() && before.Value.Number != after.Value.Number
}

// feedsOtherwise reports whether the extruder's steps/mm are others afterwards,
// or may be: its gear, its motor or the step range changes.
func (c Change) feedsOtherwise() bool {
	for _, key := range []machine.Key{"extruder.ratio", "extruder.gear-diameter", "motor-e.step-angle", "driver-e.microsteps"} {
		if _, _, changed := c.numbers(key); changed {
			return true
		}
	}
	return c.exchanges("extruder")
}
