// Package sentence writes a text at the beginning of a sentence or within one, in any script.
package sentence

import (
	"unicode"
	"unicode/utf8"
)

// Begin is a text with a capital letter first.
func Begin(text string) string { return first(text, unicode.ToUpper) }

// Within is a text with a small letter first.
func Within(text string) string { return first(text, unicode.ToLower) }

func first(text string, as func(rune) rune) string {
	r, size := utf8.DecodeRuneInString(text)
	if r == utf8.RuneError {
		return text
	}
	return string(as(r)) + text[size:]
}
