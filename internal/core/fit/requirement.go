package fit

import "wardifex/internal/core/machine"

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
)

// Requirement is one need of a kit. Exactly one of All, Any, None, Test, Sum
// and Further is set.
type Requirement struct {
	All  []Requirement `json:"all,omitempty"`
	Any  []Requirement `json:"any,omitempty"`
	None []Requirement `json:"none,omitempty"`

	Test    *Test    `json:"test,omitempty"`
	Sum     *Sum     `json:"sum,omitempty"`
	Further *Further `json:"further,omitempty"`

	Label     string `json:"label" doc:"The need in plain words"`
	Why       string `json:"why,omitempty" doc:"Why the kit needs it"`
	Otherwise string `json:"otherwise,omitempty" doc:"What would change a no"`
}

// Test compares one trait with values.
type Test struct {
	Slot   string        `json:"slot"`
	Trait  string        `json:"trait"`
	Op     Op            `json:"op"`
	Values []string      `json:"values,omitempty"`
	Least  machine.Grade `json:"least" doc:"The weakest grade of evidence that decides"`
}

// Sum asks that a signed sum of number traits is at least a value, such as
// flash − bootloader − build ≥ 5 KiB. A trait of a slot known to be empty
// counts as nothing.
type Sum struct {
	Terms   []Term        `json:"terms"`
	AtLeast float64       `json:"atLeast"`
	Unit    string        `json:"unit"`
	Least   machine.Grade `json:"least"`
}

// Term is one item of a sum.
type Term struct {
	Slot   string  `json:"slot"`
	Trait  string  `json:"trait"`
	Factor float64 `json:"factor" doc:"+1 for what there is, −1 for what is taken"`
}

// Further is a change that would have to be made as well. As a requirement it
// is met on the level If: always open, never free.
type Further struct {
	Key     string        `json:"key"`
	Title   string        `json:"title"`
	Price   float64       `json:"price" doc:"In the shop's currency"`
	Minutes int           `json:"minutes"`
	Effects []Effect      `json:"effects,omitempty"`
	Steps   []FittingStep `json:"steps"`
}

// Effect exchanges what is in a slot.
type Effect struct {
	Slot   string            `json:"slot"`
	Model  string            `json:"model" doc:"The model fitted, or none when the slot is emptied"`
	Traits map[string]string `json:"traits,omitempty" doc:"What the new part is known to be"`
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
	ToolheadGrams float64       `json:"toolheadGrams,omitempty" doc:"Mass added to the toolhead, g"`
	NewBuild      string        `json:"newBuild,omitempty" doc:"What a new firmware build must have; empty when none is needed"`
	StartCode     []string      `json:"startCode,omitempty" doc:"What changes in start code and sliced files"`
}
