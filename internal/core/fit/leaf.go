package fit

import (
	"fmt"
	"strings"

	"wardifex/internal/core/machine"
)

// leafSet are requirements without parts, each once, over the traits that they ask.
type leafSet struct {
	voc     *machine.Vocabulary
	leaves  []leaf
	columns []column
	at      map[columnKey]int
	known   map[string]int // leaves by identity
}

type columnKey struct{ trait, model *machine.Trait }

func newLeafSet(voc *machine.Vocabulary) leafSet {
	return leafSet{voc: voc, at: map[columnKey]int{}, known: map[string]int{}}
}

// leaf is a requirement without parts.
type leaf struct {
	n        *node
	kind     leafKind
	column   int // of facts, of changes or of accounts
	least    machine.Grade
	lo, hi   float64 // where a number must lie
	mask     uint64  // which of the column's values hold
	exchange *exchange
}

type leafKind uint8

const (
	slowLeaf     leafKind = iota // a formula: as the judge does it
	rangeLeaf                    // a number between bounds
	maskLeaf                     // a word among some
	capacityLeaf                 // a difference to what is left of a capacity
	lastingLeaf                  // what parts need with a change made
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

// identity is the same for leaves that judge alike.
func (n *node) identity() string {
	switch {
	case n.over != nil:
	case n.kind == presenceNode:
		return "present " + n.position.Key
	case n.kind == identityNode || n.kind == featureNode:
		return fmt.Sprint("is ", n.kind, " ", n.trait.Key(), " ", n.values[0].Text, " ", n.least)
	case n.kind == testNode && n.own == nil:
		var b strings.Builder
		b.WriteString(string(n.trait.Key()))
		if n.model == n.trait {
			b.WriteByte(1)
		}
		b.WriteByte(0)
		b.WriteString(string(n.op()))
		b.WriteByte(byte(n.least))
		for _, v := range n.values {
			b.WriteByte(0)
			b.WriteString(v.Text)
		}
		return b.String()
	}
	return fmt.Sprintf("own %p", n)
}

// add gives the place of a leaf, and says whether it is new.
func (s *leafSet) add(n *node) (i int, added bool) { return s.addAs(n, n.identity()) }

func (s *leafSet) addAs(n *node, key string) (i int, added bool) {
	if i, ok := s.known[key]; ok {
		return i, false
	}
	l := leaf{n: n, column: -1}
	if n.kind == testNode && n.own == nil && n.over == nil {
		l.least = n.least
		l.column = s.columnFor(n)
		l.asFlat(&s.columns[l.column])
	}
	i = len(s.leaves)
	s.leaves, s.known[key] = append(s.leaves, l), i
	return i, true
}

func (s *leafSet) columnFor(n *node) int {
	key := columnKey{n.trait, n.model}
	i, ok := s.at[key]
	if !ok {
		i = len(s.columns)
		s.at[key] = i
		s.columns = append(s.columns, column{trait: n.trait, model: n.model, ids: map[string]uint8{}})
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

// truth judges a leaf on the facts of a machine.
func (l *leaf) truth(facts []fact, s machine.Snapshot) Truth {
	if l.kind == slowLeaf {
		return l.n.truth(s)
	}
	f := &facts[l.column]
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
