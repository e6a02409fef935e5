package machine

import (
	"fmt"
	"slices"

	"wardifex/internal/core/quantity"
)

// Need is something that must be so as long as what has it is fitted: a kind of part,
// a model, or a feature of a build. A model that is based on another has its needs too,
// and may replace or drop each by its key.
type Need struct {
	// By it a model replaces or drops what it inherits.
	Key  string       `json:"key" doc:"Small letters, digits and hyphens"`
	When *Requirement `json:"when,omitempty" doc:"It is needed only where this is so"`
	That Requirement  `json:"that" doc:"What must be so"`
	Drop bool         `json:"drop,omitempty" doc:"The inherited need of this key does not hold for this model"`
}

// Selector selects parts of a machine by their kind, as they are seen from the part
// that needs something.
type Selector struct {
	Kind string `json:"kind"`
	// Else some one.
	Every    bool         `json:"every,omitempty" doc:"Every one of them, which also holds where there is none"`
	Relation RelationKind `json:"relation,omitempty"`
	At       Place        `json:"at,omitempty" doc:"A place named absolutely, such as bed or head 2"`
}

// RelationKind is how parts stand to the one that needs something.
type RelationKind string

const (
	Anywhere  RelationKind = ""
	Itself    RelationKind = "itself"
	SamePlace RelationKind = "same place"
	SameHead  RelationKind = "same head" // of a part that is on no head: on any
	FeedsIt   RelationKind = "feeds it"
	FedByIt   RelationKind = "fed by it"
	CarriesIt RelationKind = "carries it"
	RidesOnIt RelationKind = "rides on it"
)

// RelationKinds lists every relation that a selector can name.
func RelationKinds() []RelationKind {
	return []RelationKind{Anywhere, Itself, SamePlace, SameHead, FeedsIt, FedByIt, CarriesIt, RidesOnIt}
}

// Feature is something that can be compiled into a build, with what it takes of flash
// and what it needs as long as it is in.
type Feature struct {
	Name  string  `json:"name" doc:"As it stands in the list of features of a build"`
	KiB   float64 `json:"kib" minimum:"0" maximum:"100000" doc:"What it takes of flash, KiB"`
	Needs []Need  `json:"needs,omitempty"`
}

// MostFeatures is how many features a kind of build can have: when memory is short,
// every set of those that are in is tried.
const MostFeatures = 16

// MostNeeds is how many needs a kind, a model or a feature can have of its own.
const MostNeeds = 100

// MostInherited is how many needs a model can have with those that it inherits.
const MostInherited = 1000

// inherit gives needs that go before those inherited, by key. Where there are none of
// its own, what is inherited is shared.
func inherit(own, base []Need) []Need {
	if len(own) == 0 {
		return base
	}
	out := slices.DeleteFunc(slices.Clone(base), func(n Need) bool {
		return slices.ContainsFunc(own, func(o Need) bool { return o.Key == n.Key })
	})
	for _, n := range own {
		if !n.Drop {
			out = append(out, n)
		}
	}
	return out
}

// needFaults names what is wrong with the list of needs of something by itself; what
// they ask is checked by package fit.
func needFaults(where string, needs []Need, say func(string, ...any)) {
	if len(needs) > MostNeeds {
		say("%s has %d needs; at most %d are right", where, len(needs), MostNeeds)
	}
	seen := map[string]bool{}
	for _, n := range needs {
		if !keyForm.MatchString(n.Key) {
			say("%s, need %q: a key has small letters, digits and hyphens, at most %d, and begins with a letter",
				where, quantity.Clip(n.Key), longestKey)
		}
		if seen[n.Key] {
			say("%s: the need %q is there twice", where, quantity.Clip(n.Key))
		}
		seen[n.Key] = true
	}
}

// NeedsOfKind are what parts of a kind need, and of the kinds it is like.
func (v *Vocabulary) NeedsOfKind(kind string) []Need {
	var out []Need
	likes := v.likes[kind]
	for i := len(likes) - 1; i >= 0; i-- {
		out = inherit(v.Catalogue.Kinds[v.kinds[likes[i]]].Needs, out)
	}
	return out
}

// NeedsOf are what parts of a model need, with what it inherits; nil when the
// catalogue has no such model.
func (v *Vocabulary) NeedsOf(kind, name string) []Need {
	if r := v.model(kind, name); r != nil {
		return r.needs
	}
	return nil
}

// ReplacedBy are the keys of needs of its kind that a model has in its own way or drops.
func (v *Vocabulary) ReplacedBy(kind, name string) []string {
	if r := v.model(kind, name); r != nil {
		return r.replaces
	}
	return nil
}

// UsesOf are what a part of a model takes of the capacities of its machine.
func (v *Vocabulary) UsesOf(kind, name string) []Use {
	if r := v.model(kind, name); r != nil {
		return r.uses
	}
	return nil
}

// Features are what builds of a kind can have.
func (v *Vocabulary) Features(kind string) []Feature {
	for _, k := range v.likes[kind] {
		if f := v.Catalogue.Kinds[v.kinds[k]].Features; len(f) > 0 {
			return f
		}
	}
	return nil
}

// Feature finds a feature of builds of a kind by its name.
func (v *Vocabulary) Feature(kind, name string) (Feature, bool) {
	for _, f := range v.Features(kind) {
		if fold(f.Name) == fold(name) {
			return f, true
		}
	}
	return Feature{}, false
}

// featureFaults names what is wrong with the features of a kind.
func (k *PartKind) featureFaults(say func(string, ...any)) {
	if len(k.Features) > MostFeatures {
		say("kind %q has %d features; at most %d are right", k.Key, len(k.Features), MostFeatures)
	}
	seen := map[string]bool{}
	for _, f := range k.Features {
		if err := PlainText(f.Name); err != nil {
			say("a feature of %s: its name: %s", k.Key, err)
		}
		if seen[fold(f.Name)] {
			say("feature %q of %s is there twice", f.Name, k.Key)
		}
		seen[fold(f.Name)] = true
		if !(f.KiB >= 0 && f.KiB <= 100_000) {
			say("feature %q of %s takes 0 to 100000 KiB of flash", f.Name, k.Key)
		}
		needFaults(fmt.Sprintf("feature %q of %s", f.Name, k.Key), f.Needs, say)
	}
}
