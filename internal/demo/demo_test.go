package demo_test

import (
	"context"
	"slices"
	"testing"
	"time"

	"wardifex/internal/app"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/inspection"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/demo"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

// The demo room shows what the application is for: every verdict, every state
// of maintenance, and the trouble of any shop.
func TestNetloft(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	s := pgtest.Filled(t, demo.Seed)
	fleet, err := s.Fleet(ctx)
	if err != nil || len(fleet) != 24 {
		t.Fatalf("%d machines, %v", len(fleet), err)
	}
	j, err := does(s).Judge(ctx, "plumbline-probe")
	if err != nil {
		t.Fatal(err)
	}
	bays, answers, states, unproven := map[string]int{}, map[fit.Answer]int{}, map[maintenance.State]int{},
		map[string]bool{}
	conflicts, contradicted, invalid, open, cardTrouble := 0, 0, 0, 0, false
	for i := range fleet {
		m := &fleet[i]
		bays[m.Bay]++
		answers[j.Verdict(m.Facts).Answer]++
		for _, d := range maintenance.DueList(m.Subject(demo.Today), demo.Today) {
			states[d.State]++
		}
		if p := m.Protection(demo.Today); !p.Proven {
			unproven[p.Why[:8]] = true
		}
		conflicts += len(m.Facts.Conflicts())
		for _, tr := range s.Vocabulary(t.Context()).Traits {
			contradicted += len(m.Facts.At(tr).Contradicted())
		}
		for _, st := range calibration.States(m.Facts, m.Records) {
			if st.Invalid != nil {
				invalid++
				cardTrouble = cardTrouble || st.Calibration.Kind == calibration.ZOffset && st.Record.Store == calibration.StoreCard
			}
		}
		if m.OpenOrder != nil {
			open++
		}
		for _, r := range m.Readings {
			if r.TakenAt.After(demo.Today) {
				t.Errorf("%s has a reading from the future", m.Name)
			}
		}
		if m.Since.Year() < 2024 {
			t.Errorf("%s is in the register since %s", m.Name, m.Since)
		}
	}
	if len(bays) != 3 || bays["Quay"] == 0 || bays["Loft"] == 0 || bays["Slip"] == 0 {
		t.Errorf("bays %v", bays)
	}
	for _, a := range []fit.Answer{fit.Fits, fit.FitsIf, fit.LookFirst, fit.DoesNotFit} {
		if answers[a] < 2 {
			t.Errorf("the probe %s on %d machines", a, answers[a])
		}
	}
	for _, st := range []maintenance.State{maintenance.Unproven, maintenance.Overdue, maintenance.Soon,
		maintenance.Later, maintenance.ReadMeter, maintenance.StartUnknown} {
		if states[st] == 0 {
			t.Errorf("no task is %s: %v", st, states)
		}
	}
	if conflicts == 0 || contradicted < 5 || invalid == 0 || open != 1 || !cardTrouble || len(unproven) < 4 {
		t.Errorf(
			"%d conflicts, %d claims found false, %d void, %d open orders, card's offset %v, unproven for %v",
			conflicts,
			contradicted,
			invalid,
			open,
			cardTrouble,
			unproven,
		)
	}
	flashes(ctx, t, s, fleet)
	history(t, s, fleet)
	for _, account := range []string{"lead", "technician", "member"} {
		u, _, err := app.New(s, time.Now).
			SignIn(ctx, account, demo.Password, app.SignInFrom{Address: "127.0.0.1"}, demo.Today)
		if err != nil ||
			u.Role != map[string]string{"lead": store.Lead, "technician": store.Technician, "member": store.Member}[account] {
			t.Errorf("sign in as %s: %+v, %v", account, u.Role, err)
		}
	}
}

// history checks what the record of a room that has lived shows: parts that
// moved, suppliers with false claims, numbers that cannot be, photographs,
// faults, wire sheets, and builds that come and go.
func history(t *testing.T, s *store.Store, fleet []store.Machine) {
	t.Helper()
	ctx := context.Background()
	parts, err := s.Parts(ctx)
	if err != nil {
		t.Fatal(err)
	}
	moved, scrapped, tagged := 0, 0, 0
	for i := range parts {
		p := &parts[i]
		if len(p.Places) > 1 {
			moved++
		}
		if p.ScrappedAt != nil {
			scrapped++
		}
		if p.Tag != "" {
			tagged++
		}
	}
	tally, err := does(s).Suppliers(ctx)
	if err != nil {
		t.Fatal(err)
	}
	against, photos, wires, uses, first := 0, 0, 0, map[maintenance.Use]int{}, demo.Today
	for i := range fleet {
		m := &fleet[i]
		against += len(inspection.Contradictions(m.Facts, nil))
		uses[m.Use.Use]++
		var ids []int64
		for _, r := range m.Readings {
			ids = append(ids, r.ID)
			if r.TakenAt.Before(first) {
				first = r.TakenAt
			}
		}
		at, err := s.PhotosOfReadings(ctx, ids)
		if err != nil {
			t.Fatal(err)
		}
		photos += len(at)
		sheets, err := s.WireSheets(ctx, m.ID)
		if err != nil {
			t.Fatal(err)
		}
		wires += len(sheets)
	}
	faults, err := s.Faults(ctx, store.FaultFilter{})
	if err != nil || faults.Found < 6 {
		t.Errorf("%d faults, %v", faults.Found, err)
	}
	if moved < 1 || scrapped != 1 || tagged < 5 || tally[0].False < 3 || len(tally) < 3 || against < 1 || photos < 2 ||
		wires < 3 ||
		uses[maintenance.OutOfUse] != 1 ||
		uses[maintenance.Attended] != 1 {
		t.Errorf(
			"%d moved, %d scrapped, %d tagged, suppliers %+v, %d contradictions, %d photos, %d wire sheets, uses %v",
			moved,
			scrapped,
			tagged,
			tally,
			against,
			photos,
			wires,
			uses,
		)
	}
	if years := demo.Today.Sub(first).Hours() / 24 / 365; years < 1.5 {
		t.Errorf("%.1f years of history", years)
	}
	hs, err := s.Histories(ctx, fleet[0].ID)
	if err != nil || len(hs[fleet[0].ID].During("firmware.version", demo.Today.AddDate(-1, 0, 0), demo.Today)) < 3 {
		t.Errorf("the builds of %s over a year: %v", fleet[0].Name, err)
	}
}

// What a flash makes invalid today, it made invalid then: nothing that depends on the
// build, or was kept where a flash wipes it, is valid from before the build that runs.
func flashes(ctx context.Context, t *testing.T, s *store.Store, fleet []store.Machine) {
	t.Helper()
	flashed := 0
	for _, m := range fleet {
		runs, err := s.Runs(ctx, m.ID, 0)
		if err != nil {
			t.Fatal(err)
		}
		if len(runs) < 2 {
			continue
		}
		flashed++
		for _, st := range calibration.States(m.Facts, m.Records) {
			if st.Word != calibration.Valid || !st.Record.At.Before(runs[0].From) {
				continue
			}
			wiped := st.Record.Store == calibration.StoreSettings || st.Record.Store == calibration.StoreCard ||
				st.Record.Store == calibration.StoreBuild
			depends := slices.ContainsFunc(
				st.Calibration.DependsOn(m.Facts, st.Subject),
				func(n calibration.Dependency) bool { return n.At.Key == runs[0].Slot },
			)
			if wiped || depends {
				t.Errorf(
					"%s: %s of %s is valid, of before the flash of %s",
					m.Name,
					st.Calibration.Title,
					st.Record.At.Format("2 Jan 2006"),
					runs[0].From.Format("2 Jan 2006"),
				)
			}
		}
	}
	if flashed < 4 {
		t.Errorf("only %d machines were flashed", flashed)
	}
}

// does is what people can do, on a record.
func does(s *store.Store) *app.App { return app.New(s, func() time.Time { return demo.Today }) }
