package fit_test

import (
	"fmt"
	"math/rand"
	"strings"
	"testing"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

func doing(effects ...fit.Effect) fit.Kit {
	return fit.Kit{
		Key:     "k",
		Name:    "kit",
		Effects: effects,
		Needs: fit.Requirement{
			Label: "a machine",
			Test:  &fit.Test{Slot: "mainboard", Trait: "model", Op: fit.Present, Least: machine.Claimed},
		},
	}
}

// What an effect says wrongly is refused in words.
func TestEffectsAreChecked(t *testing.T) {
	for says, effects := range map[string][]fit.Effect{
		"say which model is fitted":       {{Slot: "probe"}},
		"there is no position \"attic\"":  {{Slot: "attic", Model: "X"}},
		"say what of it is set":           {{Slot: "probe", From: "probe"}},
		"there is no position \"cellar\"": {{Slot: "probe", From: "cellar"}},
		"parts of different kinds":        {{Slot: "probe", From: "nozzle"}},
		"either a model is fitted":        {{Slot: "heater-2", From: "heater", Model: "X"}},
		"is changed twice": {{Slot: "probe", Model: "X"},
			{Slot: "probe", From: "probe", Traits: map[string]string{"senses": "surface, by touch"}}},
		"cannot be at two positions": {{Slot: "mod-1", From: "mod-3"}, {Slot: "mod-2", From: "mod-3"}},
		"no trait \"moons\"":         {{Slot: "probe", From: "probe", Traits: map[string]string{"moons": "2"}}},
		"it is recorded in A":        {{Slot: "motor-e2", From: "motor-e", Traits: map[string]string{"current": "9k"}}},
	} {
		if _, err := fit.NewJudge(doing(effects...), voc); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v", says, err)
		}
	}
}

// A part that is moved brings along what is known of it, with its evidence; one
// that stays keeps everything but what is set.
func TestMovedAndSet(t *testing.T) {
	s := plainly(
		t,
		map[string]string{
			"mainboard.model":          "Brace board",
			"heater.model":             "Forge/claimed",
			"heater.watts":             "40",
			"heater.wire":              "0.5/marked",
			"heater-2.model":           "Old",
			"heater-2.volts":           "12",
			"driver-e.model":           "Hush 8",
			"driver-e.microsteps":      "16",
			"mainboard.heater-outputs": "2",
			"supply.watts":             "200",
			"plate.mains":              "yes",
			"structure.heads":          "together",
		},
	)
	kit := doing(
		fit.Effect{Slot: "heater-2", From: "heater"},
		fit.Effect{Slot: "heater", Model: "Anvil", Traits: map[string]string{"watts": "60"}},
		fit.Effect{Slot: "driver-e", From: "driver-e", Traits: map[string]string{"microsteps": "32"}},
	)
	j, err := fit.NewJudge(kit, plain)
	if err != nil {
		t.Fatal(err)
	}
	if v := j.Verdict(s); v.Answer != fit.Fits ||
		!strings.Contains(
			arithmetics(v.Reasons),
			"200 Power supply − 60 Hotend heater of this kit − 40 Hotend heater 2 − 40 motors, fans, electronics (from "+
				"memory) = 60 W left",
		) {
		t.Errorf("%s: %s", v.Answer, arithmetics(v.Reasons))
	}
	after, err := j.After(s, nil)
	if err != nil {
		t.Fatal(err)
	}
	for key, want := range map[machine.Key]string{"heater.model": "Anvil/observed", "heater.watts": "60/observed",
		"heater.wire": "/unknown", "heater-2.model": "Forge/claimed", "heater-2.watts": "40/observed",
		"heater-2.wire": "0.5/marked", "heater-2.volts": "/unknown",
		"driver-e.model": "Hush 8/observed", "driver-e.microsteps": "32/observed"} {
		if f := after.Fact(key); f.Value.Text+"/"+f.Grade.String() != want {
			t.Errorf("%s: %s/%s, want %s", key, f.Value.Text, f.Grade, want)
		}
	}
	if p, err := fit.Project(s, kit, nil); err != nil || len(p.Set) != 1 || p.Set[0].Before != "16" ||
		p.Set[0].Value.Text != "32" {
		t.Errorf("set: %+v, %v", p.Set, err)
	}

	// Moved away without another in its place, the slot is empty; with nothing there, it cannot be.
	j, err = fit.NewJudge(doing(fit.Effect{Slot: "heater-2", From: "heater"}), plain)
	if err != nil {
		t.Fatal(err)
	}
	if after, err = j.After(s, nil); err != nil || after.Model("heater") != machine.None {
		t.Errorf("left behind: %s, %v", after.Model("heater"), err)
	}
	if v := j.Verdict(plainly(t, map[string]string{"mainboard.model": "Brace board", "heater.model": "none",
		"mainboard.heater-outputs": "2", "supply.watts": "200", "plate.mains": "yes"})); v.Answer != fit.DoesNotFit ||
		!strings.Contains(v.Headline, "is there to be moved") {
		t.Errorf("nothing to move: %s, %s", v.Answer, v.Headline)
	}
}

