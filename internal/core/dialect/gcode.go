package dialect

import "strings"

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
		readCode(d, at, end, line)
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
	blank()
	for _, prefix := range []string{"echo:", "Recv:"} {
		if strings.HasPrefix(text[i:end], prefix) {
			i += len(prefix)
			blank()
		}
	}
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

func digit(c byte) bool { return c >= '0' && c <= '9' }
