// Package jsonbounds checks a JSON text before it is decoded: that it is text, and that
// nothing in it is so deep, long or large that reading or reckoning with it would harm.
package jsonbounds

import (
	"errors"
	"fmt"
	"math"
	"strconv"
	"time"
	"unicode/utf16"
	"unicode/utf8"

	"wardifex/internal/core/civil"
)

// Bounds are the greatest that a text may have of each; 0 bounds nothing.
type Bounds struct {
	Depth  int     // of lists and objects within one another
	Values int     // of all kinds together
	Text   int     // bytes of one text, as written
	Number float64 // without its sign
	// Years says that texts that are moments as RFC 3339 writes them are of the years
	// that a day may have.
	Years bool
	// Bare is how many objects there may be that are hardly written: beyond it, objects have bareBytes on average. What
	// is made of "{}" in memory is hundreds of times as large.
	Bare int
	// List is how many objects one list may have.
	List int
}

// bareBytes is what an object has at least on average, as written. Source: ours; what the application writes has more
// than twice as many.
const bareBytes = 32

// Check reports the first thing in a text that breaks its bounds, as a sentence that
// does not repeat what was sent. It does not replace a decoder: where a text is no JSON
// in another way, that is left to the decoder.
func Check(text []byte, b Bounds) error {
	if !utf8.Valid(text) {
		return errors.New("the text is not UTF-8: send it encoded as UTF-8")
	}
	depth, values, objects := 0, 0, 0
	var lists []int // objects of each list that is open; -1 of what is no list
	for i := 0; i < len(text); {
		switch c := text[i]; {
		case c == '{' || c == '[':
			depth++
			values++
			if b.Depth > 0 && depth > b.Depth {
				return fmt.Errorf("lists and objects lie more than %d deep in one another; at most %d are read", b.Depth, b.Depth)
			}
			if n := len(lists); c == '{' && n > 0 && lists[n-1] >= 0 {
				if lists[n-1]++; b.List > 0 && lists[n-1] > b.List {
					return fmt.Errorf("a list in it has more than %d entries; send it in parts", b.List)
				}
			}
			if c == '{' {
				objects++
				lists = append(lists, -1)
			} else {
				lists = append(lists, 0)
			}
			if b.Bare > 0 && objects > b.Bare+len(text)/bareBytes {
				return errors.New("most entries in it are empty: it is no file that this application writes")
			}
			i++
		case c == '}' || c == ']':
			depth--
			lists = lists[:max(0, len(lists)-1)]
			i++
		case c == '"':
			end, err := checkText(text[i:], b)
			if err != nil {
				return err
			}
			values++
			i += end
		case c == '-' || c >= '0' && c <= '9':
			end := i + 1
			for end < len(text) && isOfNumber(text[end]) {
				end++
			}
			if err := checkNumber(string(text[i:min(end, i+400)]), b.Number); err != nil {
				return err
			}
			values++
			i = end
		default:
			i++
		}
		if b.Values > 0 && values > b.Values {
			return fmt.Errorf("there are more than %d values in it; send it in parts", b.Values)
		}
	}
	return nil
}

func isOfNumber(c byte) bool {
	return c >= '0' && c <= '9' || c == '.' || c == 'e' || c == 'E' || c == '+' || c == '-'
}

func checkNumber(written string, most float64) error {
	n, err := strconv.ParseFloat(written, 64)
	if errors.Is(err, strconv.ErrSyntax) {
		return nil // no number: the decoder says so
	}
	if most > 0 && (math.Abs(n) > most || err != nil) {
		return fmt.Errorf("a number is larger than %.0e, which nothing here is; look for a slip in it", most)
	}
	return nil
}

// checkText checks the text that begins at a quotation mark and gives its length with
// both marks.
func checkText(text []byte, b Bounds) (int, error) {
	end := 1
	for end < len(text) && text[end] != '"' {
		if text[end] != '\\' {
			end++
			continue
		}
		length, err := checkEscape(text[end:])
		if err != nil {
			return 0, err
		}
		end += length
	}
	if b.Text > 0 && end-1 > b.Text {
		return 0, fmt.Errorf("a text is longer than %d characters; write it shorter", b.Text)
	}
	if b.Years && end < len(text) {
		if err := checkYear(string(text[1:end])); err != nil {
			return 0, err
		}
	}
	return min(end+1, len(text)), nil
}

// checkEscape looks at what begins with a backslash and gives its length: \uXXXX is not the
// character NUL, which no text on record has, nor half a pair of surrogates, which is no
// character; both halves are one.
func checkEscape(text []byte) (length int, err error) {
	code, ok := unit(text)
	switch {
	case !ok:
		return 2, nil // another escape, or none that the decoder takes
	case code == 0:
		return 0, errors.New("a text has the character NUL in it, which cannot be kept: take it out")
	case !utf16.IsSurrogate(rune(code)):
		return unitLength, nil
	}
	if low, ok := unit(text[unitLength:]); ok && utf16.DecodeRune(rune(code), rune(low)) != utf8.RuneError {
		return 2 * unitLength, nil
	}
	return 0, errors.New("a text has half a character in it (a lone surrogate): write the whole one")
}

// unitLength is that of \uXXXX.
const unitLength = 6

// unit is the number of a \uXXXX at the beginning.
func unit(text []byte) (code uint64, ok bool) {
	if len(text) < unitLength || text[0] != '\\' || text[1] != 'u' {
		return 0, false
	}
	code, err := strconv.ParseUint(string(text[2:unitLength]), 16, 16)
	return code, err == nil
}

func checkYear(text string) error {
	if len(text) < len("2006-01-02T") || text[4] != '-' || text[7] != '-' || text[10] != 'T' {
		return nil
	}
	at, err := time.Parse(time.RFC3339Nano, text)
	if err != nil {
		return nil // no moment, or one that the decoder refuses
	}
	return civil.CheckYear(at.Year())
}
