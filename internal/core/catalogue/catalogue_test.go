package catalogue_test

import (
	"encoding/json"
	"reflect"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/upkeep"
)

// Every question a kit asks can be answered: some inspection earns the grade
// that decides. Otherwise a verdict could say "look first" for ever.
func TestEveryNeedCanBeFoundOut(t *testing.T) {
	voc := catalogue.Vocabulary()
	asked := 0
	var walk func(kit string, r fit.Requirement)
	walk = func(kit string, r fit.Requirement) {
		check := func(slot, trait string, least machine.Grade) {
			asked++
			tr, ok := voc.Trait(machine.KeyOf(slot, trait))
			if !ok {
				t.Fatalf("%s: no trait %s.%s", kit, slot, trait)
			}
			for _, w := range tr.FindBy {
				if w.Grade >= least {
					return
				}
			}
			t.Errorf("%s: no inspection answers %s as %s", kit, tr.Label, least)
		}
		if r.Test != nil {
			check(r.Test.Slot, r.Test.Trait, r.Test.Least)
		}
		if r.Sum != nil {
			for _, term := range r.Sum.Terms {
				check(term.Slot, term.Trait, r.Sum.Least)
			}
		}
		if r.Label == "" {
			t.Errorf("%s: a need without words", kit)
		}
		for _, group := range [][]fit.Requirement{r.All, r.Any, r.None} {
			for _, p := range group {
				walk(kit, p)
			}
		}
	}
	for _, k := range catalogue.Kits() {
		if _, err := fit.NewJudge(k, voc); err != nil {
			t.Error(err)
		}
		walk(k.Key, k.Needs)
		if len(k.Steps) == 0 || len(k.Parts) == 0 || len(k.Effects) == 0 || k.Minutes == 0 {
			t.Errorf("%s is half a kit", k.Key)
		}
	}
	if asked < 10 {
		t.Errorf("asked %d needs only", asked)
	}
}

// A kit is kept as JSON and comes back as it was.
func TestKitsSurviveJSON(t *testing.T) {
	for _, k := range catalogue.Kits() {
		text, err := json.Marshal(k)
		if err != nil {
			t.Fatal(err)
		}
		var back fit.Kit
		if err := json.Unmarshal(text, &back); err != nil || !reflect.DeepEqual(back, k) {
			t.Errorf("%s comes back changed: %v", k.Key, err)
		}
	}
}

// Inspections that open the machine say to pull the plug; calibrations and
// tasks speak of slots that there are.
func TestCautionsAndSlots(t *testing.T) {
	voc := catalogue.Vocabulary()
	for _, key := range []string{"label", "cover", "ribbon", "heat-sink", "meter"} {
		in, ok := voc.Inspection(key)
		if !ok || len(in.Cautions) == 0 {
			t.Errorf("inspection %s lacks its caution", key)
		}
	}
	// From memory: display 1 minute, cover off 10, heat sink off 25 and some risk.
	for key, minutes := range map[string]int{"display": 1, "cover": 10, "heat-sink": 25} {
		if in, _ := voc.Inspection(key); in.Minutes != minutes || (key == "heat-sink") != (in.Risk != "") {
			t.Errorf("inspection %s: %d minutes, risk %q", key, in.Minutes, in.Risk)
		}
	}
	for _, c := range change.Calibrations() {
		for _, slot := range append(append([]string(nil), c.RestsOn...), c.Needs...) {
			if _, ok := voc.Slot(slot); !ok {
				t.Errorf("%s rests on %q, which is no slot", c.Kind, slot)
			}
		}
	}
	for _, task := range upkeep.Tasks() {
		if _, ok := voc.Slot(task.Slot); !ok || task.Hours == 0 && task.Days == 0 {
			t.Errorf("task %s: slot %q, %g h, %d days", task.Key, task.Slot, task.Hours, task.Days)
		}
	}
}
