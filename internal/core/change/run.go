package change

import (
	"fmt"
	"slices"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/quantity"
)

// RunAt is the position of what a board runs, or of what a head carries for it; head 0 is
// the board's own. Where the machine does not list one yet, listed is false and the
// position is what is to be listed. The error says why there can be none.
func RunAt(on machine.Snapshot, board string, head int, by string) (p machine.Position, listed bool, err error) {
	voc := on.Vocabulary()
	at := voc.At(board)
	switch {
	case at == nil || !on.Has(at):
		return p, false, fmt.Errorf("the machine has no position %q for a board", board)
	case !RunsBuilds(voc, at):
		return p, false, fmt.Errorf("%s is no board that runs a build; say the mainboard or a toolhead board", at.Label)
	case head != 0 && !slices.Contains(on.Structure().Heads(), head):
		return p, false, fmt.Errorf("the machine has no head %d", head)
	}
	serves, label := at.Serves, "Build of "+at.Label
	if head != 0 {
		serves, label = machine.Head(head), fmt.Sprintf("Build of head %d", head)
	}
	for _, run := range calibration.RunsOf(on, at) {
		if run.Serves == serves {
			return *run, true, nil
		}
	}
	return machine.Position{Kind: parts.Firmware, Label: label, Serves: serves,
		FedBy: &machine.Link{To: at.Key, Grade: machine.Observed, By: by}}, false, nil
}

// StartRun is what becomes invalid on a machine when a board runs another build from a day
// on, under a name. others are the runs at the position: the one that runs now ends then.
func StartRun(slot, name string, from time.Time, others []firmware.Run, on machine.Snapshot,
	records []calibration.Record, now time.Time) ([]calibration.Invalid, error) {
	others = slices.Clone(others)
	for i := range others {
		if others[i].To.IsZero() && others[i].From.Before(from) {
			others[i].To = from // it ends where this one begins
		}
	}
	if err := firmware.CheckRun(firmware.Run{Slot: slot, From: from}, others, now); err != nil {
		return nil, err
	}
	c, err := ByHand(slot, name, on)
	if err != nil {
		return nil, err
	}
	d := c.Difference()
	d.Until = from
	return d.Invalidated(records), nil
}

// NewBuild is the build that a step recorded by what was read of it, of a family, under
// the name that it was given.
func (r Result) NewBuild(family string) firmware.Build {
	b := firmware.Build{Name: r.BuildName, Family: family}
	for key, value := range r.Readings {
		switch key.Trait() {
		case parts.FirmwareVersion.Name:
			b.Version = value
		case parts.FirmwareLabel.Name:
			b.Label = value
		case parts.FirmwareFile.Name:
			b.File = value
		case parts.FirmwareSize.Name:
			if n, err := quantity.Recorded(value); err == nil {
				b.KiB = n
			}
		}
	}
	return b
}
