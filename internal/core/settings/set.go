package settings

import (
	"fmt"
	"maps"
	"slices"

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

// SetTrait is the change that makes a document state a number of a trait; choice is that of a trait
// that is none.
func (s *Stated) SetTrait(st TraitStatement, n float64, choice string) ([]dialect.Edit, error) {
	if st.Choice != "" {
		return s.setChoice(st, choice)
	}
	as, err := st.written.as(n)
	if err != nil {
		return nil, err
	}
	return []dialect.Edit{{Span: st.written.span, New: number(as)}}, nil
}

// setChoice is the change that makes a document state a choice: the option is switched on or off, or
// another value is written.
func (s *Stated) setChoice(st TraitStatement, choice string) ([]dialect.Edit, error) {
	in, d := st.written, s.Document
	for _, as := range slices.Sorted(maps.Keys(in.word.Values)) {
		switch {
		case in.word.Values[as] != choice:
		case as == On && in.entry.Force == dialect.CommentedOut:
			return []dialect.Edit{d.Enable(in.entry)}, nil
		case as == Off:
			return []dialect.Edit{d.Disable(in.entry)}, nil
		case as != On:
			return []dialect.Edit{d.Set(in.entry, as)}, nil
		}
	}
	return nil, fmt.Errorf("how %s is written as %q is not among the words of settings: add it there", in.word.Word,
		choice)
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
			says += joined + d.Value(e) + " on " + s.lineOf(e)
		}
		out = append(out, says)
	}
	for _, st := range s.Calibrations {
		for _, at := range st.Also {
			out = append(out, fmt.Sprintf("%s on %s counts; %s sets it otherwise", st.Word, s.lineOf(st.written[0].entry), at))
		}
	}
	return out
}
