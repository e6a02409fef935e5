package fit_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
)

// asksOf is a need of a kind of parts.
func asksOf(kind, trait string, op fit.Op, values ...string) machine.Requirement {
	return machine.Requirement{
		Label: trait + " " + string(op),
		Test: &machine.Test{
			Of:     &machine.Selector{Kind: kind, Every: true},
			Trait:  trait,
			Op:     op,
			Values: values,
			Least:  machine.Marked,
		},
	}
}

// some is a need of some part instead of every one.
func some(r machine.Requirement) machine.Requirement {
	t := *r.Test
	t.Of = &machine.Selector{Kind: t.Of.Kind}
	r.Test = &t
	return r
}

// A need that is wrong is named in a sentence and switched off; all others are judged.
func TestWrongNeedsAreNamed(t *testing.T) {
	deep := machine.Requirement{
		Label: "leaf",
		Test:  &machine.Test{Of: &machine.Selector{Kind: "supply"}, Trait: "volts", Op: fit.Known},
	}
	for range 40 {
		deep = machine.Requirement{Label: "deeper", All: []machine.Requirement{deep}}
	}
	for _, tt := range []struct {
		name string
		that machine.Requirement
		says string
	}{
		{"a kind that is gone", asksOf("ghost", "volts", fit.AtLeast, "24"), `there is no kind of part "ghost"`},
		{"a trait that is gone", asksOf("supply", "colour", fit.Equal, "blue"), `has no trait "colour"`},
		{"a relation that is none", machine.Requirement{Label: "x",
			Test: &machine.Test{Of: &machine.Selector{Kind: "supply", Relation: "beside"}, Trait: "volts",
				Op: fit.Known}}, `"beside" is no relation`},
		{"a place that is none", machine.Requirement{Label: "x",
			Test: &machine.Test{Of: &machine.Selector{Kind: "supply", At: "attic"}, Trait: "volts",
				Op: fit.Known}}, `is no place of a machine`},
		{"a contradiction", machine.Requirement{Label: "both",
			All: []machine.Requirement{some(asksOf("supply", "volts", fit.AtLeast, "24")),
				some(asksOf("supply", "volts", fit.AtMost, "12"))}}, "can never be met"},
		{"a value of another kind", asksOf("supply", "volts", fit.AtLeast, "plenty"), "plenty"},
		{"no words", machine.Requirement{Test: &machine.Test{Of: &machine.Selector{Kind: "supply"}, Trait: "volts",
			Op: fit.Known}}, "it has no words"},
		{"nothing at all", machine.Requirement{Label: "x"}, "is one of all, any, none"},
		{"another kit", machine.Requirement{Label: "x",
			Kit: &fit.KitRef{Key: "slate-sheet", Slot: "surface", Model: "Slate"}}, "not a kit"},
		{"an offer", machine.Requirement{Label: "x", Additional: &fit.AdditionalChange{Key: "y", Title: "y"}},
			"offered by a kit"},
		{"too deep", deep, "nest deeper than"},
		{"a formula that is none", machine.Requirement{Label: "x",
			Formula: &fit.Formula{Text: strings.Repeat("(", 200) + "1", Least: machine.Marked}}, "x:"},
		{"a hazard that is harmless", machine.Requirement{Label: "x", Harmless: true, Hazard: "fire",
			Test: asksOf("supply", "volts", fit.Known).Test}, "not harmless"},
	} {
		shop := catalogue.Shipped()
		shop.Models = append(
			shop.Models,
			machine.Model{
				Kind: "mod",
				Name: "Odd part",
				Needs: []machine.Need{
					{Key: "odd", That: tt.that},
					{Key: "good", That: asksOf("supply", "volts", fit.AtLeast, "24")},
				},
			},
		)
		voc, err := shop.Vocabulary()
		if err != nil {
			t.Errorf("%s: %v", tt.name, err)
			continue
		}
		wrong := fit.CheckNeeds(voc)
		if len(wrong) != 1 || !strings.Contains(wrong[0], tt.says) ||
			!strings.Contains(wrong[0], `the model Odd part, need "odd"`) {
			t.Errorf("%s: %q", tt.name, wrong)
		}
		j, err := fit.NewJudge(fit.Kit{Key: "k", Effects: []fit.Effect{{Slot: "mod-1", Model: "Odd part"}}}, voc)
		if err != nil {
			t.Errorf("%s: %v", tt.name, err)
			continue
		}
		for volts, want := range map[string]bool{"24": true, "12": false} {
			s := machine.NewSnapshot(
				voc,
				machine.Record{Readings: machinetest.Readings(voc, map[string]string{"supply.volts": volts})},
			)
			if v := j.Verdict(s); (v.Answer == fit.DoesNotFit) == want && tt.name != "a contradiction" {
				t.Errorf("%s: with %s V %s (%s)", tt.name, volts, v.Answer, v.Headline)
			}
		}
	}
}

