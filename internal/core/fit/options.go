package fit

import (
	"cmp"
	"fmt"
	"math/bits"
	"slices"
	"sync"

	"wardifex/internal/core/machine"
)

// MostTogether is how many additional changes of a kit may bear on each other: every
// set of them is judged on the machine with it made.
const MostTogether = 12

// option is an additional change that acts: it changes the machine or takes something.
type option struct {
	AdditionalChange
	slots   map[string]bool // that it writes at
	overlay *machine.Overlay
}

// conjunct is one of the things that must all be so for a kit to fit.
type conjunct struct {
	req      *Requirement
	capacity string // of a sum
	result   bool   // on the machine that the kit ends in
	lasting  bool   // what parts need
	harmless bool

	shown node // as it is shown: every additional change left open
}

// cluster is what additional changes that bear on each other bear on.
type cluster struct {
	conjuncts    []conjunct
	alternatives []*alternative // none made first
}

// alternative is a kit with a set of those changes made.
type alternative struct {
	of      *builder
	among   *cluster
	changes []AdditionalChange
	once    sync.Once
	nodes   []node // by conjunct
	err     error
}

// builder builds the judge of a kit.
type builder struct {
	kit     Kit
	voc     *machine.Vocabulary
	options []option
	// fittingOnly leaves out what parts need and what the kit is for.
	fittingOnly bool
}

// optionKey tells additional changes apart.
func optionKey(f *AdditionalChange) string { return cmp.Or(f.Key, f.Title) }

func (b *builder) findOptions() error {
	for _, f := range b.kit.additionalChanges() {
		known := slices.ContainsFunc(b.options,
			func(o option) bool { return optionKey(&o.AdditionalChange) == optionKey(&f) })
		if known || len(f.Effects) == 0 && len(f.Uses) == 0 {
			continue
		}
		for _, u := range f.Uses {
			if err := checkUse(u); err != nil {
				return fmt.Errorf("%s: %w", f.Title, err)
			}
		}
		if err := once(f.Effects, b.voc); err != nil {
			return fmt.Errorf("%s: %w", f.Title, err)
		}
		o := option{AdditionalChange: f, slots: map[string]bool{}}
		var err error
		if o.overlay, err = overlayOf(f.Effects, b.voc); err != nil {
			return fmt.Errorf("%s: %w", f.Title, err)
		}
		for _, e := range f.Effects {
			o.slots[e.Slot] = true
			if e.From != "" {
				o.slots[e.From] = true
			}
		}
		b.options = append(b.options, o)
	}
	return nil
}

// conjuncts are the things that must be so, with all that sums and parts ask.
func (b *builder) conjuncts() ([]conjunct, error) {
	var out []conjunct
	add := func(r *Requirement, result bool) {
		switch {
		case r.All != nil:
			for i := range r.All {
				out = append(out, conjunct{req: &r.All[i], result: result, harmless: r.Harmless})
			}
		case !isEmpty(r):
			out = append(out, conjunct{req: r, result: result})
		}
	}
	add(&b.kit.Needs, false)
	for _, e := range b.kit.Effects {
		if from := b.voc.At(e.From); from != nil && e.Moves() {
			out = append(
				out,
				conjunct{
					req: &Requirement{
						Label:     from.Label + " is there to be moved",
						Why:       "It goes into another place.",
						Otherwise: "Fitting one first would change that.",
						Test:      &Test{Slot: e.From, Trait: machine.ModelTrait, Op: Present, Least: machine.Marked},
					},
				},
			)
		}
	}
	all := []consumption{consumptionOf(b.kit, b.voc)}
	keys, err := capacitiesOf(b.voc, all...)
	if err != nil {
		return nil, err
	}
	for _, o := range b.options {
		more, err := capacitiesOf(b.voc, all[0], consumptionBy(o.AdditionalChange, b.voc))
		if err != nil {
			return nil, fmt.Errorf("%s: %w", o.Title, err)
		}
		for _, key := range more {
			if !slices.Contains(keys, key) {
				keys = append(keys, key)
			}
		}
	}
	for _, key := range keys {
		out = append(out, conjunct{capacity: key, req: &Requirement{}})
	}
	if b.fittingOnly {
		return out, nil
	}
	out = append(out, conjunct{lasting: true,
		req: &Requirement{Label: "What its parts need, and parts that it touches"}})
	if b.kit.Result != nil {
		add(b.kit.Result, true)
	}
	return out, nil
}

