package fit

import (
	"bytes"
	"encoding/binary"
	"reflect"
	"slices"
	"sync"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// profiles are what parts need with each of some changes made, worked out once for all
// machines that have the same parts: which needs there are depends on their models alone.
type profiles struct {
	changes []*partChange

	mu     sync.RWMutex // of what follows
	set    leafSet
	needs  []folded
	known  map[string]int32 // needs by what they come to
	byPart map[string]*profile
}

// mostProfiles bounds what is remembered; a fleet of more kinds of machine begins anew.
const mostProfiles = 4096

// folded is a need with a change made: what the change itself settles is settled already.
type folded struct {
	program []step // over the leaves of the set; nil: as the judge does it
	x       *instance
	change  *partChange
}

// profile is what the parts of some machines need. It does not change once made.
type profile struct {
	columns, leaves []int32
	needs           []int32
	pairs           []pair  // by change
	slow            []int32 // changes that are judged as the judge does it

	leavesBy map[machine.Key][]int32 // by the trait that they look at
	needsOf  map[int32][]int32       // by leaf
	changeOf map[int32][]int32       // by need
	pairsOf  map[int32][2]int        // by change: from, to
}

// pair says that a change touches a need.
type pair struct{ change, need int32 }

// partsRow is what was found for one machine, by change.
type partsRow struct {
	changes []Truth
	facts   []fact
	leaves  []Truth
	needs   []Truth
	profile *profile // by which it was judged; nil where it was judged otherwise
	key     []byte
	other   []byte
}

func newProfiles(voc *machine.Vocabulary, changes []*partChange) *profiles {
	p := &profiles{changes: changes, known: map[string]int32{}, byPart: map[string]*profile{}}
	if voc != nil {
		p.set = newLeafSet(voc)
	}
	return p
}

// judge judges what parts need on a machine with each of the changes made.
func (p *profiles) judge(s machine.Snapshot, row *partsRow) {
	row.changes, row.profile = grown(row.changes, len(p.changes)), nil
	if len(p.changes) == 0 {
		return
	}
	if len(s.Takings()) > 0 { // what was taken is given back where parts leave
		for c, change := range p.changes {
			row.changes[c] = change.truth(s)
		}
		return
	}
	row.key = profileKey(row.key[:0], s)
	p.mu.RLock()
	known := p.byPart[string(row.key)]
	if known == nil {
		p.mu.RUnlock()
		known = p.learn(s, row.key)
		p.mu.RLock()
	}
	defer p.mu.RUnlock()
	row.facts, row.leaves, row.needs = grown(
		row.facts,
		len(p.set.columns),
	), grown(
		row.leaves,
		len(p.set.leaves),
	), grown(
		row.needs,
		len(p.needs),
	)
	for _, i := range known.columns {
		row.facts[i] = p.set.columns[i].lay(s)
	}
	for _, i := range known.leaves {
		row.leaves[i] = p.set.leaves[i].truth(row.facts, s)
	}
	for _, i := range known.needs {
		if n := &p.needs[i]; n.program != nil {
			row.needs[i] = run(n.program, row.leaves)
		} else {
			row.needs[i] = n.change.met(n.x, s)
		}
	}
	for c := range row.changes {
		row.changes[c] = isYes
	}
	for _, at := range known.pairs {
		row.changes[at.change] = row.changes[at.change].And(row.needs[at.need])
	}
	for _, c := range known.slow {
		row.changes[c] = p.changes[c].truth(s)
	}
	row.profile = known
}

// update judges anew what depends on one trait. false where it has to be judged as a
// whole: it has other parts now.
func (p *profiles) update(s machine.Snapshot, row *partsRow, key machine.Key) bool {
	known := row.profile
	if known == nil || len(s.Takings()) > 0 {
		return false
	}
	row.other = profileKey(row.other[:0], s)
	if !bytes.Equal(row.key, row.other) {
		return false
	}
	p.mu.RLock()
	defer p.mu.RUnlock()
	anew := map[int32]bool{} // changes
	judge := func(i int32) {
		n := &p.needs[i]
		t := isYes
		if n.program != nil {
			t = run(n.program, row.leaves)
		} else {
			t = n.change.met(n.x, s)
		}
		if t != row.needs[i] {
			row.needs[i] = t
			for _, c := range known.changeOf[i] {
				anew[c] = true
			}
		}
	}
	for _, i := range known.leavesBy[key] {
		l := &p.set.leaves[i]
		if l.column >= 0 {
			row.facts[l.column] = p.set.columns[l.column].lay(s)
		}
		if t := l.truth(row.facts, s); t != row.leaves[i] {
			row.leaves[i] = t
			for _, n := range known.needsOf[i] {
				judge(n)
			}
		}
	}
	for _, i := range known.needs {
		if p.needs[i].program == nil {
			judge(i)
		}
	}
	for c := range anew {
		row.changes[c] = isYes
		for at := known.pairsOf[c][0]; at < known.pairsOf[c][1]; at++ {
			row.changes[c] = row.changes[c].And(row.needs[known.pairs[at].need])
		}
	}
	for _, c := range known.slow {
		row.changes[c] = p.changes[c].truth(s)
	}
	return true
}

func grown[T any](s []T, n int) []T {
	if len(s) >= n {
		return s
	}
	return slices.Grow(s, n-len(s))[:n]
}

// profileKey writes down everything on which it depends which needs a machine has, with
// whatever change made: its structure, the models at the positions of which some model
// needs something, and the features of builds.
func profileKey(b []byte, s machine.Snapshot) []byte {
	l := lastingOf(s.Vocabulary())
	b = binary.LittleEndian.AppendUint64(b, uint64(reflect.ValueOf(s.Structure()).Pointer()))
	words := func(f *machine.Fact) {
		if f.Known() {
			b = append(b, f.Value.Text...)
		} else {
			for _, v := range f.Candidates() {
				b = append(append(b, v.Text...), 1)
			}
		}
		b = append(b, 0, byte(f.Grade))
	}
	for _, p := range s.Structure().Positions() {
		i := p.Index()
		if l.models[i] {
			words(s.At(modelOf(s, p)))
		}
		if l.builds[i] {
			words(s.Of(p, parts.FirmwareFeatures))
		}
	}
	return b
}

// learn works out the profile of a machine.
func (p *profiles) learn(s machine.Snapshot, key []byte) *profile {
	p.mu.Lock()
	defer p.mu.Unlock()
	if known := p.byPart[string(key)]; known != nil {
		return known
	}
	if len(p.byPart) >= mostProfiles {
		clear(p.byPart)
	}
	out := &profile{}
	for c, change := range p.changes {
		switch {
		case change.overlay == nil:
		case change.ofBuilds():
			out.slow = append(out.slow, int32(c))
		default:
			after := s.Over(change.overlay)
			structure := after.Structure()
			change.lasting.each(after, func(n *partNeed, at *machine.Position) {
				x := n.on(change.lasting.voc, structure, at)
				if change.touch(x) == untouched {
					return
				}
				if i := p.fold(x, change, after); i >= 0 {
					out.pairs = append(out.pairs, pair{int32(c), i})
				}
			})
		}
	}
	out.ready(p)
	p.byPart[string(key)] = out
	return out
}

// ready lists what has to be judged for the needs of a profile, each once.
func (out *profile) ready(p *profiles) {
	out.leavesBy, out.needsOf, out.changeOf, out.pairsOf = map[machine.Key][]int32{}, map[int32][]int32{},
		map[int32][]int32{}, map[int32][2]int{}
	seen := map[int32]bool{}
	for at, x := range out.pairs {
		out.changeOf[x.need] = append(out.changeOf[x.need], x.change)
		span, begun := out.pairsOf[x.change]
		if !begun {
			span[0] = at
		}
		out.pairsOf[x.change] = [2]int{span[0], at + 1}
		if seen[x.need] {
			continue
		}
		seen[x.need] = true
		out.needs = append(out.needs, x.need)
		for _, st := range p.needs[x.need].program {
			if st.op != pushLeaf {
				continue
			}
			out.needsOf[st.arg] = append(out.needsOf[st.arg], x.need)
			if len(out.needsOf[st.arg]) > 1 {
				continue
			}
			l := &p.set.leaves[st.arg]
			out.leaves = append(out.leaves, st.arg)
			if l.column >= 0 && !slices.Contains(out.columns, int32(l.column)) {
				out.columns = append(out.columns, int32(l.column))
			}
			for _, t := range l.n.looksAt(p.set.voc) {
				if by := out.leavesBy[t.Key()]; len(by) == 0 || by[len(by)-1] != st.arg {
					out.leavesBy[t.Key()] = append(by, st.arg)
				}
			}
		}
	}
}

// ofBuilds reports whether a change puts another build in, of which more depends than on
// its models.
func (c *partChange) ofBuilds() bool {
	return c.family || slices.ContainsFunc(c.effects, func(e Effect) bool {
		_, features := e.Traits[parts.FirmwareFeatures.Name]
		return features
	})
}

// fold is the place of a need with a change made; −1 where it is met whatever the machine.
func (p *profiles) fold(x *instance, c *partChange, after machine.Snapshot) int32 {
	f := folding{set: &p.set, change: c, after: after}
	n := folded{x: x, change: c}
	key := ""
	that, ok := term{}, false
	if c.touch(x) == touchesIt {
		if that, ok = f.node(&x.that, true); ok {
			var guard term
			guard, ok = f.node(&x.guard, false)
			that = group(anyNode, that, group(noneNode, guard))
		}
	}
	if ok {
		if that.constant() && that.truth == isYes {
			return -1
		}
		n.program = that.steps()
		var b []byte
		for _, st := range n.program {
			b = binary.LittleEndian.AppendUint32(append(b, byte(st.op)), uint32(st.arg))
		}
		key = string(b)
	} else {
		key = string(binary.LittleEndian.AppendUint64(binary.LittleEndian.AppendUint64([]byte{255},
			uint64(reflect.ValueOf(x).Pointer())), uint64(reflect.ValueOf(c).Pointer())))
	}
	if i, ok := p.known[key]; ok {
		return i
	}
	i := int32(len(p.needs))
	p.needs, p.known[key] = append(p.needs, n), i
	return i
}

// term is a part of a need: a program over leaves, or a truth that is so on every machine.
type term struct {
	program []step
	truth   Truth
}

func (t term) constant() bool { return t.program == nil }

func (t term) steps() []step {
	if t.constant() {
		return []step{{pushTruth, int32(t.truth)}}
	}
	return t.program
}

// group puts terms together, and leaves out what makes no difference.
func group(kind nodeKind, terms ...term) term {
	neutral, settles := isNo, isYes // of any and none
	if kind == allNode {
		neutral, settles = isYes, isNo
	}
	fixed := neutral
	var program []step
	parts := 0
	for _, t := range terms {
		if !t.constant() {
			program, parts = append(program, t.program...), parts+1
			continue
		}
		if kind == allNode {
			fixed = fixed.And(t.truth)
		} else {
			fixed = fixed.Or(t.truth)
		}
	}
	out := term{truth: fixed}
	if parts > 0 && fixed != settles {
		if fixed != neutral {
			program, parts = append(program, step{pushTruth, int32(fixed)}), parts+1
		}
		if parts > 1 {
			program = append(program, step{map[bool]stepOp{true: andAll, false: orAny}[kind == allNode], int32(parts)})
		}
		out.program = program
	}
	if kind != noneNode {
		return out
	}
	if out.constant() {
		return term{truth: out.truth.Not()}
	}
	out.program = append(out.program, step{op: invert})
	return out
}

// met is the truth of a need that a change touches on a machine.
func (c *partChange) met(x *instance, s machine.Snapshot) Truth {
	after := c.after(s)
	if c.touch(x) == touchesGuard && x.same(s, after) {
		return isYes
	}
	return c.of(x, s, after)
}

// folding compiles a need with a change made: what the change says itself is a constant,
// what it leaves alone is a leaf.
type folding struct {
	set    *leafSet
	change *partChange
	after  machine.Snapshot // some machine with the change made
}

// node compiles a node; false where it mixes what the change says with what the machine
// has in a way that is judged machine by machine. With specified, what is not stated of
// the change's parts is taken to be right.
func (f *folding) node(n *node, specified bool) (term, bool) {
	if n.over != nil {
		return term{}, false
	}
	switch n.kind {
	case allNode, anyNode, noneNode:
		terms := make([]term, len(n.parts))
		for i := range n.parts {
			var ok bool
			if terms[i], ok = f.node(&n.parts[i], specified); !ok {
				return term{}, false
			}
		}
		return group(n.kind, terms...), true
	case fixedNode:
		return term{truth: n.fixed}, true
	case testNode, presenceNode, identityNode, featureNode, formulaKind:
	default:
		return term{}, false
	}
	switch traits := f.asks(n); {
	case !slices.ContainsFunc(traits, f.change.overlay.Changes):
		return f.leaf(n), true
	case !slices.ContainsFunc(traits, func(t *machine.Trait) bool { return f.change.overlay.Constant(t) == nil }):
		t := n.truth(f.after)
		if specified && !t.Decided() && slices.ContainsFunc(traits, f.change.unstated) {
			t = isYes
		}
		return term{truth: t}, true
	}
	return f.mixed(n)
}

// asks are the traits on which a leaf depends, the signs that something is there among
// them.
func (f *folding) asks(n *node) []*machine.Trait {
	var out []*machine.Trait
	add := func(ts ...*machine.Trait) {
		for _, t := range ts {
			if t != nil && !slices.Contains(out, t) {
				out = append(out, t)
			}
		}
	}
	add(n.trait, n.model, n.own, n.ownModel)
	if n.formula != nil {
		for _, t := range n.formula.traits {
			add(t, f.set.voc.ModelAt(t.Position()))
		}
	}
	if n.kind == presenceNode || n.kind == testNode && n.own == nil && (n.op() == Present || n.op() == Absent) {
		add(f.set.voc.TraitsAt(n.trait.Slot)...)
	}
	return out
}

// mixed is a comparison of what the change states with what the machine has: a leaf of
// the one against a constant.
func (f *folding) mixed(n *node) (term, bool) {
	if n.kind != testNode || n.own == nil || n.trait.Kind != machine.Number {
		return term{}, false
	}
	o := f.change.overlay
	op, there, stated := n.op(), n.trait, o.Constant(n.own)
	if o.Changes(n.trait) {
		op, there, stated = map[Op]Op{AtLeast: AtMost, AtMost: AtLeast, Equal: Equal}[op], n.own, o.Constant(n.trait)
	}
	if stated == nil || !stated.Known() || stated.Grade < n.least || o.Changes(there) ||
		op != AtLeast && op != AtMost && op != Equal {
		return term{}, false
	}
	v := stated.Value
	v.Number = there.Snap(v.Number)
	flat := &node{
		kind:   testNode,
		req:    &Requirement{Label: n.req.Label, Test: &Test{Op: op}},
		trait:  there,
		model:  there,
		least:  n.least,
		values: []machine.Value{v},
	}
	return f.leaf(flat), true
}

func (f *folding) leaf(n *node) term {
	i, _ := f.set.add(n)
	return term{program: []step{{pushLeaf, int32(i)}}}
}
