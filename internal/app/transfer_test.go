package app_test

import (
	"slices"
	"testing"

	"wardifex/internal/app"
	"wardifex/internal/core/change"
	"wardifex/internal/core/wiring"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// A board goes in with its wires by the wire sheet, each ticked; what was found on it stands as
// a reading of the board, against what its model says.
func TestABoardGoesInWireByWire(t *testing.T) {
	t.Parallel()
	s := pgtest.Store(t)
	id := add(t, s, "Avocet", map[string]string{"mainboard.model": "Brace board", "firmware.family": "compiled"})
	loom := wiring.Loom{Wires: []wiring.Wire{{Connector: "heater", Way: 1, Carries: "hotend"},
		{Connector: "beeper", Way: 1}}}
	must(t, does(s).SaveWireSheet(ctx, id, "", 0, loom, "x", now))
	order, err := does(s).OpenSwap(ctx, id, "mainboard", "Sill R2", 0, "a fault it cures", "Ansa", now)
	must(t, err)
	get := func() app.Order {
		t.Helper()
		o, err := does(s).Order(ctx, order)
		must(t, err)
		return o
	}
	o := get()
	if o.Transfer == nil || len(o.Transfer.Wires) != 2 || o.Transfer.Wires[0].To != "heater" ||
		o.Transfer.Wires[1].To != "" {
		t.Fatalf("%+v", o.Transfer)
	}
	first := o.StepList[0]
	if first.Key != "check-kit" || len(first.Found) == 0 {
		t.Fatalf("the first step is %s, %+v", first.Key, first.Found)
	}
	must(t, does(s).SaveStep(ctx, order, first.Key, app.StepChange{Version: first.Version, Do: "tick",
		Data: change.Data{Found: map[string]string{"mainboard.revision": "4.9"}}}, "Ansa", now))
	at := slices.IndexFunc(o.StepList, func(st store.OrderStep) bool { return st.Transfers })
	if at < 0 {
		t.Fatal("no step moves the wires")
	}
	until(t, s, order, o.StepList[at-1].Key)
	tick := func(moved ...string) error {
		ch := app.StepChange{Version: get().StepList[at].Version, Do: "tick", Data: change.Data{Moved: moved}}
		return does(s).SaveStep(ctx, order, o.StepList[at].Key, ch, "Ansa", now)
	}
	keys := []string{o.Transfer.Wires[0].Key, o.Transfer.Wires[1].Key}
	refused(t, tick(keys[0]), "1 of 2 wires")
	must(t, tick(keys...))
	until(t, s, order, "")
	_, err = does(s).Finish(ctx, order, 0, "Ansa", now)
	must(t, err)
	if f := load(t, s, id).Facts.Fact("mainboard.revision"); f.Value.Text != "4.9" {
		t.Errorf("the revision that was found: %+v", f)
	}
	if get().Transfer != nil {
		t.Error("a finished order still lists wires to move")
	}
}
