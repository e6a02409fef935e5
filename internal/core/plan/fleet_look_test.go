package plan_test

import (
	"context"
	"errors"
	"math/rand"
	"testing"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/plan"
)

// What was worked out for one machine of a fleet serves the next: each is planned as it
// would be alone, while the fleet's budget lasts; and beyond it something is still named.
func TestAFleetIsLookedAtLikeEachMachine(t *testing.T) {
	if testing.Short() {
		t.Skip("long: make test-long")
	}
	kit := judge(t, "plumbline-probe")
	random := rand.New(rand.NewSource(6))
	fleet := mixed(24) // of which too little is known to follow everything up
	for range 40 {
		known := knownOf(room())
		for _, open := range kit.Open(machinetest.Facts(voc, nil)) {
			if random.Intn(3) == 0 {
				delete(known, string(open.Trait.Key()))
			}
		}
		fleet = append(fleet, machinetest.Facts(voc, known))
	}
	prior := plan.FleetPrior(fleet)
	looker := plan.NewFleetInspectionPlanner(t.Context(), kit, len(fleet))
	same, rough := 0, 0
	for i, s := range fleet {
		got, err := looker.In("all", func() plan.Prior { return prior }).First(s)
		if err != nil {
			t.Fatal(err)
		}
		alone := lookFirst(t, kit, s, prior)
		switch {
		case got.Exact && alone.Exact:
			same++
			if got.First != alone.First || got.Minutes != alone.Minutes || got.Likely != alone.Likely {
				t.Errorf("machine %d: %+v, alone %+v", i, got, alone)
			}
		case !got.Exact:
			rough++
			if open := len(kit.Open(s)) > 0; open && got.First == "" || got.Minutes > float64(got.All) {
				t.Errorf("machine %d: nothing is named: %+v", i, got)
			}
		}
		if settled := kit.Truth(s).Answer() != fit.LookFirst; settled && (got.First != "" || got.Minutes != 0) {
			t.Errorf("machine %d is settled, and %s is advised", i, got.First)
		}
	}
	if same < 20 || rough < 2 {
		t.Errorf("%d planned to the end, %d roughly", same, rough)
	}
	// The same question again has the same answer, whatever machine it is asked on.
	again, err := plan.NewFleetInspectionPlanner(t.Context(), kit, len(fleet)).
		In("all", func() plan.Prior { return prior }).
		First(fleet[30])
	if first := lookFirst(t, kit, fleet[30], prior); err != nil ||
		again.First != first.First && again.Exact && first.Exact {
		t.Errorf("%+v, then %+v, %v", first, again, err)
	}
}

// Advice stops when nobody waits for it any more.
func TestAdviceIsCancelled(t *testing.T) {
	gone, cancel := context.WithCancel(t.Context())
	cancel()
	kit, s := judge(t, "plumbline-probe"), room("mainboard.chip-maker", "pin-compatible twin")
	if _, err := plan.FindRemedies(gone, kit, whole(t), s, nil); !errors.Is(err, context.Canceled) {
		t.Errorf("remedies: %v", err)
	}
	if _, err := plan.Judge(gone, judges(t, "plumbline-probe", "bollard-springs"), s, nil); !errors.Is(
		err,
		context.Canceled,
	) {
		t.Errorf("a plan: %v", err)
	}
	if _, err := plan.LookFirst(gone, kit, mixed(1)[0], plan.FleetPrior(nil)); !errors.Is(err, context.Canceled) {
		t.Errorf("a look: %v", err)
	}
	if _, err := plan.NewFleetInspectionPlanner(gone, kit, 1).In("",
		func() plan.Prior { return plan.FleetPrior(nil) }).First(s); !errors.Is(
		err,
		context.Canceled,
	) {
		t.Errorf("a fleet: %v", err)
	}
	_, _, err := plan.Ahead(gone, kit, judges(t, "bollard-springs"), s, nil)
	if !errors.Is(err, context.Canceled) {
		t.Errorf("what goes ahead: %v", err)
	}
}
