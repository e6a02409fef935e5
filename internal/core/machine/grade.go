package machine

import "fmt"

// Grade says how good the evidence behind a reading is. A higher grade beats
// a lower one whatever the dates. Source: common practice.
type Grade uint8

const (
	// Unknown is the grade of a trait of which nothing at all is recorded.
	Unknown Grade = iota
	// Claimed by a seller, a listing, an imported sheet or somebody's memory.
	Claimed
	// Marked on the part: printed, a sticker, a letter.
	Marked
	// Observed off the chip or the part itself, or reported by the machine.
	Observed
	// Proven by a test.
	Proven
)

var gradeWords = [...]string{"unknown", "claimed", "marked", "observed", "proven"}

// Grades lists the grades a reading can have, weakest first.
func Grades() []Grade { return []Grade{Claimed, Marked, Observed, Proven} }

func (g Grade) String() string {
	if int(g) < len(gradeWords) {
		return gradeWords[g]
	}
	return fmt.Sprintf("grade(%d)", uint8(g))
}

// MarshalText writes the grade as its word.
func (g Grade) MarshalText() ([]byte, error) { return []byte(g.String()), nil }

// UnmarshalText reads a grade's word; see ParseGrade.
func (g *Grade) UnmarshalText(text []byte) error {
	parsed, err := ParseGrade(string(text))
	if err == nil {
		*g = parsed
	}
	return err
}

// ParseGrade reads claimed, marked, observed, proven or unknown; "read" is what earlier
// versions wrote for observed.
func ParseGrade(word string) (Grade, error) {
	if word == "read" {
		return Observed, nil
	}
	for i, w := range gradeWords {
		if w == word {
			return Grade(i), nil
		}
	}
	return Unknown, fmt.Errorf("%q is not a grade of evidence; it is one of claimed, marked, observed, proven", word)
}
