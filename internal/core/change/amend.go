package change

import (
	"fmt"
	"slices"
	"strings"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/quantity"
)

// Amend is a kit with what was really fitted at a position, in place of what it says of that
// position, or besides it.
func Amend(kit fit.Kit, slot, model string) fit.Kit {
	kit.Effects = slices.Clone(kit.Effects)
	is := fit.Effect{Slot: slot, Model: model}
	at := slices.IndexFunc(kit.Effects, func(e fit.Effect) bool { return e.Slot == slot })
	switch {
	case at < 0:
		kit.Effects = append(kit.Effects, is)
	case strings.EqualFold(kit.Effects[at].Model, model):
	default:
		kit.Effects[at] = is // what the other model was stated to be is not so of this one
	}
	return kit
}

// Rewritten is a step of an order whose change became another one while it was done.
type Rewritten struct {
	Step Step
	Was  int  // its place before; −1 where it is new
	Redo bool // it was settled, and has to be done again
}

// Rewrite gives the steps of an order whose change is now this one, because at a position
// something else was done than was written. What is settled stays in its order, but for what
// that part makes necessary again; what nobody needs any more goes; steps of the house's own
// stay.
func (c Change) Rewrite(was Progress, slot string, records []calibration.Record) ([]Rewritten, error) {
	model := c.After.Model(slot)
	part, err := ByHand(slot, model, c.Before)
	if err != nil {
		return nil, err
	}
	again := map[string]bool{}
	for _, s := range part.WorkOrder(records) {
		if laterPhase(s) {
			again[s.Key] = true
		}
	}
	var out []Rewritten
	at := map[string]int{}
	begun := false
	for i, s := range was {
		at[s.Step.Key] = i
		if s.Settled() && !again[s.Step.Key] {
			out = append(out, Rewritten{Step: s.Step, Was: i})
		}
		begun = begun || s.Settled() && s.Step.Phase != "Prepare"
	}
	for _, s := range c.WorkOrder(records) {
		i, known := at[s.Key]
		switch {
		case known && was[i].Settled() && !again[s.Key]:
		case known:
			out = append(out, Rewritten{Step: s, Was: i, Redo: was[i].Settled()})
		case begun && !laterPhase(s): // it is too late to prepare it, and the part is in
		default:
			out = append(out, Rewritten{Step: s, Was: -1})
		}
	}
	for i, s := range was {
		if strings.HasPrefix(s.Step.Key, ownKey) && !s.Settled() {
			out = insertOwn(out, Rewritten{Step: s.Step, Was: i})
		}
	}
	return out, nil
}

// laterPhase reports whether a step comes after the parts are in and wired.
func laterPhase(s Step) bool { return s.Phase != "Prepare" && s.Phase != "Fit" && s.Phase != "Wire" }

// insertOwn puts a step of the house's own behind the last of its phase that is there.
func insertOwn(list []Rewritten, own Rewritten) []Rewritten {
	at := len(list)
	for i, r := range list {
		if r.Step.Phase == own.Step.Phase {
			at = i + 1
		}
	}
	return slices.Insert(list, at, own)
}

const ownKey = "own-"

// OwnStep is a step that somebody adds to an order, with a key that no other step of it has.
func OwnStep(of Progress, phase, title, do, by string) Step {
	n := 1
	for _, s := range of {
		var k int
		if _, err := fmt.Sscanf(s.Step.Key, ownKey+"%d", &k); err == nil {
			n = max(n, k+1)
		}
	}
	if do == "" {
		do = "Added by " + by + "."
	}
	return Step{Key: fmt.Sprintf("%s%d", ownKey, n), Phase: phase, Title: title, Do: do, Form: TickForm}.complete()
}

// mounted is the step at which the values of the head that is mounted from now on are put in
// force: settings hold those of one head at a time.
func (c Change) mounted(w *writer, records []calibration.Record) {
	if c.Kit.What != mountWhat {
		return
	}
	n, _ := quantity.Parse(c.Effects[len(c.Effects)-1].Traits[machine.HeadMounted.Name])
	var lines []string
	for _, k := range calibration.All() {
		for _, x := range k.Subjects(c.After) {
			if x.Head() != int(n) {
				continue
			}
			if r := calibration.RecordOf(records, k.Kind, x); r != nil && r.Store != calibration.StorePart {
				lines = append(lines, fmt.Sprintf("%s: %s (%s)", k.On(c.After, x), r.Value, r.Store))
			}
		}
	}
	if len(lines) == 0 {
		lines = []string{"no value of this head is on record: measure its Z offset before it prints"}
	}
	w.phase = "Firmware"
	w.add(Step{Key: "head-values", Title: fmt.Sprintf("Put the values of head %d in force", int(n)),
		Do:    "By its wire sheet and its record: offsets, steps and temperatures of another head are wrong for this one.",
		Lines: lines, Touches: true})
}
