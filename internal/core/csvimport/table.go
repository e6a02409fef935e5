package csvimport

import (
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strings"
)

// Limits of one file.
const (
	MaxBytes   = 32 << 20
	MaxRows    = 50000
	MaxColumns = 500
	maxCell    = 2000
	// longestCell is how long one may be, in bytes, for its file to be read at all.
	longestCell = 64 << 10
)

// Table is a CSV file as it was read.
type Table struct {
	Separator string // one of , ; tab and |
	Encoding  string
	Headings  []string
	Above     []string // lines above the headings, such as a title
	// HeadingLine is the first line of the headings, from 1, and HeadingLines how many
	// there are, 1 or 2.
	HeadingLine, HeadingLines int
	Rows                      [][]string
	Lines                     []int // line of the file on which each row begins
}

// Layout is where in a file the headings are; zero values are to be found out.
type Layout struct {
	HeadingLine  int `json:"headingLine,omitempty" minimum:"0" doc:"Line of the headings, from 1; found when 0"`
	HeadingLines int `json:"headingLines,omitempty" minimum:"0" maximum:"2" doc:"1 or 2 lines of headings; found when 0"`
}

// record is a line of the file, cut into cells.
type record struct {
	cells []string
	line  int
}

// ReadTable reads CSV (RFC 4180) with comma, semicolon, tab or bar between the cells, in
// UTF-8, UTF-16 or, where that is certain, Windows-1252. A title above the headings, a
// line sep=; and headings of two lines are found, or said by layout. Errors say what kind
// of file it seems to be and what would be right. It ends early when the context does.
func ReadTable(ctx context.Context, data []byte, maxRows int, layout Layout) (Table, error) {
	text, encoding, err := decode(data)
	if err != nil {
		return Table{}, err
	}
	separators := []rune{',', ';', '\t', '|'}
	skipped := 0
	if first, rest, ok := strings.Cut(text, "\n"); ok && strings.HasPrefix(strings.ToLower(first), "sep=") {
		// A line that spreadsheets write for themselves.
		if mark := []rune(strings.Trim(first[4:], "\r\"")); len(mark) == 1 {
			separators, text, skipped = mark, rest, 1
		}
	}
	var best Table
	var bestErr error
	var wide *wideLine // with the separator that makes the most cells
	bestScore := math.Inf(-1)
	for _, sep := range separators {
		records, err := readWith(ctx, text, sep, skipped)
		if err := ctx.Err(); err != nil {
			return Table{}, err
		}
		if w := (*wideLine)(nil); errors.As(err, &w) {
			if wide == nil || w.cells > wide.cells {
				wide = w
			}
			continue
		}
		t := Table{Separator: string(sep), Encoding: encoding}
		if err == nil {
			err = t.lay(records, layout)
		}
		score := t.score(records)
		if err != nil {
			score -= 1000
		}
		if score > bestScore {
			best, bestErr, bestScore = t, err, score
		}
	}
	if wide != nil && len(best.Headings) < 2 {
		return Table{}, wide
	}
	if bestErr != nil {
		return Table{}, bestErr
	}
	if len(best.Rows) > maxRows {
		return Table{}, fmt.Errorf(
			"the file has more than %d rows; split it and import the parts one after the other",
			maxRows,
		)
	}
	if len(best.Rows) == 0 {
		return Table{}, errors.New("the file has headings but no rows; each machine is one row under the headings")
	}
	return best, nil
}

// score is how much a table looks as if its separator were the right one: known headings,
// and rows as long as the headings. Rows that are too short or too long count half.
func (t *Table) score(records []record) float64 {
	known := 0
	for _, h := range t.Headings {
		if wordKnown(h) {
			known++
		}
	}
	whole, half, all := 0.0, 0.0, 0.0
	for i := range t.Rows {
		if i == 200 {
			break
		}
		all++
		switch n := len(trimmed(t.Rows[i])); {
		case n == len(t.Headings):
			whole++
		case n > 1:
			half++
		}
	}
	if all == 0 || len(t.Headings) < 2 {
		return float64(min(known, 1)) - 1 + float64(len(records))*1e-9
	}
	return float64(known) + 2*(whole+half/2)/all
}

// trimmed is a row without the empty cells at its end, which spreadsheets add.
func trimmed(cells []string) []string {
	n := len(cells)
	for n > 0 && strings.TrimSpace(cells[n-1]) == "" {
		n--
	}
	return cells[:n]
}

// wideLine is a line with more cells than are read, or with a cell that is longer than anything that people write.
type wideLine struct{ line, cells, characters int }

func (w *wideLine) Error() string {
	if w.characters > 0 {
		return fmt.Sprintf("line %d of the file has a cell of %d characters; at most %d are read", w.line, w.characters,
			maxCell)
	}
	return fmt.Sprintf("line %d of the file has %d columns; at most %d are read", w.line, w.cells, MaxColumns)
}

func readWith(ctx context.Context, text string, sep rune, skipped int) ([]record, error) {
	r := csv.NewReader(strings.NewReader(text))
	r.Comma, r.FieldsPerRecord = sep, -1
	var out []record
	for {
		cells, err := r.Read()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			var parse *csv.ParseError
			if errors.As(err, &parse) {
				return out, fmt.Errorf("line %d: %s", parse.StartLine+skipped, quoteTrouble(parse))
			}
			return out, err
		}
		line, _ := r.FieldPos(0)
		if n := len(trimmed(cells)); n > MaxColumns {
			return out, &wideLine{line: line + skipped, cells: n}
		}
		for _, c := range cells {
			if len(c) > longestCell {
				return out, &wideLine{line: line + skipped, characters: len(c)}
			}
		}
		out = append(out, record{cells[:min(len(cells), MaxColumns)], line + skipped})
		if len(out)%1000 == 0 && ctx.Err() != nil {
			return out, ctx.Err()
		}
	}
}

