package printfile

import (
	"slices"
	"strings"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/settings"
)

// start is whether the start code is right for the probe and the homing of the machine.
func (j *judge) start() {
	if j.p.Extruded == 0 {
		return
	}
	homed, probes, loads := j.p.Homed > 0 && j.p.Homed < j.p.Extruded, j.p.Probed > 0 && j.p.Probed < j.p.Extruded,
		j.p.Loaded > 0 && j.p.Loaded < j.p.Extruded
	if macros := j.macros(); len(macros) > 0 && (!homed || !probes && !loads) {
		j.startMacros(macros, homed, probes, loads)
		return
	}
	if j.p.Homed == 0 || j.p.Homed > j.p.Extruded {
		j.say("not-homed", Stop, j.p.Extruded,
			"it prints before it homes (G28): the machine does not know where the nozzle is").Hazard =
			"A nozzle that is driven without homing can crash into the bed."
		return
	}
	s, has := j.m.Facts, j.probe()
	switch {
	case has.Sure && !probes && !loads:
		f := j.say("no-mesh", Mend, j.p.Homed,
			"the machine has a probe, and the file neither probes a mesh nor loads one: it prints "+
				"without levelling")
		if word := meshWord(j.family); word != "" && j.p.HomedEnd > 0 {
			f.Repair = &FileRepair{At: j.p.HomedEnd, Insert: word + "\n", Line: j.p.Homed + 1, Becomes: word}
		}
	case has.Sure && loads && !probes:
		if c, ok := calibration.Of(calibration.Mesh); ok {
			for _, x := range c.Subjects(s) {
				if st := calibration.StateOf(s, j.m.Records, c, x); st.Word != calibration.Valid {
					j.say("stored-mesh", Look, j.p.Loaded,
						"it loads the stored mesh, and the mesh on record is %s: probe it anew", st.Word)
				}
			}
		}
	case probes && !has.Possible:
		f := j.say("no-probe", Mend, j.p.Probed, "it probes a mesh, and the machine has no probe: the print stops there")
		if u := j.p.ProbedBy; u != nil {
			f.Repair = comment(*u)
		}
	case probes && !has.Sure:
		j.say("probe-unknown", Look, j.p.Probed, "it probes a mesh, and whether the machine has a probe is not on record")
	}
}

// levelled is whether the mesh stays in force while the file prints. A word of another family does nothing there.
func (j *judge) levelled() {
	u := j.p.MeshOff
	if u == nil {
		return
	}
	switch of := map[string]string{"M420": parts.Compiled, "BED_MESH_CLEAR": parts.Hosted}[u.Word]; {
	case j.family == "":
	case of == "" && j.family != parts.Scripted, of != "" && of != j.family:
		return
	}
	if !j.probe().Possible && j.p.Probed == 0 && j.p.Loaded == 0 {
		return
	}
	f := j.say("mesh-off", Mend, u.Line,
		"%s puts the mesh out of force, and the file prints after it: it prints without levelling",
		u.Text)
	f.Repair = comment(*u)
}

// probe is whether the machine has one.
func (j *judge) probe() (has machine.Presence) {
	s := j.m.Facts
	for _, p := range s.Each(parts.Probe) {
		at := s.Presence(p, machine.Marked)
		has.Sure, has.Possible = has.Sure || at.Sure, has.Possible || at.Possible
	}
	return has
}

// startMacros is whether the macros that begin the print do what the file leaves to them.
func (j *judge) startMacros(macros []*Use, homed, probes, loads bool) {
	first := macros[0]
	if j.m.Macros == nil {
		level := Look
		if homed {
			level = Note
		}
		j.say("no-configuration", level, first.Line,
			"%s is the configuration's own: whether it homes and probes is not in the file, and no "+
				"configuration of the machine is on record", first.Word)
		return
	}
	var does settings.MacroDoes
	known := false
	for _, u := range macros {
		is, defined := j.m.Macros.Does(u.macro())
		if defined && !known {
			first = u
		}
		known = known || defined
		does = settings.MacroDoes{Homes: max(does.Homes, is.Homes), Probes: max(does.Probes, is.Probes),
			Loads: max(does.Loads, is.Loads)}
	}
	if !known && first.isScript() {
		j.say("script-unknown", Look, first.Line,
			"%s is not among the scripts on record: whether it homes and probes is not known", first.Word)
		return
	}
	if !known {
		j.say("macro-unknown", Look, first.Line,
			"%s is no macro of the configuration on record: a print that begins with it stops there, or "+
				"it was sliced for another machine", first.Word)
		return
	}
	homes := does.Homes
	if homed {
		homes = settings.Always
	}
	meshes := max(does.Probes, does.Loads)
	if probes || loads {
		meshes = settings.Always
	}
	switch {
	case homes == settings.Never:
		j.say("macro-does-not-home", Stop, j.p.Extruded,
			"it prints before it homes (G28), and %s does not home either: the machine does not know "+
				"where the nozzle is", first.Word).Hazard = "A nozzle that is driven without homing can crash into the bed."
	case homes == settings.Sometimes:
		j.say("homes-on-condition", Note, first.Line, "%s homes on a condition: see that it does", first.Word)
	}
	has := j.probe()
	switch {
	case meshes == settings.Never && has.Sure:
		j.say("macro-no-mesh", Look, first.Line,
			"the machine has a probe, and neither the file nor %s probes a mesh or loads one: it prints "+
				"without levelling", first.Word)
	case meshes == settings.Sometimes && has.Sure:
		j.say("mesh-on-condition", Note, first.Line, "%s probes or loads a mesh on a condition: see that it does", first.Word)
	case does.Probes > settings.Never && !has.Possible:
		j.say("macro-probes-without-probe", Look, first.Line,
			"%s probes a mesh, and the machine has no probe on record", first.Word)
	}
}

// built are how commands begin that the host itself has, so that no configuration defines them. Source:
// from memory.
var built = []string{"EXCLUDE_OBJECT", "SET_", "BED_MESH_", "SAVE_", "RESTORE_", "TURN_OFF_", "UPDATE_", "ACTIVATE_",
	"SYNC_", "GET_", "QUERY_", "TEMPERATURE_WAIT", "Z_TILT_", "QUAD_GANTRY_", "DISPLAY_", "TIMELAPSE_"}

// isBuilt reports whether a command is one of the host's own.
func (u Use) isBuilt() bool {
	return slices.ContainsFunc(built, func(begin string) bool { return strings.HasPrefix(u.Word, begin) })
}

// macros are commands of the machine's own configuration, and scripts of it, that are called before the print
// begins: either, where the family is not on record.
func (j *judge) macros() []*Use {
	var out []*Use
	for i := range j.p.Words {
		u := &j.p.Words[i]
		calls := j.family != parts.Scripted && u.isNamed() && !u.isBuilt() || j.family != parts.Hosted && u.isScript()
		if calls && j.family != parts.Compiled && u.Line < j.p.Extruded {
			out = append(out, u)
		}
	}
	return out
}

// meshWord is how a family probes a mesh.
func meshWord(family string) string {
	switch family {
	case parts.Compiled, parts.Scripted:
		return "G29"
	}
	return "" // in the hosted family the name of the command or macro is the configuration's
}
