package fit

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"

	"wardifex/internal/core/machine"
)

// maxDepth bounds how deep groups may nest.
const maxDepth = 32

// compiler makes requirements ready: those of a kit, or those of a part that is at a
// position of a structure.
type compiler struct {
	voc       *machine.Vocabulary
	structure *machine.Structure // that selectors select from; nil: each machine's own
	owner     *machine.Position  // of what needs it; nil for a kit
	part      *machine.Position  // that a formula is asked of
	harmless  bool               // what is compiled may be decided by a claim
	lasting   bool               // other kits and additional changes are not for it
	guard     bool               // it says where something is needed: what is not listed is not there
	// made says of an additional change that acts whether it is made; nil where none is
	// told apart.
	made func(*AdditionalChange) (made, acts bool)
}

func (c compiler) compile(r *Requirement, depth int) (node, error) {
	n := node{req: r}
	if depth > maxDepth {
		return n, fmt.Errorf("requirements nest deeper than %d", maxDepth)
	}
	if r.Harmless && r.Hazard != "" {
		return n, fmt.Errorf("%s: what is a hazard is not harmless: no claim may decide it", n.called())
	}
	c.harmless = c.harmless || r.Harmless
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
				return n, fmt.Errorf("%s: an additional change cannot stand under none", n.called())
			}
			n.parts = append(n.parts, part)
		}
		if len(group) == 0 {
			return n, fmt.Errorf("%s: the group is empty", n.called())
		}
	}
	if r.Test != nil {
		set++
	}
	if r.Formula != nil {
		set++
	}
	if r.Kit != nil {
		set++
	}
	if r.Additional != nil {
		set++
	}
	if set != 1 {
		return n, fmt.Errorf(
			"%s: a requirement is one of all, any, none, test, formula, kit or further; this one is %d of them",
			n.called(),
			set,
		)
	}
	var err error
	switch {
	case r.Test != nil:
		err = c.test(&n, r)
	case r.Formula != nil:
		err = c.formula(&n, r)
	case r.Kit != nil:
		err = c.kit(&n, r)
	case r.Additional != nil:
		err = c.changes(&n, r)
	}
	if err != nil {
		return n, fmt.Errorf("%s: %w", n.called(), err)
	}
	return n, nil
}

func (c compiler) kit(n *node, r *Requirement) error {
	if c.lasting {
		return errors.New("a part needs what is fitted, not a kit; name the kind of part")
	}
	if r.Kit.Key == "" {
		return errors.New("choose the other kit")
	}
	n.kind, n.least = kitKind, decides(machine.Marked, c.harmless)
	if n.trait, _ = c.voc.Trait(machine.KeyOf(r.Kit.Slot, machine.ModelTrait)); n.trait == nil {
		return fmt.Errorf("there is no position %q", r.Kit.Slot)
	}
	n.model, n.values = n.trait, []machine.Value{{Text: r.Kit.Model}}
	return nil
}

func (c compiler) changes(n *node, r *Requirement) error {
	n.kind = furtherNode
	if c.lasting {
		return errors.New("a part needs what is fitted; an additional change is offered by a kit")
	}
	if strings.TrimSpace(r.Additional.Title) == "" {
		return errors.New("an additional change needs a name, such as: adapter board on the display header")
	}
	if c.made == nil {
		return nil
	}
	if made, acts := c.made(r.Additional); acts && !made {
		n.kind, n.fixed = fixedNode, isNo
	}
	return nil
}

func (c compiler) test(n *node, r *Requirement) error {
	t := r.Test
	n.kind = testNode
	if t.Of == nil {
		p := c.voc.At(t.Slot)
		if p == nil {
			return fmt.Errorf("there is no trait %s.%s", t.Slot, t.Trait)
		}
		return c.testAt(n, p)
	}
	if t.Slot != "" {
		return errors.New("a test is of one position or of selected parts, not of both")
	}
	if err := c.checkSelector(*t.Of); err != nil {
		return err
	}
	if !slices.ContainsFunc(c.voc.TraitsOf(t.Of.Kind), func(d machine.TraitDef) bool { return d.Name == t.Trait }) {
		kind, _ := c.voc.Kind(t.Of.Kind)
		return fmt.Errorf("a part of the kind %s has no trait %q", kind.Label, t.Trait)
	}
	// Checked once by itself, whether or not any machine has such a part.
	if p := c.voc.First(t.Of.Kind); p != nil {
		if err := c.testAt(&node{req: r}, p); err != nil {
			return err
		}
	}
	return c.selected(n, *t.Of, func(c compiler, p *machine.Position) (node, error) {
		one := node{req: r, kind: testNode}
		if t.Op == Present || t.Op == Absent {
			one = node{req: r, kind: presenceNode, position: p}
			one.trait, one.model = c.voc.ModelAt(p), c.voc.ModelAt(p)
			if t.Op == Absent {
				return node{req: r, kind: noneNode, parts: []node{one}}, nil
			}
			return one, nil
		}
		err := c.testAt(&one, p)
		return one, err
	}, t.Op == Absent)
}

