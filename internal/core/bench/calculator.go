package bench

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"wardifex/internal/core/quantity"
)

// Calculator is one sum of the trade: what it asks for, and how it comes to its result.
type Calculator struct {
	Key    string  `json:"key"`
	Title  string  `json:"title"`
	About  string  `json:"about" doc:"When one needs it"`
	Group  string  `json:"group"`
	Inputs []Input `json:"inputs"`
	Source string  `json:"source" doc:"Where its law is published, or that it is common practice"`

	work func(v Values) (Result, error)
}

// Input is one thing that a calculator asks for: a number in its unit, one of several words,
// or a text of several lines.
type Input struct {
	Key      string     `json:"key"`
	Label    string     `json:"label"`
	Unit     string     `json:"unit,omitempty"`
	Hint     string     `json:"hint,omitempty"`
	Min      float64    `json:"min" doc:"In its unit; no bound where both are 0"`
	Max      float64    `json:"max"`
	Usual    [2]float64 `json:"usual" doc:"What is usual: another number is asked about; both 0 where nothing is"`
	Choices  []Choice   `json:"choices,omitempty"`
	Lines    bool       `json:"lines,omitempty" doc:"A text of several lines"`
	Optional bool       `json:"optional,omitempty"`
	Default  string     `json:"default,omitempty"`
	// Asked only where another input has one of some values.
	When *When `json:"when,omitempty"`
}

// Choice is a value that an input can have.
type Choice struct {
	Value string `json:"value"`
	Label string `json:"label"`
}

// When is where an input is asked for.
type When struct {
	Input string   `json:"input"`
	Is    []string `json:"is"`
}

// Result is what a calculator comes to. Figures that matter most come first.
type Result struct {
	Figures   []Figure `json:"figures"`
	Formula   []string `json:"formula" doc:"With the numbers in it"`
	Questions []string `json:"questions" doc:"What was typed and may be a slip"`
	Remarks   []string `json:"remarks"`
	Cautions  []string `json:"cautions"`
	Next      string   `json:"next,omitempty" doc:"What to do with it"`
	Lines     []string `json:"lines" doc:"To copy into the machine, in its dialect"`
	Relief    *Relief  `json:"relief,omitempty"`
}

// Figure is one number of a result.
type Figure struct {
	Key    string  `json:"key"`
	Label  string  `json:"label"`
	Number float64 `json:"number"`
	Unit   string  `json:"unit,omitempty"`
	Shown  string  `json:"shown" doc:"Rounded as it is used"`
}

// Values are what was typed, as it was understood.
type Values struct {
	number map[string]float64
	word   map[string]string
}

// Number is an input's number in its unit; 0 where it is left empty.
func (v Values) Number(key string) float64 { return v.number[key] }

// Has reports whether an input was given.
func (v Values) Has(key string) bool {
	_, number := v.number[key]
	return number || v.word[key] != ""
}

// Word is the value of a choice, or a text.
func (v Values) Word(key string) string { return v.word[key] }

// Faults are sentences about what was typed, by input.
type Faults map[string]string

