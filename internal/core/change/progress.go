package change

import "fmt"

// Reasons a machine may be touched for. "It is old" is none: a machine that
// works is left alone. Source: common practice.
func Reasons() []string {
	return []string{"safety", "an upgrade needs it", "a feature somebody needs", "a fault it cures", "wear"}
}

// Progress is how far the steps of a work order have come, in their order.
type Progress []Progressed

// Progressed is one step and whether it is done, or skipped with a reason.
type Progressed struct {
	Step    Step
	Done    bool
	Skipped bool
}

// Settled reports whether nothing is left to do at the step.
func (p Progressed) Settled() bool { return p.Done || p.Skipped }

// firstOpen is the first step that is not settled; ok is false when all are.
func (p Progress) firstOpen() (step Step, ok bool) {
	for _, s := range p {
		if !s.Settled() {
			return s.Step, true
		}
	}
	return Step{}, false
}

// MaySettle says why the step at a place cannot be done or skipped yet: each
// step rests on those before it.
func (p Progress) MaySettle(at int) error {
	if first, ok := p[:at].firstOpen(); ok {
		return fmt.Errorf("%q comes first: each step rests on those before it. Do it, or skip it with a reason", first.Title)
	}
	return nil
}

// MayUndo says why the step at a place cannot be undone: later ones rest on it.
func (p Progress) MayUndo(at int) error {
	if at+1 < len(p) && p[at+1].Settled() {
		return fmt.Errorf("later steps rest on %q; undo those first, the last one first", p[at].Step.Title)
	}
	return nil
}

// MayFinish says what is still open.
func (p Progress) MayFinish() error {
	if first, ok := p.firstOpen(); ok {
		return fmt.Errorf("%q is still open; do it or skip it with a reason", first.Title)
	}
	return nil
}

// MayAbandon says why the order cannot be closed as not done: the machine is no
// longer as it was.
func (p Progress) MayAbandon() error {
	for _, s := range p {
		if s.Step.Touches && s.Done {
			return fmt.Errorf(
				"%q is done, so the machine is no longer as it was; put it back and undo that step, or finish the work",
				s.Step.Title,
			)
		}
	}
	return nil
}
