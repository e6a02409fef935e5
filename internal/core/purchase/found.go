package purchase

import (
	"errors"
	"fmt"

	"wardifex/internal/core/machine"
)

// TraitFound is a trait of a delivered part: as it is advertised, and as it was found.
type TraitFound struct {
	Trait      string        `json:"trait"`
	Advertised string        `json:"advertised" doc:"Empty where nothing is said of it"`
	Found      string        `json:"found" doc:"Empty where nobody looked"`
	Grade      machine.Grade `json:"grade,omitempty" doc:"Of what was found: marked, observed or proven"`
}

// TraitChecked is a finding with what came of it.
type TraitChecked struct {
	TraitFound
	Label   string `json:"label"`
	Differs bool   `json:"differs"`
}

// Compare holds what was found of a part against what is advertised. Without a finding that
// differs the part is as advertised as far as somebody looked.
func Compare(voc *machine.Vocabulary, kind string, findings []TraitFound) ([]TraitChecked, Outcome, error) {
	outcome := AsAdvertised
	out := make([]TraitChecked, 0, len(findings))
	seen := map[string]bool{}
	for _, f := range findings {
		t := voc.TraitOfKind(kind, f.Trait)
		switch {
		case t == nil:
			return nil, "", fmt.Errorf("a part of this kind has no trait %q", f.Trait)
		case seen[f.Trait]:
			return nil, "", fmt.Errorf("%s is given twice", t.Label)
		case f.Found != "" && f.Grade <= machine.Claimed:
			return nil, "", fmt.Errorf("say how %s was found: marked, observed or proven", t.Label)
		}
		seen[f.Trait] = true
		c := TraitChecked{TraitFound: f, Label: t.Label}
		said, err := parsed(t, &c.Advertised)
		if err != nil {
			return nil, "", err
		}
		found, err := parsed(t, &c.Found)
		if err != nil {
			return nil, "", err
		}
		if !said.IsZero() && !found.IsZero() {
			c.Differs = !t.Same(said, found)
			if f.Trait == machine.ModelTrait {
				c.Differs = !voc.SameModel(kind, said.Text, found.Text)
			}
		}
		if c.Differs {
			outcome = Wrong
		}
		out = append(out, c)
	}
	return out, outcome, nil
}

// parsed reads a value in place; the zero value where it is empty.
func parsed(t *machine.Trait, text *string) (machine.Value, error) {
	if *text == "" {
		return machine.Value{}, nil
	}
	v, err := t.Parse(*text)
	if err != nil {
		return v, err
	}
	*text = v.Text
	return v, nil
}

// Conclude holds what the receiver says of a thing against what was found: what differs is
// never as advertised, and what is wrong has something that differs or a word on it.
func Conclude(said, found Outcome, note string) (Outcome, error) {
	switch {
	case said == "":
		return found, nil
	case said == AsAdvertised && found == Wrong:
		return "", errors.New("something differs from what is advertised, so it is no stock: receive it as wrong, " +
			"or correct what was found")
	case said != AsAdvertised && found == AsAdvertised && note == "":
		return "", fmt.Errorf("say in a few words what is %s", map[Outcome]string{
			Wrong: "wrong with it", Damaged: "damaged", Missing: "missing"}[said])
	}
	return said, nil
}

// Recall is what Compare found, of findings that are on record. What the catalogue has no
// longer is shown as it was written.
func Recall(voc *machine.Vocabulary, kind string, findings []TraitFound) []TraitChecked {
	out := make([]TraitChecked, 0, len(findings))
	for _, f := range findings {
		checked, _, err := Compare(voc, kind, []TraitFound{f})
		if err != nil {
			checked = []TraitChecked{{TraitFound: f, Label: f.Trait, Differs: f.Found != "" && f.Advertised != f.Found}}
		}
		out = append(out, checked...)
	}
	return out
}

// Claims are what a supplier claimed of a thing that became no stock, each with what was
// found. One that is wrong by a word alone counts as a false claim of its model.
func Claims(voc *machine.Vocabulary, supplier, kind, model string, outcome Outcome,
	found []TraitChecked) []machine.Claim {
	var out []machine.Claim
	anyDiffers := false
	for _, c := range found {
		t := voc.TraitOfKind(kind, c.Trait)
		if t == nil || c.Advertised == "" || c.Found == "" {
			continue
		}
		said, err := t.Parse(c.Advertised)
		if err != nil {
			continue // the catalogue has it otherwise since
		}
		is, err := t.Parse(c.Found)
		if err != nil {
			continue
		}
		anyDiffers = anyDiffers || c.Differs
		out = append(out, claim(supplier, t, said, is, c.Grade))
	}
	if t := voc.TraitOfKind(kind, machine.ModelTrait); t != nil && outcome == Wrong && !anyDiffers {
		out = append(out, claim(supplier, t, machine.Value{Text: model}, machine.Value{Text: "not " + model},
			machine.Observed))
	}
	return out
}

func claim(supplier string, t *machine.Trait, said, is machine.Value, grade machine.Grade) machine.Claim {
	return machine.Claim{Supplier: supplier, Trait: t, Claimed: machine.Reading{Value: said, Grade: machine.Claimed},
		Standing: machine.Fact{Trait: t, Value: is, Grade: grade}}
}
