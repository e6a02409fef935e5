package machine

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"wardifex/internal/core/quantity"
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
// text without regard to case and blanks. The error says what would be right; it
// is a *quantity.TwoMeanings where a mark in a number may stand before decimals or
// group thousands, and both are possible values.
func (t *Trait) Parse(text string) (Value, error) { return t.ParseWith(text, quantity.Unsaid) }

// ParseWith reads a value where it is known which mark stands before the decimals.
func (t *Trait) ParseWith(text string, decimal quantity.Mark) (Value, error) {
	return t.parse(text, func(text string) (float64, error) { return quantity.In(text, t.Unit, decimal, t.Min, t.Max) })
}

// ParseRecorded reads a value as documents keep it: of a number, a lone mark stands
// before the decimals.
func (t *Trait) ParseRecorded(text string) (Value, error) {
	return t.parse(text, func(text string) (float64, error) { return quantity.RecordedIn(text, t.Unit) })
}

func (t *Trait) parse(text string, number func(string) (float64, error)) (Value, error) {
	text = strings.Join(strings.Fields(text), " ")
	if text == "" {
		return Value{}, fmt.Errorf("%s: no value given", t.Label)
	}
	switch t.Kind {
	case Number:
		return t.parseNumber(text, number)
	case YesNo:
		switch strings.ToLower(text) {
		case "yes", "y", "true", "1", "x", "present", "fitted", "✓":
			return Value{Text: "yes"}, nil
		case "no", "n", "false", "0", "absent", "missing", "✗":
			return Value{Text: "no"}, nil
		}
		return Value{}, fmt.Errorf("%s: %q is neither yes nor no", t.Label, quantity.Clip(text))
	case Choice:
		if code, ok := t.choice(text); ok {
			return Value{Text: code}, nil
		}
		return Value{}, fmt.Errorf("%s: %q is not one of %s", t.Label, quantity.Clip(text), strings.Join(t.Choices, ", "))
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
		if fold(t.Labels[code]) == word ||
			slices.ContainsFunc(t.Aliases[code], func(a string) bool { return fold(a) == word }) {
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

// KnownModel reports whether a text is the name of a model in the catalogue, or another
// name of one.
func (t *Trait) KnownModel(text string) bool {
	_, ok := t.called[fold(text)]
	return ok
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

// SaysEmpty reports whether a text, for a model, says that a position holds no part.
func SaysEmpty(text string) bool { return emptySlot[strings.ToLower(strings.TrimSpace(text))] }

// emptySlot are the words for a slot without a part.
var emptySlot = map[string]bool{
	"none":       true,
	"no":         true,
	"empty":      true,
	"absent":     true,
	"nothing":    true,
	"not fitted": true,
}

// teethForm is a gear ratio as people write it, by the teeth of both wheels: 44:12.
var teethForm = regexp.MustCompile(`^(\d+(?:[.,]\d+)?)\s*:\s*(\d+(?:[.,]\d+)?)$`)

func (t *Trait) parseNumber(text string, number func(string) (float64, error)) (Value, error) {
	if pair := teethForm.FindStringSubmatch(text); pair != nil && t.Unit == "" {
		a, errA := quantity.Recorded(pair[1])
		b, errB := quantity.Recorded(pair[2])
		if errA != nil || errB != nil || b == 0 {
			return Value{}, fmt.Errorf("%s: %q is no ratio; write two numbers such as 44:12", t.Label, quantity.Clip(text))
		}
		text = strconv.FormatFloat(a/b, 'f', 6, 64)
	}
	n, err := number(text)
	if err != nil {
		return Value{}, fmt.Errorf("%s: %w", t.Label, err)
	}
	n, _ = strconv.ParseFloat(strconv.FormatFloat(n, 'g', 12, 64), 64)
	if t.Max > t.Min && (n < t.Min || n > t.Max) {
		return Value{}, fmt.Errorf("%s: %s is outside %s to %s %s", t.Label, quantity.Clip(text),
			quantity.Format(t.Min), quantity.Format(t.Max), t.Unit)
	}
	return Value{Text: quantity.Format(n), Number: n}, nil
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
		return fmt.Errorf(
			"%q begins with %q, which a spreadsheet runs as a formula; write the value itself",
			quantity.Clip(text),
			text[:1],
		)
	}
	for _, r := range text {
		if unicode.IsControl(r) || r == unicode.ReplacementChar {
			return fmt.Errorf("%q holds a character that cannot be printed; type it again", quantity.Clip(text))
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

// WriteCSV writes lines as CSV that no spreadsheet runs any of. Source: RFC 4180.
func WriteCSV(w io.Writer, lines [][]string) error {
	out := csv.NewWriter(w)
	out.UseCRLF = true
	for _, line := range lines {
		cells := make([]string, len(line))
		for i, text := range line {
			cells[i] = Cell(text)
		}
		if err := out.Write(cells); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
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
		number, _ := quantity.Split(text)
		_, err := quantity.Recorded(number)
		return err != nil
	}
	return false
}

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

// roundThousandth rounds to the thousandth, so that what is added and taken away
// again leaves no trace.
func roundThousandth(n float64) float64 { return math.Round(n*1000) / 1000 }
