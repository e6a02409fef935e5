// Package dialect reads the open forms in which firmware families keep settings: C headers,
// sections of keys, and G-code. A document keeps its text as it came, and says where in it each
// value stands, so that what is not changed stays byte for byte, and a change touches the bytes
// of its value alone. Nothing is run, only read. Source of the forms: from memory.
package dialect

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"unicode/utf8"
)

// Form is how a document is written.
type Form string

const (
	Header   Form = "C header"
	Sections Form = "sections of keys"
	GCode    Form = "G-code"
)

// Bounds of what is read. Source: from memory; the largest configuration headers have some ten
// thousand lines.
const (
	// MostBytes is the size of one document.
	MostBytes = 8 << 20
	// MostLine is the length of one line, in bytes.
	MostLine = 64 << 10
	// leastEntry is about how many bytes an entry takes at least; room for more is made when they are there.
	leastEntry = 16
	// mostFaults is how many faults of a document are told.
	mostFaults = 50
	// mostDepth is how deep conditionals, brackets and inclusions may be nested.
	mostDepth = 64
)

// Force tells whether an entry is in force.
type Force uint8

const (
	InForce      Force = iota
	CommentedOut       // an option that is written as a comment
	Excluded           // a condition around it is false
	Undecided          // a condition around it depends on what is not known here
)

func (f Force) String() string {
	return [...]string{"in force", "commented out", "excluded", "undecided"}[f]
}

// Entry is one value in a document.
type Entry struct {
	Line  int // from 1
	Force Force
	// Saved says that it stands in the block that the machine writes at the end of a file.
	Saved bool
	// Letter is the parameter of a G-code word; 0 of a word without any, and elsewhere.
	Letter byte

	section       int32
	name, nameEnd int32
	value, end    int32
	condition     int32 // of the document's conditions, from 1; 0 where there is none
}

// LineFault is something of a document that cannot be read, or not be decided.
type LineFault struct {
	File string `json:"file,omitempty" doc:"Of a configuration of several files"`
	Line int    `json:"line"           doc:"From 1"`
	Says string `json:"says"`
}

// Document is a text that was read.
type Document struct {
	Form    Form
	Text    string
	Entries []Entry
	Faults  []LineFault

	sections   []string
	spelled    []string // sections as they are written first
	conditions []string

	names *headerReader // made when the first sum asks for a name

	// Of a document of several files.
	files  []File
	pieces []piece
	taken  map[int]bool // bytes at which lines begin whose files are read here
	begins map[int]bool // bytes at which the lines of another file begin
}

// Read reads a text of a form; the error is of a text that is no such document at all. What
// cannot be read in it is among its faults.
func Read(form Form, text string) (*Document, error) {
	if err := check(text); err != nil {
		return nil, err
	}
	return read(&Document{Form: form, Text: text})
}

// read reads the text of a document.
func read(d *Document) (*Document, error) {
	d.sections, d.spelled = []string{""}, []string{""}
	form := d.Form
	switch form {
	case Header:
		readHeader(d)
	case Sections:
		readSections(d)
	case GCode:
		readGCode(d)
	default:
		return nil, fmt.Errorf("%q is no form of settings: %s, %s and %s are", form, Header, Sections, GCode)
	}
	return d, nil
}

// check refuses what is no text that a person could have written.
func check(text string) error {
	if len(text) > MostBytes {
		return fmt.Errorf("it is larger than %d MiB: settings are text of a few hundred KiB at most", MostBytes>>20)
	}
	for at := 0; len(text)-at > MostLine; {
		n := strings.LastIndexByte(text[at:at+MostLine], '\n') + 1
		if n == 0 {
			return fmt.Errorf("line %d is longer than %d KiB: this is no file of settings", 1+strings.Count(text[:at], "\n"),
				MostLine>>10)
		}
		at += n
	}
	if at := strings.IndexByte(text, 0); at >= 0 {
		return fmt.Errorf("line %d holds bytes that are no text: choose the file of settings, not the built firmware",
			1+strings.Count(text[:at], "\n"))
	}
	if !utf8.ValidString(text) {
		return fmt.Errorf("line %d is not UTF-8 text: save the file as UTF-8 and choose it again", firstInvalid(text))
	}
	return nil
}

func firstInvalid(text string) int {
	line := 1
	for i, r := range text {
		if r == '\n' {
			line++
		}
		if r == utf8.RuneError && !strings.HasPrefix(text[i:], "\uFFFD") {
			break
		}
	}
	return line
}

// enough is how many telling lines decide how a text is written.
const enough = 100

// FormOf tells how a text is written, by which of the three it has most lines of among the first;
// empty where it has none of any.
func FormOf(text string) Form {
	header, sections, codes := 0, 0, 0
	text = strings.TrimPrefix(text, byteOrder)
	inSection := false
	for text != "" && header+sections+codes < enough {
		line := text
		if n := strings.IndexByte(text, '\n'); n >= 0 {
			line, text = text[:n], text[n+1:]
		} else {
			text = ""
		}
		line = strings.TrimPrefix(line, "#*#")
		indented := line != "" && (line[0] == ' ' || line[0] == '\t')
		line = strings.TrimLeft(line, " \t/")
		switch {
		case line == "", inSection && indented: // what a macro does is the value of a key
		case line[0] == '#':
			if _, is := after(line, 1, len(line), "define"); is {
				header++
			}
		case line[0] == '[':
			switch end := strings.IndexByte(line, ']'); {
			case end > 1 && commentAt(line, end+1, len(line)) == end+1:
				sections += 3 // keys follow, which tell nothing by themselves
				inSection = true
			case isCode(line):
				codes++
			}
		case isCode(line):
			codes++
		}
	}
	switch most := max(header, sections, codes); {
	case most == 0:
		return ""
	case most == header:
		return Header
	case most == sections:
		return Sections
	}
	return GCode
}

