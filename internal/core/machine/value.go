package machine

import (
	"errors"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"
)

// Kind is the kind of value a trait takes.
type Kind string

const (
	Number Kind = "number" // a number in the trait's unit
	Choice Kind = "choice" // one of the trait's choices
	YesNo  Kind = "yes/no"
	Text   Kind = "text"
)

// Value is one value of a trait. Text is its canonical form, which Trait.Parse
// reads back to the same Value; Number is set for number traits only and is in
// the trait's unit.
type Value struct {
	Text   string
	Number float64
}

// IsZero reports whether the value is no value at all.
func (v Value) IsZero() bool { return v.Text == "" }

// Snap is the nominal value that a number stands for: the nearest that is near
// enough, or else the number itself. Source: common practice for supplies, which stand
// for their nominal voltage within a tenth (from memory).
func (t *Trait) Snap(n float64) float64 {
	if t.Nominal == nil {
		return n
	}
	best, nearest := n, math.Inf(1)
	for _, v := range t.Nominal.Values {
		if off := math.Abs(n - v); off <= v*t.Nominal.Within+1e-9 && off < nearest {
			best, nearest = v, off
		}
	}
	return best
}

// Same reports whether two values of one trait are the same: numbers by
// number, or by the nominal value they stand for, words without regard to case and runs of blanks.
func (t *Trait) Same(a, b Value) bool {
	if t.Kind == Number {
		return a.IsZero() == b.IsZero() && (a.Number == b.Number || t.Nominal != nil && t.Snap(a.Number) == t.Snap(b.Number))
	}
	// Choices and yes/no are canonical once parsed; only free words are folded.
	return a.Text == b.Text || t.Kind == Text && fold(a.Text) == fold(b.Text)
}

// Words are the words that a value can be; nil where it is no word of a list.
func (t *Trait) Words() []string {
	if t.Kind == YesNo {
		return []string{"yes", "no"}
	}
	return t.Choices
}

// Called lists the choices as they are called here; Parse reads each of them.
func (t *Trait) Called() []string {
	out := make([]string, len(t.Choices))
	for i, code := range t.Choices {
		out[i] = t.Show(Value{Text: code})
	}
	return out
}

// Show writes the value with its unit, for people.
func (t *Trait) Show(v Value) string {
	if v.IsZero() {
		return "unknown"
	}
	if t.Kind == Number && t.Unit != "" {
		return v.Text + " " + t.Unit
	}
	if label := t.Labels[v.Text]; label != "" {
		return label
	}
	return v.Text
}

// None is the model of a slot that is known to be empty.
const None = "none"

const maxText = 120

// Parse reads a value as a technician writes it: a number with or without its
// unit and with a decimal point or comma; yes/no in several words; a choice or
// text without regard to case and blanks. The error says what would be right.
func (t *Trait) Parse(text string) (Value, error) {
	text = strings.Join(strings.Fields(text), " ")
	if text == "" {
		return Value{}, fmt.Errorf("%s: no value given", t.Label)
	}
	switch t.Kind {
	case Number:
		return t.parseNumber(text)
	case YesNo:
		switch strings.ToLower(text) {
		case "yes", "y", "true", "1", "x", "present", "fitted", "✓":
			return Value{Text: "yes"}, nil
		case "no", "n", "false", "0", "absent", "missing", "✗":
			return Value{Text: "no"}, nil
		}
		return Value{}, fmt.Errorf("%s: %q is neither yes nor no", t.Label, clip(text))
	case Choice:
		if code, ok := t.choice(text); ok {
			return Value{Text: code}, nil
		}
		return Value{}, fmt.Errorf("%s: %q is not one of %s", t.Label, clip(text), strings.Join(t.Choices, ", "))
	}
	if err := PlainText(text); err != nil {
		return Value{}, fmt.Errorf("%s: %w", t.Label, err)
	}
	if t.Name == ModelTrait && emptySlot[strings.ToLower(text)] {
		return Value{Text: None}, nil
	}
	return Value{Text: t.name(text)}, nil
}

// choice is the code of a choice that a text means: by its code, what the shop
// calls it, or another word for it.
func (t *Trait) choice(text string) (string, bool) {
	word := fold(text)
	for _, code := range t.Choices {
		if fold(code) == word {
			return code, true
		}
	}
	for _, code := range t.Choices {
		if fold(t.Labels[code]) == word || slices.ContainsFunc(t.Aliases[code], func(a string) bool { return fold(a) == word }) {
			return code, true
		}
	}
	return "", false
}