func (f Faults) Error() string {
	keys := make([]string, 0, len(f))
	for k := range f {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	out := make([]string, len(keys))
	for i, k := range keys {
		out[i] = f[k]
	}
	return strings.Join(out, "; ")
}

// fault is what is wrong with one input.
func fault(key, format string, args ...any) error {
	return Faults{key: fmt.Sprintf(format, args...)}
}

// All lists the calculators, in the order in which they are shown.
func All() []Calculator { return calculators }

var calculators = slices.Concat(
	extrusionCalculators(),
	axisCalculators(),
	currentCalculators(),
	heightCalculators(),
	meshCalculators(),
	areaMeshCalculators(),
	filamentCalculators(),
	sensorCalculators(),
	heaterCalculators(),
	wiringCalculators(),
	mechanicalCalculators(),
)

// Find gives the calculator of a key.
func Find(key string) (Calculator, bool) {
	for _, c := range calculators {
		if c.Key == key {
			return c, true
		}
	}
	return Calculator{}, false
}

// Work does the sum with what was typed. A *Faults error names the inputs that are wrong.
func (c Calculator) Work(typed map[string]string) (Result, error) {
	v := Values{number: map[string]float64{}, word: map[string]string{}}
	faults := Faults{}
	var questions []string
	for _, in := range c.Inputs {
		if !in.asked(typed, c.Inputs) {
			continue
		}
		question, err := in.read(typed[in.Key], v)
		if err != nil {
			faults[in.Key] = err.Error()
		}
		if question != "" {
			questions = append(questions, question)
		}
	}
	if len(faults) > 0 {
		return Result{}, faults
	}
	r, err := c.work(v)
	if err != nil {
		return Result{}, err
	}
	if !r.isFinite() {
		return Result{}, errors.New("these numbers together lead to no result: one of them is far too large or too small " +
			"beside the others")
	}
	r.Questions = append(questions, r.Questions...)
	for i := range r.Figures {
		r.Figures[i].Shown = Rounded(r.Figures[i].Number)
	}
	for _, list := range []*[]string{&r.Formula, &r.Questions, &r.Remarks, &r.Cautions, &r.Lines} {
		if *list == nil {
			*list = []string{}
		}
	}
	return r, nil
}

// isFinite reports whether every figure is a number.
func (r Result) isFinite() bool {
	for _, f := range r.Figures {
		if !finite(f.Number) {
			return false
		}
	}
	return r.Relief == nil || r.Relief.isFinite()
}

func finite(n float64) bool { return !math.IsNaN(n) && !math.IsInf(n, 0) }

// asked reports whether an input is asked for, with what was typed into the others.
func (in Input) asked(typed map[string]string, of []Input) bool {
	if in.When == nil {
		return true
	}
	value := typed[in.When.Input]
	if i := slices.IndexFunc(of, func(o Input) bool { return o.Key == in.When.Input }); value == "" && i >= 0 {
		value = of[i].Default
	}
	return slices.Contains(in.When.Is, value)
}

// read understands what was typed into an input. A number that is not usual is taken, with a
// question about it.
func (in Input) read(text string, v Values) (question string, err error) {
	text = strings.TrimSpace(text)
	if text == "" {
		text = in.Default
	}
	switch {
	case text == "" && in.Optional:
		return "", nil
	case text == "":
		return "", fmt.Errorf("%s is needed", in.Label)
	case in.Lines:
		v.word[in.Key] = text
		return "", nil
	case len(in.Choices) > 0:
		if !slices.ContainsFunc(in.Choices, func(c Choice) bool { return c.Value == text }) {
			return "", fmt.Errorf("%s: choose one of those that are offered", in.Label)
		}
		v.word[in.Key] = text
		return "", nil
	}
	n, err := quantity.In(text, in.Unit, quantity.Unsaid, in.Min, in.Max)
	if err != nil {
		return "", err
	}
	if math.IsNaN(n) || math.IsInf(n, 0) {
		return "", errors.New("write a number")
	}
	if in.Max > in.Min && (n < in.Min || n > in.Max) {
		return "", fmt.Errorf("%s cannot be: %s is from %s to %s", withUnit(n, in.Unit), in.Label, Rounded(in.Min),
			withUnit(in.Max, in.Unit))
	}
	v.number[in.Key] = n
	return in.unusual(n), nil
}

// unusual asks about a number that is not usual, and says which slip would explain it.
func (in Input) unusual(n float64) string {
	low, high := in.Usual[0], in.Usual[1]
	if low == 0 && high == 0 || n >= low && n <= high {
		return ""
	}
	usual := fmt.Sprintf("%s: %s is not usual (%s to %s is)", in.Label, withUnit(n, in.Unit), Rounded(low),
		withUnit(high, in.Unit))
	for _, s := range slips {
		for _, right := range []float64{n / s.factor, n * s.factor} {
			if right >= low && right <= high && s.units {
				return fmt.Sprintf("%s. %s: was %s meant?", usual, s.why, withUnit(right, in.Unit))
			}
		}
	}
	return usual + ". Is it right?"
}

// slip is a factor by which numbers are commonly wrong.
type slip struct {
	factor float64
	why    string
	units  bool // a mix-up of units
}

// Source: common practice.
var slips = []slip{
	{1000, "Off by a thousand, as milli- for the whole unit", true},
	{25.4, "Off by 25.4, as inches for millimetres", true},
	{math.Sqrt2, "Off by √2, as a peak current for RMS", false},
	{2, "Off by two, as half the step angle or double the microsteps", false},
}

// Suspect says which common slip would explain a number that differs from the one expected by
// its factor, within 2 %; empty where none would.
func Suspect(is, expected float64) string {
	if is <= 0 || expected <= 0 {
		return ""
	}
	for _, s := range slips {
		for _, ratio := range []float64{is / expected, expected / is} {
			if math.Abs(ratio/s.factor-1) < 0.02 {
				return s.why
			}
		}
	}
	return ""
}

// Rounded writes a number as people use it: four figures, and no more than are there.
func Rounded(n float64) string {
	if n == 0 || math.Abs(n) < 1e-9 {
		return "0"
	}
	if math.Abs(n) >= 1e15 { // no quantity of a workshop: its zeros would say nothing
		return strings.ReplaceAll(fmt.Sprintf("%.3g", n), "-", "−")
	}
	digits := 3 - int(math.Floor(math.Log10(math.Abs(n))))
	if digits < 0 {
		return strings.ReplaceAll(fmt.Sprintf("%.0f", n), "-", "−")
	}
	text := fmt.Sprintf("%.*f", min(digits, 6), n)
	if strings.Contains(text, ".") {
		text = strings.TrimRight(strings.TrimRight(text, "0"), ".")
	}
	return strings.ReplaceAll(text, "-", "−")
}

func withUnit(n float64, unit string) string {
	if unit == "" {
		return Rounded(n)
	}
	return Rounded(n) + " " + unit
}

func figure(key, label string, n float64, unit string) Figure {
	return Figure{Key: key, Label: label, Number: n, Unit: unit}
}

func choices(pairs ...string) []Choice {
	out := make([]Choice, 0, len(pairs)/2)
	for i := 0; i+1 < len(pairs); i += 2 {
		out = append(out, Choice{pairs[i], pairs[i+1]})
	}
	return out
}

// family asks how the firmware works, for the lines to copy.
var family = Input{Key: "family", Label: "Firmware family", Default: "compiled",
	Choices: choices("compiled", "compiled", "hosted", "hosted", "scripted", "scripted")}
