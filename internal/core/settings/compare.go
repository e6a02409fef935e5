package settings

import (
	"math"
	"slices"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Agreement is how a statement stands against the record.
type Agreement string

const (
	AsOnRecord Agreement = "as on record"
	Differs    Agreement = "differs"
	NotOnIt    Agreement = "not on record"
)

// StatedOnRecord is a statement held against the record of a machine.
type StatedOnRecord struct {
	ValueStatement
	Title    string    `json:"title"`
	Is       Agreement `json:"is" enum:"as on record,differs,not on record"`
	OnRecord string    `json:"onRecord,omitempty" doc:"What is valid on record"`
	Settle   string    `json:"settle,omitempty" doc:"Where they differ: what settles it"`
}

// tolerance is by how much two numbers may differ that were written with other digits, as a share
// of the larger of 1 and the value. Source: from memory; reports round to two or three digits.
const tolerance = 0.002

// Compare holds what settings state against the record: only what the machine has.
func Compare(s machine.Snapshot, records []calibration.Record, stated *Stated) []StatedOnRecord {
	out := []StatedOnRecord{}
	for _, st := range stated.Calibrations {
		c, ok := calibration.Of(st.Kind)
		if !ok || !slices.Contains(c.Subjects(s), st.Subject) {
			continue
		}
		is := StatedOnRecord{ValueStatement: st, Title: c.On(s, st.Subject), Is: NotOnIt}
		if at := calibration.StateOf(s, records, c, st.Subject); at.Word == calibration.Valid {
			is.OnRecord, is.Is = at.Record.Value, AsOnRecord
			if !alike(c.Numbers(st.Subject, st.Value), c.Numbers(st.Subject, at.Record.Value)) {
				is.Is = Differs
				is.Settle = "One of the two is not in force, or was changed without a word: measure to settle it."
			}
		}
		out = append(out, is)
	}
	return out
}

func alike(a, b []float64) bool {
	for i, n := range a {
		if i >= len(b) || math.Abs(n-b[i]) > tolerance*max(1, math.Abs(b[i])) {
			return false
		}
	}
	return len(a) == len(b) && len(a) > 0
}

// StoreOf is where a family keeps what its settings state.
func StoreOf(family string) string {
	switch family {
	case parts.Hosted:
		return calibration.StoreHost
	case parts.Scripted:
		return calibration.StoreCard
	}
	return calibration.StoreSettings
}
