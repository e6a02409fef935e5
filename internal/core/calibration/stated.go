package calibration

import (
	"fmt"
	"math"
	"slices"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/quantity"
	"wardifex/internal/core/sentence"
)

// add puts what settings state beside what is on record. A calibration that is no longer valid
// is named too: it is what somebody will look for, and it does not stand.
func (f *Disagreement) add(st State, stated []Statement) {
	if st.Record != nil && st.Word != Valid && st.Record.Passed {
		if n := st.Calibration.Numbers(st.Subject, st.Record.Value); len(n) > 0 {
			at := st.Record.At
			f.Statements = append(f.Statements, Statement{
				Where:    "calibrated, no longer valid",
				Value:    st.Record.Value,
				Grade:    machine.Observed,
				At:       &at,
				By:       st.Record.By,
				Stale:    true,
				numbers:  n,
				measured: true,
			})
		}
	}
	f.Statements = append(f.Statements, stated...)
}

// statedFinding holds a value that is calibrated against what settings state of it.
func statedFinding(s machine.Snapshot, st State, since Since, stated []Statement) *Disagreement {
	var f Disagreement
	if src, ok := calibrated(st); ok {
		src.Stale = src.At.Before(lastChange(s, st, since))
		f.Statements = append(f.Statements, src)
	}
	if src, ok := driven(s, st); ok {
		f.Statements = append(f.Statements, src)
	}
	f.add(st, stated)
	if !disagree(f.Statements) {
		return nil
	}
	f.stand()
	f.Says = "Two places set this value, and not to the same."
	if why := factor(f.Statements); why != "" {
		f.Says += " " + why
	}
	f.Settle = "Write the value that stands into every place that sets another."
	if f.Stands == "" {
		f.Settle = st.Calibration.How
	}
	return &f
}

// driven is what the steps of an axis follow from, where its drive is on record.
func driven(s machine.Snapshot, st State) (Statement, bool) {
	if st.Calibration.Kind != AxisSteps {
		return Statement{}, false
	}
	d, ok := bench.AxisDriveOf(s, st.Subject.Place())
	if !ok {
		return Statement{}, false
	}
	grade := machine.Proven
	for _, on := range d.Facts {
		grade = min(grade, on.Grade)
	}
	return Statement{
		Where:   "computed from parts",
		Value:   quantity.Format(round(d.StepsPerMM)) + " steps/mm",
		Grade:   grade,
		numbers: []float64{d.StepsPerMM},
	}, true
}

// traitFindings are the traits of which settings state another number than is fitted.
func traitFindings(s machine.Snapshot, found []Found) []Disagreement {
	var out []Disagreement
	var keys []machine.Key
	of := map[machine.Key][]Statement{}
	for _, x := range found {
		if x.Key == "" {
			continue
		}
		if of[x.Key] == nil {
			keys = append(keys, x.Key)
		}
		x.Statement.numbers, x.Statement.text = x.Numbers, x.Text
		of[x.Key] = append(of[x.Key], x.Statement)
	}
	for _, key := range keys {
		t, ok := s.Vocabulary().Trait(key)
		if !ok {
			continue
		}
		f := Disagreement{Title: t.Label, Keys: []machine.Key{key}}
		if is := s.At(t); is != nil && is.Known() {
			src := Statement{
				Where:    "fitted, as on record",
				Value:    t.Show(is.Value),
				Grade:    is.Grade,
				measured: is.Grade >= machine.Observed,
			}
			if t.Kind == machine.Number {
				src.numbers = []float64{is.Value.Number}
			} else {
				src.text = is.Value.Text
			}
			if r := is.Stands; r != nil {
				src.At, src.By = &r.TakenAt, r.By
			}
			f.Statements = append(f.Statements, src)
		}
		f.Statements = append(f.Statements, of[key]...)
		if !disagree(f.Statements) {
			continue
		}
		f.stand()
		f.Says = "Settings state another value than is fitted."
		if len(f.Statements) == len(of[key]) {
			f.Says = "Settings state this in two ways."
		}
		if t.Safety != "" {
			f.Says += " " + sentence.Begin(t.Safety) + "."
		}
		if why := factor(f.Statements); why != "" {
			f.Says += " " + why
		}
		f.Settle = "Look at the part: " + t.Label + "."
		if f.Stands != "" {
			f.Settle = "Write what is fitted into every place that states another value."
		}
		out = append(out, f)
	}
	return out
}

// factors are between numbers of which one is written in another unit than the other.
var factors = []struct {
	by  float64
	why string
}{
	{math.Sqrt2, "a peak value where an effective (RMS) one belongs, or the other way round"},
	{2, "half the step angle, twice the microsteps, or a diameter taken for a radius"},
	{25.4, "inches taken for millimetres"},
	{1000, "thousandths taken for whole units, such as mA for A"},
}

// Factor asks whether two numbers differ by their unit or by their sign: √2, 2, 25.4 and 1000 are asked about.
// Empty where they do not.
func Factor(a, b float64) string {
	switch {
	case a == 0 || b == 0:
		return ""
	case math.Signbit(a) != math.Signbit(b) && math.Abs(math.Abs(a/b)-1) <= sameShare:
		return fmt.Sprintf("%s and %s differ in their sign alone: an offset written as another family writes it, by the "+
			"height of the trigger, would explain it.", quantity.Format(round4(a)), quantity.Format(round4(b)))
	case math.Signbit(a) != math.Signbit(b):
		return ""
	}
	ratio := math.Max(a/b, b/a)
	for _, f := range factors {
		if math.Abs(ratio/f.by-1) <= sameShare {
			return fmt.Sprintf("%s is %s times %s: %s would explain it.", quantity.Format(round4(max(a, b))),
				quantity.Format(round4(f.by)), quantity.Format(round4(min(a, b))), f.why)
		}
	}
	return ""
}

func round4(n float64) float64 { return math.Round(n*1e4) / 1e4 }

func factor(list []Statement) string {
	for i := range list {
		for j := range i {
			if why := factorOf(list[i].numbers, list[j].numbers); why != "" {
				return why
			}
		}
	}
	return ""
}

// factorOf is Factor of values of several numbers: those that differ all have one.
func factorOf(a, b []float64) string {
	if len(a) != len(b) {
		return ""
	}
	why := ""
	for i := range a {
		if math.Abs(a[i]-b[i]) <= sameShare*math.Abs(a[i]) {
			continue
		}
		is := Factor(a[i], b[i])
		if is == "" {
			return ""
		}
		if why == "" {
			why = is
		}
	}
	return why
}

// Choice is what a statement says of a trait that is a choice, as its code; empty of a number.
func (x Statement) Choice() string { return x.text }

// Wrong are the files that state another value than the one that stands, by their number; none
// where none stands.
func (f *Disagreement) Wrong() []Statement {
	at := slices.IndexFunc(f.Statements, func(x Statement) bool { return f.Stands != "" && x.Value == f.Stands })
	if at < 0 {
		return nil
	}
	var out []Statement
	for _, x := range f.Statements {
		if x.File != 0 && differ(x, f.Statements[at]) {
			out = append(out, x)
		}
	}
	return out
}