// isEmpty reports whether nothing is required.
func isEmpty(r *Requirement) bool {
	return r.All == nil && r.Any == nil && r.None == nil && r.Test == nil && r.Formula == nil && r.Kit == nil &&
		r.Additional == nil
}

func capacitiesOf(voc *machine.Vocabulary, spenders ...consumption) ([]string, error) {
	nodes, err := compileUses(voc, spenders...)
	var out []string
	for _, n := range nodes {
		out = append(out, n.capacity.Key)
	}
	return out, err
}

// node makes a conjunct ready with some additional changes made; open leaves every one
// of them open.
func (b *builder) node(c *conjunct, changes []AdditionalChange, open bool) (node, error) {
	made := func(f *AdditionalChange) (bool, bool) {
		acts := slices.ContainsFunc(b.options,
			func(o option) bool { return optionKey(&o.AdditionalChange) == optionKey(f) })
		return slices.ContainsFunc(changes, func(m AdditionalChange) bool { return optionKey(&m) == optionKey(f) }),
			acts && !open
	}
	switch {
	case c.capacity != "":
		spenders := []consumption{consumptionOf(b.kit, b.voc)}
		for _, f := range changes {
			spenders = append(spenders, consumptionBy(f, b.voc))
		}
		nodes, err := compileUses(b.voc, spenders...)
		for _, n := range nodes {
			if n.capacity.Key == c.capacity {
				return n, err
			}
		}
		return node{kind: fixedNode, fixed: isYes, req: c.req}, err
	case c.lasting:
		change, err := newPartChange(b.kit, changes, b.voc)
		return node{kind: lastingKind, lasting: change, req: c.req}, err
	}
	n, err := compiler{voc: b.voc, made: made, harmless: c.harmless}.compile(c.req, 0)
	if err != nil {
		return n, err
	}
	effects := effectsOf(changes)
	if c.result {
		effects = append(effects, b.kit.Effects...)
	}
	n.over, err = overlayOf(effects, b.voc)
	return n, err
}

func effectsOf(changes []AdditionalChange) []Effect {
	var out []Effect
	for _, f := range changes {
		out = append(out, f.Effects...)
	}
	return out
}

// touches reports whether an additional change bears on a conjunct.
func (b *builder) touches(o *option, c *conjunct) bool {
	switch {
	case c.capacity != "":
		x := consumptionBy(o.AdditionalChange, b.voc)
		known, _ := capacityOf(c.capacity)
		return len(x.of(c.capacity)) > 0 || known.drawnOnBy(o.overlay, b.voc)
	case c.lasting:
		return lastingOf(b.voc).bearsOn(o.slots)
	}
	if offers(c.req, optionKey(&o.AdditionalChange)) {
		return true
	}
	found := false
	c.shown.each(func(n *node) {
		for _, slot := range n.slots(b.voc) {
			found = found || o.slots[slot]
		}
	})
	return found
}

// offers reports whether an additional change is among those that a need names.
func offers(r *Requirement, key string) bool {
	if r.Additional != nil && optionKey(r.Additional) == key {
		return true
	}
	for _, group := range [][]Requirement{r.All, r.Any, r.None} {
		for i := range group {
			if offers(&group[i], key) {
				return true
			}
		}
	}
	return false
}

// slots are the positions that a leaf looks at.
func (n *node) slots(voc *machine.Vocabulary) []string {
	var out []string
	if n.kind == selectedKind {
		for i := range voc.Slots {
			if voc.Is(voc.Slots[i].Kind, n.selection.selector.Kind) {
				out = append(out, voc.Slots[i].Key)
			}
		}
	}
	for _, t := range n.touchedBy() {
		out = append(out, t.Slot)
	}
	return out
}

