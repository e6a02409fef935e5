package csvimport

import (
	"errors"
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/quantity"
)

// settled reads a number, and takes the column's mark before decimals only where the
// number by itself has two meanings.
func settled[T any](decimal quantity.Mark, read func(quantity.Mark) (T, error)) (T, error) {
	v, err := read(quantity.Unsaid)
	if two(err) && decimal != quantity.Unsaid {
		return read(decimal)
	}
	return v, err
}

// readIn reads a number of a cell in a unit.
func readIn(text, unit string, decimal quantity.Mark) (float64, error) {
	return settled(decimal, func(m quantity.Mark) (float64, error) { return quantity.In(text, unit, m, 0, 0) })
}

// readTrait reads a cell as a value of a trait. A number without a unit of its own is in
// that of its heading.
func readTrait(t *machine.Trait, text, unit string, decimal quantity.Mark) (machine.Value, error) {
	if t.Kind == machine.Number && unit != "" && unit != t.Unit {
		if _, own := quantity.Split(text); own == "" {
			text += " " + unit
		}
	}
	return settled(decimal, func(m quantity.Mark) (machine.Value, error) { return t.ParseWith(text, m) })
}

func two(err error) bool {
	var number *quantity.TwoMeanings
	return errors.As(err, &number)
}

// serialDay is a date as a spreadsheet counts it, in days: from 1954 to 2064.
var serialDay = regexp.MustCompile(`^[2-5]\d{4}(?:[.,]\d+)?$`)

// spreadsheetZero is day 0 of that count. Source: common practice; the count takes 1900
// for a leap year, so that from March 1900 on it begins on 30 December 1899.
var spreadsheetZero = civil.Date(1899, 12, 30)

// readDay reads a cell as a day, as a date or as a spreadsheet's count of days.
func readDay(text string, order civil.Order) (civil.Day, error) {
	if serialDay.MatchString(text) {
		n, err := strconv.Atoi(text[:5])
		return spreadsheetZero + civil.Day(n), err
	}
	if day, _, ok := strings.Cut(text, " "); ok { // with a time of day beside it
		if d, err := civil.ParseDay(day, order); err == nil {
			return d, nil
		}
	}
	if day, _, ok := strings.Cut(text, "T"); ok && len(day) == len(civil.ISO) {
		return civil.ParseDay(day, order)
	}
	return civil.ParseDay(text, order)
}

// shortened is a number that a spreadsheet has written shorter than it was.
var shortened = regexp.MustCompile(`^\d+(?:[.,]\d+)?[eE]\+\d+$`)

// readSerial reads a serial number: digits keep their noughts, which a spreadsheet marks
// with an apostrophe; what a spreadsheet has shortened is refused, its digits are gone.
func readSerial(text string) (string, error) {
	text = strings.TrimLeft(text, "'’")
	if shortened.MatchString(text) {
		return "", fmt.Errorf(
			"%q is a number that a spreadsheet has shortened: its last digits are lost. Set the column to text in the "+
				"spreadsheet, type it again, and save it again",
			text,
		)
	}
	return text, machine.PlainText(text)
}

// readPrice reads an amount, with or without a currency.
func readPrice(text string, decimal quantity.Mark) (float64, error) {
	amount := strings.TrimSpace(money.Replace(text))
	n, err := settled(decimal, func(m quantity.Mark) (float64, error) { return quantity.ParseWith(amount, m) })
	if err == nil && n < 0 {
		err = fmt.Errorf("%q is no price: it is negative", text)
	}
	return n, err
}

// readVolume reads a print volume such as 235 × 235 × 250, in mm; the height may be missing.
func readVolume(text, unit string) ([]float64, error) {
	m := volumeForm.FindStringSubmatch(text)
	if m == nil {
		return nil, fmt.Errorf("%q is no print volume; write it as 235 × 235 × 250", text)
	}
	factor := 1.0
	if m[4] == "cm" || m[4] == "" && strings.EqualFold(unit, "cm") {
		factor = 10
	}
	var out []float64
	for _, digits := range m[1:4] {
		if digits == "" {
			continue
		}
		n, err := quantity.Recorded(digits)
		if err != nil {
			return nil, err
		}
		out = append(out, n*factor)
	}
	return out, nil
}

// revised parts the model of a board from its revision: "Brace board v4.2".
var revised = regexp.MustCompile(
	`(?i)^(.*[^\s,;-])[\s,;-]+(?:v|rev\.?|revision|version|ver\.?)\s*\.?\s*(\d+(?:\.\d+)*[a-z]?)$`,
)

// split is what a cell of a part's model says besides the model.
type split struct {
	model  string
	traits map[string]string // by name, as written
}

// splitModel parts a cell into the part's model and what else it says of the part: a
// revision, and numbers with units of which the part has only one trait.
func splitModel(of *machine.Trait, voc *machine.Vocabulary, text string) split {
	out := split{model: text, traits: map[string]string{}}
	traits := map[string]*machine.Trait{}
	for _, t := range voc.Traits {
		if t.Slot == of.Slot {
			traits[t.Name] = t
		}
	}
	if m := revised.FindStringSubmatch(text); m != nil && traits["revision"] != nil {
		out.model, out.traits["revision"] = m[1], m[2]
	}
	for _, m := range withUnit.FindAllStringSubmatch(out.model, -1) {
		var is *machine.Trait
		only := true
		for _, t := range traits {
			if t.Kind != machine.Number || t.Unit == "" {
				continue
			}
			if u, ok := quantity.Lookup(t.Unit); ok {
				if _, ok := quantity.Meant(m[2], u.Dimension); ok {
					only, is = is == nil, t
				}
			}
		}
		if is == nil || !only {
			continue
		}
		if _, err := is.Parse(m[0]); err == nil {
			out.traits[is.Name] = strings.TrimSpace(m[0])
			out.model = strings.Replace(out.model, m[0], " ", 1)
		}
	}
	out.model = strings.Trim(strings.Join(strings.Fields(out.model), " "), " ,;/-")
	if out.model == "" && len(out.traits) == 0 {
		out.model = text
	}
	return out
}

// withUnit is a number with its unit inside a text.
var withUnit = regexp.MustCompile(`(?:^|\s)(\d+(?:[.,]\d+)?)\s*(VDC|V|W|A|mm|°C)(?:\b|$)`)
