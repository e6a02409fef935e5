package inspection

import (
	"fmt"
	"slices"
	"strings"
	"unicode"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Decodes reports whether a trait is a marking that tells other traits of its part.
func Decodes(t *machine.Trait, voc *machine.Vocabulary) bool {
	p := t.Position()
	return t == voc.Of(p, parts.MainboardProcessor) || t == voc.Of(p, parts.DriverMarking)
}

// Decode gives the traits that a recorded marking brings with it, as text: a
// processor's pins, flash, package and temperature range; a driver chip's
// model, law and step range. A marking that cannot be right is an error.
func Decode(key machine.Key, text string, on machine.Snapshot) (map[machine.Key]string, error) {
	voc := on.Vocabulary()
	t, ok := voc.Trait(key)
	if !ok {
		return nil, nil
	}
	p := t.Position()
	switch t {
	case voc.Of(p, parts.MainboardProcessor):
		return bench.MarkingReadings(text, p, on)
	case voc.Of(p, parts.DriverMarking):
	default:
		return nil, nil
	}
	found, _ := byMarking(voc, p.Kind, text)
	if len(found) != 1 || !complete(found[0], text) {
		return nil, nil
	}
	out := map[machine.Key]string{machine.KeyOf(p.Key, machine.ModelTrait): found[0].Name}
	defaults := voc.DefaultsOf(p.Kind, found[0].Name)
	for _, name := range []machine.TraitOf{parts.DriverLaw, parts.DriverMaxMicrosteps, parts.DriverSilent} {
		if v, ok := defaults[name.Name]; ok {
			out[machine.KeyOf(p.Key, name.Name)] = v.Text
		}
	}
	return out, nil
}

// How the value of a trait is worked out while it is typed.
const (
	ProcessorHelp = "processor marking" // letter by letter
	SensorHelp    = "sensor"            // by two resistances
	HeaterHelp    = "heater resistance" // power by its resistance
)

// HelpFor says how the value of a trait of a machine is worked out while it is typed;
// empty when it is only typed.
func HelpFor(t *machine.Trait, on machine.Snapshot) string {
	switch {
	case t.Is(parts.MainboardProcessor) && !on.Says(t.Position(), parts.MainboardWidth, bench.EightBit):
		return ProcessorHelp
	case t.Is(parts.SensorType):
		return SensorHelp
	case t.Is(parts.HeaterWatts):
		return HeaterHelp
	}
	return ""
}

// letters keeps what a marking is made of.
func letters(text string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			return unicode.ToUpper(r)
		}
		return -1
	}, text)
}

func complete(m machine.Model, text string) bool {
	return slices.ContainsFunc(
		m.Markings,
		func(mark string) bool { return strings.HasPrefix(letters(text), letters(mark)) },
	)
}

// byMarking finds the models whose marking the text begins with, or that it is
// the beginning of; and, when there are none, the markings that look alike.
func byMarking(voc *machine.Vocabulary, kind, text string) (found []machine.Model, alike []string) {
	typed := letters(text)
	if typed == "" {
		return nil, nil
	}
	for _, m := range voc.Catalogue.Models {
		if m.Kind != kind || m.Superseded != "" {
			continue
		}
		if slices.ContainsFunc(m.Markings, func(mark string) bool {
			return strings.HasPrefix(typed, letters(mark)) || strings.HasPrefix(letters(mark), typed)
		}) {
			found = append(found, m)
		}
	}
	if len(found) > 0 {
		return found, nil
	}
	for _, m := range voc.Catalogue.Models {
		for _, mark := range m.Markings {
			if m.Kind == kind && bench.LooksAlike(typed, letters(mark)) {
				alike = append(alike, mark)
			}
		}
	}
	return nil, alike
}

// Said is one thing that a text says.
type Said struct {
	Label string `json:"label"`
	Value string `json:"value"`
}

// Peek is what an answer says while it is typed, before it is recorded.
type Peek struct {
	Cells       []Said          `json:"cells"`
	Problem     string          `json:"problem,omitempty" doc:"Why it cannot be right"`
	LookAlikes  []string        `json:"lookAlikes" doc:"What it may be instead"`
	Note        string          `json:"note,omitempty"`
	Contradicts []Contradiction `json:"against" doc:"What it contradicts in the rest of the machine"`
	Differs     bool            `json:"differs" doc:"More than a claim says otherwise: was it changed, or was that wrong?"`
}

