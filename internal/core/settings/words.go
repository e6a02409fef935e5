package settings

import (
	"bytes"
	_ "embed"
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/dialect"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Word says what a word means in the settings of one family: the same word can mean something
// else in another.
type Word struct {
	Family string       `json:"family" enum:"compiled,hosted,scripted"`
	Form   dialect.Form `json:"form" enum:"C header,sections of keys,G-code"`
	// Of sections of keys only. {n} stands for the number of a head, none for the first and 1 for
	// the second; {axis} for the letter of an axis; a * before it for any other word.
	Section string `json:"section,omitempty" maxLength:"60" doc:"The section, such as extruder{n} or * stepper_{axis}"`
	Word    string `json:"word" minLength:"1" maxLength:"60" doc:"M92, DEFAULT_Kp, rotation_distance"`
	Letter  string `json:"letter,omitempty" maxLength:"1" doc:"Of G-code: the parameter, such as E"`
	Item    int    `json:"item,omitempty" minimum:"0" maximum:"16" doc:"Which of a list, from 1; 0 for a single value"`
	// One of the two.
	Calibration calibration.Kind `json:"calibration,omitempty" doc:"What it is the value of"`
	Part        int              `json:"part,omitempty" minimum:"0" maximum:"3" doc:"Which of its numbers, from 1"`
	Trait       string           `json:"trait,omitempty" maxLength:"80" doc:"A kind of part and its trait: frame.x"`
	// {n} and {axis} are those of the section, {T} and {E} the number that this parameter gives,
	// from 0, {item} which of a list it is.
	Of string `json:"of" maxLength:"40" doc:"The place that it serves: head 1, axis x, bed, head {T}"`
	As string `json:"as,omitempty" enum:"mA RMS,mA peak,A RMS,A peak,trigger height,rotation distance,"`
	// Of a trait that is a choice, or yes or no: how each is written. Two are no values: on is an option
	// that is in force, off one that is written as a comment.
	Values map[string]string `json:"values,omitempty" doc:"How each choice is written: 1 means 100k thermistor"`
}

// Options of a header that are in force, and that are written as comments.
const (
	On  = "on"
	Off = "off"
)

// How a number is written where it is not as on record.
const (
	MilliRMS  = "mA RMS"
	MilliPeak = "mA peak"
	AmpsRMS   = "A RMS"
	AmpsPeak  = "A peak"
	// TriggerHeight is the Z offset with the other sign.
	TriggerHeight = "trigger height"
	// RotationDistance is full steps × microsteps × gear ratio ÷ steps per mm.
	RotationDistance = "rotation distance"
)

//go:embed words.json
var shippedWords []byte

// Shipped are the words that the program comes with. Source of the words, and of what they mean
// in which family: from memory.
var Shipped = sync.OnceValue(func() *Words {
	var file struct {
		Version int    `json:"version"`
		Words   []Word `json:"words"`
	}
	in := json.NewDecoder(bytes.NewReader(shippedWords))
	in.DisallowUnknownFields()
	if err := in.Decode(&file); err != nil {
		panic("words.json: " + err.Error())
	}
	return NewWords(file.Words)
})

// Words are the words that are known, those of a shop before those of the program.
type Words struct {
	list []Word
	by   map[string][]*Word // by how they are looked up
	// sections are the patterns of sections that words stand in, by family.
	sections []*pattern
}

// NewWords indexes words; of two that say what one word means the later counts.
func NewWords(lists ...[]Word) *Words {
	w := &Words{by: map[string][]*Word{}}
	at := map[string]int{}
	for _, list := range lists {
		for _, x := range list {
			id := x.ID()
			if i, known := at[id]; known {
				w.list[i] = x
				continue
			}
			at[id] = len(w.list)
			w.list = append(w.list, x)
		}
	}
	patterns := map[string]bool{}
	for i := range w.list {
		x := &w.list[i]
		k := caseless(x.Form, x.Word)
		w.by[k] = append(w.by[k], x)
		if x.Form == dialect.Sections && !patterns[x.Section] {
			patterns[x.Section] = true
			w.sections = append(w.sections, newPattern(x.Section))
		}
	}
	return w
}

// means says whether a word of a family stands for this one, in a section that fits a pattern.
func (x *Word) means(family string, form dialect.Form, section string, letter byte) bool {
	own := byte(0)
	if x.Letter != "" {
		own = x.Letter[0]
	}
	return own == letter && x.Form == form && x.Family == family && x.Section == section
}

// caseless is a word as it is looked up: keys of sections and G-code are alike in any case.
func caseless(form dialect.Form, word string) string {
	switch form {
	case dialect.Sections:
		return strings.ToLower(word)
	case dialect.GCode:
		return strings.ToUpper(word)
	}
	return word
}

// List is every word that is known.
func (w *Words) List() []Word { return w.list }

// ID tells a word from every other: of two with one ID the later counts.
func (x Word) ID() string {
	return strings.Join([]string{x.Family, string(x.Form), x.Section, caseless(x.Form, x.Word), x.Letter,
		strconv.Itoa(x.Item), strconv.Itoa(x.Part)}, "\x00")
}

var formsOf = map[string][]dialect.Form{
	parts.Compiled: {dialect.Header, dialect.GCode},
	parts.Hosted:   {dialect.Sections},
	parts.Scripted: {dialect.GCode},
}

// CheckForm says why settings of a form are none of a family's; a family that is unknown has any.
func CheckForm(family string, form dialect.Form) error {
	forms, known := formsOf[family]
	if !known || form == "" {
		return nil
	}
	for _, f := range forms {
		if f == form {
			return nil
		}
	}
	return fmt.Errorf("this is written as %s, and the %s family has %s: choose the machine's own file, or correct "+
		"its family",
		form, family, forms[0])
}

var wordForms = map[dialect.Form]*regexp.Regexp{
	dialect.Header:   regexp.MustCompile(`^[A-Za-z_]\w*$`),
	dialect.Sections: regexp.MustCompile(`^[A-Za-z_][\w.-]*$`),
	dialect.GCode:    regexp.MustCompile(`^[GMgm]\d{1,4}(\.\d)?$`),
}

// Check says what is wrong with a word, and what would be right.
func (x Word) Check(voc *machine.Vocabulary) error {
	if err := CheckForm(x.Family, x.Form); err != nil {
		return err
	}
	if shape, ok := wordForms[x.Form]; !ok || !shape.MatchString(x.Word) {
		return fmt.Errorf("%q is no word of %s: such as M92 in G-code, DEFAULT_Kp in a C header, run_current in a section",
			x.Word, x.Form)
	}
	switch {
	case (x.Form == dialect.GCode) != (x.Letter != ""):
		return fmt.Errorf("a word of G-code has the letter of its parameter, such as E, and no other word has one")
	case x.Letter != "" && (x.Letter < "A" || x.Letter > "Z"):
		return fmt.Errorf("%q is no letter of a parameter: A to Z are", x.Letter)
	case (x.Form == dialect.Sections) != (x.Section != ""):
		return fmt.Errorf("a key has the section that it stands in, such as extruder{n}, and no other word has one")
	case x.Calibration == "" && x.Trait == "" || x.Calibration != "" && x.Trait != "":
		return fmt.Errorf("say either which calibration it is the value of, or which trait of a part it tells")
	}
	place := standsForNumber.ReplaceAllString(x.Of, "1")
	if strings.Contains(x.Of, "{axis}") {
		place = strings.ReplaceAll(x.Of, "{axis}", "x")
	}
	if _, err := machine.ParsePlace(place); err != nil {
		return fmt.Errorf("%s: %w", x.Of, err)
	}
	if x.Trait != "" {
		kind, name, _ := strings.Cut(x.Trait, ".")
		t := voc.TraitOfKind(kind, name)
		if t == nil {
			return fmt.Errorf("no kind of part has the trait %s: write its kind, a point and its key, such as frame.x", x.Trait)
		}
		return x.checkValues(t)
	}
	if len(x.Values) > 0 {
		return fmt.Errorf("a calibration is a number: only a trait has choices that are written otherwise")
	}
	c, known := calibration.Of(x.Calibration)
	switch {
	case !known:
		return fmt.Errorf("there is no calibration %s", x.Calibration)
	case len(c.Parts) == 0 && x.Part != 0, len(c.Parts) > 0 && (x.Part < 1 || x.Part > len(c.Parts)):
		return fmt.Errorf("%s is made of %d numbers: say which of them it is, from 1, and nothing where it is one",
			c.Title, max(1, len(c.Parts)))
	}
	return nil
}

// mostValues is how many choices one word may state.
const mostValues = 100

// checkValues says what is wrong with how the choices of a trait are written.
func (x Word) checkValues(t *machine.Trait) error {
	choices := t.Words()
	switch {
	case t.Kind == machine.Number && len(x.Values) == 0:
		return nil
	case t.Kind == machine.Number:
		return fmt.Errorf("%s is a number: it is read as it is written, and has no list of choices", t.Label)
	case t.Kind != machine.Choice && t.Kind != machine.YesNo:
		return fmt.Errorf("%s is a text: settings state numbers and choices", t.Label)
	case len(x.Values) == 0:
		return fmt.Errorf("%s is a choice: say how each is written, such as 1 for %s", t.Label, choices[0])
	case len(x.Values) > mostValues:
		return fmt.Errorf("%d choices are too many: %d at most", len(x.Values), mostValues)
	}
	for as, is := range x.Values {
		if strings.TrimSpace(as) == "" || len(as) > 60 {
			return fmt.Errorf("%q is not how a choice is written: one to 60 letters are", as)
		}
		if (as == On || as == Off) && x.Form != dialect.Header {
			return fmt.Errorf("only an option of a C header is %s or %s by itself", On, Off)
		}
		if !slices.Contains(choices, is) {
			return fmt.Errorf("%s is none of %s", is, strings.Join(choices, ", "))
		}
	}
	return nil
}

// standsForNumber are the places in a pattern that a number stands for.
var standsForNumber = regexp.MustCompile(`\{(?:n|T|E|item)\}`)

// pattern is the name of a section with what may stand in it.
type pattern struct {
	text    string
	literal string // what stands in every section that fits: at its begin, or after its first word
	begins  bool
	re      *regexp.Regexp
}

// mayFit says whether what stands in every section that fits stands in this one.
func (p *pattern) mayFit(section string) bool {
	if p.begins {
		return strings.HasPrefix(section, p.literal)
	}
	return strings.Contains(section, p.literal)
}

func newPattern(text string) *pattern {
	re := regexp.QuoteMeta(strings.ToLower(text))
	re = strings.Replace(re, `\{n\}`, `(?P<n>\d{0,2})`, 1)
	re = strings.Replace(re, `\{axis\}`, `(?P<axis>[a-z])`, 1)
	re = strings.Replace(re, `\* `, `[^ ]+ `, 1)
	literal, afterWord := strings.CutPrefix(strings.ToLower(text), "*")
	if cut := strings.IndexAny(literal, "{*"); cut >= 0 {
		literal = literal[:cut]
	}
	return &pattern{text, literal, !afterWord, regexp.MustCompile("^" + re + "$")}
}

// place is what a section, or the other parameters of a G-code word, say of where a value belongs.
type place struct {
	pattern string
	n       int // of a head, from 1
	axis    string
	// Of G-code: the values of its parameters T and E, and H, which names a heater that is watched.
	tool, heater, watched string
}

// mayHold says whether words may stand in a section.
func (w *Words) mayHold(section string) bool {
	return slices.ContainsFunc(w.sections, func(p *pattern) bool { return p.mayFit(section) })
}

// placesOf are the patterns that a section fits, with what stands in it.
func (w *Words) placesOf(section string) []place {
	var out []place
	for _, p := range w.sections {
		if !p.mayFit(section) {
			continue
		}
		m := p.re.FindStringSubmatch(section)
		if m == nil {
			continue
		}
		at := place{pattern: p.text, n: 1}
		for i, name := range p.re.SubexpNames() {
			switch name {
			case "n":
				if n, err := strconv.Atoi(m[i]); err == nil {
					at.n = n + 1
				}
			case "axis":
				at.axis = m[i]
			}
		}
		out = append(out, at)
	}
	return out
}
