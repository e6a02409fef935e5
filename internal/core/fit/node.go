package fit

import (
	"math"
	"slices"
	"strings"

	"wardifex/internal/core/machine"
)

type nodeKind uint8

const (
	allNode nodeKind = iota
	anyNode
	noneNode
	testNode
	furtherNode
	formulaKind
	capacityKind
	kitKind
	presenceNode // a part is at a position
	identityNode // it is of a model
	featureNode  // its build has a feature
	nothingNode  // no part of a kind is listed
	fixedNode
	lastingKind
	clusterKind
	selectedKind
	targetsKind
	headKind // the machine has a head
)

// node is a requirement made ready.
type node struct {
	kind     nodeKind
	req      *Requirement
	parts    []node
	trait    *machine.Trait
	model    *machine.Trait // of the trait's position
	values   []machine.Value
	asked    releases       // of a test of versions
	own      *machine.Trait // compared with, instead of values
	ownModel *machine.Trait
	least    machine.Grade // the weakest that decides
	position *machine.Position
	fixed    Truth
	over     *machine.Overlay // it is judged on the machine with this change made

	formula  *formula
	capacity *capacityNode
	lasting  *partChange
	cluster  *cluster
	targets  *targets
	head     int

	selection *selection
	selected  bool // its parts are of parts that were selected, each with whether it is there
}

// decides is the weakest grade that decides a need: at least marked, but for what is
// harmless.
func decides(least machine.Grade, harmless bool) machine.Grade {
	if harmless {
		return max(least, machine.Claimed)
	}
	return max(least, machine.Marked)
}

// Truth judges a machine without explaining.
func (j *Judge) Truth(s machine.Snapshot) Truth { return j.root.truth(s) }

func (n *node) truth(s machine.Snapshot) Truth {
	if n.over != nil {
		s = s.Over(n.over)
	}
	switch n.kind {
	case allNode:
		t := isYes
		for i := range n.parts {
			if t = t.And(n.parts[i].truth(s)); t == isNo {
				break
			}
		}
		return t
	case anyNode, noneNode:
		t := isNo
		for i := range n.parts {
			if t = t.Or(n.parts[i].truth(s)); t == isYes {
				break
			}
		}
		if n.kind == noneNode {
			return t.Not()
		}
		return t
	case testNode:
		t, _ := n.test(s)
		return t
	case formulaKind:
		t, _ := n.formula.truth(s, n.least)
		return t
	case capacityKind:
		return n.capacity.truth(s)
	case kitKind:
		t, _ := n.kitTruth(s)
		return t
	case presenceNode:
		return presenceTruth(s, n.position)
	case identityNode, featureNode:
		return n.guard(s)
	case nothingNode:
		return judged(tri{false, s.Listed() < machine.Marked}, func() tri { return surelyNo })
	case fixedNode:
		return n.fixed
	case lastingKind:
		return n.lasting.truth(s)
	case clusterKind:
		return n.cluster.truth(s)
	case selectedKind:
		return n.selection.on(s).truth(s)
	case targetsKind:
		_, t := n.targets.best(s)
		return t
	case headKind:
		if !slices.Contains(s.Structure().Heads(), n.head) {
			return isNo
		}
		return isYes
	}
	return isIf
}

// presenceTruth is whether a part is at a position.
func presenceTruth(s machine.Snapshot, p *machine.Position) Truth {
	at := func(least machine.Grade) tri {
		there := s.Presence(p, least)
		return tri{there.Sure, there.Possible}
	}
	return judged(at(machine.Marked), func() tri { return at(machine.Claimed) })
}

// kitTruth judges whether another kit is fitted: what it fits stands at its position.
func (n *node) kitTruth(s machine.Snapshot) (Truth, state) {
	f := s.At(n.trait)
	return n.byEvidence(f, func(v machine.Value) tri { return sureOf(n.trait.Same(v, n.values[0])) })
}

// guard is whether a part is what a need hangs on: of a model, or a build with a feature.
func (n *node) guard(s machine.Snapshot) Truth {
	t, _ := n.byEvidence(s.At(n.trait), func(v machine.Value) tri {
		if n.kind == featureNode {
			return featureOf(v.Text, n.values[0].Text)
		}
		return sureOf(n.trait.Same(v, n.values[0]))
	})
	return t
}

// FeaturesIn are the features that a build has by its list as it stands on record, in
// small letters: "contact probe, no arc moves" has one.
func FeaturesIn(text string) []string {
	var out []string
	for _, f := range listedFeatures(text) {
		if !strings.HasPrefix(f, without) {
			out = append(out, f)
		}
	}
	return out
}

// without begins a feature that a build does not have.
const without = "no "

// listedFeatures are what a list says, parted by commas or semicolons.
func listedFeatures(text string) []string {
	var out []string
	for _, f := range strings.FieldsFunc(text, func(r rune) bool { return r == ';' || r == ',' }) {
		out = append(out, strings.ToLower(strings.Join(strings.Fields(f), " ")))
	}
	return out
}

// featureOf is whether a build has a feature by its list: of what is not listed, nobody
// knows.
func featureOf(list, name string) tri {
	said := listedFeatures(list)
	switch {
	case slices.Contains(said, name):
		return sureOf(true)
	case slices.Contains(said, without+name):
		return sureOf(false)
	}
	return maybe
}

// byEvidence judges by what may be so, as far as the evidence is good enough, and by
// claims as the lean.
func (n *node) byEvidence(f *machine.Fact, holds func(machine.Value) tri) (Truth, state) {
	if f.Grade == machine.Unknown {
		return isOpen, unknown
	}
	candidates, why := among(f, holds)
	if f.Grade >= n.least {
		return truthOf(candidates, candidates), why
	}
	return truthOf(maybe, candidates), weak
}

