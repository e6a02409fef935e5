package fit

import (
	"fmt"
	"slices"
	"strings"
	"sync"

	"wardifex/internal/core/machine"
)

// Judge is a kit checked against a vocabulary and made ready for judging many machines.
// It may be shared.
type Judge struct {
	Kit    Kit
	voc    *machine.Vocabulary
	root   node
	change *partChange // the kit without additional changes

	fitting func() *Judge // what it needs at fitting alone
	targets *targets      // the heads that it can be for; nil for a certain one
	head    int           // the head that it is turned to
}

// NewJudge checks a kit as it is written: that every trait exists, that its
// values are of its kind and unit, that operators have as many values as they
// take, and that groups are not empty. Errors name the requirement.
func NewJudge(kit Kit, voc *machine.Vocabulary) (*Judge, error) {
	if kit.Heads != "" {
		return newTargets(kit, voc, false)
	}
	j := &Judge{Kit: kit, voc: voc}
	if err := once(kit.Effects, voc); err != nil {
		return nil, fmt.Errorf("kit %s: %w", kit.Key, err)
	}
	if isEmpty(&kit.Needs) && len(kit.Effects) == 0 && len(kit.Uses) == 0 && kit.Result == nil {
		return nil, fmt.Errorf("kit %s asks for nothing and does nothing: say what it needs, or what it fits", kit.Key)
	}
	var err error
	if j.change, err = newPartChange(kit, nil, voc); err != nil {
		return nil, fmt.Errorf("kit %s: %w", kit.Key, err)
	}
	b := &builder{kit: kit, voc: voc}
	if j.root, err = b.build(); err != nil {
		return nil, fmt.Errorf("kit %s: %w", kit.Key, err)
	}
	j.fitting = sync.OnceValue(func() *Judge {
		b := &builder{kit: kit, voc: voc, fittingOnly: true}
		alone := &Judge{Kit: kit, voc: voc, change: &partChange{lasting: lastingOf(voc)}}
		alone.root, _ = b.build() // checked above
		alone.fitting = func() *Judge { return alone }
		return alone
	})
	// As a whole, every additional change left open, its needs can be contradictory.
	whole, err := compiler{voc: voc}.whole(kit.Needs)
	if err != nil {
		return nil, fmt.Errorf("kit %s: %w", kit.Key, err)
	}
	if why := unsatisfiable(&whole); why != "" {
		return nil, fmt.Errorf("kit %s can never fit: %s", kit.Key, why)
	}
	return j, nil
}

// AtFitting is the same kit as far as it needs something while it is fitted, with its
// sums: what parts need as long as they are fitted, and what it is for, are left out. It
// judges a kit that is not run before others are in.
func (j *Judge) AtFitting() *Judge { return j.fitting() }

// Result is whether what a kit is for is so on a machine that was made with it.
func (j *Judge) Result(s machine.Snapshot) Truth {
	if j.targets != nil {
		return j.On(s).Result(s)
	}
	t := isYes
	for _, n := range j.results() {
		t = t.And(n.truth(s))
	}
	return t
}

// ResultSays says what of that is not so, in a sentence.
func (j *Judge) ResultSays(s machine.Snapshot) string {
	if j.targets != nil {
		return j.On(s).ResultSays(s)
	}
	for _, n := range j.results() {
		if n.truth(s) != isYes {
			o := n.explain(s)
			if f, ok := firstFailing(o); ok {
				return strings.TrimSpace("Not met at the end: " + f.Label + ". " + f.Otherwise)
			}
			return "Not told at the end: " + o.Label + "."
		}
	}
	return ""
}

func (j *Judge) results() []node {
	if j.Kit.Result == nil {
		return nil
	}
	n, err := compiler{voc: j.voc}.whole(*j.Kit.Result)
	if err != nil {
		return nil // checked when the judge was made
	}
	return []node{n}
}

// whole compiles needs of which there may be none.
func (c compiler) whole(r Requirement) (node, error) {
	if isEmpty(&r) {
		return node{kind: fixedNode, fixed: isYes, req: &r}, nil
	}
	return c.compile(&r, 0)
}

// Vocabulary is what the kit was checked against.
func (j *Judge) Vocabulary() *machine.Vocabulary { return j.voc }

// furthers are the additional changes that a kit offers, by themselves or among its needs.
func (k Kit) additionalChanges() []AdditionalChange {
	out := slices.Clone(k.Options)
	var walk func(r Requirement)
	walk = func(r Requirement) {
		if r.Additional != nil {
			out = append(out, *r.Additional)
		}
		for _, group := range [][]Requirement{r.All, r.Any, r.None} {
			for _, p := range group {
				walk(p)
			}
		}
	}
	walk(k.Needs)
	return out
}

func (k Kit) allEffects() []Effect {
	out := append([]Effect(nil), k.Effects...)
	for _, f := range k.additionalChanges() {
		out = append(out, f.Effects...)
	}
	return out
}
