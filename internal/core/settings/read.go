package settings

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/dialect"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// ValueStatement is one calibrated value that settings state.
type ValueStatement struct {
	Kind    calibration.Kind    `json:"kind"`
	Subject calibration.Subject `json:"subject"`
	Value   string              `json:"value" doc:"As it is recorded: with its unit, in the record's sign"`
	Word    string              `json:"word" doc:"As it is written there: M92 E415"`
	Line    int                 `json:"line" doc:"From 1"`
	// Also are the lines before it that set the same value and do not count.
	Also []int `json:"also,omitempty" doc:"Lines before it that set it otherwise, and do not count"`

	written []written
}

// TraitStatement is one trait of a part that settings state.
type TraitStatement struct {
	Kind  string        `json:"kind" doc:"Of the part"`
	Trait string        `json:"trait"`
	Place machine.Place `json:"place"`
	Value float64       `json:"value"`
	Word  string        `json:"word"`
	Line  int           `json:"line" doc:"From 1"`

	written written
}

// written is where a number stands in a document, and how it is written there.
type written struct {
	entry  *dialect.Entry
	span   dialect.Span
	word   *Word
	number float64 // as on record
	factor float64 // of a rotation distance: full steps × microsteps × gear ratio
}

// Stated is what a document states.
type Stated struct {
	Document     *dialect.Document
	Family       string
	Calibrations []ValueStatement
	Traits       []TraitStatement
}

// Read finds the values in settings of a firmware family, as far as words are known; a family
// that is unknown is guessed by the form. Of a value that is set twice the last one counts, as it
// does for the firmware, but a block that the machine saved counts over what is before it. The
// error is of a text that is no settings of the family.
func (w *Words) Read(family, text string) (*Stated, error) {
	form := dialect.FormOf(text)
	if form == "" {
		form = dialect.GCode
		if family == parts.Hosted {
			form = dialect.Sections
		}
	}
	return w.ReadAs(family, form, text)
}

// ReadAs is Read of a text whose form is known.
func (w *Words) ReadAs(family string, form dialect.Form, text string) (*Stated, error) {
	if err := CheckForm(family, form); err != nil {
		return nil, err
	}
	d, err := dialect.Read(form, text)
	if err != nil {
		return nil, err
	}
	if family == "" {
		family = parts.Compiled
		if form == dialect.Sections {
			family = parts.Hosted
		}
	}
	r := reader{Stated: &Stated{Document: d, Family: family}, words: w, found: map[target][]written{}}
	r.read()
	return r.Stated, nil
}

// target is what a number is one of.
type target struct {
	kind    calibration.Kind
	subject calibration.Subject
	part    int
	trait   string
}

type reader struct {
	*Stated
	words *Words
	found map[target][]written
	order []target
}

func (r *reader) read() {
	d := r.Document
	var places []place
	section := "\x00"
	last := map[string]string{} // parameters of the line, by letter
	line := 0
	for i := range d.Entries {
		e := &d.Entries[i]
		if e.Force == dialect.CommentedOut || e.Force == dialect.Excluded {
			continue
		}
		k := wordKey{family: r.Family, form: d.Form, word: caseless(d.Form, d.Word(e)), letter: e.Letter}
		switch d.Form {
		case dialect.Sections:
			if s := d.Section(e); s != section {
				section, places = s, r.words.placesOf(s)
			}
			for _, at := range places {
				k.section = at.pattern
				for _, x := range r.words.by[k] {
					r.note(e, x, at)
				}
			}
			continue
		case dialect.GCode:
			if e.Line != line {
				line = e.Line
				clear(last)
				for j := i; j < len(d.Entries) && d.Entries[j].Line == line; j++ {
					last[string(d.Entries[j].Letter)] = d.Value(&d.Entries[j])
				}
			}
		}
		for _, x := range r.words.by[k] {
			r.note(e, x, place{tool: last["T"], heater: last["E"]})
		}
	}
	r.state()
}

