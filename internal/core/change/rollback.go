package change

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// backKey begins the keys of the steps that roll a change back.
const backKey = "back-"

// RollBack writes the steps that put a machine back as it was: the old parts, their wires, the
// build that ran and its values; then it is proven and calibrated as after any work, since
// what was apart is not as it was by being put together. Source: common practice.
func (c Change) RollBack(of Progress, records []calibration.Record) []Step {
	var w writer
	c = c.asFlashed(flashedIn(of))
	x := c.extent(records)
	x.needed = slices.DeleteFunc(slices.Clone(x.needed), func(d calibration.Due) bool {
		return !slices.Contains(d.Calibration.Subjects(c.Before), d.Subject) // it goes with what came
	})
	back := c.back(c.Build)
	w.phase = "Prepare"
	if x.wired || x.off {
		w.add(Step{Key: "plug-out", Title: "Power off and pull the mains plug", Do: "Let hot parts cool first.",
			Cautions: []string{mains, burn, locals}})
	}
	w.phase = "Fit"
	for i, p := range c.PartChanges {
		if p.build {
			continue
		}
		s := Step{Key: fmt.Sprintf("part-%d", i+1), Title: fmt.Sprintf("%s: back to %s", p.Label, p.Before), Touches: true,
			Do: "The very part that came out, by its label."}
		switch {
		case p.Stays:
			s.Do = "Set it as it was."
		case p.Before == machine.None:
			s.Title, s.Do = fmt.Sprintf("%s: take %s out again", p.Label, p.After), "It goes back to its box or to the shelf."
		}
		if x.wired && !p.Stays {
			s.Do += " Its wires one at a time, as photographed and labelled."
		}
		if c.TouchesMains() {
			s = s.licensed()
		}
		w.add(s)
	}
	if x.flashes {
		back.flashBack(&w, records)
	}
	back.prove(&w, x, records)
	back.calibrate(&w, x)
	back.verify(&w, x)
	for i := range w.steps {
		w.steps[i].Key = backKey + w.steps[i].Key
	}
	return w.steps
}

// back is the change of a machine that is put back as it was: none, but for a flash.
func (c Change) back(flashed bool) Change {
	back := Change{Kit: c.Kit}
	back.Before, back.After, back.Build = c.Before, c.Before, flashed
	back.Kit.What = ""
	return back
}

// asFlashed is the change as far as it was made: without its build where that never went in.
func (c Change) asFlashed(flashed bool) Change {
	if c.Build = c.Build && flashed; !c.Build {
		c.PartChanges = slices.DeleteFunc(slices.Clone(c.PartChanges), func(x PartChange) bool { return x.build })
	}
	return c
}

// flashedIn reports whether a build went in.
func flashedIn(of Progress) bool {
	return slices.ContainsFunc(of, func(s Progressed) bool { return s.Step.Key == "flash" && s.Done })
}

// flashBack puts the build in that ran before.
func (c Change) flashBack(w *writer, records []calibration.Record) {
	run := c.Before.First(parts.Firmware)
	name := "the build that ran before"
	if run != nil {
		if is, _ := c.Before.Named(run.Key); is != "" {
			name = is
		}
	}
	family := familyOf(c.Before)
	w.phase = "Firmware"
	w.add(Step{Key: "flash", Title: "Flash " + name + " again", Form: BuildForm, Seconds: 12, Touches: true,
		Do: "From the file that was kept, under a file name that differs from the last one flashed. Type what the " +
			"information screen shows.", Configured: family == parts.Hosted || family == parts.Scripted,
		Cautions: []string{unproof}})
	if family == parts.Hosted {
		return
	}
	enter := Step{Key: Reenter, Title: "Enter this machine's own values again", Touches: true,
		Do: "From the settings that were recorded before the work.", Lines: c.reenter(records, family)}
	if family == parts.Compiled {
		w.add(Step{Key: "defaults", Title: "Restore defaults and store them", Touches: true,
			Do: "Old stored values of another layout are garbage.", Lines: []string{"M502", "M500"}})
	}
	w.add(enter)
}

// FinishBack is what work that was rolled back does to the record: what was apart has to be
// measured again, and what the steps that rolled it back found is recorded. Nothing is fitted.
func (c Change) FinishBack(worked []Worked, records []calibration.Record, lastFile string, minutes int,
	now time.Time) (Finished, error) {
	done := func(key string) bool {
		return slices.ContainsFunc(worked, func(w Worked) bool { return w.Done && w.Step.Key == key })
	}
	// A build that went in and did not come out again is the one that runs now.
	stays := done("flash") && !done(backKey+"flash")
	flashed := stays || done(backKey+"flash")
	worked = slices.DeleteFunc(slices.Clone(worked), func(w Worked) bool {
		return !strings.HasPrefix(w.Step.Key, backKey) && (!stays || w.Step.Key != "flash")
	})
	f, err := c.back(flashed).Finish(worked, records, lastFile, minutes, now)
	if err != nil {
		return f, err
	}
	c = c.asFlashed(flashed)
	f.Closing.PartChanges = []PartChange{}
	f.Closing.Invalid = c.Invalidated(records)
	if flashed {
		f.BuiltFor = firmware.Configuration(c.Before)
	}
	return f, nil
}
