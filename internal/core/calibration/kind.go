package calibration

import (
	"slices"
	"strings"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Kind is a kind of calibration or proof.
type Kind string

const (
	Direction  Kind = "motor-direction"
	Current    Kind = "motor-current"
	Sensors    Kind = "sensor-sanity"
	HotendPID  Kind = "hotend-pid"
	BedPID     Kind = "bed-pid"
	Steps      Kind = "steps-per-mm"
	AxisSteps  Kind = "axis-steps"
	Tramming   Kind = "tramming"
	ProbeXY    Kind = "probe-offset"
	ZOffset    Kind = "z-offset"
	Mesh       Kind = "mesh"
	Resonance  Kind = "resonance"
	Retraction Kind = "retraction"
	LoadLength Kind = "filament-change"
	PrintArea  Kind = "print-area"
	Nozzles    Kind = "nozzle-to-nozzle"
	Protection Kind = "protection"
)

// Calibration says what one kind is, of whatever machine.
type Calibration struct {
	Kind  Kind   `json:"kind"`
	Title string `json:"title"`
	How   string `json:"how"`
	Unit  string `json:"unit,omitempty"`
	// Parts are the numbers of which the value is made; empty where it is one number, or
	// no number at all.
	Parts []Component `json:"parts"`
	// Optional kinds are not missed where none was ever recorded. A feature, which a
	// shop uses or not, is not even asked for after a change of what it depends on,
	// unless one was recorded or the change begins it.
	Optional bool     `json:"optional"`
	Feature  bool     `json:"feature"`
	Cautions []string `json:"cautions,omitempty"`

	subjects func(machine.Snapshot) []Subject
	depends  func(*dependencies)
	// after are the calibrations that this one is made on: made anew, they make it invalid.
	after []Kind
}

// Component is one of the numbers of a value, as it is written: "P 21.7".
type Component struct {
	Name string `json:"name"`
	Unit string `json:"unit,omitempty"`
}

const (
	hot   = "Hot nozzle and block: burns."
	pinch = "Moving axes: keep fingers out."
)

var (
	pid = []Component{{Name: "P"}, {Name: "I"}, {Name: "D"}}
	xy  = []Component{{Name: "X", Unit: "mm"}, {Name: "Y", Unit: "mm"}}
)

// all are the calibrations in the order in which they are made; each may need those
// before it. What each depends on is common practice.
var all = []Calibration{
	{
		Kind: Protection, Title: "Thermal-runaway protection", How: "No-heat test over USB, or heater-lead test.",
		subjects: heaters, depends: protection,
	},
	{
		Kind: Direction, Title: "Motor direction", How: "Move each axis a little and see that it goes the right way.",
		subjects: motors, depends: direction, Cautions: []string{pinch},
	},
	{
		Kind: Current, Title: "Motor current",
		How: "Set the reference voltage or the current of each driver for its motor.", Unit: "A",
		subjects: motors, depends: current, Optional: true,
		Cautions: []string{
			"Power is on: plastic screwdriver, touch nothing else.",
			"Never plug or unplug a motor with power on: it kills drivers.",
		},
	},
	{
		Kind: Sensors, Title: "Sensors agree with the room", How: "Machine cold: every sensor shows the room within a " +
			"few degrees. That does not prove which type they are.",
		subjects: whole, depends: sensors,
	},
	{
		Kind: HotendPID, Title: "Hotend PID", How: "Auto-tune at the temperature used (M303 E0), then store.", Parts: pid,
		subjects: headsWith(
			parts.Heater,
			parts.Sensor,
			parts.Hotend,
			parts.FanDuct,
		), depends: hotendPID, Cautions: []string{hot},
	},
	{
		Kind: BedPID, Title: "Bed PID", How: "Auto-tune at the temperature used (M303 E-1), then store.", Parts: pid,
		subjects: heatedBed, depends: bedPID, Optional: true, Cautions: []string{"Hot bed: burns."},
	},
	{
		Kind: Steps, Title: "Extruder steps per mm",
		How: "Ask for 100 mm, measure what came: new = old × asked ÷ delivered.", Unit: "steps/mm",
		subjects: headsWith(parts.Extruder, parts.Motor), depends: steps, Cautions: []string{hot},
	},
	{
		Kind: AxisSteps, Title: "Axis steps per mm",
		How: "Move 100 mm beside a rule, measure what it went: new = old × asked ÷ moved.", Unit: "steps/mm",
		subjects: axes, depends: axisSteps, Optional: true, Feature: true, Cautions: []string{pinch},
	},
	{
		Kind: Tramming, Title: "Tramming", How: "Level the plate on its knobs, rear corners, then the gantry; repeat.",
		subjects: bed, depends: tramming, Cautions: []string{pinch},
	},
	{
		Kind: ProbeXY, Title: "Probe offset in X and Y", Unit: "mm", Parts: xy,
		How:      "Mark where the pin touches, move the nozzle over the mark, read the distance in X and Y.",
		subjects: probedHeads, depends: probeOffset, Cautions: []string{pinch},
	},
	{
		Kind: ZOffset, Title: "Z offset",
		How: "Bed at working temperature; home; Z to 0; new offset = old − gap; home again.", Unit: "mm",
		subjects: zeroedHeads, depends: zOffset, Cautions: []string{"Hot bed: burns.", pinch},
	},
	{
		Kind: Mesh, Title: "Mesh", How: "Bed hot; probe the whole bed (G29) and store.",
		subjects: probedBed, depends: mesh, after: []Kind{Tramming, ProbeXY}, Cautions: []string{"Hot bed: burns.", pinch},
	},
	{
		Kind: Resonance, Title: "Resonance", How: "Measure again with an accelerometer, or from a ringing print.", Unit: "Hz",
		subjects: ringing, depends: resonance, Optional: true, Feature: true, Cautions: []string{pinch},
	},
	{
		Kind: Retraction, Title: "Retraction and flow",
		How: "Print the retraction test and choose the shortest clean length.", Unit: "mm",
		subjects: headsWith(
			parts.Hotend,
			parts.Nozzle,
			parts.Extruder,
			parts.Tube,
		), depends: retraction, Optional: true, Cautions: []string{hot},
	},
	{
		Kind: LoadLength, Title: "Filament-change lengths", Unit: "mm",
		Parts: []Component{{Name: "slow", Unit: "mm"}, {Name: "fast", Unit: "mm"}, {Name: "purge", Unit: "mm"}},
		How:   "Load slow, then fast to short of the nozzle, then purge; write the three lengths down.",
		subjects: headsWith(
			parts.Extruder,
			parts.Tube,
			parts.Hotend,
		), depends: loadLengths, Optional: true, Feature: true, Cautions: []string{hot},
	},
	{
		Kind: PrintArea, Title: "Print area and home offsets", How: "Run to each end; write down what is left.", Unit: "mm",
		subjects: areas, depends: printArea, Optional: true, Cautions: []string{pinch},
	},
	{
		Kind: Nozzles, Title: "Nozzle to nozzle",
		How: "Print the small two-colour test and read the offset from head 1.", Unit: "mm", Parts: xy,
		subjects: furtherHeads, depends: nozzles, Optional: true,
	},
}

func init() {
	for i := range all {
		all[i].Parts = append([]Component{}, all[i].Parts...) // a list where it is empty too
	}
}

// All lists every kind in working order.
func All() []Calibration { return all }

// Of finds a kind.
func Of(k Kind) (Calibration, bool) {
	i := slices.IndexFunc(all, func(c Calibration) bool { return c.Kind == k })
	if i < 0 {
		return Calibration{Kind: k, Title: string(k)}, false
	}
	return all[i], true
}

// Subjects are those of the kind that a machine has; empty where the kind does not
// apply to it.
func (c Calibration) Subjects(s machine.Snapshot) []Subject { return c.subjects(s) }

// Together reports whether those of all its subjects are seen in one go: the directions of
// all axes are.
func (c Calibration) Together() bool { return c.Kind == Direction }

// On is the title with its subject, where a machine has several of it: "Hotend PID,
// head 2".
func (c Calibration) On(s machine.Snapshot, x Subject) string {
	if list := c.subjects(s); x == WholeMachine || len(list) < 2 && slices.Contains(list, x) {
		return c.Title
	}
	return c.Title + ", " + x.String()
}

// OnEach is the title with several subjects: "Motor direction, axis X and axis Y"; alone
// where they are all that the machine has.
func (c Calibration) OnEach(s machine.Snapshot, list []Subject) string {
	if len(list) == 1 {
		return c.On(s, list[0])
	}
	if len(list) == len(c.subjects(s)) {
		return c.Title
	}
	var names []string
	for _, x := range list {
		names = append(names, x.String())
	}
	last := len(names) - 1
	return c.Title + ", " + strings.Join(names[:last], ", ") + " and " + names[last]
}
