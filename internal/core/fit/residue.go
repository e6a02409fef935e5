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
	if t := n.truth(w); t.Decided() {
		b.WriteByte('0' + byte(t.Lo))
		return
	}
	b.WriteByte('(')
	if len(n.parts) > 0 {
		for i := range n.parts {
			n.parts[i].residue(voc, w, b)
		}
	} else {
		for _, t := range n.looksAt(voc) {
			f := w.At(t)
			b.WriteByte('0' + byte(f.Grade))
			for _, v := range f.Candidates() {
				b.WriteString(v.Text + "|")
			}
			b.WriteByte(';')
		}
		if n.capacity != nil { // what is left tells what parts and kits take besides
			x := worst(n.capacity.sums(w, false))
			fmt.Fprint(b, x.lo, x.hi, x.worse)
		}
	}
	b.WriteByte(')')
}
