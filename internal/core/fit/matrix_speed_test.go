package fit_test

import (
	"fmt"
	"math/rand"
	"runtime"
	"slices"
	"testing"
	"time"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
)

// comparison is one requirement as a bare loop has it: a number between bounds,
// or a word among some, and the least grade.
type comparison struct {
	column int
	lo, hi float64
	mask   uint64
	least  machine.Grade
}

// cell is one fact as a bare loop has it.
type cell struct {
	number float64
	bit    uint64
	grade  machine.Grade
}

// shapesWith are lists of positions, all different, on each of which the traits are.
func shapesWith(traits []*machine.Trait, n int) [][]machine.Position {
	asked := map[string]bool{}
	for _, t := range traits {
		asked[t.Slot] = true
	}
	var always, others []machine.Position
	for _, p := range voc.Slots {
		if asked[p.Key] {
			always = append(always, p)
		} else {
			others = append(others, p)
		}
	}
	out := make([][]machine.Position, n)
	for i := range out {
		out[i] = slices.Concat(always, others[:i%len(others)], others[min(len(others), i%len(others)+1):])
	}
	return out
}

// BenchmarkMatrix states the matrix of 1,000 machines × 200 kits × 12
// requirements, over 20 shapes of structure, from snapshots to answers, as a multiple of a bare loop over
// the same comparisons with everything laid out beforehand; the share of one
// reading's update; and the memory that a machine's row takes.
func BenchmarkMatrix(b *testing.B) {
	random := rand.New(rand.NewSource(3))
	var numbers, choices []*machine.Trait
	for _, t := range voc.Traits {
		switch {
		case t.Kind == machine.Number:
			numbers = append(numbers, t)
		case t.Kind == machine.Choice || t.Kind == machine.YesNo:
			choices = append(choices, t)
		}
	}
	traits := append(append([]*machine.Trait(nil), numbers[:40]...), choices[:20]...)
	words := func(t *machine.Trait) []string {
		if t.Kind == machine.YesNo {
			return []string{"yes", "no"}
		}
		return t.Choices
	}
	judges := make([]*fit.Judge, 200)
	bare := make([][12]comparison, 200)
	for k := range judges {
		need := fit.Requirement{Label: "kit"}
		for i := range 12 {
			at := (k*7 + i*5) % len(traits)
			t := traits[at]
			test := fit.Test{Slot: t.Slot, Trait: t.Name, Least: machine.Read}
			c := comparison{column: at, least: machine.Read}
			if t.Kind == machine.Number {
				lo := t.Min + (t.Max-t.Min)*0.1*float64(random.Intn(4))
				test.Op, test.Values = fit.AtLeast, []string{machine.FormatNumber(lo)}
				c.lo, c.hi = lo, 1e300
			} else {
				id := random.Intn(len(words(t)))
				test.Op, test.Values = fit.Equal, []string{words(t)[id]}
				c.mask = 1 << id
			}
			need.All = append(need.All, fit.Requirement{Label: fmt.Sprint("need ", i), Test: &test})
			bare[k][i] = c
		}
		var err error
		if judges[k], err = fit.NewJudge(fit.Kit{Key: fmt.Sprint(k), Needs: need}, voc); err != nil {
			b.Fatal(err)
		}
	}
	m := fit.NewMatrix(judges)
	shapes := shapesWith(traits, 20)
	fleet := make([]machine.Snapshot, 1000)
	cells := make([][]cell, 1000)
	for i := range fleet {
		known := map[string]string{}
		cells[i] = make([]cell, len(traits))
		for at, t := range traits {
			grade := machine.Grade(2 + random.Intn(3))
			cells[i][at].grade = grade
			if t.Kind == machine.Number {
				n := t.Min + (t.Max-t.Min)*random.Float64()
				v, err := t.Parse(machine.FormatNumber(n))
				if err != nil {
					b.Fatal(err)
				}
				cells[i][at].number = v.Number
				known[string(t.Key())] = v.Text + "/" + grade.String()
				continue
			}
			id := random.Intn(len(words(t)))
			cells[i][at].bit = 1 << id
			known[string(t.Key())] = words(t)[id] + "/" + grade.String()
		}
		fleet[i] = machine.NewSnapshot(voc, machine.Record{Readings: machinetest.Readings(voc, known), Positions: shapes[i%len(shapes)]})
	}
	no, open, yes := fit.TruthOf(fit.No, fit.No, fit.No, fit.No), fit.TruthOf(fit.No, fit.Yes, fit.No, fit.Yes), fit.TruthOf(fit.Yes, fit.Yes, fit.Yes, fit.Yes)
	var bareTime, matrixTime, updateTime time.Duration
	rows := make([]*fit.Row, len(fleet))
	for b.Loop() {
		at := time.Now()
		fits := 0
		for i := range cells {
			for k := range bare {
				t := yes
				for _, c := range bare[k] {
					f := &cells[i][c.column]
					u := open
					if f.grade >= c.least {
						u = no
						if c.mask != 0 && f.bit&c.mask != 0 || c.mask == 0 && f.number >= c.lo && f.number <= c.hi {
							u = yes
						}
					}
					t = t.And(u)
				}
				if t.Answer() == fit.LookFirst {
					fits++
				}
			}
		}
		bareTime += time.Since(at)
		at = time.Now()
		found := 0
		for i := range fleet {
			rows[i] = m.Judge(fleet[i], rows[i])
			for _, t := range rows[i].Truths {
				if t.Answer() == fit.LookFirst {
					found++
				}
			}
		}
		matrixTime += time.Since(at)
		if fits != found {
			b.Fatalf("the bare loop finds %d, the matrix %d", fits, found)
		}
		at = time.Now()
		for i := range fleet {
			m.Update(fleet[i], rows[i], traits[0].Key())
		}
		updateTime += time.Since(at)
	}
	b.ReportMetric(float64(matrixTime)/float64(bareTime), "×bare-loop")
	b.ReportMetric(float64(matrixTime.Microseconds())/float64(b.N)/1000, "ms/200,000-verdicts")
	b.ReportMetric(100*float64(updateTime)/float64(matrixTime), "%-for-one-reading")
	var before, after runtime.MemStats
	runtime.GC()
	runtime.ReadMemStats(&before)
	kept := make([]*fit.Row, len(fleet))
	for i := range fleet {
		kept[i] = m.Judge(fleet[i], nil)
	}
	runtime.ReadMemStats(&after)
	b.ReportMetric(float64(after.TotalAlloc-before.TotalAlloc)/float64(len(kept))/1024, "KiB/machine")
}
