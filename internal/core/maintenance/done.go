package maintenance

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine"
)

// Completion is how somebody says that a task was done.
type Completion struct {
	Task string
	At   time.Time
	// Renewed says whether parts went in anew or were set anew, so that what depends on them is
	// measured again; nil is what the task is for.
	Renewed *bool
	Slots   []string // the positions; none: every one of its kind
	// New says that other parts are there now than before: Spares those of the shelf that went
	// in, by position; where none is named, one like the one before.
	New    bool
	Spares map[string]int64
}

// NewAt are the positions of a machine at which other parts are now.
func (c Completion) NewAt(t Task, s machine.Snapshot) ([]string, error) {
	if !c.New {
		return nil, nil
	}
	if t.Renews == "" {
		return nil, fmt.Errorf("%s puts no new part in", t.Title)
	}
	d, err := t.Renewed(s, c.Slots)
	if err != nil {
		return nil, err
	}
	at := slices.Sorted(maps.Keys(d.Exchanged))
	for slot := range c.Spares {
		if !slices.Contains(at, slot) {
			return nil, fmt.Errorf("%s: a part of the shelf is named for %s, where none goes in", t.Title, slot)
		}
	}
	return at, nil
}

// Check refuses what cannot have been done.
func (c Completion) Check(tasks []Task, now time.Time) (Task, error) {
	t, ok := Find(tasks, c.Task)
	switch {
	case !ok:
		return t, fmt.Errorf("there is no maintenance task %q", c.Task)
	case c.Task == ProtectionTask:
		return t, errors.New("a protection test is recorded with its result: which test, and when the alarm came")
	case c.At.After(now):
		return t, fmt.Errorf("%s cannot have been done on %s, which is still to come", t.Title, c.At.Format(civil.Shown))
	}
	return t, nil
}

// Complete is what a task that was done makes invalid on a machine: what depends on parts
// that went in anew.
func (c Completion) Complete(tasks []Task, s machine.Snapshot, records []calibration.Record,
	now time.Time) ([]calibration.Invalid, error) {
	t, err := c.Check(tasks, now)
	if err != nil {
		return nil, err
	}
	renewed := t.Always
	if c.Renewed != nil {
		renewed = *c.Renewed
	}
	if c.New {
		renewed = false // what the exchange of the parts makes invalid is worked out of the parts
	}
	if t.Renews == "" || !renewed {
		return nil, nil
	}
	d, err := t.Renewed(s, c.Slots)
	if err != nil {
		return nil, err
	}
	d.Until = c.At
	return d.Invalidated(records), nil
}
