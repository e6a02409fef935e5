package change

import (
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// Exchange is one slot whose part is changed.
type Exchange struct {
	Slot   string `json:"slot"`
	Label  string `json:"label"`
	Before string `json:"before"`
	After  string `json:"after"`
}

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
	slots, err := c.placed()
	if err != nil {
		return c, err
	}
	c.After = before.With(slots, machine.Read)
	c.Restated = restates(before, c.After)
	for _, a := range kit.Alters(before, further) {
		c.After = c.After.Assume(a.Key, a.Value, a.Grade)
	}
	if c.Flashes() {
		// The family stays, unless it is what the kit changes; all else of the build is to be read off the machine.
		family, changes := slots["firmware"]["family"]
		slots["firmware"] = map[string]machine.Value{machine.ModelTrait: {Text: newBuildModel}}
		if before := before.Fact("firmware.family"); !changes && before.Known() {
			family = before.Value
		}
		if !family.IsZero() {
			slots["firmware"]["family"] = family
		}
		c.After = c.After.With(map[string]map[string]machine.Value{"firmware": slots["firmware"]}, machine.Read)
	}
	c.exchange(slots)
	return c, nil
}

// ByHand is the exchange of one part for a model that somebody made outside of
// any kit; the build was left as it is.
func ByHand(slot, model string, before machine.Snapshot) (Change, error) {
	c := Change{Kit: fit.Kit{Key: "by-hand", Effects: []fit.Effect{{Slot: slot, Model: model}}}, Before: before, Exchanges: []Exchange{}}
	slots, err := c.placed()
	if err != nil {
		return c, err
	}
	c.After = before.With(slots, machine.Read)
	c.exchange(slots)
	return c, nil
}

// placed are the values that the effects put into their slots.
func (c Change) placed() (map[string]map[string]machine.Value, error) {
	slots := map[string]map[string]machine.Value{}
	for _, e := range c.Effects() {
		values, err := e.Values(c.Before.Vocabulary())
		if err != nil {
			return nil, err
		}
		slots[e.Slot] = values
	}
	return slots, nil
}

// exchange lists the slots whose parts are changed, in the order of the sheet.
func (c *Change) exchange(slots map[string]map[string]machine.Value) {
	for _, s := range c.Before.Vocabulary().Slots {
		if _, ok := slots[s.Key]; ok {
			c.Exchanges = append(c.Exchanges, Exchange{Slot: s.Key, Label: s.Label, Before: named(c.Before, s.Key), After: named(c.After, s.Key)})
		}
	}
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
