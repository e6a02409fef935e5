package fit_test

import (
	"fmt"
	"math/rand"
	"runtime"
	"slices"
	"testing"
	"time"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/quantity"
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

// of is a comparison on a fact, by what is known well enough and by claims.
func (c comparison) of(f *cell) fit.Truth {
	holds := f.number >= c.lo && f.number <= c.hi
	if c.mask != 0 {
		holds = f.bit&c.mask != 0
	}
	switch {
	case f.grade >= c.least && holds:
		return met
	case f.grade >= c.least:
		return unmet
	case holds:
		return leansMet
	}
	return leansUnmet
}

var (
	met        = fit.TruthOf(fit.Yes, fit.Yes, fit.Yes, fit.Yes)
	unmet      = fit.TruthOf(fit.No, fit.No, fit.No, fit.No)
	leansMet   = fit.TruthOf(fit.No, fit.Yes, fit.Yes, fit.Yes)
	leansUnmet = fit.TruthOf(fit.No, fit.Yes, fit.No, fit.No)
)

// bareKit is a kit as a bare loop has it: what it needs at fitting, what its part needs,
// and how much it takes of two capacities.
type bareKit struct {
	needs [12]comparison
	parts [4]comparison
	takes [2]float64
}

// asked are traits of kinds of which a machine has one part, without nominal values, and
// not those that the capacities look at.
func askedOf(voc *machine.Vocabulary) []*machine.Trait {
	count := map[string]int{}
	for i := range voc.Slots {
		count[voc.Slots[i].Kind]++
	}
	var numbers, choices []*machine.Trait
	for _, t := range voc.Traits {
		p := t.Position()
		if count[p.Kind] != 1 || p.Serves.Head() > 1 || t.Nominal != nil ||
			slices.Contains([]string{"supply", "frame", "structure", "plate", "firmware"}, p.Kind) {
			continue
		}
		switch t.Kind {
		case machine.Number:
			numbers = append(numbers, t)
		case machine.Choice:
			choices = append(choices, t)
		}
	}
	return append(numbers[:min(40, len(numbers))], choices[:min(20, len(choices))]...)
}

// shapesWith are lists of positions of one head, all different, on each of which the
// traits are.
func shapesWith(voc *machine.Vocabulary, traits []*machine.Trait, n int) [][]machine.Position {
	asked := map[string]bool{
		"mod-1":      true,
		"supply":     true,
		"frame":      true,
		"heater":     true,
		"bed-heater": true,
		"plate":      true,
	}
	for _, t := range traits {
		asked[t.Slot] = true
	}
	var always, others []machine.Position
	for _, p := range voc.Slots {
		switch {
		case asked[p.Key]:
			always = append(always, p)
		case p.Serves.Head() < 2:
			others = append(others, p)
		}
	}
	out := make([][]machine.Position, n)
	for i := range out {
		left := len(others) - 1 - i%len(others)
		out[i] = slices.Concat(always, others[:left], others[left+1:])
	}
	return out
}

// BenchmarkMatrix states the matrix of 1,000 machines × 200 kits × (12 needs at fitting, 4
// needs of the part that is fitted, and 2 capacities), strictly and by claims, over 20
// shapes of structure, from snapshots to answers, as a multiple of a bare loop over the
// same comparisons with everything laid out beforehand; the share of one reading's update;
// and the memory that a machine's row takes.
func BenchmarkMatrix(b *testing.B) {
	random := rand.New(rand.NewSource(3))
	shop := catalogue.Shipped()
	traits := askedOf(voc)
	words := func(t *machine.Trait) []string { return t.Choices }
	compare := func(at int, least machine.Grade) (machine.Test, comparison) {
		t, c := traits[at], comparison{column: at, least: least}
		test := machine.Test{Trait: t.Name, Least: least}
		if t.Kind == machine.Number {
			lo := t.Min + (t.Max-t.Min)*0.02*float64(random.Intn(4))
			test.Op, test.Values = fit.AtLeast, []string{quantity.Format(lo)}
			c.lo, c.hi = lo, 1e300
			return test, c
		}
		id := random.Intn(len(words(t)))
		test.Op, test.Values = fit.OneOf, []string{words(t)[id], words(t)[0]}
		c.mask = 1<<id | 1
		return test, c
	}
	bare := make([]bareKit, 200)
	kits := make([]fit.Kit, 200)
	for k := range kits {
		need := fit.Requirement{Label: "kit"}
		for i := range 12 {
			at := (k*7 + i*5) % len(traits)
			test, c := compare(at, machine.Observed)
			test.Slot = traits[at].Slot
			need.All = append(need.All, fit.Requirement{Label: fmt.Sprint("need ", i), Test: &test})
			bare[k].needs[i] = c
		}
		part := machine.Model{Kind: "mod", Name: fmt.Sprint("Part ", k)}
		for i := range 4 {
			at := (k*11 + i*13) % len(traits)
			test, c := compare(at, machine.Marked)
			test.Of = &machine.Selector{Kind: traits[at].Position().Kind, Every: true}
			part.Needs = append(
				part.Needs,
				machine.Need{
					Key:  fmt.Sprint("need-", i),
					That: machine.Requirement{Label: fmt.Sprint("part need ", i), Test: &test},
				},
			)
			bare[k].parts[i] = c
		}
		shop.Models = append(shop.Models, part)
		bare[k].takes = [2]float64{float64(10 * random.Intn(30)), float64(10 * random.Intn(30))}
		kits[k] = fit.Kit{Key: fmt.Sprint(k), Needs: need, Effects: []fit.Effect{{Slot: "mod-1", Model: part.Name}},
			Uses: []fit.Use{
				{Capacity: "supply-watts", Amount: bare[k].takes[0]},
				{Capacity: "print-height", Amount: bare[k].takes[1]},
			}}
	}
	voc, err := shop.Vocabulary()
	if err != nil {
		b.Fatal(err)
	}
	traits = askedOf(voc)
	judges := make([]*fit.Judge, len(kits))
	for k := range kits {
		if judges[k], err = fit.NewJudge(kits[k], voc); err != nil {
			b.Fatal(err)
		}
	}
	m := fit.NewMatrix(judges)
	shapes := shapesWith(voc, traits, 20)
	fleet := make([]machine.Snapshot, 1000)
	cells := make([][]cell, 1000)
	left := make([][2]float64, 1000)
	for i := range fleet {
		known := map[string]string{
			"supply.watts":     fmt.Sprint(400 + 10*random.Intn(20)),
			"heater.watts":     "40",
			"heater.volts":     "24",
			"bed-heater.watts": "200",
			"bed-heater.volts": "24",
			"plate.mains":      "no",
			"frame.z":          fmt.Sprint(200 + 10*random.Intn(20)),
		}
		cells[i] = make([]cell, len(traits))
		for at, t := range traits {
			grade := machine.Grade(1 + (random.Intn(9)+2)/3) // one in nine is only claimed
			cells[i][at].grade = grade
			if t.Kind == machine.Number {
				n := t.Min + (t.Max-t.Min)*random.Float64()
				v, err := t.Parse(quantity.Format(n))
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
		fleet[i] = machine.NewSnapshot(
			voc,
			machine.Record{Readings: machinetest.Readings(voc, known), Positions: shapes[i%len(shapes)]},
		)
		for c, capacity := range []string{"supply-watts", "print-height"} {
			left[i][c], _ = fit.Left(fleet[i], capacity)
		}
	}
	var bareTime, matrixTime, updateTime time.Duration
	rows := make([]*fit.Row, len(fleet))
	began := time.Now()
	for i := range fleet { // works out what these parts need, like the cells of the bare loop
		rows[i] = m.Judge(fleet[i], nil)
	}
	first := time.Since(began)
	for b.Loop() {
		at := time.Now()
		var fits [256]int
		for i := range cells {
			for k := range bare {
				t := met
				for n := range bare[k].needs {
					c := &bare[k].needs[n]
					t = t.And(c.of(&cells[i][c.column]))
				}
				for n := range bare[k].parts {
					c := &bare[k].parts[n]
					t = t.And(c.of(&cells[i][c.column]))
				}
				for c, takes := range bare[k].takes {
					u := unmet
					if left[i][c] >= takes {
						u = met
					}
					t = t.And(u)
				}
				fits[t]++
			}
		}
		bareTime += time.Since(at)
		at = time.Now()
		var found [256]int
		for i := range fleet {
			rows[i] = m.Judge(fleet[i], rows[i])
			for _, t := range rows[i].Truths {
				found[t]++
			}
		}
		matrixTime += time.Since(at)
		if fits != found {
			b.Fatalf("the bare loop finds %v, the matrix %v", fits, found)
		}
		at = time.Now()
		for i := range fleet {
			m.Update(fleet[i], rows[i], traits[0].Key())
		}
		updateTime += time.Since(at)
	}
	b.ReportMetric(float64(matrixTime)/float64(bareTime), "×bare-loop")
	b.ReportMetric(float64(matrixTime.Microseconds())/float64(b.N)/1000, "ms/200,000-verdicts")
	b.ReportMetric(first.Seconds()*1000, "ms-the-first-time")
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
