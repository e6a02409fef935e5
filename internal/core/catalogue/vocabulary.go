package catalogue

import "wardifex/internal/core/machine"

// slots in the order of the machine's sheet.
var slots = []machine.Slot{
	{Key: "mainboard", Label: "Mainboard", Group: "Electronics"},
	{Key: "driver-x", Label: "Driver X", Group: "Electronics"},
	{Key: "driver-y", Label: "Driver Y", Group: "Electronics"},
	{Key: "driver-z", Label: "Driver Z", Group: "Electronics"},
	{Key: "driver-e", Label: "Driver E", Group: "Electronics"},
	{Key: "display", Label: "Display", Group: "Electronics"},
	{Key: "host", Label: "Host computer", Group: "Electronics"},
	{Key: "supply", Label: "Power supply", Group: "Electronics"},
	{Key: "case-fan", Label: "Case fan", Group: "Electronics"},
	{Key: "firmware", Label: "Firmware build", Group: "Firmware"},
	{Key: "card", Label: "Memory card", Group: "Firmware"},
	{Key: "carriage", Label: "Carriage", Group: "Toolhead"},
	{Key: "bracket", Label: "Probe bracket", Group: "Toolhead"},
	{Key: "probe", Label: "Probe", Group: "Toolhead"},
	{Key: "hotend", Label: "Hotend", Group: "Toolhead"},
	{Key: "heater", Label: "Hotend heater", Group: "Toolhead"},
	{Key: "sensor", Label: "Hotend sensor", Group: "Toolhead"},
	{Key: "nozzle", Label: "Nozzle", Group: "Toolhead"},
	{Key: "fan-duct", Label: "Part fan and duct", Group: "Toolhead"},
	{Key: "extruder", Label: "Extruder", Group: "Filament path"},
	{Key: "motor-e", Label: "Extruder motor", Group: "Filament path"},
	{Key: "tube", Label: "Filament tube", Group: "Filament path"},
	{Key: "runout", Label: "Run-out sensor", Group: "Filament path"},
	{Key: "frame", Label: "Frame and gantry", Group: "Motion"},
	{Key: "belts", Label: "Belts", Group: "Motion"},
	{Key: "motor-x", Label: "Motor X", Group: "Motion"},
	{Key: "motor-y", Label: "Motor Y", Group: "Motion"},
	{Key: "motor-z", Label: "Motor Z", Group: "Motion"},
	{Key: "z-drive", Label: "Z drive", Group: "Motion"},
	{Key: "z-endstop", Label: "Z endstop", Group: "Motion"},
	{Key: "tool-plate", Label: "Tool-changing plate", Group: "Motion"},
	{Key: "plate", Label: "Bed plate", Group: "Bed"},
	{Key: "bed-heater", Label: "Bed heater", Group: "Bed"},
	{Key: "bed-sensor", Label: "Bed sensor", Group: "Bed"},
	{Key: "springs", Label: "Bed springs", Group: "Bed"},
	{Key: "surface", Label: "Build surface", Group: "Bed"},
}

