package catalogue

import (
	"wardifex/internal/core/fit"
)

// motion are second Z motors and longer frames.
func motion() []fit.Kit {
	oneZ := because(read("One Z motor now", "z-drive", "motors", fit.Equal, "one"), "A second one is what it adds.", "It has two already: leave it alone.")
	room := because(read("Room beside the frame", "frame", "z-room", fit.Equal, "yes"), "The motor stands where some machines have the supply.", "Moving the supply would change that.")
	zSteps := []fit.FittingStep{
		fitStep("Set the second motor and screw", "Both motors at the same height over the base; shaft and screw must not touch inside the coupler; coupler really tight.", dropping),
		fitStep("Top bracket snug only", "Run the gantry by hand through its travel without binding, level it, then tighten. Wheels in the same order, eccentric nut on the inner side.", dropping),
		wireStep("Route the new motor's cable", "Slack at the far end of the axis, clear of the bed."),
	}
	longer := func(key, name, about string, price float64, frame fit.Effect, watts, dx, dz float64, more ...fit.Requirement) fit.Kit {
		return fit.Kit{Key: key, Name: name, What: "frame extension", About: about, Price: price, Minutes: 420, Skill: "has levelled, assembled and tuned this machine before", Parts: []string{"profiles", "belts", "wire extensions", "bed plate and surface are apart"}, Tools: append([]string{"square", "spanners"}, hexKeys...),
			Screws: []string{"16 × M5 × 25", "16 T-nuts M5"}, Risk: "a machine that worked is taken apart wholly",
			Needs:    needs(name, more...),
			Uses:     []fit.Use{use("supply-watts", watts, "larger bed's heater")},
			Effects:  []fit.Effect{frame, effect("belts", "longer belts, 2 mm", "pitch", "2"), effect("plate", "large plate", "mains", "no", "metal", "yes"), effect("surface", "large sheet", "thickness", "4")},
			Steps:    []fit.FittingStep{fitStep("Take the frame apart and put the longer profiles in", "T-nuts a few turns only, so that they turn in the slot. Square before you tighten.", twoPeople, "Sheet edges are sharp: fingers and wires."), wireStep("Extend the wires", "Solder and sleeve, or crimp; slack at the far end of every axis.")},
			BedGrams: 900, AreaLoss: [3]float64{-dx, -dx, -dz}, NewBuild: "the new volume and mesh density", StartCode: []string{"files sliced for the old volume stay as they were"}, Slicer: []string{"print volume"}}
	}
	// The frame stays, and whatever height it has grows.
	taller := fit.Effect{Slot: "frame", From: "frame", Adds: map[string]string{"z": "230"}}
	volumeBuild := anyOf("A build for the new volume on this processor", "The volume is compiled in.", "Another board, or the hosted family, would change that.", hosted, read("Processor of the first source", "mainboard", "chip-maker", fit.Equal, "first source"))
	twoMillimetres := because(marked("Belts of 2 mm pitch", "belts", "pitch", fit.Equal, "2"), "The longer ones in the box are of that pitch.", "Other pulleys would change that.")
	return []fit.Kit{
		{Key: "twinlift", Name: "Twinlift second Z motor, split lead", What: "second Z motor", About: "Two motors in parallel on the one Z output.",
			Price: 42, Minutes: 180, Skill: "has levelled a gantry before", Parts: []string{"motor", "screw and coupler", "top bracket", "split lead"}, Tools: append([]string{"square"}, hexKeys...), Screws: []string{"4 × M3 × 10", "2 × M5 × 30"},
			Needs:   needs("Twinlift, split lead", oneZ, room),
			Effects: []fit.Effect{sets("z-drive", "motors", "two on one driver"), effect("motor-z2", "Twinlift motor")}, Steps: zSteps},
		{Key: "twinlift-own", Name: "Twinlift second Z motor, own output", What: "second Z motor", About: "Each Z motor on an output of its own: levels itself where the build can.",
			Price: 49, Minutes: 200, Skill: "has flashed a board before", Parts: []string{"motor", "screw and coupler", "top bracket", "lead"}, Tools: append([]string{"square"}, hexKeys...), Screws: []string{"4 × M3 × 10", "2 × M5 × 30"},
			Needs:   needs("Twinlift, own output", oneZ, room, read("A firmware family with a build for it", "firmware", "family", fit.OneOf, "compiled", "hosted")),
			Uses:    []fit.Use{use("flash", 4, "levelling code")},
			Effects: []fit.Effect{sets("z-drive", "motors", "two on two drivers"), effect("motor-z2", "Twinlift motor")}, Steps: zSteps, NewBuild: "second Z driver, levelling of the gantry"},
		longer("longshore-500", "Longshore 500 frame", "Half a metre each way; bed and Z kit apart.", 210, effect("frame", "Longshore 500 frame", "x", "500", "y", "500", "z", "500"), 150, 150, 100, anyOf("A probe", "A bed of that size is never flat: a probe is strongly advised.", "", marked("A probe is fitted", "probe", "model", fit.Present), further("probe-first", "a probe, fitted first", 46, 120, nil, "Fit one of the probe kits before the frame is extended.", coolHead))),
		longer("longshore-tall", "Longshore tall frame", "The same bed, twice the height.", 120, taller, 0, 0, 230, volumeBuild, twoMillimetres, because(read("Two Z motors", "z-drive", "motors", fit.OneOf, "two on one driver", "two on two drivers"), "One screw does not guide a tall gantry.", "A second Z motor first would change that.")),
	}
}

