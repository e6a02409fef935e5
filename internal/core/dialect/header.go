package dialect

import "strings"

// readHeader reads the #define lines of a C header, those that are commented out as well, and
// works out which conditionals hold, as far as what they ask is defined in it.
func readHeader(d *Document) {
	h := headerReader{Document: d}
	d.Entries = make([]Entry, 0, min(strings.Count(d.Text, "#"), len(d.Text)/leastEntry))
	text := d.Text
	for at := 0; at < len(text); {
		end := strings.IndexByte(text[at:], '\n')
		if end < 0 {
			end = len(text)
		} else {
			end += at
		}
		h.line++
		next := end + 1
		if h.inComment {
			if close := strings.Index(text[at:end], "*/"); close >= 0 {
				h.inComment = false
				at += close + 2
			} else {
				at = next
				continue
			}
		}
		i := d.pastMark(at)
		for i < end && (text[i] == ' ' || text[i] == '\t') {
			i++
		}
		if i+1 < end {
			switch text[i] {
			case '#':
				next = h.directive(i, end, next)
			case '/':
				h.comment(i, end)
			}
		}
		at = next
	}
	if h.inComment {
		d.fault(h.line, "a comment that begins with /* is never closed")
	}
	for i := len(h.open); i > 0; i-- {
		d.fault(h.open[i-1].line, "%s is never closed by #endif", h.open[i-1].text)
	}
}

type headerReader struct {
	*Document
	line      int
	inComment bool
	open      []conditional
	tooDeep   int // conditionals that are nested deeper than is read
	// defined are the entries by name, made when the first conditional asks.
	defined map[string]int32
	indexed int
}

// conditional is an #if that is open.
type conditional struct {
	line int
	text string
	// taken says whether a branch before this one was taken; holds is of the branch that is open.
	taken, holds truth
	index        int32
}

// comment looks for an option that is written as a comment.
func (h *headerReader) comment(i, end int) {
	text := h.Text
	if text[i+1] == '*' {
		if !strings.Contains(text[i+2:end], "*/") {
			h.inComment = true
		}
		return
	}
	if text[i+1] != '/' {
		return
	}
	for i < end && (text[i] == '/' || text[i] == ' ' || text[i] == '\t') {
		i++
	}
	if i < end && text[i] == '#' {
		if name, ok := after(text, i+1, end, "define"); ok {
			h.define(name, end, end+1, CommentedOut)
		}
	}
}

// after gives where the text goes on after a directive's name and blanks.
func after(text string, i, end int, word string) (int, bool) {
	for i < end && (text[i] == ' ' || text[i] == '\t') {
		i++
	}
	if !strings.HasPrefix(text[i:end], word) {
		return 0, false
	}
	i += len(word)
	if i < end && isName(text[i]) {
		return 0, false
	}
	for i < end && (text[i] == ' ' || text[i] == '\t') {
		i++
	}
	return i, true
}

var nameBytes = func() (is [256]bool) {
	for c := range 256 {
		is[c] = c == '_' || c >= '0' && c <= '9' || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z'
	}
	return
}()

func isName(c byte) bool { return nameBytes[c] }

// directive reads one that begins at a #, and gives where the next line begins.
func (h *headerReader) directive(i, end, next int) int {
	text := h.Text
	from := i + 1
	for from < end && (text[from] == ' ' || text[from] == '\t') {
		from++
	}
	at := from
	for at < end && isName(text[at]) {
		at++
	}
	word := text[from:at]
	for at < end && (text[at] == ' ' || text[at] == '\t') {
		at++
	}
	switch word {
	case "define":
		return h.define(at, end, next, InForce)
	case "undef":
		if h.force() == InForce {
			stop := at
			for stop < end && isName(text[stop]) {
				stop++
			}
			h.index()
			delete(h.defined, text[at:stop])
		}
		return next
	case "include":
		if h.taken[strings.LastIndexByte(text[:i], '\n')+1] {
			return next
		}
	case "ifdef", "ifndef", "if", "elif", "else", "endif":
	default:
		return next
	}
	asked, next := h.joined(at, end, next)
	h.conditional(word, asked, strings.TrimSpace(text[i:end]))
	return next
}

