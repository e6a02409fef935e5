package fit

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"wardifex/internal/core/machine"
)

// Judge is a kit's requirement checked against a vocabulary and made ready for
// judging many machines. It may be shared.
type Judge struct {
	Kit     Kit
	voc     *machine.Vocabulary
	root    node
	overlay *machine.Overlay // what the kit's effects make of any machine
}

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
)

type node struct {
	kind   nodeKind
	req    *Requirement
	parts  []node
	trait  *machine.Trait
	model  *machine.Trait // of the slot
	values []machine.Value

	formula  *formula
	capacity *capacityNode
}

// maxDepth bounds how deep groups may nest.
const maxDepth = 32

// NewJudge checks a kit as it is written: that every trait exists, that its
// values are of its kind and unit, that operators have as many values as they
// take, and that groups are not empty. Errors name the requirement.
func NewJudge(kit Kit, voc *machine.Vocabulary) (*Judge, error) {
	j := &Judge{Kit: kit, voc: voc}
	if err := once(kit.Effects, voc); err != nil {
		return nil, fmt.Errorf("kit %s: %w", kit.Key, err)
	}
	var err error
	if j.overlay, err = overlayOf(kit.Effects, voc); err != nil {
		return nil, fmt.Errorf("kit %s: %w", kit.Key, err)
	}
	c := compiler{voc, spending{j.Kit.Spends(), j.Kit.Effects}}
	root, err := c.compile(&j.Kit.Needs, 0)
	if err != nil {
		return nil, fmt.Errorf("kit %s: %w", kit.Key, err)
	}
	j.root = root
	uses, err := compileUses(voc, c.spending)
	if err != nil {
		return nil, fmt.Errorf("kit %s: %w", kit.Key, err)
	}
	for i := range uses {
		if uses[i], err = c.relieved(uses[i], kit.furthers()); err != nil {
			return nil, fmt.Errorf("kit %s: %w", kit.Key, err)
		}
	}
	moved, err := c.moved(kit.Effects)
	if err != nil {
		return nil, fmt.Errorf("kit %s: %w", kit.Key, err)
	}
	if besides := append(moved, uses...); len(besides) > 0 {
		// What a kit takes and moves is needed besides what it asks for.
		own := j.root
		j.root = node{kind: allNode, req: own.req, parts: append([]node{own}, besides...)}
		if own.kind == allNode {
			j.root.parts = slices.Concat(own.parts, besides)
		}
	}
	if why := never(&j.root); why != "" {
		return nil, fmt.Errorf("kit %s can never fit: %s", kit.Key, why)
	}
	for _, f := range kit.furthers() {
		for _, e := range f.Effects {
			if _, err := e.Values(voc); err != nil {
				return nil, fmt.Errorf("kit %s: %w", kit.Key, err)
			}
		}
	}
	return j, nil
}

func (k Kit) allEffects() []Effect {
	out := append([]Effect(nil), k.Effects...)
	for _, f := range k.furthers() {
		out = append(out, f.Effects...)
	}
	return out
}

