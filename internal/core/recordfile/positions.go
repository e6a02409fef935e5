package recordfile

import (
	"wardifex/internal/core/machine"
)

// PositionsBesides are the positions of the file's machines, for a vocabulary that
// has them besides the usual ones.
func (f File) PositionsBesides() []machine.Position {
	var out []machine.Position
	for _, m := range f.Machines {
		for _, p := range m.Positions {
			out = append(out, p.Position)
		}
	}
	return out
}
