package maintenance

// SuspectsOf are the kind and trait of each suspect of a symptom.
func SuspectsOf(symptom string) (out [][2]string) {
	for _, s := range suspects[symptom] {
		out = append(out, [2]string{s.kind, s.trait})
	}
	return out
}
