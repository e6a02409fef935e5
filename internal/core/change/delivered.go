package change

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"wardifex/internal/core/inspection"
	"wardifex/internal/core/machine"
)

// FoundField is a fact of a part that came in, to be held against what is stated of it.
type FoundField struct {
	Key        machine.Key `json:"key"`
	Label      string      `json:"label"`
	Unit       string      `json:"unit,omitempty"`
	Advertised string      `json:"advertised,omitempty" doc:"As it is stated to be; empty where nobody has said"`
	Choices    []string    `json:"choices,omitempty" doc:"Where it is one of several"`
}

// delivered are the facts of the parts that come in which are looked at while they are in the
// hand: what the verdict rests on and only their model says; and, of parts that are seen only
// in the open machine afterwards, what tells those of one name apart.
func (c Change) delivered() []FoundField {
	var out []FoundField
	voc := c.After.Vocabulary()
	for _, e := range c.Effects {
		if !e.Fits() || isBuild(c.Before, e.Slot) {
			continue
		}
		at := voc.At(e.Slot)
		if at == nil {
			continue // of a position that comes with the change, nothing is described yet
		}
		hidden := inside(voc, at)
		var fields []FoundField
		for _, t := range voc.TraitsAt(e.Slot) {
			tells := hidden && inspection.TellsApart(t)
			if t.Name != machine.ModelTrait && t.Superseded == "" && (tells || slices.Contains(c.Delivery, t.Label)) {
				fields = append(fields, c.foundField(t))
			}
		}
		if model := voc.ModelAt(at); len(fields) > 0 && model != nil {
			fields = append([]FoundField{c.foundField(model)}, fields...)
		}
		out = append(out, fields...)
	}
	return out
}

func (c Change) foundField(t *machine.Trait) FoundField {
	field := FoundField{Key: t.Key(), Label: t.Label, Unit: t.Unit}
	if f := c.After.At(t); f.Known() {
		field.Advertised = t.Show(f.Value)
	}
	switch t.Kind {
	case machine.YesNo:
		field.Choices = []string{"yes", "no"}
	case machine.Choice:
		field.Choices = t.Choices
	}
	return field
}

// found reads what was typed of delivered parts: readings of the parts that are fitted with it.
func (s Step) found(d Data, on machine.Snapshot) (map[machine.Key]string, error) {
	out := map[machine.Key]string{}
	for _, key := range slices.Sorted(maps.Keys(d.Found)) {
		typed := strings.TrimSpace(d.Found[key])
		at := slices.IndexFunc(s.Found, func(f FoundField) bool { return string(f.Key) == key })
		if typed == "" || at < 0 {
			continue
		}
		t, ok := on.Vocabulary().Trait(machine.Key(key))
		if !ok {
			continue // it left the catalogue meanwhile
		}
		v, err := t.Parse(typed)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", s.Found[at].Label, err)
		}
		out[t.Key()] = v.Text
	}
	return out, nil
}
