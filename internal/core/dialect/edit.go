package dialect

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"
)

// Edit is a piece of a text that is replaced.
type Edit struct {
	Span
	New string
}

// Apply makes edits in a text; the error is of edits that overlap, or lie outside of it.
func Apply(text string, edits []Edit) (string, error) {
	edits = slices.Clone(edits)
	slices.SortStableFunc(edits, func(a, b Edit) int { return cmp.Compare(a.From, b.From) })
	longer := 0
	for _, e := range edits {
		longer += len(e.New)
	}
	var b strings.Builder
	b.Grow(len(text) + longer)
	at := 0
	for _, e := range edits {
		if e.From < at || e.To < e.From || e.To > len(text) {
			return "", errors.New("two changes touch the same place of the file, or one lies outside of it")
		}
		b.WriteString(text[at:e.From])
		b.WriteString(e.New)
		at = e.To
	}
	b.WriteString(text[at:])
	return b.String(), nil
}

// Masked stands where a secret was.
const Masked = "•••"

// context is how many lines are shown around a change.
const context = 3

// Diff is what edits change of a text, line by line, in the unified form that patch programs read.
// Lines end as they do in the text. Empty where nothing changes.
func Diff(name, text string, edits []Edit) (string, error) {
	after, err := Apply(text, edits)
	if err != nil || after == text {
		return "", err
	}
	starts := lineStarts(text)
	hunks := hunksOf(text, edits, starts)
	var b strings.Builder
	fmt.Fprintf(&b, "--- a/%s\n+++ b/%s\n", name, name)
	shift := 0 // how many lines longer the new text is so far
	for i := 0; i < len(hunks); {
		from, j := hunks[i].from-context, i
		for j+1 < len(hunks) && hunks[j+1].from-hunks[j].to <= 2*context &&
			!strings.Contains(strings.Join(linesOf(text, starts, hunks[j].to, hunks[j+1].from), ""), Masked) {
			j++
		}
		from = max(from, 0)
		to := min(hunks[j].to+context, len(starts)-1)
		from, to = unmasked(text, starts, hunks[i].from, hunks[j].to, from, to)
		var body strings.Builder
		at, grown := from, 0
		for ; i <= j; i++ {
			h := hunks[i]
			writeLines(&body, ' ', linesOf(text, starts, at, h.from))
			old := linesOf(text, starts, h.from, h.to)
			writeLines(&body, '-', old)
			writeLines(&body, '+', h.lines)
			grown += len(h.lines) - len(old)
			at = h.to
		}
		writeLines(&body, ' ', linesOf(text, starts, at, to))
		fmt.Fprintf(&b, "@@ -%s +%s @@\n%s", hunkRange(from, to-from), hunkRange(from+shift, to-from+grown), body.String())
		shift += grown
	}
	return b.String(), nil
}

// unmasked are the lines around a change without those that hold a masked secret, and those beyond:
// the file that is patched has the secret there.
func unmasked(text string, starts []int, first, end, from, to int) (int, int) {
	masked := func(line int) bool { return strings.Contains(text[starts[line]:starts[line+1]], Masked) }
	for line := first - 1; line >= from; line-- {
		if masked(line) {
			from = line + 1
		}
	}
	for line := end; line < to; line++ {
		if masked(line) {
			to = line
		}
	}
	return from, to
}

func hunkRange(from, n int) string {
	if n == 0 {
		return fmt.Sprintf("%d,0", from)
	}
	return fmt.Sprintf("%d,%d", from+1, n)
}

// hunk is a run of lines that are replaced: of the old text [from, to), counted from 0.
type hunk struct {
	from, to int
	lines    []string
}

// lineStarts is where each line begins, and where the text ends.
func lineStarts(text string) []int {
	starts := []int{0}
	for i := 0; i < len(text); i++ {
		if text[i] == '\n' && i+1 < len(text) {
			starts = append(starts, i+1)
		}
	}
	if text == "" {
		return starts
	}
	return append(starts, len(text))
}

func linesOf(text string, starts []int, from, to int) []string {
	var out []string
	for i := from; i < to; i++ {
		out = append(out, text[starts[i]:starts[i+1]])
	}
	return out
}