// isCode reports whether a line begins with a word of G-code, as in a script or a report.
func isCode(line string) bool {
	line = line[terminalPrefix(line):]
	if line != "" && line[0] == 'N' {
		line = strings.TrimLeft(line[1:], "0123456789 \t")
	}
	if len(line) < 2 || line[0] != 'G' && line[0] != 'M' || !digit(line[1]) {
		return false
	}
	rest := strings.TrimLeft(line[1:], "0123456789")
	return rest == "" || !isName(rest[0]) || rest[0] >= 'A' && rest[0] <= 'Z'
}

// Word is the name of an entry: of a define, of a key, or of a G-code word.
func (d *Document) Word(e *Entry) string { return d.Text[e.name:e.nameEnd] }

// Section is the section of an entry, in small letters with one space between words.
func (d *Document) Section(e *Entry) string { return d.sections[e.section] }

// Spelled is the section of an entry as it is written where it appears first.
func (d *Document) Spelled(e *Entry) string { return d.spelled[e.section] }

// Value is the value of an entry as it is written.
func (d *Document) Value(e *Entry) string { return d.Text[e.value:e.end] }

// Condition is the condition on which an excluded or undecided entry depends.
func (d *Document) Condition(e *Entry) string {
	if e.condition == 0 {
		return ""
	}
	return d.conditions[e.condition-1]
}

// Says is an entry as a person would write it: "M92 E415", "[probe] z_offset: 1.85".
func (d *Document) Says(e *Entry) string {
	switch {
	case d.Form == GCode && e.Letter == 0:
		return d.Word(e)
	case d.Form == GCode:
		return d.Word(e) + " " + string(e.Letter) + d.Value(e)
	case d.Form == Sections:
		value, _, _ := strings.Cut(d.Value(e), "\n")
		return "[" + d.Section(e) + "] " + d.Word(e) + ": " + strings.TrimSpace(value)
	}
	return strings.TrimSpace(d.Word(e) + " " + d.Value(e))
}

// Span is a piece of a document's text.
type Span struct{ From, To int }

// ValueAt is where the value of an entry stands.
func (d *Document) ValueAt(e *Entry) Span { return Span{int(e.value), int(e.end)} }

// Items are where the values of a list stand: of { 80, 80, 400 } in a header, of 1000:1000 in
// G-code. A single value is a list of one.
func (d *Document) Items(e *Entry) []Span {
	from, to := int(e.value), int(e.end)
	by := byte(':')
	if d.Form != GCode {
		by = ','
		if d.Form == Header {
			text := d.Text[from:to]
			if open := strings.IndexByte(text, '{'); open >= 0 {
				from += open + 1
				if end := strings.IndexByte(d.Text[from:to], '}'); end >= 0 {
					to = from + end
				}
			}
		}
	}
	var out []Span
	for at := from; at <= to; {
		n := strings.IndexByte(d.Text[at:to], by)
		if n < 0 {
			n = to - at
		}
		item := d.Text[at : at+n]
		left := len(item) - len(strings.TrimLeft(item, " \t\r\n\\"))
		right := len(strings.TrimRight(item, " \t\r\n\\"))
		out = append(out, Span{at + min(left, right), at + max(left, right)})
		at += n + 1
	}
	return out
}

// byteOrder is what some editors put before a text of UTF-8.
const byteOrder = "\ufeff"

// pastMark is where a line begins that may begin a file.
func (d *Document) pastMark(at int) int {
	if (at == 0 || d.begins[at]) && strings.HasPrefix(d.Text[at:], byteOrder) {
		return at + len(byteOrder)
	}
	return at
}

// Number is the number that stands at a place; in a header, that of a sum, with names as they are defined in it.
func (d *Document) Number(at Span) (float64, bool) {
	text := d.Text[at.From:at.To]
	n, err := strconv.ParseFloat(text, 64)
	if err != nil && d.Form == Header && text != "" {
		if d.names == nil {
			d.names = &headerReader{Document: d}
			d.names.index()
		}
		return d.names.number(text)
	}
	return n, err == nil && !math.IsInf(n, 0) && !math.IsNaN(n)
}

// tellsNoMore says that so many faults are told that a further one is not.
func (d *Document) tellsNoMore() bool { return len(d.Faults) > mostFaults }

func (d *Document) fault(line int, format string, a ...any) {
	switch {
	case len(d.Faults) < mostFaults:
		d.Faults = append(d.Faults, LineFault{Line: line, Says: fmt.Sprintf(format, a...)})
	case len(d.Faults) == mostFaults:
		d.Faults = append(d.Faults, LineFault{Line: line, Says: "and more: only the first are listed"})
	}
}

// Twice are entries in force that set one value more than once, in a header: by their places in
// Entries. Which of them counts depends on the compiler's mood and on what includes what, so both
// are told. In sections and G-code the last one counts.
func (d *Document) Twice() [][]int {
	if d.Form != Header {
		return nil
	}
	at := make(map[string]int, len(d.Entries))
	var out [][]int
	group := map[string]int{}
	for i := range d.Entries {
		e := &d.Entries[i]
		if e.Force != InForce && e.Force != Undecided {
			continue
		}
		word := d.Word(e)
		first, before := at[word]
		switch g, listed := group[word]; {
		case listed:
			out[g] = append(out[g], i)
		case before && d.Value(&d.Entries[first]) != d.Value(e):
			group[word] = len(out)
			out = append(out, []int{first, i})
		case !before:
			at[word] = i
		}
	}
	return out
}