// note takes down a number that a word gives.
func (r *reader) note(e *dialect.Entry, x *Word, at place) {
	d := r.Document
	for i, span := range d.Items(e) {
		if x.Item > 0 && i+1 != x.Item || x.Item == 0 && i > 0 && !strings.Contains(x.Of, "{item}") {
			continue
		}
		n, err := strconv.ParseFloat(strings.Trim(d.Text[span.From:span.To], "()"), 64)
		if err != nil || math.IsInf(n, 0) || math.IsNaN(n) {
			continue
		}
		of := x.Of
		if strings.IndexByte(of, '{') >= 0 {
			of = r.filled(of, at, i)
		}
		in := written{entry: e, span: span, word: x}
		number, ok := r.recorded(x, n, &in)
		if !ok {
			continue
		}
		in.number = number
		to := target{x.Calibration, calibration.Subject(of), x.Part, x.Trait}
		if r.found[to] == nil {
			r.order = append(r.order, to)
		}
		r.found[to] = append(r.found[to], in)
	}
}

// filled is a place with its numbers put in.
func (r *reader) filled(of string, at place, item int) string {
	head := func(text string) string {
		n, err := strconv.Atoi(text)
		if err != nil || n < 0 || n > machine.MostHeads {
			n = 0
		}
		return strconv.Itoa(n + 1)
	}
	return strings.NewReplacer("{n}", strconv.Itoa(at.n), "{axis}", at.axis, "{item}", strconv.Itoa(item+1),
		"{T}", head(at.tool), "{E}", head(at.heater)).Replace(of)
}

// recorded is a number as it stands on record.
func (r *reader) recorded(x *Word, n float64, in *written) (float64, bool) {
	switch x.As {
	case MilliRMS:
		return round(n/1000, 3), n > 0
	case MilliPeak:
		return round(n/1000/math.Sqrt2, 3), n > 0
	case AmpsPeak:
		return round(n/math.Sqrt2, 3), n > 0
	case TriggerHeight:
		return -n, true
	case RotationDistance:
		in.factor = r.perTurn(r.Document.Section(in.entry))
		return round(in.factor/n, 3), n > 0 && in.factor > 0
	}
	return n, true
}

// as is a number on record as the word writes it.
func (in written) as(n float64) (float64, error) {
	switch in.word.As {
	case MilliRMS:
		return math.Round(n * 1000), nil
	case MilliPeak:
		return math.Round(n * 1000 * math.Sqrt2), nil
	case AmpsPeak:
		return round(n*math.Sqrt2, 4), nil
	case TriggerHeight:
		return -n, nil
	case RotationDistance:
		if n <= 0 || in.factor <= 0 {
			return 0, fmt.Errorf("a rotation distance follows from steps per mm above 0, and from microsteps in its section")
		}
		return round(in.factor/n, 6), nil
	}
	return n, nil
}

// perTurn is full steps × microsteps × gear ratio of a section; 0 where its microsteps are not
// stated.
func (r *reader) perTurn(section string) float64 {
	number := func(key string, otherwise float64) float64 {
		e := r.Document.In(section, key)
		if e == nil {
			return otherwise
		}
		n, err := strconv.ParseFloat(r.Document.Value(e), 64)
		if err != nil || n <= 0 {
			return 0
		}
		return n
	}
	ratio := 1.0
	if e := r.Document.In(section, "gear_ratio"); e != nil {
		for pair := range strings.SplitSeq(r.Document.Value(e), ",") {
			a, b, _ := strings.Cut(pair, ":")
			of, errA := strconv.ParseFloat(strings.TrimSpace(a), 64)
			to, errB := strconv.ParseFloat(strings.TrimSpace(b), 64)
			if errA != nil || errB != nil || of <= 0 || to <= 0 {
				return 0
			}
			ratio *= of / to
		}
	}
	// A motor has 200 full steps where nothing else is said, as the family takes it.
	return number("full_steps_per_rotation", 200) * number("microsteps", 0) * ratio
}

