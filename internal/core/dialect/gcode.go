package dialect

import (
	"slices"
	"strings"
)

// readGCode reads G-code words with their parameters: of a script, of start code, or of a report
// that a machine gives of its settings.
func readGCode(d *Document) {
	text := d.Text
	d.Entries = make([]Entry, 0, len(text)/16)
	line := 0
	for at := 0; at < len(text); {
		end := strings.IndexByte(text[at:], '\n')
		if end < 0 {
			end = len(text)
		} else {
			end += at
		}
		line++
		readCode(d, d.pastMark(at), end, line)
		at = end + 1
	}
}

// readCode reads one line of G-code.
func readCode(d *Document, i, end, line int) {
	text := d.Text
	blank := func() {
		for i < end && (text[i] == ' ' || text[i] == '\t' || text[i] == '\r') {
			i++
		}
	}
	if alone := strings.IndexByte(strings.TrimRight(text[i:end], "\r"), '\r'); alone >= 0 {
		d.fault(line, "a carriage return within the line: what stands after it is not read. Save the text with usual line "+
			"ends")
		end = i + alone
	}
	blank()
	i += terminalPrefix(text[i:end])
	blank()
	if i < end && text[i] == 'N' && i+1 < end && digit(text[i+1]) { // the number of a line
		for i++; i < end && digit(text[i]); i++ {
		}
		blank()
	}
	if i+1 >= end || !strings.ContainsRune("GMTgmt", rune(text[i])) || !digit(text[i+1]) {
		return
	}
	name := i
	for i++; i < end && (digit(text[i]) || text[i] == '.'); i++ {
	}
	e := Entry{Line: line, name: int32(name), nameEnd: int32(i), value: int32(i), end: int32(i)}
	any := false
	for i < end {
		blank()
		if i >= end {
			break
		}
		c := text[i]
		switch {
		case c == ';' || c == '*':
			i = end
		case c == '(':
			close := strings.IndexByte(text[i:end], ')')
			if close < 0 {
				i = end
			} else {
				i += close + 1
			}
		case c >= 'A' && c <= 'Z' || c >= 'a' && c <= 'z':
			i++
			i += blanksBeforeNumber(text[i:end])
			from := i
			if i < end && text[i] == '"' {
				close := strings.IndexByte(text[i+1:end], '"')
				if close < 0 {
					d.fault(line, "a text that begins with a quotation mark is never closed")
					i = end
				} else {
					i += close + 2
				}
			} else if i < end && text[i] == '{' {
				close := strings.IndexByte(text[i:end], '}')
				if close < 0 {
					i = end
				} else {
					i += close + 1
				}
			} else {
				for i < end && (digit(text[i]) || strings.IndexByte(".:-+", text[i]) >= 0) {
					i++
				}
			}
			if c >= 'a' {
				c -= 'a' - 'A'
			}
			p := e
			p.Letter, p.value, p.end = c, int32(from), int32(i)
			d.Entries = append(d.Entries, p)
			any = true
		default:
			i++
		}
	}
	if !any {
		d.Entries = append(d.Entries, e)
	}
}

// blanksBeforeNumber is how many blanks stand between a letter and its number: "E 95".
func blanksBeforeNumber(text string) int {
	for i := range len(text) {
		switch c := text[i]; {
		case c == ' ' || c == '\t':
		case digit(c) || c == '-' || c == '+' || c == '.':
			return i
		default:
			return 0
		}
	}
	return 0
}

// terminalWords are what terminals put before a line, or firmware before its report. Source: from memory.
var terminalWords = []string{"echo", "recv", "received", "send", "sent", "read", "rx", "tx", "in", "out", "info"}

// terminalPrefix is how long what stands before a line is that was copied out of a terminal: "echo:", "Recv: ",
// "10:22:01.233 > ", "[2026-11-20 10:22:01] ", in any order.
func terminalPrefix(line string) int {
	i := 0
	for {
		for i < len(line) && (line[i] == ' ' || line[i] == '\t') {
			i++
		}
		n := i
		switch {
		case n < len(line) && (line[n] == '>' || line[n] == '<'):
			for n < len(line) && line[n] == line[i] {
				n++
			}
		case n+1 < len(line) && line[n] == '[' && digit(line[n+1]):
			close := strings.IndexByte(line[n:], ']')
			if close < 0 {
				return i
			}
			n += close + 1
		case n < len(line) && digit(line[n]):
			for n < len(line) && (digit(line[n]) || strings.IndexByte(":.,/-T", line[n]) >= 0) {
				n++
			}
			if !strings.ContainsAny(line[i:n], ":-") {
				return i
			}
		default:
			for n < len(line) && (line[n] >= 'a' && line[n] <= 'z' || line[n] >= 'A' && line[n] <= 'Z') {
				n++
			}
			if n >= len(line) || line[n] != ':' || !slices.Contains(terminalWords, strings.ToLower(line[i:n])) {
				return i
			}
			n++
		}
		i = n
	}
}

func digit(c byte) bool { return c >= '0' && c <= '9' }
