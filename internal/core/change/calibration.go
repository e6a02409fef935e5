package change

import (
	"fmt"
	"slices"
	"time"

	"wardifex/internal/core/machine"
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
	Kind    Kind     `json:"kind"`
	Title   string   `json:"title"`
	How     string   `json:"how"`
	Unit    string   `json:"unit,omitempty"`
	RestsOn []string `json:"restsOn" doc:"Slots; good while all are unchanged"`
	Needs   []string `json:"needs,omitempty" doc:"Slots without which it does not apply"`
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

// calibrations in the order in which they are done; each may need those before
// it. Source: common practice.
var calibrations = []Calibration{
	{Kind: Protection, Title: "Thermal-runaway protection", How: "No-heat test over USB, or heater-lead test.", RestsOn: []string{"firmware", "mainboard", "heater", "heater-2", "bed-heater", "sensor", "sensor-2", "bed-sensor"}},
	{Kind: Direction, Title: "Motor direction", How: "Move each axis a little and see that it goes the right way.", RestsOn: []string{"motor-x", "motor-y", "motor-z", "motor-z2", "motor-z3", "motor-e", "motor-e2", "mainboard", "firmware"}, Cautions: []string{pinch}},
	{Kind: Current, Title: "Motor current", How: "Set the reference voltage or the current of each driver for its motor.", Unit: "A", RestsOn: []string{"motor-x", "motor-y", "motor-z", "motor-z2", "motor-z3", "motor-e", "motor-e2", "driver-x", "driver-y", "driver-z", "driver-z2", "driver-z3", "driver-e", "driver-e2", "mainboard"}, Optional: true,
		Cautions: []string{"Power is on: plastic screwdriver, touch nothing else.", "Never plug or unplug a motor with power on: it kills drivers."}},
	{Kind: Cold, Title: "Sensors agree with the room", How: "Machine cold: every sensor shows the room within a few degrees.", RestsOn: []string{"sensor", "sensor-2", "bed-sensor", "mainboard", "firmware"}},
	{Kind: HotendPID, Title: "Hotend PID", How: "Auto-tune at the temperature used (M303 E0), then store.", RestsOn: []string{"heater", "heater-2", "sensor", "sensor-2", "hotend", "hotend-2", "fan-duct", "fan-duct-2", "supply"}, Cautions: []string{hot}},
	{Kind: BedPID, Title: "Bed PID", How: "Auto-tune at the temperature used (M303 E-1), then store.", RestsOn: []string{"plate", "bed-heater", "bed-sensor", "supply"}, Optional: true, Cautions: []string{"Hot bed: burns."}},
	{Kind: Steps, Title: "Extruder steps per mm", How: "Ask for 100 mm, measure what came: new = old × asked ÷ delivered.", Unit: "steps/mm", RestsOn: []string{"extruder", "extruder-2", "motor-e", "motor-e2", "driver-e", "driver-e2"}, Cautions: []string{hot}},
	{Kind: Tramming, Title: "Tramming", How: "Level the plate on its knobs, rear corners, then the gantry; repeat.", RestsOn: []string{"plate", "springs", "frame", "z-drive"}, Cautions: []string{pinch}},
	{Kind: ProbeXY, Title: "Probe offset in X and Y", How: "Mark where the pin touches, move the nozzle over the mark, read the distance in X and Y.", Unit: "mm", RestsOn: []string{"probe", "bracket", "carriage", "toolhead", "hotend"}, Needs: []string{"probe"}, Cautions: []string{pinch}},
	{Kind: ZOffset, Title: "Z offset", How: "Bed at working temperature; home; Z to 0; new offset = old − gap; home again.", Unit: "mm", RestsOn: []string{"probe", "z-endstop", "bracket", "hotend", "nozzle", "plate", "springs", "surface"}, Cautions: []string{"Hot bed: burns.", pinch}},
	{Kind: Mesh, Title: "Mesh", How: "Bed hot; probe the whole bed (G29) and store.", RestsOn: []string{"plate", "springs", "frame", "z-drive", "surface", "probe"}, Needs: []string{"probe"}, Cautions: []string{"Hot bed: burns.", pinch}},
	{Kind: Resonance, Title: "Resonance", How: "Measure again with an accelerometer, or from a ringing print.", Unit: "Hz", RestsOn: []string{"carriage", "toolhead", "plate", "belts", "frame"}, Optional: true, Feature: true, Cautions: []string{pinch}},
	{Kind: Retraction, Title: "Retraction and flow", How: "Print the retraction test and choose the shortest clean length.", Unit: "mm", RestsOn: []string{"tube", "tube-2", "extruder", "extruder-2", "hotend", "hotend-2", "nozzle", "nozzle-2"}, Optional: true, Cautions: []string{hot}},
	{Kind: LoadLength, Title: "Filament-change lengths", How: "Load slow, then fast to short of the nozzle, then purge; write the three lengths down.", Unit: "mm", RestsOn: []string{"tube", "tube-2"}, Optional: true, Feature: true, Cautions: []string{hot}},
	{Kind: PrintArea, Title: "Print area and home offsets", How: "Run to each end; write down what is left.", Unit: "mm", RestsOn: []string{"carriage", "toolhead", "frame", "tool-plate"}, Optional: true, Cautions: []string{pinch}},
	{Kind: Nozzles, Title: "Nozzle to nozzle", How: "Print the small two-colour test and read the offset.", Unit: "mm", RestsOn: []string{"hotend", "hotend-2", "nozzle", "nozzle-2"}, Optional: true, Needs: []string{"hotend-2"}},
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
	for _, slot := range c.Needs {
		if !s.Fitted(slot) {
			return false
		}
	}
	return true
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
