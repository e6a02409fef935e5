package app_test

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"testing"

	"wardifex/internal/app"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/fleetquery"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/recordfile"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// on is a change of a machine's positions as it stands.
func on(t *testing.T, s *store.Store, id int64) app.ChangedStructure {
	t.Helper()
	return app.ChangedStructure{Version: load(t, s, id).Structure, By: "x", At: now}
}

// A machine's positions are its own: one is added, placed otherwise, and taken off,
// and another machine's stay as they are.
func TestPositionsOfOneMachine(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	a, b := add(t, s, "Avocet", nil), add(t, s, "Bittern", nil)
	third := machine.Position{Kind: "heater", Serves: machine.Head(3)}
	key, err := does(s).AddPosition(ctx, a, third, on(t, s, a))
	must(t, err)
	_, err = does(s).AddPosition(ctx, b, third, on(t, s, b))
	must(t, err)
	must(
		t,
		reads(s, a, machine.KeyOf(key, "watts"), "60", machine.Reading{Grade: machine.Observed, TakenAt: now, By: "x"}, now),
	)
	at := func(id int64) *machine.Position { // what heater it has besides the usual ones
		t.Helper()
		st := load(t, s, id).Facts.Structure()
		i := slices.IndexFunc(st.Listed(), func(p machine.Position) bool {
			return p.Kind == "heater" && p.Serves != machine.Head(1) && p.Serves != machine.Bed
		})
		if i < 0 {
			return nil
		}
		return &st.Listed()[i]
	}
	moved := *at(a)
	moved.Serves, moved.Label = machine.Enclosure, "Stove"
	must(t, does(s).ChangePosition(ctx, a, moved, on(t, s, a)))
	if p := at(a); p.Serves != machine.Enclosure || p.Label != "Stove" {
		t.Errorf("it was placed at the enclosure, and stands at %s as %s", p.Serves, p.Label)
	}
	if p := at(b); p.Serves != machine.Head(3) {
		t.Errorf("the other machine's moved along: %s", p.Serves)
	}
	heaters := func(id int64, place machine.Place) int {
		st := load(t, s, id).Facts.Structure()
		return len(st.At("heater", place))
	}
	if heaters(a, machine.Enclosure) != 1 || heaters(a, machine.Head(3)) != 0 || heaters(b, machine.Head(3)) != 1 ||
		heaters(b, machine.Enclosure) != 0 {
		t.Errorf(
			"rules find %d and %d heaters on the one, %d and %d on the other",
			heaters(a, machine.Enclosure),
			heaters(a, machine.Head(3)),
			heaters(b, machine.Enclosure),
			heaters(b, machine.Head(3)),
		)
	}
	if w := load(t, s, a).Facts.Fact(machine.KeyOf(at(a).Key, "watts")).Value.Text; w != "60" {
		t.Errorf("what was read of it: %q", w)
	}
	err = does(s).RemovePosition(ctx, a, at(a).Key, on(t, s, a))
	refused(t, err, "take it out first")
	must(t, does(s).RemovePosition(ctx, a, "display", on(t, s, a)))
	gone := load(t, s, a).Facts.Fact("display.model")
	if gone.Value.Text != machine.None || !gone.Unlisted {
		t.Errorf("taken off the list, it is %+v", gone)
	}
	if !load(t, s, b).Facts.Has(s.Vocabulary(t.Context()).At("display")) {
		t.Error("taken off the other machine's list")
	}
	// A machine built like another has its positions, and no parts.
	c, err := does(s).AddMachine(ctx, store.Fields{Name: "Curlew"}, app.Like{Machine: b}, "x", now)
	must(t, err)
	if at(c) == nil || len(load(t, s, c).Facts.Structure().Listed()) != len(load(t, s, b).Facts.Structure().Listed()) {
		t.Error("it is not built alike")
	}
	// So it is with a model of the catalogue that has the positions.
	twin := machine.Model{Kind: "structure", Name: "Ardal twin", Positions: load(t, s, b).Facts.Structure().Listed()}
	must(t, does(s).SaveEntry(ctx, 0, machine.Catalogue{Models: []machine.Model{twin}}, "x", now))
	d, err := does(s).AddMachine(ctx, store.Fields{Name: "Egret"}, app.Like{Model: "Ardal twin"}, "x", now)
	must(t, err)
	if at(d) == nil || len(load(t, s, d).Facts.Structure().Listed()) != len(load(t, s, b).Facts.Structure().Listed()) {
		t.Error("it is not built as the model")
	}
	_, err = does(s).AddMachine(ctx, store.Fields{Name: "Dunlin"}, app.Like{Machine: 9999}, "x", now)
	if !errors.Is(err, store.ErrNotFound) {
		t.Errorf("like a machine that is not there: %v", err)
	}
	_, err = does(s).AddMachine(ctx, store.Fields{Name: "Dunlin"}, app.Like{Model: "Ghost"}, "x", now)
	refused(t, err, "no model of machine named Ghost")
}

