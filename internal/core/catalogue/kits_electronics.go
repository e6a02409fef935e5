package catalogue

import (
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// probes of both schools.
func probes() []fit.Kit {
	noProbe := without("No probe that senses metal yet", "Two probes cannot share the bracket.", "It carries one already.", marked("One is fitted", "probe", "senses", fit.Equal, parts.ByMetal))
	return []fit.Kit{
		{Key: "kedge-probe", Name: "Kedge contact probe for toolhead boards", What: "contact pin probe", About: "A pin probe wired to the toolhead board: no wires along the loom.",
			Price: 58, Minutes: 100, Skill: "has flashed a board before", Parts: []string{"Kedge probe", "bracket, 4 mm"}, Tools: hexKeys, Screws: []string{"2 × M3 × 12"}, Risk: "a wrong offset crashes the nozzle",
			Needs:         needs("Kedge contact probe", without("No contact probe is fitted yet", "Two probes cannot share the bracket.", "It carries one already.", marked("One is fitted", "probe", "senses", fit.Equal, parts.ByTouch))),
			Uses:          []fit.Use{use("toolhead-ways", 5, "probe"), use("flash", probeKiB, "probe's code")},
			Effects:       []fit.Effect{effect("probe", "Kedge contact probe", "senses", parts.ByTouch), effect("bracket", "Kedge bracket, 4 mm", "thickness", "4"), effect("z-endstop", machine.None)},
			Steps:         []fit.FittingStep{fitStep("Screw the bracket to the carriage", "Two M3 × 12 through the 4 mm bracket leave 7.5 mm of thread. Do not cross-thread.", coolHead, aluminium), wireStep("Plug the probe into the toolhead board", "Five ways, as on the leaflet, pin by pin.")},
			ToolheadGrams: 18, NewBuild: "probe of this kind on, Z endstop off, homing of Z at the bed's centre", StartCode: []string{"G29 on the line after G28 in the start code", "files sliced before do not probe: slice them again"}},
		{Key: "sounder-8", Name: "Sounder 8 inductive probe", What: "inductive probe", About: "Senses the metal under the surface from 4 mm away; 10 to 30 V.",
			Price: 24, Minutes: 80, Skill: "has flashed a board before", Parts: []string{"Sounder 8 probe", "clamp"}, Tools: hexKeys, Screws: []string{"2 × M3 × 10"}, Risk: "each surface thickness has its own offset",
			Needs:         needs("Sounder 8", noProbe),
			Uses:          []fit.Use{use("flash", 2, "probe's code")},
			Effects:       []fit.Effect{effect("probe", "Sounder inductive", "senses", parts.ByMetal, "reach", "4"), effect("bracket", "Sounder clamp"), effect("z-endstop", machine.None)},
			Steps:         []fit.FittingStep{fitStep("Clamp the probe 2 mm above the nozzle's tip", "It must not touch the print, and must sense before the nozzle touches.", coolHead), wireStep("Wire it through the divider", "Supply, ground, and the signal through the divider on the board's Z endstop.", "Polarity matters.")},
			ToolheadGrams: 32, NewBuild: "probe in place of the Z endstop, its logic level, homing of Z at the bed's centre", StartCode: []string{"G29 on the line after G28 in the start code"}},
		{Key: "lodestar-5", Name: "Lodestar 5 V inductive probe", What: "inductive probe", About: "A small inductive probe on the board's own 5 V: no divider; senses from 2 mm.",
			Price: 31, Minutes: 60, Skill: "has flashed a board before", Parts: []string{"Lodestar probe", "bracket"}, Tools: hexKeys, Screws: []string{"2 × M3 × 8"},
			Needs:         needs("Lodestar 5 V", noProbe),
			Uses:          []fit.Use{use("probe-header", 1, "probe")},
			Effects:       []fit.Effect{effect("probe", "Lodestar 5 V", "senses", parts.ByMetal, "reach", "1.5"), effect("bracket", "Lodestar bracket"), effect("z-endstop", machine.None)},
			Steps:         []fit.FittingStep{fitStep("Screw the bracket on", "Probe 1 mm above the nozzle's tip.", coolHead), wireStep("Plug it into the probe header", "Three of the five ways.")},
			ToolheadGrams: 14, NewBuild: "probe section in the configuration", StartCode: []string{"mesh command after homing in the start code"}},
	}
}

// electronics are mainboards and displays.
func electronics() []fit.Kit {
	boardSteps := []fit.FittingStep{
		fitStep("Lift the old board out", "Four screws; keep the standoffs. It may sit turned by 180° in the new place.", "Static: touch bare metal first."),
		wireStep("Move the wires one at a time from old board to new", "Lowest risk of a mix-up. Ferrules where the terminal is a screw clamp; no frayed strands."),
		wireStep("Set the drivers' current", "By the law of the new drivers and the motors' rating, before a motor is moved.", "Power is on while measuring: plastic screwdriver, touch nothing else."),
	}
	plug := anyOf("The display goes on", "A display without its plug stays dark.", "",
		read("The board-driven display has the 10-pin plug", "display", "plug", fit.Equal, "yes"), further("display-lead", "adapter lead for the display", 7, 10, nil, "Put the adapter lead between the display and the board, notch to notch.", noPlugging))
	reach := anyOf("The wires reach", "The new board's connectors sit elsewhere, and it may sit turned by 180°.", "",
		read("Slack of at least 30 mm in the shortest wire", "mainboard", "slack", fit.AtLeast, "30"), further("wire-extensions", "extensions for the wires that are too short", 11, 40, nil, "Sleeve or crimp each extension; label both ends; no frayed strands.", noPlugging))
	return []fit.Kit{
		{Key: "brace-5-board", Name: "Brace 5 silent board", What: "silent-driver mainboard", About: "Four silent drivers on the old board's footprint.",
			Price: 62, Minutes: 150, Skill: "has flashed a board before", Parts: []string{"Brace 5 board", "card with its build"}, Tools: append([]string{"multimeter", "ferrules"}, hexKeys...), Risk: "a mixed-up motor, or no thermal protection in its build",
			Needs: needs("Brace 5 board", plug, reach),
			Effects: []fit.Effect{effect("mainboard", "Brace 5 board", "flash", "512", "chip-maker", "first source", "probe-port", "yes", "driver-outputs", "4", "usb-chip", "native", "upload", "memory card"),
				effect("driver-x", "Hush 8", "silent", "yes", "law", "full-scale 0.325 V"), effect("driver-y", "Hush 8", "silent", "yes", "law", "full-scale 0.325 V"), effect("driver-z", "Hush 8", "silent", "yes", "law", "full-scale 0.325 V"), effect("driver-e", "Hush 8", "silent", "yes", "law", "full-scale 0.325 V")},
			Steps: boardSteps, NewBuild: "this board, thermal protection on, this machine's limits and directions"},
		{Key: "sill-r3-board", Name: "Sill R3 silent board with five outputs", What: "silent-driver mainboard", About: "Five outputs and a probe header; needs a host.",
			Price: 88, Minutes: 180, Skill: "has set up a host before", Parts: []string{"Sill R3 board", "USB lead"}, Tools: append([]string{"multimeter", "ferrules"}, hexKeys...), Risk: "everything kept in the old board is entered anew",
			Needs: needs("Sill R3 board", reach),
			Effects: []fit.Effect{effect("mainboard", "Sill R3", "flash", "512", "chip-maker", "first source", "probe-port", "yes", "driver-outputs", "5", "usb-chip", "native"),
				effect("driver-x", "Hush 9", "silent", "yes"), effect("driver-y", "Hush 9", "silent", "yes"), effect("driver-z", "Hush 9", "silent", "yes"), effect("driver-e", "Hush 9", "silent", "yes")},
			Steps: boardSteps, NewBuild: "the small matching build for this board, pins in the host's configuration"},
		{Key: "amber-display", Name: "Amber display", What: "board-driven display", About: "A plain display on the 10-pin header: every setting reachable.",
			Price: 19, Minutes: 40, Skill: "has flashed a board before", Parts: []string{"display", "ribbon"}, Tools: hexKeys, Risk: "blank until the new build is in: expected",
			Needs: needs("Amber display", because(read("10-pin display header free", "mainboard", "display-port", fit.Equal, "yes"), "It hangs on that header; the right one of several on the display is marked.", "A board with the header would change that.")),
			Uses:  []fit.Use{use("display-header", 1, "display"), use("flash", 9, "display's code")}, Effects: []fit.Effect{effect("display", "Amber display", "kind", "driven by the board", "plug", "yes")},
			Steps: []fit.FittingStep{wireStep("Plug the ribbon in", "Into the connector marked for this board, notch to notch. The screen stays blank until the new build is in.")}, NewBuild: "this display on"},
		{Key: "slate-display", Name: "Slate touch display", What: "board-driven display", About: "A touch display on the serial header.",
			Price: 44, Minutes: 50, Skill: "has flashed a board before", Parts: []string{"display", "lead"}, Tools: hexKeys, Risk: "two builds: the board's and the display's",
			Uses: []fit.Use{use("flash", 24, "display's code")}, Effects: []fit.Effect{effect("display", "Slate touch display", "kind", "driven by the board")},
			Steps: []fit.FittingStep{wireStep("Plug the lead into the serial header", "Four ways; compare with the letters on both boards.")}, NewBuild: "this display on, its own build on its card"},
	}
}
