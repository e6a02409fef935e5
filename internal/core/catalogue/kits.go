package catalogue

import (
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// probeKiB is what a contact probe adds to a compiled build, in KiB. Source:
// common practice.
const probeKiB = 5

// ContactProbe is the shipped contact-probe kit.
func ContactProbe() fit.Kit {
	return fit.Kit{
		Key: "plumbline-probe", Name: "Plumbline contact probe kit", What: "contact pin probe",
		About: "A pin that touches the surface and switches. Replaces the Z endstop; homes at the bed's centre.",
		Price: 46, Minutes: 120, Skill: "has flashed a board before",
		Parts:   []string{"Plumbline probe with lead, 5-pin plug", "bracket, 3 mm steel", "2 screws M3 × 10", "2 washers M3"},
		Tools:   []string{"hex keys 2 and 2.5 mm", "side cutters", "labels and a pen", "paper, 0.1 mm", "feeler gauge or ruler"},
		SoldFor: []string{"Hollin Works Skerry 22", "Mossby Drift 350"},
		Needs: fit.Requirement{Label: "Plumbline contact probe kit", All: []fit.Requirement{
			{Label: "No contact probe is fitted yet", Why: "Two probes cannot share the header and the bracket.",
				Otherwise: "It carries a contact probe already.",
				None:      []fit.Requirement{marked("A probe that touches the surface is fitted", "probe", "senses", fit.Equal, parts.ByTouch)}},
			{Label: "The probe can be plugged in", Why: "The probe's servo and switch need five wires to the board.",
				Otherwise: "Another mainboard with a probe header would change that.",
				Any: []fit.Requirement{
					test("5-pin probe header on the mainboard", "mainboard", "probe-port", fit.Equal, machine.Read, "yes"),
					{Label: "By way of the display header", All: []fit.Requirement{
						test("10-pin display header is free", "mainboard", "display-port", fit.Equal, machine.Read, "yes"),
						{Label: "Adapter from the display header", Further: &fit.Further{Key: "port-adapter", Title: "adapter board on the display header", Price: 9, Minutes: 15,
							Uses: []fit.Use{use("display-header", 1, "adapter")},
							Steps: []fit.FittingStep{{Title: "Plug the adapter into the display header", Phase: "wire",
								Do:       "Seat the adapter fully on the 10-pin header, notch to notch, then the probe's 5-pin plug on the adapter.",
								Cautions: []string{"Never plug with power on: it kills the board."}}}}},
					}},
				}},
		}},
		Options: []fit.Further{{Key: "carriage-plate", Title: "carriage plate with tapped holes", Price: 18, Minutes: 45,
			Effects: []fit.Effect{{Slot: "carriage", Model: "Drilled carriage plate, 18 mm", Traits: map[string]string{"bracket-holes": "yes", "hole-spacing": "18"}}},
			Steps: []fit.FittingStep{{Title: "Change the carriage plate", Do: "Take the hotend off its plate, keep the wheels in their order, move everything to the drilled plate, eccentric nut on the inner side, and turn it until nothing wobbles.",
				Cautions: []string{"Hot nozzle and block: let them cool first.", "Tight, not too tight, in aluminium."}}}}},
		Effects: []fit.Effect{
			{Slot: "probe", Model: "Plumbline contact probe", Traits: map[string]string{"senses": parts.ByTouch}},
			{Slot: "bracket", Model: "Plumbline bracket, 3 mm"},
			{Slot: "z-endstop", Model: machine.None},
		},
		Uses:          []fit.Use{use("flash", probeKiB, "probe's code")},
		ToolheadGrams: 16,
		NewBuild:      "probe of this kit on, Z endstop off, homing of Z at the bed's centre",
		StartCode:     []string{"G29 on the line after G28 in the start code", "files sliced before do not probe: slice them again", "probing adds its time to every print"},
		Steps: []fit.FittingStep{
			{Title: "Screw the bracket to the carriage", Do: "Two M3 × 10 with washers into the tapped holes. The 3 mm bracket leaves 6.5 mm of thread: enough in aluminium from 4.5 mm on. Do not cross-thread; tight, not too tight.",
				Cautions: []string{"Hot nozzle and block: let them cool first."}},
			{Title: "Mount the probe on the bracket", Do: "Probe body 8 mm above the nozzle's tip as the leaflet says; the pin must clear the bed when retracted and reach below the nozzle when out."},
			{Title: "Route the probe's cable along the loom", Phase: "wire", Do: "Leave slack at the far end of every axis, clear of the bed and of the cover's edge.",
				Cautions: []string{"Sheet edges are sharp: they cut wires and fingers."}},
			{Title: "Plug the probe in", Phase: "wire", Do: "Five pins: supply, ground and servo on three, switch and ground on two. Compare with the drawing on the leaflet and with the letters on the board, pin by pin.",
				Cautions: []string{"Never plug with power on: it kills the board.", "Polarity matters: a probe plugged the wrong way round is lost."}},
			{Title: "Unplug the Z endstop and tape its plug", Phase: "wire", Do: "The build no longer reads it. Label it, so that the way back stays open.",
				Cautions: []string{noPlugging}},
		},
	}
}

// StiffSprings is the shipped kit of stiffer bed springs.
func StiffSprings() fit.Kit {
	return fit.Kit{
		Key: "bollard-springs", Name: "Bollard stiff bed springs", What: "stiffer bed springs",
		About: "Three long springs and a short one for the cable's corner. Levels drift less.",
		Price: 8, Minutes: 25, Skill: "first work on a machine", Parts: []string{"3 springs, 25 mm", "1 spring, 20 mm"}, Tools: []string{"small spanner"},
		Needs: fit.Requirement{Label: "Bollard stiff bed springs", All: []fit.Requirement{
			because(said("A bed on springs", "springs", "model", fit.Present), "They replace the springs under the plate.", "A bed without springs has nothing to replace."),
			because(read("Room at the cable corner of at least 16 mm", "springs", "corner-room", fit.AtLeast, "16"), "The short spring, pressed together, goes there.", "The short Bollard springs need less."),
			{Label: "Not stiff already", None: []fit.Requirement{test("Stiff springs are fitted", "springs", "stiff", fit.Equal, machine.Read, "yes")}, Why: "Nothing would be gained.", Otherwise: "Stiff springs are in already: leave it alone."},
		}},
		Effects: []fit.Effect{{Slot: "springs", Model: "Bollard stiff springs", Traits: map[string]string{"stiff": "yes"}}},
		Steps: []fit.FittingStep{{Title: "Change the springs one corner at a time", Do: "Short spring at the corner where the cable comes in. The bed must ride on its springs, not on a spacer; the cable must hang relaxed.",
			Cautions: []string{"Hot bed: let it cool first."}}},
	}
}

// Kit is the shipped kit of a key.
func Kit(key string) (fit.Kit, bool) {
	for _, k := range Kits() {
		if k.Key == key {
			return k, true
		}
	}
	return fit.Kit{}, false
}

// Kits lists the shipped kits: at least two of every kind of upgrade, with
// differing demands.
func Kits() []fit.Kit {
	out := []fit.Kit{ContactProbe(), StiffSprings()}
	for _, group := range [][]fit.Kit{probes(), electronics(), motion(), filamentPath(), heads(), beds(), software()} {
		out = append(out, group...)
	}
	return out
}
