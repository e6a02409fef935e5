package demo_test

import (
	"context"
	"fmt"
	"testing"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/core/change"
	"wardifex/internal/core/change/changetest"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/demo"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// typed is read off the new build by its step, so that only then it is known.
var typed = map[string]bool{
	"configuration": true,
	"model":         true,
	"version":       true,
	"size":          true,
	"label":         true,
	"file":          true,
}

// Every kit that fits a machine of the demo room is worked through there, step by
// step. The machine is on record then as its verdict, its plan and its consequences
// took it to be.
func TestFinishedWorkIsWhatWasJudged(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	s := pgtest.Filled(t, demo.Seed)
	fleet, err := s.Fleet(ctx)
	must(err)
	judges, _, err := does(s).Judges(ctx)
	must(err)
	now := demo.Today.AddDate(0, 0, 1)
	finished := map[string]int{}
	for _, j := range judges {
		for i := range fleet {
			if finished[j.Kit.Key] > 1 {
				break
			}
			m, err := s.Machine(ctx, fleet[i].ID)
			must(err)
			v := j.Verdict(m.Facts)
			if a := v.Answer; m.OpenOrder != nil || len(m.Planned) > 0 || a != fit.Fits && a != fit.FitsIf {
				continue
			}
			now = now.Add(time.Hour)
			id, err := does(s).OpenWork(ctx, m.ID, j.Kit.Key, "wear", "x", now)
			must(err)
			o, err := does(s).Order(ctx, id)
			must(err)
			work(ctx, t, s, o, now)
			expected, err := fit.Project(m.Facts, j.Kit, v.Additional)
			must(err)
			_, err = does(s).Finish(ctx, id, 0, "x", now)
			must(err)
			after, err := s.Machine(ctx, m.ID)
			must(err)
			compare(t, m.Name+", "+j.Kit.Key, expected.After, after.Facts)
			finished[j.Kit.Key]++
		}
	}
	if len(finished) < 12 {
		t.Errorf("only %d kits fitted anywhere", len(finished))
	}
}

// work ticks every step of an order.
func work(ctx context.Context, t *testing.T, s *store.Store, o app.Order, now time.Time) {
	t.Helper()
	for _, st := range o.StepList {
		if st.DoneAt != nil {
			continue
		}
		d, note := changetest.Fill(st.Step)
		if st.Form == change.FileNameForm {
			d.File = fmt.Sprintf("build-%d.bin", o.ID)
		}
		if st.Form == change.BuildForm {
			d.Version, d.File = "9.9.9", fmt.Sprintf("build-%d.bin", o.ID)
		}
		if err := does(s).SaveStep(ctx, o.ID, st.Key, app.StepChange{Version: st.Version, Data: d, Note: note, Do: "tick"},
			"x", now); err != nil {
			t.Fatalf("%s, %s: %v", o.Kit, st.Title, err)
		}
	}
}

// compare looks at every trait but those that the build's step reads.
func compare(t *testing.T, what string, want, got machine.Snapshot) {
	t.Helper()
	for _, tr := range want.Vocabulary().Traits {
		w := want.At(tr)
		g := got.Fact(tr.Key())
		if typed[tr.Name] && tr.Slot == "firmware" {
			continue
		}
		if tr.Slot == "firmware" && w.Known() && g.Grade == machine.Claimed && tr.Same(w.Value, g.Value) {
			continue // carried over to the new build, which no step asked to read
		}
		// What the kit states counts as specified while it is judged, and stays a claim on record.
		stated := g.Stands != nil && g.Grade == machine.StatedGrade(tr.Name, g.Value.Text)
		if w.Known() != g.Known() || w.Known() && (!tr.Same(w.Value, g.Value) || w.Grade != g.Grade && !stated) {
			t.Errorf(
				"%s: %s is %s (%s) on record; judged as %s (%s)",
				what,
				tr.Label,
				tr.Show(g.Value),
				g.Grade,
				tr.Show(w.Value),
				w.Grade,
			)
		}
	}
	for _, c := range fit.Capacities() {
		lo, hi := fit.Left(want, c.Key)
		if lo2, hi2 := fit.Left(got, c.Key); (lo < lo2 || hi > hi2) && c.Key != "flash" {
			t.Errorf("%s: %g to %g left of %s; judged as %g to %g", what, lo2, hi2, c.Key, lo, hi)
		}
	}
}
