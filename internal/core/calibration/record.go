package calibration

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Where a calibrated value can be kept.
const (
	StoreBuild    = "build"
	StoreSettings = "stored settings"
	StoreCard     = "file on the memory card"
	StoreHost     = "host configuration"
	StorePart     = "the part itself" // a turned knob, a set potentiometer
)

// Stores lists where a value can be kept.
func Stores() []string {
	return []string{StoreSettings, StoreCard, StoreBuild, StoreHost, StorePart}
}

// Record is a calibration or proof as it was made.
type Record struct {
	ID      int64
	Kind    Kind
	Subject Subject
	Value   string
	Store   string
	Method  string
	Passed  bool // false: a proof that failed, an unprotected heater
	Proof   Proof
	At      time.Time
	By      string
	Invalid []Invalid // since when it is no longer valid, of which of its subjects
}

// Proof is what a protection test showed, and of what.
type Proof struct {
	Alarm   string  `json:"alarm,omitempty" doc:"Text of the alarm, as the machine showed it"`
	Seconds float64 `json:"seconds,omitempty" doc:"Until the alarm"`
	Build   string  `json:"build,omitempty" doc:"What ran while it was tested"`
	// Where its family reads a configuration.
	Configuration string `json:"configuration,omitempty" doc:"What it was configured by"`
}

// Remedy says how a calibration that is not valid is made good.
type Remedy string

const (
	MeasureAgain Remedy = "measure again"
	EnterAgain   Remedy = "enter again"
	// CannotTell is of one that may or may not be valid still; what is to be found out
	// is in its reason.
	CannotTell Remedy = "cannot be told"
)

// Invalid is a calibration that is no longer valid.
type Invalid struct {
	Record  int64   `json:"-"`
	Kind    Kind    `json:"kind"`
	Subject Subject `json:"subject,omitempty"`
	Title   string  `json:"title"`
	Value   string  `json:"value,omitempty" doc:"The value that was good before"`
	Reason  string  `json:"reason"`
	Remedy  Remedy  `json:"remedy" enum:"measure again,enter again,cannot be told"`
	// Causes are the positions that were changed, by key.
	Causes []string `json:"-"`
}

// InvalidOf is why the record is not valid for a subject; nil while it is valid.
func (r *Record) InvalidOf(x Subject) *Invalid {
	for i := range r.Invalid {
		if v := &r.Invalid[i]; v.Subject == x || v.Subject == WholeMachine {
			return v
		}
	}
	return nil
}

// RecordOf is the record that counts for a subject: the newest of its own or of the
// machine as a whole; nil when there is none.
func RecordOf(records []Record, k Kind, x Subject) *Record {
	var best *Record
	for i := range records {
		r := &records[i]
		if r.Kind != k || r.Subject != x && r.Subject != WholeMachine {
			continue
		}
		if best == nil || r.At.After(best.At) || r.At.Equal(best.At) && r.ID > best.ID {
			best = r
		}
	}
	return best
}

// StateWord is how a calibration stands.
type StateWord string

const (
	Valid     StateWord = "valid"
	NotValid  StateWord = "invalid"
	Undecided StateWord = "cannot be told"
	Failed    StateWord = "failed"
	NeverMade StateWord = "never recorded"
)

// State is how a calibration of one subject stands on a machine.
type State struct {
	Calibration Calibration
	Subject     Subject
	Word        StateWord
	Record      *Record  // nil where none is on record
	Invalid     *Invalid // why it is not valid, or why that cannot be told
}

// Title is the calibration's, with the subject where the machine has several.
func (x State) Title(s machine.Snapshot) string { return x.Calibration.On(s, x.Subject) }

// States is how every calibration of a machine stands, in working order, for each
// subject that it has.
func States(s machine.Snapshot, records []Record) []State {
	var out []State
	for _, c := range all {
		for _, x := range c.Subjects(s) {
			out = append(out, StateOf(s, records, c, x))
		}
	}
	return out
}

// StateOf is how a calibration of one subject stands.
func StateOf(s machine.Snapshot, records []Record, c Calibration, x Subject) State {
	st := State{Calibration: c, Subject: x, Word: NeverMade, Record: RecordOf(records, c.Kind, x)}
	if st.Record == nil {
		return st
	}
	st.Invalid = invalidNow(s, records, c, x, st.Record)
	switch {
	case st.Invalid != nil && st.Invalid.Remedy == CannotTell:
		st.Word = Undecided
	case st.Invalid != nil:
		st.Word = NotValid
	case !st.Record.Passed:
		st.Word = Failed
	default:
		st.Word = Valid
	}
	return st
}

