package fit_test

import (
	"fmt"
	"maps"
	"math/rand"
	"os"
	"slices"
	"testing"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
)

// trueMachine is what is true of a machine: a value of each trait, none where there is no part.
func trueMachine(random *rand.Rand, traits []*machine.Trait) map[machine.Key]string {
	// A model's own needs are asked once it is known to be that model: here are those that have none.
	names := map[string][]string{}
	for _, m := range voc.Catalogue.Models {
		if len(voc.NeedsOf(m.Kind, m.Name)) == 0 {
			names[m.Kind] = append(names[m.Kind], m.Name)
		}
	}
	nothing := machinetest.Facts(voc, nil)
	truth := map[machine.Key]string{}
	for _, tr := range traits {
		v := possible(random, tr)
		if tr.Name == machine.ModelTrait {
			list := names[tr.Position().Kind]
			essential := nothing.Presence(tr.Position(), machine.Observed).Sure // no machine is without it
			switch n := random.Intn(4); {
			case n == 0 && !essential:
				v = machine.None
			case n > 1 && len(list) > 0:
				v = list[random.Intn(len(list))]
			default:
				v = "Unheard-of"
			}
		}
		if v != "" {
			truth[tr.Key()] = v
		}
	}
	for key := range truth { // a claim of a catalogue decides what is harmless, so here it is right
		tr, _ := voc.Trait(key)
		model := truth[voc.ModelAt(tr.Position()).Key()]
		if v, ok := voc.DefaultsOf(tr.Position().Kind, model)[tr.Name]; ok {
			truth[key] = v.Text
			if tr.Kind == machine.Number {
				truth[key] = fmt.Sprint(v.Number)
			}
		}
	}
	truth["bed-heater.volts"] = "24" // a bed that is heated from the mains has a heater for it
	if truth["plate.mains"] == "yes" {
		truth["bed-heater.volts"] = "200"
	}
	return truth
}

// possible is a value of a trait that can physically be.
func possible(random *rand.Rand, tr *machine.Trait) string {
	for range 50 {
		v := anything(random, tr)
		if tr.Kind != machine.Number || v == "" {
			return v
		}
		var n float64
		if _, err := fmt.Sscan(v, &n); err != nil {
			return ""
		}
		r, told := tr.Possible[tr.Position().Serves.Kind()]
		if !told {
			r, told = tr.Possible[""]
		}
		if !told || n >= r.Min && n <= r.Max {
			return v
		}
	}
	return ""
}

// Knowing more never turns one decided verdict into another, and knowing less never decides one: over machines of
// which some is true and a part of that is on record.
func TestKnowingMoreNeverTurnsAVerdict(t *testing.T) {
	t.Parallel()
	rounds := 120
	if os.Getenv("WARDIFEX_LONG") != "" {
		rounds = 400 // each with a structure of its own, which is kept as long as the vocabulary
	}
	judges := allJudges(t)
	for i, j := range judges { // the best of several heads may become another one
		if one, err := j.ForHead(1); err == nil {
			judges[i] = one
		}
	}
	traits := asked(judges)
	for i := range voc.Slots { // and what tells that a part is there at all
		if m := voc.ModelAt(&voc.Slots[i]); m != nil && !slices.Contains(traits, m) {
			traits = append(traits, m)
		}
	}
	random := rand.New(rand.NewSource(41))
	turned, judged := map[string]int{}, 0
	for range rounds {
		// A listed position stays listed, whatever is known of it.
		list := voc.Usual(func(p machine.Position) bool { return random.Intn(3) > 0 })
		listed := func(key machine.Key) bool {
			tr, _ := voc.Trait(key)
			return slices.ContainsFunc(list, func(p machine.Position) bool { return p.Key == tr.Slot })
		}
		truth := trueMachine(random, traits)
		keys := slices.Collect(maps.Keys(truth))
		slices.Sort(keys)
		random.Shuffle(len(keys), func(i, j int) { keys[i], keys[j] = keys[j], keys[i] })
		// How heads are changed, and that the list is whole, is known from the start.
		known := map[string]string{"structure.complete": "yes/observed",
			"structure.heads": []string{"together", "by hand"}[random.Intn(2)] + "/observed"}
		on := func(known map[string]string) machine.Snapshot {
			return machine.NewSnapshot(voc, machine.Record{Readings: machinetest.Readings(voc, known), Positions: list})
		}
		var before []string
		for n, key := range keys {
			if key == "structure.complete" || key == "structure.heads" || !listed(key) {
				continue
			}
			// Nobody reads traits of a part that is not there.
			tr, _ := voc.Trait(key)
			if tr.Name != machine.ModelTrait && truth[voc.ModelAt(tr.Position()).Key()] == machine.None {
				continue
			}
			known[string(key)] = truth[key] + "/observed"
			if n%7 != 0 && n != len(keys)-1 {
				continue
			}
			s := on(known)
			now := make([]string, len(judges))
			for k, j := range judges {
				judged++
				if is := j.Truth(s); is.Decided() {
					now[k] = string(is.Answer())
				}
				if before != nil && before[k] != "" && before[k] != now[k] {
					turned[fmt.Sprintf("%s: %s, then %q", j.Kit.Key, before[k], now[k])]++
				}
			}
			before = now
		}
	}
	for what, n := range turned {
		t.Errorf("%d times: %s", n, what)
	}
	t.Logf("%d verdicts", judged)
}
