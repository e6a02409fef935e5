package printfile

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/quantity"
	"wardifex/internal/core/settings"
)

// Level is how much a finding weighs.
type Level string

// Levels, the lightest first.
const (
	Note Level = "note"       // worth knowing
	Mend Level = "repair"     // the file prints after a change that is safe to make
	Look Level = "look first" // it depends on what is not known of the machine
	Stop Level = "does not print here"
)

var levels = []Level{Note, Mend, Look, Stop}

// Answer is whether a file prints on a machine.
type Answer string

// Answers, the best first.
const (
	Prints      Answer = "prints here"
	AfterRepair Answer = "prints here after a repair"
	LookFirst   Answer = "look first"
	DoesNot     Answer = "does not print here"
)

// Answers lists them, the best first.
func Answers() []Answer { return []Answer{Prints, AfterRepair, LookFirst, DoesNot} }

// Rank is the place of an answer among them: of two, the lower is the better.
func (a Answer) Rank() int { return slices.Index(Answers(), a) }

// FileFinding is something about a file on a machine.
type FileFinding struct {
	Key    string      `json:"key" doc:"What was found, for programs: it stays when the words change"`
	Level  Level       `json:"level" enum:"note,repair,look first,does not print here"`
	Says   string      `json:"says"`
	Line   int64       `json:"line,omitempty" doc:"Of the file, from 1; 0 where it is about none"`
	Hazard string      `json:"hazard,omitempty"`
	Repair *FileRepair `json:"repair,omitempty"`
}

// FileRepair is the smallest change of a file that removes a finding: a text that is put in.
type FileRepair struct {
	At      int64  `json:"at" doc:"Before which byte of the unpacked file"`
	Insert  string `json:"insert"`
	Line    int64  `json:"line" doc:"From 1"`
	Was     string `json:"was" doc:"The line; empty where a new one is put in"`
	Becomes string `json:"becomes"`
}

// FileVerdict is what a file is worth on one machine.
type FileVerdict struct {
	Answer   Answer        `json:"answer" enum:"prints here,prints here after a repair,look first,does not print here"`
	Findings []FileFinding `json:"findings" doc:"The weightiest first"`
}

// Machine is one that a file is judged against.
type Machine struct {
	Facts   machine.Snapshot
	Records []calibration.Record
	Words   *settings.Words
	// Macros are those of its host configuration; nil where none is on record.
	Macros *settings.Macros
}

// Judge judges a file against a machine. What follows from which of its words is common practice.
func Judge(p *Profile, m Machine) FileVerdict {
	j := judge{p: p, m: m, family: m.family()}
	j.whole()
	j.volume()
	j.temperatures()
	j.start()
	j.words()
	j.overrides()
	j.levelled()
	j.nozzles()
	j.labels()
	j.left()
	for i := range j.out {
		if f := &j.out[i]; f.Level == Mend && f.Repair == nil {
			f.Level = Stop
			f.Says += ": slice it again"
		}
	}
	slices.SortStableFunc(j.out, func(a, b FileFinding) int {
		return slices.Index(levels, b.Level) - slices.Index(levels,
			a.Level)
	})
	v := FileVerdict{Answer: Prints, Findings: j.out}
	if v.Findings == nil {
		v.Findings = []FileFinding{}
	}
	if len(j.out) > 0 {
		v.Answer = map[Level]Answer{Note: Prints, Mend: AfterRepair, Look: LookFirst, Stop: DoesNot}[j.out[0].Level]
	}
	return v
}

type judge struct {
	p      *Profile
	m      Machine
	family string
	out    []FileFinding
}

func (m Machine) family() string {
	if f := m.Facts.Of(m.Facts.First(parts.Firmware), parts.FirmwareFamily); f != nil && f.Known() {
		return f.Value.Text
	}
	return ""
}

func (j *judge) say(key string, level Level, line int64, format string, a ...any) *FileFinding {
	j.out = append(j.out, FileFinding{Key: key, Level: level, Says: fmt.Sprintf(format, a...), Line: line})
	return &j.out[len(j.out)-1]
}

// whole is what is wrong with the file on any machine.
func (j *judge) whole() {
	for _, f := range j.p.Faults {
		level := Look
		if f.Line == j.p.Lines && j.p.Extruded == 0 {
			level = Stop
		}
		j.say("unreadable", level, f.Line, "%s", f.Says)
	}
}

// liner is the temperature that a PTFE liner bears, °C. Source: common practice.
const liner = 240

// headOf is the head that a tool of a file is.
func (j *judge) headOf(tool int) int {
	s := j.m.Facts
	list := s.First(parts.Structure)
	if n, ok := s.Number(list, machine.HeadMounted); ok && tool == 0 && s.Says(list, machine.HeadsMode,
		machine.HeadsByHand) {
		return int(n)
	}
	return tool + 1
}

