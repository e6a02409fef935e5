package bench

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// ProcessorMarking is what the ordering code of a 32-bit processor says: the
// last four characters of the second line of its marking.
type ProcessorMarking struct {
	Code        string   `json:"code" doc:"The ordering code read so far, at most four characters"`
	Pins        int      `json:"pins,omitempty"`
	FlashKiB    int      `json:"flashKiB,omitempty"`
	Package     string   `json:"package,omitempty"`
	Temperature string   `json:"temperature,omitempty" doc:"Range of ambient temperature"`
	Complete    bool     `json:"complete"`
	Problem     string   `json:"problem,omitempty" doc:"What cannot be right, in a sentence"`
	Position    int      `json:"position,omitempty" doc:"1 to 4: the character that cannot be right"`
	LookAlikes  []string `json:"lookAlikes,omitempty" doc:"Whole codes that look alike and would be right"`
}

// Source: the processor makers' datasheets, section "Ordering information".
var (
	markingPins  = map[rune]int{'T': 36, 'C': 48, 'R': 64, 'V': 100, 'Z': 144}
	markingFlash = map[rune]int{'4': 16, '6': 32, '8': 64, 'B': 128, 'C': 256, 'D': 384, 'E': 512, 'F': 768, 'G': 1024}
	markingCase  = map[rune]string{'T': "LQFP", 'H': "BGA", 'U': "QFN", 'Y': "WLCSP"}
	markingTemp  = map[rune]string{'6': "−40 to 85 °C", '7': "−40 to 105 °C"}
)

// lookAlikes are characters taken for each other on small, worn or tilted
// prints. Source: from memory.
var lookAlikes = []string{
	"0ODQCG",
	"8B3",
	"6GBb",
	"5S6",
	"2Z7",
	"1I7TL",
	"7TZY",
	"4A",
	"EF8",
	"UVYJ",
	"RKPB",
	"HNM",
	"CGO",
	"VYU",
}

// DecodeProcessorMarking reads an ordering code as far as it has been typed.
// Longer text is taken as the whole second line, whose last four characters
// are the code. A character outside the table is never guessed: Problem says
// so and LookAlikes proposes what it may be instead.
func DecodeProcessorMarking(text string) ProcessorMarking {
	var code []rune
	for _, r := range strings.ToUpper(text) {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			code = append(code, r)
		} else if !unicode.IsSpace(r) && r != '-' && r != '.' {
			return ProcessorMarking{Problem: fmt.Sprintf("%q does not occur in a marking; it has letters and digits only", r)}
		}
	}
	if len(code) > 4 {
		code = code[len(code)-4:]
	}
	m := ProcessorMarking{Code: string(code)}
	tables := []struct {
		what  string
		right []rune
		take  func(r rune) bool
	}{
		{"pin count", []rune("TCRVZ"), func(r rune) (ok bool) { m.Pins, ok = markingPins[r]; return }},
		{"flash size", []rune("468BCDEFG"), func(r rune) (ok bool) { m.FlashKiB, ok = markingFlash[r]; return }},
		{"package", []rune("THUY"), func(r rune) (ok bool) { m.Package, ok = markingCase[r]; return }},
		{"temperature range", []rune("67"), func(r rune) (ok bool) { m.Temperature, ok = markingTemp[r]; return }},
	}
	for i, r := range code {
		if tables[i].take(r) {
			continue
		}
		m.Position = i + 1
		m.Problem = fmt.Sprintf("%q in place %d of %s stands for no %s; the letters there are %s. The marking was misread.",
			r, i+1, m.Code, tables[i].what, strings.Join(strings.Split(string(tables[i].right), ""), " "))
		if len(code) < 4 {
			for _, other := range alike(r, tables[i].right) {
				fixed := append([]rune(nil), code...)
				fixed[i] = other
				m.LookAlikes = append(m.LookAlikes, string(fixed))
			}
			return m
		}
		m.LookAlikes = MarkingsLike(m.Code, 0, 0)
		return m
	}
	m.Complete = len(code) == 4
	return m
}