// name is the name that a model has now, where the text is another one of it.
func (t *Trait) name(text string) string {
	if now, ok := t.called[fold(text)]; ok {
		return now
	}
	return text
}

// Stored is the value of a text that Parse has made canonical before. Words
// that a narrowed trait would no longer take count as what they are.
func (t *Trait) Stored(text string) Value {
	v := Value{Text: t.name(text)}
	if t.Kind == Number {
		v.Number, _ = strconv.ParseFloat(text, 64)
	}
	return v
}

// emptySlot are the words for a slot without a part.
var emptySlot = map[string]bool{"none": true, "no": true, "empty": true, "absent": true, "nothing": true, "not fitted": true}

// teethForm is a gear ratio as people write it, by the teeth of both wheels: 44:12.
var teethForm = regexp.MustCompile(`^(\d+(?:[.,]\d+)?)\s*:\s*(\d+(?:[.,]\d+)?)$`)

func (t *Trait) parseNumber(text string) (Value, error) {
	if pair := teethForm.FindStringSubmatch(text); pair != nil && t.Unit == "" {
		a, errA := ParseNumber(pair[1])
		b, errB := ParseNumber(pair[2])
		if errA != nil || errB != nil || b == 0 {
			return Value{}, fmt.Errorf("%s: %q is no ratio; write two numbers such as 44:12", t.Label, clip(text))
		}
		text = strconv.FormatFloat(a/b, 'f', 6, 64)
	}
	digits, unit := splitUnit(text)
	if digits == "" {
		digits = text // no digits at all: let the fault show what was written
	}
	n, err := ParseNumber(digits)
	if err != nil {
		return Value{}, fmt.Errorf("%s: %w", t.Label, err)
	}
	if unit != "" {
		factor, ok := unitFactor(unit, t.Unit)
		if !ok {
			return Value{}, fmt.Errorf("%s: %q has the unit %q; it is recorded in %s", t.Label, clip(text), clip(unit), t.unitName())
		}
		n *= factor
	}
	n, _ = strconv.ParseFloat(strconv.FormatFloat(n, 'g', 12, 64), 64)
	if t.Max > t.Min && (n < t.Min || n > t.Max) {
		return Value{}, fmt.Errorf("%s: %s is outside %s to %s %s", t.Label, clip(text), FormatNumber(t.Min), FormatNumber(t.Max), t.Unit)
	}
	return Value{Text: FormatNumber(n), Number: n}, nil
}

func (t *Trait) unitName() string {
	if t.Unit == "" {
		return "plain numbers"
	}
	return t.Unit
}

// FormatNumber writes a number in its shortest exact form, with a decimal point.
func FormatNumber(n float64) string { return strconv.FormatFloat(n, 'f', -1, 64) }

// ParseNumber reads a decimal number with a point or a comma before the
// decimals, an optional sign (hyphen, minus or plus) and no thousands marks:
// "1.234,5" and "1,234.5" are refused, because which mark is which would be a
// guess.
func ParseNumber(text string) (float64, error) {
	if strings.HasPrefix(text, "=") || strings.HasPrefix(text, "@") {
		return 0, fmt.Errorf("%q begins with %q, which a spreadsheet runs as a formula; write the value itself", clip(text), text[:1])
	}
	s := strings.TrimSpace(strings.NewReplacer("−", "-", "\u00a0", "", "\u202f", "").Replace(text))
	if strings.Count(s, ",")+strings.Count(s, ".") > 1 {
		return 0, fmt.Errorf("%q has more than one point or comma; write one number without thousands marks, such as 1234.5", clip(text))
	}
	s = strings.Replace(s, ",", ".", 1)
	for _, r := range strings.TrimLeft(s, "+-") {
		if (r < '0' || r > '9') && r != '.' {
			return 0, fmt.Errorf("%q is not a number; write digits such as 12 or 0.4", clip(text))
		}
	}
	n, err := strconv.ParseFloat(s, 64)
	if err != nil || math.IsInf(n, 0) || math.IsNaN(n) {
		return 0, fmt.Errorf("%q is not a number; write digits such as 12 or 0.4", clip(text))
	}
	return n, nil
}

// PlainText checks words that go into the record: not empty, at most 120
// characters, no control characters, and nothing that a spreadsheet would run
// as a formula once the record is exported.
func PlainText(text string) error {
	switch {
	case strings.TrimSpace(text) == "":
		return errors.New("no text given")
	case len([]rune(text)) > maxText:
		return fmt.Errorf("the text is %d characters long; at most %d fit", len([]rune(text)), maxText)
	case FormulaLike(text):
		return fmt.Errorf("%q begins with %q, which a spreadsheet runs as a formula; write the value itself", clip(text), text[:1])
	}
	for _, r := range text {
		if unicode.IsControl(r) || r == unicode.ReplacementChar {
			return fmt.Errorf("%q holds a character that cannot be printed; type it again", clip(text))
		}
	}
	return nil
}

