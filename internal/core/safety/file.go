// Package safety is the safety file: how each machine stood on a day in what can hurt somebody,
// as it was known that day. A file that was kept is not changed by later edits.
package safety

import (
	"slices"
	"time"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/maintenance"
	"wardifex/internal/core/parts"
)

// Version is of the document as it is kept.
const Version = 1

// DayFile is the safety file of a day.
type DayFile struct {
	Version  int             `json:"version"`
	Shop     string          `json:"shop"`
	Day      string          `json:"day"      doc:"ISO 8601"`
	TakenAt  time.Time       `json:"takenAt"`
	TakenBy  string          `json:"takenBy"`
	Machines []MachineSafety `json:"machines"`
}

// MachineSafety is one machine.
type MachineSafety struct {
	ID     int64                    `json:"id"`
	Name   string                   `json:"name"`
	Bay    string                   `json:"bay"`
	State  maintenance.Availability `json:"state" enum:"free,attended only,locked out,known broken,out of use"`
	Why    string                   `json:"why,omitempty"`
	Proofs []HeaterProof            `json:"proofs" doc:"Of each heater"`
	Mains  Mains                    `json:"mains"`
	CutOff Mains                    `json:"cutOff,omitempty" doc:"Of a mains bed: has it a thermal cut-off of its own"`
	Work   []MainsWork              `json:"work"   doc:"Mains work on record, the newest first"`
	Locks  []string                 `json:"locks"  doc:"Whose locks are on"`
	Faults int                      `json:"faults" doc:"Open ones"`
	Risks  []string                 `json:"risks"  doc:"What is open"`
}

// HeaterProof is how the thermal-runaway protection of a heater stands.
type HeaterProof struct {
	calibration.ProvenHeater
	Method  string     `json:"method,omitempty"`
	Alarm   string     `json:"alarm,omitempty"`
	Seconds float64    `json:"seconds,omitempty" doc:"Until the alarm"`
	Build   string     `json:"build,omitempty"`
	On      *time.Time `json:"on,omitempty"`
	By      string     `json:"by,omitempty"`
}

// Mains is whether the bed is heated from the mains: yes, no, or unknown.
type Mains string

// What is known of a bed.
const (
	MainsBed    Mains = "yes"
	LowVoltage  Mains = "no"
	MainsUnsaid Mains = "unknown"
)

// MainsWork is a step of mains work that was done, and who did it by which licence or rule.
type MainsWork struct {
	What string    `json:"what"`
	Who  string    `json:"who"`
	On   time.Time `json:"on"`
	By   string    `json:"by" doc:"Who ticked it"`
	// Earth is the resistance from the plug's earth pin to the plate, and what it was measured with.
	Earth      string `json:"earth,omitempty"`
	Instrument string `json:"instrument,omitempty"`
}

// Known is what an entry is made from.
type Known struct {
	Facts   machine.Snapshot
	Records []calibration.Record
	Ready   maintenance.Readiness
	// Protection is that of its heaters.
	Protection calibration.ProtectionState
}

// Of fills an entry: what each heater's proof is, and what is open.
func (e *MachineSafety) Of(k Known) {
	e.State, e.Why = k.Ready.Available()
	e.Proofs, e.Risks = []HeaterProof{}, []string{}
	for _, h := range k.Protection.Heaters {
		p := HeaterProof{ProvenHeater: h}
		if r := calibration.RecordOf(k.Records, calibration.Protection, h.Subject); r != nil {
			at := r.At
			p.Method, p.On, p.By = r.Method, &at, r.By
			p.Alarm, p.Seconds, p.Build = r.Proof.Alarm, r.Proof.Seconds, r.Proof.Build
		}
		e.Proofs = append(e.Proofs, p)
		if !h.Proven {
			e.Risks = append(e.Risks, "protection not proven: "+h.Name)
		}
	}
	e.Mains = ofBeds(k.Facts, parts.PlateMains)
	switch {
	case e.Mains == MainsUnsaid:
		e.Risks = append(e.Risks, "not known whether the bed is heated from the mains")
	case e.Mains == MainsBed && len(e.Work) == 0:
		e.Risks = append(e.Risks, "a mains bed without mains work on record: who wired it, and its earth's continuity")
	case e.Mains == MainsBed && !slices.ContainsFunc(e.Work, func(w MainsWork) bool { return w.Earth != "" }):
		e.Risks = append(e.Risks, "no measured earth continuity of the mains bed on record")
	}
	if e.Mains == MainsBed {
		// A relay can fail closed: then nothing but a cut-off of its own ends the heating.
		if e.CutOff = ofBeds(k.Facts, parts.PlateCutOff); e.CutOff != MainsBed {
			e.Risks = append(e.Risks, map[Mains]string{
				MainsUnsaid: "not known whether the mains bed has a thermal cut-off of its own",
				LowVoltage:  "the mains bed has no thermal cut-off of its own",
			}[e.CutOff])
		}
	}
	if k.Ready.Danger != "" {
		e.Risks = append(e.Risks, k.Ready.Danger)
	}
	if e.Faults > 0 {
		e.Risks = append(e.Risks, "faults are open")
	}
}

// ofBeds is yes where it is so of any bed, no where of every bed it is known not to be.
func ofBeds(s machine.Snapshot, trait machine.TraitOf) Mains {
	beds := s.Each(parts.Plate)
	switch {
	case slices.ContainsFunc(beds, func(p *machine.Position) bool { return s.Says(p, trait, "yes") }):
		return MainsBed
	case slices.ContainsFunc(beds, func(p *machine.Position) bool { return !s.Says(p, trait, "no") }):
		return MainsUnsaid
	}
	return LowVoltage
}
