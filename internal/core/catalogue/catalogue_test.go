package catalogue_test

import (
	"encoding/json"
	"reflect"
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/maintenance"
)

// Every question a kit asks can be answered: some inspection earns the grade
// that decides. Otherwise a verdict could say "look first" for ever.
func TestEveryNeedCanBeFoundOut(t *testing.T) {
	voc := catalogue.Vocabulary()
	asked := 0
	for _, k := range catalogue.Kits() {
		j, err := fit.NewJudge(k, voc)
		if err != nil {
			t.Fatal(err)
		}
		for _, open := range j.Open(machine.NewSnapshot(voc, machine.Record{})) {
			asked++
			if !slices.ContainsFunc(open.Trait.FindBy, func(w machine.Way) bool { return w.Grade >= open.Least }) {
				t.Errorf("%s: no inspection answers %s as %s", k.Key, open.Trait.Label, open.Least)
			}
		}
		if len(k.Steps) == 0 || k.Minutes == 0 || k.Skill == "" || k.About == "" ||
			len(k.Effects) == 0 && k.NewBuild == "" && len(k.StartCode) == 0 {
			t.Errorf("%s is half a kit", k.Key)
		}
		for _, step := range k.Steps {
			if strings.EqualFold(step.Phase, "wire") && len(step.Cautions) == 0 {
				t.Errorf("%s, %s: wiring without a caution", k.Key, step.Title)
			}
		}
	}
	if asked < 100 {
		t.Errorf("asked %d needs only", asked)
	}
}

// Every kind of upgrade ships at least twice, with differing demands.
func TestTwoKitsOfEveryKind(t *testing.T) {
	voc := catalogue.Vocabulary()
	kinds := map[string][]fit.Kit{}
	for _, k := range catalogue.Kits() {
		kinds[k.What] = append(kinds[k.What], k)
	}
	for _, what := range []string{"contact pin probe", "inductive probe", "silent-driver mainboard",
		"board-driven display", "second Z motor", "geared dual-drive extruder", "extruder with its own motor",
		"direct-drive conversion", "quick-change tool plate",
		"new toolhead / carriage", "frame extension", "bed surface", "bed plate with mains heater",
		"stiffer bed springs", "firmware family change", "filament-change / run-out", "print-area meshing"} {
		ks := kinds[what]
		if len(ks) < 2 {
			t.Errorf("%d kits of kind %q", len(ks), what)
			continue
		}
		asks := func(k fit.Kit) string { // with what its parts need
			text, _ := json.Marshal([]any{k.Needs, k.Result})
			for _, e := range k.Effects {
				if p := voc.At(e.Slot); p != nil {
					more, _ := json.Marshal(voc.NeedsOf(p.Kind, e.Model))
					text = append(text, more...)
				}
			}
			return string(text)
		}
		if asks(ks[0]) == asks(ks[1]) {
			t.Errorf("the kits of kind %q ask for the same", what)
		}
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
	usual := machinetest.Facts(voc, map[string]string{"probe.model": "P", "nozzle-2.model": "n", "hotend-2.model": "h"})
	for _, c := range calibration.All() {
		if subjects := c.Subjects(usual); len(subjects) == 0 || len(c.DependsOn(usual, subjects[0])) == 0 {
			t.Errorf("%s depends on no part of a usual machine", c.Kind)
		}
	}
	for _, task := range maintenance.Shipped() {
		if voc.First(task.Kind) == nil || task.Hours == 0 && task.Days == 0 {
			t.Errorf("task %s: kind %q, %g h, %d days", task.Key, task.Kind, task.Hours, task.Days)
		}
	}
}
