package fit_test

import (
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
)

// referenceOn is the reference on a machine, by evidence or by claims too.
func referenceOn(s machine.Snapshot, lean bool) *reference {
	return &reference{s: s, lean: lean, made: map[machine.Key]known{}, there: map[string]bool{}}
}

// byBoth is a truth by evidence and by claims.
func byBoth(s machine.Snapshot, judge func(r *reference) may) fit.Truth {
	strict, lean := judge(referenceOn(s, false)), judge(referenceOn(s, true))
	return fit.TruthOf(fit.Level(strict.lo), fit.Level(strict.hi), fit.Level(lean.lo), fit.Level(lean.hi))
}

// referenceTruth tries every set of additional changes that can be made together.
func referenceTruth(k fit.Kit, s machine.Snapshot) fit.Truth {
	var options []fit.AdditionalChange
	for _, f := range k.AdditionalChanges() {
		if len(f.Effects) > 0 && !slices.ContainsFunc(options, func(o fit.AdditionalChange) bool { return o.Key == f.Key }) {
			options = append(options, f)
		}
	}
	return byBoth(s, func(r *reference) may {
		best := notMet
		for mask := range 1 << len(options) {
			r = referenceOn(s, r.lean)
			var effects []fit.Effect
			is := isMet
			for i, o := range options {
				r.acting = append(r.acting, o.Key)
				if mask>>i&1 == 1 {
					r.chosen, effects, is = append(r.chosen, o.Key), append(effects, o.Effects...), isMade
				}
			}
			if !clash(effects) {
				r.make(effects)
				best = best.or(is.and(r.need(k.Needs)))
			}
		}
		return best
	})
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
	if k.Needs.All == nil { // it is the only part of the whole
		return explained(t, i, k.Needs, v.Reasons.Parts[0], s, false)
	}
	return explained(t, i, k.Needs, v.Reasons, s, false)
}

// explained holds an outcome and those below it against the reference.
func explained(t *testing.T, i int, q fit.Requirement, o fit.Outcome, s machine.Snapshot, lenient bool) int {
	t.Helper()
	truth := byBoth(s, func(r *reference) may {
		r.lenient = lenient
		return r.need(q)
	})
	want, lean := words(truth.Lo(), truth.Hi()), ""
	if !truth.Decided() && truth.LeanLo() == truth.LeanHi() {
		lean = words(truth.LeanLo(), truth.LeanHi())
	}
	state := o.State
	if !slices.Contains([]string{"met", "not met", "with an additional change"}, state) {
		state = "open"
	}
	if state != want || o.Leans != lean {
		t.Fatalf("case %d: %s leaning to %q; the reference %s, %q: %+v", i, o.State, o.Leans, want, lean, q)
	}
	n, below := 1, slices.Concat(q.All, q.Any, q.None)
	if len(below) > 0 && len(below) != len(o.Parts) {
		t.Fatalf("case %d: %d of %d parts are explained", i, len(o.Parts), len(below))
	}
	for k, p := range below {
		n += explained(t, i, p, o.Parts[k], s, lenient || q.Harmless)
	}
	return n
}

// words are those of a state; what fits either way is told by what it may need besides.
func words(lo, hi fit.Level) string {
	if lo != hi && lo != fit.If {
		return "open"
	}
	return [...]string{"not met", "with an additional change", "met"}[lo]
}

// TestTheReferenceAgreesOnParts holds what every part of drawn machines needs, as it stands, against the reference.
func TestTheReferenceAgreesOnParts(t *testing.T) {
	t.Parallel()
	d := newDraw(t, 3)
	judged := map[fit.Answer]int{}
	for i := range 300 {
		record := d.machine()
		record.Readings = append(record.Readings, machinetest.Readings(voc,
			map[string]string{"firmware.features": d.features() + "/" + machine.Grades()[d.Intn(3)].String()})...)
		s := machine.NewSnapshot(voc, record)
		all := fit.NeedsOn(s)
		if want := referenceOn(s, false).count(); len(all) != want {
			t.Fatalf("machine %d: %d needs, the reference %d", i, len(all), want)
		}
		for _, n := range all {
			want := byBoth(s, func(r *reference) may { return r.lasting(n.Need, n.At, n.Model, n.Feature) })
			judged[want.Answer()]++
			if n.Truth != want {
				t.Fatalf("machine %d, %s of %s %s%s: %08b, the reference %08b", i, n.Need.Key, n.At.Key, n.Model, n.Feature,
					n.Truth, want)
			}
		}
	}
	if judged[fit.Fits] < 1000 || judged[fit.DoesNotFit] < 100 || judged[fit.LookFirst] < 1000 {
		t.Errorf("the draw shows little: %v", judged)
	}
}

// count is how many needs the parts of a machine have: of every model that may be there, of the kind where the model
// has them in no way of its own, and of every feature that is listed.
func (r *reference) count() (n int) {
	for _, p := range r.s.Structure().Positions() {
		model := r.at(p.Key, "model")
		var own []string
		for _, v := range model.values {
			if !isNone(v) {
				n += len(voc.NeedsOf(p.Kind, v.Text))
			}
			if len(model.values) == 1 && model.grade >= machine.Marked && !isNone(v) {
				own = voc.ReplacedBy(p.Kind, v.Text)
			}
		}
		for _, need := range voc.NeedsOfKind(p.Kind) {
			if !slices.Contains(own, need.Key) {
				n++
			}
		}
		for _, f := range voc.Features(p.Kind) {
			if slices.ContainsFunc(r.at(p.Key, "features").values, func(v machine.Value) bool {
				return slices.Contains(wordsOf(v.Text), strings.ToLower(f.Name))
			}) {
				n += len(f.Needs)
			}
		}
	}
	return n
}

// wordsOf are the entries of a list.
func wordsOf(list string) (out []string) {
	for _, f := range strings.Split(strings.ReplaceAll(strings.ToLower(list), ";", ","), ",") {
		out = append(out, strings.Join(strings.Fields(f), " "))
	}
	return out
}

// features draws what a build is said to have and not to have.
func (d *draw) features() string {
	list := []string{"Something else"}
	for _, f := range voc.Features("firmware") {
		name := []string{"", "no ", "No  ", ""}[d.Intn(4)] + f.Name
		if d.Intn(2) > 0 && len(strings.Join(list, ", "))+len(name) < 110 {
			list = append(list, name)
		}
	}
	return strings.Join(list, []string{", ", "; ", ","}[d.Intn(3)])
}

// needsAlone draws a kit without sums: nothing takes of a capacity.
func (d *draw) needsAlone(t *testing.T) (fit.Kit, *fit.Judge) {
	t.Helper()
	for {
		k := fit.Kit{Key: "drawn", Name: "Drawn", What: "anything", Needs: d.group(2)}
		if p := &voc.Slots[d.Intn(len(voc.Slots))]; d.Intn(4) == 0 && len(d.models[p.Kind]) > 0 {
			other := fit.KitRef{Key: "other", Slot: p.Key, Model: d.models[p.Kind][d.Intn(len(d.models[p.Kind]))]}
			k.Needs = fit.Requirement{Any: []fit.Requirement{k.Needs, {Label: "another kit", Kit: &other}}}
		}
		if t := d.traits[d.Intn(len(d.traits))]; t.Unit == "mm" { // half a millimetre tells nothing from one
			f := fit.Formula{Text: string(t.Key()) + " <= 0.5 mm", Least: machine.Marked}
			k.Needs = fit.Requirement{All: []fit.Requirement{k.Needs, {Label: "a length", Formula: &f}}}
		}
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
