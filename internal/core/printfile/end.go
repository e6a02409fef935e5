package printfile

import (
	"fmt"

	"wardifex/internal/core/parts"
	"wardifex/internal/core/settings"
)

// left is what stays hot when the file ends.
func (j *judge) left() {
	if len(j.p.Left) == 0 {
		return
	}
	for _, left := range j.p.Left {
		key, level, says := j.ends(left.Tool)
		if level == "" {
			continue
		}
		f := j.say(key, level, left.Line, "it ends with %s set to %g °C: %s", left.heater(), left.Value, says)
		if level != Note {
			f.Hazard = "What stays hot with nobody there can set the print, or what lies on it, on fire."
		}
	}
}

func (l Left) heater() string {
	switch l.Tool {
	case bedLeft:
		return "the bed"
	case chamberLeft:
		return "the chamber"
	}
	return fmt.Sprintf("the nozzle of T%d", l.Tool)
}

// ends is how much it weighs that the file itself leaves something hot, and why: nothing where a word after
// the print switches it off. What the words do is from memory.
func (j *judge) ends(heater int) (key string, level Level, says string) {
	key, level, says = "left-hot", Look, "it is cut off, or has no end code"
	weaker := func(as string, to Level, why string) {
		if level == Look {
			key, level, says = as, to, why
		}
	}
	for _, u := range j.p.Ends {
		waits := u.Word == "M0" || u.Word == "M1" || u.Word == "M2"
		switch {
		case j.family == "", u.Word == "M81", u.Word == "TURN_OFF_HEATERS" && j.family == parts.Hosted,
			waits && j.family == parts.Scripted:
			return "", "", ""
		case waits && j.family == parts.Compiled:
			weaker("left-hot-waiting", Look, u.Word+" waits, and switches nothing off")
		case u.isScript() && j.family != parts.Scripted, !u.isScript() && j.family != parts.Hosted, u.isBuilt():
		case j.m.Macros == nil && (u.isScript() || !waits):
			weaker("left-hot-perhaps", Note, fmt.Sprintf(
				"whether %s switches it off is not in the file, and no configuration of the machine is "+
					"on record", u.Word))
		case j.m.Macros == nil:
		default:
			does, known := j.m.Macros.Does(u.macro())
			cools := does.Cools.Nozzle
			switch heater {
			case bedLeft:
				cools = does.Cools.Bed
			case chamberLeft:
				cools = does.Cools.Chamber
			}
			switch {
			case !known && u.isScript():
				weaker("left-hot-perhaps", Note, fmt.Sprintf(
					"whether %s switches it off is not known: that script is not on record", u.Word))
			case !known && !waits:
				weaker("left-hot-macro-unknown", Look, u.Word+" is no macro of the configuration on record")
			case cools == settings.Always:
				return "", "", ""
			case cools == settings.Sometimes:
				weaker("left-hot-on-condition", Note, u.Word+" switches it off on a condition: see that it does")
			case known:
				weaker("left-hot-by-macro", Look, u.Word+" does not switch it off")
			}
		}
	}
	return key, level, says
}
