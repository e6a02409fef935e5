package csvimport

import (
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"strings"
	"unicode"
	"unicode/utf16"
	"unicode/utf8"
)

// Encodings in which a file can be.
const (
	utf8Text    = "UTF-8"
	utf16Text   = "UTF-16"
	windowsText = "Windows-1252"
)

// decode reads the bytes of a file as text, and says in which encoding they were. It
// reads only what is certain; else the error says how to save the file so that it is.
func decode(data []byte) (text, encoding string, err error) {
	switch {
	case len(data) > MaxBytes:
		return "", "", fmt.Errorf(
			"the file has %d MB; at most %d MB are read at a time: split it",
			len(data)>>20,
			MaxBytes>>20,
		)
	case len(bytes.TrimSpace(data)) == 0:
		return "", "", errors.New("the file is empty")
	case bytes.HasPrefix(data, []byte("PK\x03\x04")), bytes.HasPrefix(data, []byte("\xd0\xcf\x11\xe0")):
		return "", "", errors.New(
			"this is a spreadsheet or another packed file, not CSV; open it in the spreadsheet and save it as CSV, UTF-8",
		)
	case bytes.HasPrefix(data, []byte("%PDF")):
		return "", "", errors.New("this is a PDF, not CSV; save the sheet it was made from as CSV, UTF-8")
	case bytes.HasPrefix(data, []byte("\xff\xfe")):
		return wide(data[2:], binary.LittleEndian)
	case bytes.HasPrefix(data, []byte("\xfe\xff")):
		return wide(data[2:], binary.BigEndian)
	}
	data = bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))
	if bytes.IndexByte(data, 0) >= 0 {
		for _, order := range []binary.ByteOrder{binary.LittleEndian, binary.BigEndian} {
			if text, encoding, err := wide(data, order); err == nil && mostlyPlain(text) {
				return text, encoding, nil
			}
		}
		return "", "", errors.New("this is not a text file; a register is CSV, UTF-8")
	}
	if utf8.Valid(data) {
		return lines(string(data)), utf8Text, nil
	}
	if text, ok := western(data); ok {
		return lines(text), windowsText, nil
	}
	line := 1 + bytes.Count(data[:firstInvalid(data)], []byte{'\n'})
	return "", "", fmt.Errorf(
		"line %d holds a character that is not UTF-8, and which older encoding the file is in cannot be told for "+
			"certain; save it as CSV in UTF-8",
		line,
	)
}

// lines ends each line with a line feed, where a file ends them with a return alone.
func lines(text string) string {
	if !strings.Contains(text, "\n") {
		return strings.ReplaceAll(text, "\r", "\n")
	}
	return text
}

// wide reads UTF-16; half a character at the end, or a pair that is none, is an error.
func wide(data []byte, order binary.ByteOrder) (string, string, error) {
	const how = "the file seems to be in UTF-16 and is cut off or damaged; save it as CSV in UTF-8"
	if len(data)%2 != 0 {
		return "", "", errors.New(how)
	}
	units := make([]uint16, len(data)/2)
	for i := range units {
		units[i] = order.Uint16(data[2*i:])
	}
	text := string(utf16.Decode(units))
	if strings.ContainsAny(text, "\x00\ufffd") {
		return "", "", errors.New(how)
	}
	return lines(text), utf16Text, nil
}

// mostlyPlain reports whether a text read as UTF-16 is one: of letters that registers hold.
func mostlyPlain(text string) bool {
	plain, all := 0, 0
	for _, r := range text {
		if all++; r < 0x250 {
			plain++
		}
	}
	return all > 0 && plain*10 >= all*9
}

func firstInvalid(data []byte) int {
	at := 0
	for at < len(data) {
		r, n := utf8.DecodeRune(data[at:])
		if r == utf8.RuneError && n == 1 {
			break
		}
		at += n
	}
	return at
}

// windows are the characters of Windows-1252 from 0x80 to 0x9f; 0 where it has none. The
// rest are those of ISO 8859-1. Source: the encoding's table at unicode.org.
var windows = [32]rune{
	'€', 0, '‚', 'ƒ', '„', '…', '†', '‡', 'ˆ', '‰', 'Š', '‹', 'Œ', 0, 'Ž', 0,
	0, '‘', '’', '“', '”', '•', '–', '—', '˜', '™', 'š', '›', 'œ', 0, 'ž', 'Ÿ',
}

// wellPlaced are signs that stand where they do in every encoding that resembles Windows-1252,
// or have no rival there that a register would hold.
const wellPlaced = "°µ²³±½¼¾×·§€–—…’‘“”«»\u00a0\u00d8ß"

// western reads Windows-1252, where it is certain: its letters stand beside plain ones
// and not in rows of their own, as another alphabet's would, and none is a letter where
// other encodings have the one that is meant.
func western(data []byte) (string, bool) {
	var out strings.Builder
	var before rune
	row := 0
	for i, b := range data {
		r := rune(b)
		if b >= 0x80 && b < 0xa0 {
			r = windows[b-0x80]
		}
		out.WriteRune(r)
		if b < 0x80 {
			before, row = r, 0
			continue
		}
		beside := isPlainLetter(before) || i+1 < len(data) && isPlainLetter(rune(data[i+1]))
		row++
		switch {
		case strings.ContainsRune(wellPlaced, r):
		case r >= 0xc0 && r <= 0xff && unicode.IsLetter(r) && beside && row < 3 && !strings.ContainsRune("ÐÞðþìùòÌÙÒ", r):
		default:
			return "", false
		}
		before = r
	}
	return out.String(), true
}

func isPlainLetter(r rune) bool { return r < 0x80 && unicode.IsLetter(r) }
