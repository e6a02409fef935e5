package maintenance

import (
	"cmp"
	"slices"
	"time"

	"wardifex/internal/core/civil"
)

// aWeek is how many tasks of machines a first round takes in a week, of one kind after
// the other.
// Source: from memory.
const aWeek = 8

// Round is a first round of a task over machines of which nobody knows when it was done
// last: in so many weeks, each from its Monday on.
type Round struct {
	Task  string    `json:"task"`
	From  civil.Day `json:"from" doc:"Monday of its first week"`
	Weeks int       `json:"weeks"`
}

// FirstRounds proposes when tasks are done for the first time, one kind after the other by
// risk, beginning next Monday. machines is how many wait for each task.
func FirstRounds(tasks []Task, machines map[string]int, today civil.Day) []Round {
	tasks = slices.Clone(tasks)
	slices.SortStableFunc(tasks, func(a, b Task) int {
		return cmp.Compare(slices.Index(Risks(), a.Risk), slices.Index(Risks(), b.Risk))
	})
	monday := today + 1
	for monday.Weekday() != time.Monday {
		monday++
	}
	out := []Round{}
	planned := 0
	for _, t := range tasks {
		n := machines[t.Key]
		if n == 0 {
			continue
		}
		first, last := planned/aWeek, (planned+n-1)/aWeek
		out = append(out, Round{Task: t.Key, From: monday + civil.Day(7*first), Weeks: last - first + 1})
		planned += n
	}
	return out
}
