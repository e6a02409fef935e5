package fit

import (
	"cmp"
	"slices"

	"wardifex/internal/core/machine"
)

// Matrix judges many kits on many machines. Requirements that kits share are judged once a
// machine, on facts laid out flat; what parts need is worked out once for all machines
// with the same parts; of a capacity the account is drawn up once a machine, and kits are
// differences to it. It gives the same answers as each Judge by itself, and may be shared.
type Matrix struct {
	Judges []*Judge

	leafSet
	programs []program // by kit
	changes  []*partChange
	keys     []string // of the capacities that kits draw on
	profiles *profiles

	touched  map[machine.Key][]int // leaves by the trait that they look at
	kitsOf   [][]int               // kits by leaf
	columnOf map[machine.Key][]int // columns by the trait that they look at
	readsCap map[machine.Key][]int // capacities by the trait that they look at
	byParts  map[machine.Key]bool  // traits that what parts need looks at
	lasting  []int                 // by change: its leaf
}

// step is an instruction over a stack of truths.
type step struct {
	op  stepOp
	arg int32
}

type stepOp uint8

const (
	pushLeaf  stepOp = iota // arg: the leaf
	pushTruth               // arg: the truth
	pushIf
	andAll // arg: how many are taken off the stack
	orAny
	invert
)

// program puts the truth of a kit together: where every leaf must be so, they are only
// gone through.
type program struct {
	steps []step
	all   []int32 // leaves
}

func newProgram(steps []step) program {
	p := program{steps: steps}
	last := len(steps) - 1
	for i, st := range steps {
		switch {
		case i < last && st.op == pushLeaf:
			p.all = append(p.all, st.arg)
		case i == last && st.op == andAll && int(st.arg) == last:
			return p
		default:
			return program{steps: steps}
		}
	}
	return program{steps: steps}
}

func (p *program) run(leaves []Truth) Truth {
	if p.all == nil {
		return run(p.steps, leaves)
	}
	t := isYes
	for _, i := range p.all {
		t = t.And(leaves[i])
	}
	return t
}

// NewMatrix makes a matrix of kits that were checked against one vocabulary.
func NewMatrix(judges []*Judge) *Matrix {
	m := &Matrix{Judges: judges, touched: map[machine.Key][]int{}}
	if len(judges) > 0 {
		m.leafSet = newLeafSet(judges[0].voc)
	}
	for k, j := range judges {
		var steps []step
		m.compile(&j.root, &steps, k)
		m.programs = append(m.programs, newProgram(steps))
	}
	m.profiles = newProfiles(m.voc, m.changes)
	m.index()
	return m
}

// index notes what depends on each trait.
func (m *Matrix) index() {
	m.columnOf, m.readsCap, m.byParts = map[machine.Key][]int{}, map[machine.Key][]int{}, map[machine.Key]bool{}
	for i := range m.columns {
		for _, t := range append([]*machine.Trait{m.columns[i].trait, m.columns[i].model}, listTraits(m.voc)...) {
			m.columnOf[t.Key()] = append(m.columnOf[t.Key()], i)
		}
	}
	for i, key := range m.keys {
		c, _ := capacityOf(key)
		for _, t := range (&capacityNode{Capacity: c}).looked(m.voc) {
			m.readsCap[t.Key()] = append(m.readsCap[t.Key()], i)
		}
	}
	for key, leaves := range m.touched {
		m.byParts[key] = slices.ContainsFunc(leaves, func(i int) bool { return m.leaves[i].kind == lastingLeaf })
	}
}

func (m *Matrix) compile(n *node, program *[]step, kit int) {
	switch {
	case n.over == nil && (n.kind == allNode || n.kind == anyNode || n.kind == noneNode):
		for i := range n.parts {
			m.compile(&n.parts[i], program, kit)
		}
		*program = append(*program, grouped(n.kind, len(n.parts))...)
	case n.kind == furtherNode:
		*program = append(*program, step{op: pushIf})
	case n.kind == clusterKind && len(n.cluster.alternatives) <= flatAlternatives:
		for _, a := range n.cluster.alternatives {
			nodes, _ := a.ready()
			for i := range nodes {
				m.compile(&nodes[i], program, kit)
			}
			of := int32(len(nodes))
			if len(a.changes) > 0 {
				*program, of = append(*program, step{op: pushIf}), of+1
			}
			*program = append(*program, step{andAll, of})
		}
		*program = append(*program, step{orAny, int32(len(n.cluster.alternatives))})
	default:
		key := n.identity()
		var x *exchange
		if n.kind == capacityKind && n.over == nil {
			if x = newExchange(n.capacity, m.voc); x != nil {
				key = cmp.Or(x.identity(), key)
			}
		}
		i, added := m.addAs(n, key)
		if added {
			m.note(i, n, x)
		}
		if ks := m.kitsOf[i]; len(ks) == 0 || ks[len(ks)-1] != kit {
			m.kitsOf[i] = append(ks, kit)
		}
		*program = append(*program, step{pushLeaf, int32(i)})
	}
}

// grouped puts so many truths on the stack together.
func grouped(kind nodeKind, parts int) []step {
	switch kind {
	case allNode:
		return []step{{andAll, int32(parts)}}
	case noneNode:
		return []step{{orAny, int32(parts)}, {op: invert}}
	}
	return []step{{orAny, int32(parts)}}
}