// inspections with their minutes. Source: minutes for the display, the cover
// and the heat sink are from memory; the rest are common practice.
var inspections = []machine.Inspection{
	{Key: "display", Title: "Look at the display", Minutes: 1,
		How: "Switch on and open the information screen, or send M115 and read the reply."},
	{Key: "outside", Title: "Look from outside", Minutes: 2,
		How: "Machine switched off and cool, a torch, and a look at the part from all sides."},
	{Key: "carriage", Title: "Look behind the hotend", Minutes: 5,
		How:      "Move the carriage to the middle, switch off, let the hotend cool, and look for the two tapped holes beside it. A ruler gives their distance.",
		Cautions: []string{"Hot nozzle and block: let them cool before you reach in."}},
	{Key: "label", Title: "Read the supply's label", Minutes: 10,
		How:      "Pull the mains plug, tip the machine and read maker, volts and watts on the supply itself.",
		Cautions: []string{"Pull the mains plug first. Do not open the supply: its parts stay charged."}},
	{Key: "cover", Title: "Take the cover off", Minutes: 10,
		How:      "Power off, mains plug out, cover screws out. A fan hangs on the cover by its wire. Read the revision printed on the board and look at its connectors.",
		Cautions: []string{"Pull the mains plug first.", "Sheet edges are sharp: fingers and wires.", "Touch bare metal before the board: static."}},
	{Key: "ribbon", Title: "Lift the ribbon aside and read the chip", Minutes: 12,
		How:      "Cover off as above, then move the ribbon cable aside and read the second line of the processor's marking with a lens. Photograph it: markings are tiny and remembered wrong.",
		Cautions: []string{"Pull the mains plug first.", "Pull on connectors, not on wires."}},
	{Key: "heat-sink", Title: "Lift one heat sink", Minutes: 25, Risk: "a heat sink may take the chip's legs with it",
		How:      "Cover off, lift the heat sink with a twist, clean the paste off, read the chip, put it back with thermal paste.",
		Cautions: []string{"Pull the mains plug first.", "Twist, never pry: a driver lifted off its pads is lost."}},
	{Key: "upload", Title: "Upload a build over USB", Minutes: 15, Risk: "an upload that stops half-way leaves the board without firmware",
		How: "Upload the present build again from its file. Only an upload that works proves a bootloader."},
	{Key: "meter", Title: "Measure with a multimeter", Minutes: 10,
		How:      "Power off, plug out, part unplugged; measure its resistance cold.",
		Cautions: []string{"Pull the mains plug first."}},
	{Key: "self-test", Title: "Touch the probe by hand", Minutes: 3,
		How: "Power on with the probe clear of the bed; deploy it, touch the pin, and see its state change on the display or in the reply to M119."},
}

// see is the common set of ways: seen from outside.
func see(inspection string, g machine.Grade) []machine.Way {
	return []machine.Way{{Inspection: inspection, Grade: g}}
}

func number(slot, name, short, unit string, min, max float64, by []machine.Way) machine.Trait {
	return machine.Trait{Slot: slot, Name: name, Short: short, Kind: machine.Number, Unit: unit, Min: min, Max: max, FindBy: by}
}

func choice(slot, name, short string, by []machine.Way, choices ...string) machine.Trait {
	return machine.Trait{Slot: slot, Name: name, Short: short, Kind: machine.Choice, Choices: choices, FindBy: by}
}

func yesNo(slot, name, short string, by []machine.Way) machine.Trait {
	return machine.Trait{Slot: slot, Name: name, Short: short, Kind: machine.YesNo, FindBy: by}
}

func text(slot, name, short string, by []machine.Way) machine.Trait {
	return machine.Trait{Slot: slot, Name: name, Short: short, Kind: machine.Text, FindBy: by}
}

// modelBy says how the model in a slot is found; slots not named here are seen
// from outside.
var modelBy = map[string][]machine.Way{
	"mainboard": see("cover", machine.Marked),
	"driver-x":  see("heat-sink", machine.Read), "driver-y": see("heat-sink", machine.Read),
	"driver-z": see("heat-sink", machine.Read), "driver-e": see("heat-sink", machine.Read),
	"supply":   see("label", machine.Marked),
	"firmware": see("display", machine.Read),
	"heater":   see("meter", machine.Read), "sensor": see("meter", machine.Read),
	"bed-heater": see("meter", machine.Read), "bed-sensor": see("meter", machine.Read),
}

