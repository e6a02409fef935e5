package fit_test

import (
	"fmt"
	"math/rand"
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
)

// randomCase is a kit and a machine that nobody would think of.
type randomCase struct {
	kit    fit.Kit
	judge  *fit.Judge
	record machine.Record
}

func (c randomCase) on() machine.Snapshot { return machine.NewSnapshot(voc, c.record) }

// draw draws kits and machines from a seed. It looks at the vocabulary alone, in its order, so that a seed draws the
// same whatever the program becomes.
type draw struct {
	*rand.Rand
	traits []*machine.Trait
	models map[string][]string // by kind
	sums   []*fit.Formula      // of the shipped kits
}

func newDraw(t testing.TB, seed int64) *draw {
	t.Helper()
	d := &draw{Rand: rand.New(rand.NewSource(seed)), models: map[string][]string{}}
	d.traits = asked(allJudges(t))
	slices.SortFunc(d.traits, func(x, y *machine.Trait) int { return strings.Compare(string(x.Key()), string(y.Key())) })
	for _, m := range voc.Catalogue.Models {
		d.models[m.Kind] = append(d.models[m.Kind], m.Name)
	}
	for _, k := range catalogue.Kits() {
		d.sums = append(d.sums, formulasIn(k.Needs)...)
	}
	return d
}

func formulasIn(r fit.Requirement) (out []*fit.Formula) {
	if r.Formula != nil {
		out = append(out, r.Formula)
	}
	for _, p := range slices.Concat(r.All, r.Any, r.None) {
		out = append(out, formulasIn(p)...)
	}
	return out
}

// one draws kits until one can be judged: what contradicts itself is refused.
func (d *draw) one() randomCase {
	for {
		k := d.kit()
		if j, err := fit.NewJudge(k, voc); err == nil {
			return randomCase{k, j, d.machine()}
		}
	}
}

func (d *draw) kit() fit.Kit {
	k := fit.Kit{Key: "drawn", Name: "Drawn", What: "anything", Needs: d.group(2)}
	k.Heads = []string{"", "", "any", "each"}[d.Intn(4)]
	for range d.Intn(3) {
		k.Effects = append(k.Effects, d.effect())
	}
	if d.Intn(3) == 0 {
		k.Uses = append(k.Uses, d.use())
	}
	if d.Intn(4) == 0 {
		k.Options = append(k.Options, d.change("option"))
	}
	if d.Intn(5) == 0 {
		r := d.group(1)
		k.Result = &r
	}
	return k
}

// group is a tree of needs.
func (d *draw) group(depth int) fit.Requirement {
	r := fit.Requirement{Label: "a group", Harmless: d.Intn(6) == 0}
	var parts []fit.Requirement
	for range 1 + d.Intn(2) {
		switch n := d.Intn(8); {
		case n < 2 && depth > 0:
			parts = append(parts, d.group(depth-1))
		case n == 2:
			f := *d.sums[d.Intn(len(d.sums))]
			f.Least = machine.Grades()[1+d.Intn(2)]
			parts = append(parts, fit.Requirement{Label: "a sum", Formula: &f})
		default:
			parts = append(parts, d.test())
		}
	}
	switch d.Intn(6) {
	case 0, 1, 2:
		r.Any = parts
		if d.Intn(2) == 0 {
			f := d.change(fmt.Sprint("change-", d.Intn(1000)))
			r.Any = append(r.Any, fit.Requirement{Label: "or made so", Additional: &f})
		}
	case 3:
		r.None = parts
	default:
		r.All = parts
	}
	return r
}

// test compares a trait with what it may be, at a position or wherever a part of its kind is.
func (d *draw) test() fit.Requirement {
	tr := d.traits[d.Intn(len(d.traits))]
	t := fit.Test{Slot: tr.Slot, Trait: tr.Name, Op: fit.Known, Least: machine.Grades()[1+d.Intn(2)]}
	r := fit.Requirement{Label: "a test", Harmless: d.Intn(6) == 0}
	if r.Harmless {
		t.Least = machine.Claimed
	}
	value := func() string {
		for range 20 {
			if v := anything(d.Rand, tr); v != "" && v != machine.None {
				return v
			}
		}
		return ""
	}
	switch v := value(); {
	case tr.Name == machine.ModelTrait && d.Intn(2) == 0:
		t.Op = []fit.Op{fit.Present, fit.Absent}[d.Intn(2)]
	case v == "" || d.Intn(8) == 0:
	case tr.Kind == machine.Number && d.Intn(4) == 0:
		t.Op, t.Values = fit.Between, []string{v, fmt.Sprint(600 + d.Intn(100))}
	case tr.Kind == machine.Number:
		t.Op, t.Values = []fit.Op{fit.AtLeast, fit.AtMost, fit.Equal}[d.Intn(3)], []string{v}
	case tr.Name == "version":
		t.Op, t.Values = []fit.Op{fit.Version, fit.Compatible}[d.Intn(2)], []string{"2.0." + fmt.Sprint(d.Intn(12))}
	case tr.Kind == machine.Text && d.Intn(3) == 0:
		t.Op, t.Values = fit.Contains, []string{v[:1+d.Intn(len(v))]}
	case d.Intn(3) == 0:
		t.Op, t.Values = fit.OneOf, []string{v, value()}
	default:
		t.Op, t.Values = fit.Equal, []string{v}
	}
	if d.Intn(3) == 0 {
		t.Of, t.Slot = &machine.Selector{Kind: tr.Position().Kind, Every: d.Intn(2) == 0}, ""
	}
	r.Test = &t
	return r
}

