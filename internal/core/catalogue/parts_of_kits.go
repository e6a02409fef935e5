package catalogue

import (
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

func test(label, slot, trait string, op fit.Op, least machine.Grade, values ...string) fit.Requirement {
	return fit.Requirement{Label: label, Test: &fit.Test{Slot: slot, Trait: trait, Op: op, Values: values, Least: least}}
}

// read is a test that a reading decides; said one that a claim may: a mistake costs
// nothing.
func read(label, slot, trait string, op fit.Op, values ...string) fit.Requirement {
	return test(label, slot, trait, op, machine.Read, values...)
}

func said(label, slot, trait string, op fit.Op, values ...string) fit.Requirement {
	r := test(label, slot, trait, op, machine.Claimed, values...)
	r.Harmless = true
	return r
}

// marked is a test that whatever is printed on a part decides.
func marked(label, slot, trait string, op fit.Op, values ...string) fit.Requirement {
	return test(label, slot, trait, op, machine.Marked, values...)
}

func formula(label, text string) fit.Requirement { return formulaOf(machine.Read, label, text) }

// formulaOf is a formula that weaker evidence decides, such as what is printed.
func formulaOf(least machine.Grade, label, text string) fit.Requirement {
	return fit.Requirement{Label: label, Formula: &fit.Formula{Text: text, Least: least}}
}

func because(r fit.Requirement, why, otherwise string) fit.Requirement {
	r.Why, r.Otherwise = why, otherwise
	return r
}

func dangerous(r fit.Requirement, hazard string) fit.Requirement { r.Hazard = hazard; return r }

func anyOf(label, why, otherwise string, parts ...fit.Requirement) fit.Requirement {
	return fit.Requirement{Label: label, Why: why, Otherwise: otherwise, Any: parts}
}

func without(label, why, otherwise string, parts ...fit.Requirement) fit.Requirement {
	return fit.Requirement{Label: label, Why: why, Otherwise: otherwise, None: parts}
}

// fitted asks for another kit, whose part is in a slot.
func fitted(key, slot, model string) fit.Requirement {
	return fit.Requirement{Label: model + " is fitted", Kit: &fit.KitRef{Key: key, Slot: slot, Model: model}}
}

// further is a change under which a need is met.
func further(key, title string, price float64, minutes int, effects []fit.Effect, do string, cautions ...string) fit.Requirement {
	f := option(key, title, price, minutes, effects, do, cautions...)
	return fit.Requirement{Label: title, Further: &f}
}

// option is a change that a kit offers, whatever it helps.
func option(key, title string, price float64, minutes int, effects []fit.Effect, do string, cautions ...string) fit.Further {
	return fit.Further{Key: key, Title: title, Price: price, Minutes: minutes, Effects: effects,
		Steps: []fit.FittingStep{{Title: "Additional change: " + title, Do: do, Cautions: cautions}}}
}

func effect(slot, model string, traits ...string) fit.Effect {
	e := fit.Effect{Slot: slot, Model: model}
	for i := 0; i+1 < len(traits); i += 2 {
		if e.Traits == nil {
			e.Traits = map[string]string{}
		}
		e.Traits[traits[i]] = traits[i+1]
	}
	return e
}

// sets is what is set of a part that stays.
func sets(slot string, traits ...string) fit.Effect {
	e := effect(slot, "", traits...)
	e.From = slot
	return e
}

func use(capacity string, amount float64, what string) fit.Use {
	return fit.Use{Capacity: capacity, Amount: amount, For: what}
}

// keep is a use of which something must be left over.
func keep(u fit.Use, left float64) fit.Use { u.Keep = left; return u }

func fitStep(title, do string, cautions ...string) fit.FittingStep {
	return fit.FittingStep{Title: title, Do: do, Cautions: cautions}
}

func wireStep(title, do string, cautions ...string) fit.FittingStep {
	return fit.FittingStep{Title: title, Phase: "wire", Do: do, Cautions: append([]string{noPlugging}, cautions...)}
}

const (
	noPlugging = "Never plug with power on: it kills the board."
	coolHead   = "Hot nozzle and block: let them cool first."
	coolBed    = "Hot bed: let it cool first."
	aluminium  = "Tight, not too tight, in aluminium."
	dropping   = "The gantry drops when its motors are unpowered: hold it or block it."
	twoPeople  = "A big frame is lifted by two people."
	electrics  = "Mains wiring, relay and earth: a licensed electrician, or as local rules require. The earth wire goes back first and is checked."
)

var (
	hexKeys = []string{"hex keys 2 and 2.5 mm", "labels and a pen"}
	hosted  = read("The hosted family", "firmware", "family", fit.Equal, "hosted")
)

func needs(name string, all ...fit.Requirement) fit.Requirement {
	return fit.Requirement{Label: name, All: all}
}
