package fit

import (
	"fmt"
	"strings"

	"wardifex/internal/core/machine"
)

// Residue writes down what of a kit's needs is still open on a machine, with
// the facts known that the open needs look at. Two machines of one residue turn
// out alike by whatever is found out next.
func (j *Judge) Residue(s machine.Snapshot) string {
	var b strings.Builder
	j.root.residue(j.voc, s, &b)
	return b.String()
}

func (n *node) residue(voc *machine.Vocabulary, w machine.Snapshot, b *strings.Builder) {
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
		n.lasting.residue(w, b)
	case n.kind == clusterKind:
		for _, a := range n.cluster.alternatives {
			nodes, _ := a.ready()
			for i := range nodes {
				nodes[i].residue(voc, w, b)
			}
			b.WriteByte('/')
		}
	case n.kind == selectedKind:
		fmt.Fprintf(b, "%p", w.Structure())
		n.selection.on(w).residue(voc, w, b)
	case len(n.parts) > 0:
		for i := range n.parts {
			n.parts[i].residue(voc, w, b)
		}
	default:
		for _, t := range n.looksAt(voc) {
			residueOf(w.At(t), b)
		}
		if n.capacity != nil { // what is left tells what parts and kits take besides
			x := worst(n.capacity.sums(w, false))
			fmt.Fprint(b, x.lo, x.hi, x.worse)
		}
	}
	b.WriteByte(')')
}

func residueOf(f *machine.Fact, b *strings.Builder) {
	b.WriteByte('0' + byte(f.Grade))
	for _, v := range f.Candidates() {
		b.WriteString(v.Text + "|")
	}
	b.WriteByte(';')
}

// residue writes down what of the needs that a change touches is still open. Where it is
// open what a part is, whatever another part there would need is open with it.
func (c *partChange) residue(s machine.Snapshot, b *strings.Builder) {
	after := c.after(s)
	fmt.Fprintf(b, "%p", after.Structure())
	for _, x := range c.touched(s, after) {
		if c.of(x, s, after).Decided() {
			continue
		}
		fmt.Fprintf(b, "%p", x)
		x.root.residue(c.lasting.voc, after, b)
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
			residueOf(f, b)
		}
	}
}
