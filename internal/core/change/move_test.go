package change_test

import (
	"strings"
	"testing"
	"time"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/change"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
)

// A part goes where its kind belongs, where nothing else is, on a machine on which no work
// is open; what was scrapped only goes back to the shelf.
func TestMayMove(t *testing.T) {
	t.Parallel()
	scrapped := time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC)
	probe := change.Movable{Kind: "probe"}
	gone := change.Movable{Kind: "probe", ScrappedAt: &scrapped, ScrappedWhy: "bent"}
	empty := map[string]string{"probe.model": "none"}
	in := change.Move{To: change.ToMachine, MachineID: 1, Slot: "probe"}
	with := func(m change.Move, do func(*change.Move)) change.Move { do(&m); return m }
	for name, c := range map[string]struct {
		part  change.Movable
		move  change.Move
		facts map[string]string
		order int64
		want  string // part of the sentence; empty where it may
	}{
		"into an empty position": {probe, in, empty, 0, ""},
		"onto another": {probe, in, map[string]string{"probe.model": "Lodestar"}, 0,
			"A part cannot be where another is"},
		"in the place of another": {probe, with(in, func(m *change.Move) { m.Replaces = true }),
			map[string]string{"probe.model": "Lodestar"}, 0, ""},
		"of another kind":  {change.Movable{Kind: "nozzle"}, in, empty, 0, "this part is a nozzle"},
		"no such position": {probe, with(in, func(m *change.Move) { m.Slot = "wing" }), empty, 0, "no position"},
		"where boards run": {probe, with(in, func(m *change.Move) { m.Slot = "firmware" }), empty, 0, "boards run builds"},
		"work is open":     {probe, in, empty, 7, "work order 7 is open"},
		"where it is": {probe, with(in, func(m *change.Move) { m.From = change.Origin{1, "probe"} }), empty, 0,
			"already"},
		"scrapped, in":      {gone, in, empty, 0, "was scrapped on 1 Mar 2026: bent"},
		"scrapped, shelf":   {gone, change.Move{To: change.ToShelf}, nil, 0, ""},
		"scrapped, scrap":   {gone, change.Move{To: change.ToScrap}, nil, 0, "was scrapped"},
		"good, to be scrap": {probe, change.Move{To: change.ToScrap}, nil, 0, ""},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			var at *change.Place
			if c.move.To == change.ToMachine {
				at = &change.Place{Name: "Avocet", Facts: machinetest.Facts(catalogue.Vocabulary(), c.facts),
					OpenOrder: c.order}
			}
			err := c.move.Check(c.part, at)
			if c.want == "" && err != nil || c.want != "" && (err == nil || !strings.Contains(err.Error(), c.want)) {
				t.Errorf("%v; want %q", err, c.want)
			}
		})
	}
}

// Only a board takes the builds that it runs with it.
func TestABoardTakesItsBuilds(t *testing.T) {
	t.Parallel()
	s := machinetest.Facts(catalogue.Vocabulary(), map[string]string{"mainboard.model": "Brace board",
		"firmware.version": "2.0.8", "nozzle.model": "Spire"})
	for slot, want := range map[string]string{"mainboard": "firmware", "nozzle": ""} {
		r, err := change.Replace(slot, machine.None, s, nil)
		if err != nil || strings.Join(r.EndedRuns, ",") != want {
			t.Errorf("%s: %v, %v; want %q", slot, r.EndedRuns, err, want)
		}
	}
}
