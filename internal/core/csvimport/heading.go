package csvimport

import (
	"regexp"
	"slices"
	"strings"
	"unicode"

	"wardifex/internal/core/quantity"
)

// heading is what a column's heading says: words, and a unit where there is one.
type heading struct {
	words []string // in small letters, without plurals and fill words, in order
	unit  string   // as written
}

var (
	bracketed = regexp.MustCompile(`[(\[{<]([^)\]}>]*)[)\]}>]`)
	perMM     = regexp.MustCompile(`(?i)\b(e|extruder)?[\s_-]*steps?\s*(?:/|per|_per_)\s*mm\b`)
	humps     = regexp.MustCompile(`([a-z])([A-Z])`)
	letterNo  = regexp.MustCompile(`^([a-z]+?)(\d+)$`)
)

func readHeading(text string) heading {
	var h heading
	text = strings.TrimRight(strings.TrimSpace(text), ":?*")
	text = perMM.ReplaceAllString(text, " estep ")
	for _, m := range bracketed.FindAllStringSubmatch(text, -1) {
		if u := strings.TrimSpace(m[1]); quantity.Spelled(u) {
			h.unit = u
			text = strings.Replace(text, m[0], " ", 1)
		}
	}
	fields := strings.FieldsFunc(text, func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r) && !strings.ContainsRune("°µμ²Ωø%", r)
	})
	if n := len(fields); h.unit == "" && n > 1 && trailingUnit(fields[n-1]) {
		h.unit, fields = fields[n-1], fields[:n-1]
	}
	for _, f := range fields {
		if !quantity.Spelled(f) {
			f = humps.ReplaceAllString(f, "$1 $2")
		}
		for _, w := range strings.Fields(f) {
			h.add(strings.ToLower(w))
		}
	}
	return h
}

func (h *heading) add(word string) {
	if m := letterNo.FindStringSubmatch(word); m != nil && len(m[1]) > 1 {
		h.add(m[1]) // hotend2 is hotend 2
		h.add(m[2])
		return
	}
	if len(word) > 3 && strings.HasSuffix(word, "s") && !strings.HasSuffix(word, "ss") &&
		!strings.HasSuffix(word, "axis") &&
		!strings.HasSuffix(word, "bus") {
		word = word[:len(word)-1]
	}
	if slices.Contains(words.Fill, word) {
		return
	}
	same := []string{word}
	if other, ok := words.Spellings[word]; ok {
		same = strings.Fields(other)
	}
	for _, w := range same {
		if !slices.Contains(h.words, w) {
			h.words = append(h.words, w)
		}
	}
}

// wordsOf are the words of a phrase, as those of headings are read.
func wordsOf(text string) []string { return readHeading(text).words }

// trailingUnit reports whether the last word of a heading is the unit: as units are
// written, so that "Motor A" is in ampere and "board rev" in nothing.
func trailingUnit(word string) bool {
	switch word {
	case "V",
		"W",
		"A",
		"h",
		"g",
		"mm",
		"cm",
		"°C",
		"C",
		"KB",
		"KiB",
		"kB",
		"kb",
		"MB",
		"MiB",
		"mA",
		"mV",
		"kg",
		"AWG",
		"Ω",
		"ohm",
		"ohms",
		"mm2",
		"mm²",
		"cm²",
		"cm2",
		"Hz",
		"%",
		"°",
		"µm",
		"μm",
		"um",
		"w",
		"v",
		"deg":
		return true
	}
	return false
}

// unitAlone reports whether a cell is a unit and nothing else, in brackets or not.
func unitAlone(cell string) bool {
	cell = strings.Trim(strings.TrimSpace(cell), "()[]")
	return cell != "" && (trailingUnit(cell) || quantity.Spelled(cell) && len([]rune(cell)) <= 9 && !wordKnownHere(cell))
}

// has reports whether the heading has all words of a phrase.
func (h heading) has(phrase []string) bool {
	for _, w := range phrase {
		if !slices.Contains(h.words, w) {
			return false
		}
	}
	return true
}

// numeric reports whether a cell is a number, with or without a unit.
func numeric(cell string) bool {
	digits, unit := quantity.Split(cell)
	if digits == "" || len(unit) > 8 {
		return false
	}
	if _, err := quantity.Recorded(digits); err != nil {
		return false
	}
	return unit == "" || quantity.Spelled(unit)
}

// Corrected lists what was matched by hand otherwise than proposed, by the headings' keys,
// to be proposed so the next time. mapping is the target of each column.
func Corrected(proposed []Match, mapping []string) []Match {
	var out []Match
	for i, m := range proposed {
		key := HeadingKey(m.Heading)
		if i >= len(mapping) || mapping[i] == m.Target || strings.TrimSpace(key) == "" {
			continue
		}
		out = append(out, Match{Heading: key, Target: mapping[i]})
	}
	return out
}
