package fit

import (
	"fmt"
	"strings"

	"wardifex/internal/core/machine"
)

// Matrix judges many kits on many machines. Requirements that kits share are
// judged once a machine, on facts laid out flat; the groups of each kit are
// then put together from those. It gives the same answers as each Judge by
// itself. It does not change once built and may be shared.
type Matrix struct {
	Judges []*Judge

	voc      *machine.Vocabulary
	leaves   []leaf
	programs [][]step // by kit
	columns  []column // by the place of a trait in facts
	at       map[*machine.Trait]int
	touched  map[machine.Key][]int // leaves by the trait that they look at
	kitsOf   [][]int               // kits by leaf
	columnOf map[machine.Key][]int // columns by the trait that they look at
	kitsBy   map[machine.Key][]int // kits by the trait that they look at
}

// leaf is a requirement without parts.
type leaf struct {
	n      *node
	kind   leafKind
	column int
	least  machine.Grade
	lo, hi float64 // where a number must lie
	mask   uint64  // which of the column's values hold
}

type leafKind uint8

const (
	slowLeaf  leafKind = iota // a formula, a budget: as the judge does it
	rangeLeaf                 // a number between bounds
	maskLeaf                  // a word among some
)

// column is what the leaves ask of one trait.
type column struct {
	trait, model *machine.Trait
	ids          map[string]uint8 // words that leaves compare with
}

// fact is a trait of one machine as leaves need it.
type fact struct {
	number float64
	bit    uint64 // of the word; 0 when no leaf compares with it
	grade  machine.Grade
	state  factState
}

type factState uint8

const (
	factUnknown factState = iota
	factKnown
	factConflict
	factNoPart // the slot is known to be empty
)

// step is an instruction over a stack of truths.
type step struct {
	op  stepOp
	arg int32
}

type stepOp uint8

const (
	pushLeaf stepOp = iota // arg: the leaf
	pushIf
	andAll // arg: how many are taken off the stack
	orAny
	invert
)

// NewMatrix makes a matrix of kits that were checked against one vocabulary.
func NewMatrix(judges []*Judge) *Matrix {
	m := &Matrix{Judges: judges, at: map[*machine.Trait]int{}, touched: map[machine.Key][]int{}}
	if len(judges) > 0 {
		m.voc = judges[0].voc
	}
	known := map[string]int{}
	for k, j := range judges {
		var program []step
		m.compile(&j.root, &program, known, k)
		m.programs = append(m.programs, program)
	}
	m.index()
	return m
}

// index notes what depends on each trait.
func (m *Matrix) index() {
	m.columnOf, m.kitsBy = map[machine.Key][]int{}, map[machine.Key][]int{}
	for i := range m.columns {
		for _, t := range append([]*machine.Trait{m.columns[i].trait, m.columns[i].model}, listTraits(m.voc)...) {
			m.columnOf[t.Key()] = append(m.columnOf[t.Key()], i)
		}
	}
	for key, leaves := range m.touched {
		seen := map[int]bool{}
		for _, i := range leaves {
			for _, k := range m.kitsOf[i] {
				if !seen[k] {
					seen[k] = true
					m.kitsBy[key] = append(m.kitsBy[key], k)
				}
			}
		}
	}
}

func (m *Matrix) compile(n *node, program *[]step, known map[string]int, kit int) {
	switch {
	case n.over == nil && (n.kind == allNode || n.kind == anyNode || n.kind == noneNode):
		for i := range n.parts {
			m.compile(&n.parts[i], program, known, kit)
		}
		op := orAny
		if n.kind == allNode {
			op = andAll
		}
		*program = append(*program, step{op, int32(len(n.parts))})
		if n.kind == noneNode {
			*program = append(*program, step{op: invert})
		}
	case n.kind == furtherNode:
		*program = append(*program, step{op: pushIf})
	case n.kind == clusterKind && len(n.cluster.alternatives) <= flatAlternatives:
		for _, a := range n.cluster.alternatives {
			nodes, _ := a.ready()
			for i := range nodes {
				m.compile(&nodes[i], program, known, kit)
			}
			of := int32(len(nodes))
			if len(a.further) > 0 {
				*program, of = append(*program, step{op: pushIf}), of+1
			}
			*program = append(*program, step{andAll, of})
		}
		*program = append(*program, step{orAny, int32(len(n.cluster.alternatives))})
	default:
		key := n.identity()
		i, there := known[key]
		if !there {
			i = m.addLeaf(n)
			known[key] = i
		}
		if ks := m.kitsOf[i]; len(ks) == 0 || ks[len(ks)-1] != kit {
			m.kitsOf[i] = append(ks, kit)
		}
		*program = append(*program, step{pushLeaf, int32(i)})
	}
}

// flatAlternatives is up to how many sets of additional changes are laid out in a kit's
// program; more of them are judged as the judge does it.
const flatAlternatives = 16

