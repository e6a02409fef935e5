package plan_test

import (
	"testing"

	"wardifex/internal/core/plan"
)

// Of orders that are equal otherwise, the one in which the machine is opened least is
// taken, in whatever order the kits are named.
func TestThePlanOpensTheMachineOnce(t *testing.T) {
	t.Parallel()
	for _, kits := range [][]string{
		{"brace-5-board", "bollard-springs", "amber-display"}, {"brace-5-board", "amber-display", "bollard-springs"},
		{"bollard-springs", "brace-5-board", "amber-display"}, {"amber-display", "bollard-springs", "brace-5-board"},
		{"amber-display", "brace-5-board", "bollard-springs"}, {"bollard-springs", "amber-display", "brace-5-board"},
	} {
		p, err := plan.Judge(t.Context(), judges(t, kits...), room(), nil)
		if err != nil {
			t.Fatal(err)
		}
		opens := 0
		for _, s := range p.Steps {
			if s.Opens {
				opens++
			}
		}
		if opens < 2 || p.Openings != 1 {
			t.Errorf("%v: %d kits open the machine, %d openings in the order %s", kits, opens, p.Openings, order(p))
		}
	}
}
