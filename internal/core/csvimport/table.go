package csvimport

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strings"
	"unicode/utf8"
)

// Limits of one file.
const (
	MaxBytes   = 8 << 20
	MaxRows    = 5000
	MaxColumns = 200
	maxCell    = 2000
)

// Table is a CSV file as it was read.
type Table struct {
	Separator string // one of , ; and tab
	Headings  []string
	Rows      [][]string
	Lines     []int // line of the file on which each row begins
}

// ReadTable reads CSV: RFC 4180 with comma, semicolon or tab between the
// cells, UTF-8 with or without a byte order mark, first row headings. Errors
// say what kind of file it seems to be and what would be right.
func ReadTable(data []byte, maxRows int) (Table, error) {
	text, err := decode(data)
	if err != nil {
		return Table{}, err
	}
	var best Table
	var bestErr error
	bestScore := -1
	for _, sep := range []rune{',', ';', '\t'} {
		t, err := readWith(text, sep, maxRows)
		score := len(t.Headings)
		if err == nil {
			for _, r := range t.Rows {
				if len(r) != len(t.Headings) {
					score-- // a separator that is not the file's gives ragged rows
				}
			}
			score = max(score, 0)
		}
		if score > bestScore || score == bestScore && bestErr != nil && err == nil {
			best, bestErr, bestScore = t, err, score
		}
	}
	if bestErr != nil {
		return Table{}, bestErr
	}
	if len(best.Rows) == 0 {
		return Table{}, errors.New("the file has headings but no rows; each machine is one row under the headings")
	}
	return best, nil
}

func decode(data []byte) (string, error) {
	switch {
	case len(data) > MaxBytes:
		return "", fmt.Errorf("the file has %d MB; at most %d MB are read at a time: split it", len(data)>>20, MaxBytes>>20)
	case len(bytes.TrimSpace(data)) == 0:
		return "", errors.New("the file is empty")
	case bytes.HasPrefix(data, []byte("PK\x03\x04")):
		return "", errors.New("this is a spreadsheet or another packed file, not CSV; open it in the spreadsheet and save it as CSV, UTF-8")
	case bytes.HasPrefix(data, []byte("%PDF")):
		return "", errors.New("this is a PDF, not CSV; save the sheet it was made from as CSV, UTF-8")
	case bytes.HasPrefix(data, []byte("\xff\xfe")), bytes.HasPrefix(data, []byte("\xfe\xff")):
		return "", errors.New("the file is in UTF-16; save it as CSV in UTF-8")
	}
	data = bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))
	if bytes.IndexByte(data, 0) >= 0 {
		return "", errors.New("this is not a text file; a register is CSV, UTF-8")
	}
	if !utf8.Valid(data) {
		line := 1
		for rest := data; len(rest) > 0; {
			r, n := utf8.DecodeRune(rest)
			if r == utf8.RuneError && n == 1 {
				break
			}
			if r == '\n' {
				line++
			}
			rest = rest[n:]
		}
		return "", fmt.Errorf("line %d holds a character that is not UTF-8: the file is in an older encoding; save it as CSV in UTF-8", line)
	}
	return string(data), nil
}

func readWith(text string, sep rune, maxRows int) (Table, error) {
	t := Table{Separator: string(sep)}
	r := csv.NewReader(strings.NewReader(text))
	r.Comma, r.FieldsPerRecord = sep, -1
	for {
		record, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			var parse *csv.ParseError
			if errors.As(err, &parse) {
				return t, fmt.Errorf("line %d: %s", parse.StartLine, quoteTrouble(parse))
			}
			return t, err
		}
		line, _ := r.FieldPos(0)
		if t.Headings == nil {
			for i := range record {
				record[i] = strings.TrimSpace(record[i])
			}
			t.Headings = record
			if len(record) > MaxColumns {
				return t, fmt.Errorf("the file has %d columns; at most %d are read", len(record), MaxColumns)
			}
			continue
		}
		if strings.TrimSpace(strings.Join(record, "")) == "" {
			continue
		}
		if len(t.Rows) == maxRows {
			return t, fmt.Errorf("the file has more than %d rows; split it and bring the parts in one after the other", maxRows)
		}
		t.Rows, t.Lines = append(t.Rows, record), append(t.Lines, line)
	}
	return t, nil
}

func quoteTrouble(e *csv.ParseError) string {
	if errors.Is(e.Err, csv.ErrQuote) {
		return "a quoted cell is not closed where it should be; the file seems to be cut off"
	}
	return "a quotation mark stands in the middle of a cell; double it (\"\") and put the whole cell in quotation marks"
}