// furthers are the further changes among a kit's needs.
func (k Kit) furthers() []Further {
	var out []Further
	var walk func(r Requirement)
	walk = func(r Requirement) {
		if r.Further != nil {
			out = append(out, *r.Further)
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

// compiler compiles the needs of one kit, which spends of the budgets itself.
type compiler struct {
	voc *machine.Vocabulary
	spending
}

// relieved is a capacity of the kit, or what an additional change makes of it that
// frees some of it or fits other parts: where that suffices, the kit fits with it.
func (c compiler) relieved(n node, furthers []Further) (node, error) {
	out := node{kind: anyNode, req: n.req, parts: []node{n}}
	key := n.capacity.Key
	for i := range furthers {
		f := &furthers[i]
		besides := spendingOf(*f).of(key)
		overlay, err := overlayOf(f.Effects, c.voc)
		if err != nil {
			return n, err
		}
		helps := slices.ContainsFunc(besides.uses, func(u Use) bool { return u.Amount < 0 }) || n.capacity.drawnOnBy(overlay, c.voc)
		if !helps {
			continue
		}
		with, err := c.capacityWith(key, c.of(key), besides)
		if err != nil {
			return n, fmt.Errorf("%s: %w", f.Title, err)
		}
		req := &Requirement{Label: "With " + f.Title, Further: f}
		out.parts = append(out.parts, node{kind: allNode, req: req, parts: append([]node{{kind: furtherNode, req: req}}, with...)})
	}
	if len(out.parts) == 1 {
		return n, nil
	}
	return out, nil
}

// capacityWith is one capacity of everything that is done together.
func (c compiler) capacityWith(key string, all ...spending) ([]node, error) {
	nodes, err := compileUses(c.voc, all...)
	return slices.DeleteFunc(nodes, func(n node) bool { return n.capacity.Key != key }), err
}

// moved are the needs of effects that move parts: that there are any.
func (c compiler) moved(effects []Effect) ([]node, error) {
	var out []node
	for _, e := range effects {
		from, ok := c.voc.Position(e.From)
		if !ok || !e.Moves() {
			continue
		}
		n, err := c.compile(&Requirement{Label: from.Label + " is there to be moved", Why: "It goes into another place.", Otherwise: "Fitting one first would change that.",
			Test: &Test{Slot: e.From, Trait: machine.ModelTrait, Op: Present, Least: machine.Claimed}}, 0)
		if err != nil {
			return nil, err
		}
		out = append(out, n)
	}
	return out, nil
}

func (c compiler) compile(r *Requirement, depth int) (node, error) {
	n, voc := node{req: r}, c.voc
	if depth > maxDepth {
		return n, fmt.Errorf("requirements nest deeper than %d", maxDepth)
	}
	set := 0
	for kind, group := range [][]Requirement{r.All, r.Any, r.None} {
		if group == nil {
			continue
		}
		set++
		n.kind = nodeKind(kind)
		for i := range group {
			part, err := c.compile(&group[i], depth+1)
			if err != nil {
				return n, err
			}
			if n.kind == noneNode && part.hasFurther() {
				return n, fmt.Errorf("%s: a further change cannot stand under none", n.called())
			}
			n.parts = append(n.parts, part)
		}
		if len(group) == 0 {
			return n, fmt.Errorf("%s: the group is empty", n.called())
		}
	}
	var err error
	if r.Test != nil {
		set++
		n.kind, err = testNode, n.compileTest(*r.Test, voc)
	}
	if r.Formula != nil {
		set++
		n.kind = formulaKind
		n.formula, err = compileFormula(r.Formula.Text, voc)
	}
	if r.Kit != nil {
		set++
		n.kind = kitKind
		if r.Kit.Key == "" {
			return n, fmt.Errorf("%s: choose the other kit", n.called())
		}
		if n.trait, _ = voc.Trait(machine.KeyOf(r.Kit.Slot, machine.ModelTrait)); n.trait == nil {
			err = fmt.Errorf("there is no position %q", r.Kit.Slot)
		}
		n.model = n.trait
		n.values = []machine.Value{{Text: r.Kit.Model}}
	}
	if r.Further != nil {
		set++
		n.kind = furtherNode
		if strings.TrimSpace(r.Further.Title) == "" {
			err = errors.New("a further change needs a name, such as: adapter board on the display header")
		} else if len(r.Further.Uses) > 0 {
			return c.furtherWith(r)
		}
	}
	if err != nil {
		return n, fmt.Errorf("%s: %w", n.called(), err)
	}
	if set != 1 {
		return n, fmt.Errorf("%s: a requirement is one of all, any, none, test, formula, kit or further; this one is %d of them", n.called(), set)
	}
	return n, nil
}

// furtherWith compiles an additional change that takes something of the capacities:
// it can be made where that is left, besides what the kit takes.
func (c compiler) furtherWith(r *Requirement) (node, error) {
	itself := *r
	out := node{kind: allNode, req: r, parts: []node{{kind: furtherNode, req: &itself}}}
	own := spendingOf(*r.Further)
	for _, u := range own.uses {
		if err := u.check(); err != nil {
			return node{req: r}, fmt.Errorf("%s: %w", r.Further.Title, err)
		}
	}
	for i := range capacities {
		key := capacities[i].Key
		if !own.writes(key) {
			continue
		}
		nodes, err := c.capacityWith(key, c.of(key), own.of(key))
		if err != nil {
			return node{req: r}, fmt.Errorf("%s: %w", r.Further.Title, err)
		}
		out.parts = append(out.parts, nodes...)
	}
	return out, nil
}

func (n *node) hasFurther() bool {
	for i := range n.parts {
		if n.parts[i].hasFurther() {
			return true
		}
	}
	return n.kind == furtherNode
}

// OpKind is an operator with how many values it takes; Most is large where any
// number will do.
type OpKind struct {
	Op    Op  `json:"op" enum:"equal,one of,at least,at most,between,contains,present,absent,version at least,compatible version,known"`
	Least int `json:"least"`
	Most  int `json:"most"`
}

// Ops lists the operators of a test.
func Ops() []OpKind {
	var out []OpKind
	for _, op := range []Op{Equal, OneOf, AtLeast, AtMost, Between, Contains, Present, Absent, Known, Version, Compatible} {
		out = append(out, OpKind{op, valuesOf[op][0], valuesOf[op][1]})
	}
	return out
}

// valuesOf says how many values each operator takes: least and most.
var valuesOf = map[Op][2]int{Equal: {1, 1}, OneOf: {1, 1000}, AtLeast: {1, 1}, AtMost: {1, 1}, Between: {2, 2}, Contains: {1, 1}, Present: {0, 0}, Absent: {0, 0}, Version: {1, 1}, Compatible: {1, 1}, Known: {0, 0}}

// count writes how many values an operator takes.
func count(takes [2]int) string {
	switch {
	case takes[0] != takes[1]:
		return fmt.Sprintf("%d to %d values", takes[0], takes[1])
	case takes[0] == 1:
		return "1 value"
	}
	return fmt.Sprintf("%d values", takes[0])
}

func (n *node) compileTest(t Test, voc *machine.Vocabulary) error {
	trait, ok := voc.Trait(machine.KeyOf(t.Slot, t.Trait))
	if !ok {
		return fmt.Errorf("there is no trait %s.%s", t.Slot, t.Trait)
	}
	n.trait = trait
	n.model, _ = voc.Trait(machine.KeyOf(t.Slot, machine.ModelTrait))
	takes, ok := valuesOf[t.Op]
	if !ok {
		return fmt.Errorf("%q is not an operator", t.Op)
	}
	if len(t.Values) < takes[0] || len(t.Values) > takes[1] {
		return fmt.Errorf("%s takes %s, not %d", t.Op, count(takes), len(t.Values))
	}
	switch {
	case (t.Op == Present || t.Op == Absent) && t.Trait != machine.ModelTrait:
		return fmt.Errorf("%s is asked of a position's model, not of %s", t.Op, trait.Label)
	case (t.Op == AtLeast || t.Op == AtMost || t.Op == Between) && trait.Kind != machine.Number:
		return fmt.Errorf("%s compares numbers; %s is %s", t.Op, trait.Label, trait.Kind)
	case (t.Op == Contains || t.Op == Version || t.Op == Compatible) && trait.Kind != machine.Text:
		return fmt.Errorf("%s compares text; %s is %s", t.Op, trait.Label, trait.Kind)
	}
	for _, written := range t.Values {
		v, err := trait.Parse(written)
		if err != nil {
			return err
		}
		n.values = append(n.values, v)
	}
	if t.Op == Between && n.values[0].Number > n.values[1].Number {
		return errors.New("between can never hold: its first value is the greater one")
	}
	return nil
}

// Vocabulary is what the kit was checked against.
func (j *Judge) Vocabulary() *machine.Vocabulary { return j.voc }

// Truth judges a machine without explaining.
func (j *Judge) Truth(s machine.Snapshot) Truth { return j.root.truth(s) }

func (n *node) truth(s machine.Snapshot) Truth {
	switch n.kind {
	case allNode:
		t := isYes
		for i := range n.parts {
			t = t.And(n.parts[i].truth(s))
		}
		return t
	case anyNode, noneNode:
		t := isNo
		for i := range n.parts {
			t = t.Or(n.parts[i].truth(s))
		}
		if n.kind == noneNode {
			return t.Not()
		}
		return t
	case testNode:
		t, _ := n.test(s)
		return t
	case formulaKind:
		t, _ := n.formula.truth(s, n.req.Formula.Least)
		return t
	case capacityKind:
		return n.capacity.truth(s)
	case kitKind:
		t, _ := n.kitTruth(s)
		return t
	}
	return isIf
}

// kitTruth judges whether another kit is fitted: what it fits stands in its
// slot. Where nobody has looked it is not fitted: a kit is fitted by a work
// order, which is on record.
func (n *node) kitTruth(s machine.Snapshot) (Truth, state) {
	if f := s.At(n.trait); f.Known() && n.trait.Same(f.Value, n.values[0]) {
		return isYes, met
	}
	return isNo, notMet
}

// state says why a test stands where it stands.
type state string

const (
	met      state = "met"
	notMet   state = "not met"
	unknown  state = "unknown"
	weak     state = "too weak"
	conflict state = "conflict"
	withMore state = "with a further change"
)

func (n *node) test(s machine.Snapshot) (Truth, state) {
	t := n.req.Test
	f := s.At(n.trait)
	if f.Grade == machine.Unknown && n.trait != n.model && s.At(n.model).Value.Text == machine.None {
		if s.At(n.model).Grade < t.Least {
			return isOpen, weak
		}
		return isNo, notMet // the slot is empty: no part, no such trait
	}
	switch {
	case f.Grade == machine.Unknown:
		return isOpen, unknown
	case f.Grade < t.Least:
		return isOpen, weak
	case f.Known():
		if n.holds(f.Value) {
			return isYes, met
		}
		return isNo, notMet
	}
	all, none := true, true
	for _, v := range f.Candidates() {
		if n.holds(v) {
			none = false
		} else {
			all = false
		}
	}
	switch {
	case all:
		return isYes, met
	case none:
		return isNo, notMet
	}
	return isOpen, conflict
}

func (n *node) holds(v machine.Value) bool {
	switch n.req.Test.Op {
	case Known:
		return true
	case Present:
		return !strings.EqualFold(v.Text, machine.None)
	case Absent:
		return strings.EqualFold(v.Text, machine.None)
	case Equal, OneOf:
		for _, w := range n.values {
			if n.trait.Same(v, w) {
				return true
			}
		}
		return false
	case AtLeast:
		return v.Number >= n.values[0].Number
	case AtMost:
		return v.Number <= n.values[0].Number
	case Between:
		return v.Number >= n.values[0].Number && v.Number <= n.values[1].Number
	case Contains:
		return strings.Contains(strings.ToLower(v.Text), strings.ToLower(n.values[0].Text))
	case Version:
		return CompareVersions(v.Text, n.values[0].Text) >= 0
	case Compatible:
		return CompatibleVersion(v.Text, n.values[0].Text)
	}
	return false
}

// factBounds are the least and the greatest that a number may be, as far as the
// evidence goes: one number, the span of a conflict, or whatever the trait
// allows.
func factBounds(s machine.Snapshot, t, model *machine.Trait, least machine.Grade) (lo, hi float64, open bool) {
	return span(t, s.At(t), s.At(model), least)
}

// span is factBounds of a fact and what is known of its position's model.
func span(t *machine.Trait, f, model *machine.Fact, least machine.Grade) (lo, hi float64, open bool) {
	lo, hi = math.Inf(-1), math.Inf(1)
	if t.Max > t.Min {
		lo, hi = t.Min, t.Max
	}
	switch {
	case f.Grade == machine.Unknown && model.Value.Text == machine.None && model.Grade >= least:
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
