package fit

import (
	"cmp"
	"fmt"
	"slices"

	"wardifex/internal/core/machine"
)

// Loose is a part that is fitted nowhere, with what is known of it.
type Loose struct {
	Kind  string
	Facts map[string]machine.Fact // by trait, the model among them
}

// PartAt judges whether a loose part fits a position of a machine: what it needs there,
// what it takes, and what other parts need of whatever is there. The error says why it
// cannot be asked.
func PartAt(s machine.Snapshot, slot string, part Loose) (Verdict, error) {
	voc := s.Vocabulary()
	p := voc.At(slot)
	model := part.Facts[machine.ModelTrait]
	switch {
	case p == nil || !s.Has(p):
		return Verdict{}, fmt.Errorf("the machine has no position %q", slot)
	case !voc.Is(p.Kind, part.Kind) && !voc.Is(part.Kind, p.Kind):
		return Verdict{}, fmt.Errorf("%s holds parts of another kind", p.Label)
	}
	name := model.Value.Text
	if !model.Known() {
		name = "a part whose model is unknown"
	}
	o := machine.NewOverlay(voc)
	o.Fit(slot, map[string]machine.Value{machine.ModelTrait: {Text: name}}, max(model.Grade, machine.Claimed))
	for trait, f := range part.Facts {
		if f.Known() {
			o.Set(slot, map[string]machine.Value{trait: f.Value}, f.Grade)
		}
	}
	j := &Judge{voc: voc, Kit: Kit{Key: "part", Name: name, Effects: []Effect{{Slot: slot, Model: name}}}}
	j.change = &partChange{lasting: lastingOf(voc), inHand: true, overlay: o, effects: j.Kit.Effects, kit: j.Kit}
	j.root = node{kind: allNode, req: &Requirement{Label: name + " at " + p.Label}}
	x := consumptionOf(j.Kit, voc)
	for i := range capacities {
		c := &capacities[i]
		t := c.trialOf(voc, o, []consumption{x})
		t.inHand = true
		if len(t.uses) > 0 || c.ByParts && c.drawnOnBy(o, voc) {
			j.root.parts = append(
				j.root.parts,
				node{
					kind:     capacityKind,
					req:      &Requirement{Label: c.Title, Why: c.Why, Otherwise: c.Otherwise},
					capacity: &capacityNode{Capacity: c, trial: t},
				},
			)
		}
	}
	j.root.parts = append(j.root.parts, node{kind: lastingKind, lasting: j.change, req: j.root.req})
	return j.Verdict(s), nil
}

// Made is a kit with the additional changes that are made with it.
type Made struct {
	Kit        Kit
	Additional []AdditionalChange
}

// Together is what parts need after several kits between which the machine was not run.
type Together struct {
	Truth   Truth
	Open    []Outcome             // what is not met, or not told; only where it is to be read
	Failing []map[Dependency]bool // what each need looks at that surely is not met
}

// Parts judges what parts need after several kits, of which the machine was run after
// none but the last: after is the machine then. Each need that they touch together is
// judged once, at the end. brief leaves out what is to be read.
func Parts(before, after machine.Snapshot, made []Made, brief bool) (Together, error) {
	out := Together{Truth: isYes}
	all := Kit{Key: "together"}
	for _, m := range made {
		all.Effects = append(all.Effects, effectsOf(m.Additional)...)
		all.Effects = append(all.Effects, m.Kit.Effects...)
	}
	c, err := newPartChange(all, nil, before.Vocabulary())
	if err != nil || c.overlay == nil {
		return out, err
	}
	after = after.Specified(c.overlay)
	for _, x := range c.touched(before, after) {
		is := c.of(x, before, after)
		if is == isYes {
			continue
		}
		out.Truth = out.Truth.And(is)
		if is.Hi() == No {
			r := reader{voc: before.Vocabulary(), out: map[Dependency]bool{}}
			r.traits(x.looks)
			out.Failing = append(out.Failing, r.out)
		}
		if !brief {
			o := x.explain(after, c.overlay)
			o.truth = is
			o.settle()
			out.Open = append(out.Open, o)
		}
	}
	slices.SortStableFunc(out.Open, func(a, b Outcome) int { return cmp.Compare(a.truth&strictly, b.truth&strictly) })
	return out, nil
}

// Removal is what a machine is like without one of its parts.
type Removal struct {
	Breaks []Outcome `json:"breaks" doc:"Needs that are met now and will not be"`
	May    []Outcome `json:"may" doc:"Needs that may not be met then"`
}

// Without judges what breaks when the part at a position comes out.
func Without(s machine.Snapshot, slot string) Removal {
	out := Removal{Breaks: []Outcome{}, May: []Outcome{}}
	voc := s.Vocabulary()
	o := machine.NewOverlay(voc)
	o.Empty(slot)
	c := &partChange{lasting: lastingOf(voc), overlay: o}
	after := s.Over(o)
	for _, x := range c.touched(s, after) {
		was, is := x.root.truth(s), x.root.truth(after)
		switch {
		case x.at.Key == slot || is.Lo() == Yes || was.Hi() == No:
		case is.Hi() == No:
			out.Breaks = append(out.Breaks, x.explain(after, o))
		case was != is:
			out.May = append(out.May, x.explain(after, nil))
		}
	}
	for i := range capacities {
		cap := &capacities[i]
		if was, is := shortOf(cap, s), shortOf(cap, after); was.Hi() != No && is.Hi() == No && len(cap.holders(after)) > 0 {
			out.Breaks = append(out.Breaks, explainShort(cap, after, is))
		}
	}
	return out
}
