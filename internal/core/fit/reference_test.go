package fit_test

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"testing"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// A second evaluator of what a kit needs while it is fitted: as plain as it can be, written from the sentences of the
// model and sharing nothing with the one that it is held against but the facts of a machine. Whatever is asked is
// tried twice, by evidence that decides and by claims too; whatever may be made besides is tried in every combination.

// may is what is left possible: the least and the greatest level, 0 not met, 1 met with an additional change, 2 met.
type may struct{ lo, hi int }

// both are what evidence leaves possible, and what claims would leave.
type both struct{ strict, lean may }

func (x both) and(y both) both {
	return both{may{min(x.strict.lo, y.strict.lo), min(x.strict.hi, y.strict.hi)},
		may{min(x.lean.lo, y.lean.lo), min(x.lean.hi, y.lean.hi)}}
}

func (x both) not() both {
	return both{may{2 - x.strict.hi, 2 - x.strict.lo}, may{2 - x.lean.hi, 2 - x.lean.lo}}
}

func (x both) or(y both) both { return x.not().and(y.not()).not() }

var (
	isMet  = both{may{2, 2}, may{2, 2}}
	notMet = both{}
	isMade = both{may{1, 1}, may{1, 1}}
)

// answered is one yes or no of each way: "sure" and "possible".
func answered(sure, possible bool) may {
	x := may{}
	if sure {
		x.lo = 2
	}
	if possible {
		x.hi = 2
	}
	return x
}

// known is what a machine says of a trait: values of one grade, of which one is true.
type known struct {
	grade  machine.Grade
	values []machine.Value
}

// reference judges one machine, with some changes made.
type reference struct {
	s       machine.Snapshot
	made    map[machine.Key]known // by effects
	there   map[string]bool       // positions that effects fill
	acting  []string              // additional changes that change the machine
	chosen  []string              // those of them that are made
	lenient bool                  // what is asked is harmless
}

func (r *reference) at(t *machine.Trait) known {
	if k, ok := r.made[t.Key()]; ok {
		return k
	}
	f := r.s.At(t)
	return known{f.Grade, f.Candidates()}
}

func (r *reference) make(effects []fit.Effect) {
	was := map[machine.Key]known{}
	for _, t := range voc.Traits {
		was[t.Key()] = r.at(t)
	}
	forget := func(slot string) {
		for _, t := range voc.TraitsAt(slot) {
			r.made[t.Key()] = known{}
		}
	}
	for _, e := range effects {
		if e.Moves() && !slices.ContainsFunc(effects, func(o fit.Effect) bool { return o.Slot == e.From }) {
			forget(e.From)
			r.made[machine.KeyOf(e.From, "model")] = known{machine.Observed, []machine.Value{{Text: "none"}}}
		}
	}
	for _, e := range effects {
		if !e.Stays() {
			forget(e.Slot)
		}
		if e.Moves() {
			for _, t := range voc.TraitsAt(e.From) {
				r.made[machine.KeyOf(e.Slot, t.Name)] = was[t.Key()]
			}
		}
		r.there[e.Slot] = r.there[e.Slot] || e.Moves() || e.Fits()
		if e.From == "" {
			r.made[machine.KeyOf(e.Slot, "model")] = known{machine.Observed, []machine.Value{{Text: e.Model}}}
			for name, v := range voc.DefaultsOf(voc.At(e.Slot).Kind, e.Model) {
				r.made[machine.KeyOf(e.Slot, name)] = known{machine.Claimed, []machine.Value{v}}
			}
		}
		for name, text := range e.Traits {
			t, _ := voc.Trait(machine.KeyOf(e.Slot, name))
			v, _ := t.ParseRecorded(text)
			r.made[t.Key()] = known{machine.Observed, []machine.Value{v}}
		}
		for name, text := range e.Adds {
			k := r.at(traitOf(e.Slot, name))
			n, _ := strconv.ParseFloat(text, 64)
			if len(k.values) == 1 {
				r.made[machine.KeyOf(e.Slot, name)] = known{k.grade, []machine.Value{{Number: k.values[0].Number + n,
					Text: "sum"}}}
			}
		}
	}
}

func traitOf(slot, name string) *machine.Trait {
	t, _ := voc.Trait(machine.KeyOf(slot, name))
	return t
}

func isNone(v machine.Value) bool { return v.Text == "none" }

// sign is the best grade at which something is known of a part but its name and a bare yes or no.
func (r *reference) sign(p *machine.Position) (best machine.Grade) {
	for _, t := range voc.TraitsAt(p.Key) {
		if t.Name != "model" && t.Kind != machine.YesNo && t.Hint == "" {
			best = max(best, r.at(t).grade)
		}
	}
	return best
}

