package fit_test

import (
	"fmt"
	"math/rand"
	"sync"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
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
	rounds := 400
	if testing.Short() {
		rounds = 80
	}
	random := rand.New(rand.NewSource(7))
	judges := allJudges(t)
	m := fit.NewMatrix(judges)
	traits := asked(judges)
	for round := range rounds {
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

// So it is on machines of all shapes, with several heads, and where finished kits took
// something that is given back when their parts leave; by many at once.
func TestMatrixAgreesOnMachinesOfAllShapes(t *testing.T) {
	rounds := 150
	if testing.Short() {
		rounds = 8
	}
	judges := allJudges(t)
	m := fit.NewMatrix(judges)
	traits := asked(judges)
	takes := []machine.Taking{
		{Capacity: "supply-watts", Amount: 60, What: "an earlier kit", Slot: "heater", Covers: []string{"heater"}},
		{Capacity: "probe-header", Amount: 1, What: "an earlier kit", Slot: "probe", Covers: []string{"probe"}},
		{Capacity: "print-height", Amount: 20, What: "an earlier kit", Slot: "toolhead", Key: "frame.z", Shift: -20},
		{Capacity: "flash", Amount: 5, What: "an earlier kit", Slot: "probe", Key: "firmware.size", Shift: 5},
	}
	var wait sync.WaitGroup
	for worker := range 2 {
		wait.Go(func() {
			random := rand.New(rand.NewSource(int64(70 + worker)))
			var row *fit.Row
			for round := range rounds {
				known := randomMachine(random, traits)
				record := machine.Record{Readings: machinetest.Readings(voc, known)}
				if random.Intn(2) == 0 {
					record.Positions = []machine.Position{}
					for _, p := range voc.Slots {
						if p.Serves.Head() < 2 || random.Intn(2) == 0 {
							record.Positions = append(record.Positions, p)
						}
					}
				}
				for _, x := range takes {
					if random.Intn(5) == 0 {
						record.Takings = append(record.Takings, x)
					}
				}
				s := machine.NewSnapshot(voc, record)
				row = m.Judge(s, row) // the same row again, whatever was laid out in it before
				for k, j := range judges {
					if plain := j.Truth(s); row.Truths[k] != plain {
						t.Errorf("round %d, %s on %v with %v: matrix %v, judge %v",
							round, j.Kit.Key, known, record.Takings, row.Truths[k], plain)
						return
					}
				}
				tr := traits[random.Intn(len(traits))]
				v := anything(random, tr)
				if v == "" {
					continue
				}
				known[string(tr.Key())] = v + "/proven"
				record.Readings = machinetest.Readings(voc, known)
				s = machine.NewSnapshot(voc, record)
				m.Update(s, row, tr.Key())
				for k, j := range judges {
					if plain := j.Truth(s); row.Truths[k] != plain {
						t.Errorf("round %d, %s after %s: matrix %v, judge %v", round, j.Kit.Key, tr.Key(), row.Truths[k], plain)
						return
					}
				}
			}
		})
	}
	wait.Wait()
}

// What is read of a part tells that there is one: a claim that there is none gives way, and
// the kits that ask for it are judged anew.
func TestMatrixSeesSigns(t *testing.T) {
	judges := allJudges(t)
	m := fit.NewMatrix(judges)
	known := map[string]string{"probe.model": "none/claimed"}
	row := m.Judge(machine.NewSnapshot(voc, machine.Record{Readings: machinetest.Readings(voc, known)}), nil)
	known["probe.senses"] = "metal, without touch/proven"
	s := machine.NewSnapshot(voc, machine.Record{Readings: machinetest.Readings(voc, known)})
	m.Update(s, row, "probe.senses")
	for k, j := range judges {
		if plain := j.Truth(s); row.Truths[k] != plain {
			t.Errorf("%s: matrix %v, judge %v", j.Kit.Key, row.Truths[k], plain)
		}
	}
}
