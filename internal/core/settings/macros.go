package settings

import (
	"regexp"
	"strings"

	"wardifex/internal/core/dialect"
)

// Macros are the commands that the settings of a machine define themselves: those of a host configuration by
// their names in capital letters, and scripts of G-code by those of their files, as ScriptName has them.
type Macros struct {
	body map[string]macro
}

type macro struct {
	text   string
	script bool // of G-code alone, without a template
}

// ScriptName is the name of a script that a file calls by its path, in small letters: "0:/sys/Start.g" and
// "start.g" are one.
func ScriptName(path string) string {
	return strings.ToLower(path[strings.LastIndexAny(path, `/\:`)+1:])
}

// Bounds of following macros that call others. Source: from memory.
const (
	mostMacroLines = 5000
	mostMacroDepth = 24
)

// MacrosOf are the macros of host configurations, and the scripts beside settings of G-code; nil where the
// documents are of other forms.
func MacrosOf(documents ...*dialect.Document) *Macros {
	var m *Macros
	for _, d := range documents {
		if m == nil && (d.Form == dialect.Sections || d.Form == dialect.GCode && len(d.Files()) > 0) {
			m = &Macros{body: map[string]macro{}}
		}
		switch d.Form {
		case dialect.Sections:
			m.define(d)
		case dialect.GCode:
			for _, f := range d.Files() {
				m.body[ScriptName(f.Name)] = macro{strings.TrimPrefix(f.Text, "\ufeff"), true}
			}
		}
	}
	return m
}

// define adds the macros of a host configuration.
func (m *Macros) define(d *dialect.Document) {
	for i := range d.Entries {
		e := &d.Entries[i]
		name, is := strings.CutPrefix(d.Section(e), "gcode_macro ")
		if is && strings.EqualFold(d.Word(e), "gcode") {
			m.body[strings.ToUpper(name)] = macro{text: d.Value(e)}
		}
	}
}

// find is the name under which a macro or a script is kept.
func (m *Macros) find(name string) (key string, known bool) {
	for _, key := range []string{strings.ToUpper(name), ScriptName(name)} {
		if _, known := m.body[key]; known {
			return key, true
		}
	}
	return "", false
}

// Often is how surely a macro does something.
type Often uint8

const (
	Never     Often = iota
	Sometimes       // on a condition
	Always
)

// MacroDoes is what a macro does of what a print needs before it begins, and at its end.
type MacroDoes struct {
	Homes, Probes, Loads Often
	Cools                Cooling
}

// Cooling is which heaters are switched off.
type Cooling struct{ Nozzle, Bed, Chamber Often }

// Does tells what a macro does, with all that it calls; known is false of one that the configuration
// does not define. Nothing is run: what stands under a condition is done sometimes, and what is put
// together while it runs is not seen. Of macros that call themselves, or too many others, what is left
// over is done sometimes.
func (m *Macros) Does(name string) (does MacroDoes, known bool) {
	key, known := m.find(name)
	if !known {
		return does, false
	}
	f := following{macros: m, lines: mostMacroLines}
	f.follow(key, Always, nil)
	return f.does, true
}

// following goes through macros.
type following struct {
	macros *Macros
	does   MacroDoes
	homes  [3]Often // by axis
	lines  int      // that may still be read
}

func (f *following) follow(name string, often Often, within []string) {
	is := f.macros.body[name]
	deep := 0 // conditions that are open
	for line := range strings.Lines(is.text) {
		if f.lines--; f.lines < 0 {
			for _, what := range []*Often{&f.does.Homes, &f.does.Probes, &f.does.Loads, &f.does.Cools.Nozzle,
				&f.does.Cools.Bed, &f.does.Cools.Chamber} {
				*what = max(*what, Sometimes)
			}
			return
		}
		within := append(within[:len(within):len(within)], name)
		if is.script {
			now := often
			if line[0] == ' ' || line[0] == '\t' { // what is moved in stands under a condition
				now = Sometimes
			}
			f.command(strings.TrimSpace(line), now, within)
			continue
		}
		line = strings.TrimSpace(line)
		opens, closes := tags(line, "if")+tags(line, "for"), tags(line, "endif")+tags(line, "endfor")
		deep = max(deep+opens, 0)
		now := often
		if deep > 0 {
			now = Sometimes
		}
		f.command(outsideTags(line), now, within)
		deep = max(deep-closes, 0)
	}
}

