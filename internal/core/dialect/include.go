package dialect

import (
	"fmt"
	"path"
	"slices"
	"sort"
	"strings"
)

// File is one file of a configuration.
type File struct{ Name, Text string }

// Roots are the files that no other takes in, by their numbers, in the order of their names; where
// files only take one another in, the first of them is one.
func Roots(form Form, files []File) []int {
	return newAssembly(form, files).roots()
}

// ReadFrom reads some of the files of a configuration, one after the other, with those that they take in.
func ReadFrom(form Form, files []File, roots ...int) (*Document, error) {
	return readFiles(form, files, roots)
}

// ReadAll reads files of one configuration as one document: where a file takes in another that is
// among them, that one is read in its place. Those that none takes in are read in the order of their
// names. A file that is not among them, and one that takes itself in, is told as a fault of the line
// that asks for it. The error names the file that is no such document.
func ReadAll(form Form, files []File) (*Document, error) {
	return readFiles(form, files, Roots(form, files))
}

func readFiles(form Form, files []File, roots []int) (*Document, error) {
	for _, f := range files {
		if err := check(f.Text); err != nil {
			return nil, fmt.Errorf("%s: %w", f.Name, err)
		}
	}
	a := newAssembly(form, files)
	for _, i := range roots {
		if err := a.put(i, nil); err != nil {
			return nil, err
		}
	}
	if a.text.Len() > MostBytes {
		return nil, fmt.Errorf("together its files are larger than %d MiB: settings are text of a few hundred KiB at most",
			MostBytes>>20)
	}
	begins := map[int]bool{}
	for _, p := range a.pieces {
		begins[p.from] = p.file >= 0
	}
	d, err := read(&Document{Form: form, Text: a.text.String(), files: files, pieces: a.pieces, taken: a.taken,
		begins: begins})
	if err != nil {
		return nil, err
	}
	for i := range d.Faults {
		f := &d.Faults[i]
		file, line := d.PlaceOf(f.Line)
		f.File, f.Line = files[file].Name, line
	}
	d.Faults = append(a.faults, d.Faults...)
	if len(files) == 1 {
		for i := range d.Faults {
			d.Faults[i].File = ""
		}
	}
	return d, nil
}

// piece is a run of whole lines of a file, as it stands in a document of several files.
type piece struct {
	file int // -1 of a line end that was put in
	from int // byte of the document
	line int // of the document, from 0
	at   int // byte of the file
	own  int // line of the file, from 0
}

// PlaceOf is the file that a line of the document is of, by its number among the files read, and
// which of that file's lines it is, from 1.
func (d *Document) PlaceOf(line int) (file, own int) {
	if len(d.pieces) == 0 {
		return 0, line
	}
	i := sort.Search(len(d.pieces), func(i int) bool { return d.pieces[i].line >= line }) - 1
	for i > 0 && d.pieces[i].file < 0 {
		i--
	}
	p := d.pieces[max(i, 0)]
	return max(p.file, 0), p.own + line - p.line
}

// FileName is the name of a file of the document; empty where it is the only one.
func (d *Document) FileName(file int) string {
	if len(d.files) < 2 {
		return ""
	}
	return d.files[file].Name
}

// Files are the files of the document, those that its text does not take in among them; none of one that was
// read by itself.
func (d *Document) Files() []File { return d.files }

// TextOf is the text of a file of the document.
func (d *Document) TextOf(file int) string {
	if file >= len(d.files) {
		return d.Text
	}
	return d.files[file].Text
}

