package fit

import (
	"fmt"
	"strings"

	"wardifex/internal/core/machine"
)

// CheckNeeds lists what is wrong with the needs of a vocabulary's kinds, models and
// features, and with what its models take, each in a sentence. A need that is wrong is
// switched off; all others are judged.
func CheckNeeds(voc *machine.Vocabulary) []string {
	var out []string
	structure := voc.Structure(voc.Slots)
	check := func(who, kind string, needs []machine.Need) {
		owner := voc.First(kind)
		for _, n := range needs {
			if n.Drop || owner == nil {
				continue
			}
			if err := checkNeed(voc, structure, owner, n); err != nil {
				out = append(out, fmt.Sprintf("%s, need %q: %s", who, n.Key, err))
			}
		}
	}
	for _, k := range voc.Catalogue.Kinds {
		check("the kind "+k.Label, k.Key, k.Needs)
		for _, f := range k.Features {
			check("the feature "+f.Name, k.Key, f.Needs)
		}
	}
	for _, m := range voc.Catalogue.Models {
		check("the model "+m.Name, m.Kind, m.Needs)
		for _, u := range m.Uses {
			if err := checkUse(u); err != nil {
				out = append(out, fmt.Sprintf("the model %s: %s", m.Name, err))
			}
		}
	}
	return out
}

func checkNeed(voc *machine.Vocabulary, structure *machine.Structure, owner *machine.Position, n machine.Need) error {
	p := &partNeed{Need: n, of: &owned{ownerKey: ownerKey{kind: owner.Kind}, who: "part"}}
	if strings.TrimSpace(n.That.Label) == "" {
		return fmt.Errorf("it has no words: write what must be so")
	}
	x, err := p.compile(voc, structure, owner)
	if err != nil {
		return err
	}
	if why := unsatisfiable(&x.that); why != "" {
		return fmt.Errorf("it can never be met: %s", why)
	}
	return nil
}

// Offer is a need of a kit that lasts: what the kit fits needs it as long as it is
// fitted, and it could be said of that model once for all.
type Offer struct {
	At    int          `json:"at" doc:"Which of the kit's needs it is, from 0"`
	Label string       `json:"label"`
	Kind  string       `json:"kind" doc:"Kind of the part that would have it"`
	Model string       `json:"model"`
	Need  machine.Need `json:"need" doc:"As the model would have it"`
}

// Lasting lists the needs of a kit that could be moved to the model that it fits: those
// that ask of parts which the kit itself leaves alone.
func (k Kit) Lasting(voc *machine.Vocabulary) []Offer {
	slot := principal(k.Effects)
	owner := voc.At(slot)
	if owner == nil {
		return nil
	}
	model := ""
	written := map[string]bool{}
	for _, e := range k.Effects {
		written[e.Slot], written[e.From] = true, true
		if e.Slot == slot {
			model = e.Model
		}
	}
	var out []Offer
	for i := range k.Needs.All {
		that, ok := lastingForm(&k.Needs.All[i], voc, written)
		if !ok {
			continue
		}
		n := machine.Need{Key: keyFor(that.Label, i), That: that}
		if checkNeed(voc, voc.Structure(voc.Slots), owner, n) == nil {
			out = append(out, Offer{At: i, Label: that.Label, Kind: owner.Kind, Model: model, Need: n})
		}
	}
	return out
}

// keyFor makes the key of a need of its words.
func keyFor(label string, i int) string {
	key := strings.Trim(strings.Map(func(r rune) rune {
		switch {
		case r >= 'a' && r <= 'z' || r >= '0' && r <= '9':
			return r
		}
		return '-'
	}, strings.ToLower(label)), "-0123456789")
	for strings.Contains(key, "--") {
		key = strings.ReplaceAll(key, "--", "-")
	}
	if len(key) > 36 {
		key = strings.TrimRight(key[:36], "-")
	}
	if key == "" {
		return fmt.Sprintf("need-%d", i+1)
	}
	return key
}

// lastingForm is a requirement of positions as one of parts by their kind and place; ok
// is false where it lasts no longer than the fitting.
func lastingForm(r *Requirement, voc *machine.Vocabulary, written map[string]bool) (Requirement, bool) {
	out := *r
	switch {
	case r.Kit != nil || r.Additional != nil:
		return out, false
	case r.Test != nil:
		t := *r.Test
		if t.Of == nil {
			p := voc.At(t.Slot)
			if p == nil || written[t.Slot] {
				return out, false
			}
			every := t.Op != Present && t.Op != Known
			t.Of, t.Slot = &machine.Selector{Kind: p.Kind, At: p.Serves, Every: every}, ""
		}
		out.Test = &t
	case r.Formula != nil:
		for slot := range written {
			if slot != "" && strings.Contains(r.Formula.Text, slot+".") {
				return out, false
			}
		}
	}
	for _, group := range []*[]Requirement{&out.All, &out.Any, &out.None} {
		if *group == nil {
			continue
		}
		parts := make([]Requirement, len(*group))
		for i := range *group {
			var ok bool
			if parts[i], ok = lastingForm(&(*group)[i], voc, written); !ok {
				return out, false
			}
			if group == &out.None && parts[i].Test != nil && parts[i].Test.Of != nil { // none of them: no single one
				of := *parts[i].Test.Of
				of.Every = false
				parts[i].Test.Of = &of
			}
		}
		*group = parts
	}
	return out, true
}

// WithoutNeeds is the kit without some of its needs, by their places.
func (k Kit) WithoutNeeds(at ...int) Kit {
	var left []Requirement
	for i, r := range k.Needs.All {
		moved := false
		for _, n := range at {
			moved = moved || n == i
		}
		if !moved {
			left = append(left, r)
		}
	}
	k.Needs.All = left
	return k
}
