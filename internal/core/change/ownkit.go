package change

import (
	"fmt"
	"strings"

	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// Changes that no catalogue has as a kit are written as one of their own.
const (
	swapWhat  = "one part for another"
	flashWhat = "a flash by itself"
)

// Swap is one part for another of its kind, or for a new one of the same model: a repair, or
// wear.
func Swap(at *machine.Position, before, after string) fit.Kit {
	name := "new " + strings.ToLower(at.Label)
	if !strings.EqualFold(before, after) {
		name = at.Label + ": " + before + " → " + after
	}
	return fit.Kit{Key: "own/swap/" + at.Key, Name: name, What: swapWhat,
		Effects: []fit.Effect{{Slot: at.Key, Model: after}}}
}

// Reflash is another build for the parts that are fitted. must is what it has to have.
func Reflash(must string) fit.Kit {
	return fit.Kit{Key: "own/flash", Name: "another build", What: flashWhat, NewBuild: must}
}

// OwnStep is a step that somebody adds to an order; n tells it from the others.
func OwnStep(n int, phase, title, do, by string) Step {
	if do == "" {
		do = "Added by " + by + "."
	}
	return Step{Key: fmt.Sprintf("own-%d", n), Phase: phase, Title: title, Do: do, Form: TickForm}.complete()
}