func traits() []machine.Trait {
	display, outside, cover := see("display", machine.Read), see("outside", machine.Read), see("cover", machine.Read)
	ribbon := see("ribbon", machine.Read)
	var out []machine.Trait
	for _, s := range slots {
		by := modelBy[s.Key]
		if by == nil {
			by = outside
		}
		out = append(out, text(s.Key, machine.ModelTrait, "model", by))
	}
	out = append(out,
		text("mainboard", "revision", "revision", see("cover", machine.Marked)),
		choice("mainboard", "width", "processor width", cover, "32-bit", "8-bit"),
		text("mainboard", "processor", "processor marking", ribbon),
		number("mainboard", "pins", "processor pins", "", 20, 200, ribbon),
		number("mainboard", "flash", "flash", "KiB", 8, 8192, ribbon),
		text("mainboard", "package", "processor package", ribbon),
		text("mainboard", "temperature", "processor temperature range", ribbon),
		choice("mainboard", "chip-maker", "processor maker", ribbon, "first source", "pin-compatible twin"),
		yesNo("mainboard", "probe-port", "5-pin probe header", cover),
		yesNo("mainboard", "display-port", "10-pin display header free for an adapter", cover),
		choice("mainboard", "usb-chip", "USB-serial chip", cover, "bridge type 1", "bridge type 2", "native"),
		yesNo("mainboard", "bootloader", "bootloader present", see("upload", machine.Proven)),
		number("mainboard", "bootloader-size", "taken by the bootloader", "KiB", 0, 64, []machine.Way{{Inspection: "cover", Grade: machine.Marked}, {Inspection: "upload", Grade: machine.Proven}}),
		choice("mainboard", "upload", "way in for a new build", cover, "USB", "memory card", "in-circuit programmer"),
		text("mainboard", "shield-letter", "letter on the card-slot shield", see("cover", machine.Marked)),
	)
	for _, axis := range []string{"driver-x", "driver-y", "driver-z", "driver-e"} {
		out = append(out,
			yesNo(axis, "silent", "silent", see("outside", machine.Proven)),
			number(axis, "microsteps", "microsteps", "", 1, 256, cover))
	}
	out = append(out,
		choice("display", "kind", "kind", outside, "driven by the board", "closed, self-contained"),
		number("supply", "volts", "volts", "V", 5, 60, see("label", machine.Marked)),
		number("supply", "watts", "watts", "W", 20, 3000, see("label", machine.Marked)),
		choice("case-fan", "wiring", "wiring", outside, "always on", "with the part fan"),
		choice("firmware", "family", "family", display, "compiled", "hosted", "scripted"),
		text("firmware", "version", "version", display),
		text("firmware", "label", "machine label shown", display),
		number("firmware", "size", "size of the build", "KiB", 1, 8192, display),
		text("firmware", "file", "name of the file last flashed", outside),
		yesNo("carriage", "bracket-holes", "two tapped holes for a probe bracket", see("carriage", machine.Read)),
		number("carriage", "hole-spacing", "distance of the bracket holes", "mm", 5, 60, see("carriage", machine.Read)),
		choice("probe", "senses", "senses", outside, "surface, by touch", "metal, without touch"),
		yesNo("probe", "self-test", "passes its self-test", see("self-test", machine.Proven)),
		number("heater", "volts", "volts", "V", 5, 60, see("meter", machine.Read)),
		number("heater", "watts", "watts", "W", 5, 200, see("meter", machine.Read)),
		choice("sensor", "type", "type", see("meter", machine.Read), "100k thermistor", "104 thermistor", "Pt100", "Pt1000"),
		yesNo("hotend", "liner", "PTFE liner reaches the melt zone", outside),
		number("hotend", "working-temperature", "usual working temperature", "°C", 150, 500, display),
		number("nozzle", "bore", "bore", "mm", 0.1, 2, see("outside", machine.Marked)),
		choice("nozzle", "material", "material", outside, "brass", "hardened"),
		yesNo("nozzle", "abrasive", "prints abrasive filament", outside),
		number("extruder", "ratio", "gear ratio (motor turns per drive-gear turn)", "", 0.1, 100, outside),
		number("extruder", "gear-diameter", "effective drive-gear diameter", "mm", 3, 40, outside),
		number("motor-e", "step-angle", "step angle", "°", 0.1, 15, see("outside", machine.Marked)),
		choice("z-drive", "motors", "motors", outside, "one", "two on one driver", "two on two drivers"),
		number("z-drive", "lead", "lead of the screw", "mm", 0.5, 50, outside),
		yesNo("plate", "metal", "metal under the surface", outside),
		number("surface", "thickness", "thickness", "mm", 0, 12, outside),
		yesNo("springs", "stiff", "stiffer springs", outside),
	)
	return out
}

// Vocabulary builds the shipped vocabulary. It panics when the tables above
// contradict themselves, which the package's test would show.
func Vocabulary() *machine.Vocabulary {
	v, err := machine.NewVocabulary(slots, traits(), inspections)
	if err != nil {
		panic(err)
	}
	return v
}