// MarkingsLike lists the whole codes of the scheme that one may be misread from: they
// differ only in characters that look alike, in as few of them as can be, and agree with the pins and KiB of
// flash that are known (0: not known).
func MarkingsLike(code string, pins, flash int) []string {
	typed := []rune(code)
	if len(typed) != 4 {
		return nil
	}
	rights := [][]rune{[]rune("TCRVZ"), []rune("468BCDEFG"), []rune("THUY"), []rune("67")}
	type candidate struct {
		code []rune
		off  int
	}
	found := []candidate{{}}
	for i, right := range rights {
		var next []candidate
		for _, c := range found {
			for _, r := range right {
				switch {
				case r == typed[i]:
					next = append(next, candidate{append(slices.Clone(c.code), r), c.off})
				case len(alike(typed[i], []rune{r})) > 0:
					next = append(next, candidate{append(slices.Clone(c.code), r), c.off + 1})
				}
			}
		}
		found = next
	}
	slices.SortStableFunc(found, func(a, b candidate) int { return cmp.Compare(a.off, b.off) })
	var out []string
	fewest := 0
	for _, c := range found {
		if fewest > 0 && c.off > fewest {
			break
		}
		if c.off == 0 || pins > 0 && markingPins[c.code[0]] != pins || flash > 0 && markingFlash[c.code[1]] != flash {
			continue
		}
		fewest = c.off
		out = append(out, string(c.code))
	}
	return out
}

// Agreeing is the marking with those look-alikes only that agree with what else is known
// of the board: its pins and KiB of flash, 0 where they are not known.
func (m ProcessorMarking) Agreeing(pins, flash int) ProcessorMarking {
	if m.Problem != "" && len([]rune(m.Code)) == 4 {
		m.LookAlikes = MarkingsLike(m.Code, pins, flash)
	}
	return m
}

// otherScheme is what is left when no look-alike can be right.
const otherScheme = "it may be another maker's scheme, which this table does not read"

// alike lists the right characters that are easily taken for r.
func alike(r rune, right []rune) []rune {
	var out []rune
	for _, c := range right {
		for _, group := range lookAlikes {
			if strings.ContainsRune(group, r) && strings.ContainsRune(group, c) {
				out = append(out, c)
				break
			}
		}
	}
	return out
}

// Refusal says why a marking cannot be recorded, with what it may be instead;
// empty when it is complete.
func (m ProcessorMarking) Refusal() string {
	switch {
	case m.Complete:
		return ""
	case m.Problem == "":
		return fmt.Sprintf(
			"%q is too short: the ordering code is the last four characters of the marking's second line",
			m.Code,
		)
	case len(m.LookAlikes) == 0:
		return m.Problem + " No letters that look alike would be right either: " + otherScheme + "."
	}
	return m.Problem + " It may be " + strings.Join(m.LookAlikes, " or ") + ": look again. Else " + otherScheme + "."
}

// Readings are the traits of a board that a complete marking gives, as text.
func (m ProcessorMarking) Readings(board string) map[machine.Key]string {
	return map[machine.Key]string{
		machine.KeyOf(board, parts.MainboardPins.Name):        fmt.Sprint(m.Pins),
		machine.KeyOf(board, parts.MainboardFlash.Name):       fmt.Sprint(m.FlashKiB),
		machine.KeyOf(board, parts.MainboardPackage.Name):     m.Package,
		machine.KeyOf(board, parts.MainboardTemperature.Name): m.Temperature,
	}
}

// MarkingReadings are the traits that the marking of a board's processor gives. Only
// 32-bit processors carry an ordering code: on a board known to be 8-bit the marking
// is kept as it stands and gives nothing.
func MarkingReadings(text string, board *machine.Position, on machine.Snapshot) (map[machine.Key]string, error) {
	if on.Says(board, parts.MainboardWidth, EightBit) {
		return nil, nil
	}
	m := DecodeProcessorMarking(text).Agreeing(KnownOf(board, on))
	if !m.Complete {
		return nil, fmt.Errorf(
			"%s If the processor is an 8-bit one, record its width first: its marking has no such code",
			m.Refusal(),
		)
	}
	return m.Readings(board.Key), nil
}

// DecodedFrom begins how a reading was got that a marking brought with it.
const DecodedFrom = "decoded from the marking "

// KnownOf are the pins and KiB of flash of a board that are known by more than a claim,
// and not from its marking alone; 0 where they are not.
func KnownOf(board *machine.Position, on machine.Snapshot) (pins, flash int) {
	number := func(name machine.TraitOf) int {
		f := on.Of(board, name)
		if decoded := f.Stands != nil && strings.HasPrefix(f.Stands.How, DecodedFrom); f.Known() &&
			f.Grade > machine.Claimed &&
			!decoded {
			return int(f.Value.Number)
		}
		return 0
	}
	return number(parts.MainboardPins), number(parts.MainboardFlash)
}

// EightBit is the width of a processor that has no such ordering code.
const EightBit = "8-bit"

// LooksAlike reports whether two markings differ only in characters that are
// easily taken for each other, compared as far as both go.
func LooksAlike(a, b string) bool {
	x, y := []rune(a), []rune(b)
	n := min(len(x), len(y))
	if n < 3 {
		return false
	}
	for i := range n {
		if x[i] != y[i] && len(alike(x[i], y[i:i+1])) == 0 {
			return false
		}
	}
	return true
}
