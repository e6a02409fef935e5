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
	j.root.residue(world{Snapshot: s}, &b)
	return b.String()
}

func (n *node) residue(w world, b *strings.Builder) {
	if t := n.truth(w); t.Decided() {
		b.WriteByte('0' + byte(t.Lo))
		return
	}
	b.WriteByte('(')
	if len(n.parts) > 0 {
		for i := range n.parts {
			n.parts[i].residue(w, b)
		}
	} else {
		for _, t := range n.looksAt() {
			f := w.At(t)
			b.WriteByte('0' + byte(f.Grade))
			for _, v := range f.Candidates() {
				b.WriteString(v.Text + "|")
			}
			b.WriteByte(';')
		}
		if n.budget != nil { // what few machines have counts by whether anything of it is on record
			lo, hi, _ := n.budget.bounds(w)
			fmt.Fprint(b, lo, hi)
		}
	}
	b.WriteByte(')')
}
