package maintenance

import (
	"fmt"
	"slices"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// ProtectionTask is the key of the thermal-protection test, which outranks all
// others while it is not proven.
const ProtectionTask = "protection-test"

// Tasks whose interval hangs on the part.
const (
	nozzleTask = "nozzle"
	linerTask  = "liner"
)

// Task is a kind of maintenance with its intervals; either may be zero.
type Task struct {
	Key   string  `json:"key"`
	Title string  `json:"title"`
	How   string  `json:"how"`
	Hours float64 `json:"hours,omitempty" doc:"Print hours"`
	Days  int     `json:"days,omitempty"`
	Kind  string  `json:"kind" doc:"The kind of part it is about; a machine without one is left out"`
	// Renews is the kind of part that the task puts in anew: always, or where the person
	// who did it says so. Calibrations that depend on it are invalid then.
	Renews   string   `json:"renews,omitempty"`
	Always   bool     `json:"always,omitempty" doc:"The task is the change"`
	Fitted   bool     `json:"-"` // applies only where such a part is known to be fitted
	Cautions []string `json:"cautions"`
	Risk     Risk     `json:"-"`
}

// Risk is what a task that is not done leads to, the worst first.
type Risk int

const (
	ShockAndFire Risk = iota
	HurtsPeople
	BreaksMachines
	SpoilsPrints
)

const (
	unplug = "Pull the mains plug first."
	hotEnd = "Hot nozzle and block: burns."
)

// Tasks are the intervals to begin with; a shop learns its own from its
// failures. Source of intervals and risks: from memory.
func Tasks() []Task {
	return []Task{
		{
			Key:   ProtectionTask,
			Title: "Test thermal-runaway protection",
			Days:  calibration.ProtectionGoodFor,
			Kind:  parts.Firmware,
			How: "No-heat test over USB; the heater-lead test only by somebody who may open the machine. Also after " +
				"any build, board, heater or sensor.",
			Cautions: []string{"Not to be left running unattended until proven.", unplug},
			Risk:     ShockAndFire,
		},
		{
			Key:      nozzleTask,
			Title:    "Change the nozzle",
			Hours:    300,
			Kind:     parts.Nozzle,
			Renews:   parts.Nozzle,
			Always:   true,
			How:      "Hot, with two spanners; then the Z offset again.",
			Cautions: []string{hotEnd},
			Risk:     SpoilsPrints,
		},
		{
			Key:      "lubricate",
			Title:    "Lubricate lead screws and rails",
			Hours:    250,
			Kind:     parts.ZDrive,
			How:      "Wipe first, then a thin film; run through the whole travel.",
			Cautions: []string{"The gantry of some machines drops when unpowered: hold it."},
			Risk:     BreaksMachines,
		},
		{
			Key:      "belts",
			Title:    "Belts: tension and wear",
			Hours:    250,
			Kind:     parts.Belts,
			Renews:   parts.Belts,
			How:      "Pluck both: equal pitch. Dust at a pulley means wear.",
			Cautions: []string{},
			Risk:     BreaksMachines,
		},
		{
			Key:      "wheels",
			Title:    "Wheels, eccentric nuts, frame screws",
			Hours:    300,
			Kind:     parts.Frame,
			How:      "No wobble, no flat spots; screws snug.",
			Cautions: []string{},
			Risk:     BreaksMachines,
		},
		{
			Key:      linerTask,
			Title:    "PTFE liner",
			Hours:    500,
			Kind:     parts.Hotend,
			Renews:   parts.Tube,
			Always:   true,
			How:      "Cut square, a couple of millimetres long, trim to fit, seated fully, clip back in.",
			Cautions: []string{hotEnd, "Never above its rating: fumes."},
			Risk:     HurtsPeople,
		},
		{
			Key:      "fans",
			Title:    "Fans: dust and bearings",
			Days:     91,
			Kind:     parts.CaseFan,
			How:      "Brush them out, listen; a dead hotend fan jams the hotend.",
			Cautions: []string{unplug},
			Risk:     BreaksMachines,
		},
		{
			Key:      "terminals",
			Title:    "Mains and bed terminals, earth continuity",
			Days:     183,
			Kind:     parts.Supply,
			How:      "Terminals tight, no brown plastic, earth from plug to frame.",
			Cautions: []string{unplug, "Mains voltage: by a licensed electrician where local rules say so."},
			Risk:     ShockAndFire,
		},
		{
			Key:      "probe",
			Title:    "Probe pin and self-test",
			Hours:    200,
			Kind:     parts.Probe,
			Renews:   parts.Probe,
			Fitted:   true,
			How:      "Clean the pin, run the self-test; keep spare tips.",
			Cautions: []string{},
			Risk:     SpoilsPrints,
		},
		{
			Key:      "host",
			Title:    "Host: back-up and updates",
			Days:     91,
			Kind:     parts.Host,
			Fitted:   true,
			How:      "Back up the configuration. Update only with a reason on record: a machine that works is left alone.",
			Cautions: []string{},
			Risk:     SpoilsPrints,
		},
		{
			Key:      "surface",
			Title:    "Bed surface",
			Hours:    400,
			Kind:     parts.Surface,
			Renews:   parts.Surface,
			How:      "Worn, scratched or lifting: change it. Thickness differs: see the Z offset.",
			Cautions: []string{"Hot bed: burns."},
			Risk:     SpoilsPrints,
		},
		{
			Key:      "extruder",
			Title:    "Extruder gear and tension",
			Hours:    300,
			Kind:     parts.Extruder,
			How:      "Brush the dust out of the teeth; tension as it was.",
			Cautions: []string{unplug},
			Risk:     SpoilsPrints,
		},
	}
}

// TaskOf finds a task by its key.
func TaskOf(key string) (Task, bool) {
	for _, t := range Tasks() {
		if t.Key == key {
			return t, true
		}
	}
	return Task{}, false
}

// Applies reports whether a machine has anything that the task is for.
func (t Task) Applies(s machine.Snapshot) bool {
	return slices.ContainsFunc(t.fitted(s), func(p *machine.Position) bool {
		_, _, applies := t.Interval(s, p)
		return applies
	})
}

// fitted are the positions of a machine at which it has a part that the task is for.
func (t Task) fitted(s machine.Snapshot) []*machine.Position {
	var out []*machine.Position
	for _, p := range s.Each(t.Kind) {
		if model := s.ModelAt(p); model != machine.None && (!t.Fitted || model != "") {
			out = append(out, p)
		}
	}
	return out
}

// Wearing are the positions of a machine whose parts wear with print hours.
func Wearing(s machine.Snapshot) map[string]bool {
	out := map[string]bool{}
	for _, t := range Tasks() {
		if t.Hours == 0 {
			continue
		}
		for _, p := range t.fitted(s) {
			out[p.Key] = true
		}
	}
	return out
}

// Interval is that of the part at a position, in print hours, and why it differs from
// the usual; applies is false where the part needs no such work.
func (t Task) Interval(s machine.Snapshot, p *machine.Position) (hours float64, why string, applies bool) {
	hours = t.Hours
	switch t.Key {
	case nozzleTask:
		if s.Says(p, parts.NozzleAbrasive, "yes") {
			hours, why = 60, "abrasive filament"
		}
		if s.Says(p, parts.NozzleMaterial, "hardened") {
			hours *= 5
			why = join(why, "hardened ×5")
		}
	case linerTask:
		if s.Says(p, parts.HotendLiner, "no") {
			return 0, "", false
		}
		if works, ok := s.Number(p, parts.HotendWorkingTemperature); ok && works > 240 {
			hours, why = 250, "works above 240 °C"
		}
	}
	return hours, why, true
}

func join(a, b string) string {
	if a == "" {
		return b
	}
	return a + ", " + b
}

// Renewed is what becomes of calibrations where a task put parts in anew at positions of
// a machine: at every one of the kind where none is named.
func (t Task) Renewed(s machine.Snapshot, at []string) (calibration.Difference, error) {
	d := calibration.Difference{Before: s, After: s, Exchanged: map[string]string{}}
	for _, key := range at {
		if !slices.ContainsFunc(s.Each(t.Renews), func(p *machine.Position) bool { return p.Key == key }) {
			return d, fmt.Errorf("%s: this machine has no position %q for it", t.Title, key)
		}
	}
	for _, p := range s.Each(t.Renews) {
		if (len(at) == 0 || slices.Contains(at, p.Key)) && s.ModelAt(p) != machine.None {
			d.Exchanged[p.Key] = p.Label + ": a new one, or adjusted, in maintenance"
		}
	}
	return d, nil
}