// present is whether a part is at a position.
func (r *reference) present(p *machine.Position) both {
	by := func(least machine.Grade) may {
		if !r.s.Has(p) && !r.there[p.Key] {
			return answered(false, false)
		}
		model, sign := r.at(traitOf(p.Key, "model")), r.sign(p)
		one := len(model.values) == 1 && model.grade >= least
		none := slices.ContainsFunc(model.values, isNone)
		// No machine is without the first part of an axis, of the bed or of its only head.
		first := p.Ordinal() == 1 && (p.Serves.Kind() == machine.AnAxis || p.Serves.Kind() == machine.ABed ||
			p.Serves.Head() == 1)
		switch {
		case one && none && (model.grade > machine.Claimed || sign == machine.Unknown):
			return answered(false, false)
		case one && !none, sign > machine.Unknown && sign >= least:
			return answered(true, true)
		case len(model.values) > 1 && model.grade >= least:
			return answered(!none, true)
		}
		return answered(first && !none, true)
	}
	return leaning(by(machine.Marked), by(machine.Claimed))
}

// leaning is the lean beside what evidence says, which it never contradicts.
func leaning(strict, lean may) both {
	if strict.lo == strict.hi {
		return both{strict, strict}
	}
	return both{strict, lean}
}

// need is how a requirement comes out.
func (r *reference) need(q fit.Requirement) both {
	was := r.lenient
	r.lenient = was || q.Harmless
	defer func() { r.lenient = was }()
	switch {
	case q.Test != nil:
		return r.test(*q.Test)
	case q.Formula != nil:
		return r.formula(*q.Formula)
	case q.Additional != nil:
		if slices.Contains(r.acting, q.Additional.Key) && !slices.Contains(r.chosen, q.Additional.Key) {
			return notMet
		}
		return isMade
	}
	out := isMet
	for _, p := range q.All {
		out = out.and(r.need(p))
	}
	for i, p := range slices.Concat(q.Any, q.None) {
		if i == 0 {
			out = notMet
		}
		out = out.or(r.need(p))
	}
	if len(q.None) > 0 {
		return out.not()
	}
	return out
}

func (r *reference) least(asked machine.Grade) machine.Grade {
	if r.lenient {
		return max(asked, machine.Claimed)
	}
	return max(asked, machine.Marked)
}

func (r *reference) test(t fit.Test) both {
	if t.Of == nil {
		return r.one(t, t.Slot)
	}
	var each []both
	for i := range voc.Slots {
		p := voc.At(voc.Slots[i].Key)
		if (!r.s.Has(p) && !r.there[p.Key]) || !voc.Is(p.Kind, t.Of.Kind) {
			continue
		}
		is := r.present(p)
		switch {
		case t.Op == fit.Present:
		case t.Op == fit.Absent:
			is = is.not()
		case t.Of.Every:
			is = r.one(t, p.Key).or(is.not())
		default:
			is = is.and(r.one(t, p.Key))
		}
		each = append(each, is)
	}
	if len(each) == 0 && !t.Of.Every { // none is listed, as surely as the list is whole
		whole := r.at(traitOf("structure", "complete"))
		sure := whole.grade >= machine.Marked && len(whole.values) == 1 && whole.values[0].Text == "yes"
		x := both{answered(false, !sure), may{}}
		if t.Op == fit.Absent {
			return x.not()
		}
		return x
	}
	out := isMet
	for i, x := range each {
		if t.Of.Every {
			out = out.and(x)
		} else if i == 0 {
			out = x
		} else {
			out = out.or(x)
		}
	}
	return out
}

// one tests a trait at a position.
func (r *reference) one(t fit.Test, slot string) both {
	tr, least := traitOf(slot, t.Trait), r.least(t.Least)
	k, model := r.at(tr), r.at(traitOf(slot, "model"))
	if t.Op == fit.Present || t.Op == fit.Absent {
		if sign := r.sign(voc.At(slot)); sign > machine.Unknown && k.grade <= machine.Claimed {
			k = known{sign, []machine.Value{{Text: "something"}}}
		}
	}
	if k.grade == machine.Unknown && t.Trait != "model" && len(model.values) == 1 && isNone(model.values[0]) {
		if model.grade < least {
			return both{may{0, 2}, may{}}
		}
		return notMet
	}
	if k.grade == machine.Unknown {
		return both{may{0, 2}, may{0, 2}}
	}
	sure, possible := true, false
	for _, v := range k.values {
		s, p := holds(tr, t, v)
		sure, possible = sure && s, possible || p
	}
	is := answered(sure && possible, possible)
	if k.grade < least {
		return both{may{0, 2}, is}
	}
	return both{is, is}
}

