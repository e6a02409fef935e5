package fit

import (
	"fmt"
	"slices"
)

// PlannedWork is an order of a kit that waits its turn.
type PlannedWork struct {
	ID      int64
	Machine string
}

// Delete refuses to take a kit out of the catalogue that came with the application, that
// another kit asks for or excludes, or that is planned. Where one of its key comes with
// the application, that one stands again: returns is true, and only the first is asked.
func (k Kit) Delete(shipped, returns bool, others []Kit, planned []PlannedWork) error {
	if shipped {
		return fmt.Errorf("%s came with the application and would come back with its next start; change what it asks "+
			"for instead", k.Name)
	}
	if returns {
		return nil
	}
	for _, o := range others {
		if o.Key != k.Key && slices.Contains(o.Mentions(), k.Key) {
			return fmt.Errorf("%s asks for %s, or excludes it; mend that kit first", o.Name, k.Name)
		}
	}
	if len(planned) > 0 {
		return fmt.Errorf("%s is planned on %s (work order %d); do it or take it out of the plan first", k.Name,
			planned[0].Machine, planned[0].ID)
	}
	return nil
}
