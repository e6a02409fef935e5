package maintenance

import (
	"errors"
	"fmt"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine"
)

// Completion is how somebody says that a task was done.
type Completion struct {
	Task string
	At   time.Time
	// Renewed says whether new parts went in; nil is what the task is for.
	Renewed *bool
	Slots   []string // the positions; none: every one of its kind
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