// Additional changes that bear on each other are judged in every combination, up to a
// bound; those that do not are judged apart, however many they are.
func TestManyOptionsAreBounded(t *testing.T) {
	group := func(i int, f fit.AdditionalChange) fit.Requirement {
		return fit.Requirement{Label: fmt.Sprint("either or ", i), Any: []fit.Requirement{
			{
				Label: "it is so",
				Test: &fit.Test{Slot: "supply", Trait: "volts", Op: fit.AtLeast, Values: []string{"48"},
					Least: machine.Marked},
			},
			{Label: "or made so", Additional: &f}}}
	}
	apart, tied := fit.Requirement{Label: "apart"}, fit.Requirement{Label: "tied"}
	for i := range 30 {
		apart.All = append(
			apart.All,
			group(i, fit.AdditionalChange{Key: fmt.Sprint("f", i), Title: fmt.Sprint("change ", i), Price: 1}),
		)
		if i <= fit.MostTogether {
			tied.All = append(
				tied.All,
				group(
					i,
					fit.AdditionalChange{
						Key:   fmt.Sprint("f", i),
						Title: fmt.Sprint("change ", i),
						Price: 1,
						Uses:  []fit.Use{{Capacity: "supply-watts", Amount: 1}},
					},
				),
			)
		}
	}
	began := time.Now()
	j, err := fit.NewJudge(fit.Kit{Key: "apart", Needs: apart}, voc)
	if err != nil {
		t.Fatal(err)
	}
	v := j.Verdict(facts(t, map[string]string{"supply.volts": "24"}))
	if v.Answer != fit.FitsIf || len(v.Additional) != 30 {
		t.Errorf("%s with %d changes", v.Answer, len(v.Additional))
	}
	if _, err = fit.NewJudge(fit.Kit{Key: "tied", Needs: tied}, voc); err == nil ||
		!strings.Contains(err.Error(), "13 of its additional changes bear on each other; at most 12") {
		t.Errorf("thirteen that bear on each other: %v", err)
	}
	tied.All = tied.All[:fit.MostTogether]
	if j, err = fit.NewJudge(fit.Kit{Key: "tied", Needs: tied}, voc); err != nil {
		t.Fatal(err)
	}
	power := map[string]string{
		"supply.volts":     "24",
		"supply.watts":     "500",
		"heater.watts":     "40",
		"heater.volts":     "24",
		"bed-heater.watts": "200",
		"bed-heater.volts": "24",
		"plate.mains":      "no",
	}
	if v = j.Verdict(facts(t, power)); v.Answer != fit.FitsIf && v.Answer != fit.LookFirst {
		t.Errorf("twelve: %s (%s)", v.Answer, v.Headline)
	}
	if took := time.Since(began); took > 10*time.Second {
		t.Errorf("took %v", took)
	}
}

// 2,000 models with needs of each other's kinds, all circles among them, and 5,000 kits
// that fit them are checked and judged in bounded time.
func TestTwoThousandModelsWithNeeds(t *testing.T) {
	if testing.Short() {
		t.Skip("long: make test-long")
	}
	const bound = 20 * time.Second // for a loaded machine
	began := time.Now()
	shop := catalogue.Shipped()
	kinds := []struct{ kind, slot string }{
		{"mod", "mod-1"},
		{"surface", "surface"},
		{"springs", "springs"},
		{"nozzle", "nozzle"},
		{"belts", "belts"},
	}
	for i := range 2000 {
		k, next := kinds[i%len(kinds)], kinds[(i+1)%len(kinds)]
		shop.Models = append(shop.Models, machine.Model{Kind: k.kind, Name: fmt.Sprint("Part ", i), Needs: []machine.Need{
			{
				Key:  "beside",
				That: asksOf(next.kind, machine.ModelTrait, fit.OneOf, fmt.Sprint("Part ", i+1), fmt.Sprint("Part ", i+6)),
			},
			{Key: "volts", That: asksOf("supply", "volts", fit.AtLeast, fmt.Sprint(12+i%12))}}})
	}
	voc, err := shop.Vocabulary()
	if err != nil {
		t.Fatal(err)
	}
	if wrong := fit.CheckNeeds(voc); len(wrong) > 0 {
		t.Fatalf("%d needs are refused: %s", len(wrong), wrong[0])
	}
	var judges []*fit.Judge
	for i := range 5000 {
		k := kinds[i%len(kinds)]
		j, err := fit.NewJudge(
			fit.Kit{Key: fmt.Sprint("kit-", i), Effects: []fit.Effect{{Slot: k.slot, Model: fmt.Sprint("Part ", i%2000)}}},
			voc,
		)
		if err != nil {
			t.Fatal(err)
		}
		judges = append(judges, j)
	}
	m := fit.NewMatrix(judges)
	for n := range 3 {
		known := map[string]string{"supply.volts": fmt.Sprint(12 + 6*n)}
		for i, k := range kinds {
			known[k.slot+".model"] = fmt.Sprint("Part ", i+5*n)
		}
		s := machine.NewSnapshot(voc, machine.Record{Readings: machinetest.Readings(voc, known)})
		row := m.Judge(s, nil)
		for _, i := range []int{0, 1, 7, 1999, 4321} {
			if t2 := judges[i].Truth(s); row.Truths[i] != t2 {
				t.Errorf("kit %d: %v, by itself %v", i, row.Truths[i], t2)
			}
		}
		refused := slices.ContainsFunc(row.Truths, func(t fit.Truth) bool { return t.Answer() == fit.DoesNotFit })
		if !refused {
			t.Error("nothing is refused: that shows little")
		}
	}
	if took := time.Since(began); took > bound {
		t.Errorf("took %v", took)
	}
}