// Whatever kits do to slots: the matrix judges as each judge does; a kit leaves
// every slot alone that it does not name; and a part moved away and back again is
// as it was.
func TestEffectsByProperty(t *testing.T) {
	rounds := 2500
	if testing.Short() {
		rounds = 600
	}
	random := rand.New(rand.NewSource(17))
	heaters := []string{"heater", "heater-2"}
	machines := func() machine.Snapshot {
		all := map[string]string{"mainboard.model": "Brace board", "plate.mains": []string{"yes", "no"}[random.Intn(2)]}
		for key, span := range map[string]int{"supply.watts": 500, "heater.watts": 80, "bed-heater.watts": 300,
			"mainboard.driver-outputs": 4, "mainboard.heater-outputs": 2, "toolhead.grams": 500, "carriage.bears": 600} {
			if random.Intn(4) > 0 {
				all[key] = fmt.Sprint(span/2 + random.Intn(span/2+1) + 1)
			}
		}
		all["structure.heads"] = "together"
		for _, slot := range heaters {
			if random.Intn(3) > 0 {
				all[slot+".model"] = []string{"Forge", "none"}[random.Intn(2)]
			}
		}
		return plainly(t, all)
	}
	kits := func() fit.Kit {
		all := []fit.Effect{
			{
				Slot: "heater-2",
				From: "heater",
			}, {Slot: "heater", Model: "Forge", Traits: map[string]string{"watts": fmt.Sprint(20 + random.Intn(80))}},
			{Slot: "supply", Model: "Torrent", Traits: map[string]string{"watts": fmt.Sprint(100 + random.Intn(400))}},
			{Slot: "supply", From: "supply", Traits: map[string]string{"watts": fmt.Sprint(100 + random.Intn(400))}},
			{Slot: "toolhead", Model: "Gull", Traits: map[string]string{"grams": fmt.Sprint(200 + random.Intn(300))}},
			{
				Slot:   "mainboard",
				From:   "mainboard",
				Traits: map[string]string{"driver-outputs": fmt.Sprint(3 + random.Intn(3))},
			}, {Slot: "plate", Model: machine.None},
		}
		k := doing()
		slots := map[string]bool{}
		for _, i := range random.Perm(len(all))[:1+random.Intn(3)] {
			if e := all[i]; !slots[e.Slot] {
				slots[e.Slot] = true
				k.Effects = append(k.Effects, e)
			}
		}
		if random.Intn(2) == 0 {
			k.Uses = []fit.Use{{Capacity: "supply-watts", Amount: float64(random.Intn(200) - 60)}}
		}
		if random.Intn(2) == 0 {
			k.Needs = fit.Requirement{
				Label: "either",
				Any: []fit.Requirement{
					k.Needs,
					{
						Label: "f",
						Additional: &fit.AdditionalChange{
							Key:   "f",
							Title: "f",
							Uses:  []fit.Use{{Capacity: "supply-watts", Amount: float64(random.Intn(250) - 230)}},
						},
					},
				},
			}
		}
		return k
	}
	seen := map[fit.Answer]int{}
	for range rounds {
		kit, s := kits(), machines()
		j, err := fit.NewJudge(kit, plain)
		if err != nil {
			t.Fatal(err)
		}
		v := j.Verdict(s)
		seen[v.Answer]++
		if row := fit.NewMatrix([]*fit.Judge{j}).Judge(s, nil); row.Truths[0] != j.Truth(s) ||
			j.Truth(s).Answer() != v.Answer {
			t.Fatalf("%+v: the matrix says %v, the judge %v, its explanation %s", kit, row.Truths[0], j.Truth(s), v.Answer)
		}
		after, err := j.After(s, v.Additional)
		if err != nil {
			t.Fatal(err)
		}
		named := map[string]bool{}
		for _, e := range kit.Effects {
			named[e.Slot], named[e.From] = true, true
		}
		for _, trait := range plain.Traits {
			if a, b := s.At(trait), after.At(trait); !named[trait.Slot] && (a.Value != b.Value || a.Grade != b.Grade) {
				t.Fatalf("%+v changed %s, of a slot that it does not name", kit, trait.Label)
			}
		}
		there, err := fit.Project(s, fit.Kit{Effects: []fit.Effect{{Slot: "heater-2", From: "heater"}}}, nil)
		if err != nil {
			t.Fatal(err)
		}
		back, err := fit.Project(there.After, fit.Kit{Effects: []fit.Effect{{Slot: "heater", From: "heater-2"}}}, nil)
		if err != nil {
			t.Fatal(err)
		}
		for _, trait := range plain.Traits {
			if a, b := s.At(trait), back.After.At(trait); trait.Slot == "heater" && (a.Value != b.Value || a.Grade != b.Grade) {
				t.Fatalf("%s was %q, and is %q after there and back", trait.Label, a.Value.Text, b.Value.Text)
			}
		}
	}
	for _, a := range []fit.Answer{fit.Fits, fit.FitsIf, fit.LookFirst, fit.DoesNotFit} {
		if seen[a] < rounds/125 {
			t.Errorf("%s only %d times: the cases show little (%v)", a, seen[a], seen)
		}
	}
}
