package change

import (
	"fmt"
	"slices"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Difference is what the change makes otherwise, for the calibrations of the machine.
func (c Change) Difference() calibration.Difference {
	d := calibration.Difference{
		Before:       c.Before,
		After:        c.After,
		Exchanged:    map[string]string{},
		Reconfigured: map[string]string{},
		Set:          map[machine.Key]string{},
		Begins:       map[calibration.Kind]string{},
	}
	for _, x := range c.PartChanges {
		says := fmt.Sprintf("%s: %s → %s", x.Label, x.Before, x.After)
		switch {
		case x.Stays && x.build:
			// What is compiled in stays; a configuration is read at every start.
			if family := familyOf(c.After); family == parts.Hosted || family == parts.Scripted {
				d.Reconfigured[x.Slot] = says
			}
		case x.Stays && x.setting: // told trait by trait, below
		default:
			d.Exchanged[x.Slot] = says
		}
	}
	for _, a := range c.Set {
		t, _ := c.After.Vocabulary().Trait(a.Key)
		if was := c.Before.At(t); !was.Known() || !t.Same(was.Value, a.Value) {
			d.Set[a.Key] = fmt.Sprintf("%s: %s → %s", t.Label, a.Before, t.Show(a.Value))
		}
	}
	d.Weights = c.weights()
	if slices.ContainsFunc(areas, func(capacity string) bool { return c.more(capacity) != 0 }) {
		d.Area = "the print area is another one"
	}
	if holds(c.After, parts.Runout) && !holds(c.Before, parts.Runout) {
		d.Begins[calibration.LoadLength] = "filament is changed by the machine from now on"
	}
	return d
}

// Invalidated lists which of the records are no longer valid after the change.
func (c Change) Invalidated(records []calibration.Record) []calibration.Invalid {
	return c.Difference().Invalidated(records)
}

// Needed lists the calibrations that the change makes necessary, in working order.
func (c Change) Needed(records []calibration.Record) []calibration.Due {
	return c.Difference().Needed(records)
}

// Capacities whose use has consequences besides the sum.
const (
	headMass = "head-mass"
	bedMass  = "bed-mass"
)

var areas = []string{"print-width", "print-depth", "print-height"}

// more is what the change takes of a capacity besides what parts that leave took.
// What the change states outright, such as the mass of a new head, is not in it.
func (c Change) more(capacity string) float64 {
	return c.moreWhere(capacity, func(machine.Taking) bool { return true })
}

func (c Change) moreWhere(capacity string, which func(machine.Taking) bool) float64 {
	sum := 0.0
	for _, t := range c.Taken {
		if t.Capacity == capacity && (t.Key == "" || t.Shift != 0) && which(t) {
			sum += t.Amount
		}
	}
	for _, t := range c.Freed {
		if t.Capacity == capacity && which(t) {
			sum -= t.Amount
		}
	}
	return sum
}

// weights are the changes of moving mass: of each head, and of the bed.
func (c Change) weights() []calibration.Weight {
	var out []calibration.Weight
	head := func(t machine.Taking) int {
		if p := c.After.Vocabulary().At(t.Slot); p != nil {
			return p.Serves.Head()
		}
		return 0
	}
	for _, n := range append([]int{0}, c.After.Structure().Heads()...) {
		if grams := c.moreWhere(headMass, func(t machine.Taking) bool { return head(t) == n }); grams != 0 {
			out = append(out, calibration.Weight{Head: n, Says: fmt.Sprintf("toolhead mass %+g g", grams)})
		}
	}
	if grams := c.more(bedMass); grams != 0 {
		out = append(out, calibration.Weight{Bed: true, Says: fmt.Sprintf("bed mass %+g g", grams)})
	}
	return out
}

// settings are traits that are set, in a part that stays as it is; whatever else is
// done to a part, it was worked at.
var settingTraits = []machine.TraitOf{
	parts.DriverMicrosteps, parts.PlateTemperature, parts.HotendWorkingTemperature, parts.ToolheadCarries,
	machine.HeadsMode, machine.HeadMounted, machine.ListComplete,
}

func isSetting(t *machine.Trait) bool {
	return slices.ContainsFunc(settingTraits, func(name machine.TraitOf) bool { return t.Is(name) })
}

// Missing says what a machine still lacks before it can be relied on: each calibration
// that is invalid, failed, or never made, and each fact of a fitted part that nobody has
// looked at though it can be read in minutes.
func Missing(s machine.Snapshot, records []calibration.Record) []string {
	out := calibration.Missing(s, records)
	for _, name := range []machine.TraitOf{parts.FirmwareVersion, parts.ProbeSelfTest} {
		for _, p := range s.Each(name.Kind) {
			if t := s.Vocabulary().Of(p, name); t != nil && s.At(t).Grade == machine.Unknown && s.Holds(p) {
				out = append(out, t.Label+": unknown")
			}
		}
	}
	return out
}