// joined is what stands after a directive, without comments, with lines that go on put together.
func (h *headerReader) joined(at, end, next int) (string, int) {
	line := strings.TrimRight(h.Text[at:end], " \t\r")
	if !strings.HasSuffix(line, `\`) {
		return uncommented(line), next
	}
	var b strings.Builder
	for {
		more := strings.HasSuffix(line, `\`)
		b.WriteString(strings.TrimSuffix(line, `\`))
		b.WriteByte(' ')
		if !more || next >= len(h.Text) || b.Len() > MostLine || h.begins[next] {
			return uncommented(b.String()), next
		}
		stop := strings.IndexByte(h.Text[next:], '\n')
		if stop < 0 {
			stop = len(h.Text) - next
		}
		line = strings.TrimRight(h.Text[next:next+stop], " \t\r")
		next += stop + 1
		h.line++
	}
}

func uncommented(text string) string {
	if strings.IndexByte(text, '/') < 0 {
		return strings.TrimSpace(text)
	}
	if at := strings.Index(text, "//"); at >= 0 {
		text = text[:at]
	}
	if at := strings.Index(text, "/*"); at >= 0 {
		text = text[:at]
	}
	return strings.TrimSpace(text)
}

// define reads a name and its value, and gives where the next line begins.
func (h *headerReader) define(i, end, next int, force Force) int {
	text := h.Text
	name := i
	for i < end && isName(text[i]) {
		i++
	}
	if i == name {
		if force == InForce {
			h.fault(h.line, "a #define without a name")
		}
		return next
	}
	nameEnd, line := i, h.line
	if i < end && text[i] == '(' { // a macro with arguments is code, no value
		for strings.HasSuffix(strings.TrimRight(text[i:end], " \t\r"), `\`) && next < len(text) && !h.begins[next] {
			i, end, next = h.following(next)
		}
		return next
	}
	if i < end && text[i] != ' ' && text[i] != '\t' && text[i] != '\r' && text[i] != '/' {
		return next
	}
	for i < end && (text[i] == ' ' || text[i] == '\t') {
		i++
	}
	value := i
	stop := h.valueEnd(i, end)
	for force != CommentedOut && stop > i && text[stop-1] == '\\' && next < len(text) && !h.begins[next] {
		i, end, next = h.following(next)
		stop = h.valueEnd(i, end)
	}
	if stop < value {
		stop = value
	}
	e := Entry{
		Line: line, Force: force, name: int32(name), nameEnd: int32(nameEnd), value: int32(value), end: int32(stop),
	}
	if force == InForce && len(h.open) > 0 {
		e.Force = h.force()
		if e.Force != InForce {
			e.condition = h.deciding()
		}
	}
	h.Entries = append(h.Entries, e)
	return next
}

// following is the line after one that goes on.
func (h *headerReader) following(at int) (from, end, next int) {
	h.line++
	stop := strings.IndexByte(h.Text[at:], '\n')
	if stop < 0 {
		return at, len(h.Text), len(h.Text)
	}
	return at, at + stop, at + stop + 1
}

// valueEnd is where a value ends: before a comment and the blanks before it.
func (h *headerReader) valueEnd(i, end int) int {
	text := h.Text
	for at := i; at < end; at++ {
		switch text[at] {
		case '"':
			if close := strings.IndexByte(text[at+1:end], '"'); close >= 0 {
				at += close + 1
			}
		case '/':
			if at+1 < end && (text[at+1] == '/' || text[at+1] == '*') {
				if text[at+1] == '*' && !strings.Contains(text[at+2:end], "*/") {
					h.inComment = true
				}
				end = at
			}
		}
	}
	for end > i && (text[end-1] == ' ' || text[end-1] == '\t' || text[end-1] == '\r') {
		end--
	}
	return end
}

// conditional opens, turns or closes one.
func (h *headerReader) conditional(word, asked, text string) {
	switch word {
	case "include":
		h.fault(h.line, "%s: another file, which is not read here", text)
		return
	case "ifdef", "ifndef", "if":
		if len(h.open) >= mostDepth {
			if h.tooDeep++; h.tooDeep == 1 {
				h.fault(h.line, "conditionals are nested deeper than %d: what is inside is not decided", mostDepth)
			}
			return
		}
		h.conditions = append(h.conditions, text)
		c := conditional{line: h.line, text: text, holds: h.ask(word, asked), index: int32(len(h.conditions))}
		c.taken = c.holds
		h.open = append(h.open, c)
		return
	}
	if h.tooDeep > 0 {
		if word == "endif" {
			h.tooDeep--
		}
		return
	}
	if len(h.open) == 0 {
		h.fault(h.line, "%s without an #if before it", text)
		return
	}
	c := &h.open[len(h.open)-1]
	switch word {
	case "endif":
		h.open = h.open[:len(h.open)-1]
	case "else":
		c.holds = not(c.taken)
		c.taken = yes
	case "elif":
		h.conditions = append(h.conditions, text)
		c.index = int32(len(h.conditions))
		is := h.ask("if", asked)
		c.holds = and(not(c.taken), is)
		c.taken = or(c.taken, is)
	}
}

// ask works out what a conditional asks, where that matters.
func (h *headerReader) ask(word, asked string) truth {
	h.index()
	t := h.evaluate(word, asked)
	if t == unknown && !h.tellsNoMore() && h.force() != Excluded {
		h.fault(h.line, "#%s %s: cannot be decided from this file", word, asked)
	}
	return t
}

// force is whether what stands here is in force.
func (h *headerReader) force() Force {
	out := InForce
	if h.tooDeep > 0 {
		out = Undecided
	}
	for i := range h.open {
		switch h.open[i].holds {
		case no:
			return Excluded
		case unknown:
			out = Undecided
		}
	}
	return out
}

// deciding is the condition because of which what stands here is not in force.
func (h *headerReader) deciding() int32 {
	at := int32(0)
	for i := range h.open {
		switch h.open[i].holds {
		case no:
			return h.open[i].index
		case unknown:
			at = h.open[i].index
		}
	}
	return at
}

// index brings the names that are defined up to date.
func (h *headerReader) index() {
	if h.defined == nil {
		h.defined = make(map[string]int32, cap(h.Entries))
	}
	for ; h.indexed < len(h.Entries); h.indexed++ {
		e := &h.Entries[h.indexed]
		name := h.Word(e)
		if e.Force == CommentedOut {
			if _, known := h.defined[name]; known {
				continue
			}
		}
		if e.Force != Excluded {
			h.defined[name] = int32(h.indexed)
		}
	}
}