func (j *judge) temperatures() {
	s := j.m.Facts
	heads := s.Structure().Heads()
	for _, t := range j.p.Tools {
		n := j.headOf(t.Tool)
		if len(heads) > 0 && !slices.Contains(heads, n) {
			if t.Filament > 0 || len(t.Heat) > 0 {
				j.say("no-head", Stop, lineOf(t.Heat), "it prints with tool T%d, and the machine has no head %d", t.Tool, n)
			}
			continue
		}
		if len(t.Heat) == 0 {
			continue
		}
		hottest := t.Heat[len(t.Heat)-1]
		for _, hotend := range s.Structure().At(parts.Hotend, machine.Head(n)) {
			rating, known := s.Number(hotend, parts.HotendRating)
			switch at := first(t.Heat, rating, true); {
			case !known:
				j.say("hotend-rating-unknown", Look, hottest.Line,
					"it heats the nozzle to %g °C, and what the hotend bears is not on record", hottest.Value)
			case at != nil:
				j.say("hotend-rating", Stop, at.Line,
					"it heats the nozzle to %g °C, and the hotend bears %g °C", hottest.Value, rating).Hazard =
					"A hotend above its rating can burn, leak and give off fumes."
			}
			if at := first(t.Heat, liner, true); at != nil && !s.Says(hotend, parts.HotendLiner, "no") {
				if s.Says(hotend, parts.HotendLiner, "yes") {
					j.say("liner", Stop, at.Line,
						"it heats the nozzle to %g °C, and the hotend has a PTFE liner down to the melt zone, which "+
							"bears %d °C", hottest.Value, liner).Hazard = fumes
				} else {
					j.say("liner-unknown", Look, at.Line,
						"it heats the nozzle to %g °C, and whether a PTFE liner reaches the melt zone is not on "+
							"record: one bears %d °C", hottest.Value, liner).Hazard = fumes
				}
			}
		}
		j.sensor(machine.Head(n), t.Heat, "the nozzle")
	}
	j.bed()
	j.chamber()
}

// heats reports whether a place may have a heater: one is listed there, and not known to be none.
func (j *judge) heats(at machine.Place) bool {
	s := j.m.Facts
	return slices.ContainsFunc(s.Structure().At(parts.Heater, at), func(p *machine.Position) bool {
		return s.ModelAt(p) != machine.None
	})
}

// bearsAny is the temperature, °C, that every plate with its surface bears, magnets and adhesive among
// them; above it the rating is asked for. Source: common practice.
const bearsAny = 80

// bed holds the temperature of the bed against what is heated.
func (j *judge) bed() {
	s := j.m.Facts
	if len(j.p.Bed) == 0 {
		return
	}
	hottest := j.p.Bed[len(j.p.Bed)-1]
	if !j.heats(machine.Bed) {
		j.say("no-bed-heater", Stop, hottest.Line,
			"it heats the bed to %g °C, and the machine has no bed heater on record", hottest.Value)
		return
	}
	for _, plate := range s.Structure().At(parts.Plate, machine.Bed) {
		rating, known := s.Number(plate, parts.PlateRating)
		switch at := first(j.p.Bed, rating, true); {
		case known && at != nil:
			j.say("plate-rating", Stop, at.Line, "it heats the bed to %g °C, and the plate bears %g °C", hottest.Value, rating)
		case !known && hottest.Value > bearsAny:
			j.say("plate-rating-unknown", Note, hottest.Line,
				"not judged: it heats the bed to %g °C, and what the plate bears is not on record",
				hottest.Value)
		}
	}
	j.sensor(machine.Bed, j.p.Bed, "the bed")
}

// chamber is whether there is a chamber to heat.
func (j *judge) chamber() {
	if len(j.p.Chamber) == 0 {
		return
	}
	hottest := j.p.Chamber[len(j.p.Chamber)-1]
	if j.heats(machine.Enclosure) {
		j.sensor(machine.Enclosure, j.p.Chamber, "the chamber")
		return
	}
	if at := j.p.ChamberWaits; at > 0 {
		j.say("waits-for-no-chamber-heater", Stop, at,
			"it waits until the chamber has %g °C, and the machine has no chamber heater on record: it never "+
				"begins", hottest.Value)
		return
	}
	j.say("no-chamber-heater", Look, hottest.Line,
		"it wants a chamber of %g °C, and the machine has no chamber heater on record: what it "+
			"prints may warp", hottest.Value)
}

const fumes = "PTFE above its rating gives off toxic fumes."

func lineOf(list []Extreme) int64 {
	if len(list) == 0 {
		return 0
	}
	return list[0].Line
}