// Split are edits of the document by the file that each touches, in places of that file. A file that
// is taken in twice is edited once. The error is of an edit that spans two files.
func (d *Document) Split(edits []Edit) (map[int][]Edit, error) {
	out := map[int][]Edit{}
	for _, e := range edits {
		file := 0
		if len(d.pieces) > 0 {
			i := sort.Search(len(d.pieces), func(i int) bool { return d.pieces[i].from > e.From }) - 1
			if i > 0 && d.pieces[i].file < 0 { // at the end of a file that ends without a line end
				i--
			}
			p := d.pieces[max(i, 0)]
			if p.file < 0 || i+1 < len(d.pieces) && e.To > d.pieces[i+1].from {
				return nil, fmt.Errorf("the change at %q would touch two files", short(e.New))
			}
			file = p.file
			e.From, e.To = e.From-p.from+p.at, e.To-p.from+p.at
		}
		if !slices.Contains(out[file], e) {
			out[file] = append(out[file], e)
		}
	}
	return out, nil
}

// assembly puts files together to one text.
type assembly struct {
	form   Form
	files  []File
	text   strings.Builder
	pieces []piece
	lines  int
	faults []LineFault
	taken  map[int]bool // bytes of the document at which lines begin whose files were taken in
	takes  [][]include  // by file
}

func newAssembly(form Form, files []File) *assembly {
	a := &assembly{form: form, files: files, taken: map[int]bool{}, takes: make([][]include, len(files))}
	for i, f := range files {
		a.takes[i] = includesOf(form, f.Text)
		for j := range a.takes[i] {
			a.takes[i][j].files = a.named(a.takes[i][j].name)
		}
	}
	return a
}

func (a *assembly) roots() []int {
	takes := make([][]int, len(a.files))
	inner := make([]bool, len(a.files))
	var order []int
	for i := range a.files {
		order = append(order, i)
		for _, in := range a.takes[i] {
			takes[i] = append(takes[i], in.files...)
		}
		for _, of := range takes[i] {
			inner[of] = inner[of] || of != i
		}
	}
	slices.SortStableFunc(order, func(i, j int) int { return strings.Compare(a.files[i].Name, a.files[j].Name) })
	reached := make([]bool, len(a.files))
	var reach func(int)
	reach = func(i int) {
		if !reached[i] {
			reached[i] = true
			for _, of := range takes[i] {
				reach(of)
			}
		}
	}
	var out []int
	for _, tops := range []bool{true, false} { // of those that only take one another in, the first
		for _, i := range order {
			if !reached[i] && (!tops || !inner[i]) {
				out = append(out, i)
				reach(i)
			}
		}
	}
	return out
}

// put reads a file in, with those that it takes in; within are those that it is taken in by.
func (a *assembly) put(file int, within []int) error {
	if a.text.Len() > MostBytes {
		return fmt.Errorf("with all that %s takes in it is larger than %d MiB: settings are text of a few hundred KiB at "+
			"most", a.files[file].Name, MostBytes>>20)
	}
	within = append(slices.Clip(within), file)
	text := a.files[file].Text
	from, line := 0, 0
	for _, in := range a.takes[file] {
		if len(in.files) == 0 {
			continue // the reader tells it
		}
		line = a.add(file, from, in.at, line)
		from = in.at
		for _, of := range in.files {
			switch {
			case slices.Contains(within, of) && strings.ContainsAny(in.name, "*?["):
				// A pattern that covers the file itself does not mean it.
			case slices.Contains(within, of):
				a.fault(file, line, "it takes in %s, which takes this file in again: it is read once", a.files[of].Name)
			case len(within) >= mostDepth:
				a.fault(file, line, "files take one another in deeper than %d: %s is not read here", mostDepth,
					a.files[of].Name)
			default:
				if err := a.put(of, within); err != nil {
					return err
				}
			}
		}
		a.endLine()
		a.taken[a.text.Len()] = true
	}
	a.add(file, from, len(text), line)
	return nil
}

// endLine ends the line of a file that does not end its last one.
func (a *assembly) endLine() {
	if n := a.text.Len(); n > 0 && a.text.String()[n-1] != '\n' {
		a.pieces = append(a.pieces, piece{file: -1, from: n, line: a.lines})
		a.text.WriteByte('\n')
		a.lines++
	}
}