// among is what holds for a fact, as far as all that may be true of it agrees.
func among(f *machine.Fact, holds func(machine.Value) tri) (tri, state) {
	if f.Known() {
		t := holds(f.Value)
		return t, stateOf(t, inexact)
	}
	all, any := true, false
	for _, v := range f.Candidates() {
		t := holds(v)
		all, any = all && t.sure, any || t.possible
	}
	t := tri{all && any, any}
	return t, stateOf(t, conflict)
}

// state says why a test stands where it stands.
type state string

const (
	met      state = "met"
	notMet   state = "not met"
	unknown  state = "unknown"
	weak     state = "too weak"
	inexact  state = "not exact"
	conflict state = "conflict"
	withMore state = "with an additional change"
)

func stateOf(t tri, otherwise state) state {
	switch {
	case t.sure:
		return met
	case !t.possible:
		return notMet
	}
	return otherwise
}

func (n *node) test(s machine.Snapshot) (Truth, state) {
	f := s.At(n.trait)
	if n.own != nil {
		return n.against(s, f)
	}
	if n.op() == Present || n.op() == Absent {
		// A positive sign, such as a motor known by its current, outranks a claim that there
		// is nothing.
		if sign := s.Sign(n.trait.Position()); sign != machine.Unknown &&
			(f.Grade == machine.Unknown || f.Grade == machine.Claimed) {
			f = &machine.Fact{Trait: n.trait, Value: machine.Value{Text: "something"}, Grade: sign}
		}
	}
	if f.Grade == machine.Unknown && n.trait != n.model {
		if none := s.At(n.model); none.Value.Text == machine.None {
			if none.Grade < n.least {
				return truthOf(maybe, surelyNo), weak
			}
			return isNo, notMet // the position is empty: no part, no such trait
		}
	}
	return n.byEvidence(f, n.holds)
}

// against compares a trait with one of the part that needs something.
func (n *node) against(s machine.Snapshot, f *machine.Fact) (Truth, state) {
	g := s.At(n.own)
	if f.Grade == machine.Unknown || g.Grade == machine.Unknown {
		return isOpen, unknown
	}
	all, any := true, false
	for _, v := range f.Candidates() {
		for _, w := range g.Candidates() {
			t := n.compare(v, w)
			all, any = all && t.sure, any || t.possible
		}
	}
	t, otherwise := tri{all && any, any}, inexact
	if !f.Known() || !g.Known() {
		otherwise = conflict
	}
	if min(f.Grade, g.Grade) >= n.least {
		return truthOf(t, t), stateOf(t, otherwise)
	}
	return truthOf(maybe, t), weak
}

// op is the operator of a test.
func (n *node) op() Op { return n.req.Test.Op }

func (n *node) asksVersion() bool { return n.op() == Version || n.op() == Compatible }

// compare compares two values by the operator.
func (n *node) compare(v, w machine.Value) tri {
	x, y := n.trait.Snap(v.Number), n.trait.Snap(w.Number)
	switch n.op() {
	case Equal, OneOf:
		return sureOf(n.trait.Same(v, w))
	case AtLeast:
		return sureOf(x >= y)
	case AtMost:
		return sureOf(x <= y)
	case Contains:
		return sureOf(strings.Contains(strings.ToLower(v.Text), strings.ToLower(w.Text)))
	case Version:
		return readVersion(v.Text).atLeast(readVersion(w.Text))
	case Compatible:
		return readVersion(v.Text).compatible(readVersion(w.Text))
	}
	return surelyNo
}

func (n *node) holds(v machine.Value) tri {
	switch n.op() {
	case Known:
		return surely
	case Present:
		return sureOf(isPart(v))
	case Absent:
		return sureOf(!isPart(v))
	case Equal, OneOf:
		return sureOf(slices.ContainsFunc(n.values, func(w machine.Value) bool { return n.trait.Same(v, w) }))
	case AtLeast:
		return sureOf(n.trait.Snap(v.Number) >= n.values[0].Number)
	case AtMost:
		return sureOf(n.trait.Snap(v.Number) <= n.values[0].Number)
	case Between:
		x := n.trait.Snap(v.Number)
		return sureOf(x >= n.values[0].Number && x <= n.values[1].Number)
	case Version:
		return readVersion(v.Text).atLeast(n.asked)
	case Compatible:
		return readVersion(v.Text).compatible(n.asked)
	}
	return n.compare(v, n.values[0])
}

// factBounds are the least and the greatest that a number may be, as far as the
// evidence goes: one number, the span of a conflict, or whatever the trait
// allows.
func factBounds(s machine.Snapshot, t, model *machine.Trait, least machine.Grade) (lo, hi float64, open bool) {
	f, none := s.At(t), s.At(model)
	lo, hi = math.Inf(-1), math.Inf(1)
	if t.Max > t.Min {
		lo, hi = t.Min, t.Max
	}
	switch {
	case f.Grade == machine.Unknown && none.Value.Text == machine.None && none.Grade >= least:
		return 0, 0, false
	case f.Grade < least || f.Grade == machine.Unknown:
		return lo, hi, true
	case f.Known():
		return f.Value.Number, f.Value.Number, false
	}
	lo, hi = math.Inf(1), math.Inf(-1)
	for _, v := range f.Candidates() {
		lo, hi = math.Min(lo, v.Number), math.Max(hi, v.Number)
	}
	return lo, hi, lo != hi
}
