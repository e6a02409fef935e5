package plan

import (
	"cmp"
	"slices"
	"strings"

	"wardifex/internal/core/change"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// Remedy is a set of further kits after which a kit fits.
type Remedy struct {
	Kits    []Stage    `json:"kits" doc:"In order, before the kit itself"`
	Then    fit.Answer `json:"then" enum:"fits,fits if,look first,does not fit" doc:"What the kit's verdict is afterwards"`
	Price   float64    `json:"price"`
	Minutes int        `json:"minutes"`
	Risks   []string   `json:"risks"`
}

// mostFurther is how many further kits are thought of together.
const mostFurther = 2

// mostNear bounds how many kits are thought of for one kit, the cheapest first,
// and so the pairs of them, whatever the size of the catalogue.
const mostNear = 200

// Remedies finds the cheapest set of further kits of the catalogue that would
// make a kit fit which does not; nil when none does. Cost is price, with a
// technician's time counted as money. Only kits that change something the kit,
// or one of its remedies, looks at are thought of.
func Remedies(kit *fit.Judge, catalogue []*fit.Judge, s machine.Snapshot, records []change.Record) (*Remedy, error) {
	start := fit.Stand(s)
	if kit.TruthIn(start).Answer() != fit.DoesNotFit {
		return nil, nil
	}
	type set struct {
		kits   []*fit.Judge
		weight float64
	}
	var sets []set
	near := relevant(kit, catalogue)
	if len(near) > mostNear {
		weight := func(j *fit.Judge) float64 { return fit.Weight(j.Kit.Cost(nil)) }
		slices.SortStableFunc(near, func(a, b *fit.Judge) int { return cmp.Compare(weight(a), weight(b)) })
		near = near[:mostNear]
	}
	for i, a := range near {
		sets = append(sets, set{[]*fit.Judge{a}, fit.Weight(a.Kit.Cost(nil))})
		for _, b := range near[:i] {
			sets = append(sets, set{[]*fit.Judge{b, a}, fit.Weight(a.Kit.Cost(nil)) + fit.Weight(b.Kit.Cost(nil))})
		}
	}
	slices.SortStableFunc(sets, func(a, b set) int {
		return cmp.Or(cmp.Compare(a.weight, b.weight), cmp.Compare(len(a.kits), len(b.kits)))
	})
	var best *Remedy
	for _, x := range sets {
		if best != nil && x.weight >= fit.Weight(best.Price, best.Minutes) {
			break
		}
		r, err := remedy(kit, x.kits, start, records)
		if err != nil {
			return nil, err
		}
		if r != nil && (best == nil || fit.Weight(r.Price, r.Minutes) < fit.Weight(best.Price, best.Minutes)) {
			best = r
		}
	}
	return best, nil
}

// remedy is a set of kits in an order in which all of them fit, or may fit, and
// the kit after them; nil when there is no such order.
func remedy(kit *fit.Judge, set []*fit.Judge, st fit.Standing, records []change.Record) (*Remedy, error) {
	var best *Remedy
	for _, order := range orders(set) {
		x := searcher{kits: order, records: records}
		at, r, ok := st, Remedy{Risks: []string{}}, true
		for _, j := range order {
			step, after, err := x.step(j, at)
			if err != nil {
				return nil, err
			}
			if step.Answer == fit.DoesNotFit {
				ok = false
				break
			}
			at = after
			r.Kits = append(r.Kits, step)
			r.Price, r.Minutes = r.Price+step.Price, r.Minutes+step.Minutes
			if j.Kit.Risk != "" {
				r.Risks = append(r.Risks, j.Kit.Name+": "+j.Kit.Risk)
			}
		}
		if !ok {
			continue
		}
		if r.Then = kit.TruthIn(at).Answer(); r.Then == fit.DoesNotFit || r.Then == fit.LookFirst {
			continue
		}
		if best == nil || fit.Weight(r.Price, r.Minutes) < fit.Weight(best.Price, best.Minutes) {
			kept := r
			best = &kept
		}
	}
	return best, nil
}

func orders(set []*fit.Judge) [][]*fit.Judge {
	if len(set) == mostFurther {
		return [][]*fit.Judge{set, {set[1], set[0]}}
	}
	return [][]*fit.Judge{set}
}

// relevant are the kits that change what the kit looks at, and those that
// change what these look at.
func relevant(kit *fit.Judge, catalogue []*fit.Judge) []*fit.Judge {
	in := map[string]bool{kit.Kit.Key: true}
	var out []*fit.Judge
	front := []*fit.Judge{kit}
	for range mostFurther {
		var next []*fit.Judge
		touches := fit.Touching(front)
		for _, j := range catalogue {
			if !in[j.Kit.Key] && touches(j) {
				in[j.Kit.Key] = true
				next = append(next, j)
			}
		}
		out = append(out, next...)
		front = next
	}
	return out
}

// Drop names the smallest set of features to leave out of a machine's build so
// that a kit has flash enough; empty where flash is not short, or all of them
// together do not free enough.
func Drop(kit *fit.Judge, s machine.Snapshot) []string {
	out := []string{}
	if short := kit.Short("flash", fit.Stand(s)); short > 0 {
		for _, f := range DropFeatures(short, featuresOf(s)) {
			out = append(out, f.Name)
		}
	}
	return out
}

// featuresOf are the features on record of a machine's build, as written in its
// listing with commas or semicolons.
func featuresOf(s machine.Snapshot) []string {
	var out []string
	for _, f := range strings.FieldsFunc(s.Fact("firmware.features").Value.Text, func(r rune) bool { return r == ';' || r == ',' }) {
		out = append(out, strings.ToLower(strings.TrimSpace(f)))
	}
	return out
}

// DropFeatures is the smallest set of features that frees the KiB needed, by
// name; of sets of one size the one that frees least. nil when all of them
// together do not free enough. names are those compiled in; unknown ones count
// as nothing.
func DropFeatures(needKiB float64, names []string) []firmware.Feature {
	var there []firmware.Feature
	for _, f := range firmware.Features() {
		if slices.Contains(names, f.Name) {
			there = append(there, f)
		}
	}
	var best []firmware.Feature
	bestSum := 0.0
	for mask := 1; mask < 1<<len(there); mask++ {
		var some []firmware.Feature
		sum := 0.0
		for i, f := range there {
			if mask>>i&1 == 1 {
				some, sum = append(some, f), sum+f.KiB
			}
		}
		if sum >= needKiB && (best == nil || len(some) < len(best) || len(some) == len(best) && sum < bestSum) {
			best, bestSum = some, sum
		}
	}
	return best
}
