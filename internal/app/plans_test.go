package app_test

import (
	"slices"
	"sync"
	"testing"

	"wardifex/internal/app"
	"wardifex/internal/core/change/changetest"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// A plan opens its first kit and keeps the others in their order; each is judged
// again when its turn comes, on the machine as the work before has left it.
func TestAPlanIsWorkedOff(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", fitting)
	must(t, reads(s, id, "springs.model", "soft", machine.Reading{Grade: machine.Observed, TakenAt: now, By: "x"}, now))
	kits := []string{"plumbline-probe", "bollard-springs"}
	_, err := does(s).OpenPlan(ctx, id, kits, "a feature somebody needs", "x", now)
	refused(t, err, "look first: Bed springs: room at the cable corner, Bed springs: stiff")
	must(t, reads(s, id, "springs.corner-room", "18", machine.Reading{Grade: machine.Observed, TakenAt: now, By: "x"},
		now))
	must(t, reads(s, id, "springs.stiff", "no", machine.Reading{Grade: machine.Observed, TakenAt: now, By: "x"}, now))

	_, err = does(s).OpenPlan(ctx, id, kits, "", "x", now)
	refused(t, err, "left alone")
	_, err = does(s).OpenPlan(ctx, id, []string{"plumbline-probe", "sounder-8"}, "a feature somebody needs", "x", now)
	refused(t, err, "cannot go together")
	first, err := does(s).OpenPlan(ctx, id, kits, "a feature somebody needs", "x", now)
	must(t, err)
	m := load(t, s, id)
	if m.OpenOrder == nil || m.OpenOrder.ID != first || len(m.Planned) != 1 || m.Planned[0].State != "planned" {
		t.Fatalf("open %+v, planned %+v", m.OpenOrder, m.Planned)
	}
	second := m.Planned[0].ID
	waiting, err := does(s).Order(ctx, second)
	must(t, err)
	if waiting.State != "planned" || waiting.StepList == nil || len(waiting.StepList) != 0 || waiting.Locked != first {
		t.Errorf("it waits, without steps yet: %+v", waiting)
	}
	refused(t, does(s).BeginPlanned(ctx, second, "x", now), "locked out")
	_, err = does(s).OpenPlan(ctx, id, kits, "wear", "x", now)
	refused(t, err, "locked out")

	must(t, does(s).Abandon(ctx, first, "x", now))
	_, err = does(s).OpenPlan(ctx, id, kits, "wear", "x", now)
	refused(t, err, "planned on Avocet already")
	must(t, does(s).BeginPlanned(ctx, second, "y", now))
	o, err := does(s).Order(ctx, second)
	must(t, err)
	if o.State != "open" || o.OpenedBy != "y" || len(o.StepList) == 0 || len(o.Planned) != 0 {
		t.Errorf("begun: %s by %s, %d steps, planned %+v", o.State, o.OpenedBy, len(o.StepList), o.Planned)
	}
	refused(t, does(s).BeginPlanned(ctx, second, "x", now), "open already")
}

// What no longer fits when its turn comes is not begun, and can be let go.
func TestAPlannedKitIsJudgedAgain(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", fitting)
	for k, v := range map[machine.Key]string{"springs.model": "soft", "springs.stiff": "no",
		"springs.corner-room": "18", "plate.model": "p", "plate.temperature": "60"} {
		must(t, reads(s, id, k, v, machine.Reading{Grade: machine.Observed, TakenAt: now, By: "x"}, now))
	}
	first, err := does(s).OpenPlan(ctx, id, []string{"bollard-springs", "slate-sheet", "plumbline-probe"}, "wear", "x",
		now)
	must(t, err)
	must(t, does(s).Abandon(ctx, first, "x", now))
	planned := load(t, s, id).Planned
	if len(planned) != 2 {
		t.Fatalf("planned: %+v", planned)
	}
	list, err := s.Orders(ctx, store.Cut{})
	must(t, err)
	heads := list.Rows
	if heads[0].ID != planned[0].ID || heads[1].ID != planned[1].ID || heads[0].Steps != 0 ||
		heads[2].State != "abandoned" {
		t.Errorf("the list has them in their turn: %+v", heads)
	}
	refused(t, does(s).BeginPlanned(ctx, planned[1].ID, "x", now), "comes first in the plan")

	must(t, does(s).Abandon(ctx, planned[0].ID, "x", now))
	must(t, does(s).ReplanOrder(ctx, planned[0].ID))
	if again := load(t, s, id).Planned; !slices.Equal(again, planned) {
		t.Errorf("put back: %+v, want %+v", again, planned)
	}
	for _, id := range []int64{first, planned[0].ID} {
		refused(t, does(s).ReplanOrder(ctx, id), "go back into the plan")
	}
	must(t, does(s).ReplacePart(ctx, id, "springs", "Bollard stiff springs", "by hand", "x", now))
	must(t, does(s).ReplacePart(ctx, id, "probe", "Plumbline", "by hand", "x", now))
	must(
		t,
		reads(s, id, "probe.senses", "surface, by touch", machine.Reading{Grade: machine.Observed, TakenAt: now, By: "x"},
			now),
	)
	for _, p := range planned {
		if p.Kit == "Plumbline contact probe kit" {
			refused(t, does(s).BeginPlanned(ctx, p.ID, "x", now), "does not fit")
		} else {
			must(t, does(s).BeginPlanned(ctx, p.ID, "x", now))
		}
		must(t, does(s).Abandon(ctx, p.ID, "x", now))
	}
	if m := load(t, s, id); len(m.Planned) != 0 || m.OpenOrder != nil {
		t.Errorf("open %+v, planned %+v", m.OpenOrder, m.Planned)
	}
	must(t, does(s).Retire(ctx, id, "old", "x", now))
	for _, p := range planned {
		refused(t, does(s).ReplanOrder(ctx, p.ID), "go back into the plan")
	}
}

// Many press at once: one plan is opened.
func TestAPlanIsOpenedOnce(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", fitting)
	opened := make(chan error, 8)
	for range cap(opened) {
		go func() {
			_, err := does(s).OpenPlan(ctx, id, []string{"plumbline-probe"}, "wear", "x", now)
			opened <- err
		}()
	}
	good := 0
	for range cap(opened) {
		if err := <-opened; err == nil {
			good++
		} else {
			refused(t, err, "locked out")
		}
	}
	list, err := s.Orders(ctx, store.Cut{})
	must(t, err)
	if good != 1 || list.Found != 1 {
		t.Errorf("%d opened, %d on record", good, list.Found)
	}
}

// A kit that is planned somewhere is not deleted, not even while it is planned.
func TestAPlannedKitStays(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", fitting)
	ours := fit.Kit{
		Key:     "hood",
		Name:    "Hood",
		What:    "enclosure",
		Needs:   needs("mainboard", "model", fit.Present),
		Effects: []fit.Effect{{Slot: "mod-1", Model: "Hood"}},
	}
	must(t, does(s).SaveKit(ctx, ours, 0))
	var wait sync.WaitGroup
	var planned, deleted error
	wait.Go(func() {
		_, planned = does(s).OpenPlan(ctx, id, []string{"plumbline-probe", "hood"}, "wear", "x", now)
	})
	wait.Go(func() { _, deleted = does(s).DeleteKit(ctx, "hood", 1) })
	wait.Wait()
	m := load(t, s, id)
	if (planned == nil) == (deleted == nil) || (planned == nil) != (m.OpenOrder != nil) {
		t.Fatalf("planned: %v, deleted: %v", planned, deleted)
	}
	if planned == nil {
		refused(t, deleted, "is planned on Avocet")
		must(t, does(s).Abandon(ctx, m.Planned[0].ID, "x", now))
		_, err := does(s).DeleteKit(ctx, "hood", 1)
		must(t, err)
	}
}

// A part that a kit moves goes to its new slot with its readings, as the same
// part; what is set of one that stays is on record with it.
func TestWorkMovesAndSetsParts(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(
		t,
		s,
		"Avocet",
		map[string]string{
			"mainboard.model":   "Brace board",
			"mod-1.model":       "Lamp",
			"mod-1.what":        "lights the bed",
			"runout.model":      "Watcher",
			"runout.in-the-way": "yes",
		},
	)
	kit := fit.Kit{Key: "tidy", Name: "Tidy up", What: "mod", Needs: needs("mainboard", "model", fit.Present),
		Effects: []fit.Effect{
			{Slot: "mod-2", From: "mod-1"},
			{Slot: "runout", From: "runout", Traits: map[string]string{"in-the-way": "no"}},
		}}
	must(t, does(s).SaveKit(ctx, kit, 0))
	part := func(slot string) int64 {
		t.Helper()
		var part int64
		must(
			t,
			s.SQL.QueryRow("select part_id from fittings where machine_id = $1 and slot = $2 and removed_at is null", id,
				slot).
				Scan(&part),
		)
		return part
	}
	lamp, watcher := part("mod-1"), part("runout")
	order, err := does(s).OpenWork(ctx, id, "tidy", "wear", "x", now)
	must(t, err)
	o, err := does(s).Order(ctx, order)
	must(t, err)
	for _, st := range o.StepList {
		data, note := changetest.Fill(st.Step)
		must(t, does(s).SaveStep(ctx, order, st.Key, app.StepChange{Version: 1, Data: data, Note: note, Do: "tick"}, "x",
			now))
	}
	_, err = does(s).Finish(ctx, order, 5, "x", now)
	must(t, err)
	m := load(t, s, id)
	for key, want := range map[machine.Key]string{"mod-2.model": "Lamp", "mod-2.what": "lights the bed",
		"mod-1.model": "none", "mod-1.what": "", "runout.model": "Watcher", "runout.in-the-way": "no"} {
		if got := m.Facts.Fact(key).Value.Text; got != want {
			t.Errorf("%s is %q, want %q", key, got, want)
		}
	}
	if part("mod-2") != lamp || part("runout") != watcher {
		t.Error("the parts are others now")
	}
}

// A bracket and a probe that need each other are made together: neither is begun alone, in
// a plan the first is, and its remarks say that the machine is not run before the other.
func TestPartsThatNeedEachOtherAreMadeTogether(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", fitting)
	must(t, reads(s, id, "bracket.model", "none", machine.Reading{Grade: machine.Observed, TakenAt: now, By: "x"}, now))
	is := func(label, kind, model string) machine.Need {
		return machine.Need{
			Key: "other",
			That: machine.Requirement{
				Label: label,
				Test: &machine.Test{
					Of:     &machine.Selector{Kind: kind},
					Trait:  machine.ModelTrait,
					Op:     fit.Equal,
					Values: []string{model},
					Least:  machine.Marked,
				},
			},
		}
	}
	for _, m := range []machine.Model{
		{Kind: "probe", Name: "Twain probe", Needs: []machine.Need{is("Its own bracket", "bracket", "Twain bracket")}},
		{Kind: "bracket", Name: "Twain bracket", Needs: []machine.Need{is("Its own probe", "probe", "Twain probe")}},
	} {
		must(t, does(s).SaveEntry(ctx, 0, machine.Catalogue{Models: []machine.Model{m}}, "x", now))
		must(
			t,
			does(s).SaveKit(
				ctx,
				fit.Kit{Key: "twain-" + m.Kind, Name: m.Name, What: "probe", Effects: []fit.Effect{{Slot: m.Kind,
					Model: m.Name}}},
				0,
			),
		)
	}
	_, err := does(s).OpenWork(ctx, id, "twain-probe", "wear", "x", now)
	refused(t, err, "Its own bracket")
	_, err = does(s).OpenPlan(ctx, id, []string{"twain-probe"}, "wear", "x", now)
	refused(t, err, "Its own bracket")
	first, err := does(s).OpenPlan(ctx, id, []string{"twain-probe", "twain-bracket"}, "wear", "x", now)
	must(t, err)
	m := load(t, s, id)
	if m.OpenOrder == nil || m.OpenOrder.ID != first || len(m.Planned) != 1 {
		t.Fatalf("open %+v, planned %+v", m.OpenOrder, m.Planned)
	}
	o, err := does(s).Order(ctx, first)
	must(t, err)
	if len(o.Remarks) == 0 ||
		o.Remarks[len(o.Remarks)-1] != "Not to be run before this is in as well: "+m.Planned[0].Kit {
		t.Errorf("remarks %q", o.Remarks)
	}

	// A kit is turned to a head only where it can be for several.
	_, err = does(s).OpenWork(ctx, add(t, s, "Bittern", fitting), "slate-sheet@2", "wear", "x", now)
	refused(t, err, "is not for one head among several")
}
