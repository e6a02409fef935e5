package maintenance

import "wardifex/internal/core/civil"

// SuspectsOf are the kind and trait of each suspect of a symptom.
func SuspectsOf(symptom string) (out [][2]string) {
	for _, s := range suspects[symptom] {
		out = append(out, [2]string{s.kind, s.trait})
	}
	return out
}

// Settle says how urgent a task with a date is.
func (d *Due) Settle(today civil.Day) { d.settle(today) }