// checkSelector says what is wrong with a selector as written.
func (c compiler) checkSelector(s machine.Selector) error {
	if _, ok := c.voc.Kind(s.Kind); !ok {
		return fmt.Errorf("there is no kind of part %q", s.Kind)
	}
	if !slices.Contains(machine.RelationKinds(), s.Relation) {
		return fmt.Errorf(
			"%q is no relation of parts; there are itself, same place, same head, feeds it, fed by it, carries it and "+
				"rides on it",
			s.Relation,
		)
	}
	if c.owner == nil && s.Relation != machine.Anywhere {
		return fmt.Errorf("%q is said of the part that needs something; a kit's needs name a kind or a place", s.Relation)
	}
	if _, err := machine.ParsePlace(string(s.At)); err != nil {
		return err
	}
	return nil
}

// selected makes a node of every selected part, or of some one. bare says that it holds
// of a part that is not there.
func (c compiler) selected(
	n *node,
	s machine.Selector,
	one func(compiler, *machine.Position) (node, error),
	bare bool,
) error {
	build := func(structure *machine.Structure) (node, error) {
		at := c
		at.structure = structure
		out := node{req: n.req, kind: anyNode, selected: true}
		if s.Every {
			out.kind = allNode
		}
		for _, p := range structure.Select(s, c.owner) {
			part, err := one(at, p)
			if err != nil {
				return out, err
			}
			there := node{req: n.req, kind: presenceNode, position: p}
			there.trait, there.model = c.voc.ModelAt(p), c.voc.ModelAt(p)
			switch {
			case bare || part.kind == presenceNode:
			case s.Every: // of what is not there, nothing is asked
				part = node{req: n.req, kind: anyNode, parts: []node{part, {req: n.req, kind: noneNode, parts: []node{there}}}}
			default:
				part = node{req: n.req, kind: allNode, parts: []node{there, part}}
			}
			out.parts = append(out.parts, part)
		}
		switch {
		case len(out.parts) > 0:
		case s.Every:
			out = node{req: n.req, kind: fixedNode, fixed: isYes}
		case bare && c.guard:
			out = node{req: n.req, kind: fixedNode, fixed: isYes}
		case bare: // none is listed: it is absent as surely as the list is whole
			out = node{req: n.req, kind: noneNode, parts: []node{{req: n.req, kind: nothingNode}}}
		case c.guard:
			out = node{req: n.req, kind: fixedNode, fixed: isNo}
		default:
			out = node{req: n.req, kind: nothingNode}
		}
		return out, nil
	}
	if c.structure != nil {
		out, err := build(c.structure)
		*n = out
		return err
	}
	n.kind, n.selection = selectedKind, &selection{selector: s, build: build}
	return nil
}

// selection is a need of selected parts, made ready for each structure when it is met.
type selection struct {
	selector machine.Selector
	build    func(*machine.Structure) (node, error)
	at       sync.Map // *machine.Structure → *node
}

func (x *selection) on(s machine.Snapshot) *node {
	structure := s.Structure()
	if known, ok := x.at.Load(structure); ok {
		return known.(*node)
	}
	n, err := x.build(structure)
	if err != nil { // checked before: it cannot be judged here
		n = node{req: &Requirement{Label: err.Error()}, kind: fixedNode, fixed: isOpen}
	}
	kept, _ := x.at.LoadOrStore(structure, &n)
	return kept.(*node)
}

func (n *node) hasFurther() bool {
	for i := range n.parts {
		if n.parts[i].hasFurther() {
			return true
		}
	}
	return n.kind == furtherNode || n.req != nil && n.req.Additional != nil
}

// OpKind is an operator with how many values it takes; Most is large where any
// number will do.
type OpKind struct {
	Op    Op  `json:"op"`
	Least int `json:"least"`
	Most  int `json:"most"`
}