// invalidNow is why a record is not valid for a subject, as far as is known today.
func invalidNow(s machine.Snapshot, records []Record, c Calibration, x Subject, r *Record) *Invalid {
	found := func(why string, remedy Remedy) *Invalid {
		return &Invalid{
			Record:  r.ID,
			Kind:    c.Kind,
			Subject: x,
			Title:   c.On(s, x),
			Value:   r.Value,
			Reason:  why,
			Remedy:  remedy,
		}
	}
	if v := r.InvalidOf(x); v != nil {
		if v = v.settled(s, c, x); v != nil {
			out := *v
			out.Subject, out.Title = x, c.On(s, x)
			return &out
		}
	}
	for _, k := range c.after {
		base, _ := Of(k)
		for _, y := range base.Subjects(s) {
			now := RecordOf(records, k, y)
			if now == nil || !now.At.After(r.At) || !movedBy(now, records, y) {
				continue
			}
			return found(fmt.Sprintf("%s was made again on %s", base.On(s, y), now.At.Format(civil.Shown)), MeasureAgain)
		}
	}
	if other := displaced(s, records, c, x, r); other != nil {
		return found(
			fmt.Sprintf("the %s hold the value of %s since %s", r.Store, other.Subject, other.At.Format(civil.Shown)),
			EnterAgain,
		)
	}
	return nil
}

// movedBy reports whether a calibration made anew says otherwise than the one before: a
// value that was entered again moves nothing.
func movedBy(now *Record, records []Record, x Subject) bool {
	older := slices.DeleteFunc(slices.Clone(records), func(r Record) bool { return !r.At.Before(now.At) })
	was := RecordOf(older, now.Kind, x)
	return was == nil || now.Kind == Tramming || was.Value != now.Value
}

// displaced is the newer value of another head in the settings that hold one head's at a
// time, where heads are changed by hand and this one is mounted.
func displaced(s machine.Snapshot, records []Record, c Calibration, x Subject, r *Record) *Record {
	list := s.First(parts.Structure)
	mounted, ok := s.Number(list, machine.HeadMounted)
	if !ok || r.Store != StoreSettings || x.Head() != int(mounted) ||
		!s.Says(list, machine.HeadsMode, machine.HeadsByHand) {
		return nil
	}
	var newest *Record
	for _, y := range c.Subjects(s) {
		if y.Head() == 0 || y.Head() == x.Head() || y.Place().Kind() != x.Place().Kind() {
			continue
		}
		if o := RecordOf(records, c.Kind, y); o != nil && o.ID != r.ID && o.Store == r.Store && o.At.After(r.At) &&
			(newest == nil || o.At.After(newest.At)) {
			newest = o
		}
	}
	return newest
}

// settled is what is left of it once what could not be told is known: nil when the
// calibration turns out not to depend on what was changed.
func (v *Invalid) settled(s machine.Snapshot, c Calibration, x Subject) *Invalid {
	if v.Remedy != CannotTell {
		return v
	}
	out, doubt := *v, false
	for _, n := range c.DependsOn(s, x) {
		switch {
		case !slices.Contains(v.Causes, n.At.Key):
		case n.Doubt == "":
			out.Remedy = MeasureAgain
			return &out
		default:
			doubt = true
		}
	}
	if !doubt {
		return nil
	}
	return v
}

// CountInvalid is how many calibrations of a machine are not valid, or may not be.
func CountInvalid(s machine.Snapshot, records []Record) int {
	n := 0
	for _, st := range States(s, records) {
		if st.Word == NotValid || st.Word == Undecided {
			n++
		}
	}
	return n
}

// Missing says what a machine still lacks before it can be relied on: each calibration
// that is invalid, failed, or never made though machines need it. What is alike of several
// subjects is said once.
func Missing(s machine.Snapshot, records []Record) []string {
	out := []string{}
	of := map[string][]Subject{}
	for _, st := range States(s, records) {
		says := st.lacks()
		if says == "" {
			continue
		}
		key := string(st.Calibration.Kind) + says
		if of[key] = append(of[key], st.Subject); len(of[key]) > 1 {
			continue
		}
		out = append(out, key)
	}
	for i, key := range out {
		for _, c := range all {
			if says, ok := strings.CutPrefix(key, string(c.Kind)); ok && strings.HasPrefix(says, ":") {
				out[i] = c.OnEach(s, of[key]) + says
			}
		}
	}
	return out
}

// lacks says what is wrong with it, after its title; empty where nothing is.
func (x State) lacks() string {
	switch {
	case x.Word == NeverMade && !x.Calibration.Optional:
		return ": never recorded"
	case x.Invalid != nil:
		return fmt.Sprintf(": %s (%s)", x.Invalid.Remedy, x.Invalid.Reason)
	case x.Word == Failed:
		return ": failed"
	}
	return ""
}

// EnteredAgain are the records of the values that were entered again: the old numbers,
// valid from now on, since the parts that they depend on are untouched.
func EnteredAgain(invalid []Invalid, records []Record, by string, at time.Time) []Record {
	var out []Record
	for _, v := range invalid {
		was := RecordOf(records, v.Kind, v.Subject)
		if v.Remedy != EnterAgain || was == nil {
			continue
		}
		r := *was
		r.ID, r.Subject, r.At, r.By, r.Invalid = 0, v.Subject, at, by, nil
		r.Method = fmt.Sprintf("entered again after the new build (%s)", was.Method)
		out = append(out, r)
	}
	return out
}
