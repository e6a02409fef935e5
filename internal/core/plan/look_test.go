package plan_test

import (
	"maps"
	"math"
	"math/rand"
	"testing"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/plan"
)

// The planned look is as quick as the best of all courses, each of them walked
// to its end without joining states that go on alike.
func TestLookFirstAgainstEveryCourse(t *testing.T) {
	random := rand.New(rand.NewSource(8))
	tried := 0
	for _, kit := range whole(t) {
		for range 6 {
			known := knownOf(room())
			for _, open := range kit.Open(machinetest.Facts(voc, nil)) {
				if random.Intn(3) == 0 {
					delete(known, string(open.Trait.Key()))
				}
			}
			s := machinetest.Facts(voc, known)
			if n := len(kit.Open(s)); n == 0 || n > 4 {
				continue
			}
			prior := func(tr *machine.Trait) plan.Expected {
				switch tr.Kind {
				case machine.YesNo:
					return plan.Expected{Values: []plan.Weighted{
						{Value: machine.Value{Text: "yes"}, Weight: 3},
						{Value: machine.Value{Text: "no"}, Weight: 1},
					}}
				case machine.Choice:
					return plan.Expected{Values: []plan.Weighted{
						{Value: machine.Value{Text: tr.Choices[0]}, Weight: 2},
						{Value: machine.Value{Text: tr.Choices[1]}, Weight: 1},
					}}
				}
				return plan.Expected{}
			}
			got, err := plan.LookFirst(t.Context(), kit, s, prior)
			if err != nil {
				t.Fatal(err)
			}
			if want := course(kit, s, prior, map[string]bool{}); math.Abs(got.Minutes-want) > 1e-9 || !got.Exact {
				t.Errorf("%s: %g min planned, %g at best; open: %d", kit.Kit.Key, got.Minutes, want, len(kit.Open(s)))
			}
			tried++
		}
	}
	if tried < 30 {
		t.Errorf("only %d cases", tried)
	}
}

func knownOf(s machine.Snapshot) map[string]string {
	out := map[string]string{}
	for _, tr := range voc.Traits {
		if f := s.At(tr); f.Known() {
			out[string(tr.Key())] = f.Value.Text
		}
	}
	return out
}

// course is the fewest expected minutes by trying every inspection in turn.
func course(kit *fit.Judge, s machine.Snapshot, prior plan.Prior, done map[string]bool) float64 {
	if truth := kit.Truth(s); truth.Decided() || truth.Lo() > fit.No {
		return 0
	}
	answers := map[string][]*machine.Trait{}
	grades := map[*machine.Trait]machine.Grade{}
	for _, open := range kit.Open(s) {
		var best *machine.Inspection
		for _, w := range open.Trait.FindBy {
			if in, ok := voc.Inspection(w.Inspection); ok && w.Grade >= open.Least &&
				(best == nil || (in.Risk == "") == (best.Risk == "") && in.Minutes < best.Minutes || in.Risk == "" &&
					best.Risk != "") {
				best, grades[open.Trait] = &in, max(w.Grade, machine.Marked)
			}
		}
		if best != nil {
			answers[best.Key] = append(answers[best.Key], open.Trait)
		}
	}
	least := math.Inf(1)
	for key, traits := range answers {
		if done[key] {
			continue
		}
		in, _ := voc.Inspection(key)
		minutes := float64(in.Minutes)
		if in.Within != "" {
			for other := range done {
				o, _ := voc.Inspection(other)
				if other == in.Within || o.Within == in.Within {
					within, _ := voc.Inspection(in.Within)
					minutes = math.Max(1, float64(in.Minutes-within.Minutes))
				}
			}
		}
		with := maps.Clone(done)
		with[key] = true
		var found func(s machine.Snapshot, rest []*machine.Trait) float64
		found = func(s machine.Snapshot, rest []*machine.Trait) float64 {
			if len(rest) == 0 {
				return course(kit, s, prior, with)
			}
			expected, total, sum := prior(rest[0]).Values, 0.0, 0.0
			for _, w := range expected {
				total += w.Weight
			}
			if total == 0 {
				return found(s, rest[1:])
			}
			for _, w := range expected {
				sum += w.Weight / total * found(s.WithValue(rest[0].Key(), w.Value, grades[rest[0]]), rest[1:])
			}
			return sum
		}
		least = math.Min(least, minutes+found(s, traits))
	}
	if math.IsInf(least, 1) {
		return 0
	}
	return least
}
