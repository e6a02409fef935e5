package change_test

import (
	"reflect"
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/maintenance"
)

// progressOf is an order whose first steps, up to and with one, are done.
func progressOf(steps []change.Step, upTo string) change.Progress {
	p := make(change.Progress, len(steps))
	done := upTo != ""
	for i, s := range steps {
		p[i] = change.Progressed{Step: s, Done: done}
		done = done && s.Key != upTo
	}
	return p
}

// What was really fitted rewrites the order: what is done stays done, but for what the part
// makes necessary again; its proof and calibrations join; a step of the house's own stays.
func TestAnotherPartThanWritten(t *testing.T) {
	s := facts(compiled)
	surface := change.Swap(s.Vocabulary().At("surface"), "sheet", "thick sheet")
	c, err := change.NewChange(surface, nil, s)
	if err != nil {
		t.Fatal(err)
	}
	steps := c.WorkOrder(nil)
	own := change.OwnStep(progressOf(steps, ""), "Fit", "oil the rail", "", "Ansa")
	steps = slices.Insert(steps, 2, own)
	for name, tt := range map[string]struct{ done, slot, model, redo, want string }{
		"another model of the same": {"fit-1", "surface", "thin sheet", "",
			"cool fit-1 fit-2 own-1 first-power home z-offset first-layer"},
		"a part besides, after the calibration": {"z-offset", "nozzle", "steel nozzle", "first-power home z-offset",
			"cool fit-1 own-1 fit-2 first-power home heat-once z-offset retraction first-layer test-print"},
		"nothing done yet": {"", "nozzle", "steel nozzle", "",
			"baseline filament-out plug-out fit-1 fit-2 fit-3 fit-4 own-1 first-power home heat-once z-offset retraction " +
				"first-layer test-print"},
	} {
		t.Run(name, func(t *testing.T) {
			kit := change.Amend(surface, tt.slot, tt.model)
			now, err := change.NewChange(kit, nil, s)
			if err != nil {
				t.Fatal(err)
			}
			list, err := now.Rewrite(progressOf(steps, tt.done), tt.slot, nil)
			if err != nil {
				t.Fatal(err)
			}
			var got []change.Step
			var redo []string
			for _, r := range list {
				got = append(got, r.Step)
				if r.Redo {
					redo = append(redo, r.Step.Key)
				}
			}
			slices.Sort(redo)
			if keysOf(got) != tt.want || strings.Join(redo, " ") != tt.redo {
				t.Errorf("got  %s\nwant %s\nagain %v", keysOf(got), tt.want, redo)
			}
		})
	}
	if again := change.OwnStep(progressOf(steps, ""), "Fit", "wipe it", "", "Ansa"); again.Key != "own-2" {
		t.Errorf("a second step of the house's own is %s", again.Key)
	}
}

// Work is rolled back in the order of the trade: the old parts, the build that ran only where
// another went in, then what has to be shown and measured again.
func TestRolledBack(t *testing.T) {
	s := facts(compiled)
	for name, tt := range map[string]struct{ kit, done, want string }{
		"a nozzle": {"nozzle", "fit-1", "back-plug-out back-part-1 back-first-power back-home back-heat-once " +
			"back-z-offset back-retraction back-first-layer back-test-print"},
		"a build that is in": {"", "flash", "back-flash back-defaults back-re-enter back-protection-head-1 " +
			"back-protection-bed back-first-power back-cold"},
		"a build that was only made": {"", "make-build", "back-look"},
	} {
		t.Run(name, func(t *testing.T) {
			kit := change.Reflash("a probe")
			if tt.kit != "" {
				kit = change.Swap(s.Vocabulary().At(tt.kit), "brass", "steel")
			}
			c, err := change.NewChange(kit, nil, s)
			if err != nil {
				t.Fatal(err)
			}
			back := c.RollBack(progressOf(c.WorkOrder(nil), tt.done), nil)
			if got := keysOf(back); !strings.HasPrefix(got, tt.want) {
				t.Errorf("got  %s\nwant %s …", got, tt.want)
			}
		})
	}
}