// identity is the same for leaves that judge alike.
func (n *node) identity() string {
	if n.kind != testNode || n.own != nil || n.over != nil {
		return fmt.Sprintf("own %p", n)
	}
	var b strings.Builder
	b.WriteString(string(n.trait.Key()))
	b.WriteByte(0)
	b.WriteString(string(n.op()))
	b.WriteByte(byte(n.least))
	for _, v := range n.values {
		b.WriteByte(0)
		b.WriteString(v.Text)
	}
	return b.String()
}

func (m *Matrix) addLeaf(n *node) int {
	l := leaf{n: n, column: -1}
	if n.kind == testNode && n.own == nil && n.over == nil {
		l.least = n.least
		l.column = m.columnFor(n)
		l.asFlat(&m.columns[l.column])
	}
	i := len(m.leaves)
	m.leaves, m.kitsOf = append(m.leaves, l), append(m.kitsOf, nil)
	seen := map[*machine.Trait]bool{}
	n.each(func(l *node) {
		for _, t := range l.looksAt(m.voc) {
			if !seen[t] {
				seen[t] = true
				m.touched[t.Key()] = append(m.touched[t.Key()], i)
			}
		}
	})
	return i
}

func (m *Matrix) columnFor(n *node) int {
	i, ok := m.at[n.trait]
	if !ok {
		i = len(m.columns)
		m.at[n.trait] = i
		m.columns = append(m.columns, column{trait: n.trait, model: n.model, ids: map[string]uint8{}})
	}
	return i
}

// asFlat turns a test into a comparison of numbers or words where it is one.
func (l *leaf) asFlat(c *column) {
	switch op := l.n.op(); op {
	case AtLeast, AtMost, Between:
		l.kind = rangeLeaf
		l.lo, l.hi, _ = l.n.span()
	case Equal, OneOf:
		if c.trait.Kind == machine.Number {
			if n := c.trait.Snap(l.n.values[0].Number); op == Equal {
				l.kind, l.lo, l.hi = rangeLeaf, n, n
			}
			return
		}
		mask := uint64(0)
		for _, v := range l.n.values {
			word := c.fold(v.Text)
			id, ok := c.ids[word]
			if !ok {
				if len(c.ids) >= 63 {
					return // too many words of one trait: judged one by one
				}
				id = uint8(len(c.ids))
				c.ids[word] = id
			}
			mask |= 1 << id
		}
		l.kind, l.mask = maskLeaf, mask
	}
}

// fold is the form in which words of a trait are compared.
func (c *column) fold(text string) string {
	if c.trait.Kind == machine.Text {
		return strings.ToLower(strings.Join(strings.Fields(text), " "))
	}
	return text
}

// looksAt lists the traits on which a leaf depends.
func (n *node) looksAt(voc *machine.Vocabulary) []*machine.Trait {
	var out []*machine.Trait
	add := func(ts ...*machine.Trait) {
		for _, t := range ts {
			if t != nil {
				out = append(out, t)
			}
		}
	}
	positions := func(wanted func(*machine.Position) bool) {
		for i := range voc.Slots {
			if wanted(&voc.Slots[i]) { // any trait of it is a sign that a part is there
				add(voc.TraitsAt(voc.Slots[i].Key)...)
			}
		}
	}
	switch n.kind {
	case capacityKind:
		add(n.capacity.looked(voc)...)
	case formulaKind:
		for _, t := range n.formula.traits {
			model, _ := voc.Trait(machine.KeyOf(t.Slot, machine.ModelTrait))
			add(t, model)
		}
	case presenceNode:
		add(voc.TraitsAt(n.position.Key)...)
	case nothingNode:
		add(listTraits(voc)...)
	case selectedKind:
		positions(func(p *machine.Position) bool { return voc.Is(p.Kind, n.selection.selector.Kind) })
		add(listTraits(voc)...)
	case lastingKind:
		if n.lasting.overlay != nil {
			concerned := n.lasting.lasting.concerns()
			positions(func(p *machine.Position) bool { return concerned[p.Kind] })
			add(listTraits(voc)...)
		}
	case clusterKind:
		for _, a := range n.cluster.alternatives {
			nodes, _ := a.ready()
			for i := range nodes {
				nodes[i].each(func(l *node) { add(l.looksAt(voc)...) })
			}
		}
	}
	add(n.trait, n.model, n.own, n.ownModel)
	if n.trait != nil && n.trait.Position() != nil && n.trait.Position().Sometimes {
		add(listTraits(voc)...) // whether it is there at all
	}
	return out
}

// listTraits say whether the list of a machine's positions is whole.
func listTraits(voc *machine.Vocabulary) []*machine.Trait {
	var out []*machine.Trait
	for i := range voc.Slots {
		if t := voc.Of(&voc.Slots[i], machine.ListComplete); t != nil && voc.Is(voc.Slots[i].Kind, machine.ListComplete.Kind) {
			out = append(out, t)
		}
	}
	return out
}