func holds(tr *machine.Trait, t fit.Test, v machine.Value) (sure, possible bool) {
	folded := func(s string) string { return strings.ToLower(strings.Join(strings.Fields(s), " ")) }
	var asked []machine.Value
	for _, text := range t.Values {
		w, _ := tr.ParseRecorded(text)
		asked = append(asked, w)
	}
	is := false
	switch t.Op {
	case fit.Known:
		is = true
	case fit.Present:
		is = !isNone(v)
	case fit.Absent:
		is = isNone(v)
	case fit.Equal, fit.OneOf:
		is = slices.ContainsFunc(asked, func(w machine.Value) bool {
			if tr.Kind == machine.Number {
				return nominal(tr, v.Number) == nominal(tr, w.Number)
			}
			return folded(v.Text) == folded(w.Text)
		})
	case fit.AtLeast:
		is = nominal(tr, v.Number) >= asked[0].Number
	case fit.AtMost:
		is = nominal(tr, v.Number) <= asked[0].Number
	case fit.Between:
		n := nominal(tr, v.Number)
		is = n >= asked[0].Number && n <= asked[1].Number
	case fit.Contains:
		is = strings.Contains(strings.ToLower(v.Text), strings.ToLower(asked[0].Text))
	case fit.Version, fit.Compatible:
		a, b := threeNumbers(v.Text), threeNumbers(asked[0].Text)
		if a == nil {
			return false, true // no version that one could tell
		}
		is = slices.Compare(a, b) >= 0
		if t.Op == fit.Compatible { // of one line: the first number, or two where that is 0
			is = is && a[0] == b[0] && (a[0] > 0 || a[1] == b[1])
		}
	}
	return is, is
}