// counts is the place of several that counts: the last, but a saved one before any other.
func counts(list []written) (in written, also []int) {
	at := len(list) - 1
	for i := len(list) - 1; i >= 0; i-- {
		if list[i].entry.Saved {
			at = i
			break
		}
	}
	for i, x := range list {
		if i != at && math.Abs(x.number-list[at].number) > tolerance*max(1, math.Abs(list[at].number)) {
			also = append(also, x.entry.Line)
		}
	}
	return list[at], also
}

// state puts the numbers together to values.
func (r *reader) state() {
	done := map[target]bool{}
	for _, to := range r.order {
		if to.trait != "" {
			r.stateTrait(to)
			continue
		}
		whole := target{kind: to.kind, subject: to.subject}
		c, known := calibration.Of(to.kind)
		if done[whole] || !known {
			continue
		}
		done[whole] = true
		st := ValueStatement{Kind: to.kind, Subject: to.subject}
		numbers := []float64{}
		for p := range max(1, len(c.Parts)) {
			whole.part = 0
			if len(c.Parts) > 0 {
				whole.part = p + 1
			}
			list := r.found[whole]
			if len(list) == 0 {
				break
			}
			in, also := counts(list)
			st.written = append(st.written, in)
			st.Also = append(st.Also, also...)
			numbers = append(numbers, in.number)
		}
		if len(numbers) < max(1, len(c.Parts)) {
			continue
		}
		slices.Sort(st.Also)
		st.Also = slices.Compact(st.Also)
		st.Value = valueOf(c, numbers)
		st.Line = st.written[0].entry.Line
		st.Word = r.saysOf(st.written)
		r.Calibrations = append(r.Calibrations, st)
	}
	slices.SortStableFunc(r.Calibrations, func(a, b ValueStatement) int { return a.Line - b.Line })
	slices.SortStableFunc(r.Traits, func(a, b TraitStatement) int { return a.Line - b.Line })
}

func (r *reader) stateTrait(to target) {
	kind, name, _ := strings.Cut(to.trait, ".")
	at, err := machine.ParsePlace(string(to.subject))
	if err != nil {
		return
	}
	in, _ := counts(r.found[to])
	r.Traits = append(r.Traits, TraitStatement{Kind: kind, Trait: name, Place: at, Value: in.number,
		Word: r.Document.Says(in.entry), Line: in.entry.Line, written: in})
}

// saysOf is how a value is written: on one line of G-code with all of its parameters.
func (s *Stated) saysOf(list []written) string {
	d := s.Document
	out := d.Says(list[0].entry)
	for _, in := range list[1:] {
		switch {
		case in.entry == list[0].entry:
		case d.Form == dialect.GCode && in.entry.Line == list[0].entry.Line:
			out += " " + string(in.entry.Letter) + d.Value(in.entry)
		default:
			out += ", " + d.Word(in.entry) + " " + d.Value(in.entry)
		}
	}
	return out
}

// valueOf is numbers as the value of a calibration is recorded: "415 steps/mm", "P 21.7 I 1.6 D 74".
func valueOf(c calibration.Calibration, n []float64) string {
	if len(c.Parts) == 0 {
		return strings.TrimSpace(signed(round(n[0], 4)) + " " + c.Unit)
	}
	var out []string
	for i, p := range c.Parts {
		out = append(out, p.Name+" "+signed(round(n[i], 4)))
	}
	return strings.TrimSpace(strings.Join(out, " ") + " " + c.Unit)
}

func number(n float64) string { return strconv.FormatFloat(n, 'f', -1, 64) }

func signed(n float64) string {
	if n < 0 {
		return "−" + number(-n)
	}
	return number(n)
}

func round(n float64, digits int) float64 {
	p := math.Pow10(digits)
	return math.Round(n*p) / p
}
