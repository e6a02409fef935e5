package fit_test

import (
	"maps"
	"math/rand"
	"slices"
	"testing"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// What the judge says will be left of a capacity is what is left on the machine
// afterwards, on any machine, for any kit with any of its additional changes.
func TestWhatIsJudgedIsWhatIsLeft(t *testing.T) {
	random := rand.New(rand.NewSource(31))
	judges := allJudges(t)
	traits := asked(judges)
	compared := 0
	for range 150 {
		values := randomMachine(random, traits)
		values["firmware.model"] = "2.0.8" // a board runs something
		s := facts(t, values)
		for _, j := range judges {
			var changes []fit.AdditionalChange
			for _, f := range j.Kit.AdditionalChanges() {
				if random.Intn(2) == 0 {
					changes = append(changes, f)
				}
			}
			judged, err := fit.JudgedLeft(s, j.Kit, changes)
			if err != nil {
				continue // two changes of one position
			}
			p, err := fit.Project(s, j.Kit, changes)
			if err != nil {
				t.Fatal(err)
			}
			for _, c := range fit.Capacities() {
				key := c.Key
				want, ok := judged[key]
				if !ok {
					continue
				}
				lo, hi := fit.Left(fit.AsSpecified(p), key)
				if want[1] < 0 && hi == 0 {
					continue // more than there is cannot be taken
				}
				if lo != want[0] || hi != want[1] {
					t.Errorf(
						"%s, %d additional changes: judged %g to %g left of %s, and afterwards it is %g to %g",
						j.Kit.Key,
						len(changes),
						want[0],
						want[1],
						key,
						lo,
						hi,
					)
				}
				compared++
			}
		}
		if t.Failed() {
			return
		}
	}
	if compared < 5000 {
		t.Errorf("only %d sums were compared", compared)
	}
}

// Putting back what a change took out leaves the machine as it was, with as much left
// of every capacity.
func TestUndoingAProjection(t *testing.T) {
	random := rand.New(rand.NewSource(32))
	judges := allJudges(t)
	traits := asked(judges)
	for range 40 {
		values := map[string]string{}
		for _, tr := range traits {
			if v := anything(random, tr); v != "" {
				values[string(tr.Key())] = v
			}
		}
		values["firmware.model"] = "2.0.8"
		for _, at := range voc.Slots {
			if key := at.Key + "." + machine.ModelTrait; values[key] == "" {
				values[key] = "Skerry"
			} else if values[key] == machine.None { // of nothing, nothing is known
				for _, tr := range voc.TraitsAt(at.Key) {
					if string(tr.Key()) != key {
						delete(values, string(tr.Key()))
					}
				}
			}
		}
		s := facts(t, values)
		for _, j := range judges {
			if left, err := fit.JudgedLeft(s, j.Kit, nil); err != nil ||
				slices.ContainsFunc(slices.Collect(maps.Values(left)), func(x [2]float64) bool { return x[0] < 0 }) {
				continue // more than there is cannot be taken, nor given back
			}
			p, err := fit.Project(s, j.Kit, nil)
			if err != nil {
				t.Fatal(err)
			}
			back, err := fit.Project(p.After, undo(s, p), nil)
			if err != nil {
				t.Fatal(err)
			}
			for _, c := range fit.Capacities() {
				lo, hi := fit.Left(s, c.Key)
				if lo2, hi2 := fit.Left(back.After, c.Key); lo2 != lo || hi2 != hi {
					t.Errorf("%s and back: %g to %g left of %s, and %g to %g before", j.Kit.Key, lo2, hi2, c.Key, lo, hi)
				}
			}
			for _, tr := range voc.Traits {
				was, is := s.At(tr), back.After.At(tr)
				if was.Known() && (!is.Known() || !tr.Same(was.Value, is.Value)) {
					t.Errorf("%s and back: %s was %s and is %s", j.Kit.Key, tr.Label, tr.Show(was.Value), tr.Show(is.Value))
				}
			}
		}
		if t.Failed() {
			return
		}
	}
}

// undo is the kit that puts back what a projection took out, changed or moved.
func undo(before machine.Snapshot, p fit.Projection) fit.Kit {
	k := fit.Kit{Key: "undo", Name: "undo"}
	touched := map[string]bool{"firmware": true}
	for _, e := range p.Effects {
		touched[e.Slot] = true
		if e.From != "" {
			touched[e.From] = true
		}
	}
	for _, x := range p.Taken {
		if x.Slot == "" { // a part that leaves gives back by itself
			k.Uses = append(k.Uses, fit.Use{Capacity: x.Capacity, Amount: -x.Amount})
		}
	}
	for _, at := range voc.Slots {
		if !touched[at.Key] {
			continue
		}
		e := fit.Effect{Slot: at.Key, Model: before.Model(at.Key), Traits: map[string]string{}}
		for _, tr := range voc.TraitsAt(at.Key) {
			if f := before.At(tr); f.Known() && tr.Name != machine.ModelTrait && e.Model != machine.None {
				e.Traits[tr.Name] = f.Value.Text
			}
		}
		k.Effects = append(k.Effects, e)
	}
	return k
}
