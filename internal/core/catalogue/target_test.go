package catalogue_test

import (
	"strings"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
)

// twoHeads is a machine whose second head has all that the kits of extruders ask of the
// first.
func twoHeads(t *testing.T, but map[string]string) machine.Snapshot {
	t.Helper()
	voc := catalogue.Vocabulary()
	facts := on(
		known,
		"extruder-2.model",
		"Pawl 1:1",
		"motor-e2.model",
		"plain motor",
		"driver-e2.model",
		"Rill 8",
		"toolhead-2.model",
		"Quayside head 2",
		"structure.complete",
		"yes",
	)
	for _, kind := range []string{"extruder", "motor-e", "driver-e", "toolhead", "hotend", "tube", "nozzle"} {
		other := map[string]string{"motor-e": "motor-e2", "driver-e": "driver-e2"}[kind]
		if other == "" {
			other = kind + "-2"
		}
		for key, value := range known {
			if slot, trait, _ := strings.Cut(key, "."); slot == kind && facts[other+"."+trait] == "" {
				facts[other+"."+trait] = value
			}
		}
	}
	for key, value := range but {
		facts[key] = value
	}
	s := machinetest.Facts(voc, facts)
	if heads := s.Structure().Heads(); len(heads) != 2 {
		t.Fatalf("heads %v", heads)
	}
	return s
}

// A kit for any head is judged for each, and speaks of the best; turned to one it is a
// kit of its own, also for the work.
func TestAKitForAnyHead(t *testing.T) {
	voc := catalogue.Vocabulary()
	kit, _ := catalogue.Kit("cadge-extruder")
	j, err := fit.NewJudge(kit, voc)
	if err != nil {
		t.Fatal(err)
	}
	for _, tt := range []struct {
		but      map[string]string
		head     int
		answer   fit.Answer
		headline string
	}{
		{nil, 1, fit.Fits, ""},
		{m("driver-e.microsteps", "8"), 2, fit.Fits, ""},
		{m("driver-e2.microsteps", "8"), 1, fit.Fits, ""},
		{m("driver-e.microsteps", "8", "driver-e2.microsteps", "8"), 1, fit.DoesNotFit, "1/16"},
		{m("driver-e.microsteps", "8", "driver-e2.microsteps", "16/claimed"), 2, fit.LookFirst, "microsteps"},
	} {
		s := twoHeads(t, tt.but)
		v := j.Verdict(s)
		if v.Head != tt.head || v.Answer != tt.answer || j.Truth(s).Answer() != tt.answer ||
			!strings.Contains(v.Headline, tt.headline) ||
			len(v.Heads) != 2 {
			t.Errorf("%v: head %d, %s (%s), of %d heads", tt.but, v.Head, v.Answer, v.Headline, len(v.Heads))
		}
		row := fit.NewMatrix([]*fit.Judge{j}).Judge(s, nil)
		if row.Truths[0] != j.Truth(s) {
			t.Errorf("%v: %v, and in the matrix %v", tt.but, j.Truth(s), row.Truths[0])
		}
	}
	s := twoHeads(t, m("driver-e.microsteps", "8"))
	on := j.On(s)
	if on.Kit.Key != "cadge-extruder@2" || on.Kit.Effects[0].Slot != "extruder-2" || on.Kit.Effects[1].Slot != "motor-e2" {
		t.Errorf("turned: %s %+v", on.Kit.Key, on.Kit.Effects)
	}
	after, err := j.After(s, nil)
	if err != nil || after.Fact("extruder-2.model").Value.Text != kit.Effects[0].Model ||
		after.Fact("extruder.model").Value != s.Fact("extruder.model").Value {
		t.Errorf("after: %v, %v", after.Fact("extruder-2.model").Value, err)
	}
	if found := fit.Find([]*fit.Judge{j}, "cadge-extruder@2"); found == nil || found.Verdict(s).Head != 2 {
		t.Error("the kit for head 2 is not found by its key")
	}
	if fit.Find([]*fit.Judge{j}, "cadge-extruder@9") != nil || fit.Find([]*fit.Judge{j}, "ghost@2") != nil {
		t.Error("found a kit for a head that nothing has")
	}
	// A head that is not there is not made by what is fitted to it.
	single := oneHead(voc)
	if v := fit.Find([]*fit.Judge{j}, "cadge-extruder@2").Verdict(single); v.Answer != fit.DoesNotFit ||
		!strings.Contains(v.Headline, "Head 2 is there") {
		t.Errorf("head 2 of one: %s (%s)", v.Answer, v.Headline)
	}
	// With one head nobody is asked which.
	if v := j.Verdict(single); v.Head != 0 || len(v.Heads) != 0 || j.On(single).Kit.Key != "cadge-extruder" {
		t.Errorf("one head: %d of %v, %s", v.Head, v.Heads, j.On(single).Kit.Key)
	}
}

// oneHead is a machine of one head, of which everything is known.
func oneHead(voc *machine.Vocabulary) machine.Snapshot {
	var positions []machine.Position
	for _, p := range voc.Slots {
		if p.Serves.Head() < 2 {
			positions = append(positions, p)
		}
	}
	return machine.NewSnapshot(voc, machine.Record{Readings: machinetest.Readings(voc, known), Positions: positions})
}

// A kit for each head needs what it needs at every one, and is bought as often.
func TestAKitForEachHead(t *testing.T) {
	kit, _ := catalogue.Kit("cadge-extruder")
	kit.Heads = fit.EachHead
	j, err := fit.NewJudge(kit, catalogue.Vocabulary())
	if err != nil {
		t.Fatal(err)
	}
	s := twoHeads(t, nil)
	on := j.On(s).Kit
	if v := j.Verdict(s); v.Answer != fit.Fits || on.Price != 2*kit.Price || on.Minutes != 2*kit.Minutes ||
		len(on.Effects) != 2*len(kit.Effects) ||
		len(on.Steps) != 2*len(kit.Steps) {
		t.Errorf("%s (%s); %+v", v.Answer, v.Headline, on)
	}
	if v := j.Verdict(twoHeads(t, m("driver-e2.microsteps", "8"))); v.Answer != fit.DoesNotFit ||
		!strings.Contains(v.Headline, "1/16") {
		t.Errorf("one head is not fit for it: %s (%s)", v.Answer, v.Headline)
	}
	// A head that has not all the places: nothing is guessed.
	kit, _ = catalogue.Kit("twinpawl-kit")
	kit.Heads = fit.EachHead
	if j, err = fit.NewJudge(kit, catalogue.Vocabulary()); err != nil {
		t.Fatal(err)
	}
	if v := j.Verdict(s); v.Answer != fit.DoesNotFit || !strings.Contains(v.Headline, "head 2 has no place") {
		t.Errorf("no bracket at head 2: %s (%s)", v.Answer, v.Headline)
	}
	// What is nowhere near a head is refused where it is written.
	sheet, _ := catalogue.Kit("slate-sheet")
	for _, heads := range []string{fit.AnyHead, "both"} {
		sheet.Heads = heads
		if _, err := fit.NewJudge(sheet, catalogue.Vocabulary()); err == nil {
			t.Errorf("a sheet for %q is taken", heads)
		}
	}
}
