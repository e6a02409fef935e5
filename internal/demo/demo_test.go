package demo_test

import (
	"context"
	"testing"

	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/upkeep"
	"wardifex/internal/demo"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

// The demo room shows what the application is for: every verdict, every state
// of maintenance, and the trouble of any shop.
func TestNetloft(t *testing.T) {
	ctx := context.Background()
	s := pgtest.Store(t)
	if err := demo.Seed(ctx, s); err != nil {
		t.Fatal(err)
	}
	fleet, err := s.Fleet(ctx)
	if err != nil || len(fleet) != 24 {
		t.Fatalf("%d machines, %v", len(fleet), err)
	}
	j, err := s.Judge(ctx, "plumbline-probe")
	if err != nil {
		t.Fatal(err)
	}
	bays, answers, states, unproven := map[string]int{}, map[fit.Answer]int{}, map[upkeep.State]int{}, map[string]bool{}
	conflicts, contradicted, voided, open, cardTrouble := 0, 0, 0, 0, false
	for i := range fleet {
		m := &fleet[i]
		bays[m.Bay]++
		answers[j.Verdict(m.Facts).Answer]++
		for _, d := range upkeep.DueList(m.Subject(demo.Today), demo.Today) {
			states[d.State]++
		}
		if p := m.Protection(demo.Today); !p.Proven {
			unproven[p.Why[:8]] = true
		}
		conflicts += len(m.Facts.Conflicts())
		for _, tr := range s.Vocabulary().Traits {
			contradicted += len(m.Facts.At(tr).Contradicted)
		}
		for k, r := range change.Newest(m.Records) {
			if r.Void != nil {
				voided++
				cardTrouble = cardTrouble || k == change.ZOffset && r.Store == change.StoreCard
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
	for _, st := range []upkeep.State{upkeep.Unproven, upkeep.Overdue, upkeep.Soon, upkeep.Later, upkeep.NoMeter} {
		if states[st] == 0 {
			t.Errorf("no task is %s: %v", st, states)
		}
	}
	if conflicts == 0 || contradicted < 5 || voided == 0 || open != 1 || !cardTrouble || len(unproven) < 4 {
		t.Errorf("%d conflicts, %d claims found false, %d void, %d open orders, card's offset %v, unproven for %v", conflicts, contradicted, voided, open, cardTrouble, unproven)
	}
	for _, account := range []string{"lead", "technician", "member"} {
		u, err := s.SignIn(ctx, account, demo.Password, "127.0.0.1", demo.Today)
		if err != nil || u.Role != map[string]string{"lead": store.Lead, "technician": store.Technician, "member": store.Member}[account] {
			t.Errorf("sign in as %s: %+v, %v", account, u.Role, err)
		}
	}
}
