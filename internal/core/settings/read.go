package settings

import (
	"cmp"
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
	File    int                 `json:"-"` // of those read, from 0
	Line    int                 `json:"line" doc:"Of its file, from 1"`
	// Also are the lines that set the same value and do not count.
	Also []string `json:"also,omitempty" doc:"The lines that set it otherwise, and do not count: line 12 of more.cfg"`

	written []written
}

// TraitStatement is one trait of a part that settings state.
type TraitStatement struct {
	Kind  string        `json:"kind" doc:"Of the part"`
	Trait string        `json:"trait"`
	Place machine.Place `json:"place"`
	Value float64       `json:"value" doc:"Of a trait that is a number"`
	// Of a trait that is a choice or yes or no.
	Choice string `json:"choice,omitempty"`
	Word   string `json:"word"`
	File   int    `json:"-"` // of those read, from 0
	Line   int    `json:"line" doc:"Of its file, from 1"`

	written written
}

// written is where a number stands in a document, and how it is written there.
type written struct {
	entry  *dialect.Entry
	span   dialect.Span
	word   *Word
	number float64 // as on record
	choice string  // as on record, of a word that states a choice
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
	return w.ReadAs(family, FormFor(family, text), text)
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
	return w.state(family, form, d), nil
}

// State finds the values in a document that was read.
func (w *Words) State(family string, d *dialect.Document) (*Stated, error) {
	if err := CheckForm(family, d.Form); err != nil {
		return nil, err
	}
	return w.state(family, d.Form, d), nil
}

// FormFor is how a text of a family is written, as far as that can be told; else as it usually is.
func FormFor(family, text string) dialect.Form {
	if form := dialect.FormOf(text); form != "" {
		return form
	}
	return usualForm(family)
}

// usualForm is that of a text of a family of which nothing tells the form.
func usualForm(family string) dialect.Form {
	if family == parts.Hosted {
		return dialect.Sections
	}
	return dialect.GCode
}

// state finds the values in a document.
func (w *Words) state(family string, form dialect.Form, d *dialect.Document) *Stated {
	if family == "" {
		family = parts.Compiled
		if form == dialect.Sections {
			family = parts.Hosted
		}
	}
	r := reader{Stated: &Stated{Document: d, Family: family}, words: w, found: map[target][]written{}}
	r.read()
	return r.Stated
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
	places := []place{{}}
	section, line, holds := "\x00", 0, false
	for i := range d.Entries {
		e := &d.Entries[i]
		if e.Force == dialect.Excluded || e.Force == dialect.CommentedOut && d.Form != dialect.Header {
			continue
		}
		if d.Form == dialect.Sections {
			if s := d.Section(e); s != section {
				section, places, holds = s, nil, r.words.mayHold(s)
			}
			if !holds {
				continue
			}
		}
		words := r.words.by[caseless(d.Form, d.Word(e))]
		if len(words) == 0 {
			continue
		}
		switch d.Form {
		case dialect.Sections:
			if places == nil {
				places = r.words.placesOf(section)
				holds = len(places) > 0
			}
		case dialect.GCode:
			if e.Line != line {
				line, places = e.Line, []place{parametersOf(d, i)}
			}
		}
		for _, at := range places {
			for _, x := range words {
				if x.means(r.Family, d.Form, at.pattern, e.Letter) {
					r.note(e, x, at)
				}
			}
		}
	}
	r.state()
}

// parametersOf is what the other parameters of a G-code word say: those of the line of an entry.
func parametersOf(d *dialect.Document, i int) place {
	var at place
	line := d.Entries[i].Line
	for i > 0 && d.Entries[i-1].Line == line {
		i--
	}
	for ; i < len(d.Entries) && d.Entries[i].Line == line; i++ {
		switch e := &d.Entries[i]; e.Letter {
		case 'T':
			at.tool = d.Value(e)
		case 'E':
			at.heater = d.Value(e)
		case 'H':
			at.watched = d.Value(e)
		}
	}
	return at
}

