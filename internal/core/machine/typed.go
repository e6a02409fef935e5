package machine

// Typed checks numbers that people typed into entries of the catalogue and kits, before
// they are kept: documents keep numbers with one mark, which stands before decimals, so
// that one with two meanings would be kept as the smaller. The error of each is a
// *quantity.TwoMeanings.

// CheckTyped checks the values that are typical of a model.
func (m Model) CheckTyped(voc *Vocabulary) error {
	return checkTyped(voc, voc.First(m.Kind), m.Defaults)
}

// CheckTyped checks what an effect sets.
func (e Effect) CheckTyped(voc *Vocabulary) error {
	p, ok := voc.Position(e.Slot)
	if !ok {
		return nil // another check says so
	}
	return checkTyped(voc, &p, e.Traits)
}

// CheckTyped checks the values that a need compares with, and those of the changes in it.
func (r Requirement) CheckTyped(voc *Vocabulary) error {
	for _, list := range [][]Requirement{r.All, r.Any, r.None} {
		for _, one := range list {
			if err := one.CheckTyped(voc); err != nil {
				return err
			}
		}
	}
	if r.Additional != nil {
		return r.Additional.CheckTyped(voc)
	}
	if r.Test == nil {
		return nil
	}
	at, _ := voc.Position(r.Test.Slot)
	p := &at
	if r.Test.Of != nil {
		p = voc.First(r.Test.Of.Kind)
	}
	for _, text := range r.Test.Values {
		if err := checkTyped(voc, p, map[string]string{r.Test.Trait: text}); err != nil {
			return err
		}
	}
	return nil
}

// CheckTyped checks what an additional change sets.
func (f AdditionalChange) CheckTyped(voc *Vocabulary) error {
	for _, e := range f.Effects {
		if err := e.CheckTyped(voc); err != nil {
			return err
		}
	}
	return nil
}

func checkTyped(voc *Vocabulary, p *Position, values map[string]string) error {
	if p == nil {
		return nil
	}
	for name, text := range values {
		t, ok := voc.Trait(KeyOf(p.Key, name))
		if !ok || t.Kind != Number || text == "" {
			continue
		}
		if _, err := t.Parse(text); err != nil {
			return err
		}
	}
	return nil
}
