package firmware

import (
	"fmt"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// statement is what a build states of the parts of a kind, and so is right for while
// it stays as it is.
type statement struct {
	of machine.TraitOf
	// presence says that only whether there is one is stated.
	presence bool
	// given says that what a machine cannot be without was stated though nobody has
	// recorded it.
	given bool
}

func model(kind string) machine.TraitOf {
	return machine.TraitOf{Kind: kind, Name: machine.ModelTrait, Value: machine.Text}
}

// stated is what a build states of its machine. Values that are kept in the stored
// settings as well (steps/mm, offsets, PID) are not among it. Source: common
// practice.
var stated = []statement{
	{of: model(parts.Mainboard)},
	{of: model(parts.Driver)},
	{of: parts.DisplayKind},
	{of: parts.ProbeSenses},
	{of: model(parts.Endstop), presence: true},
	{of: model(parts.Runout), presence: true},
	{of: parts.SensorType},
	{of: parts.ZMotors},
	{of: model(parts.Motor), presence: true, given: true},
	{of: parts.FrameX}, {of: parts.FrameY}, {of: parts.FrameZ},
}

// Restated lists what a build states otherwise of a machine after a change than
// before it, as "Hotend sensor: type 100k thermistor → 104 thermistor". What is
// known to be absent now and was never looked for was not stated.
func Restated(before, after machine.Snapshot) []string {
	var out []string
	for _, st := range stated {
		for _, p := range after.Each(st.of.Kind) {
			t := after.Vocabulary().Of(p, st.of)
			if t == nil {
				continue
			}
			was, is := before.At(t), after.At(t)
			switch {
			case !is.Known(),
				st.given && is.Value.Text != machine.None && before.Presence(p, machine.Claimed).Sure,
				was.Known() && t.Same(was.Value, is.Value),
				!was.Known() && is.Value.Text == machine.None,
				st.presence && was.Known() && (was.Value.Text == machine.None) == (is.Value.Text == machine.None),
				st.of.Name == parts.ZMotors.Name && st.of.Kind == parts.ZDrive && oneOutput(was) && oneOutput(is):
				continue
			}
			text := "not on record"
			if was.Known() && !was.Unlisted {
				text = t.Show(was.Value)
			}
			out = append(out, fmt.Sprintf("%s %s → %s", t.Label, text, t.Show(is.Value)))
		}
	}
	return out
}

// oneOutput tells that the motors of an axis look like one to the board: there is
// one, or two on a split lead.
func oneOutput(f *machine.Fact) bool {
	return f.Value.Text == parts.OneMotor || f.Value.Text == parts.SplitLead
}
