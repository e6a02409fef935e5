package catalogue

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"wardifex/internal/core/machine"
)

// Mention is something of a shop beside its catalogue that may name models: a kit, a build, a saved
// question, open work.
type Mention struct {
	What string // such as: the kit "Hearth plate"
	Of   any    // as it is written in JSON
}

// StillNamed lists the models that a change of the catalogue takes away, or that it leaves without
// one of their names, and what on record means them by it: a rule that names what is not there any
// more would hold nothing.
func StillNamed(before, after machine.Catalogue, use machine.Usage, shop []Mention) []string {
	lost := lostNames(before, after)
	if len(lost) == 0 {
		return nil
	}
	for _, k := range after.Kinds {
		shop = append(shop, Mention{"the kind " + quoted(k.Label), k})
	}
	for _, p := range after.Slots {
		shop = append(shop, Mention{"the usual position " + quoted(p.Label), p})
	}
	for _, m := range after.Models {
		shop = append(shop, Mention{"the model " + quoted(m.Name), m})
	}
	by := map[string][]string{}
	for _, m := range shop {
		names := textsOf(m.Of)
		for _, x := range lost {
			if names[fold(x.Name)] {
				by[fold(x.Name)] = append(by[fold(x.Name)], m.What)
			}
		}
	}
	var out []string
	for _, x := range lost {
		named := append(use.Bearing(x.Kind, x.Name), by[fold(x.Name)]...)
		if len(named) == 0 {
			continue
		}
		out = append(out, fmt.Sprintf("%s can't be removed: it is named by %s. Hide it, or let another supersede it", x.Name,
			say(named)))
	}
	return out
}

// lostNames are the names of models that mean nothing of their kind any more.
func lostNames(before, after machine.Catalogue) []machine.Model {
	stay := map[string]bool{}
	for _, m := range after.Models {
		for _, name := range append([]string{m.Name}, m.Aliases...) {
			stay[m.Kind+"/"+fold(name)] = true
		}
	}
	var out []machine.Model
	for _, m := range before.Models {
		for _, name := range append([]string{m.Name}, m.Aliases...) {
			if id := m.Kind + "/" + fold(name); !stay[id] && fold(name) != machine.None {
				stay[id] = true // told once
				out = append(out, machine.Model{Kind: m.Kind, Name: name})
			}
		}
	}
	return out
}

// words are fields that hold words of the program or keys, and never a model's name.
var words = map[string]bool{"kind": true, "slot": true, "trait": true, "op": true, "least": true, "key": true,
	"group": true, "from": true, "at": true, "for": true, "budget": true}

// textsOf are the texts that stand in something as values, whole: not what is written about it.
func textsOf(of any) map[string]bool {
	text, err := json.Marshal(of)
	if err != nil {
		panic("catalogue: " + err.Error()) // everything of a shop is kept as JSON
	}
	var plain any
	if err := json.Unmarshal(text, &plain); err != nil {
		panic("catalogue: " + err.Error())
	}
	out := map[string]bool{}
	var walk func(x any)
	walk = func(x any) {
		switch x := x.(type) {
		case string:
			out[fold(x)] = true
		case []any:
			for _, e := range x {
				walk(e)
			}
		case map[string]any:
			for k, e := range x {
				if _, text := e.(string); !text || !words[k] {
					walk(e)
				}
			}
		}
	}
	walk(plain)
	return out
}

// fold is a name as names are compared: in small letters, with single spaces.
func fold(name string) string { return strings.ToLower(strings.Join(strings.Fields(name), " ")) }

func quoted(name string) string { return "“" + name + "”" }

const mostNamed = 5

func say(list []string) string {
	list = slices.Compact(list)
	if more := len(list) - mostNamed; more > 0 {
		list = append(slices.Clone(list[:mostNamed]), fmt.Sprintf("%d more", more))
	}
	return strings.Join(list, ", ")
}