// Where the old build was not put back, the new one is what runs: rolled back or not, the record
// says so, and what it makes invalid is invalid.
func TestRolledBackWithTheNewBuildLeftIn(t *testing.T) {
	s := facts(compiled)
	c, err := change.NewChange(change.Reflash("a probe"), nil, s)
	if err != nil {
		t.Fatal(err)
	}
	steps := c.WorkOrder(nil)
	var worked []change.Worked
	for _, st := range append(steps, c.RollBack(progressOf(steps, "flash"), nil)...) {
		w := change.Worked{Step: st, Done: st.Key == "flash", Data: change.Data{Version: "2.1.0"}}
		worked = append(worked, w)
	}
	for name, tt := range map[string]struct {
		back bool
		runs string
	}{"left in": {false, "2.1.0"}, "put back": {true, "2.0.8"}} {
		t.Run(name, func(t *testing.T) {
			list := slices.Clone(worked)
			for i := range list {
				if list[i].Step.Key == "back-flash" {
					list[i].Done, list[i].Data.Version = tt.back, "2.0.8"
				}
			}
			f, err := c.FinishBack(list, records(), "", 0, now)
			if err != nil {
				t.Fatal(err)
			}
			if len(f.Fittings) != 1 || f.Fittings[0].Found["version"] != tt.runs || len(f.Closing.Invalid) == 0 {
				t.Errorf("%+v, %d invalid", f.Fittings, len(f.Closing.Invalid))
			}
		})
	}
}

// Every shipped kit writes its order, and every one of them can be rolled back.
func TestEveryKitWritesItsOrder(t *testing.T) {
	for _, kit := range catalogue.Kits() {
		c, err := change.NewChange(kit, nil, facts(compiled))
		if err != nil {
			continue // not on such a machine
		}
		steps := c.WorkOrder(records())
		keys := map[string]bool{}
		for _, st := range slices.Concat(steps, c.RollBack(progressOf(steps, steps[len(steps)-1].Key), records())) {
			if keys[st.Key] || st.Title == "" || st.Do == "" || st.Phase == "" {
				t.Errorf("%s: step %q twice, or without words", kit.Key, st.Key)
			}
			keys[st.Key] = true
		}
	}
}

// Changes that no kit brings: a repair looks for the cause first, a task puts the same model
// in, a head is mounted where heads are changed by hand.
func TestChangesOfTheirOwn(t *testing.T) {
	s := facts(compiled)
	clicks, ok := maintenance.SymptomOf("extruder-clicks")
	if !ok {
		t.Fatal("no such symptom")
	}
	repair, err := change.NewChange(change.Repair("it clicks at every load", &clicks), nil, s)
	if err != nil {
		t.Fatal(err)
	}
	steps := repair.WorkOrder(nil)
	if got := keysOf(steps); got != "safe fit-1 fit-2 what-it-was" {
		t.Errorf("a repair: %s", got)
	}
	look := steps[1].Lines
	if len(look) != len(clicks.Causes) || !strings.Contains(look[0], clicks.Causes[0].Check) {
		t.Errorf("where to look: %q", look)
	}
	warned := 0
	for _, symptom := range maintenance.Symptoms() {
		var cautions []string
		for _, c := range symptom.Causes {
			if c.Caution != "" {
				cautions = append(cautions, c.Caution)
			}
		}
		if got := change.Repair("it does", &symptom).Steps[0].Cautions; !slices.Equal(got, cautions) {
			t.Errorf("%s warns of %q, its causes of %q", symptom.Key, got, cautions)
		}
		warned += len(cautions)
	}
	if warned == 0 {
		t.Error("no cause has a caution")
	}
	nozzle, _ := maintenance.Find(maintenance.Shipped(), "nozzle")
	if _, err := change.Maintain(nozzle, s, ""); err == nil || !strings.Contains(err.Error(), "which one goes in") {
		t.Errorf("a nozzle of which nobody knows the model: %v", err)
	}
	kit, err := change.Maintain(nozzle, s, "brass 0.4")
	if err != nil || !reflect.DeepEqual(kit.Effects, []fit.Effect{{Slot: "nozzle", Model: "brass 0.4"}}) {
		t.Errorf("%+v, %v", kit.Effects, err)
	}
	if _, err := change.Mount(s, 2); err == nil || !strings.Contains(err.Error(), "not changed by hand") {
		t.Errorf("a head of a machine with one: %v", err)
	}
}