// Of several people who add to one list at once, one does; the others are told.
func TestPositionsAtOnce(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", nil)
	c := on(t, s, id)
	before := len(load(t, s, id).Facts.Structure().Listed())
	var wg sync.WaitGroup
	errs := make([]error, 6)
	for i := range errs {
		wg.Go(func() {
			_, errs[i] = does(s).AddPosition(ctx, id, machine.Position{Kind: "heater", Serves: machine.Head(2 + i)}, c)
		})
	}
	wg.Wait()
	done := 0
	for _, err := range errs {
		var conflict *app.Conflict
		switch {
		case err == nil:
			done++
		case !errors.As(err, &conflict):
			t.Errorf("told: %v", err)
		}
	}
	if after := len(load(t, s, id).Facts.Structure().Listed()); done != 1 || after != before+1 {
		t.Errorf("%d were added, and the list is %d longer", done, after-before)
	}
}

// Fifty heads are taken, and a machine with as many can be judged; one more is not.
func TestFiftyHeads(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", map[string]string{"supply.watts": "350"})
	for h := 2; h <= machine.MostHeads; h++ {
		for _, kind := range []string{"heater", "hotend", "sensor"} {
			_, err := does(s).AddPosition(ctx, id, machine.Position{Kind: kind, Serves: machine.Head(h)}, on(t, s, id))
			if err != nil && !strings.Contains(err.Error(), "already") {
				t.Fatal(err)
			}
		}
	}
	m := load(t, s, id)
	if n := len(m.Facts.Structure().Heads()); n != machine.MostHeads {
		t.Errorf("%d heads", n)
	}
	judges, broken, err := does(s).Judges(ctx)
	must(t, err)
	for _, j := range judges {
		j.Verdict(m.Facts)
	}
	if len(broken) > 0 {
		t.Errorf("kits that cannot be judged any more: %v", broken)
	}
	_, err = does(s).AddPosition(
		ctx,
		id,
		machine.Position{Kind: "heater", Serves: machine.Head(machine.MostHeads + 1)},
		on(t, s, id),
	)
	refused(t, err, "head 1 to head 50")
}

