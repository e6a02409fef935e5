package plan_test

import (
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/plan"
)

func TestAgainst(t *testing.T) {
	small := room("frame.x", "235", "frame.y", "235", "frame.z", "250")
	grown := room("frame.x", "500", "frame.y", "500", "frame.z", "500")
	owned := func(maker string, price float64, x string) plan.Owned {
		return plan.Owned{Maker: maker, Price: price, Facts: room("frame.x", x, "frame.y", "600", "frame.z", "600")}
	}
	fleet := []plan.Owned{
		owned("Too small", 300, "400"),
		owned("Dear", 1900, "600"),
		owned("Large", 900, "500"),
		owned("Without a price", 0, "500"),
	}
	for name, tt := range map[string]struct {
		work  plan.Work
		fleet []plan.Owned
		want  []string // parts, each in a sentence of its own
		not   string
	}{
		"one small change": {plan.Work{Changes: 1, Price: 20, Minutes: 30, After: small,
			On: plan.Owned{Facts: small}}, fleet, nil, "anything"},
		"three at once": {plan.Work{Changes: 3, Minutes: 60, After: small, On: plan.Owned{Facts: small}},
			fleet, []string{"3 changes at once"}, "new one"},
		"a share of a new one": {plan.Work{Changes: 1, Price: 110, Currency: "EUR", Minutes: 90, After: small,
			On: plan.Owned{Price: 220, Facts: small}}, fleet,
			[]string{"costs EUR 110, the machine cost EUR 220: 50 % of a new " +
				"one, and 1.5 hours"}, "Extend"},
		"extend, or buy the larger": {plan.Work{Changes: 1, Price: 210, Minutes: 420, After: grown,
			On: plan.Owned{Facts: small}}, fleet, []string{"the extension costs 210 and 7.0 hours. A Large has that " +
			"volume and cost 900", "never levelled"}, "Dear"},
		"extend, with none to compare": {plan.Work{Changes: 1, Price: 210, Minutes: 420, After: grown,
			On: plan.Owned{Facts: small}}, fleet[:1], []string{"the fleet has none of that volume", "never levelled"},
			"Too small"},
		"long work": {plan.Work{Changes: 1, Minutes: 300, After: small, On: plan.Owned{Facts: small}}, fleet,
			[]string{"never levelled"}, "Extend"},
	} {
		got := tt.work.Objections(tt.fleet)
		for i, want := range tt.want {
			if i >= len(got) || !strings.Contains(got[i], want) {
				t.Errorf("%s: %q lacks %q", name, got, want)
			}
		}
		if len(got) != len(tt.want) || strings.Contains(strings.Join(got, " "), tt.not) {
			t.Errorf("%s: %q", name, got)
		}
	}
}

// An update is a reason only for kits that lack nothing but the version.
func TestUnlocks(t *testing.T) {
	all := whole(t)
	got := plan.Unlocks(all, room("firmware.version", "2.0.4", "probe.model", "Plumbline"))
	var said []string
	for _, u := range got {
		said = append(said, u.Version+": "+strings.Join(u.Kits, ", "))
	}
	if want := []string{"2.0.5: Slate touch display", "2.1: Print-area mesh for boards"}; !slices.Equal(said, want) {
		t.Errorf("%q, want %q", said, want)
	}
	for name, s := range map[string]machine.Snapshot{
		"new enough":                room("firmware.version", "2.1.2", "probe.model", "Plumbline"),
		"unknown: to be looked at":  room("firmware.version", "", "probe.model", "Plumbline"),
		"something else is missing": room("firmware.version", "2.0.4", "mainboard.width", "8-bit"),
	} {
		if got := plan.Unlocks(all, s); len(got) != 0 {
			t.Errorf("%s: %+v", name, got)
		}
	}
}

// Several of one kit begin with one.
func TestPilot(t *testing.T) {
	list := plan.NewOrderList()
	for _, key := range []string{"slate-sheet", "slate-sheet", "slate-sheet", "amber-display"} {
		list.AddFor(judge(t, key), plan.For{ID: 1, Name: "Avocet"}, room("plate.temperature", "60"))
	}
	list.Pilot()
	if len(list.Pilots) != 1 ||
		!strings.Contains(list.Pilots[0], "Slate sheet: one pilot machine first, run it for a while, then the other 2") {
		t.Errorf("%q", list.Pilots)
	}
}