// add writes a run of lines of a file, and gives the line of the file after it, from 0.
func (a *assembly) add(file, from, to, line int) int {
	if from == to {
		return line
	}
	text := a.files[file].Text[from:to]
	a.endLine()
	a.pieces = append(a.pieces, piece{file, a.text.Len(), a.lines, from, line})
	a.text.WriteString(text)
	n := strings.Count(text, "\n")
	a.lines += n
	return line + n
}

func (a *assembly) fault(file, line int, format string, x ...any) {
	if len(a.faults) < mostFaults {
		a.faults = append(a.faults, LineFault{File: a.files[file].Name, Line: line + 1, Says: fmt.Sprintf(format, x...)})
	}
}

// named are the files that a line takes in, by the last part of their path, in the order of their
// names.
func (a *assembly) named(pattern string) []int {
	pattern = strings.ToLower(path.Base(strings.ReplaceAll(pattern, `\`, "/")))
	var out []int
	for i := range a.files {
		name := strings.ToLower(path.Base(strings.ReplaceAll(a.files[i].Name, `\`, "/")))
		is := name == pattern
		if !is && strings.ContainsAny(pattern, "*?[") {
			is, _ = path.Match(pattern, name)
		}
		if is {
			out = append(out, i)
		}
	}
	slices.SortStableFunc(out, func(i, j int) int { return strings.Compare(a.files[i].Name, a.files[j].Name) })
	return out
}

// include is a line that takes in a file.
type include struct {
	at    int // byte at which the line begins
	name  string
	files []int // those of that name
}

// includesOf are the lines of a text that take in other files: #include "x" in a header,
// [include x] in sections, M98 P"x" in G-code.
func includesOf(form Form, text string) []include {
	word := map[Form]string{Header: "include", Sections: "include", GCode: "M98"}[form]
	var out []include
	for from := 0; from < len(text); {
		n := strings.Index(text[from:], word)
		if n < 0 {
			return out
		}
		at := from + n
		begin := strings.LastIndexByte(text[:at], '\n') + 1
		end := strings.IndexByte(text[at:], '\n')
		if end < 0 {
			end = len(text)
		} else {
			end += at
		}
		if name := includeOn(form, text[begin:at], text[at+len(word):end]); name != "" &&
			(form != Header || !goesOn(text[:begin]) && !inBlockComment(text[:begin])) {
			out = append(out, include{at: begin, name: name})
		}
		from = end
	}
	return out
}

// includeOn is the name of the file that a line takes in, by what stands before and after the word.
func includeOn(form Form, before, after string) string {
	before = strings.TrimPrefix(before, byteOrder)
	cut := func(after, open, close string) string {
		from := strings.Index(after, open)
		if from < 0 || strings.TrimSpace(after[:from]) != "" {
			return ""
		}
		name, _, closed := strings.Cut(after[from+len(open):], close)
		if !closed {
			return ""
		}
		return strings.TrimSpace(name)
	}
	switch form {
	case Header:
		if strings.TrimSpace(before) == "#" {
			return cut(after, `"`, `"`)
		}
	case Sections:
		if strings.TrimSpace(before) == "[" && strings.HasPrefix(before, "[") {
			if name, _, closed := strings.Cut(after, "]"); closed && strings.HasPrefix(name, " ") {
				return strings.TrimSpace(name)
			}
		}
	case GCode:
		if strings.TrimSpace(before) == "" {
			return cut(after, `P"`, `"`)
		}
	}
	return ""
}

// goesOn reports whether the line at the end of a text goes on with the next.
func goesOn(text string) bool {
	return strings.HasSuffix(strings.TrimRight(strings.TrimSuffix(text, "\n"), " \t\r"), `\`)
}

// inBlockComment reports whether a text ends within a comment that goes over lines.
func inBlockComment(text string) bool {
	return strings.LastIndex(text, "/*") > strings.LastIndex(text, "*/")
}
