package settings

import (
	"strings"

	"wardifex/internal/core/dialect"
)

// Macros are the commands that a host configuration defines itself, by their names in capital letters.
type Macros struct {
	body map[string]string
}

// Bounds of following macros that call others. Source: from memory.
const (
	mostMacroLines = 5000
	mostMacroDepth = 24
)

// MacrosOf are the macros of a host configuration; nil of a document of another form.
func MacrosOf(d *dialect.Document) *Macros {
	if d.Form != dialect.Sections {
		return nil
	}
	m := &Macros{body: map[string]string{}}
	for i := range d.Entries {
		e := &d.Entries[i]
		name, is := strings.CutPrefix(d.Section(e), "gcode_macro ")
		if is && strings.EqualFold(d.Word(e), "gcode") {
			m.body[strings.ToUpper(name)] = d.Value(e)
		}
	}
	return m
}

// Often is how surely a macro does something.
type Often uint8

const (
	Never     Often = iota
	Sometimes       // on a condition
	Always
)

// MacroDoes is what a macro does of what a print needs before it begins.
type MacroDoes struct {
	Homes, Probes, Loads Often
}

// Does tells what a macro does, with all that it calls; known is false of one that the configuration
// does not define. Nothing is run: what stands under a condition is done sometimes, and what is put
// together while it runs is not seen. Of macros that call themselves, or too many others, what is left
// over is done sometimes.
func (m *Macros) Does(name string) (does MacroDoes, known bool) {
	if _, known = m.body[strings.ToUpper(name)]; !known {
		return does, false
	}
	f := following{macros: m, lines: mostMacroLines}
	f.follow(strings.ToUpper(name), Always, nil)
	return f.does, true
}

// following goes through macros.
type following struct {
	macros *Macros
	does   MacroDoes
	lines  int // that may still be read
}

func (f *following) follow(name string, often Often, within []string) {
	deep := 0 // conditions that are open
	for line := range strings.Lines(f.macros.body[name]) {
		if f.lines--; f.lines < 0 {
			f.does = MacroDoes{max(f.does.Homes, Sometimes), max(f.does.Probes, Sometimes), max(f.does.Loads, Sometimes)}
			return
		}
		line = strings.TrimSpace(line)
		opens, closes := tags(line, "if")+tags(line, "for"), tags(line, "endif")+tags(line, "endfor")
		deep = max(deep+opens, 0)
		now := often
		if deep > 0 {
			now = Sometimes
		}
		f.command(outsideTags(line), now, append(within[:len(within):len(within)], name))
		deep = max(deep-closes, 0)
	}
}

// command notes what one line does.
func (f *following) command(line string, often Often, within []string) {
	word, rest, _ := strings.Cut(strings.TrimSpace(line), " ")
	word = strings.ToUpper(word)
	if at := strings.IndexAny(word, ";#"); at >= 0 {
		word = word[:at]
	}
	note := func(to *Often) { *to = max(*to, often) }
	_, own := f.macros.body[word]
	again := false
	for _, w := range within {
		again = again || w == word // a macro that takes the place of a command calls what it was
	}
	switch {
	case word == "":
	case own && !again && len(within) < mostMacroDepth:
		f.follow(word, often, within)
	case (word == "G28" || strings.HasPrefix(word, "G28.")) &&
		!strings.ContainsAny(strings.ToUpper(uncommented(rest)), "XYZ"):
		note(&f.does.Homes)
	case word == "G29", strings.Contains(word, "MESH_CALIBRATE"):
		note(&f.does.Probes)
	case strings.Contains(word, "MESH_PROFILE") && strings.Contains(strings.ToUpper(rest), "LOAD"):
		note(&f.does.Loads)
	}
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
