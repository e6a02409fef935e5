package calibration

import (
	"fmt"
	"math"
	"slices"
	"time"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/quantity"
	"wardifex/internal/core/sentence"
)

// Disagreement is a value of which two places say different things: what is calibrated, what
// was read, and what follows from the parts.
type Disagreement struct {
	Kind       Kind        `json:"kind"`
	Subject    Subject     `json:"subject,omitempty"`
	Title      string      `json:"title"`
	Says       string      `json:"says"`
	Statements []Statement `json:"statements"`
	// Empty where none does.
	Stands string        `json:"stands,omitempty" doc:"The value that stands until it is settled"`
	Why    string        `json:"why" doc:"Why that one stands, or why none does"`
	Settle string        `json:"settle" doc:"What would settle it"`
	Keys   []machine.Key `json:"keys" doc:"The traits concerned"`
}

// Statement is what one place says of a value.
type Statement struct {
	Where string        `json:"where" doc:"calibrated, read off the machine, computed from parts …"`
	Value string        `json:"value"`
	Grade machine.Grade `json:"grade"`
	At    *time.Time    `json:"at,omitempty"`
	By    string        `json:"by,omitempty"`
	// Stale says that what it depends on was changed since.
	Stale bool `json:"stale"`
	// Of a settings file: which, and where in it.
	File int64  `json:"file,omitempty" doc:"Number of the settings file that states it"`
	Line int    `json:"line,omitempty" doc:"In that file, from 1"`
	Word string `json:"word,omitempty" doc:"As it is written there"`

	numbers  []float64
	text     string // of a choice
	measured bool
	// slack is by how much another number may differ and still be the same, as a share; 0 where
	// a number was typed or reported as it is.
	slack float64
}

// Found is what settings state of a value: of a calibration of a subject, or of a trait.
type Found struct {
	Kind    Kind
	Subject Subject
	Key     machine.Key
	Statement
	Numbers []float64
	Text    string // of a choice, its code
}

// Since tells since when a part has been at a position; the zero time where that is not
// known.
type Since func(slot string) time.Time

// Disagreements are the values of a machine of which two places disagree. found is what its
// settings state.
func Disagreements(s machine.Snapshot, records []Record, since Since, found ...Found) []Disagreement {
	var out []Disagreement
	for _, st := range States(s, records) {
		var stated []Statement
		for _, x := range found {
			if x.Kind == st.Calibration.Kind && x.Subject == st.Subject {
				x.Statement.numbers = x.Numbers
				stated = append(stated, x.Statement)
			}
		}
		var f, of *Disagreement
		switch st.Calibration.Kind {
		case Steps:
			of = stepsFinding(s, st, since, stated)
		case PrintArea:
			f = areaFinding(s, st)
		case Current:
			f = currentFinding(s, st)
		case LoadLength:
			f = lengthsFinding(s, st)
		case Retraction:
			f = retractionFinding(s, st)
		}
		if len(stated) > 0 && st.Calibration.Kind != Steps {
			of = statedFinding(s, st, since, stated)
		}
		for _, f := range []*Disagreement{f, of} {
			if f == nil {
				continue
			}
			f.Kind, f.Subject, f.Title = st.Calibration.Kind, st.Subject, st.Title(s)
			if f.Keys == nil {
				f.Keys = []machine.Key{}
			}
			out = append(out, *f)
		}
	}
	return append(out, traitFindings(s, found)...)
}

// calibrated is what a state says of a value, as a source; ok is false where it is not
// valid, or no number stands there.
func calibrated(st State) (Statement, bool) {
	if st.Record == nil || st.Word != Valid {
		return Statement{}, false
	}
	n := st.Calibration.Numbers(st.Subject, st.Record.Value)
	if len(n) == 0 {
		return Statement{}, false
	}
	at := st.Record.At
	return Statement{
		Where:    "calibrated, kept in: " + st.Record.Store,
		Value:    st.Record.Value,
		Grade:    machine.Observed,
		At:       &at,
		By:       st.Record.By,
		numbers:  n,
		measured: true,
	}, true
}

