package change

import (
	"slices"
	"strings"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// Exchange is one slot whose part is changed.
type Exchange struct {
	Slot   string `json:"slot"`
	Label  string `json:"label"`
	Before string `json:"before"`
	After  string `json:"after"`
	Stays  bool   `json:"stays,omitempty" doc:"The part stays, and is set otherwise"`
}

// touches reports whether what rests on the slot has to be looked at again: not
// when a setting of the build that runs is changed.
func (x Exchange) touches() bool { return !x.Stays || x.Slot != "firmware" }

// Change is an upgrade on one machine: the machine before and after.
type Change struct {
	Kit       fit.Kit
	Further   []fit.Further
	Before    machine.Snapshot
	After     machine.Snapshot
	Exchanges []Exchange
	Restated  []string // what the build states otherwise afterwards
}

// newBuildModel stands for the build that the work will flash.
const newBuildModel = "new build"

// NewChange applies a kit and the further changes under which it fits. The kit
// must have passed fit.NewJudge. Where something changes that a build states,
// or the kit says so, the build is exchanged too.
func NewChange(kit fit.Kit, further []fit.Further, before machine.Snapshot) (Change, error) {
	c := Change{Kit: kit, Further: further, Before: before, Exchanges: []Exchange{}}
	var err error
	if c.After, err = fit.Apply(c.Effects(), before); err != nil {
		return c, err
	}
	c.Restated = restates(before, c.After)
	if c.Flashes() {
		// The family stays, unless it is what the kit changes; all else of the build is to be read off the machine.
		build := map[string]machine.Value{machine.ModelTrait: {Text: newBuildModel}}
		family := before.Fact("firmware.family")
		if c.states("firmware", "family") {
			family = c.After.Fact("firmware.family")
		}
		if family.Known() {
			build["family"] = family.Value
		}
		c.After = c.After.With(map[string]map[string]machine.Value{"firmware": build}, machine.Read)
	}
	for _, a := range kit.Alters(before, further) {
		c.After = c.After.Assume(a.Key, a.Value, a.Grade)
	}
	c.exchange()
	return c, nil
}

// states reports whether an effect states a trait of a slot.
func (c Change) states(slot, trait string) bool {
	return slices.ContainsFunc(c.Effects(), func(e fit.Effect) bool { return e.Slot == slot && e.Traits[trait] != "" })
}

// ByHand is the exchange of one part for a model that somebody made outside of
// any kit; the build was left as it is.
func ByHand(slot, model string, before machine.Snapshot) (Change, error) {
	c := Change{Kit: fit.Kit{Key: "by-hand", Effects: []fit.Effect{{Slot: slot, Model: model}}}, Before: before, Exchanges: []Exchange{}}
	var err error
	if c.After, err = fit.Apply(c.Kit.Effects, before); err != nil {
		return c, err
	}
	c.exchange()
	return c, nil
}

// exchange lists the slots that are not as they were, in the order of the sheet.
func (c *Change) exchange() {
	effects := c.Effects()
	left := fit.Leaves(effects)
	for _, s := range c.Before.Vocabulary().Slots {
		x := Exchange{Slot: s.Key, Label: s.Label, Before: named(c.Before, s.Key), After: named(c.After, s.Key)}
		at := slices.IndexFunc(effects, func(e fit.Effect) bool { return e.Slot == s.Key })
		switch {
		case s.Key == "firmware" && c.Flashes():
		case at < 0 && !slices.Contains(left, s.Key):
			continue
		case at >= 0 && effects[at].Stays():
			x.set(effects[at], c.Before, c.After)
		}
		c.Exchanges = append(c.Exchanges, x)
	}
}

// set says what is set otherwise of a part that stays.
func (x *Exchange) set(e fit.Effect, before, after machine.Snapshot) {
	x.Stays = true
	var labels, was, is []string
	for _, t := range before.Vocabulary().Traits {
		if _, set := e.Traits[t.Name]; set && t.Slot == e.Slot {
			labels, was, is = append(labels, t.Short), append(was, t.Show(before.Fact(t.Key()).Value)), append(is, t.Show(after.Fact(t.Key()).Value))
		}
	}
	x.Label += ": " + strings.Join(labels, ", ")
	x.Before, x.After = strings.Join(was, ", "), strings.Join(is, ", ")
}

// Effects are the kit's effects and those of the further changes.
func (c Change) Effects() []fit.Effect {
	var out []fit.Effect
	for _, f := range c.Further {
		out = append(out, f.Effects...)
	}
	return append(out, c.Kit.Effects...)
}

// Cost is the price, in the shop's currency, and the minutes of the kit with
// its further changes.
func (c Change) Cost() (price float64, minutes int) {
	return c.Kit.Cost(c.Further)
}

func named(s machine.Snapshot, slot string) string {
	if name, _ := s.Named(slot); name != "" {
		return name
	}
	return "unknown"
}
