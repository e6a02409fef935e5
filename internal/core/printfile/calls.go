package printfile

import (
	"bytes"
	"regexp"
	"strconv"
	"strings"

	"wardifex/internal/core/settings"
)

// named is a command that is a name: a macro, or a word of the hosted family; alone says that whatever its parameters
// are, nothing is taken down but that it is used.
func (s *scanner) named(name string, rest []byte) (word string, alone bool) {
	if !strings.Contains(name, "OBJECT") && !strings.HasPrefix(name, "SET_") {
		s.mayEnd(name)
	} else {
		alone = true
	}
	switch {
	case name == "SET_GCODE_OFFSET":
		s.setOffset(rest, append([]byte(name), rest...))
		return name, false
	case name == "BED_MESH_CLEAR":
		s.levelsNoMore(name, append([]byte(name), rest...))
		alone = false
	case name == "SET_HEATER_TEMPERATURE":
		s.setHeater(string(rest))
		alone = false
	case strings.HasSuffix(name, "OBJECT_START"), strings.HasSuffix(name, "OBJECT_DEFINE"):
		s.label(string(bytes.TrimSpace(rest[:min(len(rest), 200)])))
		alone = false
	case strings.Contains(name, "MESH_CALIBRATE"):
		s.probed(name, append([]byte(name), rest...))
		alone = false
	case strings.Contains(name, "MESH_PROFILE"):
		s.levels()
		if s.p.Loaded == 0 {
			s.p.Loaded = s.lines
		}
		alone = false
	}
	s.use(name)
	return name, alone
}

// hostHeater is a heater and the temperature that a host's word sets it to.
var hostHeater = regexp.MustCompile(`(?i)^[^;]*\bHEATER\s*=\s*"?(extruder(\d*)|heater_bed|\w*chamber\w*)\b`)
var hostTarget = regexp.MustCompile(`(?i)^[^;]*\bTARGET\s*=\s*"?(\d+(?:\.\d+)?)`)

// setHeater is a host's word that sets a heater; without a target it switches it off.
func (s *scanner) setHeater(rest string) {
	of := hostHeater.FindStringSubmatch(rest[:min(len(rest), 200)])
	if of == nil {
		return
	}
	to := []byte("S0")
	if m := hostTarget.FindStringSubmatch(rest[:min(len(rest), 200)]); m != nil {
		to = []byte("S" + m[1])
	}
	if strings.EqualFold(of[1], "heater_bed") {
		s.p.Bed = s.hotter(s.p.Bed, to)
		s.setTo(&s.setBed, to)
		return
	}
	if strings.Contains(strings.ToLower(of[1]), "chamber") {
		s.p.Chamber = s.hotter(s.p.Chamber, to)
		s.setTo(&s.setChamber, to)
		return
	}
	tool, _ := strconv.Atoi(of[2]) // none is the first
	if tool < mostTools {
		s.heat[tool] = s.hotter(s.heat[tool], to)
		s.setTo(&s.setTool[tool], to)
	}
}

// callsScript is how the words begin that run a script of the machine's own, by its name.
const callsScript = "M98 "

// script is the name of the script that M98 runs: P"0:/sys/start.g"; empty where it names none.
func script(rest []byte) string {
	at := bytes.IndexAny(rest, "Pp")
	if at < 0 {
		return ""
	}
	name := bytes.TrimLeft(rest[at+1:], " \t")
	if quoted, ok := bytes.CutPrefix(name, []byte{'"'}); ok {
		if name, _, ok = bytes.Cut(quoted, []byte{'"'}); !ok {
			return ""
		}
	} else if end := bytes.IndexAny(name, " \t;"); end >= 0 {
		name = name[:end]
	}
	return settings.ScriptName(strings.ToValidUTF8(string(name[max(len(name)-50, 0):]), "?"))
}

// mostEnds is how many of the words are kept that may end a print: after them the file goes on, or ends.
const mostEnds = 8

// mayEnd notes a word that may end the print.
func (s *scanner) mayEnd(word string) {
	if len(word) > 60 {
		word = strings.ToValidUTF8(word[:60], "?")
	}
	s.ends = lastEnds(append(s.ends, Use{Word: word, Line: s.lines, Count: 1}))
}

func lastEnds(list []Use) []Use {
	if len(list) > mostEnds {
		return append(list[:0], list[len(list)-mostEnds:]...)
	}
	return list
}
