package change

import (
	"maps"
	"slices"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Fitting is a part that the finished work has put at a position, with what is
// known of it, values as text.
type Fitting struct {
	Slot   string
	From   string            // the position that the part is moved from; empty for a new one
	Traits map[string]string // of a new part, as it is stated to be, the model among them
	Found  map[string]string // what was read off it at a step
	// Carried is what the part before was known to be and the new one should be too,
	// as the work asked: a build keeps the settings of its machine. Nobody has read it.
	Carried map[string]string
	Takes   []machine.Taking // what it takes of the machine's capacities
}

// AsFitted is the record that the finished work makes: the parts moved, fitted
// and taken out, and the new build with what was read off the machine. What is
// set of parts that stay is in Change.Set, and what is taken by no part is with
// the empty slot.
func (c Change) AsFitted(results []Result, now time.Time) []Fitting {
	var out []Fitting
	for _, e := range c.Effects {
		if e.Moves() {
			out = append(out, Fitting{Slot: e.Slot, From: e.From})
		}
	}
	for _, slot := range fit.Leaves(c.Effects) {
		out = append(out, Fitting{Slot: slot, Traits: map[string]string{machine.ModelTrait: machine.None}})
	}
	for _, e := range c.Effects {
		if e.From != "" || isBuild(c.Before, e.Slot) && c.Build {
			continue // moved, set, or the new build, below
		}
		traits := map[string]string{machine.ModelTrait: e.Model}
		if found := c.foundModel(results, e.Slot); found != "" {
			traits[machine.ModelTrait] = found // another part: what the kit states of its own is not so of it
		} else {
			maps.Copy(traits, e.Traits)
		}
		out = append(out, Fitting{Slot: e.Slot, Traits: traits})
	}
	if c.Build {
		out = append(out, c.newBuild(results, now)...)
	}
	taken := map[string][]machine.Taking{}
	for _, t := range c.Taken {
		taken[t.Slot] = append(taken[t.Slot], t)
	}
	for i := range out {
		out[i].Takes = taken[out[i].Slot]
		delete(taken, out[i].Slot)
	}
	for _, slot := range slices.Sorted(maps.Keys(taken)) { // by no part that was fitted
		out = slices.Insert(out, 0, Fitting{Takes: taken[slot]})
	}
	return out
}

// foundModel is the model that was found to be delivered for a position where it is another one than the change
// states; empty where nobody looked, or it is the same.
func (c Change) foundModel(results []Result, slot string) string {
	at := c.After.Vocabulary().At(slot)
	for _, r := range results {
		found := r.Readings[machine.KeyOf(slot, machine.ModelTrait)]
		if at != nil && found != "" && !c.After.Vocabulary().SameModel(at.Kind, found, c.After.Model(slot)) {
			return found
		}
	}
	return ""
}

// newBuild is the build that was flashed: its family and what was read off the
// screen, and what it should have kept of the one before.
func (c Change) newBuild(results []Result, now time.Time) []Fitting {
	at := c.After.First(parts.Firmware)
	if at == nil {
		return nil
	}
	f := Fitting{Slot: at.Key, Found: map[string]string{}, Carried: map[string]string{},
		Traits: map[string]string{machine.ModelTrait: "build of " + now.Format(civil.Shown)}}
	for _, res := range results {
		for k, v := range res.Readings {
			if k.Slot() == at.Key {
				f.Found[k.Trait()] = v
			}
		}
	}
	for _, t := range c.After.Vocabulary().TraitsAt(at.Key) {
		fact := c.After.At(t)
		switch _, found := f.Found[t.Name]; {
		case found || !fact.Known() || t.Name == machine.ModelTrait:
		case t.Name == parts.FirmwareFamily.Name:
			f.Found[t.Name] = fact.Value.Text
		default:
			f.Carried[t.Name] = fact.Value.Text
		}
	}
	return []Fitting{f}
}

// Reenter is the key of the step at which the values of a lost store are
// entered again.
const Reenter = "re-enter"
