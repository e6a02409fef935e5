package catalogue

import "wardifex/internal/core/machine"

// slots are the usual positions in the order of the machine's sheet, each where
// the table of keys has it. A new machine gets those that are not marked as
// sometimes there, unless it is built after a model or a like machine.
var slots = placed([]machine.Position{
	{Key: "structure", Label: "Structure", Group: "Machine", Kind: "structure"},
	{Key: "mainboard", Label: "Mainboard", Group: "Electronics", Kind: "mainboard"},
	{Key: "driver-x", Label: "Driver X", Group: "Electronics", Kind: "driver"},
	{Key: "driver-y", Label: "Driver Y", Group: "Electronics", Kind: "driver"},
	{Key: "driver-z", Label: "Driver Z", Group: "Electronics", Kind: "driver"},
	{Key: "driver-z2", Label: "Driver Z2", Group: "Electronics", Kind: "driver", Sometimes: true},
	{Key: "driver-z3", Label: "Driver Z3", Group: "Electronics", Kind: "driver", Sometimes: true},
	{Key: "driver-e", Label: "Driver E", Group: "Electronics", Kind: "driver"},
	{Key: "driver-e2", Label: "Driver E2", Group: "Electronics", Kind: "driver", Sometimes: true},
	{Key: "toolhead-board", Label: "Toolhead board", Group: "Electronics", Kind: "toolhead-board", Sometimes: true},
	{Key: "display", Label: "Display", Group: "Electronics", Kind: "display"},
	{Key: "host", Label: "Host computer", Group: "Electronics", Kind: "host", Sometimes: true},
	{Key: "supply", Label: "Power supply", Group: "Electronics", Kind: "supply"},
	{Key: "relay", Label: "Bed relay", Group: "Electronics", Kind: "relay", Sometimes: true},
	{Key: "circuit", Label: "Mains circuit", Group: "Electronics", Kind: "circuit", Sometimes: true},
	{Key: "case-fan", Label: "Case fan", Group: "Electronics", Kind: "case-fan"},
	{Key: "firmware", Label: "Firmware build", Group: "Firmware", Kind: "firmware"},
	{Key: "card", Label: "Memory card", Group: "Firmware", Kind: "card"},
	{Key: "carriage", Label: "Carriage", Group: "Toolhead", Kind: "carriage"},
	{Key: "toolhead", Label: "Toolhead", Group: "Toolhead", Kind: "toolhead"},
	{Key: "bracket", Label: "Probe bracket", Group: "Toolhead", Kind: "bracket"},
	{Key: "probe", Label: "Probe", Group: "Toolhead", Kind: "probe"},
	{Key: "hotend", Label: "Hotend", Group: "Toolhead", Kind: "hotend"},
	{Key: "heater", Label: "Hotend heater", Group: "Toolhead", Kind: "heater"},
	{Key: "sensor", Label: "Hotend sensor", Group: "Toolhead", Kind: "sensor"},
	{Key: "nozzle", Label: "Nozzle", Group: "Toolhead", Kind: "nozzle"},
	{Key: "fan-duct", Label: "Part fan and duct", Group: "Toolhead", Kind: "fan-duct"},
	{Key: "extruder", Label: "Extruder", Group: "Filament path", Kind: "extruder"},
	{Key: "extruder-bracket", Label: "Extruder bracket", Group: "Filament path", Kind: "extruder-bracket", Sometimes: true},
	{Key: "motor-e", Label: "Extruder motor", Group: "Filament path", Kind: "motor"},
	{Key: "tube", Label: "Filament tube", Group: "Filament path", Kind: "tube"},
	{Key: "runout", Label: "Run-out sensor", Group: "Filament path", Kind: "runout"},
	{Key: "frame", Label: "Frame and gantry", Group: "Motion", Kind: "frame"},
	{Key: "belts", Label: "Belts", Group: "Motion", Kind: "belts"},
	{Key: "motor-x", Label: "Motor X", Group: "Motion", Kind: "motor"},
	{Key: "motor-y", Label: "Motor Y", Group: "Motion", Kind: "motor"},
	{Key: "motor-z", Label: "Motor Z", Group: "Motion", Kind: "motor"},
	{Key: "motor-z2", Label: "Motor Z2", Group: "Motion", Kind: "motor", Sometimes: true},
	{Key: "motor-z3", Label: "Motor Z3", Group: "Motion", Kind: "motor", Sometimes: true},
	{Key: "z-drive", Label: "Z drive", Group: "Motion", Kind: "z-drive"},
	{Key: "x-endstop", Label: "X endstop", Group: "Motion", Kind: "endstop", Sometimes: true},
	{Key: "y-endstop", Label: "Y endstop", Group: "Motion", Kind: "endstop", Sometimes: true},
	{Key: "z-endstop", Label: "Z endstop", Group: "Motion", Kind: "endstop"},
	{Key: "tool-plate", Label: "Tool-changing plate", Group: "Motion", Kind: "tool-plate"},
	{Key: "plate", Label: "Bed plate", Group: "Bed", Kind: "plate"},
	{Key: "bed-heater", Label: "Bed heater", Group: "Bed", Kind: "heater"},
	{Key: "bed-sensor", Label: "Bed sensor", Group: "Bed", Kind: "sensor"},
	{Key: "springs", Label: "Bed springs", Group: "Bed", Kind: "springs"},
	{Key: "surface", Label: "Build surface", Group: "Bed", Kind: "surface"},
	{Key: "toolhead-2", Label: "Toolhead 2", Group: "Second head", Kind: "toolhead", Sometimes: true},
	{Key: "hotend-2", Label: "Hotend 2", Group: "Second head", Kind: "hotend", Sometimes: true},
	{Key: "heater-2", Label: "Hotend heater 2", Group: "Second head", Kind: "heater", Sometimes: true},
	{Key: "sensor-2", Label: "Hotend sensor 2", Group: "Second head", Kind: "sensor", Sometimes: true},
	{Key: "nozzle-2", Label: "Nozzle 2", Group: "Second head", Kind: "nozzle", Sometimes: true},
	{Key: "fan-duct-2", Label: "Part fan and duct 2", Group: "Second head", Kind: "fan-duct", Sometimes: true},
	{Key: "extruder-2", Label: "Extruder 2", Group: "Second head", Kind: "extruder", Sometimes: true},
	{Key: "motor-e2", Label: "Extruder motor 2", Group: "Second head", Kind: "motor", Sometimes: true},
	{Key: "tube-2", Label: "Filament tube 2", Group: "Second head", Kind: "tube", Sometimes: true},
	{Key: "mod-1", Label: "Mod 1", Group: "Mods", Kind: "mod", Sometimes: true},
	{Key: "mod-2", Label: "Mod 2", Group: "Mods", Kind: "mod", Sometimes: true},
	{Key: "mod-3", Label: "Mod 3", Group: "Mods", Kind: "mod", Sometimes: true},
	{Key: "mod-4", Label: "Mod 4", Group: "Mods", Kind: "mod", Sometimes: true},
})

func placed(list []machine.Position) []machine.Position {
	for i := range list {
		list[i] = Placed(list[i])
	}
	return list
}

// Placed is a position with its place, where its key says it and nobody has said
// otherwise.
func Placed(p machine.Position) machine.Position {
	if p.Serves == machine.NoPlace {
		if serves, n, ok := PlaceOf(p.Key, p.Kind); ok {
			p.Serves = serves
			if n > 1 {
				p.N = n
			}
		}
	}
	return p
}
