package quantity

import (
	"errors"
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
	"unicode"
)

// Mark is which mark stands before the decimals of a number.
type Mark rune

const (
	Unsaid Mark = 0
	Point  Mark = '.'
	Comma  Mark = ','
)

// TwoMeanings is a number whose only mark may be a decimal or a thousands mark.
type TwoMeanings struct {
	Written   string
	Decimal   float64 // where the mark stands before decimals
	Thousands float64 // where it groups thousands
}

func (t *TwoMeanings) Error() string {
	return fmt.Sprintf("%s can be %s or %s: write %s or %s", Quote(t.Written), Format(t.Decimal), Format(t.Thousands),
		Unmistakable(t.Decimal), Unmistakable(t.Thousands))
}

// Either lists both meanings, written so that each has one.
func (t *TwoMeanings) Either() [2]string {
	return [2]string{Unmistakable(t.Decimal), Unmistakable(t.Thousands)}
}

// groups are whole numbers whose thousands are marked: 1,200 and 1.234.567, and 12 000 or
// 12'000 where the mark can be nothing else.
var groups = regexp.MustCompile(`^\d{1,3}(?:[.,' ]\d{3})+$`)

// grouped reports whether thousands are marked in a whole number, all of them alike.
func grouped(whole string) bool {
	if !groups.MatchString(whole) {
		return false
	}
	marks := strings.Map(func(r rune) rune {
		if unicode.IsDigit(r) {
			return -1
		}
		return r
	}, whole)
	return strings.Count(marks, marks[:1]) == len(marks)
}

// Format writes a number in its shortest exact form, with a decimal point.
func Format(n float64) string { return strconv.FormatFloat(n, 'f', -1, 64) }

// Unmistakable writes a number with a decimal point so that no thousands mark can
// be read into it: 1.125 as 1.1250.
func Unmistakable(n float64) string {
	text := Format(n)
	if _, err := Parse(text); err != nil {
		return text + "0"
	}
	return text
}

// Parse reads a number as people type it: a point or a comma before the decimals,
// thousands grouped by either, a blank or an apostrophe, a sign (hyphen, minus or
// plus), an exponent. The error says what would be right; it is a *TwoMeanings
// where the only mark may be either.
func Parse(text string) (float64, error) { return ParseWith(text, Unsaid) }

// ParseWith reads a number where it is known which mark stands before the decimals.
func ParseWith(text string, decimal Mark) (float64, error) {
	plain, sign, err := unsigned(text)
	if err != nil {
		return 0, err
	}
	comma, point := strings.Count(plain, ","), strings.Count(plain, ".")
	other := strings.ContainsAny(plain, "' ")
	mark := decimal
	switch {
	case comma > 0 && point > 0:
		last := Mark(plain[strings.LastIndexAny(plain, ",.")])
		if decimal != Unsaid && decimal != last {
			return 0, fmt.Errorf(
				"%s has its marks the other way round than the numbers beside it; write one number such as 1234.5",
				Quote(text),
			)
		}
		mark = last
	case comma > 1 && decimal == Unsaid:
		mark = Point
	case point > 1 && decimal == Unsaid:
		mark = Comma
	case comma+point == 1 && decimal == Unsaid:
		mark = Mark(plain[strings.IndexAny(plain, ",.")])
		if !other && grouped(plain) && plain[0] != '0' {
			asDecimal, errD := number(text, plain, mark, sign)
			asThousands, errT := number(text, plain, opposite(mark), sign)
			if err := errors.Join(errD, errT); err != nil {
				return 0, err
			}
			return 0, &TwoMeanings{Written: strings.TrimSpace(text), Decimal: asDecimal, Thousands: asThousands}
		}
	case mark == Unsaid:
		mark = Point
	}
	return number(text, plain, mark, sign)
}

// Recorded reads a number as the program keeps it, and earlier versions did: one
// mark, a point or a comma, stands before decimals.
func Recorded(text string) (float64, error) {
	plain, sign, err := unsigned(text)
	if err != nil {
		return 0, err
	}
	if strings.Count(plain, ",")+strings.Count(plain, ".") > 1 {
		return Parse(text)
	}
	return number(text, strings.Replace(plain, ",", ".", 1), Point, sign)
}

// MarkOf is the mark that stands before the decimals of a number as typed;
// Unsaid where it does not tell.
func MarkOf(text string) Mark {
	digits, _ := Split(text)
	plain, _, err := unsigned(digits)
	if err != nil || !strings.ContainsAny(plain, ",.") {
		return Unsaid
	}
	var two *TwoMeanings
	if _, err := Parse(plain); errors.As(err, &two) || err != nil {
		return Unsaid
	}
	comma, point := strings.Count(plain, ","), strings.Count(plain, ".")
	switch {
	case comma > 0 && point > 0:
		return Mark(plain[strings.LastIndexAny(plain, ",.")])
	case comma > 1:
		return Point
	case point > 1:
		return Comma
	case comma == 1:
		return Comma
	}
	return Point
}

func opposite(m Mark) Mark {
	if m == Point {
		return Comma
	}
	return Point
}

// signs writes minus signs, blanks and apostrophes with one character each.
var signs = strings.NewReplacer("−", "-", "–", "-", "\u00a0", " ", "\u202f", " ", "\u2009", " ", "’", "'", "٬", "'")

