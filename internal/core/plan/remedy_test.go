package plan_test

import (
	"fmt"
	"math"
	"math/rand"
	"testing"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/plan"
)

// chained are small kits at random: each asks for a state of one or two slots,
// puts another state into one, and takes or frees driver outputs.
func chained(t *testing.T, random *rand.Rand, n int) []*fit.Judge {
	t.Helper()
	slots := []string{"display", "host", "runout", "belts"}
	out := make([]*fit.Judge, 0, n)
	for i := range n {
		state := func() string { return fmt.Sprintf("state %d", random.Intn(3)) }
		need := func() fit.Requirement {
			r := fit.Requirement{
				Test: &fit.Test{
					Slot:   slots[random.Intn(len(slots))],
					Trait:  machine.ModelTrait,
					Op:     fit.Equal,
					Values: []string{state()},
					Least:  machine.Claimed,
				},
			}
			if random.Intn(4) == 0 {
				return fit.Requirement{None: []fit.Requirement{r}}
			}
			return r
		}
		k := fit.Kit{
			Key:     fmt.Sprintf("kit-%d", i),
			Name:    fmt.Sprintf("Kit %d", i),
			Price:   float64(1 + random.Intn(40)),
			Minutes: random.Intn(60),
			Needs: fit.Requirement{
				All: []fit.Requirement{need()},
			},
			Effects: []fit.Effect{{Slot: slots[random.Intn(len(slots))], Model: state()}},
		}
		if random.Intn(2) == 0 {
			k.Needs.All = append(k.Needs.All, need())
		}
		if random.Intn(2) == 0 {
			k.Uses = []fit.Use{{Capacity: "driver-outputs", Amount: float64(1 - 2*random.Intn(2))}}
		}
		if j, err := fit.NewJudge(k, voc); err == nil { // some ask for what can never be
			out = append(out, j)
		}
	}
	return out
}

// Against trying every course of up to four kits, over catalogues at random in
// which kits make each other possible, spoil each other, and share a budget.
func TestRemediesOfRandomCatalogues(t *testing.T) {
	rounds := 400
	if testing.Short() {
		rounds = 80
	}
	random := rand.New(rand.NewSource(41))
	long := 0
	for round := range rounds {
		all := chained(t, random, 9)
		facts := map[string]string{
			"mainboard.driver-outputs": "4",
			"z-drive.motors":           "one",
			"firmware.family":          "compiled",
			"firmware.model":           "2.0",
		}
		for _, slot := range []string{"display", "host", "runout", "belts"} {
			facts[slot+".model"] = fmt.Sprintf("state %d", random.Intn(3))
		}
		s := machinetest.Facts(voc, facts)
		for _, kit := range all {
			if kit.Truth(s).Answer() != fit.DoesNotFit {
				continue
			}
			found, err := plan.FindRemedies(t.Context(), kit, all, s, nil)
			if err != nil || !found.Whole {
				t.Fatal(found, err)
			}
			want, got := brute(t, kit, all, s, plan.MostFurther), math.Inf(1)
			if found.Sure != nil {
				got = fit.Weight(found.Sure.Price, found.Sure.Minutes)
				if len(found.Sure.Kits) > 2 {
					long++
				}
			}
			if math.Abs(got-want) > 1e-9 && !(math.IsInf(got, 1) && math.IsInf(want, 1)) {
				t.Fatalf("round %d, %s: %.2f by %+v, brute force %.2f", round, kit.Kit.Key, got, found.Sure, want)
			}
		}
	}
	if long < rounds/50 {
		t.Errorf("only %d remedies of three kits or more: the catalogues show nothing", long)
	}
}
