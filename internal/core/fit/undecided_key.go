package fit

import (
	"fmt"
	"strings"

	"wardifex/internal/core/machine"
)

// UndecidedKey identifies the undecided part of a kit's needs on a machine: machines with
// equal keys react alike to further readings.
func (j *Judge) UndecidedKey(s machine.Snapshot) string {
	var b strings.Builder
	j.root.undecidedKey(j.voc, s, &b)
	return b.String()
}

func (n *node) undecidedKey(voc *machine.Vocabulary, w machine.Snapshot, b *strings.Builder) {
	if n.over != nil {
		w = w.Over(n.over)
	}
	if n.kind == lastingKind {
		n.lasting.unasked(w, b)
	}
	if t := n.truth(w); t.Decided() {
		b.WriteByte('0' + byte(t.Lo()))
		return
	}
	b.WriteByte('(')
	switch {
	case n.kind == lastingKind:
		n.lasting.undecidedKey(w, b)
	case n.kind == clusterKind:
		for _, a := range n.cluster.alternatives {
			nodes, _ := a.ready()
			for i := range nodes {
				nodes[i].undecidedKey(voc, w, b)
			}
			b.WriteByte('/')
		}
	case n.kind == selectedKind:
		fmt.Fprintf(b, "%p", w.Structure())
		n.selection.on(w).undecidedKey(voc, w, b)
	case len(n.parts) > 0:
		for i := range n.parts {
			n.parts[i].undecidedKey(voc, w, b)
		}
	default:
		for _, t := range n.looksAt(voc) {
			writeKnown(w.At(t), b)
		}
		if n.capacity != nil { // what is left tells what parts and kits take besides
			x := worst(n.capacity.sums(w, false))
			fmt.Fprint(b, x.lo, x.hi, x.worse)
		}
	}
	b.WriteByte(')')
}

func writeKnown(f *machine.Fact, b *strings.Builder) {
	b.WriteByte('0' + byte(f.Grade))
	for _, v := range f.Candidates() {
		b.WriteString(v.Text + "|")
	}
	b.WriteByte(';')
}

// undecidedKey writes down what of the needs that a change touches is still open. Where it is
// open what a part is, whatever another part there would need is open with it.
func (c *partChange) undecidedKey(s machine.Snapshot, b *strings.Builder) {
	after := c.after(s)
	fmt.Fprintf(b, "%p", after.Structure())
	for _, x := range c.touched(s, after) {
		if c.of(x, s, after).Decided() {
			continue
		}
		fmt.Fprintf(b, "%p", x)
		x.root.undecidedKey(c.lasting.voc, after, b)
		if !x.guard.truth(after).Decided() {
			c.everything(after, b)
		}
	}
}

// unasked writes down everything that needs may look at where something is there of which
// nobody knows anything: nothing is asked of it yet.
func (c *partChange) unasked(s machine.Snapshot, b *strings.Builder) {
	if c.overlay == nil {
		return
	}
	near := c.near()
	for _, p := range s.Structure().Positions() {
		if near[p.Index()] && c.lasting.kinds[p.Index()] && s.At(modelOf(s, p)).Grade == machine.Unknown &&
			s.Sign(p) == machine.Unknown {
			c.everything(s, b)
			return
		}
	}
}

// everything writes down all that is known of parts that needs are about.
func (c *partChange) everything(s machine.Snapshot, b *strings.Builder) {
	concerned := c.lasting.concerns()
	for _, t := range c.lasting.voc.Traits {
		if f := s.At(t); concerned[t.Position().Kind] && f.Grade != machine.Unknown {
			b.WriteString(string(t.Key()))
			writeKnown(f, b)
		}
	}
}