// note takes down a number that a word gives.
func (r *reader) note(e *dialect.Entry, x *Word, at place) {
	d := r.Document
	if len(x.Values) > 0 {
		r.noteChoice(e, x, at)
		return
	}
	if e.Force == dialect.CommentedOut {
		return
	}
	for i, span := range d.Items(e) {
		if x.Item > 0 && i+1 != x.Item || x.Item == 0 && i > 0 && !strings.Contains(x.Of, "{item}") {
			continue
		}
		n, ok := d.Number(span)
		if !ok {
			r.tellNoNumber(e, span)
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
		r.keep(target{x.Calibration, calibration.Subject(of), x.Part, x.Trait}, in)
	}
}

func (r *reader) keep(to target, in written) {
	if r.found[to] == nil {
		r.order = append(r.order, to)
	}
	r.found[to] = append(r.found[to], in)
}

// noteChoice takes down a choice that a word gives. An option that is written as a comment is off.
func (r *reader) noteChoice(e *dialect.Entry, x *Word, at place) {
	value := strings.Trim(strings.TrimSpace(r.Document.Value(e)), `"`)
	choice := ""
	if e.Force == dialect.CommentedOut {
		choice = x.Values[Off]
	} else if choice = x.Values[On]; choice == "" {
		for written, is := range x.Values {
			if strings.EqualFold(written, value) && written != Off {
				choice = is
			}
		}
	}
	if choice == "" {
		return
	}
	of := calibration.Subject(r.filled(x.Of, at, 0))
	r.keep(target{trait: x.Trait, subject: of}, written{entry: e, span: r.Document.ValueAt(e), word: x, choice: choice})
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

// counts is the place of several that counts: the last, but a saved one before any other, and one
// that is commented out after every other. Undecided are those of which a condition that is not
// known here decides whether they do: none counts then.
func counts(list []written) (in written, also, undecided []written) {
	at := len(list) - 1
	for i := len(list) - 1; i >= 0; i-- {
		if list[i].entry.Force != dialect.CommentedOut {
			at = i
			break
		}
	}
	for i := len(list) - 1; i >= 0; i-- {
		if list[i].entry.Saved {
			at = i
			break
		}
	}
	open := list[at].entry.Force == dialect.Undecided
	for i, x := range list {
		if i == at || x.entry.Force == dialect.CommentedOut || x.same(list[at]) {
			continue
		}
		also = append(also, x)
		open = open || x.entry.Force == dialect.Undecided && i > at
	}
	if open && len(also) > 0 {
		return list[at], nil, append(also, list[at])
	}
	return list[at], also, nil
}

// same reports whether two places state one value.
func (in written) same(as written) bool {
	return in.choice == as.choice && math.Abs(in.number-as.number) <= tolerance*max(1, math.Abs(as.number))
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
		r.stateValue(c, to.subject)
	}
	slices.SortStableFunc(r.Calibrations, func(a, b ValueStatement) int {
		return cmp.Or(cmp.Compare(a.File, b.File), cmp.Compare(a.Line, b.Line))
	})
	slices.SortStableFunc(r.Traits, func(a, b TraitStatement) int {
		return cmp.Or(cmp.Compare(a.File, b.File), cmp.Compare(a.Line, b.Line))
	})
}

// stateValue puts the numbers of a calibration together.
func (r *reader) stateValue(c calibration.Calibration, of calibration.Subject) {
	st := ValueStatement{Kind: c.Kind, Subject: of}
	to := target{kind: c.Kind, subject: of}
	numbers := []float64{}
	for p := range max(1, len(c.Parts)) {
		if len(c.Parts) > 0 {
			to.part = p + 1
		}
		list := r.found[to]
		if len(list) == 0 {
			return
		}
		in, also, undecided := counts(list)
		if r.tellUndecided(undecided) {
			return
		}
		st.written = append(st.written, in)
		for _, x := range also {
			if at := r.lineOf(x.entry); !slices.Contains(st.Also, at) {
				st.Also = append(st.Also, at)
			}
		}
		numbers = append(numbers, in.number)
	}
	st.Value = valueOf(c, numbers)
	st.File, st.Line = r.Document.PlaceOf(st.written[0].entry.Line)
	st.Word = r.saysOf(st.written) + r.under(st.written...)
	r.Calibrations = append(r.Calibrations, st)
}

func (r *reader) stateTrait(to target) {
	kind, name, _ := strings.Cut(to.trait, ".")
	at, err := machine.ParsePlace(string(to.subject))
	if err != nil {
		return
	}
	in, _, undecided := counts(r.found[to])
	if r.tellUndecided(undecided) {
		return
	}
	st := TraitStatement{Kind: kind, Trait: name, Place: at, Value: in.number, Choice: in.choice,
		Word: r.Document.Says(in.entry) + r.under(in), written: in}
	if in.entry.Force == dialect.CommentedOut {
		st.Word += " (commented out)"
	}
	st.File, st.Line = r.Document.PlaceOf(in.entry.Line)
	r.Traits = append(r.Traits, st)
}

// tellUndecided tells of a value that a condition decides which is not known here; false where none
// does.
func (r *reader) tellUndecided(list []written) bool {
	if len(list) == 0 {
		return false
	}
	d := r.Document
	slices.SortFunc(list, func(a, b written) int { return a.entry.Line - b.entry.Line })
	says, on := []string{}, ""
	for _, in := range list {
		says = append(says, d.Says(in.entry)+" on "+r.lineOf(in.entry))
		if on == "" {
			on = d.Condition(in.entry)
		}
	}
	file, line := d.PlaceOf(list[0].entry.Line)
	d.Faults = append(d.Faults, dialect.LineFault{File: d.FileName(file), Line: line,
		Says: strings.Join(says, ", or ") + ": which of them counts depends on " + on + ", which is not known here"})
	return true
}

// tellNoNumber tells of a value that is known by its word and is no number that can be worked out here.
func (r *reader) tellNoNumber(e *dialect.Entry, at dialect.Span) {
	d := r.Document
	file, line := d.PlaceOf(e.Line)
	fault := dialect.LineFault{File: d.FileName(file), Line: line,
		Says: d.Says(e) + ": " + d.Text[at.From:at.To] + " is no number, nor can it be worked out from what is read here"}
	if at.To > at.From && len(d.Faults) < mostNoNumbers && !slices.Contains(d.Faults, fault) {
		d.Faults = append(d.Faults, fault)
	}
}

// mostNoNumbers bounds the faults of a document to which values that are no numbers are added.
const mostNoNumbers = 100

// lineOf is the line of an entry for people: "line 12", "line 12 of more.cfg".
func (s *Stated) lineOf(e *dialect.Entry) string {
	file, line := s.Document.PlaceOf(e.Line)
	if name := s.Document.FileName(file); name != "" {
		return fmt.Sprintf("line %d of %s", line, name)
	}
	return fmt.Sprintf("line %d", line)
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

// under is the condition that decides whether a value counts, where that is not known: it is the only one of its
// word, and counts or nothing does.
func (s *Stated) under(list ...written) string {
	for _, in := range list {
		if in.entry.Force == dialect.Undecided {
			return " (only under " + s.Document.Condition(in.entry) + ", which is not known here)"
		}
	}
	return ""
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
