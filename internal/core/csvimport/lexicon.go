package csvimport

import (
	_ "embed"
	"encoding/json"
	"slices"
	"sync"
)

// Targets of a column besides the traits.
const (
	Name     = "name"
	Bay      = "bay"
	Maker    = "maker"
	Model    = "machine-model" // goes with the maker into one field
	Serial   = "serial"
	Supplier = "supplier"
	Price    = "price"
	Bought   = "bought"
	Note     = "note"
	Hours    = "hours"
	HoursOn  = "hours-on" // the day on which the hours were read
	Filament = "filament" // of files of meter readings, as Prints
	Prints   = "prints"
	Volume   = "volume" // X × Y × Z in one cell
)

// wordsFile are the words of headings, as technicians write them.
//
//go:embed words.json
var wordsFile []byte

// lexicon is what headings are made of.
type lexicon struct {
	// Fill are words that tell nothing.
	Fill []string
	// Spellings write words that are spelled in several ways in one of them.
	Spellings map[string]string
	// Fields are the targets that are no traits.
	Fields []field
	// Parts are what technicians call parts, by kind, besides the labels of their
	// positions; Bed what they call those that serve the bed.
	Parts, Bed map[string][]string
	// Traits are headings for traits.
	Traits []traitWords
	// Measured are words for what a number is, by its trait's name or its unit.
	Measured map[string][]string
}

// field is a target that is no trait, with headings that technicians write for it. Those
// of Loose can mean something else as well.
type field struct {
	Target, Label string
	Words, Loose  []string
	Meters        bool // of files of meter readings alone
}

// traitWords are headings for a trait, with the words of its part or, where Alone is set,
// without.
type traitWords struct {
	Kind, Trait  string
	Words, Alone []string
}

var words = func() lexicon {
	var l lexicon
	if err := json.Unmarshal(wordsFile, &l); err != nil {
		panic("csvimport: words.json: " + err.Error()) // a test reads it
	}
	return l
}()

var known struct {
	once  sync.Once
	words map[string]bool
}

// wordKnownHere reports whether a single word is one that headings are made of.
func wordKnownHere(word string) bool {
	known.once.Do(func() {
		known.words = map[string]bool{}
		note := func(phrases []string) {
			for _, p := range phrases {
				for _, w := range wordsOf(p) {
					known.words[w] = true
				}
			}
		}
		for _, f := range words.Fields {
			note(f.Words)
			note(f.Loose)
		}
		for _, list := range []map[string][]string{words.Parts, words.Bed, words.Measured} {
			for _, phrases := range list {
				note(phrases)
			}
		}
		for _, w := range words.Traits {
			note(w.Words)
			note(w.Alone)
		}
		note([]string{"motor", "endstop", "axis", "head"})
	})
	for _, w := range wordsOf(word) {
		if known.words[w] {
			return true
		}
	}
	return false
}

// wordKnown reports whether a cell looks like a heading: short, no number, and with at
// least half of its words among those that headings are made of.
func wordKnown(cell string) bool {
	h := readHeading(cell)
	if len(h.words) == 0 || len(h.words) > 8 || numeric(cell) {
		return false
	}
	hits := 0
	for _, w := range h.words {
		if wordKnownHere(w) {
			hits++
		}
	}
	return hits*2 >= len(h.words)
}

// fieldNamed reports whether a heading is one of a field of the machine by itself.
func fieldNamed(text string) bool {
	said := wordsOf(text)
	return slices.ContainsFunc(words.Fields, func(f field) bool {
		return slices.ContainsFunc(f.Words, func(w string) bool { return slices.Equal(wordsOf(w), said) })
	})
}
