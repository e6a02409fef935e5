package catalogue

import (
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// The change plates, as what is fitted of them stands on a machine.
const (
	heavyPlate = "Quayside change plate, 5 mm"
	lightPlate = "Quayside light plate, 3 mm"
)

// heads are tool plates and toolheads.
func heads() []fit.Kit {
	plate := func(key, name, thick string, price float64, amperes, contacts string, loss float64) fit.Kit {
		return fit.Kit{Key: key, Name: name, What: "quick-change tool plate", About: "Heads swap on a plate of " + thick + " mm with contacts of " + amperes + " A.", Price: price, Minutes: 150, Skill: "has worked with a wire sheet", Parts: []string{"plate pair", "contact blocks", "dock"}, Tools: append([]string{"soldering iron"}, hexKeys...), Screws: []string{"4 × M3 × 16"}, Risk: "each head has its own offsets, settings and wire sheet",
			Needs:         needs(name, because(read("Polarity of the head's wires is known", "toolhead", "polarity", fit.Equal, "yes"), "Fans, probes and LEDs are lost the wrong way round, and colours differ between heads.", "Measuring it and writing the wire sheet would change that.")),
			Uses:          []fit.Use{keep(use("print-width", loss, "dock"), 180)},
			Effects:       []fit.Effect{effect("tool-plate", name, "contacts", contacts, "contact-amperes", amperes), sets("toolhead", "carries", "its own values")},
			Steps:         []fit.FittingStep{fitStep("Screw the plate to the carriage", "It must lie flat on it, not on the bosses.", coolHead, aluminium), wireStep("Solder the contact blocks", "Heater on the heavy contacts, the rest on the light ones. Write the wire sheet of each head: colours differ.", "Lasers and food heads on tool plates have rules of their own.")},
			ToolheadGrams: 110, AreaLoss: [3]float64{loss, 0, 5}, Slicer: []string{"print area, offsets per head"}}
	}
	head := func(key, name, from string, ways float64, grams float64, more ...fit.Requirement) fit.Kit {
		return fit.Kit{Key: key, Name: name, What: "new toolhead / carriage", About: "Hotend, extruder and fans in one; screws enter from the " + from + ".", Price: 145, Minutes: 240, Skill: "has tuned a machine before", Parts: []string{"toolhead", "looms"}, Tools: hexKeys, Screws: []string{"4 × M3 × 20"}, Risk: "mass, offsets, ratio, current, PID and cooling all change",
			Needs:         needs(name, append([]fit.Requirement{without("No change plate between", "The head is screwed to the carriage itself, and a dock does not hold its mass.", "Taking the change plate out would change that.", fitted("quayside-5", "tool-plate", heavyPlate), fitted("quayside-3", "tool-plate", lightPlate))}, more...)...),
			Uses:          []fit.Use{use("toolhead-ways", ways, "fans and sensors")},
			Effects:       []fit.Effect{effect("toolhead", name, "grams", "420"), effect("hotend", "Forge all-metal", "liner", "no", "rating", "300", "mount", "four screws 14 mm"), effect("extruder", "Twinpawl 3:1", "ratio", "3"), effect("heater", "Forge heater 60 W", "watts", "60", "volts", "24"), effect("sensor", "Forge sensor", "type", "104 thermistor"), effect("fan-duct", "Forge ducts")},
			Steps:         []fit.FittingStep{fitStep("Take the old head off and screw the new one on", "Screws from the "+from+"; probe moved over or replaced as the leaflet says.", coolHead), wireStep("Plug the looms in", "Count the ways before you begin.", "Polarity matters for fans and probe.")},
			ToolheadGrams: grams, AreaLoss: [3]float64{10, 0, 0}, NewBuild: "this head's sensor, ratio, current and offsets", Slicer: []string{"print area, retraction"}}
	}
	return []fit.Kit{
		plate("quayside-5", heavyPlate, "5", 96, "10", "14", 40),
		plate("quayside-3", lightPlate, "3", 58, "3", "8", 25),
		{Key: "quayside-second", Name: "Quayside second head", What: "quick-change tool plate", About: "A second head with its own dock, for the plate of 5 mm. One head is on at a time, on the same contacts: it takes no power and no outputs besides.", Price: 74, Minutes: 120, Skill: "has worked with a wire sheet", Parts: []string{"head side of the plate", "hotend with heater of 40 W, 24 V, and sensor", "contact block", "dock"}, Tools: append([]string{"soldering iron"}, hexKeys...), Screws: []string{"4 × M3 × 16", "2 × M5 × 12"}, Risk: "each head has its own offsets, settings and wire sheet",
			Needs: needs("Quayside second head", because(fitted("quayside-5", "tool-plate", heavyPlate), "Its half of the plate goes with that one.", "Fitting that kit first would change that."),
				because(test("A supply of 24 V", "supply", "volts", fit.Equal, machine.Marked, "24"), "Its heater is for 24 V.", "A heater for the supply's voltage would change that."),
				without("No second head yet", "There is one more dock, not two.", "It has a second one: leave it alone.", marked("A second head", "toolhead-2", "model", fit.Present))),
			Effects:  []fit.Effect{effect("toolhead-2", "Quayside head 2", "carries", "its own values"), effect("hotend-2", "Forge all-metal", "liner", "no", "rating", "300"), effect("nozzle-2", "brass 0.4"), sets("structure", "heads", machine.HeadsChanged)},
			Steps:    []fit.FittingStep{fitStep("Set the second dock", "Head out, head in, by hand, before anything moves by itself.", coolHead), wireStep("Solder its contact block", "Heater on the heavy contacts, the rest on the light ones; a wire sheet of its own: colours differ from the first head's.", "Polarity matters for its fan.", "Lasers and food heads on tool plates have rules of their own.")},
			AreaLoss: [3]float64{15, 0, 0}, StartCode: []string{"each file says which head prints first"}, Slicer: []string{"second nozzle with its offsets; print area"}},
		head("gull-head", "Gull toolhead", "front", 6, 90, because(test("A supply of 24 V", "supply", "volts", fit.Equal, machine.Marked, "24"), "Its heater is for 24 V.", "The 12 V heater would change that.")),
		head("petrel-head", "Petrel toolhead", "rear", 9, 140, anyOf("A probe to move over, or its own", "The head has a seat for one.", "", marked("A contact probe is fitted", "probe", "senses", fit.Equal, "surface, by touch"), further("petrel-probe", "the head's own probe", 34, 30, []fit.Effect{effect("probe", "Petrel probe", "senses", "surface, by touch")}, "Clip the probe into its seat.", coolHead))),
	}
}

// beds are surfaces, plates and springs.
func beds() []fit.Kit {
	surface := func(key, name, thick string, price float64, all ...fit.Requirement) fit.Kit {
		return fit.Kit{Key: key, Name: name, What: "bed surface", About: "A sheet of " + thick + " mm; its adhesive stands 110 °C.", Price: price, Minutes: 20, Skill: "first work on a machine", Parts: []string{"sheet", "adhesive"}, Tools: []string{"scraper", "cloth and alcohol"},
			Needs: needs(name, append([]fit.Requirement{because(said("A bed plate", "plate", "model", fit.Present), "It lies on one.", "")}, all...)...), Effects: []fit.Effect{effect("surface", name, "thickness", thick)},
			Steps: []fit.FittingStep{fitStep("Stick the sheet on", "Plate clean and dry. Corner first, peel slowly, press out bubbles.", coolBed)}}
	}
	mains := func(key, name, volts string, watts, amperes float64) fit.Kit {
		return fit.Kit{Key: key, Name: name, What: "bed plate with mains heater", About: "Hot in minutes; " + volts + " V from the mains.", Price: 118, Minutes: 240, Skill: "a licensed electrician, or as local rules require", Parts: []string{"plate with mat", "thermal fuse", "earth lead"}, Tools: []string{"insulated tools", "multimeter"}, Screws: []string{"4 × M4 × 20"}, Risk: "mains voltage on a moving bed",
			Options:  []fit.Further{option("bed-relay", "solid-state relay of 25 A with heat sink", 22, 60, []fit.Effect{effect("relay", "Relay 25 A", "amperes", "25", "earthed", "yes")}, "Mount the relay on its heat sink, away from the loom.", electrics)},
			Uses:     []fit.Use{use("mains-amperes", amperes, "bed at full power")},
			Effects:  []fit.Effect{effect("plate", name, "metal", "yes", "mains", "yes"), effect("bed-heater", "mat "+volts+" V", "volts", volts, "watts", map[bool]string{true: "750", false: "600"}[watts > 700])},
			Steps:    []fit.FittingStep{fitStep("Change the plate", "Cable relaxed, so that it does not pull the plate.", coolBed), wireStep("Wire the mat, the relay and the earth", "As the electrician does it. Cap the bed's power so that the current stays under the circuit's.", electrics, "Pull the mains plug first.")},
			BedGrams: 600, NewBuild: "bed power capped, sensor type, bed PID"}
	}
	return []fit.Kit{
		surface("slate-sheet", "Slate sheet", "1.2", 18),
		surface("loadstone-sheet", "Loadstone magnet and steel sheet", "2.4", 29, anyOf("A zero that follows it", "Another thickness moves the surface: a thicker sheet lifts it into the nozzle.", "", read("A probe that touches the surface", "probe", "senses", fit.Equal, "surface, by touch"), marked("A probe that senses metal", "probe", "senses", fit.Equal, "metal, without touch"), further("endstop-up", "move the Z endstop by the difference", 0, 15, nil, "Raise the endstop before the first homing where the new sheet is thicker, lower it where it is thinner.", "The nozzle crashes into the bed when this is forgotten under a thicker sheet."))),
		mains("hearth-230", "Hearth plate, 230 V", "230", 750, 3.3),
		mains("hearth-120", "Hearth plate, 120 V", "120", 600, 5),
		{Key: "bollard-short", Name: "Bollard short stiff springs", What: "stiffer bed springs", About: "Four springs of 16 mm, for beds with little room at the cable corner.", Price: 7, Minutes: 25, Skill: "first work on a machine", Parts: []string{"4 springs, 16 mm"}, Tools: []string{"small spanner"},
			Needs:   needs("Bollard short", because(said("A bed on springs", "springs", "model", fit.Present), "They replace the springs under the plate.", "A bed without springs has nothing to replace."), because(read("Room at the cable corner between 14 and 20 mm", "springs", "corner-room", fit.Between, "14", "20"), "Longer ones press the plate up there.", "The long Bollard springs are for more room."), without("Not stiff already", "Nothing would be gained.", "Stiff springs are in already: leave it alone.", read("Stiff springs are fitted", "springs", "stiff", fit.Equal, "yes"))),
			Effects: []fit.Effect{effect("springs", "Bollard short springs", "stiff", "yes")}, Steps: []fit.FittingStep{fitStep("Change the springs one corner at a time", "The bed must ride on its springs, not on a spacer; the cable must hang relaxed.", coolBed)}},
	}
}

// software are changes of the firmware family and what hosts can do.
func software() []fit.Kit {
	toScripted := read("The scripted family", "firmware", "family", fit.Equal, "scripted")
	probed := because(marked("A probe", "probe", "model", fit.Present), "A mesh is probed.", "A probe first would change that.")
	areaOfHosts := needs("Print-area mesh for hosts", because(hosted, "It is a macro of the host.", "A change to the hosted family would change that."), anyOf("Host stack from 0.12.0 on", "Older ones do not know the print's area.", "An update of the host would change that.",
		read("The host's software from 0.12.0 on", "host", "version", fit.Version, "0.12.0"), read("The build that goes with it from 0.12.0 on", "firmware", "version", fit.Version, "0.12.0")), probed)
	areaOfBoards := needs("Print-area mesh for boards", because(read("A compiled build", "firmware", "family", fit.Equal, "compiled"), "Its build exists for this family only.", "A change of the firmware family would change that."), because(read("Firmware from version 2.1 on", "firmware", "version", fit.Version, "2.1"), "Older builds mesh the whole bed.", "An update of the build would change that."), probed)
	return []fit.Kit{
		{Key: "to-hosted", Name: "Change to the hosted family", What: "firmware family change", About: "The host thinks, the board drives pins; one text file for all settings.", Price: 0, Minutes: 240, Skill: "has set up a host before", Parts: []string{"card for the host"}, Tools: []string{"USB lead"}, Risk: "everything stored in firmware is gone; the closed display is lost",
			Needs: needs("To the hosted family", because(without("Not hosted already", "Nothing would be gained.", "Leave it alone.", hosted), "", ""),
				anyOf("A host computer with a proper supply", "A laptop's port drops out under load.", "", read("One on a supply of its own", "host", "power", fit.Equal, "a supply of its own"), further("host", "host computer with supply and card", 68, 60, []fit.Effect{effect("host", "Quayhost 4", "power", "a supply of its own", "password-changed", "yes")}, "Give it a supply of its own; change the default password first.", "Mains adapter: no open plugs near the bed.")),
				because(read("The processor is on the host's list", "firmware", "listed-chip", fit.Equal, "yes"), "Some pin-compatible twins are not.", "Another mainboard would change that.")),
			Result:  &hosted,
			Effects: []fit.Effect{effect("firmware", "new build of the hosted family", "family", "hosted")}, Steps: []fit.FittingStep{fitStep("Start on a fresh card, keep the old one", "The way back. Unplug a closed display before flashing.", "Machine switched off.")}, NewBuild: "the small matching build, configuration of this machine written anew", StartCode: []string{"start code becomes a macro"}},
		{Key: "to-scripted", Name: "Change to the scripted family", What: "firmware family change", About: "All on the board; G-code scripts on its card.", Price: 0, Minutes: 180, Skill: "has flashed a board before", Parts: []string{"card"}, Tools: []string{"USB lead"}, Risk: "everything stored in firmware is gone",
			Needs:   needs("To the scripted family", because(without("Not scripted already", "Nothing would be gained.", "Leave it alone.", toScripted), "", "")),
			Result:  &toScripted,
			Effects: []fit.Effect{effect("firmware", "new build of the scripted family", "family", "scripted")}, Steps: []fit.FittingStep{fitStep("Write the scripts", "Motors by peak current there, not by RMS: the commonest factor of 1.4.", "Machine switched off.")}, NewBuild: "this board, scripts of this machine written anew"},
		{Key: "close-mesh", Name: "Print-area mesh for hosts", What: "print-area meshing", About: "Meshes only what the print covers: quicker, finer.", Price: 0, Minutes: 40, Skill: "has edited a configuration before", Parts: []string{}, Tools: []string{},
			Needs: needs("Print-area mesh for hosts",
				anyOf("Labels of objects", "The area comes from the labels.", "", read("Object list on in both places, labels from the slicer", "firmware", "objects", fit.Equal, "yes"), further("labels-on", "object list on in two places, labels in the slicer", 0, 20, nil, "Switch the object list on in the configuration and in the API server, and labels in the slicer.", "Old files have no labels: slice them again."))),
			Result:  &areaOfHosts,
			Effects: []fit.Effect{}, Steps: []fit.FittingStep{fitStep("Put the macro into the configuration", "Small quick mesh while adjusting, the full one at the end.", "Moving axes: keep fingers out.")}, StartCode: []string{"the mesh macro in place of the plain mesh"}, Slicer: []string{"object labels on; slice old files again"}},
		{Key: "close-mesh-board", Name: "Print-area mesh for boards", What: "print-area meshing", About: "The same on the board, from version 2.1 on.", Price: 0, Minutes: 60, Skill: "has flashed a board before", Parts: []string{}, Tools: []string{},
			Result: &areaOfBoards,
			Uses:   []fit.Use{use("flash", 43, "full mesh levelling")}, Effects: []fit.Effect{}, Steps: []fit.FittingStep{fitStep("Note the present mesh", "To compare with.", "Moving axes: keep fingers out.")}, NewBuild: "full mesh levelling, area from the start code", StartCode: []string{"the print's area passed to G29"}, Slicer: []string{"the print's area in the start code; slice old files again"}},
	}
}