// unsigned takes the sign off a number and checks its characters.
func unsigned(text string) (plain string, sign float64, err error) {
	if strings.HasPrefix(text, "=") || strings.HasPrefix(text, "@") {
		return "", 0, fmt.Errorf(
			"%s begins with %q, which a spreadsheet runs as a formula; write the value itself",
			Quote(text),
			text[:1],
		)
	}
	plain, sign = strings.TrimSpace(signs.Replace(text)), 1
	switch {
	case strings.HasPrefix(plain, "-"):
		plain, sign = strings.TrimSpace(plain[1:]), -1
	case strings.HasPrefix(plain, "+"):
		plain = strings.TrimSpace(plain[1:])
	}
	digits, _, _ := strings.Cut(strings.ToLower(plain), "e")
	for _, r := range digits {
		if (r < '0' || r > '9') && !strings.ContainsRune(".,' ", r) {
			return "", 0, notNumber(text)
		}
	}
	if !strings.ContainsFunc(digits, unicode.IsDigit) {
		return "", 0, notNumber(text)
	}
	return plain, sign, nil
}

// number reads digits with a known decimal mark; every other mark must group
// thousands.
func number(text, plain string, decimal Mark, sign float64) (float64, error) {
	mantissa, exponent, scaled := strings.Cut(strings.ToLower(plain), "e")
	whole, decimals, split := strings.Cut(mantissa, string(rune(decimal)))
	if strings.ContainsAny(decimals, ".,' ") {
		return 0, fmt.Errorf("%s has a mark too many; write one number such as 1234.5", Quote(text))
	}
	if strings.ContainsAny(whole, ".,' ") {
		if !grouped(whole) {
			return 0, fmt.Errorf(
				"%s has a mark where neither thousands nor decimals begin; write one number such as 1234.5",
				Quote(text),
			)
		}
		whole = strings.NewReplacer(".", "", ",", "", "'", "", " ", "").Replace(whole)
	}
	if whole == "" {
		whole = "0"
	}
	if split && decimals != "" {
		whole += "." + decimals
	}
	if scaled {
		whole += "e" + exponent
	}
	n, err := strconv.ParseFloat(whole, 64)
	if err != nil || math.IsInf(n, 0) || math.IsNaN(n) {
		return 0, notNumber(text)
	}
	if n == 0 {
		return 0, nil // no negative zero
	}
	return sign * n, nil
}

func notNumber(text string) error {
	return fmt.Errorf("%s is not a number; write digits such as 12 or 0.4", Quote(text))
}

// Split parts "24 V" into "24" and "V", and "AWG 24" into "24" and "AWG".
func Split(text string) (digits, unit string) {
	text = strings.TrimSpace(text)
	for _, word := range []string{"awg", "gauge"} {
		if len(text) > len(word) && strings.EqualFold(text[:len(word)], word) {
			return strings.Trim(text[len(word):], " #:"), "AWG"
		}
	}
	end := 0
	for i, r := range text {
		if unicode.IsDigit(r) || strings.ContainsRune("+-−., '’\u00a0\u202f\u2009", r) {
			end = i + len(string(r))
			continue
		}
		if (r == 'e' || r == 'E') && exponent.MatchString(text[i:]) {
			end = i + 1
			continue
		}
		break
	}
	return strings.TrimSpace(text[:end]), strings.TrimSpace(text[end:])
}

var exponent = regexp.MustCompile(`^[eE][+-]?\d+`)

// letterCode is a resistance with the letter at the mark's place: R110, 4k7.
// Source: IEC 60062.
var letterCode = regexp.MustCompile(`^(\d*)([RrkKM])(\d+)$`)

// In reads a quantity as typed, in a unit: a number alone, or with a unit of the
// same dimension. decimal is the mark before decimals, if that is known. Where only
// one of two meanings lies within min and max, that one is meant; there are no
// bounds where max is not above min.
func In(text, unit string, decimal Mark, min, max float64) (float64, error) {
	return in(text, unit, min, max, func(digits string) (float64, error) { return ParseWith(digits, decimal) })
}

// RecordedIn reads a quantity as the program keeps it, in a unit.
func RecordedIn(text, unit string) (float64, error) { return in(text, unit, 0, 0, Recorded) }

func in(text, unit string, min, max float64, read func(string) (float64, error)) (float64, error) {
	text = strings.TrimSpace(text)
	if code := letterCode.FindStringSubmatch(text); code != nil && unit == "Ω" {
		n, err := strconv.ParseFloat("0"+code[1]+"."+code[3], 64)
		n, ok := Convert(n, strings.Replace(code[2], "r", "R", 1), unit)
		if err == nil && ok {
			return tidy(n), nil
		}
	}
	digits, written := Split(text)
	if digits == "" {
		digits = text // no digits at all: let the fault show what was written
	}
	to := func(n float64) (float64, error) {
		if written == "" || strings.EqualFold(written, unit) {
			return n, nil
		}
		n, ok := Convert(n, written, unit)
		if !ok {
			return 0, wrongUnit(Quote(text), Clip(written), unit)
		}
		return tidy(n), nil
	}
	n, err := read(digits)
	var two *TwoMeanings
	if errors.As(err, &two) && max > min {
		small, errS := to(two.Decimal)
		large, errL := to(two.Thousands)
		if errS == nil && errL == nil {
			inside := func(n float64) bool { return n >= min && n <= max }
			switch {
			case inside(small) && !inside(large):
				return small, nil
			case inside(large) && !inside(small):
				return large, nil
			case !inside(small):
				return small, nil // neither: the bounds will say so
			}
		}
	}
	if err != nil {
		return 0, err
	}
	return to(n)
}

// tidy takes off what a conversion adds in the last places.
func tidy(n float64) float64 {
	n, _ = strconv.ParseFloat(strconv.FormatFloat(n, 'g', 12, 64), 64)
	return n
}

// Clip shortens a text for a message.
func Clip(s string) string {
	r := []rune(s)
	if len(r) > 40 {
		return string(r[:39]) + "…"
	}
	return s
}

// Quote is a text for a message, shortened and in quotation marks.
func Quote(s string) string { return strconv.Quote(Clip(s)) }
