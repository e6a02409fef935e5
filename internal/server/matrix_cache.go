package server

import (
	"maps"
	"slices"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/store"
)

// matrixCache keeps the matrix from one question to the next: only machines of which
// something was found out since are judged anew.
type matrixCache struct {
	turn   chan struct{} // held by who judges
	judges []*fit.Judge
	matrix *fit.Matrix
	rows   map[int64]cachedRow
}

type cachedRow struct {
	facts machine.Snapshot
	row   *fit.Row
	heads []int // that each kit fits best
}

// keep begins anew when the kits are others, and forgets machines that are gone.
func (j *matrixCache) keep(judges []*fit.Judge, fleet []store.Machine) {
	if j.matrix == nil || !slices.Equal(j.judges, judges) {
		j.judges, j.matrix, j.rows = judges, fit.NewMatrix(judges), map[int64]cachedRow{}
	}
	there := make(map[int64]bool, len(fleet))
	for i := range fleet {
		there[fleet[i].ID] = true
	}
	maps.DeleteFunc(j.rows, func(id int64, _ cachedRow) bool { return !there[id] })
}

func (j *matrixCache) row(m *store.Machine) cachedRow {
	known := j.rows[m.ID]
	if known.row == nil || !known.facts.Same(m.Facts) {
		known = cachedRow{facts: m.Facts, row: j.matrix.Judge(m.Facts, known.row), heads: make([]int, len(j.judges))}
		for k, judge := range j.judges {
			known.heads[k] = judge.Head(m.Facts)
		}
		j.rows[m.ID] = known
	}
	return known
}
