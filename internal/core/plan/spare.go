package plan

import (
	"slices"
	"strings"

	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// ReuseOption is a kit by which a machine could take in a part that another one
// sets free.
type ReuseOption struct {
	Kit    string     `json:"kit" doc:"Key"`
	Name   string     `json:"name"`
	Answer fit.Answer `json:"answer" enum:"fits,fits if"`
}

// HomesFor lists the kits that fit this very model, in a slot of the same kind,
// and that fit a machine as it stands or with additional changes; the plain fits
// come first.
func HomesFor(s change.Spare, catalogue []*fit.Judge, m machine.Snapshot) []ReuseOption {
	out := []ReuseOption{}
	voc := m.Vocabulary()
	own, _ := voc.Position(s.Slot)
	for _, j := range catalogue {
		j = j.On(m)
		puts := slices.ContainsFunc(j.Kit.Effects, func(e fit.Effect) bool {
			at, _ := voc.Position(e.Slot)
			return at.Kind == own.Kind && strings.EqualFold(e.Model, s.Model)
		})
		if !puts || s.Serves(m) {
			continue
		}
		if a := j.Truth(m).Answer(); a == fit.Fits || a == fit.FitsIf {
			out = append(out, ReuseOption{j.Kit.Key, j.Kit.Name, a})
		}
	}
	slices.SortStableFunc(out, func(a, b ReuseOption) int { return rank[a.Answer] - rank[b.Answer] })
	return out
}
