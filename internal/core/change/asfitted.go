package change

import (
	"fmt"
	"strings"
	"time"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// Fitting is a part that the finished work has put into a slot, with what is
// known of it, values as text.
type Fitting struct {
	Slot   string
	From   string            // the slot that the part is moved from; empty for a new one
	Traits map[string]string // of a new part, by trait name, the model among them
}

// AsFitted is the record that the finished work makes: the parts moved, fitted
// and taken out, and the new build with what was read off the machine. What is
// set of parts that stay is among what the kit alters.
func (c Change) AsFitted(results []Result, now time.Time) []Fitting {
	var out []Fitting
	effects := c.Effects()
	for _, e := range effects {
		if e.Moves() {
			out = append(out, Fitting{Slot: e.Slot, From: e.From})
		}
	}
	for _, slot := range fit.Leaves(effects) {
		out = append(out, Fitting{Slot: slot, Traits: map[string]string{machine.ModelTrait: machine.None}})
	}
	for _, e := range effects {
		if e.From != "" || e.Slot == "firmware" && c.Flashes() {
			continue // moved, altered, or the new build, below
		}
		traits := map[string]string{machine.ModelTrait: e.Model}
		for name, value := range e.Traits {
			traits[name] = value
		}
		out = append(out, Fitting{Slot: e.Slot, Traits: traits})
	}
	if !c.Flashes() {
		return out
	}
	traits := map[string]string{machine.ModelTrait: "build of " + now.Format("2006-01-02")}
	if family := c.After.Fact("firmware.family"); family.Known() {
		traits["family"] = family.Value.Text
	}
	for _, res := range results {
		for k, v := range res.Readings {
			traits[strings.TrimPrefix(string(k), "firmware.")] = v
		}
	}
	return append(out, Fitting{Slot: "firmware", Traits: traits})
}

// Reenter is the key of the step at which the values of a wiped store are
// entered again.
const Reenter = "re-enter"

// EnteredAgain are the records of the values that were entered again: the old
// numbers, good from now on, since the parts they rest on are untouched.
func EnteredAgain(voided []Voided, records []Record, by string, at time.Time) []Record {
	newest := Newest(records)
	var out []Record
	for _, v := range voided {
		if v.Remedy != EnterAgain {
			continue
		}
		r := newest[v.Kind]
		r.At, r.By, r.Void = at, by, nil
		r.Method = fmt.Sprintf("entered again after the new build (%s)", r.Method)
		out = append(out, r)
	}
	return out
}