// Ops lists the operators of a test.
func Ops() []OpKind {
	var out []OpKind
	for _, op := range []Op{Equal, OneOf, AtLeast, AtMost, Between, Contains, Present, Absent, Known, Version,
		Compatible} {
		out = append(out, OpKind{op, valuesOf[op][0], valuesOf[op][1]})
	}
	return out
}

// valuesOf says how many values each operator takes: least and most.
var valuesOf = map[Op][2]int{
	Equal: {1, 1}, OneOf: {1, 1000}, AtLeast: {1, 1}, AtMost: {1, 1}, Between: {2, 2}, Contains: {1, 1},
	Present: {0, 0}, Absent: {0, 0}, Version: {1, 1}, Compatible: {1, 1}, Known: {0, 0},
}

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

// testAt is a test of one trait at a position.
func (c compiler) testAt(n *node, p *machine.Position) error {
	t := n.req.Test
	trait, ok := c.voc.Trait(machine.KeyOf(p.Key, t.Trait))
	if !ok {
		return fmt.Errorf("there is no trait %s.%s", p.Key, t.Trait)
	}
	n.trait, n.least = trait, decides(t.Least, c.harmless)
	n.model = c.voc.ModelAt(p)
	takes, ok := valuesOf[t.Op]
	if !ok {
		return fmt.Errorf("%q is not an operator", t.Op)
	}
	switch {
	case (t.Op == Present || t.Op == Absent) && t.Trait != machine.ModelTrait:
		return fmt.Errorf("%s is asked of a position's model, not of %s", t.Op, trait.Label)
	case (t.Op == AtLeast || t.Op == AtMost || t.Op == Between) && trait.Kind != machine.Number:
		return fmt.Errorf("%s compares numbers; %s is %s", t.Op, trait.Label, trait.Kind)
	case (t.Op == Contains || t.Op == Version || t.Op == Compatible) && trait.Kind != machine.Text:
		return fmt.Errorf("%s compares text; %s is %s", t.Op, trait.Label, trait.Kind)
	}
	if t.Own != "" {
		return c.comparedWith(n, t)
	}
	if len(t.Values) < takes[0] || len(t.Values) > takes[1] {
		return fmt.Errorf("%s takes %s, not %d", t.Op, count(takes), len(t.Values))
	}
	for _, written := range t.Values {
		v, err := trait.ParseRecorded(written)
		if err != nil {
			return err
		}
		n.values = append(n.values, v)
	}
	if n.asksVersion() {
		n.asked = readVersion(n.values[0].Text)
	}
	if t.Op == Between && n.values[0].Number > n.values[1].Number {
		return errors.New("between can never hold: its first value is the greater one")
	}
	return nil
}

// comparedWith is a test against a trait of the part that needs it.
func (c compiler) comparedWith(n *node, t *Test) error {
	switch {
	case c.owner == nil:
		return fmt.Errorf("%q is a trait of the part that needs something; a kit's needs compare with values", t.Own)
	case len(t.Values) > 0:
		return errors.New("it is compared with values, or with a trait of the part itself, not with both")
	case !slices.Contains([]Op{Equal, AtLeast, AtMost, Contains, Version, Compatible}, t.Op):
		return fmt.Errorf("%s is not asked of two traits", t.Op)
	}
	own, ok := c.voc.Trait(machine.KeyOf(c.owner.Key, t.Own))
	if !ok {
		return fmt.Errorf("the part itself has no trait %q", t.Own)
	}
	if own.Kind != n.trait.Kind || own.Unit != n.trait.Unit {
		return fmt.Errorf("%s and %s cannot be compared: they are not of one unit", n.trait.Label, own.Label)
	}
	n.own = own
	n.ownModel = c.voc.ModelAt(c.owner)
	return nil
}

func (c compiler) formula(n *node, r *Requirement) error {
	f := r.Formula
	n.kind, n.least = formulaKind, decides(f.Least, c.harmless)
	if f.Of == nil {
		var err error
		n.formula, err = c.compileFormula(f.Text)
		return err
	}
	if err := c.checkSelector(*f.Of); err != nil {
		return err
	}
	least := n.least
	one := func(c compiler, p *machine.Position) (node, error) {
		c.part = p
		compiled, err := c.compileFormula(f.Text)
		return node{req: r, kind: formulaKind, formula: compiled, least: least}, err
	}
	if p := c.voc.First(f.Of.Kind); p != nil {
		if _, err := one(c, p); err != nil {
			return err
		}
	}
	return c.selected(n, *f.Of, one, false)
}
