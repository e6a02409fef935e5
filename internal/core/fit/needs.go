package fit

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"
)

// Excludes lists the keys of the kits that must not be fitted beside a kit,
// whatever else is so.
func (k Kit) Excludes() []string {
	var out []string
	var walk func(r Requirement)
	walk = func(r Requirement) {
		for _, p := range r.None {
			if p.Kit != nil && p.Kit.Key != k.Key {
				out = append(out, p.Kit.Key)
			}
		}
		for _, p := range r.All {
			walk(p)
		}
	}
	walk(k.Needs)
	return out
}

// Mentions lists the keys of the kits that a kit asks for or excludes in any way.
func (k Kit) Mentions() []string { return mentions(&k.Needs, true) }

// Mutual makes exclusion mutual: where one kit says that it does not go with
// another, the other says so too.
func Mutual(kits []Kit) []Kit {
	by := map[string][]Kit{}
	for _, k := range kits {
		for _, key := range k.Excludes() {
			by[key] = append(by[key], k)
		}
	}
	out := slices.Clone(kits)
	for i, k := range out {
		out[i] = k.beside(by[k.Key])
	}
	return out
}

// Beside is the kit among others, as Mutual makes it.
func (k Kit) Beside(others []Kit) Kit {
	return k.beside(
		slices.DeleteFunc(slices.Clone(others), func(o Kit) bool { return !slices.Contains(o.Excludes(), k.Key) }),
	)
}

// beside adds what kits that exclude this one ask of it. A kit that fits no part
// cannot be seen on a machine, and asks nothing.
func (k Kit) beside(excluders []Kit) Kit {
	var more []Requirement
	for _, o := range excluders {
		part := slices.IndexFunc(o.Effects, Effect.Fits)
		if o.Key == k.Key || part < 0 || slices.Contains(k.Excludes(), o.Key) {
			continue
		}
		more = append(
			more,
			Requirement{
				Label:     "Not together with " + o.Name,
				Why:       "That kit says that it does not go with this one.",
				Otherwise: "It is fitted; taking it out again would change that.",
				None: []Requirement{
					{Label: o.Name + " is fitted", Kit: &KitRef{Key: o.Key, Slot: o.Effects[part].Slot, Model: o.Effects[part].Model}},
				},
			},
		)
	}
	if len(more) == 0 {
		return k
	}
	own := k.Needs
	if isEmpty(&own) {
		own.All = []Requirement{}
	} else if own.All == nil {
		own = Requirement{Label: own.Label, All: []Requirement{own}}
	}
	own.All = slices.Concat(own.All, more)
	k.Needs = own
	return k
}

// CheckTogether says what is wrong with what kits need of each other: circles, and
// kits that can never be fitted for what they need.
func CheckTogether(kits []Kit) error {
	if keys := Circle(kits); keys != nil {
		name := map[string]string{}
		for _, k := range kits {
			name[k.Key] = k.Name
		}
		const shown = 8
		if len(keys) > shown {
			keys = append(slices.Clone(keys[:shown-1]), "…", keys[len(keys)-1])
		}
		for i, key := range keys {
			keys[i] = cmp.Or(name[key], key)
		}
		return errors.New(
			"these kits need each other in a circle, so that none can ever be fitted: " + strings.Join(keys, " → "),
		)
	}
	if why := Contradiction(kits); why != "" {
		return errors.New(why + ": it can never be fitted")
	}
	return nil
}