// lay finds the headings among the records, or takes those that layout says, and makes
// the rest the rows.
func (t *Table) lay(records []record, layout Layout) error {
	at := slices.IndexFunc(records, func(r record) bool { return r.line >= layout.HeadingLine && !r.blank() })
	if layout.HeadingLine == 0 {
		at = headingAt(records)
	}
	if at < 0 {
		return fmt.Errorf("there is no line %d in the file", layout.HeadingLine)
	}
	t.HeadingLine, t.HeadingLines = records[at].line, layout.HeadingLines
	if t.HeadingLines == 0 {
		t.HeadingLines = 1
		if at+1 < len(records) && goesOn(records[at].cells, records[at+1].cells) {
			t.HeadingLines = 2
		}
	}
	for _, r := range records[:at] {
		if words := strings.Join(strings.Fields(strings.Join(r.cells, " ")), " "); words != "" {
			t.Above = append(t.Above, words)
		}
	}
	rows := records[at+1:]
	t.Headings = cleaned(records[at].cells)
	if t.HeadingLines == 2 && len(rows) > 0 {
		t.Headings, rows = joined(t.Headings, cleaned(rows[0].cells)), rows[1:]
	}
	if n := len(trimmed(t.Headings)); n < len(t.Headings) &&
		!slices.ContainsFunc(rows, func(r record) bool { return len(trimmed(r.cells)) > n }) {
		t.Headings = t.Headings[:n]
	}
	for _, r := range rows {
		if r.blank() {
			continue
		}
		t.Rows, t.Lines = append(t.Rows, r.cells), append(t.Lines, r.line)
	}
	return nil
}

func (r record) blank() bool { return len(trimmed(r.cells)) == 0 }

func cleaned(cells []string) []string {
	out := make([]string, len(cells))
	for i := range cells {
		out[i] = strings.Join(strings.Fields(cells[i]), " ")
	}
	return out
}

// linesAbove is how many lines there may be above the headings.
const linesAbove = 12

// headingAt is the record with the headings: of the first lines the one whose cells are
// words that headings are made of, and not fewer than the rows below have.
func headingAt(records []record) int {
	first := slices.IndexFunc(records, func(r record) bool { return !r.blank() })
	best, bestScore := first, -1.0
	for i := max(first, 0); i < len(records) && i < max(first, 0)+linesAbove; i++ {
		cells := trimmed(records[i].cells)
		filled, known, numbers := 0, 0, 0
		for _, c := range cells {
			switch {
			case strings.TrimSpace(c) == "":
				continue
			case wordKnown(c):
				known++
			case numeric(c):
				numbers++
			}
			filled++
		}
		if filled == 0 || filled == 1 && widest(records[i+1:]) > 2 && known == 0 {
			continue // a title
		}
		score := float64(
			known,
		) - float64(
			numbers,
		)/2 + float64(
			filled,
		)/float64(
			2*max(1, widest(records[i:])),
		) - float64(
			i-first,
		)*0.01
		if score > bestScore {
			best, bestScore = i, score
		}
	}
	return best
}

// widest is how many filled cells the next records have at most.
func widest(records []record) int {
	most := 0
	for i, r := range records {
		if i == 20 {
			break
		}
		filled := 0
		for _, c := range r.cells {
			if strings.TrimSpace(c) != "" {
				filled++
			}
		}
		most = max(most, filled)
	}
	return most
}

// goesOn reports whether a second line goes on with the headings: it holds units or
// words of headings alone, and so no machine.
func goesOn(first, second []string) bool {
	filled, said, units, beneath := 0, 0, 0, 0
	for i, c := range second {
		c = strings.TrimSpace(c)
		if c == "" {
			continue
		}
		filled++
		if strings.ContainsAny(c, "0123456789") && !unitAlone(c) {
			return false
		}
		if i >= len(first) || strings.TrimSpace(first[i]) == "" {
			beneath++ // under the right part of a heading over several columns
		}
		switch {
		case unitAlone(c):
			units++
		case wordKnown(c):
			said++
		}
	}
	if filled < 2 || units+said < filled {
		return false
	}
	return units == filled || beneath > 0 || units > 0 && said > 0
}

// joined puts two lines of headings together: a heading over several columns goes on to
// the right, as far as there is something beneath.
func joined(first, second []string) []string {
	out := make([]string, max(len(first), len(second)))
	over := ""
	for i := range out {
		top, below := "", ""
		if i < len(first) {
			top = first[i]
		}
		if i < len(second) {
			below = second[i]
		}
		if top != "" {
			over = top
		} else if below != "" && !fieldNamed(below) {
			top = over
		}
		switch {
		case unitAlone(below) && top != "":
			out[i] = top + " (" + strings.Trim(below, "()[]") + ")"
		default:
			out[i] = strings.TrimSpace(top + " " + below)
		}
	}
	return out
}

func quoteTrouble(e *csv.ParseError) string {
	if errors.Is(e.Err, csv.ErrQuote) {
		return "a quoted cell is not closed where it should be; the file seems to be cut off"
	}
	return "a quotation mark stands in the middle of a cell; double it (\"\") and put the whole cell in quotation marks"
}
