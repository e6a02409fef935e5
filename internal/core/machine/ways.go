package machine

import (
	"cmp"
	"slices"
)

// CheapestWay is the inspection that earns a grade for a trait: one without risk before any
// other, then the one of the fewest minutes, then the one for which the machine is opened
// least. but names inspections that are out of the question, by their keys. ok is false
// where none earns the grade.
func (v *Vocabulary) CheapestWay(t *Trait, least Grade, but ...func(inspection string) bool) (
	best Inspection, grade Grade, ok bool) {
	for _, w := range t.FindBy {
		in, known := v.Inspection(w.Inspection)
		if !known || w.Grade < least ||
			slices.ContainsFunc(but, func(out func(string) bool) bool { return out(w.Inspection) }) {
			continue
		}
		if !ok || cheaper(in, best) < 0 {
			best, grade, ok = in, w.Grade, true
		}
	}
	return best, grade, ok
}

func cheaper(a, b Inspection) int {
	risk := func(in Inspection) int { return min(len(in.Risk), 1) }
	return cmp.Or(cmp.Compare(risk(a), risk(b)), cmp.Compare(a.Minutes, b.Minutes), cmp.Compare(a.Depth, b.Depth))
}
