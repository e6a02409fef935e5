package demo_test

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/change"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/fit/fittest"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/demo"
	"wardifex/internal/goldentest"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// netloft is the demo room's fleet with the kits that can be judged on it.
func netloft(t *testing.T) (*store.Store, []store.Machine, []*fit.Judge) {
	t.Helper()
	s := pgtest.Filled(t, demo.Seed)
	fleet, err := s.Fleet(t.Context())
	must(t, err)
	judges, broken, err := does(s).Judges(t.Context())
	if err != nil || len(broken) > 0 {
		t.Fatalf("kits that cannot be judged: %v, %v", broken, err)
	}
	return s, fleet, judges
}

// Every shipped kit on every machine of the demo room: its answer and all its reasons.
func TestGoldenVerdictsOfNetloft(t *testing.T) {
	t.Parallel()
	s, fleet, judges := netloft(t)
	var lines []goldentest.Line
	for i := range fleet {
		for _, j := range judges {
			lines = append(lines, goldentest.Line{Of: fleet[i].Name + " " + j.Kit.Key,
				Says: fittest.Verdict(j.Verdict(fleet[i].Facts), s.Vocabulary(t.Context()))})
		}
	}
	goldentest.Check(t, "verdicts", lines)
}

// The steps of every order that can be opened on a machine of the demo room: of every shipped kit, whether it fits
// or not, of every task, of the repair of every symptom, of every head, and of a flash by itself.
func TestGoldenStepsOfNetloft(t *testing.T) {
	t.Parallel()
	s, fleet, judges := netloft(t)
	tasks := s.Tasks(t.Context())
	var lines []goldentest.Line
	for i := range fleet {
		m := &fleet[i]
		add := func(kit fit.Kit, further []fit.AdditionalChange) {
			says := "no order"
			if c, err := change.NewChange(kit, further, m.Facts); err == nil {
				says = steps(c.WorkOrder(m.Records))
			}
			lines = append(lines, goldentest.Line{Of: m.Name + " " + kit.Key, Says: says})
		}
		for _, j := range judges {
			on := j.On(m.Facts)
			kit := on.Kit
			kit.Key = j.Kit.Key
			add(kit, on.Verdict(m.Facts).Additional)
		}
		for _, task := range tasks {
			if kit, err := change.Maintain(task, m.Facts, "Some model"); err == nil {
				add(kit, nil)
			}
		}
		for _, symptom := range maintenance.Symptoms() {
			kit := change.Repair("as seen", &symptom)
			kit.Key += "/" + symptom.Key
			add(kit, nil)
		}
		for head := range 3 {
			if kit, err := change.Mount(m.Facts, head+1); err == nil {
				add(kit, nil)
			}
		}
		add(change.Reflash("a feature"), nil)
		add(change.HostUpdate(), nil)
	}
	goldentest.Check(t, "steps", lines)
}

// steps writes the steps of an order down by what they ask, take and warn of, without their words.
func steps(list []change.Step) string {
	var b strings.Builder
	for _, s := range list {
		fmt.Fprintf(&b, "%s/%s", s.Key, s.Form)
		if s.Calibration != "" {
			fmt.Fprintf(&b, " %s%v %s", s.Calibration, s.Subjects, s.Unit)
		}
		for _, p := range s.Parts {
			fmt.Fprintf(&b, " [%s]", p.Unit)
		}
		if s.Sum != "" {
			fmt.Fprintf(&b, " sum %s", s.Sum)
			for _, k := range slices.Sorted(maps.Keys(s.Given)) {
				fmt.Fprintf(&b, " %s=%s", k, s.Given[k])
			}
			fmt.Fprintf(&b, " takes %v", s.Takes)
		}
		for _, f := range s.Found {
			fmt.Fprintf(&b, " found %s", f.Key)
		}
		for _, is := range []struct {
			so   bool
			name string
		}{{s.Configured, "configured"}, {s.MainsBed, "mains"}, {s.Endstop, "endstop"}, {s.Licensed, "licensed"},
			{s.Touches, "touches"}, {s.Settings, "settings"}, {s.Transfers, "transfers"}} {
			if is.so {
				b.WriteString(" " + is.name)
			}
		}
		fmt.Fprintf(&b, " %d s, %d stores, %d sensors, %d lines, %d cautions; ", s.Seconds, len(s.Stores), len(s.Sensors),
			len(s.Lines), len(s.Cautions))
	}
	return b.String()
}

// What each exchange of each part of the demo room makes invalid, and what has to be done again for it.
func TestGoldenExchangesOfNetloft(t *testing.T) {
	t.Parallel()
	_, fleet, _ := netloft(t)
	var lines []goldentest.Line
	for i := range fleet {
		m := &fleet[i]
		for _, p := range m.Facts.Structure().Positions() {
			for _, model := range []string{"Another model", machine.None} {
				c, err := change.ByHand(p.Key, model, m.Facts)
				if err != nil {
					continue
				}
				var b strings.Builder
				for _, v := range c.Invalidated(m.Records) {
					fmt.Fprintf(&b, "%s %s %s %v; ", v.Kind, v.Subject, v.Remedy, v.Causes)
				}
				b.WriteString("again")
				for _, d := range c.Needed(m.Records) {
					fmt.Fprintf(&b, " %s(%s)", d.Calibration.Kind, d.Subject)
				}
				lines = append(lines, goldentest.Line{Of: m.Name + " " + p.Key + " " + model, Says: b.String()})
			}
		}
	}
	goldentest.Check(t, "exchanges", lines)
}