var ownFlat = because(read("A flat on the motor's shaft", "motor-e", "flat", fit.Equal, "yes"), "The pinion's grub screw sits on the flat.", "A motor with a flat would change that.")

// filamentPath are extruders, direct drives and what watches the filament.
func filamentPath() []fit.Kit {
	runout := anyOf("The run-out sensor is not in the way", "It sits where the extruder is mounted.", "",
		without("It is elsewhere, or there is none", "", "", read("It is in the way", "runout", "in-the-way", fit.Equal, "yes")),
		further("runout-aside", "run-out sensor moved aside", 0, 15, []fit.Effect{sets("runout", "in-the-way", "no")}, "Loosen its clamp and set it before the extruder's inlet; filament must run straight through.", "Sensor unplugged, machine off."))
	thread := func(plate string) fit.Requirement {
		return because(formula("Thread left after a bracket of "+plate+" mm: one and a half diameters of M3 in aluminium", "extruder-bracket.screw - "+plate+" mm - 0.5 mm >= 4.5 mm"), "A thicker bracket eats thread (Machinery's Handbook and FED-STD-H28 treat it; the rule is from memory).", "Longer screws that do not bottom out would change that.")
	}
	alignPinion := fitStep("Set the pinion on the motor's shaft", "Grub screw on the flat; hub the way the leaflet says; in line with the gear it drives, which must turn freely; not touching the body.", coolHead)
	ownMotor := wireStep("Swap two wires of the motor's connector where its coils lie otherwise", "Work it out on the wire sheet first: each coil on the driver's own pair.")
	direct := func(key, name, carriage string, price float64, pairs ...fit.Requirement) fit.Kit {
		return fit.Kit{Key: key, Name: name, Heads: fit.AnyHead, What: "direct-drive conversion", About: "The extruder moves onto the carriage; no firmware change when all electrical parts stay.", Price: price, Minutes: 90, Skill: "first larger work on a machine", Parts: []string{"plate", "spacer 2 mm", "spacer 4 mm", "PTFE, 40 mm"}, Tools: append([]string{"tube cutter"}, hexKeys...), Screws: []string{"4 × M3 × 16"},
			Needs: needs(name, because(marked("The carriage of this model", "carriage", "model", fit.Equal, carriage), "The plate is cut for it.", "The other conversion plate is for other carriages."),
				anyOf("A pair of extruder and hotend that is in the plate's table", "The pair decides the spacer.", "An extruder or a hotend of the table would change that.", pairs...),
				because(read("Long tube now", "tube", "length", fit.AtLeast, "200"), "It is a direct drive already.", "Leave it alone."),
				because(read("Slack of 40 mm in the carriage's cables", "carriage", "slack", fit.AtLeast, "40"), "The motor's cable moves with the head.", "Longer cables would change that.")),
			Effects: []fit.Effect{effect("tube", "direct, 40 mm", "length", "40")}, Steps: []fit.FittingStep{fitStep("Move the extruder onto the plate", "Spacer by the table on the leaflet. Cut the PTFE square, seat it fully, clip back in.", coolHead), wireStep("Route the motor's cable along the loom", "Slack at the far end of every axis.")},
			ToolheadGrams: 240, StartCode: []string{"ooze features off"}, Slicer: []string{"retraction from 6–7 mm to 1.2 mm and up", "ooze features off"}}
	}
	pair := func(extruder, mount, spacer string) fit.Requirement {
		return fit.Requirement{Label: extruder + " with a hotend on " + mount + ": spacer " + spacer + " mm", All: []fit.Requirement{
			marked("Extruder "+extruder, "extruder", "model", fit.Equal, extruder), read("Hotend on "+mount, "hotend", "mount", fit.Equal, mount)}}
	}
	return []fit.Kit{
		{Key: "twinpawl-kit", Heads: fit.AnyHead, Name: "Twinpawl geared extruder", What: "geared dual-drive extruder", About: "Two driven gears, 3:1: steps/mm about 415.", Price: 39, Minutes: 75, Skill: "first larger work on a machine", Parts: []string{"extruder", "pinion", "bracket 4 mm"}, Tools: hexKeys, Screws: []string{"2 × M3 × 14"},
			Needs:   needs("Twinpawl", ownFlat, because(read("Shaft of at least 20 mm", "motor-e", "shaft", fit.AtLeast, "20"), "The pinion sits 14 mm out.", "A motor with a longer shaft would change that."), thread("4"), runout),
			Effects: []fit.Effect{effect("extruder", "Twinpawl 3:1", "ratio", "3")}, Steps: []fit.FittingStep{alignPinion}, StartCode: []string{"M92 left over in a file ruins the print: take it out"}, Slicer: []string{"retraction"}},
		{Key: "pawl-mini", Heads: fit.AnyHead, Name: "Pawl Mini geared extruder", What: "geared dual-drive extruder", About: "For short shafts; 3.5:1.", Price: 33, Minutes: 70, Skill: "first larger work on a machine", Parts: []string{"extruder", "pinion"}, Tools: hexKeys, Screws: []string{"2 × M3 × 10"},
			Needs: needs("Pawl Mini", because(formula("Shaft out of the bracket by 12 to 16 mm: at least 12", "motor-e.shaft - extruder-bracket.thickness >= 12 mm"), "The pinion needs that much.", "A thinner bracket would change that."), because(formula("Shaft out of the bracket by 12 to 16 mm: at most 16", "motor-e.shaft - extruder-bracket.thickness <= 16 mm"), "A longer one touches the body.", "A thicker bracket would change that."),
				because(formula("The kit's screws reach one and a half diameters of M3 into aluminium", "10 mm - extruder-bracket.thickness - 0.5 mm >= 4.5 mm"), "Engagement left = screw − stack − washer (Machinery's Handbook and FED-STD-H28 treat it; the rule is from memory).", "Longer screws, or a thinner bracket, would change that."),
				because(formula("The kit's screws do not bottom out", "10 mm - extruder-bracket.thickness - 0.5 mm <= extruder-bracket.hole"), "A screw that bottoms out holds nothing.", "Shorter screws, or another washer, would change that.")),
			Effects: []fit.Effect{effect("extruder", "Pawl Mini 3.5:1", "ratio", "3.5")}, Steps: []fit.FittingStep{alignPinion}, StartCode: []string{"M92 left over in a file ruins the print: take it out"}},
		{Key: "cadge-extruder", Heads: fit.AnyHead, Name: "Cadge extruder with its motor", What: "extruder with its own motor", About: "1.8° motor of 1.0 A; 5:1.", Price: 64, Minutes: 80, Skill: "has worked with a wire sheet", Parts: []string{"extruder with motor", "lead"}, Tools: hexKeys, Screws: []string{"2 × M3 × 12"},
			Needs:   needs("Cadge", runout, because(read("Driver at 1/16 step or finer", "driver-e", "microsteps", fit.AtLeast, "16"), "Its steps/mm are stated for that.", "Setting the driver finer would change that."), because(read("The motor's lead order is known", "motor-e", "leads", fit.Known), "Two wires are swapped by it.", "")),
			Effects: []fit.Effect{effect("extruder", "Cadge 5:1", "ratio", "5"), effect("motor-e", "Cadge motor", "step-angle", "1.8", "current", "1")}, Steps: []fit.FittingStep{fitStep("Screw the extruder on", "Not touching the frame; filament path straight.", coolHead), ownMotor}, StartCode: []string{"M92 left over in a file ruins the print: take it out"}},
		{Key: "cadge-fine", Heads: fit.AnyHead, Name: "Cadge fine extruder with its motor", What: "extruder with its own motor", About: "0.9° motor of 0.7 A: half the angle, twice the steps.", Price: 71, Minutes: 80, Skill: "has worked with a wire sheet", Parts: []string{"extruder with motor", "lead"}, Tools: hexKeys, Screws: []string{"2 × M3 × 12"},
			Needs:   needs("Cadge fine", runout, because(read("32-bit board", "mainboard", "width", fit.Equal, "32-bit"), "Twice the steps are too many for an 8-bit board.", "A 32-bit board would change that."), because(said("A silent driver", "driver-e", "silent", fit.Equal, "yes"), "At 0.7 A an older driver growls.", "A silent-driver board would change that.")),
			Effects: []fit.Effect{effect("extruder", "Cadge 5:1", "ratio", "5"), effect("motor-e", "Cadge fine motor", "step-angle", "0.9", "current", "0.7")}, Steps: []fit.FittingStep{fitStep("Screw the extruder on", "Not touching the frame; filament path straight.", coolHead), ownMotor}},
		direct("shortpath-skerry", "Shortpath plate for Skerry carriages", "Skerry carriage", 27, pair("Cleat single drive", "two screws 16 mm", "2"), pair("Twinpawl 3:1", "two screws 16 mm", "4")),
		direct("shortpath-drift", "Shortpath plate for Drift carriages", "Drift carriage", 29, pair("Cleat single drive", "groove", "2"), pair("Twinpawl 3:1", "four screws 14 mm", "4")),
		{Key: "watcher-runout", Heads: fit.AnyHead, Name: "Watcher run-out sensor", What: "filament-change / run-out", About: "Pauses, parks and asks for filament.", Price: 12, Minutes: 45, Skill: "has flashed a board before", Parts: []string{"sensor", "lead"}, Tools: hexKeys, Screws: []string{"1 × M3 × 8"},
			Needs: needs("Watcher", read("A compiled build", "firmware", "family", fit.Equal, "compiled"), because(formula("One extrusion may be as long as the unload", "firmware.max-extrude >= tube.length + 50 mm"), "Unloading is one move.", "Raising the largest single extrusion to 600 would change that."), without("No run-out sensor yet", "One is enough.", "Leave it alone.", marked("One is fitted", "runout", "model", fit.Present))),
			Uses:  []fit.Use{use("flash", 3, "filament-change code")}, Effects: []fit.Effect{effect("runout", "Watcher", "in-the-way", "no")}, Steps: []fit.FittingStep{fitStep("Clip the sensor before the extruder", "Filament must run straight through."), wireStep("Plug it in", "Two ways; signal and ground.")}, NewBuild: "filament change, run-out pin, park position"},
		{Key: "watcher-hosted", Heads: fit.AnyHead, Name: "Watcher run-out sensor for hosts", What: "filament-change / run-out", About: "The same sensor; the host's configuration does the rest.", Price: 12, Minutes: 30, Skill: "has edited a configuration before", Parts: []string{"sensor", "lead"}, Tools: hexKeys, Screws: []string{"1 × M3 × 8"},
			Needs:   needs("Watcher for hosts", because(hosted, "The change is a macro in the host's configuration.", "The Watcher for boards would fit instead."), without("No run-out sensor yet", "One is enough.", "Leave it alone.", marked("One is fitted", "runout", "model", fit.Present))),
			Effects: []fit.Effect{effect("runout", "Watcher", "in-the-way", "no")}, Steps: []fit.FittingStep{fitStep("Clip the sensor before the extruder", "Filament must run straight through."), wireStep("Plug it in", "Two ways; signal and ground.")}, NewBuild: "run-out section and load macro in the configuration"},
	}
}