// stepsFinding holds the steps per mm of an extruder against each other: as calibrated,
// as read, and as they follow from motor, driver and gears.
func stepsFinding(s machine.Snapshot, st State, since Since, stated []Statement) *Disagreement {
	var f Disagreement
	changed := lastChange(s, st, since)
	if src, ok := calibrated(st); ok {
		src.Stale = src.At.Before(changed)
		f.Statements = append(f.Statements, src)
	}
	var drive bench.Drive
	if list := s.Structure().At(parts.Extruder, st.Subject.Place()); len(list) > 0 {
		e := list[0]
		known := s.Of(e, parts.ExtruderSteps)
		if known.Known() {
			src := Statement{
				Where:    "read",
				Value:    known.Trait.Show(known.Value),
				Grade:    known.Grade,
				numbers:  []float64{known.Value.Number},
				measured: known.Grade >= machine.Observed,
				slack:    bench.Agree,
			}
			if r := known.Stands; r != nil {
				src.Where, src.By, src.At, src.Stale = "recorded: "+r.How, r.By, &r.TakenAt, r.TakenAt.Before(changed)
				if r.How == "" {
					src.Where = "recorded"
				}
			} else if known.FromModel != "" {
				src.Where = "as the model is stated to be"
			}
			f.Statements = append(f.Statements, src)
		}
		motor, driver := bench.DriveParts(s, e)
		drive = bench.DriveOf(s, e)
		f.Keys = []machine.Key{
			machine.KeyOf(e.Key, parts.ExtruderSteps.Name),
			machine.KeyOf(e.Key, parts.ExtruderRatio.Name),
			machine.KeyOf(e.Key, parts.ExtruderGearDiameter.Name),
		}
		if n := drive.StepsPerMM(); n > 0 {
			grade := machine.Proven
			for _, on := range []*machine.Fact{s.Of(motor, parts.MotorStepAngle), s.Of(driver, parts.DriverMicrosteps),
				s.Of(e, parts.ExtruderRatio), s.Of(e, parts.ExtruderGearDiameter)} {
				grade = min(grade, on.Grade)
			}
			f.Statements = append(
				f.Statements,
				Statement{
					Where:   "computed from parts",
					Value:   fmt.Sprintf("%.1f steps/mm", n),
					Grade:   grade,
					numbers: []float64{n},
					slack:   bench.Agree,
				},
			)
		}
	}
	if len(stated) > 0 {
		f.add(st, stated)
	}
	if !disagree(f.Statements) {
		return nil
	}
	f.Says = "The steps per mm do not agree."
	f.stand()
	f.Settle = "Ask for 100 mm of filament and measure what comes; look at the motor's step angle, the driver's " +
		"microsteps and the gear pair."
	if i := slices.IndexFunc(f.Statements, func(x Statement) bool { return x.measured }); i >= 0 {
		if why := drive.Explain(f.Statements[i].numbers[0]); len(why) > 0 {
			f.Settle += " " + sentence.Begin(why[0].Why) + " would explain " + quantity.Format(f.Statements[i].numbers[0]) + "."
		}
	}
	return &f
}

// lastChange is when a part on which the calibration depends was changed last.
func lastChange(s machine.Snapshot, st State, since Since) time.Time {
	var last time.Time
	if since == nil {
		return last
	}
	for _, n := range st.Calibration.DependsOn(s, st.Subject) {
		if at := since(n.At.Key); n.Part && at.After(last) {
			last = at
		}
	}
	return last
}

// Tolerances of numbers that were typed or reported, not measured. Source: from memory; reports
// round to two or three digits.
const (
	sameShare  = 0.002
	sameLength = 0.005 // mm
)

// differ reports whether two places say different numbers.
func differ(a, b Statement) bool {
	if a.text != "" && b.text != "" {
		return a.text != b.text
	}
	share := max(a.slack, b.slack, sameShare)
	for i := range min(len(a.numbers), len(b.numbers)) {
		x, y := a.numbers[i], b.numbers[i]
		if math.Abs(x-y) > max(share*max(math.Abs(x), math.Abs(y)), sameLength) {
			return true
		}
	}
	return false
}