// note notes on what a leaf depends, and how it is judged.
func (m *Matrix) note(i int, n *node, x *exchange) {
	m.kitsOf = append(m.kitsOf, nil)
	l := &m.leaves[i]
	switch {
	case n.kind == lastingKind && n.over == nil:
		l.kind, l.column = lastingLeaf, len(m.changes)
		m.changes, m.lasting = append(m.changes, n.lasting), append(m.lasting, i)
	case x != nil:
		l.kind, l.exchange = capacityLeaf, x
		if l.column = slices.Index(m.keys, n.capacity.Key); l.column < 0 {
			l.column, m.keys = len(m.keys), append(m.keys, n.capacity.Key)
		}
	}
	seen := map[*machine.Trait]bool{}
	n.each(func(l *node) {
		for _, t := range l.looksAt(m.voc) {
			if !seen[t] {
				seen[t] = true
				m.touched[t.Key()] = append(m.touched[t.Key()], i)
			}
		}
	})
}

// flatAlternatives is up to how many sets of additional changes are laid out in a kit's
// program; more of them are judged as the judge does it.
const flatAlternatives = 16

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
	if n.kind == testNode && n.own == nil && (n.op() == Present || n.op() == Absent) {
		add(voc.TraitsAt(n.trait.Slot)...) // any of them is a sign that a part is there
	}
	if n.trait != nil && n.trait.Position() != nil && n.trait.Position().Sometimes {
		add(listTraits(voc)...) // whether it is there at all
	}
	return out
}

// listTraits say whether the list of a machine's positions is whole.
func listTraits(voc *machine.Vocabulary) []*machine.Trait {
	var out []*machine.Trait
	for i := range voc.Slots {
		if t := voc.Of(&voc.Slots[i], machine.ListComplete); t != nil &&
			voc.Is(voc.Slots[i].Kind, machine.ListComplete.Kind) {
			out = append(out, t)
		}
	}
	return out
}

// Row is a machine laid out for the matrix, with what was found for it.
type Row struct {
	structure *machine.Structure // of the machine
	facts     []fact
	leaves    []Truth
	accounts  []account // by capacity
	parts     partsRow
	anew      []bool  // by kit
	Truths    []Truth // by kit
}

// Judge judges all kits on a machine. row is used again when it is not nil.
func (m *Matrix) Judge(s machine.Snapshot, row *Row) *Row {
	if row == nil {
		row = &Row{
			facts:    make([]fact, len(m.columns)),
			leaves:   make([]Truth, len(m.leaves)),
			accounts: make([]account, len(m.keys)),
			Truths:   make([]Truth, len(m.programs)),
		}
	}
	row.structure = s.Structure()
	for i := range m.columns {
		row.facts[i] = m.columns[i].lay(s)
	}
	clear(row.accounts)
	m.profiles.judge(s, &row.parts)
	for i := range m.leaves {
		row.leaves[i] = m.leafTruth(i, s, row)
	}
	for k := range m.programs {
		row.Truths[k] = m.programs[k].run(row.leaves)
	}
	return row
}

// Unjudged is the row of a machine that could not be judged: every kit on it is undecided, with no lean.
func (m *Matrix) Unjudged() *Row {
	row := &Row{Truths: make([]Truth, len(m.programs))}
	for k := range row.Truths {
		row.Truths[k] = isOpen
	}
	return row
}

// Update judges anew what depends on the traits that changed, after a reading.
func (m *Matrix) Update(s machine.Snapshot, row *Row, changed ...machine.Key) {
	if s.Structure() != row.structure { // it has other positions now, and perhaps other heads
		m.Judge(s, row)
		return
	}
	parts := false
	for _, key := range changed {
		for _, i := range m.columnOf[key] {
			row.facts[i] = m.columns[i].lay(s)
		}
		for _, i := range m.readsCap[key] {
			row.accounts[i].ready = false
		}
		parts = parts || m.byParts[key]
	}
	row.anew = grown(row.anew, len(m.programs))
	clear(row.anew)
	if parts && (len(changed) > 1 || !m.profiles.update(s, &row.parts, changed[0])) {
		m.profiles.judge(s, &row.parts)
	}
	if parts {
		for c, i := range m.lasting {
			m.found(i, row.parts.changes[c], row)
		}
	}
	for _, key := range changed {
		for _, i := range m.touched[key] {
			m.found(i, m.leafTruth(i, s, row), row)
		}
	}
	for k, anew := range row.anew {
		if anew {
			row.Truths[k] = m.programs[k].run(row.leaves)
		}
	}
}

// found notes what a leaf is now, and which kits are to be put together anew.
func (m *Matrix) found(i int, t Truth, row *Row) {
	if row.leaves[i] == t {
		return
	}
	row.leaves[i] = t
	for _, k := range m.kitsOf[i] {
		row.anew[k] = true
	}
}

func (m *Matrix) leafTruth(i int, s machine.Snapshot, row *Row) Truth {
	switch l := &m.leaves[i]; l.kind {
	case lastingLeaf:
		return row.parts.changes[l.column]
	case capacityLeaf:
		a := &row.accounts[l.column]
		if !a.ready {
			a.open(l.exchange.node.Capacity, s)
		}
		return l.exchange.truth(a, s)
	default:
		return l.truth(row.facts, s)
	}
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
		case pushTruth:
			stack = append(stack, Truth(s.arg))
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
