package catalogue_test

import (
	"maps"
	"math/rand"
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/quantity"
)

// The lean is the very judgement of the machine whose claims have all been found right.
func TestTheLeanIsTheVerdictWithClaimsFoundRight(t *testing.T) {
	voc := catalogue.Vocabulary()
	kits := ready(t, voc)
	keys := slices.Sorted(maps.Keys(known))
	random := rand.New(rand.NewSource(21))
	leaning := map[fit.Answer]int{}
	for range 150 {
		facts := about(random, keys)
		s := machinetest.Facts(voc, facts)
		right := map[string]string{} // also what models are supposed to be
		for _, tr := range voc.Traits {
			if f := s.At(tr); f.Known() && !f.Unlisted {
				right[string(tr.Key())] = f.Value.Text + "/" + max(f.Grade, machine.Observed).String()
			}
		}
		right["structure.complete"] = "yes"
		found := machinetest.Facts(voc, right)
		for _, j := range kits {
			is, then := j.Truth(s), j.Truth(found)
			if is.LeanLo() != then.Lo() || is.LeanHi() != then.Hi() {
				t.Fatalf("%s leans %v–%v, and with the claims found right it is %v–%v: %v",
					j.Kit.Key, is.LeanLo(), is.LeanHi(), then.Lo(), then.Hi(), facts)
			}
			leaning[is.Lean()]++
		}
	}
	for _, a := range []fit.Answer{fit.Fits, fit.FitsIf, fit.DoesNotFit, fit.NoLean} {
		if leaning[a] < 40 {
			t.Errorf("%d verdicts lean to %s: that shows little", leaning[a], a)
		}
	}
}

// Every look first names looks or decisions that settle it: whoever does what is advised,
// again and again, comes to a verdict that is decided.
func TestAdvisedLooksSettle(t *testing.T) {
	voc := catalogue.Vocabulary()
	kits := ready(t, voc)
	keys := slices.Sorted(maps.Keys(known))
	random := rand.New(rand.NewSource(22))
	settled, longest := 0, 0
	for range 25 {
		start := about(random, keys)
		for _, j := range kits {
			facts, rounds := maps.Clone(start), 0
			v := j.Verdict(machinetest.Facts(voc, facts))
			for ; v.Answer == fit.LookFirst && len(v.Look) > 0; rounds++ {
				if rounds > 25 {
					t.Fatalf("%s: %s after %d looks, of %v", j.Kit.Key, v.Headline, rounds, facts)
				}
				for _, key := range v.Look[0].Keys {
					facts[string(key)] = seen(voc, string(key)) + "/" + v.Look[0].Grade.String()
				}
				v = j.Verdict(machinetest.Facts(voc, facts))
			}
			if v.Answer == fit.LookFirst && len(v.Decide) == 0 {
				t.Errorf("%s: %s, and nothing is advised", j.Kit.Key, v.Headline)
			}
			longest = max(longest, rounds)
			settled++
		}
	}
	if longest < 3 {
		t.Errorf("at most %d looks were needed for %d verdicts: that shows little", longest, settled)
	}
}

// seen is what somebody finds who looks: what such machines have, or else anything.
func seen(voc *machine.Vocabulary, key string) string {
	if key == "structure.complete" {
		return "yes"
	}
	if value, ok := known[key]; ok {
		return value
	}
	t, _ := voc.Trait(machine.Key(key))
	switch t.Kind {
	case machine.Number:
		return quantity.Format(max(t.Min, 1))
	case machine.YesNo:
		return "no"
	case machine.Choice:
		return t.Choices[0]
	}
	if t.Name == machine.ModelTrait {
		return machine.None
	}
	return "1"
}

// What breaks when a part comes out is what is broken once it is out, and was not before.
func TestWithoutIsTheMachineWithoutIt(t *testing.T) {
	voc := catalogue.Vocabulary()
	random := rand.New(rand.NewSource(23))
	keys := slices.Sorted(maps.Keys(known))
	breaks := 0
	for range 60 {
		facts := about(random, keys)
		s := machinetest.Facts(voc, facts)
		before := brokenOf(s)
		for _, p := range s.Structure().Positions() {
			out := maps.Clone(facts)
			for key := range out {
				if slot, _, _ := strings.Cut(key, "."); slot == p.Key {
					delete(out, key)
				}
			}
			out[p.Key+".model"] = machine.None
			after := brokenOf(machinetest.Facts(voc, out))
			said := map[string]bool{}
			for _, o := range fit.Without(s, p.Key).Breaks {
				said[o.At+": "+o.Label] = true
			}
			for what := range after {
				if !before[what] && !said[what] && !strings.HasPrefix(what, p.Label+":") {
					t.Fatalf("without %s this is broken and was not said: %s, of %v", p.Label, what, facts)
				}
			}
			for what := range said {
				breaks++
				if !after[what] {
					t.Fatalf("without %s this is said to break and does not: %s, of %v", p.Label, what, facts)
				}
			}
		}
	}
	if breaks < 30 {
		t.Errorf("only %d needs broke: that shows little", breaks)
	}
}

func brokenOf(s machine.Snapshot) map[string]bool {
	out := map[string]bool{}
	for _, o := range fit.Stand(s).Broken {
		out[o.At+": "+o.Label] = true
	}
	return out
}