// sensesAny is the temperature, °C, that every sensor of a nozzle measures; above it the rating is asked
// for. Source: from memory.
const sensesAny = 260

// sensor holds temperatures against what the sensor can measure.
func (j *judge) sensor(at machine.Place, heat []Extreme, what string) {
	s := j.m.Facts
	for _, sensor := range s.Structure().At(parts.Sensor, at) {
		most, known := s.Number(sensor, parts.SensorRating)
		if hottest := heat[len(heat)-1]; !known && hottest.Value > sensesAny {
			j.say("sensor-range-unknown", Note, hottest.Line,
				"not judged: it heats %s to %g °C, and up to which temperature the sensor there measures "+
					"is not on record", what, hottest.Value)
		}
		if !known {
			continue
		}
		if over := first(heat, most, true); over != nil {
			j.say("sensor-range", Stop, over.Line, "it heats %s to %g °C, and the sensor there measures up to %g °C", what,
				heat[len(heat)-1].Value, most).Hazard = "Above its range a sensor shows too little, and the heater goes on."
		}
	}
}

// comment is the repair that turns a line into a comment.
func comment(u Use) *FileRepair {
	if u.From < 0 || u.Count != 1 {
		return nil
	}
	return &FileRepair{At: u.From, Insert: "; ", Line: u.Line, Was: u.Text, Becomes: "; " + u.Text}
}

// rejected are the words of the other families that are errors in the hosted one.
var rejected = []string{"M92", "M301", "M304", "M851", "M906", "M500", "M502", "M569", "M302", "M206", "M290"}

// words is whether the file was sliced for another family of firmware.
func (j *judge) words() {
	if j.family == "" {
		return
	}
	for _, u := range j.p.Words {
		if j.family != parts.Hosted && u.isNamed() && !strings.HasPrefix(u.Word, "_") {
			j.say("another-family", Stop, u.Line,
				"%s is a command of the hosted family, and this machine's firmware is %s: it was sliced for "+
					"another machine", u.Word, j.family)
			return
		}
	}
}

// overrides holds what the file sets against what the machine keeps.
func (j *judge) overrides() {
	for _, u := range j.p.Overrides {
		key, level, says := j.override(u)
		if says == "" {
			continue
		}
		f := j.say(key, level, u.Line, "%s: %s", u.Text, says)
		if level == Mend {
			f.Repair = comment(u)
		}
		if u.Word == "M302" && level == Mend {
			f.Hazard = "A cold extruder grinds the filament, and what is hot before it is not known."
		}
	}
}

// override says what one word that sets something does on the machine.
func (j *judge) override(u Use) (key string, level Level, says string) {
	switch {
	case j.family == parts.Hosted && slices.Contains(rejected, u.Word):
		return "unknown-word", Mend, "the hosted family does not know this word: it is an error there, and sets nothing"
	case u.Word == "G92", u.Word == "G10":
		return "renames-place", Note,
			"it gives the place where the head is another name: what follows is judged where the machine is then"
	case u.Word == "M206", u.Word == "SET_GCODE_OFFSET", u.Word == "M290":
		return "shifts", Note, "it shifts what is printed, on every print: what follows is judged where the machine is then"
	case u.Word == "M302":
		return j.coldExtrusion(u)
	case u.Word == "M502":
		return "defaults", Mend, "it puts the defaults of the build in force, and this machine's own values out of it"
	case u.Word == "M500":
		return "stores", Mend, "it stores what is in force over this machine's own values"
	}
	stated, err := j.m.Words.Read(j.family, u.Text)
	if err != nil || len(stated.Calibrations) == 0 {
		if u.Word == "M92" || u.Word == "M569" || u.Word == "M350" {
			return "overrides", Look, "it overrides what the machine keeps, on every print: is it still right?"
		}
		return "overrides", Note, "it overrides what the machine keeps, for this print"
	}
	level = Note
	for _, st := range settings.Compare(j.m.Facts, j.m.Records, stated) {
		switch st.Is {
		case settings.AsOnRecord:
			if says == "" {
				key = "as-on-record"
				says = fmt.Sprintf("it sets %s to what is on record; it would go on doing so after a change", st.Title)
			}
		case settings.Differs:
			level, says = Mend, fmt.Sprintf("it sets %s to %s, and %s is valid for this machine", st.Title, st.Value,
				st.OnRecord)
			c, _ := calibration.Of(st.Kind)
			a, b := c.Numbers(st.Subject, st.Value), c.Numbers(st.Subject, st.OnRecord)
			if len(a) == 1 && len(b) == 1 {
				if why := calibration.Factor(a[0], b[0]); why != "" {
					says += ". " + why
				}
			}
			return "differs", level, says
		case settings.NotOnIt:
			key, level, says = "nothing-on-record", Look, fmt.Sprintf(
				"it sets %s to %s, and no valid value is on record to hold it against", st.Title,
				st.Value)
		}
	}
	return key, level, says
}

