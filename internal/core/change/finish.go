package change

import (
	"fmt"
	"maps"
	"strings"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/parts"
)

// Closing is what finishing a work order did to the record.
type Closing struct {
	PartChanges []PartChange          `json:"exchanges"`
	Invalid     []calibration.Invalid `json:"voided" doc:"What is no longer valid"`
	Recorded    []string              `json:"recorded"`
	Missing     []string              `json:"missing" doc:"What the machine still lacks"`
}

// Expected is what the work will exchange and make invalid.
func (c Change) Expected(records []calibration.Record) Closing {
	return Closing{PartChanges: c.PartChanges, Invalid: c.Invalidated(records), Recorded: []string{}, Missing: []string{}}
}

// Worked is a step of a work order that is settled.
type Worked struct {
	Step Step
	Data Data
	Note string
	Done bool // ticked; else skipped
	By   string
	At   time.Time
}

// Setting is a fact of a part that stays and was set otherwise by the work.
type Setting struct {
	Key   machine.Key
	Value machine.Value
	Says  string // "8 → 16"
}

// Finished is what a finished work order makes of the record, in the order in which it is
// written: what no longer holds, the parts that changed places, the settings of those that
// stay, the build that runs now. What the steps found is Found on the machine afterwards.
type Finished struct {
	Closing  Closing
	Fittings []Fitting
	// BuiltFor is what the new build is made for; nil where none was flashed.
	BuiltFor map[machine.Key]string
	Settings []Setting
	// Flashed is the result of the step that says which build was flashed; nil where none
	// says so.
	Flashed *Result
	// Minutes of work.
	Minutes int

	change  Change
	worked  []Worked
	results []Result
}

// Finish is what a work order does to the record of its machine when all its steps are
// settled. records are those of the machine before; lastFile is the file last flashed;
// minutes 0 counts the kit's own. The error says which step does not hold.
func (c Change) Finish(worked []Worked, records []calibration.Record, lastFile string, minutes int,
	now time.Time) (Finished, error) {
	f := Finished{Closing: c.Expected(records), Minutes: minutes, change: c, worked: worked,
		results: make([]Result, len(worked))}
	for i, w := range worked {
		if !w.Done {
			continue
		}
		var err error
		if f.results[i], err = w.Step.Check(w.Data, lastFile, w.Note != "", c.After); err != nil {
			return f, fmt.Errorf("%s: %w", w.Step.Title, err)
		}
		if r := &f.results[i]; f.Flashed == nil && (r.Build != 0 || r.BuildName != "") {
			f.Flashed = r
		}
	}
	f.Fittings = c.AsFitted(f.results, now)
	if c.Build {
		f.BuiltFor = firmware.Configuration(c.After)
	} else {
		f.Flashed = nil
	}
	for _, a := range c.Set {
		t := c.Before.Fact(a.Key).Trait
		s := Setting{Key: a.Key, Value: a.Value, Says: a.Before + " → " + t.Show(a.Value)}
		f.Settings = append(f.Settings, s)
		f.Closing.Recorded = append(f.Closing.Recorded, t.Label+": "+s.Says)
	}
	f.Closing.Recorded = append(f.Closing.Recorded, c.Carried()...)
	if minutes == 0 {
		_, f.Minutes = c.Cost()
	}
	return f, nil
}

// Found is what one step found.
type Found struct {
	By           string
	Readings     map[machine.Key]string
	Calibrations []calibration.Record
}

// Found is what the steps found, in their order, and the values that were entered again
// after the new build; it is noted in the closing. after is the machine with its new
// parts. What was read off a new build is with its fitting already.
func (f *Finished) Found(after machine.Snapshot, records []calibration.Record) []Found {
	var out []Found
	keep := func(into *Found, r calibration.Record, where string) {
		c, _ := calibration.Of(r.Kind)
		f.Closing.Recorded = append(f.Closing.Recorded, fmt.Sprintf("%s: %s%s", c.On(after, r.Subject), r.Value, where))
		r.Proof.Build = provenBuild(r, after)
		into.Calibrations = append(into.Calibrations, r)
	}
	for i, w := range f.worked {
		if !w.Done {
			continue
		}
		found := Found{By: w.By}
		if strings.TrimPrefix(w.Step.Key, backKey) == Reenter {
			for _, r := range calibration.EnteredAgain(f.Closing.Invalid, records, w.By, w.At) {
				keep(&found, r, ", entered again")
			}
		}
		found.Readings = maps.Clone(f.results[i].Readings)
		if f.change.Build {
			maps.DeleteFunc(found.Readings, func(k machine.Key, _ string) bool { return isBuild(f.change.Before, k.Slot()) })
		}
		for _, r := range f.results[i].Calibrations {
			r.At, r.By = w.At, w.By
			keep(&found, r, " ("+r.Store+")")
		}
		out = append(out, found)
	}
	return out
}

// FoundApart is what a step found that was made outside of any work order.
func FoundApart(r Result, on machine.Snapshot, by string, at time.Time) Found {
	f := Found{By: by, Readings: r.Readings}
	for _, c := range r.Calibrations {
		c.At, c.By, c.Proof.Build = at, by, provenBuild(c, on)
		f.Calibrations = append(f.Calibrations, c)
	}
	return f
}

// provenBuild names the build that a proof is of; empty where it is no proof.
func provenBuild(r calibration.Record, s machine.Snapshot) string {
	run := s.First(parts.Firmware)
	if r.Kind != calibration.Protection || run == nil {
		return ""
	}
	name, _ := s.Named(run.Key)
	return name
}

// News are the readings that tell something which is not on record as surely already.
func (f Found) News(on machine.Snapshot) map[machine.Key]string {
	out := map[machine.Key]string{}
	for key, text := range f.Readings {
		if is := on.Fact(key); is.Known() && is.Value.Text == text && is.Grade >= machine.Observed {
			continue
		}
		out[key] = text
	}
	return out
}

// TestDone is the maintenance task that a calibration settles: a protection test made is
// the task of that name done. ok is false where it settles none.
func TestDone(r calibration.Record, at time.Time) (done maintenance.Done, ok bool) {
	return maintenance.Done{Task: maintenance.ProtectionTask, At: at}, r.Kind == calibration.Protection
}
