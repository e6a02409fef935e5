package app_test

import (
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

func needs(slot, trait string, op fit.Op, values ...string) fit.Requirement {
	return fit.Requirement{
		Label: "x",
		Test:  &fit.Test{Slot: slot, Trait: trait, Op: op, Values: values, Least: machine.Claimed},
	}
}

// Of many who save one kit at once, from one version, one is kept and each other
// is told; none is lost without a word, and none is half written.
func TestManySaveOneKit(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	kit := hood()
	must(t, does(s).SaveKit(ctx, kit, 0))
	const many = 8
	var wait sync.WaitGroup
	faults := make([]error, many)
	for i := range many {
		wait.Add(1)
		go func() {
			defer wait.Done()
			mine := kit
			mine.Skill = fmt.Sprint("skill ", i)
			faults[i] = does(s).SaveKit(ctx, mine, 1)
		}()
	}
	wait.Wait()
	kept := -1
	for i, err := range faults {
		switch {
		case err == nil && kept < 0:
			kept = i
		case err == nil:
			t.Errorf("%d and %d were both kept", kept, i)
		case !isConflict(err):
			t.Errorf("%d: %v", i, err)
		}
	}
	e, err := s.KitEntry(ctx, "hood")
	must(t, err)
	if e.Version != 2 || e.Kit.Skill != fmt.Sprint("skill ", kept) || e.Shipped {
		t.Errorf("kept %d, on record %+v", kept, e)
	}
}

// A shipped kit that the shop changed stays as the shop has it over the next
// start; one that it did not change is as shipped.
func TestTheShopsKitsOutliveAStart(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	e, err := s.KitEntry(ctx, "bollard-springs")
	must(t, err)
	if !e.Shipped {
		t.Errorf("as it came: %+v", e)
	}
	mine := e.Kit
	mine.Price = 99
	must(t, does(s).SaveKit(ctx, mine, e.Version))
	if _, err := s.SQL.Exec(`update kits
		set definition = jsonb_set(definition, '{price}', '1') where key = 'bollard-short'`); err != nil {
		t.Fatal(err)
	}
	must(t, s.Migrate(ctx))
	for key, want := range map[string]float64{"bollard-springs": 99, "bollard-short": 7} {
		if e, err := s.KitEntry(ctx, key); err != nil || e.Kit.Price != want {
			t.Errorf("%s costs %g, want %g (%v)", key, e.Kit.Price, want, err)
		}
	}
}

// Kits that need each other in a circle are refused with the circle, and so are
// kits that exclude what they need. Exclusion holds whichever of the two is
// fitted first.
func TestKitsThatNeedAndExcludeEachOther(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	kit := func(key string, needed ...fit.Requirement) fit.Kit {
		return fit.Kit{
			Key:  key,
			Name: key,
			What: "mod",
			Needs: fit.Requirement{
				Label: key,
				All:   append([]fit.Requirement{needs("mainboard", "model", fit.Present)}, needed...),
			},
			Effects: []fit.Effect{{Slot: "mod-1", Model: key}},
		}
	}
	other := func(key string) fit.Requirement {
		return fit.Requirement{Label: "with " + key, Kit: &fit.KitRef{Key: key, Slot: "mod-1", Model: key}}
	}
	must(t, does(s).SaveKit(ctx, kit("a"), 0))
	must(t, does(s).SaveKit(ctx, kit("b", other("a")), 0))
	must(t, does(s).SaveKit(ctx, kit("c", other("b")), 0))
	refused(t, does(s).SaveKit(ctx, kit("a", other("c")), 1), "in a circle")
	refused(
		t,
		does(s).SaveKit(ctx, kit("a", fit.Requirement{Label: "not with c", None: []fit.Requirement{other("c")}}), 1),
		"c cannot be without a",
	)
	must(t, does(s).SaveKit(ctx, kit("d"), 0))
	must(t, does(s).SaveKit(ctx, kit("a", fit.Requirement{Label: "not with d", None: []fit.Requirement{other("d")}}), 1))
	with := machinetest.Facts(s.Vocabulary(t.Context()),
		map[string]string{"mainboard.model": "Brace board", "mod-1.model": "a"})
	d, err := does(s).Judge(ctx, "d")
	must(t, err)
	all, _, err := does(s).Judges(ctx)
	must(t, err)
	for _, j := range append(all, d) {
		if j.Kit.Key == "d" && j.Verdict(with).Answer != fit.DoesNotFit {
			t.Error("d is fitted beside a, which does not go with it")
		}
	}
	if e, err := s.KitEntry(ctx, "d"); err != nil || len(e.Kit.Needs.All) != 1 {
		t.Errorf("the editor sees what was written, not %+v (%v)", e.Kit.Needs, err)
	}
}

// A kit that lost its trait behind the application's back is named wherever it
// is asked for, and stops no other.
func TestABrokenKit(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "A", map[string]string{"mainboard.model": "Brace board"})
	whole, broken, err := does(s).Judges(ctx)
	must(t, err)
	if len(broken) != 0 {
		t.Fatalf("as shipped: %v", broken)
	}
	if _, err := s.SQL.Exec(`update kits
		set definition = replace(definition::text, '"stiff"', '"wobbly"')::jsonb where key = 'bollard-short'`); err != nil {
		t.Fatal(err)
	}
	left, broken, err := does(s).Judges(ctx)
	must(t, err)
	if len(left) != len(whole)-1 || len(broken) != 1 || !strings.Contains(broken[0], "wobbly") {
		t.Errorf("%d of %d judged, broken: %v", len(left), len(whole), broken)
	}
	_, err = does(s).Judge(ctx, "bollard-short")
	refused(t, err, "cannot be judged")
	_, err = does(s).OpenWork(ctx, id, "bollard-short", "wear", "Ann", now)
	refused(t, err, "cannot be judged")
	if m := load(t, s, id); m.OpenOrder != nil {
		t.Errorf("work was opened: %+v", m.OpenOrder)
	}
}

// A kit that the shop has made its own is not overwritten by a newer version
// of the application; a shipped one is.
func TestShippedKits(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	_, err := s.SQL.Exec(
		`update kits set definition = jsonb_set(definition, '{name}', '"Ours"'), shipped = false where key =
			'bollard-springs'`,
	)
	must(t, err)
	_, err = s.SQL.Exec(
		`update kits set definition = jsonb_set(definition, '{name}', '"Stale"') where key = 'plumbline-probe'`,
	)
	must(t, err)
	must(t, s.Migrate(ctx))
	kits, err := s.Kits(ctx)
	must(t, err)
	var names []string
	for _, k := range kits {
		names = append(names, k.Name)
	}
	got := ", " + strings.Join(names, ", ") + ", "
	if len(names) != len(catalogue.Kits()) || !strings.Contains(got, ", Ours, ") || strings.Contains(got, "Stale") {
		t.Errorf("kits after a new start: %s", got)
	}
	if _, err := does(s).Judge(ctx, "gone"); !errors.Is(err, store.ErrNotFound) {
		t.Errorf("a kit that is not there: %v", err)
	}
}

// hood is a kit that any machine with a mainboard takes.
func hood() fit.Kit {
	return fit.Kit{Key: "hood", Name: "Hood", What: "enclosure", Needs: needs("mainboard", "model", fit.Present)}
}
