package machine

import (
	"fmt"
	"strings"
)

// Op compares a trait with values.
type Op string

// Requirement is something that must be so on a machine, as people write it: of a kit
// that is fitted, or of a part as long as it is fitted. Exactly one of All, Any, None,
// Test, Formula, Kit and Additional is set; Kit and Additional are for kits only.
type Requirement struct {
	All  []Requirement `json:"all,omitempty"`
	Any  []Requirement `json:"any,omitempty"`
	None []Requirement `json:"none,omitempty"`

	Test       *Test             `json:"test,omitempty"`
	Formula    *Formula          `json:"formula,omitempty"`
	Kit        *KitRef           `json:"kit,omitempty"`
	Additional *AdditionalChange `json:"further,omitempty"`

	Label     string `json:"label" doc:"The need in plain words"`
	Why       string `json:"why,omitempty" doc:"Why it is needed"`
	Otherwise string `json:"otherwise,omitempty" doc:"What would change a no"`
	HowTo     string `json:"howTo,omitempty" doc:"How to find it out, where the inspections do not say enough"`
	Hazard    string `json:"hazard,omitempty" doc:"What happens to people or machine when it is ignored"`
	// Harmless needs, and what is within them, may be decided by a claim. Whatever else
	// decides is at least marked.
	Harmless bool `json:"harmless,omitempty" doc:"A claim may decide it: a mistake costs nothing"`
}

// KitRef is another kit that must be fitted: what it puts at a position stands.
// Under none it must not be.
type KitRef struct {
	Key   string `json:"key" doc:"Of the other kit"`
	Slot  string `json:"slot"`
	Model string `json:"model" doc:"What the other kit fits"`
}

// Test compares one trait with values, at a position or at those that are selected.
type Test struct {
	Slot   string    `json:"slot,omitempty" doc:"Key of a position; empty where parts are selected"`
	Of     *Selector `json:"of,omitempty" doc:"The parts that are asked, seen from the one that needs it"`
	Trait  string    `json:"trait"`
	Op     Op        `json:"op"`
	Values []string  `json:"values,omitempty"`
	Own    string    `json:"own,omitempty" doc:"A trait of the part that needs it, to compare with instead of values"`
	// At least marked unless the need is harmless.
	Least Grade `json:"least" doc:"The weakest grade of evidence that decides"`
}

// Formula compares two sums of facts, with arithmetic and units; see package fit.
type Formula struct {
	Text string `json:"text" maxLength:"400"`
	// Own.trait is of the one that needs it.
	Of    *Selector `json:"of,omitempty" doc:"The parts that it is asked of, each as part.trait"`
	Least Grade     `json:"least" doc:"The weakest grade of evidence that decides"`
}

// AdditionalChange is a change that would have to be made as well. As a requirement it
// is met on the level If: always open, never free.
type AdditionalChange struct {
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
	Lines    []string `json:"lines,omitempty" doc:"What is gone through one by one"`
}

// Use is what a kit or a part takes of a capacity, or frees when negative.
type Use struct {
	Capacity string  `json:"budget"`
	Amount   float64 `json:"amount" doc:"In the capacity's unit; negative when it frees"`
	For      string  `json:"for,omitempty" doc:"What takes it"`
	Keep     float64 `json:"keep,omitempty" doc:"What must be left over, in the capacity's unit"`
	// The first when empty.
	On string `json:"on,omitempty" doc:"Key of the position that has it, where a machine has several"`
}

// Effect is what a kit does at a position: it fits a new part, leaves the position
// empty, moves the part of another position there, or sets something of the part that
// stays.
type Effect struct {
	Slot  string `json:"slot"`
	Model string `json:"model" doc:"The model fitted, or none when the position is emptied; empty with from"`
	// Which is left empty, or the position itself, whose part stays.
	From   string            `json:"from,omitempty" doc:"The position whose part it is from now on: another of its kind"`
	Traits map[string]string `json:"traits,omitempty" doc:"What the part is known to be afterwards"`
	Adds   map[string]string `json:"adds,omitempty" doc:"By how much numbers of a part that stays are changed, as +230 mm"`
}

// Stays reports whether the part stays at its position and is set otherwise.
func (e Effect) Stays() bool { return e.From != "" && e.From == e.Slot }

// Moves reports whether the part of another position is moved here.
func (e Effect) Moves() bool { return e.From != "" && e.From != e.Slot }

// Fits reports whether a new part is fitted.
func (e Effect) Fits() bool { return e.From == "" && e.Model != None }

// Values are the effect's traits in a vocabulary, with the model of a new part
// among them.
func (e Effect) Values(voc *Vocabulary) (map[string]Value, error) {
	slot, ok := voc.Position(e.Slot)
	if !ok {
		return nil, fmt.Errorf("there is no position %q", e.Slot)
	}
	out := map[string]Value{}
	switch from, there := voc.Position(e.From); {
	case e.From == "" && strings.TrimSpace(e.Model) == "":
		return nil, fmt.Errorf("%s: say which model is fitted, or none where the position is left empty", slot.Label)
	case e.From == "":
		out[ModelTrait] = Value{Text: e.Model}
	case !there:
		return nil, fmt.Errorf("there is no position %q", e.From)
	case e.Model != "":
		return nil, fmt.Errorf("%s: either a model is fitted, or the part of %s is used", slot.Label, from.Label)
	case from.Kind != slot.Kind:
		return nil, fmt.Errorf(
			"the part of %s cannot be moved to %s: they hold parts of different kinds",
			from.Label,
			slot.Label,
		)
	case e.Stays() && len(e.Traits) == 0 && len(e.Adds) == 0:
		return nil, fmt.Errorf("%s: its part stays; say what of it is set otherwise", slot.Label)
	}
	if len(e.Adds) > 0 && !e.Stays() {
		return nil, fmt.Errorf("%s: only of a part that stays can a number be changed by an amount", slot.Label)
	}
	for name, written := range e.Traits {
		t, ok := voc.Trait(KeyOf(e.Slot, name))
		if !ok {
			return nil, fmt.Errorf("position %s has no trait %q", e.Slot, name)
		}
		v, err := t.ParseRecorded(written)
		if err != nil {
			return nil, err
		}
		out[name] = v
	}
	return out, nil
}

// Amounts are by how much the effect changes numbers of a part that stays, in the unit
// of each trait.
func (e Effect) Amounts(voc *Vocabulary) (map[string]float64, error) {
	if len(e.Adds) == 0 {
		return nil, nil
	}
	out := map[string]float64{}
	for name, written := range e.Adds {
		t, ok := voc.Trait(KeyOf(e.Slot, name))
		switch {
		case !ok:
			return nil, fmt.Errorf("position %s has no trait %q", e.Slot, name)
		case t.Kind != Number:
			return nil, fmt.Errorf("%s is no number: nothing can be added to it", t.Label)
		case e.Traits[name] != "":
			return nil, fmt.Errorf("%s is set and added to; say it in one", t.Label)
		}
		unbounded := *t
		unbounded.Min, unbounded.Max = 0, 0
		v, err := unbounded.ParseRecorded(written)
		if err != nil {
			return nil, err
		}
		out[name] = v.Number
	}
	return out, nil
}