// command notes what one line does. What the words do is from memory.
func (f *following) command(line string, often Often, within []string) {
	line = uncommented(line)
	word, rest, _ := strings.Cut(strings.TrimSpace(line), " ")
	word, rest = strings.ToUpper(word), strings.ToUpper(rest)
	name, script := word, f.macros.body[within[len(within)-1]].script
	if word == "M98" {
		name = ScriptName(strings.Trim(strings.TrimPrefix(strings.TrimSpace(rest), "P"), `" `))
	}
	note := func(to *Often) { *to = max(*to, often) }
	_, own := f.macros.body[name]
	again := false
	for _, w := range within {
		again = again || w == name // a macro that takes the place of a command calls what it was
	}
	switch {
	case word == "":
	case own && !again && len(within) < mostMacroDepth:
		f.follow(name, often, within)
	case word == "G28" || strings.HasPrefix(word, "G28."):
		for axis, letter := range "XYZ" {
			if strings.ContainsRune(rest, letter) || !strings.ContainsAny(rest, "XYZ") {
				note(&f.homes[axis])
			}
		}
		f.does.Homes = max(f.does.Homes, min(f.homes[0], f.homes[1], f.homes[2]))
	case script && (word == "M375" || word == "G29" && toOne.MatchString(rest)),
		strings.Contains(word, "MESH_PROFILE") && strings.Contains(rest, "LOAD"):
		note(&f.does.Loads)
	case word == "G29", strings.Contains(word, "MESH_CALIBRATE"):
		note(&f.does.Probes)
	case everything(word, script):
		for _, what := range []*Often{&f.does.Cools.Nozzle, &f.does.Cools.Bed, &f.does.Cools.Chamber} {
			note(what)
		}
	default:
		if what := f.does.Cools.by(word, rest); what != nil {
			note(what)
		}
	}
}

var (
	toOne     = regexp.MustCompile(`\bS1\b`)
	toNothing = regexp.MustCompile(`\bS0+(?:\.0*)?(?:\s|$)`)
	aTarget   = regexp.MustCompile(`\bTARGET\s*=\s*(\S*)`)
)

// everything reports whether a word switches every heater off.
func everything(word string, script bool) bool {
	switch word {
	case "TURN_OFF_HEATERS", "M81":
		return true
	case "M0", "M1", "M2":
		return script
	}
	return false
}

// by is the heater that a line switches off; nil where it does not.
func (c *Cooling) by(word, rest string) *Often {
	to := map[string]*Often{"M104": &c.Nozzle, "M109": &c.Nozzle, "G10": &c.Nozzle, "M568": &c.Nozzle, "M140": &c.Bed,
		"M190": &c.Bed, "M141": &c.Chamber, "M191": &c.Chamber}[word]
	switch {
	case to != nil && toNothing.MatchString(rest):
		return to
	case word != "SET_HEATER_TEMPERATURE":
		return nil
	}
	if target := aTarget.FindStringSubmatch(rest); target != nil && strings.Trim(target[1], "0.") != "" {
		return nil
	}
	switch {
	case strings.Contains(rest, "EXTRUDER"):
		return &c.Nozzle
	case strings.Contains(rest, "HEATER_BED"):
		return &c.Bed
	case strings.Contains(rest, "CHAMBER"):
		return &c.Chamber
	}
	return nil
}

func uncommented(text string) string {
	if at := strings.IndexAny(text, ";#"); at >= 0 {
		return text[:at]
	}
	return text
}

// tags counts the tags of a template on a line that begin with a word.
func tags(line, word string) int {
	n := 0
	for rest := line; ; n++ {
		at := strings.Index(rest, "{%")
		if at < 0 {
			return n
		}
		inner := strings.TrimLeft(rest[at+2:], "- \t")
		rest = rest[at+2:]
		if after, is := strings.CutPrefix(inner, word); !is || after != "" && isLetter(after[0]) {
			n--
		}
	}
}

func isLetter(c byte) bool { return c >= 'a' && c <= 'z' || c == '_' }

// outsideTags is a line without the tags of a template.
func outsideTags(line string) string {
	for {
		from := strings.Index(line, "{%")
		if from < 0 {
			return line
		}
		to := strings.Index(line[from:], "%}")
		if to < 0 {
			return line[:from]
		}
		line = line[:from] + line[from+to+2:]
	}
}
