package change

import (
	"fmt"
	"slices"
	"time"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Kind is a kind of calibration or proof.
type Kind string

const (
	Direction  Kind = "motor-direction"
	Current    Kind = "motor-current"
	Cold       Kind = "sensor-sanity"
	HotendPID  Kind = "hotend-pid"
	BedPID     Kind = "bed-pid"
	Steps      Kind = "steps-per-mm"
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

// Calibration says what one kind is and what it rests on.
type Calibration struct {
	Kind  Kind   `json:"kind"`
	Title string `json:"title"`
	How   string `json:"how"`
	Unit  string `json:"unit,omitempty"`
	// DependsOn are the parts by which it is good while all are unchanged.
	DependsOn []Selector `json:"-"`
	// Needs is a kind of part without which it does not apply, and Several says that
	// it takes more than one of it.
	Needs   string `json:"-"`
	Several bool   `json:"-"`
	// Optional kinds are not missed where none was ever recorded. A feature, which a
	// shop uses or not, is not even asked for after a change of what it rests on,
	// unless one was recorded or the change begins it.
	Optional bool     `json:"optional"`
	Feature  bool     `json:"feature"`
	Cautions []string `json:"cautions,omitempty"`
}

const (
	hot   = "Hot nozzle and block: burns."
	pinch = "Moving axes: keep fingers out."
)

// Selector selects parts by their kind, and kinds like it, and by what they serve.
type Selector struct {
	Kind string
	At   []machine.Place // "head", "bed", "axis z" …; anywhere when empty
}

func of(kind string, at ...machine.Place) Selector { return Selector{kind, at} }

func all(kinds ...string) []Selector {
	var out []Selector
	for _, k := range kinds {
		out = append(out, of(k))
	}
	return out
}

// covers reports whether a position is among those selected. One that is not placed
// may be anywhere, and is.
func (x Selector) covers(voc *machine.Vocabulary, p *machine.Position) bool {
	if !voc.Is(p.Kind, x.Kind) {
		return false
	}
	return len(x.At) == 0 || p.Serves == machine.NoPlace || slices.ContainsFunc(x.At, func(at machine.Place) bool {
		return p.Serves == at || string(p.Serves.Kind()) == string(at)
	})
}

const (
	aHead    machine.Place = "head"
	vertical machine.Place = "axis z"
)

// calibrations in the order in which they are done; each may need those before
// it. Source: common practice.
var calibrations = []Calibration{
	{
		Kind: Protection, Title: "Thermal-runaway protection", How: "No-heat test over USB, or heater-lead test.",
		DependsOn: all(parts.Firmware, parts.Mainboard, parts.Heater, parts.Sensor),
	},
	{
		Kind: Direction, Title: "Motor direction", How: "Move each axis a little and see that it goes the right way.",
		DependsOn: all(parts.Motor, parts.Mainboard, parts.Firmware), Cautions: []string{pinch},
	},
	{
		Kind: Current, Title: "Motor current", How: "Set the reference voltage or the current of each driver for its motor.", Unit: "A",
		DependsOn: all(parts.Motor, parts.Driver, parts.Mainboard), Optional: true,
		Cautions: []string{"Power is on: plastic screwdriver, touch nothing else.", "Never plug or unplug a motor with power on: it kills drivers."},
	},
	{
		Kind: Cold, Title: "Sensors agree with the room", How: "Machine cold: every sensor shows the room within a few degrees.",
		DependsOn: all(parts.Sensor, parts.Mainboard, parts.Firmware),
	},
	{
		Kind: HotendPID, Title: "Hotend PID", How: "Auto-tune at the temperature used (M303 E0), then store.",
		DependsOn: []Selector{of(parts.Heater, aHead), of(parts.Sensor, aHead), of(parts.Hotend), of(parts.FanDuct), of(parts.Supply)},
		Cautions:  []string{hot},
	},
	{
		Kind: BedPID, Title: "Bed PID", How: "Auto-tune at the temperature used (M303 E-1), then store.",
		DependsOn: []Selector{of(parts.Plate), of(parts.Heater, machine.Bed), of(parts.Sensor, machine.Bed), of(parts.Supply)},
		Optional:  true, Cautions: []string{"Hot bed: burns."},
	},
	{
		Kind: Steps, Title: "Extruder steps per mm", How: "Ask for 100 mm, measure what came: new = old × asked ÷ delivered.", Unit: "steps/mm",
		DependsOn: []Selector{of(parts.Extruder), of(parts.Motor, aHead), of(parts.Driver, aHead)}, Cautions: []string{hot},
	},
	{
		Kind: Tramming, Title: "Tramming", How: "Level the plate on its knobs, rear corners, then the gantry; repeat.",
		DependsOn: all(parts.Plate, parts.Springs, parts.Frame, parts.ZDrive), Cautions: []string{pinch},
	},
	{
		Kind: ProbeXY, Title: "Probe offset in X and Y", Unit: "mm",
		How:       "Mark where the pin touches, move the nozzle over the mark, read the distance in X and Y.",
		DependsOn: all(parts.Probe, parts.Bracket, parts.Carriage, parts.Toolhead, parts.Hotend), Needs: parts.Probe, Cautions: []string{pinch},
	},
	{
		Kind: ZOffset, Title: "Z offset", How: "Bed at working temperature; home; Z to 0; new offset = old − gap; home again.", Unit: "mm",
		DependsOn: append(all(parts.Probe, parts.Bracket, parts.Hotend, parts.Nozzle, parts.Plate, parts.Springs, parts.Surface), of(parts.Endstop, vertical)),
		Cautions:  []string{"Hot bed: burns.", pinch},
	},
	{
		Kind: Mesh, Title: "Mesh", How: "Bed hot; probe the whole bed (G29) and store.",
		DependsOn: all(parts.Plate, parts.Springs, parts.Frame, parts.ZDrive, parts.Surface, parts.Probe), Needs: parts.Probe,
		Cautions: []string{"Hot bed: burns.", pinch},
	},
	{
		Kind: Resonance, Title: "Resonance", How: "Measure again with an accelerometer, or from a ringing print.", Unit: "Hz",
		DependsOn: all(parts.Carriage, parts.Toolhead, parts.Plate, parts.Belts, parts.Frame), Optional: true, Feature: true, Cautions: []string{pinch},
	},
	{
		Kind: Retraction, Title: "Retraction and flow", How: "Print the retraction test and choose the shortest clean length.", Unit: "mm",
		DependsOn: all(parts.Tube, parts.Extruder, parts.Hotend, parts.Nozzle), Optional: true, Cautions: []string{hot},
	},
	{
		Kind: LoadLength, Title: "Filament-change lengths", Unit: "mm",
		How:       "Load slow, then fast to short of the nozzle, then purge; write the three lengths down.",
		DependsOn: all(parts.Tube), Optional: true, Feature: true, Cautions: []string{hot},
	},
	{
		Kind: PrintArea, Title: "Print area and home offsets", How: "Run to each end; write down what is left.", Unit: "mm",
		DependsOn: all(parts.Carriage, parts.Toolhead, parts.Frame, parts.ToolPlate), Optional: true, Cautions: []string{pinch},
	},
	{
		Kind: Nozzles, Title: "Nozzle to nozzle", How: "Print the small two-colour test and read the offset.", Unit: "mm",
		DependsOn: all(parts.Hotend, parts.Nozzle), Optional: true, Needs: parts.Hotend, Several: true,
	},
}

// Calibrations lists every kind in working order.
func Calibrations() []Calibration { return calibrations }

// CalibrationOf finds a kind.
func CalibrationOf(k Kind) (Calibration, bool) {
	i := slices.IndexFunc(calibrations, func(c Calibration) bool { return c.Kind == k })
	if i < 0 {
		return Calibration{}, false
	}
	return calibrations[i], true
}

// Applies reports whether the kind makes sense on a machine: the parts it
// needs are fitted.
func (c Calibration) Applies(s machine.Snapshot) bool {
	if c.Needs == "" {
		return true
	}
	fitted, perhaps := 0, 0
	for _, p := range s.Each(c.Needs) {
		switch s.ModelAt(p) {
		case machine.None:
		case "":
			perhaps++
		default:
			fitted++
		}
	}
	return fitted > 1 || fitted == 1 && (!c.Several || perhaps > 0)
}

// Positions are those of a machine on whose parts the kind depends.
func (c Calibration) Positions(s machine.Snapshot) []*machine.Position {
	var out []*machine.Position
	selected := dependencies(c, s)
	for _, p := range s.Structure().Positions() {
		if slices.ContainsFunc(selected, func(x Selector) bool { return x.covers(s.Vocabulary(), p) }) {
			out = append(out, p)
		}
	}
	return out
}

// Where a calibrated value can be kept.
const (
	StoreBuild    = "build"
	StoreSettings = "stored settings"
	StoreCard     = "file on the memory card"
	StoreHost     = "host configuration"
	StorePart     = "the part itself" // a turned knob, a set potentiometer
)

// Stores lists where a value can be kept.
func Stores() []string {
	return []string{StoreSettings, StoreCard, StoreBuild, StoreHost, StorePart}
}

// Record is a calibration or proof as it was done.
type Record struct {
	ID     int64
	Kind   Kind
	Value  string
	Store  string
	Method string
	Passed bool // false: a proof that failed, an unprotected machine
	At     time.Time
	By     string
	Void   *Voided // nil while it holds
}

// Remedy says how a void calibration is made good.
type Remedy string

const (
	MeasureAgain Remedy = "measure again"
	EnterAgain   Remedy = "enter again"
)

// Voided is a calibration that no longer holds.
type Voided struct {
	Kind   Kind   `json:"kind"`
	Title  string `json:"title"`
	Value  string `json:"value,omitempty" doc:"The value that was good before"`
	Reason string `json:"reason"`
	Remedy Remedy `json:"remedy"`
}

// ProtectionGoodFor is how long a protection test proves anything, in days:
// half a year. Source: from memory.
const ProtectionGoodFor = 183

// ProtectionState is whether a machine may be left running.
type ProtectionState struct {
	Proven bool   `json:"proven"`
	Why    string `json:"why"`
}

// ProtectionOf judges the newest protection record of a machine; nil when
// there is none.
func ProtectionOf(r *Record, now time.Time) ProtectionState {
	switch {
	case r == nil:
		return ProtectionState{Why: "never tested on this machine"}
	case !r.Passed:
		return ProtectionState{Why: "tested " + r.At.Format("2006-01-02") + " by " + r.By + ": no alarm, unprotected"}
	case r.Void != nil:
		return ProtectionState{Why: "proof void: " + r.Void.Reason}
	}
	if days := int(now.Sub(r.At).Hours() / 24); days > ProtectionGoodFor {
		return ProtectionState{Why: fmt.Sprintf("proof is %d days old; it is good for %d", days, ProtectionGoodFor)}
	}
	return ProtectionState{Proven: true, Why: r.Value + ", " + r.At.Format("2006-01-02") + ", " + r.By}
}