// disagree reports whether two of the numbers are further apart than they may be.
func disagree(list []Statement) bool {
	for i := range list {
		for j := range i {
			if differ(list[i], list[j]) {
				return true
			}
		}
	}
	return false
}

// stand finds the value that stands: what was measured after the last change of what it
// depends on; else what follows from parts that were at least observed; else the
// stronger grade of what is not about parts that are gone; never what is newest for that
// alone. Where two stand equally, none does.
func (f *Disagreement) stand() {
	for _, rule := range []struct {
		why string
		of  func(Statement) bool
	}{
		{"it was measured after the last change of what it depends on",
			func(x Statement) bool { return x.measured && !x.Stale }},
		{"it follows from parts that were observed",
			func(x Statement) bool { return x.At == nil && x.Grade >= machine.Observed }},
	} {
		if x := agreed(f.Statements, rule.of); x != nil {
			f.Stands, f.Why = x.Value, rule.why
			return
		}
	}
	strongest := machine.Unknown
	for _, x := range f.Statements {
		if !x.Stale {
			strongest = max(strongest, x.Grade)
		}
	}
	x := agreed(f.Statements, func(x Statement) bool { return x.Grade == strongest && !x.Stale })
	if x != nil && strongest > machine.Claimed && len(f.Statements) > 1 && slices.ContainsFunc(f.Statements,
		func(y Statement) bool { return differ(*x, y) }) {
		f.Stands, f.Why = x.Value, "it has the stronger evidence"
		return
	}
	f.Why = "none has the better grounds: measure"
}

// agreed is the first of those that a rule picks, where all that it picks agree.
func agreed(list []Statement, of func(Statement) bool) *Statement {
	picked := slices.DeleteFunc(slices.Clone(list), func(x Statement) bool { return !of(x) })
	if len(picked) == 0 || disagree(picked) {
		return nil
	}
	return &picked[0]
}

// PrintAreaOf is the print area as it is calibrated, in X and Y, mm; ok is false where no valid
// calibration says so.
func PrintAreaOf(s machine.Snapshot, records []Record) (x, y float64, ok bool) {
	c, _ := Of(PrintArea)
	for _, of := range c.Subjects(s) {
		st := StateOf(s, records, c, of)
		if st.Word != Valid {
			continue
		}
		said := number.FindAllString(st.Record.Value, -1)
		if len(said) < 2 {
			continue
		}
		a, errA := quantity.Recorded(said[0])
		b, errB := quantity.Recorded(said[1])
		if errA == nil && errB == nil && (!ok || a*b < x*y) {
			x, y, ok = a, b, true
		}
	}
	return x, y, ok
}

// areaFinding holds the print area as calibrated against the one on record.
func areaFinding(s machine.Snapshot, st State) *Disagreement {
	if st.Record == nil || st.Word != Valid {
		return nil
	}
	frame := s.First(parts.Frame)
	said := number.FindAllString(st.Record.Value, -1)
	for i, name := range volume[:2] {
		is, ok := s.Number(frame, name)
		if !ok || i >= len(said) || len(said) < 2 {
			continue
		}
		n, err := quantity.Recorded(said[i])
		if err != nil || math.Abs(n-is) <= 1 {
			continue
		}
		src, _ := calibrated(st)
		src.Where, src.Value, src.Grade = "calibrated, kept in: "+st.Record.Store, st.Record.Value, machine.Observed
		fact := s.Of(frame, name)
		return &Disagreement{
			Says: fmt.Sprintf(
				"The print area is calibrated as %s mm in %s, and %s mm are on record.",
				quantity.Format(n),
				"XY"[i:i+1],
				quantity.Format(is),
			),
			Statements: []Statement{
				src,
				{Where: "on record", Value: fact.Trait.Show(fact.Value), Grade: fact.Grade, numbers: []float64{is}},
			},
			Why:    "none has the better grounds: measure",
			Settle: "Run the head to both ends and measure what is left.",
			Keys:   []machine.Key{machine.KeyOf(frame.Key, name.Name)},
		}
	}
	return nil
}

