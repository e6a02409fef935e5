package fit_test

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// A second evaluator of needs: as plain as it can be, written from the sentences of the model and sharing nothing with
// the one that it is held against but the facts of a machine. It judges a need once by the evidence that decides and
// once by claims too.

// may is what is left possible: the least and the greatest level, 0 not met, 1 met with an additional change, 2 met.
type may struct{ lo, hi int }

var isMet, notMet, isMade, isOpen = may{2, 2}, may{}, may{1, 1}, may{0, 2}

func (x may) and(y may) may { return may{min(x.lo, y.lo), min(x.hi, y.hi)} }
func (x may) or(y may) may  { return may{max(x.lo, y.lo), max(x.hi, y.hi)} }
func (x may) not() may      { return may{2 - x.hi, 2 - x.lo} }

func answered(sure, possible bool) may {
	return may{map[bool]int{true: 2}[sure], map[bool]int{true: 2}[possible]}
}

// known is what a machine says of a trait: values of one grade, of which one is true.
type known struct {
	grade  machine.Grade
	values []machine.Value
}

func (k known) is(text string) bool { return len(k.values) == 1 && k.values[0].Text == text }

// tells asks every value that may be true; a grade that is too weak, or no value, leaves it open.
func (k known) tells(least machine.Grade, holds func(machine.Value) (sure, possible bool)) may {
	if k.grade == machine.Unknown || k.grade < least {
		return isOpen
	}
	sure, possible := true, false
	for _, v := range k.values {
		s, p := holds(v)
		sure, possible = sure && s, possible || p
	}
	return answered(sure && possible, possible)
}

// reference judges one machine, with some changes made.
type reference struct {
	s              machine.Snapshot
	lean           bool              // claims decide what evidence leaves open
	own, part      *machine.Position // of the part that needs it; of the part that a formula is asked of
	guard          bool              // it says where something is needed
	lenient        bool              // what is asked is harmless
	made           map[machine.Key]known
	there          map[string]bool // positions that changes fill
	acting, chosen []string        // additional changes that change the machine, and those of them that are made
}

func (r *reference) at(slot, name string) known {
	t := traitOf(slot, name)
	if k, ok := r.made[t.Key()]; ok {
		return k
	}
	f := r.s.At(t)
	return known{f.Grade, f.Candidates()}
}

func (r *reference) has(p *machine.Position) bool { return r.s.Has(p) || r.there[p.Key] }

// leaf is decided by evidence of the grade that is asked, or by claims where those are taken too.
func (r *reference) leaf(asked machine.Grade, by func(least machine.Grade) may) may {
	weakest := map[bool]machine.Grade{true: machine.Claimed, false: machine.Marked}[r.lenient]
	if is := by(max(asked, weakest)); !r.lean || is.lo == is.hi {
		return is
	}
	return by(machine.Claimed)
}

func traitOf(slot, name string) *machine.Trait {
	t, _ := voc.Trait(machine.KeyOf(slot, name))
	return t
}

func isNone(v machine.Value) bool { return v.Text == "none" }

// sign is the best grade at which something is known of a part but its name and a bare yes or no.
func (r *reference) sign(slot string) (best machine.Grade) {
	for _, t := range voc.TraitsAt(slot) {
		if t.Name != "model" && t.Kind != machine.YesNo && t.Hint == "" {
			best = max(best, r.at(slot, t.Name).grade)
		}
	}
	return best
}

// present is whether a part is at a position.
func (r *reference) present(p *machine.Position) may {
	model, sign := r.at(p.Key, "model"), r.sign(p.Key)
	none := slices.ContainsFunc(model.values, isNone)
	// No machine is without the first part of an axis, of the bed or of its only head.
	first := p.Ordinal() == 1 && (p.Serves.Kind() == machine.AnAxis || p.Serves.Kind() == machine.ABed ||
		p.Serves.Head() == 1)
	return r.leaf(machine.Marked, func(least machine.Grade) may {
		switch one := len(model.values) == 1 && model.grade >= least; {
		case !r.has(p), one && none && (model.grade > machine.Claimed || sign == machine.Unknown):
			return notMet
		case one && !none, sign > machine.Unknown && sign >= least:
			return isMet
		case len(model.values) > 1 && model.grade >= least:
			return answered(!none, true)
		}
		return answered(first && !none, true)
	})
}

// need is how a requirement comes out.
func (r *reference) need(q fit.Requirement) may {
	was := r.lenient
	r.lenient = was || q.Harmless
	defer func() { r.lenient = was }()
	switch {
	case q.Test != nil && q.Test.Of == nil:
		return r.test(*q.Test, q.Test.Slot)
	case q.Test != nil:
		return r.selected(*q.Test.Of, q.Test.Op, func(p *machine.Position) may { return r.test(*q.Test, p.Key) })
	case q.Formula != nil && q.Formula.Of == nil:
		return r.formula(*q.Formula, nil)
	case q.Formula != nil:
		return r.selected(*q.Formula.Of, "", func(p *machine.Position) may { return r.formula(*q.Formula, p) })
	case q.Kit != nil:
		is := fit.Test{Trait: "model", Op: fit.Equal, Values: []string{q.Kit.Model}, Least: machine.Marked}
		return r.test(is, q.Kit.Slot)
	case q.Additional != nil:
		unmade := slices.Contains(r.acting, q.Additional.Key) && !slices.Contains(r.chosen, q.Additional.Key)
		return map[bool]may{true: notMet, false: isMade}[unmade]
	}
	all, some := isMet, notMet
	for _, p := range slices.Concat(q.All, q.Any, q.None) {
		is := r.need(p)
		all, some = all.and(is), some.or(is)
	}
	switch {
	case q.Any != nil:
		return some
	case q.None != nil:
		return some.not()
	}
	return all
}

