package fit

import (
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"wardifex/internal/core/machine"
)

// Kit is an upgrade: what it asks for and what it does.
type Kit struct {
	Key     string      `json:"key"`
	Name    string      `json:"name"`
	What    string      `json:"what" doc:"Kind of upgrade"`
	About   string      `json:"about"`
	Price   float64     `json:"price"`
	Minutes int         `json:"minutes"`
	Skill   string      `json:"skill"`
	Parts   []string    `json:"parts"`
	Tools   []string    `json:"tools"`
	Needs   Requirement `json:"needs" doc:"At fitting: on the machine as it then is"`
	// And must be so on the machine that it ends in.
	Result *Requirement `json:"result,omitempty" doc:"What it is for"`
	// Where it is written for head 1: that one when empty, any one, or each of them.
	Heads   string             `json:"heads,omitempty" enum:"any,each," doc:"Which head it is for"`
	Options []AdditionalChange `json:"options,omitempty" doc:"Additional changes that it offers, whatever they help"`
	Effects []Effect           `json:"effects"`
	Steps   []FittingStep      `json:"steps"`
	Uses    []Use              `json:"uses,omitempty" doc:"What it takes of the machine's budgets, or frees"`
	Screws  []string           `json:"screws,omitempty"`
	// A claim that decides nothing.
	SoldFor       []string   `json:"soldFor,omitempty" doc:"Machines that its seller lists, as they are sold"`
	Risk          string     `json:"risk,omitempty" doc:"What may go wrong, in a few words"`
	BedGrams      float64    `json:"bedGrams,omitempty" doc:"Mass added to the bed, g"`
	AreaLoss      [3]float64 `json:"areaLoss,omitempty" doc:"Print area lost in X, Y and Z, mm; negative when it grows"`
	Slicer        []string   `json:"slicer,omitempty" doc:"What changes in the slicer"`
	ToolheadGrams float64    `json:"toolheadGrams,omitempty" doc:"Mass added to the toolhead, g"`
	// Empty when none is needed.
	NewBuild  string   `json:"newBuild,omitempty" doc:"What a new firmware build must have"`
	StartCode []string `json:"startCode,omitempty" doc:"What changes in start code and sliced files"`
}

// mostPrice is the greatest price of a kit, in any currency: sums of them stay exact.
const mostPrice = 1e9

var safeKey = regexp.MustCompile(`^[a-z0-9][a-z0-9._-]{0,99}$`)

// Check says what is wrong with a kit besides its needs; NewJudge checks those.
func (k Kit) Check() error {
	for _, t := range []struct{ what, text string }{{"key", k.Key}, {"name", k.Name}, {"kind of upgrade", k.What}} {
		if strings.TrimSpace(t.text) == "" {
			return fmt.Errorf("the kit needs a %s", t.what)
		}
	}
	if !safeKey.MatchString(k.Key) {
		return errors.New(
			"a kit's key stands in addresses: it has small letters, digits, hyphens, dots and underscores, begins with a " +
				"letter or digit, and has at most 100 characters",
		)
	}
	if !(k.Price >= 0) || k.Price > mostPrice || k.Minutes < 0 || k.Minutes > 6000 {
		return fmt.Errorf("a price lies between 0 and %.0f, and minutes between 0 and 6000", float64(mostPrice))
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
		return "Its seller lists the " + soldAs + ". That is a claim: machines of one name differ inside, and what is " +
			"inside decides."
	}
	return "Its seller lists " + strings.Join(
		k.SoldFor,
		", ",
	) + ", not the " + soldAs + ". That is a claim too: what is inside decides."
}

// CheckTyped checks the numbers that were typed into a kit: an error is of one with two
// meanings, or of one that cannot be.
func (k Kit) CheckTyped(voc *machine.Vocabulary) error {
	needs := []Requirement{k.Needs}
	if k.Result != nil {
		needs = append(needs, *k.Result)
	}
	for _, r := range needs {
		if err := r.CheckTyped(voc); err != nil {
			return err
		}
	}
	for _, f := range append([]AdditionalChange{{Effects: k.Effects}}, k.Options...) {
		if err := f.CheckTyped(voc); err != nil {
			return err
		}
	}
	return nil
}