// currentSlack is how far a motor's current may be from what is wanted and still be
// accepted. Source: common practice, 0.52 V accepted for 0.50 V.
const currentSlack = 0.05

// currentFinding holds a motor's set current against its rating.
func currentFinding(s machine.Snapshot, st State) *Disagreement {
	src, ok := calibrated(st)
	motor := st.Subject.position(s, parts.Motor)
	rated, known := s.Number(motor, parts.MotorCurrent)
	if !ok || !known {
		return nil
	}
	share := src.numbers[0] / float64(max(1, motorsOn(s, motor)))
	if share <= rated*(1+currentSlack) {
		return nil
	}
	f := &Disagreement{
		Says: fmt.Sprintf(
			"%s A are set for a motor rated %s A.",
			quantity.Format(round(share)),
			quantity.Format(rated),
		),
		Statements: []Statement{
			src,
			{
				Where:   "rated",
				Value:   quantity.Format(rated) + " A",
				Grade:   s.Of(motor, parts.MotorCurrent).Grade,
				numbers: []float64{rated},
			},
		},
		Why:    "the rating is a limit, the setting is what runs",
		Settle: "Read the motor's label, measure the reference voltage, and set the current at or below the rating.",
		Keys:   []machine.Key{machine.KeyOf(motor.Key, parts.MotorCurrent.Name)},
	}
	if math.Abs(share/rated/math.Sqrt2-1) < currentSlack {
		f.Settle += " It is √2 times the rating: a peak value typed where the effective (RMS) value belongs would explain it."
	}
	return f
}

// lengthsFinding holds the filament-change lengths against the tube and the largest
// single extrusion of the build.
func lengthsFinding(s machine.Snapshot, st State) *Disagreement {
	src, ok := calibrated(st)
	if !ok {
		return nil
	}
	n := st.Calibration.Numbers(st.Subject, st.Record.Value)
	src.numbers = []float64{slices.Max(n)}
	run := s.First(parts.Firmware)
	if most, known := s.Number(run, parts.FirmwareMaxExtrude); known && src.numbers[0] > most {
		return &Disagreement{
			Says: fmt.Sprintf(
				"One move is %s mm long, and the build allows %s mm.",
				quantity.Format(src.numbers[0]),
				quantity.Format(most),
			),
			Statements: []Statement{
				src,
				{
					Where:   "largest single extrusion of the build",
					Value:   quantity.Format(most) + " mm",
					Grade:   s.Of(run, parts.FirmwareMaxExtrude).Grade,
					numbers: []float64{most},
				},
			},
			Why:    "the build refuses longer moves",
			Settle: "Raise the largest single extrusion, or shorten the move.",
			Keys:   []machine.Key{machine.KeyOf(run.Key, parts.FirmwareMaxExtrude.Name)},
		}
	}
	return nil
}

// retractionFinding holds a retraction against the length of the tube.
func retractionFinding(s machine.Snapshot, st State) *Disagreement {
	src, ok := calibrated(st)
	if !ok {
		return nil
	}
	for _, b := range st.Calibration.bounds(s, st.Subject) {
		if b.why == usual || b.holds(src.numbers[0]) {
			continue
		}
		tube := s.Structure().At(parts.Tube, st.Subject.Place())[0]
		fact := s.Of(tube, parts.TubeLength)
		return &Disagreement{
			Says: fmt.Sprintf(
				"A retraction of %s mm does not go with a tube of %s.",
				quantity.Format(src.numbers[0]),
				fact.Trait.Show(fact.Value),
			),
			Statements: []Statement{
				src,
				{Where: "length of the tube", Value: fact.Trait.Show(fact.Value), Grade: fact.Grade,
					numbers: []float64{fact.Value.Number}},
			},
			Why:    "none has the better grounds: measure",
			Settle: "Look at the tube, and print the retraction test.",
			Keys:   []machine.Key{machine.KeyOf(tube.Key, parts.TubeLength.Name)},
		}
	}
	return nil
}
