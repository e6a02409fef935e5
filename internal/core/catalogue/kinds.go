package catalogue

import "wardifex/internal/core/machine"

// by is a single way to find a trait out.
func by(inspection string, g machine.Grade) []machine.Way {
	return []machine.Way{{Inspection: inspection, Grade: g}}
}

var (
	display = by("display", machine.Read)
	outside = by("outside", machine.Read)
	cover   = by("cover", machine.Read)
	ribbon  = by("ribbon", machine.Read)
	label   = by("label", machine.Marked)
	meter   = by("meter", machine.Read)
	printed = by("outside", machine.Marked)
	carried = by("carriage", machine.Read)
)

func number(name, short, unit string, min, max float64, ways []machine.Way) machine.TraitDef {
	return machine.TraitDef{Name: name, Short: short, Kind: machine.Number, Unit: unit, Min: min, Max: max, FindBy: ways}
}

func choice(name, short string, ways []machine.Way, choices ...string) machine.TraitDef {
	return machine.TraitDef{Name: name, Short: short, Kind: machine.Choice, Choices: choices, FindBy: ways}
}

func yesNo(name, short string, ways []machine.Way) machine.TraitDef {
	return machine.TraitDef{Name: name, Short: short, Kind: machine.YesNo, FindBy: ways}
}

func text(name, short string, ways []machine.Way) machine.TraitDef {
	return machine.TraitDef{Name: name, Short: short, Kind: machine.Text, FindBy: ways}
}

// hazard marks a trait with what may happen while it is not known.
func hazard(t machine.TraitDef, what string) machine.TraitDef { t.Safety = what; return t }

func budget(t machine.TraitDef) machine.TraitDef { t.Budget = true; return t }

func kind(key, name string, model []machine.Way, traits ...machine.TraitDef) machine.PartKind {
	return machine.PartKind{Key: key, Label: name, Traits: append([]machine.TraitDef{text(machine.ModelTrait, "model", model)}, traits...)}
}

func softwareKind(key, name string, model []machine.Way, traits ...machine.TraitDef) machine.PartKind {
	k := kind(key, name, model, traits...)
	k.Software = true
	return k
}

func hint(t machine.TraitDef, why string) machine.TraitDef { t.Hint = why; return t }