// PeekAt reads an answer as far as it is typed.
func PeekAt(key machine.Key, text string, on machine.Snapshot, records []calibration.Record) Peek {
	p := Peek{Cells: []Said{}, LookAlikes: []string{}, Contradicts: []Contradiction{}}
	t, ok := on.Vocabulary().Trait(key)
	if !ok || strings.TrimSpace(text) == "" {
		return p
	}
	v, err := t.Parse(text)
	if err != nil {
		p.Problem = err.Error()
		return p
	}
	if t.Hint != "" {
		p.Note = "Kept as a hint: " + t.Hint + "."
	}
	stands := on.At(t)
	p.Differs = stands.Known() && stands.Grade > machine.Claimed && !t.Same(stands.Value, v)
	then := on.WithValue(key, v, machine.Observed)
	at := t.Position()
	switch voc := on.Vocabulary(); {
	case t == voc.Of(at, parts.MainboardProcessor) && !on.Says(at, parts.MainboardWidth, bench.EightBit):
		p.processor(text, at, on)
		if more, err := bench.MarkingReadings(text, at, on); err == nil {
			then = assume(then, more)
		}
	case t == voc.Of(at, parts.DriverMarking):
		p.driver(voc, at.Kind, text)
		if more, err := Decode(key, text, on); err == nil {
			then = assume(then, more)
		}
	case t == voc.Of(at, parts.ExtruderSteps):
		p.gear(bench.DriveOf(on, at), v.Number)
		if old := on.At(t); old.Known() {
			p.Note = strings.TrimSpace(strings.Join(append(bench.ExplainChange(old.Value.Number, v.Number), p.Note), ". "))
		}
	}
	before := map[string]bool{}
	for _, c := range append(Contradictions(on, records), leaning(on)...) {
		before[c.Sentence] = true
	}
	for _, c := range append(Contradictions(then, records), leaning(then)...) {
		if !before[c.Sentence] {
			p.Contradicts = append(p.Contradicts, c)
		}
	}
	return p
}

func assume(s machine.Snapshot, more map[machine.Key]string) machine.Snapshot {
	for k, text := range more {
		if t, ok := s.Vocabulary().Trait(k); ok {
			if v, err := t.ParseRecorded(text); err == nil {
				s = s.WithValue(k, v, machine.Observed)
			}
		}
	}
	return s
}

func (p *Peek) processor(text string, board *machine.Position, on machine.Snapshot) {
	m := bench.DecodeProcessorMarking(text).Agreeing(bench.KnownOf(board, on))
	p.Problem = m.Problem
	p.LookAlikes = append(p.LookAlikes, m.LookAlikes...)
	if m.Problem != "" && len(m.LookAlikes) == 0 && len([]rune(m.Code)) == 4 {
		p.Note = "No code that looks alike agrees with what else is known of the board: it may be another maker's " +
			"scheme. Look again, or record the chip's maker first."
	}
	add := func(label, value string) {
		if value != "" {
			p.Cells = append(p.Cells, Said{label, value})
		}
	}
	if m.Pins > 0 {
		add("pins", fmt.Sprint(m.Pins))
	}
	if m.FlashKiB > 0 {
		add("flash", fmt.Sprint(m.FlashKiB)+" KiB")
	}
	add("package", m.Package)
	add("temperature", m.Temperature)
}

func (p *Peek) driver(voc *machine.Vocabulary, kind, text string) {
	found, alike := byMarking(voc, kind, text)
	p.LookAlikes = append(p.LookAlikes, alike...)
	switch {
	case len(found) == 0:
		p.Note = "No model in the catalogue has a chip marked so. Record it as it stands, and add the model with its " +
			"law from the chip's datasheet."
		return
	case len(found) > 1 || !complete(found[0], text):
		var names []string
		for _, m := range found {
			names = append(names, m.Name)
		}
		p.Note = "May become " + strings.Join(names, ", ") + ": type on."
		return
	}
	p.Cells = append(p.Cells, Said{"model", found[0].Name})
	d := voc.DefaultsOf(kind, found[0].Name)
	if law, ok := d[parts.DriverLaw.Name]; ok {
		p.Cells = append(p.Cells, Said{"law", law.Text}, Said{"current", bench.LawFormula(law.Text)})
	}
	if finest, ok := d[parts.DriverMaxMicrosteps.Name]; ok {
		p.Cells = append(p.Cells, Said{"step range", "1 to 1/" + finest.Text})
	}
	if rs, ok := d["rs"]; ok {
		p.Cells = append(p.Cells, Said{"sense resistor, as usual with it", rs.Text + " Ω"})
	}
}

func (p *Peek) gear(d bench.Drive, steps float64) {
	if mm := d.GearDiameter(steps); mm > 0 {
		p.Cells = append(p.Cells, Said{"effective drive gear", fmt.Sprintf("%.2f mm", mm)})
		p.Note = fmt.Sprintf(
			"360 ÷ %g° × %g × %g ÷ (π × %g steps/mm) = %.2f mm",
			d.StepAngle,
			d.Microsteps,
			d.Ratio,
			steps,
			mm,
		)
		return
	}
	var lacks []string
	for _, f := range []struct {
		name string
		v    float64
	}{{"the motor's step angle", d.StepAngle}, {"the driver's microsteps", d.Microsteps}, {"the gear ratio", d.Ratio}} {
		if f.v == 0 {
			lacks = append(lacks, f.name)
		}
	}
	p.Note = "The drive gear follows from it once these are known: " + strings.Join(lacks, ", ") + "."
}