// hunksOf are the runs of lines that edits touch.
func hunksOf(text string, edits []Edit, starts []int) []hunk {
	edits = slices.Clone(edits)
	slices.SortStableFunc(edits, func(a, b Edit) int { return cmp.Compare(a.From, b.From) })
	lineAt := func(at int) int {
		i, found := slices.BinarySearch(starts, at)
		if !found {
			i--
		}
		return min(i, max(len(starts)-2, 0))
	}
	var out []hunk
	for i := 0; i < len(edits); {
		from := lineAt(edits[i].From)
		to, j := from, i
		for ; j < len(edits) && (j == i || lineAt(edits[j].From) <= to); j++ {
			to = max(to, lineAt(max(edits[j].To-1, edits[j].From)))
		}
		if len(starts) < 2 { // an empty text
			out = append(out, hunk{0, 0, splitLines(edits[i].New)})
			return out
		}
		begin, stop := starts[from], starts[to+1]
		inside := slices.Clone(edits[i:j])
		for k := range inside {
			inside[k].From -= begin
			inside[k].To -= begin
		}
		is, err := Apply(text[begin:stop], inside)
		if err == nil && is != text[begin:stop] {
			out = append(out, trimmed(hunk{from, to + 1, splitLines(is)}, linesOf(text, starts, from, to+1)))
		}
		i = j
	}
	return out
}

// trimmed takes off a hunk the lines that stay at both of its ends.
func trimmed(h hunk, old []string) hunk {
	for len(old) > 0 && len(h.lines) > 0 && old[0] == h.lines[0] {
		old, h.lines, h.from = old[1:], h.lines[1:], h.from+1
	}
	for len(old) > 0 && len(h.lines) > 0 && old[len(old)-1] == h.lines[len(h.lines)-1] {
		old, h.lines, h.to = old[:len(old)-1], h.lines[:len(h.lines)-1], h.to-1
	}
	return h
}

func splitLines(text string) []string {
	var out []string
	for line := range strings.Lines(text) {
		out = append(out, line)
	}
	return out
}

func writeLines(b *strings.Builder, sign byte, lines []string) {
	for _, line := range lines {
		b.WriteByte(sign)
		b.WriteString(line)
		if !strings.HasSuffix(line, "\n") {
			b.WriteString("\n\\ No newline at end of file\n")
		}
	}
}

// Set is the edit that gives an entry another value.
func (d *Document) Set(e *Entry, value string) Edit { return Edit{d.ValueAt(e), value} }

// LineEnd is how the document ends its lines.
func (d *Document) LineEnd() string {
	if strings.Contains(d.Text, "\r\n") {
		return "\r\n"
	}
	return "\n"
}

// Append is the edit that adds lines at the end, before a block that the machine writes.
func (d *Document) Append(lines ...string) Edit {
	at := len(d.Text)
	if d.Form == Sections {
		if strings.HasPrefix(d.Text, "#*#") {
			at = 0
		} else if i := strings.Index(d.Text, "\n#*#"); i >= 0 {
			at = i + 1
		}
	}
	end := d.LineEnd()
	added := strings.Join(lines, end) + end
	if at > 0 && d.Text[at-1] != '\n' {
		added = end + added
	}
	return Edit{Span{at, at}, added}
}

// AddTo is the edit that adds lines after the last key of a section; false where it has none.
func (d *Document) AddTo(section string, lines ...string) (Edit, bool) {
	var last *Entry
	for i := range d.Entries {
		if e := &d.Entries[i]; d.Section(e) == section && !e.Saved {
			last = e
		}
	}
	if last == nil || d.Form != Sections {
		return Edit{}, false
	}
	at := len(d.Text)
	if n := strings.IndexByte(d.Text[last.end:], '\n'); n >= 0 {
		at = int(last.end) + n + 1
	}
	end := d.LineEnd()
	added := strings.Join(lines, end) + end
	if at > 0 && d.Text[at-1] != '\n' {
		added = end + added
	}
	return Edit{Span{at, at}, added}, true
}

// WordAt is where the name of an entry stands.
func (d *Document) WordAt(e *Entry) Span { return Span{int(e.name), int(e.nameEnd)} }

// Enable is the edit that makes an option count that is written as a comment, in a header.
func (d *Document) Enable(e *Entry) Edit {
	hash := strings.LastIndexByte(d.Text[:e.name], '#')
	from := hash
	for from > 0 && (d.Text[from-1] == '/' || d.Text[from-1] == ' ' || d.Text[from-1] == '\t') {
		from--
	}
	for from < hash && d.Text[from] != '/' { // the line stays as far in as it is
		from++
	}
	return Edit{Span{from, hash}, ""}
}

// Disable is the edit that turns the line of an entry into a comment.
func (d *Document) Disable(e *Entry) Edit {
	at := int(e.name)
	mark := "; "
	switch d.Form {
	case Header:
		at, mark = strings.LastIndexByte(d.Text[:e.name], '#'), "//"
	case Sections:
		mark = "#"
	}
	return Edit{Span{at, at}, mark}
}