var kinds = []machine.PartKind{
	softwareKind("structure", "Structure", nil,
		yesNo("complete", "list of positions checked", outside),
		choice("heads", "heads", outside, machine.HeadsTogether, machine.HeadsChanged, machine.HeadsByHand),
		number("mounted", "head that is mounted", "", 1, machine.MostHeads, outside)),
	kind("mainboard", "Mainboard", by("cover", machine.Marked),
		text("revision", "revision", by("cover", machine.Marked)),
		choice("width", "processor width", cover, "32-bit", "8-bit"),
		text("processor", "processor marking", ribbon),
		number("pins", "processor pins", "", 20, 200, ribbon),
		budget(number("flash", "flash", "KiB", 8, 8192, ribbon)),
		text("package", "processor package", ribbon),
		text("temperature", "processor temperature range", ribbon),
		choice("chip-maker", "processor maker", ribbon, "first source", "pin-compatible twin"),
		yesNo("probe-port", "5-pin probe header", cover),
		yesNo("display-port", "10-pin display header free for an adapter", cover),
		budget(number("driver-outputs", "driver outputs", "", 1, 16, cover)),
		budget(number("heater-outputs", "heater outputs for hotends", "", 1, 8, cover)),
		budget(number("sensor-inputs", "inputs for temperature sensors", "", 1, 12, cover)),
		number("fan-outputs", "fan outputs free", "", 0, 12, cover),
		choice("usb-chip", "USB-serial chip", cover, "bridge type 1", "bridge type 2", "native"),
		yesNo("bootloader", "bootloader present", by("upload", machine.Proven)),
		number("bootloader-size", "taken by the bootloader", "KiB", 0, 64, []machine.Way{{Inspection: "cover", Grade: machine.Marked}, {Inspection: "upload", Grade: machine.Proven}}),
		number("slack", "slack of the shortest wire at it", "mm", 0, 500, cover),
		choice("upload", "way in for a new build", cover, "USB", "memory card", "in-circuit programmer"),
		hint(text("shield-letter", "letter on the card-slot shield", by("cover", machine.Marked)), "some take it for a driver code; the maker says it means nothing")),
	kind("driver", "Stepper driver", by("heat-sink", machine.Read),
		text("marking", "chip marking", by("heat-sink", machine.Read)),
		choice("law", "current law", by("heat-sink", machine.Read), "gain-of-8 chopper", "gain-of-5 chopper", "full-scale 0.325 V"),
		number("rs", "sense resistor", "Ω", 0.01, 1, by("heat-sink", machine.Read)),
		number("max-microsteps", "finest step range", "", 1, 256, by("heat-sink", machine.Read)),
		yesNo("silent", "silent", by("outside", machine.Proven)),
		number("microsteps", "microsteps", "", 1, 256, cover)),
	kind("toolhead-board", "Toolhead board", outside, budget(number("ways", "ways free", "", 0, 40, outside))),
	kind("display", "Display", outside, choice("kind", "kind", outside, "driven by the board", "closed, self-contained"), yesNo("plug", "board has the display's 10-pin header", cover), number("connectors", "connectors on it", "", 1, 6, outside)),
	kind("host", "Host computer", outside,
		yesNo("listed", "runs the hosted family's software", display),
		text("version", "version of its software", display),
		choice("power", "powered from", outside, "a supply of its own", "the machine's supply", "another computer's port"),
		hazard(yesNo("password-changed", "default password changed", display), "anybody on the network can heat and move the machine")),
	kind("supply", "Power supply", label,
		hazard(number("volts", "volts", "V", 5, 60, label), "a heater made for another voltage overheats or never gets hot"),
		budget(hazard(number("watts", "watts", "W", 20, 3000, label), "an overloaded supply runs hot"))),
	kind("relay", "Solid-state relay", by("bed-label", machine.Marked),
		hazard(budget(number("amperes", "rated current", "A", 1, 100, by("bed-label", machine.Marked))), "a relay under its load fails closed, and the bed heats without end"),
		hazard(yesNo("earthed", "bed plate and frame earthed", by("bed-label", machine.Read)), "a fault puts mains voltage on the plate")),
	kind("case-fan", "Case fan", outside,
		hazard(choice("wiring", "wiring", outside, "always on", "with the part fan"), "wired with the part fan it leaves the board uncooled whenever that one stands")),
	softwareKind("firmware", "Firmware build", display,
		choice("family", "family", display, "compiled", "hosted", "scripted"),
		text("version", "version", display),
		text("label", "machine label shown", display),
		number("size", "size of the build", "KiB", 1, 8192, display),
		text("features", "features compiled in", display),
		number("max-extrude", "largest single extrusion", "mm", 1, 5000, display),
		yesNo("listed-chip", "hosted family supports this processor", by("ribbon", machine.Read)),
		yesNo("objects", "object list on, labels from the slicer", display),
		text("configuration", "configuration in use (its date, revision or checksum)", display),
		text("file", "name of the file last flashed", outside)),
	kind("card", "Memory card", outside),
	kind("carriage", "Carriage", outside,
		yesNo("bracket-holes", "two tapped holes for a probe bracket", carried),
		number("hole-spacing", "distance of the bracket holes", "mm", 5, 60, carried),
		choice("screws-from", "toolhead screws enter from", carried, "front", "rear"),
		number("boss", "height of the bosses on it", "mm", 0, 20, carried),
		number("slack", "slack in its cables", "mm", 0, 500, carried),
		budget(number("bears", "heaviest toolhead the shop lets it carry", "g", 50, 10000, outside))),
	kind("toolhead", "Toolhead", outside, number("grams", "mass", "g", 10, 5000, outside), choice("carries", "settings", display, "its own build", "its own values"),
		number("wires", "wires that it needs", "", 1, 60, outside),
		yesNo("polarity", "polarity of its wires is on its wire sheet", outside)),
	kind("bracket", "Probe bracket", outside, number("thickness", "thickness", "mm", 0.5, 20, outside)),
	kind("extruder-bracket", "Extruder bracket", outside, number("thickness", "thickness", "mm", 0.5, 20, outside), number("screw", "length of its screws", "mm", 3, 60, outside), number("hole", "depth of the tapped holes behind it", "mm", 1, 60, outside)),
	kind("probe", "Probe", outside,
		choice("senses", "senses", outside, "surface, by touch", "metal, without touch"),
		number("reach", "thickest surface that it senses through", "mm", 0, 20, printed),
		yesNo("self-test", "passes its self-test", by("self-test", machine.Proven))),
	kind("hotend", "Hotend", outside,
		hazard(yesNo("liner", "PTFE liner reaches the melt zone", outside), "a liner above its rating gives off toxic fumes"),
		hazard(number("working-temperature", "usual working temperature", "°C", 150, 500, display), "a liner above its rating gives off toxic fumes"),
		number("rating", "highest temperature", "°C", 150, 600, printed),
		choice("mount", "mount", outside, "two screws 16 mm", "groove", "four screws 14 mm")),
	kind("heater", "Heater", meter,
		hazard(number("volts", "volts", "V", 5, 400, meter), "a heater on another voltage than its own overheats or trips the line"),
		number("watts", "watts", "W", 5, 3000, meter),
		hazard(number("wire", "cross-section of its wires", "mm²", 0.02, 20, outside), "a wire too thin for its current gets hot")),
	kind("sensor", "Temperature sensor", meter,
		hazard(choice("type", "type", []machine.Way{{Inspection: "two-temperatures", Grade: machine.Read}, {Inspection: "outside", Grade: machine.Marked}}, "100k thermistor", "104 thermistor", "Pt100", "Pt1000"), "a build that believes in another sensor heats far above what it shows")),
	kind("nozzle", "Nozzle", outside,
		number("bore", "bore", "mm", 0.1, 2, printed),
		choice("material", "material", outside, "brass", "hardened"),
		yesNo("abrasive", "prints abrasive filament", outside)),
	kind("fan-duct", "Part fan and duct", outside, number("volts", "volts", "V", 5, 60, printed)),
	kind("extruder", "Extruder", outside,
		number("ratio", "gear ratio (motor turns per drive-gear turn)", "", 0.1, 100, outside),
		number("gear-diameter", "effective drive-gear diameter", "mm", 3, 40, by("steps", machine.Read)),
		number("steps", "measured steps per mm", "steps/mm", 1, 20000, []machine.Way{{Inspection: "display", Grade: machine.Read}, {Inspection: "steps", Grade: machine.Proven}})),
	kind("motor", "Stepper motor", outside,
		number("step-angle", "step angle", "°", 0.1, 15, printed),
		number("current", "rated current", "A", 0.05, 10, printed),
		number("shaft", "shaft length", "mm", 2, 100, outside),
		yesNo("flat", "flat on the shaft", outside),
		text("leads", "lead order on its connector", meter),
		hint(text("mark", "colour or label", printed), "it can mark a revision that turns the other way; only a move shows")),
	kind("tube", "Filament tube", outside, number("length", "length", "mm", 5, 3000, outside)),
	kind("runout", "Run-out sensor", outside, yesNo("in-the-way", "sits where an extruder is mounted", outside)),
	kind("frame", "Frame and gantry", outside,
		number("x", "print width X", "mm", 20, 3000, outside), number("y", "print depth Y", "mm", 20, 3000, outside), number("z", "print height Z", "mm", 20, 3000, outside),
		choice("bed-moves", "bed moves", outside, "along Y", "up and down only", "not at all"),
		yesNo("z-room", "room beside the frame for a second Z motor", outside),
		number("hole-square", "mounting hole square of the board", "mm", 20, 200, cover),
		budget(number("bears", "heaviest bed the shop lets its axis carry", "g", 50, 50000, outside))),
	kind("circuit", "Mains circuit", by("label", machine.Marked),
		hazard(number("volts", "mains voltage", "V", 90, 260, by("label", machine.Marked)), "a mat for another voltage overheats or trips the line"),
		hazard(yesNo("earth", "protective earth proven at the socket", meter), "a fault puts mains voltage on the plate"),
		hazard(number("amperes", "rated current", "A", 1, 63, by("label", machine.Marked)), "an overloaded circuit trips, or its wires run hot"),
		number("others", "taken on it already", "A", 0, 63, by("outside", machine.Marked))),
	kind("belts", "Belts", outside, number("pitch", "pitch", "mm", 1, 10, outside), number("width", "width", "mm", 3, 25, outside)),
	kind("z-drive", "Z drive", outside,
		choice("motors", "motors", outside, "one", "two on one driver", "two on two drivers"),
		number("lead", "lead of the screw", "mm", 0.5, 50, outside),
		number("output-amperes", "current of the Z output", "A", 0.1, 10, cover)),
	kind("endstop", "Endstop", outside),
	kind("tool-plate", "Tool-changing plate", outside,
		budget(number("contacts", "contacts", "", 0, 64, outside)),
		number("contact-amperes", "rating of its heaviest contact", "A", 0.5, 60, outside)),
	kind("plate", "Bed plate", outside,
		yesNo("metal", "metal under the surface", outside),
		number("area", "area", "cm²", 50, 20000, outside),
		number("temperature", "usual temperature of the bed", "°C", 20, 200, display),
		number("grams", "mass with its surface", "g", 10, 50000, outside),
		hazard(yesNo("mains", "heated from the mains", outside), "mains work is for a licensed electrician, or as local rules require")),
	kind("springs", "Bed springs", outside, yesNo("stiff", "stiffer springs", outside), number("corner-room", "room at the cable corner", "mm", 0, 60, outside)),
	kind("surface", "Build surface", outside, number("thickness", "thickness", "mm", 0, 12, outside)),
	kind("mod", "Mod of the shop's own", outside, text("what", "what it does", outside), number("grams", "mass", "g", 0, 20000, outside)),
}
