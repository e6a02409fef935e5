package fit

import (
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
			if f := w.At(t); f != nil && f.Known() {
				b.WriteString(f.Value.Text)
				b.WriteByte('0' + byte(f.Grade))
			}
			b.WriteByte(';')
		}
	}
	b.WriteByte(')')
}