// coldest is the temperature, °C, below which no filament is soft. Source: common practice.
const coldest = 150

// coldExtrusion is whether M302 allows the extruder to move while the nozzle is cold.
func (j *judge) coldExtrusion(u Use) (key string, level Level, says string) {
	rest := []byte(strings.TrimPrefix(strings.ToUpper(u.Text), u.Word))
	allows, said := param(rest, 'P')
	least, sets := param(rest, 'S')
	switch {
	case said && allows > 0, sets && least < coldest:
		return "cold-extrusion", Mend, "it allows extrusion with a cold nozzle"
	case !said && !sets && j.family != parts.Scripted:
		return "cold-extrusion-perhaps", Look,
			"builds of years ago allow extrusion with a cold nozzle by it; newer ones answer what is allowed"
	}
	return "", Note, ""
}

// abrasive are words in the name of a filament that wears a brass nozzle. Source: common practice.
var abrasive = []string{"CF", "GF", "CARBON", "GLASS", "GLOW", "METAL", "STEEL", "WOOD"}

// nozzles holds what the file was sliced for against what is fitted.
func (j *judge) nozzles() {
	s := j.m.Facts
	for _, t := range j.p.Tools {
		if t.Filament <= 0 {
			continue
		}
		for _, nozzle := range s.Structure().At(parts.Nozzle, machine.Head(j.headOf(t.Tool))) {
			bore, known := s.Number(nozzle, parts.NozzleBore)
			switch want := j.p.Hints.nozzleOf(t.Tool); {
			case want == 0:
			case !known:
				j.say("bore-unknown", Look, 0,
					"it was sliced for a nozzle of %s, and the bore that is fitted is not on record", mm(want))
			case math.Abs(bore-want) > 0.01:
				j.say("bore", Stop, 0,
					"it was sliced for a nozzle of %s, and one of %s is fitted: slice it again", mm(want), mm(bore))
			}
			filament := j.p.Hints.filamentOf(t.Tool)
			name := strings.ToUpper(filament)
			wears := slices.ContainsFunc(abrasive, func(word string) bool {
				return slices.Contains(strings.FieldsFunc(name, func(r rune) bool { return r < 'A' || r > 'Z' }), word)
			})
			if wears && !s.Says(nozzle, parts.NozzleMaterial, hardened) {
				j.say("soft-nozzle", Look, 0,
					"its filament is %s, which wears a nozzle that is not hardened: ask before printing", filament)
			}
		}
	}
}

const hardened = "hardened"

// labels is whether a machine that meshes the print's area alone knows where the objects are.
func (j *judge) labels() {
	s := j.m.Facts
	if j.p.Labels == 0 && s.Says(s.First(parts.Firmware), parts.FirmwareObjects, "yes") {
		j.say("not-labelled", Note, 0,
			"its objects are not labelled: the mesh covers the whole bed, and no object can be left out while it "+
				"prints. Switch labels on in the slicer")
	}
}

// Patch writes the repairs of a verdict in the unified form, for a file of a name.
func Patch(name string, v FileVerdict) string {
	var b strings.Builder
	added := int64(0)
	list := v.Repairs()
	for _, r := range list {
		if b.Len() == 0 {
			fmt.Fprintf(&b, "--- a/%s\n+++ b/%s\n", name, name)
		}
		if r.Was == "" {
			fmt.Fprintf(&b, "@@ -%d,0 +%d @@\n+%s\n", r.Line-1, r.Line+added, r.Becomes)
			added++
			continue
		}
		fmt.Fprintf(&b, "@@ -%d +%d @@\n-%s\n+%s\n", r.Line, r.Line+added, r.Was, r.Becomes)
	}
	return b.String()
}

// Repairs are those of a verdict in the order of the file.
func (v FileVerdict) Repairs() []FileRepair {
	var out []FileRepair
	for _, f := range v.Findings {
		if f.Repair != nil {
			out = append(out, *f.Repair)
		}
	}
	slices.SortFunc(out, func(a, b FileRepair) int { return int(a.At - b.At) })
	return out
}

// Hours is how long a file takes: as its slicer estimates it, else as its moves do.
func (p *Profile) Hours() string {
	seconds := p.Hints.Seconds
	if seconds == 0 {
		seconds = p.Seconds
	}
	if seconds < 3600 {
		return fmt.Sprintf("%d min", (seconds+59)/60)
	}
	return quantity.Format(roundTo(float64(seconds)/3600, 10)) + " h"
}
