package fit_test

import (
	"fmt"
	"math/rand"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

func allJudges(t testing.TB) []*fit.Judge {
	t.Helper()
	var out []*fit.Judge
	for _, k := range catalogue.Kits() {
		j, err := fit.NewJudge(k, voc)
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, j)
	}
	return out
}

// anything writes a random value of a trait, near what kits compare with.
func anything(random *rand.Rand, tr *machine.Trait) string {
	var v string
	switch tr.Kind {
	case machine.Number:
		v = fmt.Sprint([]float64{0, 1, 2, 4.5, 8, 14, 18, 24, 40, 101.5, 200, 235, 512}[random.Intn(13)])
	case machine.YesNo:
		v = []string{"yes", "no"}[random.Intn(2)]
	case machine.Choice:
		v = tr.Choices[random.Intn(len(tr.Choices))]
	default:
		v = []string{"none", "Plumbline", "Skerry carriage", "Cleat single drive", "2.0.8", "0.12.3"}[random.Intn(6)]
	}
	if _, err := tr.Parse(v); err != nil {
		return ""
	}
	return v
}

// randomMachine knows some of the traits that the kits ask for, at any grade,
// some in conflict.
func randomMachine(random *rand.Rand, traits []*machine.Trait) map[string]string {
	known := map[string]string{}
	for _, tr := range traits {
		if random.Intn(4) == 0 {
			continue
		}
		v := anything(random, tr)
		if v == "" {
			continue
		}
		if other := anything(random, tr); other != "" && random.Intn(6) == 0 {
			v += "|" + other
		}
		known[string(tr.Key())] = v + "/" + machine.Grades()[random.Intn(4)].String()
	}
	return known
}

func asked(judges []*fit.Judge) []*machine.Trait {
	seen := map[*machine.Trait]bool{}
	var out []*machine.Trait
	for _, j := range judges {
		for _, o := range j.Open(machine.NewSnapshot(voc, machine.Record{})) {
			model, _ := voc.Trait(machine.KeyOf(o.Trait.Slot, machine.ModelTrait))
			for _, tr := range []*machine.Trait{o.Trait, model} {
				if !seen[tr] {
					seen[tr] = true
					out = append(out, tr)
				}
			}
		}
	}
	return out
}

// The matrix, each judge by itself, and the explained verdict say the same of
// every machine; and so does the matrix after one reading, judged anew only
// where that reading matters.
func TestMatrixAgreesWithTheJudges(t *testing.T) {
	random := rand.New(rand.NewSource(7))
	judges := allJudges(t)
	m := fit.NewMatrix(judges)
	traits := asked(judges)
	for round := range 400 {
		known := randomMachine(random, traits)
		s := facts(t, known)
		row := m.Judge(s, nil)
		compare := func(what string, s machine.Snapshot) {
			t.Helper()
			for k, j := range judges {
				if plain := j.Truth(s); row.Truths[k] != plain {
					t.Fatalf("round %d, %s, %s on %v: matrix %v, judge %v", round, what, j.Kit.Key, known, row.Truths[k], plain)
				}
			}
		}
		compare("whole", s)
		if round < 60 {
			for k, j := range judges {
				if v := j.Verdict(s); v.Answer != row.Truths[k].Answer() {
					t.Fatalf("%s on %v: matrix %s, explained %s", j.Kit.Key, known, row.Truths[k].Answer(), v.Answer)
				}
			}
		}
		tr := traits[random.Intn(len(traits))]
		if v := anything(random, tr); v != "" {
			known[string(tr.Key())] = v + "/proven"
			after := facts(t, known)
			m.Update(after, row, tr.Key())
			compare("after "+string(tr.Key()), after)
		}
	}
}
