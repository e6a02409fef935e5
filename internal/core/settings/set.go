package settings

import (
	"fmt"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/dialect"
)

// Set is the change that makes a document state a value of a calibration where it states another:
// in the words, the unit and the sign of its family. The error says why the value cannot be written.
func (s *Stated) Set(st ValueStatement, value string) ([]dialect.Edit, error) {
	c, ok := calibration.Of(st.Kind)
	if !ok {
		return nil, fmt.Errorf("there is no calibration %s", st.Kind)
	}
	n := c.Numbers(st.Subject, value)
	if len(n) != len(st.written) || len(n) == 0 {
		return nil, fmt.Errorf("%q is no value of %s that can be written into a file", value, c.Title)
	}
	var out []dialect.Edit
	for i, in := range st.written {
		as, err := in.as(n[i])
		if err != nil {
			return nil, err
		}
		out = append(out, dialect.Edit{Span: in.span, New: number(as)})
	}
	return out, nil
}

// SetTrait is the change that makes a document state a number of a trait.
func (s *Stated) SetTrait(st TraitStatement, n float64) ([]dialect.Edit, error) {
	as, err := st.written.as(n)
	if err != nil {
		return nil, err
	}
	return []dialect.Edit{{Span: st.written.span, New: number(as)}}, nil
}

// LineOf is the line of G-code that sets a number of a trait.
func (s *Stated) LineOf(st TraitStatement, n float64) string {
	as, err := st.written.as(n)
	if err != nil {
		as = n
	}
	return s.Document.Word(st.written.entry) + " " + string(st.written.entry.Letter) + number(as)
}

// Drop is the change that makes G-code no longer set a value: the line becomes a comment where it
// sets nothing else, else the parameter goes.
func (s *Stated) Drop(st ValueStatement) []dialect.Edit {
	d := s.Document
	mine := map[*dialect.Entry]bool{}
	for _, in := range st.written {
		mine[in.entry] = true
	}
	var out []dialect.Edit
	commented := map[int]bool{}
	for _, in := range st.written {
		line := in.entry.Line
		if commented[line] {
			continue
		}
		alone := true
		for i := range d.Entries {
			e := &d.Entries[i]
			if e.Line == line && !mine[e] && e.Letter != 'T' {
				alone = false
			}
		}
		if alone {
			commented[line] = true
			at := d.WordAt(in.entry).From
			out = append(out, dialect.Edit{Span: dialect.Span{From: at, To: at}, New: "; "})
			continue
		}
		value := d.ValueAt(in.entry)
		from := value.From - 1 // its letter
		for from > 0 && (d.Text[from-1] == ' ' || d.Text[from-1] == '\t') {
			from--
		}
		out = append(out, dialect.Edit{Span: dialect.Span{From: from, To: value.To}})
	}
	return out
}

// SetTwice are values that the document sets twice, and not to the same, in sentences.
func (s *Stated) SetTwice() []string {
	var out []string
	d := s.Document
	for _, list := range d.Twice() {
		says := d.Word(&d.Entries[list[0]])
		for i, at := range list {
			e := &d.Entries[at]
			joined := ", "
			if i == 0 {
				joined = ": "
			}
			says += fmt.Sprintf("%s%s on line %d", joined, d.Value(e), e.Line)
		}
		out = append(out, says)
	}
	for _, st := range s.Calibrations {
		for _, line := range st.Also {
			out = append(out, fmt.Sprintf("%s on line %d counts; line %d sets it otherwise", st.Word, st.Line, line))
		}
	}
	return out
}
