package roster_test

import (
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"wardifex/internal/core/roster"
)

// After a pin, no rule is broken, the pinned job stands where it was put, and no plan leaves less
// unplaced with fewer moves.
func TestPinsMoveAsLittleAsCanBe(t *testing.T) {
	t.Parallel()
	tried, moves, dearer := 0, 0, 0
	for i := range 600 {
		random := rand.New(rand.NewPCG(uint64(i), 11))
		p := smallShop(random)
		plan, err := roster.Make(p, roster.Search{Seed: 1, Rounds: 100})
		if err != nil {
			t.Fatal(err)
		}
		if len(plan.Placed) == 0 {
			continue
		}
		pin := plan.Placed[random.IntN(len(plan.Placed))]
		length := pin.To.Sub(pin.From)
		pin.Person = random.IntN(len(p.People))
		pin.From = p.From.Add(time.Duration(random.IntN(p.Slots)) * p.Slot)
		pin.To = pin.From.Add(length)
		e := everyPlan{p: p, was: plan.Placed, pinned: map[int]roster.Placement{pin.Job: pin}}
		e.search()
		if !slices.Contains(e.best, pin) { // it may not be put there: it is placed like the others
			got, err := roster.Replan(p, plan.Placed, []roster.Placement{pin}, roster.Search{Seed: 1, Rounds: 100})
			if err != nil {
				t.Fatal(err)
			}
			if rule := broken(p, got.Placed); rule != "" || !slices.Contains(got.Loose, pin.Job) &&
				!slices.Contains(got.Placed, pin) {
				t.Fatalf("shop %d: %s, loose %v of a pin that cannot stand: %+v", i, rule, got.Loose, got.Placed)
			}
			if is, least := risk(p, got.Unplaced), risk(p, plan.Unplaced); is > least {
				t.Errorf("shop %d: risk %d is unplaced after a pin that cannot stand, and %d before", i, is, least)
			}
			continue
		}
		tried++
		got, err := roster.Replan(p, plan.Placed, []roster.Placement{pin}, roster.Search{Seed: 1, Rounds: 100})
		if err != nil {
			t.Fatal(err)
		}
		if rule := broken(p, got.Placed); rule != "" {
			t.Fatalf("shop %d: %s: %+v", i, rule, got.Placed)
		}
		stands := false
		for _, x := range got.Placed {
			stands = stands || x == pin
		}
		if !stands || len(got.Loose) > 0 {
			t.Errorf("shop %d: the pinned job does not stand where it was put: %+v, loose %v", i, got.Placed, got.Loose)
		}
		if is := risk(p, got.Unplaced); is != e.unplaced || len(got.Moved) != e.moves {
			t.Errorf("shop %d: risk %d is unplaced after %d moves; it can be %d after %d", i, is, len(got.Moved), e.unplaced,
				e.moves)
		}
		if cost := costs(p, got.Placed); cost > e.cost+0.01 {
			dearer++
		} else if cost < e.cost-0.01 && risk(p, got.Unplaced) == e.unplaced && len(got.Moved) == e.moves {
			t.Errorf("shop %d: costs %.3f, below the least %.3f", i, cost, e.cost)
		}
		moves += e.moves
	}
	if tried < 100 || moves == 0 || dearer > 0 {
		t.Errorf("%d pins, %d moves, %d dearer than need be", tried, moves, dearer)
	}
	t.Logf("%d pins, %d moves", tried, moves)
}