// Contradiction finds a kit that needs two kits, itself or by what these need, of
// which one excludes the other; empty when there is none.
func Contradiction(kits []Kit) string {
	needed := map[string][]string{} // by which kits, whatever choice is taken
	name := map[string]string{}
	for _, k := range kits {
		name[k.Key] = k.Name
		for key := range kitsOf(&k.Needs) {
			needed[key] = append(needed[key], k.Key)
		}
	}
	known := map[string]map[string]bool{}
	above := func(key string) map[string]bool { // those that cannot be without it
		out := known[key]
		if out != nil {
			return out
		}
		out = map[string]bool{key: true}
		for todo := []string{key}; len(todo) > 0; todo = todo[1:] {
			for _, k := range needed[todo[0]] {
				if !out[k] {
					out[k] = true
					todo = append(todo, k)
				}
			}
		}
		known[key] = out
		return out
	}
	for _, k := range kits {
		for _, other := range k.Excludes() {
			two := above(other)
			var both []string
			for key := range above(k.Key) {
				if two[key] {
					both = append(both, key)
				}
			}
			switch {
			case len(both) == 0:
			case two[k.Key]:
				return fmt.Sprintf("%s does not go with %s and yet cannot be without it", k.Name, name[other])
			case slices.Contains(both, other):
				return fmt.Sprintf("%s cannot be without %s, which does not go with it", name[other], k.Name)
			default:
				return fmt.Sprintf(
					"%s needs both %s and %s, of which one does not go with the other",
					name[slices.Min(both)],
					k.Name,
					name[other],
				)
			}
		}
	}
	return ""
}

// kits are the keys of the kits without which a requirement cannot be met.
func kitsOf(r *Requirement) map[string]bool {
	out := map[string]bool{}
	if r.Kit != nil {
		out[r.Kit.Key] = true
	}
	for i := range r.All {
		for key := range kitsOf(&r.All[i]) {
			out[key] = true
		}
	}
	for i := range r.Any {
		these := kitsOf(&r.Any[i])
		for key := range these {
			if i == 0 {
				out[key] = true
			}
		}
		for key := range out {
			if !these[key] {
				delete(out, key)
			}
		}
	}
	return out
}

// Circle finds kits that need each other in a circle with no other way, so that
// none of them can ever be fitted; nil when there is none.
func Circle(kits []Kit) []string {
	needs := map[string]*Requirement{}
	for i := range kits {
		needs[kits[i].Key] = &kits[i].Needs
	}
	stuck := func(key string) bool { return needs[key] != nil }
	frees := map[string][]string{} // those that may wait for a kit
	todo := make([]string, len(kits))
	for i, k := range kits {
		todo[i] = k.Key
		for _, on := range mentions(&k.Needs, false) {
			frees[on] = append(frees[on], k.Key)
		}
	}
	for ; len(todo) > 0; todo = todo[1:] {
		if key := todo[0]; stuck(key) && waitsFor(needs[key], stuck) == "" {
			delete(needs, key)
			todo = append(todo, frees[key]...)
		}
	}
	for _, k := range kits {
		if !stuck(k.Key) {
			continue
		}
		path, at := []string{}, map[string]int{}
		for key := k.Key; ; key = waitsFor(needs[key], stuck) {
			if from, been := at[key]; been {
				return append(path[from:], key)
			}
			at[key] = len(path)
			path = append(path, key)
		}
	}
	return nil
}

// mentions are the kits that a requirement asks for in any way, and those that it
// bars.
func mentions(r *Requirement, barred bool) []string {
	var out []string
	if r.Kit != nil {
		out = append(out, r.Kit.Key)
	}
	groups := [][]Requirement{r.All, r.Any}
	if barred {
		groups = append(groups, r.None)
	}
	for _, group := range groups {
		for i := range group {
			out = append(out, mentions(&group[i], barred)...)
		}
	}
	return out
}

// waitsFor is a kit for which a requirement has to wait as long as some are
// stuck; empty when it need not.
func waitsFor(r *Requirement, stuck func(key string) bool) string {
	if r.Kit != nil && stuck(r.Kit.Key) {
		return r.Kit.Key
	}
	for i := range r.All {
		if key := waitsFor(&r.All[i], stuck); key != "" {
			return key
		}
	}
	key := ""
	for i := range r.Any {
		if key = waitsFor(&r.Any[i], stuck); key == "" {
			return ""
		}
	}
	return key
}
