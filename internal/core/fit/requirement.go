package fit

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"wardifex/internal/core/machine"
)

// Op compares a trait with values.
type Op string

const (
	Equal    Op = "equal"
	OneOf    Op = "one of"
	AtLeast  Op = "at least"
	AtMost   Op = "at most"
	Between  Op = "between" // two values, both included
	Contains Op = "contains"
	Present  Op = "present" // the slot holds a part; Trait is the model
	Absent   Op = "absent"  // the slot is empty; Trait is the model
	Version  Op = "version at least"
	// Compatible is a version that is not older and of the same line.
	Compatible Op = "compatible version"
	Known      Op = "known" // whatever it is
)

// Requirement is one need of a kit. Exactly one of All, Any, None, Test,
// Formula, Kit and Further is set.
type Requirement struct {
	All  []Requirement `json:"all,omitempty"`
	Any  []Requirement `json:"any,omitempty"`
	None []Requirement `json:"none,omitempty"`

	Test    *Test    `json:"test,omitempty"`
	Formula *Formula `json:"formula,omitempty"`
	Kit     *KitRef  `json:"kit,omitempty"`
	Further *Further `json:"further,omitempty"`

	Label     string `json:"label" doc:"The need in plain words"`
	Why       string `json:"why,omitempty" doc:"Why the kit needs it"`
	Otherwise string `json:"otherwise,omitempty" doc:"What would change a no"`
	HowTo     string `json:"howTo,omitempty" doc:"How to find it out, where the inspections do not say enough"`
	Hazard    string `json:"hazard,omitempty" doc:"What happens to people or machine when it is ignored"`
}

// KitRef is another kit that must be fitted: what it puts into a slot stands.
// Under none it must not be.
type KitRef struct {
	Key   string `json:"key" doc:"Of the other kit"`
	Slot  string `json:"slot"`
	Model string `json:"model" doc:"What the other kit fits"`
}

// Test compares one trait with values.
type Test struct {
	Slot   string        `json:"slot"`
	Trait  string        `json:"trait"`
	Op     Op            `json:"op"`
	Values []string      `json:"values,omitempty"`
	Least  machine.Grade `json:"least" doc:"The weakest grade of evidence that decides"`
}

// Further is a change that would have to be made as well. As a requirement it
// is met on the level If: always open, never free.
type Further struct {
	Key     string        `json:"key"`
	Title   string        `json:"title"`
	Price   float64       `json:"price" doc:"In the shop's currency"`
	Minutes int           `json:"minutes"`
	Effects []Effect      `json:"effects,omitempty"`
	Uses    []Use         `json:"uses,omitempty" doc:"What it takes of the machine's budgets besides the kit, or frees"`
	Steps   []FittingStep `json:"steps"`
}

// FittingStep is one step as the kit's maker or the shop describes it.
type FittingStep struct {
	Title    string   `json:"title"`
	Do       string   `json:"do"`
	Cautions []string `json:"cautions,omitempty"`
	Phase    string   `json:"phase,omitempty" doc:"fit or wire; fit when empty"`
}

// Kit is an upgrade: what it asks for and what it does.
type Kit struct {
	Key           string        `json:"key"`
	Name          string        `json:"name"`
	What          string        `json:"what" doc:"Kind of upgrade"`
	About         string        `json:"about"`
	Price         float64       `json:"price"`
	Minutes       int           `json:"minutes"`
	Skill         string        `json:"skill"`
	Parts         []string      `json:"parts"`
	Tools         []string      `json:"tools"`
	Needs         Requirement   `json:"needs"`
	Effects       []Effect      `json:"effects"`
	Steps         []FittingStep `json:"steps"`
	Uses          []Use         `json:"uses,omitempty" doc:"What it takes of the machine's budgets, or frees"`
	Screws        []string      `json:"screws,omitempty"`
	SoldFor       []string      `json:"soldFor,omitempty" doc:"Machines that its seller lists, as they are sold: a claim that decides nothing"`
	Risk          string        `json:"risk,omitempty" doc:"What may go wrong, in a few words"`
	BedGrams      float64       `json:"bedGrams,omitempty" doc:"Mass added to the bed, g"`
	AreaLoss      [3]float64    `json:"areaLoss,omitempty" doc:"Print area lost in X, Y and Z, mm; negative when it grows"`
	Slicer        []string      `json:"slicer,omitempty" doc:"What changes in the slicer"`
	ToolheadGrams float64       `json:"toolheadGrams,omitempty" doc:"Mass added to the toolhead, g"`
	NewBuild      string        `json:"newBuild,omitempty" doc:"What a new firmware build must have; empty when none is needed"`
	StartCode     []string      `json:"startCode,omitempty" doc:"What changes in start code and sliced files"`
}

// Check says what is wrong with a kit besides its needs; NewJudge checks those.
func (k Kit) Check() error {
	for _, t := range []struct{ what, text string }{{"key", k.Key}, {"name", k.Name}, {"kind of upgrade", k.What}} {
		if strings.TrimSpace(t.text) == "" {
			return fmt.Errorf("the kit needs a %s", t.what)
		}
	}
	if !(k.Price >= 0) || math.IsInf(k.Price, 0) || k.Minutes < 0 || k.Minutes > 6000 {
		return errors.New("a price is not negative, and minutes lie between 0 and 6000")
	}
	return nil
}

// Claim is what the seller's list says of a machine, sold under a name; empty
// when there is no list. It decides nothing: machines of one name differ inside.
func (k Kit) Claim(soldAs string) string {
	switch {
	case len(k.SoldFor) == 0 || strings.TrimSpace(soldAs) == "":
		return ""
	case slices.ContainsFunc(k.SoldFor, func(s string) bool { return strings.EqualFold(s, soldAs) }):
		return "Its seller lists the " + soldAs + ". That is a claim: machines of one name differ inside, and what is inside decides."
	}
	return "Its seller lists " + strings.Join(k.SoldFor, ", ") + ", not the " + soldAs + ". That is a claim too: what is inside decides."
}