// selected asks every selected part that is there, or some one.
func (r *reference) selected(of machine.Selector, op fit.Op, ask func(*machine.Position) may) may {
	all, some, none := isMet, notMet, true
	for i := range voc.Slots {
		p := voc.At(voc.Slots[i].Key)
		if !r.has(p) || !voc.Is(p.Kind, of.Kind) || of.At != "" && of.At != p.Serves ||
			r.own != nil && !slices.Contains(r.s.Structure().Select(of, r.own), p) {
			continue
		}
		there := r.present(p)
		every, one := there, there
		switch op {
		case fit.Present:
		case fit.Absent:
			every, one = there.not(), there.not()
		default:
			is := ask(p)
			every, one = is.or(there.not()), is.and(there)
		}
		none, all, some = false, all.and(every), some.or(one)
	}
	if of.Every {
		return all
	}
	if none { // as surely as the list is whole; where it is asked where something is needed, that decides
		whole := r.at("structure", "complete")
		sure := whole.grade >= machine.Marked && whole.is("yes") && r.has(voc.At("structure"))
		if some = answered(false, !sure && !r.lean && !r.guard); op == fit.Absent {
			return some.not()
		}
	}
	return some
}

// test compares a trait at a position, with values or with a trait of the part that needs it.
func (r *reference) test(t fit.Test, slot string) may {
	tr, sign := traitOf(slot, t.Trait), r.sign(slot)
	k, model := r.at(slot, t.Trait), r.at(slot, "model")
	if (t.Op == fit.Present || t.Op == fit.Absent) && sign > machine.Unknown && k.grade <= machine.Claimed {
		k = known{sign, []machine.Value{{Text: "something"}}}
	}
	var asked []machine.Value
	for _, text := range t.Values {
		v, _ := tr.ParseRecorded(text)
		asked = append(asked, v)
	}
	own := known{machine.Proven, []machine.Value{{}}}
	if t.Own != "" {
		own, model = r.at(r.own.Key, t.Own), known{}
	}
	return r.leaf(t.Least, func(least machine.Grade) may {
		if k.grade == machine.Unknown && t.Trait != "model" && model.is("none") && model.grade >= least {
			return notMet
		}
		return known{min(k.grade, own.grade), k.values}.tells(least, func(v machine.Value) (sure, possible bool) {
			sure = true
			for _, w := range own.values {
				if t.Own != "" {
					asked = []machine.Value{{Number: nominal(tr, w.Number), Text: w.Text}}
				}
				s, p := holds(tr, t.Op, v, asked)
				sure, possible = sure && s, possible || p
			}
			return sure, possible
		})
	})
}

// holds compares a value with those that are asked.
func holds(tr *machine.Trait, op fit.Op, v machine.Value, asked []machine.Value) (sure, possible bool) {
	folded := func(s string) string { return strings.ToLower(strings.Join(strings.Fields(s), " ")) }
	n, is := nominal(tr, v.Number), op == fit.Known || op == fit.Absent && isNone(v) || op == fit.Present && !isNone(v)
	switch op {
	case fit.Equal, fit.OneOf:
		is = slices.ContainsFunc(asked, func(w machine.Value) bool {
			return tr.Kind == machine.Number && n == nominal(tr, w.Number) ||
				tr.Kind != machine.Number && folded(v.Text) == folded(w.Text)
		})
	case fit.AtLeast, fit.AtMost, fit.Between:
		is = (op == fit.AtMost || n >= asked[0].Number) && (op == fit.AtLeast || n <= asked[len(asked)-1].Number)
	case fit.Contains:
		is = strings.Contains(strings.ToLower(v.Text), strings.ToLower(asked[0].Text))
	case fit.Version, fit.Compatible:
		a, b := threeNumbers(v.Text), threeNumbers(asked[0].Text)
		if a == nil {
			return false, true // no version that one could tell
		}
		// Compatible is one of the same line: the first number, or two where that is 0.
		is = slices.Compare(a, b) >= 0 && (op == fit.Version || a[0] == b[0] && (a[0] > 0 || a[1] == b[1]))
	}
	return is, is
}

// nominal is the value that a measured number stands for.
func nominal(tr *machine.Trait, n float64) float64 {
	best := n
	if tr.Nominal != nil {
		for _, v := range tr.Nominal.Values {
			if off := math.Abs(n - v); off <= v*tr.Nominal.Within+1e-9 && (best == n || off < math.Abs(n-best)) {
				best = v
			}
		}
	}
	return best
}

func threeNumbers(text string) []int {
	var n [3]int
	if _, err := fmt.Sscanf(text+"@", "%d.%d.%d@", &n[0], &n[1], &n[2]); err != nil {
		return nil
	}
	return n[:]
}

// lasting judges a need of the part at a position, where that is what needs it: of a model, or with a feature in its
// build, or whatever it is.
func (r *reference) lasting(n machine.Need, p *machine.Position, model, feature string) may {
	r.own, r.guard = p, true
	needed := r.present(p)
	switch {
	case model != "":
		needed = r.test(fit.Test{Trait: "model", Op: fit.Equal, Values: []string{model}}, p.Key)
	case feature != "":
		needed = r.leaf(machine.Marked, func(least machine.Grade) may {
			return r.at(p.Key, "features").tells(least, func(v machine.Value) (sure, possible bool) {
				list := wordsOf(v.Text)
				has, hasNot := slices.Contains(list, feature), slices.Contains(list, "no "+feature)
				return has, has || !hasNot
			})
		})
	}
	if n.When != nil {
		needed = needed.and(r.need(*n.When))
	}
	r.guard = false
	return needed.not().or(r.need(n.That))
}