// A record file whose positions cannot be is refused in sentences, and nothing of it
// is written; with links and an own position it comes in as it went out.
func TestPositionsInFiles(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", nil)
	key, err := does(s).AddPosition(
		ctx,
		id,
		machine.Position{Kind: "heater", Serves: machine.Head(2), FedBy: &machine.Link{To: "mainboard",
			Grade: machine.Observed}},
		on(t, s, id),
	)
	must(t, err)
	file := func() recordfile.File { return recordOf(t, s) }
	for want, spoil := range map[string]func(m *recordfile.Machine){
		"no kind of part":       func(m *recordfile.Machine) { m.Positions[0].Kind = "ghost" },
		"no place of a machine": func(m *recordfile.Machine) { m.Positions[0].Serves = "attic" },
		"twice":                 func(m *recordfile.Machine) { m.Positions = append(m.Positions, m.Positions[0]) },
		"at most 600 are right": func(m *recordfile.Machine) {
			for i := range 2000 {
				m.Positions = append(m.Positions,
					recordfile.Listed{Position: machine.Position{Key: fmt.Sprint("x", i), Label: "x", Kind: "heater",
						Serves: machine.Shop, N: 1}, From: now, By: "x"})
			}
		},
		"elsewhere it holds a": func(m *recordfile.Machine) {
			i := slices.IndexFunc(m.Positions, func(p recordfile.Listed) bool { return p.Key == key })
			m.Positions[i].Kind = "nozzle"
		},
	} {
		f := file()
		f.Machines[0].Name = "Bittern"
		spoil(&f.Machines[0])
		into := pgtest.Store(t)
		_, err := does(into).ImportRecord(ctx, store.ImportFile{}, f, "x", now)
		refused(t, err, want)
		if names, _ := into.Names(ctx); len(names) != 0 {
			t.Errorf("%s: half a record was written", want)
		}
	}
	// A file cannot move what the machines here have under the same key.
	third, err := does(s).AddPosition(ctx, id, machine.Position{Kind: "heater", Serves: machine.Head(3)}, on(t, s, id))
	must(t, err)
	f := file()
	f.Machines[0].Name = "Bittern"
	i := slices.IndexFunc(f.Machines[0].Positions, func(p recordfile.Listed) bool { return p.Key == third })
	f.Machines[0].Positions[i].Serves = machine.Enclosure
	_, err = does(s).ImportRecord(ctx, store.ImportFile{}, f, "x", now)
	refused(t, err, "on other machines it is number 1 at head 3")
	// What was placed otherwise goes out, and comes in, at its place.
	moved := *s.Vocabulary(t.Context()).At(third)
	moved.Serves = machine.Enclosure
	must(t, does(s).ChangePosition(ctx, id, moved, on(t, s, id)))
	into := pgtest.Store(t)
	_, err = does(into).ImportRecord(ctx, store.ImportFile{}, file(), "x", now)
	must(t, err)
	names, err := into.Names(ctx)
	must(t, err)
	a, b := load(t, s, id).Facts.Structure().Listed(), load(t, into, names[0].ID).Facts.Structure().Listed()
	if fmt.Sprintf("%+v", flat(a)) != fmt.Sprintf("%+v", flat(b)) {
		t.Errorf("it went out as\n%+v\nand came in as\n%+v", flat(a), flat(b))
	}
}

// flat writes positions with their links.
func flat(list []machine.Position) []string {
	var out []string
	for _, p := range list {
		text := fmt.Sprint(p.Key, " ", p.Kind, " ", p.Label, " ", p.Serves, " ", p.Ordinal())
		for _, l := range []*machine.Link{p.RidesOn, p.FedBy} {
			if l != nil {
				text += fmt.Sprintf(" → %+v", *l)
			}
		}
		out = append(out, text)
	}
	return out
}

// A kit for a position that one machine has of its own leaves the catalogue free to be edited.
func TestAKitForAPositionOfItsOwn(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", nil)
	key, err := does(s).AddPosition(ctx, id, machine.Position{Kind: "case-fan", Serves: "frame", Label: "Third fan"},
		on(t, s, id))
	must(t, err)
	must(t, does(s).SaveKit(ctx, fit.Kit{Key: "third", Name: "Third fan kit", What: "fan", Needs: fit.Requirement{
		Label: "The third fan is there", Test: &fit.Test{Slot: key, Trait: "model", Op: fit.Present,
			Least: machine.Marked}}}, 0))
	_, err = does(s).SaveQuestion(ctx, store.SavedQuestion{Name: "Third", Question: fleetquery.Question{
		Columns: []string{key + ".model"}}}, "Ann", now)
	must(t, err)
	plate := machine.Model{Kind: "plate", Name: "Free"}
	must(t, does(s).SaveEntry(ctx, 0, machine.Catalogue{Models: []machine.Model{plate}}, "Ann", now))
	must(t, does(s).DeleteEntry(ctx, "model", "plate/free", 1))
}