func (d *draw) effect() fit.Effect {
	p := voc.Slots[d.Intn(len(voc.Slots))]
	list := d.models[p.Kind]
	switch n := d.Intn(5); {
	case n == 0:
		return fit.Effect{Slot: p.Key, Model: machine.None}
	case n == 1:
		tr := d.traits[d.Intn(len(d.traits))]
		if v := anything(d.Rand, tr); v != "" && tr.Name != machine.ModelTrait {
			return fit.Effect{Slot: tr.Slot, From: tr.Slot, Traits: map[string]string{tr.Name: v}}
		}
	case n == 2:
		other := voc.Slots[d.Intn(len(voc.Slots))]
		if other.Kind == p.Kind && other.Key != p.Key {
			return fit.Effect{Slot: p.Key, From: other.Key}
		}
	case n == 3 && p.Kind == "frame":
		return fit.Effect{Slot: p.Key, From: p.Key, Adds: map[string]string{"z": "-20"}}
	}
	if len(list) == 0 {
		return fit.Effect{Slot: p.Key, Model: "Unheard-of"}
	}
	return fit.Effect{Slot: p.Key, Model: list[d.Intn(len(list))]}
}

func (d *draw) use() fit.Use {
	list := fit.Capacities()
	return fit.Use{Capacity: list[d.Intn(len(list))].Key, Amount: float64(d.Intn(30) - 10), For: "something",
		Keep: float64(d.Intn(2) * 5)}
}

func (d *draw) change(key string) fit.AdditionalChange {
	f := fit.AdditionalChange{Key: key, Title: key, Price: float64(d.Intn(100)), Minutes: d.Intn(60)}
	for range d.Intn(2) {
		f.Effects = append(f.Effects, d.effect())
	}
	for range d.Intn(2) {
		f.Uses = append(f.Uses, d.use())
	}
	return f
}

// machine has some positions and not others, some heads, readings of any grade and in conflict, and what earlier kits
// took. Of one machine in five everything is claimed.
func (d *draw) machine() machine.Record {
	known := randomMachine(d.Rand, d.traits)
	if d.Intn(5) == 0 {
		for k, v := range known {
			known[k] = v[:strings.LastIndex(v, "/")] + "/claimed"
		}
	}
	for _, p := range voc.Slots { // parts by name, and parts taken out
		m := voc.ModelAt(voc.At(p.Key))
		list := d.models[p.Kind]
		switch n := d.Intn(6); {
		case m == nil || n > 2:
		case n == 0:
			known[string(m.Key())] = machine.None + "/observed"
		case len(list) > 0:
			known[string(m.Key())] = list[d.Intn(len(list))] + "/" + machine.Grades()[d.Intn(4)].String()
		}
	}
	r := machine.Record{}
	if d.Intn(2) == 0 {
		heads := []string{"together", "changed by the machine", "by hand"}
		known["structure.heads"] = heads[d.Intn(len(heads))] + "/observed"
		r.Positions = []machine.Position{}
		for _, p := range voc.Slots {
			if (p.Serves.Head() < 2 || d.Intn(2) == 0) && d.Intn(12) > 0 {
				r.Positions = append(r.Positions, p)
			}
		}
	}
	r.Readings = machinetest.Readings(voc, known)
	for _, x := range []machine.Taking{
		{Capacity: "supply-watts", Amount: 60, What: "an earlier kit", Slot: "heater", Covers: []string{"heater"}},
		{Capacity: "print-height", Amount: 20, What: "an earlier kit", Slot: "toolhead", Key: "frame.z", Shift: -20},
	} {
		if d.Intn(6) == 0 {
			r.Takings = append(r.Takings, x)
		}
	}
	return r
}
