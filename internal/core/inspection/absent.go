package inspection

import (
	"slices"

	"wardifex/internal/core/parts"
)

// everyMachineHas are kinds of which every machine has one. Source: common practice.
var everyMachineHas = []string{
	parts.Mainboard, parts.Frame, parts.Structure, parts.Firmware, parts.Nozzle, parts.Extruder, parts.Hotend,
	parts.Heater, parts.Sensor, parts.Supply, parts.Toolhead, parts.Carriage, parts.Plate, parts.Motor,
}

// MayBeAbsent reports whether a machine can be without a part of a kind, so that "there is
// none" is an answer to a question about it.
func MayBeAbsent(kind string) bool { return !slices.Contains(everyMachineHas, kind) }