// build makes the tree of a kit: what no additional change bears on, and the clusters.
func (b *builder) build() (node, error) {
	root := node{kind: allNode, req: &b.kit.Needs}
	if err := b.findOptions(); err != nil {
		return root, err
	}
	conjuncts, err := b.conjuncts()
	if err != nil {
		return root, err
	}
	group := make([]int, len(b.options)) // by option: the first of its cluster
	for i := range group {
		group[i] = i
	}
	of := func(i int) int {
		for group[i] != i {
			i = group[i]
		}
		return i
	}
	at := make([]int, len(conjuncts)) // by conjunct: an option that bears on it, or −1
	for i := range conjuncts {
		c := &conjuncts[i]
		if c.shown, err = b.node(c, nil, true); err != nil {
			return root, err
		}
		at[i] = -1
		for k := range b.options {
			if !b.touches(&b.options[k], c) {
				continue
			}
			if at[i] >= 0 {
				group[of(k)] = of(at[i])
			}
			at[i] = k
		}
	}
	clusters := map[int]*cluster{}
	for i, c := range conjuncts {
		if at[i] < 0 {
			root.parts = append(root.parts, c.shown)
			continue
		}
		first := of(at[i])
		x := clusters[first]
		if x == nil {
			x = &cluster{}
			clusters[first] = x
			root.parts = append(
				root.parts,
				node{kind: clusterKind, cluster: x, req: &Requirement{Label: "With additional changes"}},
			)
		}
		x.conjuncts = append(x.conjuncts, c)
	}
	for first, x := range clusters {
		var among []AdditionalChange
		for k := range b.options {
			if of(k) == first {
				among = append(among, b.options[k].AdditionalChange)
			}
		}
		if err := b.alternatives(x, among); err != nil {
			return root, err
		}
	}
	return root, nil
}

// alternatives are every set of some additional changes, the smallest and cheapest first.
func (b *builder) alternatives(x *cluster, among []AdditionalChange) error {
	if len(among) > MostTogether {
		return fmt.Errorf(
			"%d of its additional changes bear on each other; at most %d can be judged together: leave some out, or make "+
				"several kits",
			len(among),
			MostTogether,
		)
	}
	for mask := range 1 << len(among) {
		a := &alternative{of: b, among: x}
		for i, f := range among {
			if mask>>i&1 == 1 {
				a.changes = append(a.changes, f)
			}
		}
		if once(effectsOf(a.changes), b.voc) == nil { // two at one position cannot both be made
			x.alternatives = append(x.alternatives, a)
		}
		if bits.OnesCount(uint(mask)) <= 1 {
			if _, err := a.ready(); err != nil {
				return err
			}
		}
	}
	slices.SortStableFunc(x.alternatives, func(a, b *alternative) int {
		return cmp.Or(cmp.Compare(len(a.changes), len(b.changes)), cmp.Compare(cost(a.changes), cost(b.changes)))
	})
	return nil
}

// ready makes an alternative ready when it is first met.
func (a *alternative) ready() ([]node, error) {
	a.once.Do(func() {
		for i := range a.among.conjuncts {
			n, err := a.of.node(&a.among.conjuncts[i], a.changes, false)
			if err != nil {
				a.err = err
				return
			}
			a.nodes = append(a.nodes, n)
		}
	})
	return a.nodes, a.err
}

func (a *alternative) truth(s machine.Snapshot) Truth {
	t := isYes
	if len(a.changes) > 0 {
		t = isIf
	}
	nodes, err := a.ready()
	if err != nil {
		return isNo
	}
	for i := range nodes {
		if t = t.And(nodes[i].truth(s)); t == isNo {
			break
		}
	}
	return t
}

// truth is what the best set of additional changes comes to: what surely fits with some
// set surely fits with additional changes, and what may fit with some may.
func (x *cluster) truth(s machine.Snapshot) Truth {
	t := isNo
	for _, a := range x.alternatives {
		if t = t.Or(a.truth(s)); t == isYes {
			break
		}
	}
	return t
}

// best is the alternative that is surest to fit, and of those the one that costs least.
func (x *cluster) best(s machine.Snapshot) (*alternative, Truth) {
	var best *alternative
	var is Truth
	for _, a := range x.alternatives {
		t := a.truth(s)
		if best == nil || better(t, is) || sameRank(t, is) && cost(a.changes) < cost(best.changes) {
			best, is = a, t
		}
		if is == isYes {
			break
		}
	}
	return best, is
}

func rankOf(t Truth) [4]Level { return [4]Level{t.Lo(), t.Hi(), t.LeanLo(), t.LeanHi()} }

func sameRank(a, b Truth) bool { return rankOf(a) == rankOf(b) }

func better(a, b Truth) bool {
	x, y := rankOf(a), rankOf(b)
	for i := range x {
		if x[i] != y[i] {
			return x[i] > y[i]
		}
	}
	return false
}
