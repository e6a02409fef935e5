package csvimport

import (
	"io"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/quantity"
)

// Write writes the register as CSV with commas and a heading for every field
// and every trait of which a value stands in some machine. Read in again, it
// changes nothing in the same register and gives the same values in an empty
// one. Numbers are written so that no mark in them has two meanings, days as ISO 8601. A trait in conflict is
// written with its newest candidate.
func Write(w io.Writer, fleet []Existing, voc *machine.Vocabulary) error {
	var columns []Target
	for _, t := range Targets(voc) {
		if used(t, fleet) {
			columns = append(columns, t)
		}
	}
	lines := make([][]string, 1+len(fleet))
	for _, c := range columns {
		lines[0] = append(lines[0], c.Label)
		for i, m := range fleet {
			lines[1+i] = append(lines[1+i], valueOf(c, m))
		}
	}
	return machine.WriteCSV(w, lines)
}

func used(t Target, fleet []Existing) bool {
	if t.Key == Name {
		return true
	}
	for _, m := range fleet {
		if valueOf(t, m) != "" {
			return true
		}
	}
	return false
}

func valueOf(c Target, m Existing) string {
	if c.trait == nil {
		return m.Fields[c.Key]
	}
	f := m.Facts.Fact(c.trait.Key())
	if f.FromModel != "" || f.Unlisted {
		return "" // the catalogue's, not this machine's; or there is no such position
	}
	candidates := f.Candidates()
	switch {
	case len(candidates) == 0:
		return ""
	case c.trait.Kind == machine.Number:
		return quantity.Unmistakable(candidates[0].Number)
	}
	return candidates[0].Text
}