// Row is a machine laid out for the matrix, with what was found for it.
type Row struct {
	facts  []fact
	leaves []Truth
	Truths []Truth // by kit
}

// Judge judges all kits on a machine. row is used again when it is not nil.
func (m *Matrix) Judge(s machine.Snapshot, row *Row) *Row {
	if row == nil {
		row = &Row{facts: make([]fact, len(m.columns)), leaves: make([]Truth, len(m.leaves)), Truths: make([]Truth, len(m.programs))}
	}
	for i := range m.columns {
		row.facts[i] = m.columns[i].lay(s)
	}
	for i := range m.leaves {
		row.leaves[i] = m.leaf(i, row, s)
	}
	for k := range m.programs {
		row.Truths[k] = run(m.programs[k], row.leaves)
	}
	return row
}

// Update judges anew what depends on the traits that changed, after a reading.
func (m *Matrix) Update(s machine.Snapshot, row *Row, changed ...machine.Key) {
	for _, key := range changed {
		for _, i := range m.columnOf[key] {
			row.facts[i] = m.columns[i].lay(s)
		}
	}
	for _, key := range changed {
		for _, i := range m.touched[key] {
			row.leaves[i] = m.leaf(i, row, s)
		}
	}
	for _, key := range changed {
		for _, k := range m.kitsBy[key] {
			row.Truths[k] = run(m.programs[k], row.leaves)
		}
	}
}

// lay writes one trait of a machine flat.
func (c *column) lay(s machine.Snapshot) fact {
	f := s.At(c.trait)
	out := fact{grade: f.Grade, number: c.trait.Snap(f.Value.Number)}
	switch {
	case f.Grade == machine.Unknown:
		if c.trait != c.model && s.At(c.model).Value.Text == machine.None {
			out.state, out.grade = factNoPart, s.At(c.model).Grade
		}
	case !f.Known():
		out.state = factConflict
	default:
		out.state = factKnown
		if len(c.ids) > 0 {
			if id, ok := c.ids[c.fold(f.Value.Text)]; ok {
				out.bit = 1 << id
			}
		}
	}
	return out
}

func (m *Matrix) leaf(i int, row *Row, s machine.Snapshot) Truth {
	l := &m.leaves[i]
	if l.kind == slowLeaf {
		return l.n.truth(s)
	}
	f := &row.facts[l.column]
	holds := false
	switch {
	case f.state == factUnknown:
		return isOpen
	case f.state == factConflict:
		return l.n.truth(s)
	case f.state == factNoPart:
	case l.kind == rangeLeaf:
		holds = f.number >= l.lo && f.number <= l.hi
	default:
		holds = f.bit&l.mask != 0
	}
	t := isNo
	if holds {
		t = isYes
	}
	if f.grade < l.least { // what claims say leans, and decides nothing
		t = t&leaning | isOpen&strictly
	}
	return t
}

// run puts a kit's groups together. Groups nest at most maxDepth deep, and a
// group's parts lie on the stack together.
func run(program []step, leaves []Truth) Truth {
	var fixed [64]Truth
	stack := fixed[:0]
	for _, s := range program {
		switch s.op {
		case pushLeaf:
			stack = append(stack, leaves[s.arg])
		case pushIf:
			stack = append(stack, isIf)
		case invert:
			stack[len(stack)-1] = stack[len(stack)-1].Not()
		default:
			from := len(stack) - int(s.arg)
			t := isYes
			if s.op == orAny {
				t = isNo
			}
			for _, u := range stack[from:] {
				if s.op == andAll {
					t = t.And(u)
				} else {
					t = t.Or(u)
				}
			}
			stack = append(stack[:from], t)
		}
	}
	if len(stack) != 1 {
		return isOpen // cannot be: every program leaves one truth
	}
	return stack[0]
}

// Counts are how many machines have each answer for a kit, and how those that are to be
// looked at first lean.
type Counts struct {
	Fits       int `json:"fits"`
	FitsIf     int `json:"fitsIf"`
	LookFirst  int `json:"lookFirst"`
	DoesNotFit int `json:"doesNotFit"`

	LeansFits       int `json:"leansFits" doc:"Of those to be looked at first"`
	LeansFitsIf     int `json:"leansFitsIf"`
	LeansDoesNotFit int `json:"leansDoesNotFit"`
	NoLean          int `json:"noLean"`
}

// Add counts one more answer with its lean.
func (c *Counts) Add(a, lean Answer) {
	switch a {
	case Fits:
		c.Fits++
	case FitsIf:
		c.FitsIf++
	case DoesNotFit:
		c.DoesNotFit++
	default:
		c.LookFirst++
		switch lean {
		case Fits:
			c.LeansFits++
		case FitsIf:
			c.LeansFitsIf++
		case DoesNotFit:
			c.LeansDoesNotFit++
		default:
			c.NoLean++
		}
	}
}
