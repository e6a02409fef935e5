package change

import (
	"fmt"
	"strings"

	"wardifex/internal/core/machine"
)

// statedInBuild are the facts that a build states of its machine, and so is
// right for while they stay as they are. Values that are kept in the stored
// settings as well (steps/mm, offsets, PID) are not among them. Source: common
// practice.
var statedInBuild = []machine.Key{
	"mainboard.model", "driver-x.model", "driver-y.model", "driver-z.model", "driver-e.model",
	"display.kind", "probe.senses", "z-endstop.model", "runout.model",
	"sensor.type", "sensor-2.type", "bed-sensor.type",
	"z-drive.motors", "motor-e2.model",
	"frame.x", "frame.y", "frame.z",
}

// fittedOnly are those of which a build states only whether there is one.
var fittedOnly = map[machine.Key]bool{"z-endstop.model": true, "runout.model": true, "motor-e2.model": true}

// sameToTheBuild tells of a change that a build takes no notice of: one part
// for another of its kind where only its presence is stated, and a split lead,
// which looks like one motor to the board.
func sameToTheBuild(key machine.Key, before, after string) bool {
	split := map[string]bool{"one": true, "two on one driver": true}
	return fittedOnly[key] && before != "" && (before == machine.None) == (after == machine.None) ||
		key == "z-drive.motors" && split[before] && split[after]
}

// restates lists what a build states otherwise of a machine after a change than
// before it, as "Hotend sensor: type 100k thermistor → 104 thermistor". What is
// known to be absent now and was never looked for was not stated.
func restates(before, after machine.Snapshot) []string {
	var out []string
	for _, key := range statedInBuild {
		was, is := before.Fact(key), after.Fact(key)
		switch {
		case !is.Known(), was.Known() && is.Trait.Same(was.Value, is.Value),
			!was.Known() && is.Value.Text == machine.None,
			sameToTheBuild(key, was.Value.Text, is.Value.Text):
			continue
		}
		text := "not on record"
		if was.Known() {
			text = is.Trait.Show(was.Value)
		}
		out = append(out, fmt.Sprintf("%s %s → %s", is.Trait.Label, text, is.Trait.Show(is.Value)))
	}
	return out
}

// Flashes reports whether the work brings a new build, or a new configuration
// where the family is hosted.
func (c Change) Flashes() bool { return c.Kit.NewBuild != "" || len(c.Restated) > 0 }

// buildMust is what the new build must have, in words.
func (c Change) buildMust() string {
	if c.Kit.NewBuild != "" {
		return c.Kit.NewBuild
	}
	return strings.Join(c.Restated, "; ")
}