// Cell is a text as a cell of a CSV file that no spreadsheet runs.
func Cell(text string) string {
	if FormulaLike(text) {
		return "'" + text
	}
	return text
}

// FormulaLike reports whether a spreadsheet would take the text for a formula:
// it begins with =, @, tab or return, or with a sign and is not a number.
func FormulaLike(text string) bool {
	if text == "" {
		return false
	}
	switch text[0] {
	case '=', '@', '\t', '\r':
		return true
	case '+', '-':
		number, _ := splitUnit(text)
		_, err := ParseNumber(number)
		return err != nil
	}
	return false
}

// splitUnit parts "24 V" into "24" and "V".
func splitUnit(text string) (number, unit string) {
	end := 0
	for i, r := range text {
		if unicode.IsDigit(r) || strings.ContainsRune("+-−., \u00a0\u202f", r) {
			end = i + len(string(r))
			continue
		}
		break
	}
	return strings.TrimSpace(text[:end]), strings.TrimSpace(text[end:])
}

// unitFactor gives the factor from one unit to another of the same quantity.
func unitFactor(from, to string) (float64, bool) {
	if strings.EqualFold(from, to) {
		return 1, true
	}
	for _, family := range units {
		a, okA := family[strings.ToLower(from)]
		b, okB := family[strings.ToLower(to)]
		if okA && okB {
			return a / b, true
		}
	}
	return 0, false
}

// units holds the spellings of each quantity with their size in one base.
// Memory sizes of mainboards are binary whatever the letters say: a board sold
// with "256 KB" has 256 KiB. Source: common practice.
var units = []map[string]float64{
	{"kib": 1, "kb": 1, "k": 1, "mib": 1024, "mb": 1024, "m": 1024},
	{"mm": 1, "cm": 10, "m": 1000, "µm": 0.001, "um": 0.001},
	{"v": 1, "mv": 0.001, "volt": 1, "volts": 1},
	{"a": 1, "ma": 0.001, "amp": 1, "amps": 1},
	{"w": 1, "kw": 1000, "watt": 1, "watts": 1},
	{"h": 1, "hours": 1, "hrs": 1, "min": 1.0 / 60},
	{"°c": 1, "c": 1, "celsius": 1, "deg c": 1},
	{"°": 1, "deg": 1, "degrees": 1},
	{"g": 1, "kg": 1000},
	{"steps/mm": 1, "st/mm": 1},
	{"ω": 1, "ohm": 1, "ohms": 1, "k": 1000, "kω": 1000, "kohm": 1000, "kohms": 1000},
	{"mm/s": 1, "mm/min": 1.0 / 60},
	{"hz": 1},
	{"%": 1},
	{"cm²": 1, "mm²": 0.01},
}

// KnownUnit reports whether numbers can be recorded in a unit; the empty unit
// is for plain numbers.
func KnownUnit(unit string) bool {
	if unit == "" {
		return true
	}
	_, ok := unitFactor(unit, unit)
	for _, family := range units {
		if _, there := family[strings.ToLower(unit)]; there {
			return ok
		}
	}
	return false
}

// Units lists a spelling of each quantity's unit, for a message.
func Units() string { return "KiB, mm, V, A, W, h, °C, °, g, steps/mm, Ω, mm/s, Hz, %, or none" }

// fold writes words without regard to case and runs of blanks.
func fold(s string) string {
	if plain(s) {
		return s
	}
	return strings.ToLower(strings.Join(strings.Fields(s), " "))
}

// plain reports whether folding leaves a text as it is, without doing it.
func plain(s string) bool {
	for i := range len(s) {
		c := s[i]
		if c >= 0x80 || c >= 'A' && c <= 'Z' || c < ' ' || c == ' ' && (i == 0 || i == len(s)-1 || s[i-1] == ' ') {
			return false
		}
	}
	return true
}

func clip(s string) string {
	r := []rune(s)
	if len(r) > 40 {
		return string(r[:39]) + "…"
	}
	return s
}

// roundThousandth rounds to the thousandth, so that what is added and taken away
// again leaves no trace.
func roundThousandth(n float64) float64 { return math.Round(n*1000) / 1000 }