// nominal is the value that a measured number stands for.
func nominal(tr *machine.Trait, n float64) float64 {
	if tr.Nominal == nil {
		return n
	}
	best := n
	for _, v := range tr.Nominal.Values {
		if off := math.Abs(n - v); off <= v*tr.Nominal.Within+1e-9 && (best == n || off < math.Abs(n-best)) {
			best = v
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

// formula compares sums of millimetres, as the drawn kits have them.
func (r *reference) formula(f fit.Formula) both {
	op := ">="
	if strings.Contains(f.Text, "<=") {
		op = "<="
	}
	left, right, _ := strings.Cut(f.Text, op)
	by := func(least machine.Grade) may {
		aLo, aHi := r.sum(left, least)
		bLo, bHi := r.sum(right, least)
		if op == "<=" {
			aLo, aHi, bLo, bHi = bLo, bHi, aLo, aHi
		}
		return answered(aLo >= bHi-1e-6, aHi >= bLo-1e-6)
	}
	return leaning(by(r.least(f.Least)), by(machine.Claimed))
}

func (r *reference) sum(text string, least machine.Grade) (lo, hi float64) {
	sign := 1.0
	for _, word := range strings.Fields(text) {
		var a, b float64
		slot, name, fact := strings.Cut(word, ".")
		n, err := strconv.ParseFloat(word, 64)
		switch {
		case word == "-" || word == "+":
			sign = map[string]float64{"-": -1, "+": 1}[word]
			continue
		case word == "mm":
			continue
		case err == nil:
			a, b = n, n
		case fact:
			a, b = r.number(traitOf(slot, name), least)
		}
		if sign < 0 {
			a, b = -b, -a
		}
		lo, hi = lo+a, hi+b
	}
	return lo, hi
}

func (r *reference) number(t *machine.Trait, least machine.Grade) (lo, hi float64) {
	k, model := r.at(t), r.at(traitOf(t.Slot, "model"))
	lo, hi = math.Inf(-1), math.Inf(1)
	if t.Max > t.Min {
		lo, hi = t.Min, t.Max
	}
	switch {
	case k.grade == machine.Unknown && len(model.values) == 1 && isNone(model.values[0]) && model.grade >= least:
		return 0, 0
	case k.grade == machine.Unknown || k.grade < least:
		return lo, hi
	}
	lo, hi = math.Inf(1), math.Inf(-1)
	for _, v := range k.values {
		lo, hi = min(lo, v.Number), max(hi, v.Number)
	}
	return lo, hi
}

// referenceTruth tries every set of additional changes that can be made together.
func referenceTruth(k fit.Kit, s machine.Snapshot) fit.Truth {
	var options []fit.AdditionalChange
	for _, f := range k.AdditionalChanges() {
		if len(f.Effects) > 0 && !slices.ContainsFunc(options, func(o fit.AdditionalChange) bool { return o.Key == f.Key }) {
			options = append(options, f)
		}
	}
	best := notMet
	for mask := range 1 << len(options) {
		r := &reference{s: s, made: map[machine.Key]known{}, there: map[string]bool{}}
		var effects []fit.Effect
		is := isMet
		for i, o := range options {
			r.acting = append(r.acting, o.Key)
			if mask>>i&1 == 1 {
				r.chosen, effects, is = append(r.chosen, o.Key), append(effects, o.Effects...), isMade
			}
		}
		if clash(effects) {
			continue
		}
		r.make(effects)
		best = best.or(is.and(r.need(k.Needs)))
	}
	return fit.TruthOf(fit.Level(best.strict.lo), fit.Level(best.strict.hi), fit.Level(best.lean.lo),
		fit.Level(best.lean.hi))
}

// clash reports whether two effects are on one position, or move one part.
func clash(effects []fit.Effect) bool {
	for i, e := range effects {
		for _, o := range effects[:i] {
			if e.Slot == o.Slot || e.Moves() && e.From == o.From {
				return true
			}
		}
	}
	return false
}

// TestTheReferenceAgrees draws kits with needs and additional changes, and holds the judgement at fitting against
// the reference. Sums over capacities, and what parts need as long as they are fitted, are judged elsewhere.
func TestTheReferenceAgrees(t *testing.T) {
	t.Parallel()
	d := newDraw(t, 2)
	answers, explained := map[fit.Answer]int{}, 0
	for i := range 2000 {
		k, j := d.needsAlone(t)
		record := d.machine()
		record.Takings = nil
		s := machine.NewSnapshot(voc, record)
		got, want := j.AtFitting().Truth(s), referenceTruth(k, s)
		answers[want.Answer()]++
		if got != want {
			t.Fatalf("case %d: %08b, the reference %08b: %+v", i, got, want, k.Needs)
		}
		explained += explains(t, i, k, j.AtFitting().Verdict(s), s)
	}
	if explained < 500 {
		t.Errorf("only %d parts of explanations were compared", explained)
	}
	for _, a := range fit.Answers() {
		if answers[a] < 25 {
			t.Errorf("the draw shows little: %v", answers)
		}
	}
}

// explains holds the answer, the lean and the parts of an explanation against the reference, where no change acts; it
// gives how many parts there were.
func explains(t *testing.T, i int, k fit.Kit, v fit.Verdict, s machine.Snapshot) int {
	t.Helper()
	truth := referenceTruth(k, s)
	if v.Answer != truth.Answer() || v.Lean != truth.Lean() {
		t.Fatalf("case %d is explained as %s, leaning to %s; the reference %08b", i, v.Answer, v.Lean, truth)
	}
	if slices.ContainsFunc(k.AdditionalChanges(), func(f fit.AdditionalChange) bool { return len(f.Effects) > 0 }) {
		return 0
	}
	r := &reference{s: s, made: map[machine.Key]known{}, there: map[string]bool{}, lenient: k.Needs.Harmless}
	parts := k.Needs.All
	if parts == nil {
		parts = []fit.Requirement{k.Needs}
	}
	for n, q := range parts {
		is, o := r.need(q), v.Reasons.Parts[n]
		want, lean := words(is.strict), ""
		if is.strict.lo != is.strict.hi && is.lean.lo == is.lean.hi {
			lean = words(is.lean)
		}
		state := o.State
		if !slices.Contains([]string{"met", "not met", "with an additional change"}, state) {
			state = "open"
		}
		if state != want || o.Leans != lean {
			t.Fatalf("case %d, part %d: %s leaning to %q; the reference %s, %q: %+v", i, n, o.State, o.Leans, want, lean, q)
		}
	}
	return len(parts)
}

// words are those of a state; what fits either way is told by what it may need besides.
func words(x may) string {
	if x.lo != x.hi && x.lo != 1 {
		return "open"
	}
	return [...]string{"not met", "with an additional change", "met"}[x.lo]
}

// needsAlone draws a kit without sums: nothing takes of a capacity.
func (d *draw) needsAlone(t *testing.T) (fit.Kit, *fit.Judge) {
	t.Helper()
	for {
		k := fit.Kit{Key: "drawn", Name: "Drawn", What: "anything", Needs: d.group(2)}
		if d.Intn(3) == 0 {
			k.Options = append(k.Options, d.change("option"))
		}
		for _, f := range k.AdditionalChanges() {
			f.Uses = nil
		}
		j, err := fit.NewJudge(k, voc)
		if err == nil && !draws(k) {
			return k, j
		}
	}
}

// draws reports whether anything of a kit is in a sum.
func draws(k fit.Kit) bool {
	for _, f := range k.AdditionalChanges() {
		if len(f.Uses) > 0 || slices.ContainsFunc(f.Effects, func(e fit.Effect) bool {
			return slices.Contains([]string{"mainboard", "firmware", "probe", "motor", "z-drive", "heater", "bed-heater",
				"chamber-heater", "sensor", "supply", "tool-plate", "toolhead", "toolhead-board", "circuit", "frame", "carriage",
				"plate", "driver"}, voc.At(e.Slot).Kind)
		}) {
			return true
		}
	}
	return false
}
