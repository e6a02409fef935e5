package dialect

import (
	"slices"
	"strings"
)

// readSections reads keys under sections. Lines that are indented go on with the value before
// them. The block of lines that begin with #*# is the one that the machine writes itself.
func readSections(d *Document) {
	text := d.Text
	d.Entries = make([]Entry, 0, min(strings.Count(text, "\n")+1, len(text)/leastEntry))
	section, line := int32(0), 0
	many := min(1+strings.Count(text, "["), 1000)
	seen := make(map[string]int32, many)
	seen[""] = 0
	d.sections, d.spelled = slices.Grow(d.sections, many), slices.Grow(d.spelled, many)
	open := -1          // the entry whose value goes on on indented lines
	savedBegun := false // what stands in the saved block before its first section is its heading
	for at := 0; at < len(text); {
		end := strings.IndexByte(text[at:], '\n')
		if end < 0 {
			end = len(text)
		} else {
			end += at
		}
		line++
		begin := at
		if d.begins[begin] {
			open = -1 // no value goes on in another file
		}
		i, stop, saved := d.pastMark(at), end, false
		if strings.HasPrefix(text[i:end], "#*#") {
			i, saved, open = i+3, true, -1
		}
		indented := !saved && i < end && (text[i] == ' ' || text[i] == '\t')
		for i < stop && (text[i] == ' ' || text[i] == '\t') {
			i++
		}
		stop = commentAt(text, i, stop)
		at = end + 1
		switch {
		case i == stop:
			if !indented && i == end {
				open = -1
			}
		case indented && open >= 0:
			d.Entries[open].end = int32(stop)
		case text[i] == '[':
			open = -1
			close := strings.IndexByte(text[i:stop], ']')
			if close < 0 {
				d.fault(line, "a section without its closing bracket: %s", short(text[i:stop]))
				continue
			}
			name := sectionName(text[i+1 : i+close])
			switch {
			case name == "":
				d.fault(line, "a section without a name")
			case strings.HasPrefix(name, "include ") && !d.taken[begin]:
				d.fault(line, "it takes in %s, which is not read here: put that file on record as well", short(name[8:]))
			}
			index, known := seen[name]
			if !known {
				index = int32(len(d.sections))
				seen[name] = index
				d.sections = append(d.sections, name)
				d.spelled = append(d.spelled, strings.TrimSpace(text[i+1:i+close]))
			}
			section, savedBegun = index, savedBegun || saved
		case saved && !savedBegun:
		default:
			colon := i
			for colon < stop && text[colon] != ':' && text[colon] != '=' {
				colon++
			}
			if colon == stop || colon == i {
				d.fault(line, "neither a section, a key with its value, nor a comment: %s", short(text[i:stop]))
				continue
			}
			if section == 0 {
				d.fault(line, "a key before the first section: %s", short(text[i:stop]))
			}
			nameEnd := colon
			for text[nameEnd-1] == ' ' || text[nameEnd-1] == '\t' {
				nameEnd--
			}
			value := colon + 1
			for value < stop && (text[value] == ' ' || text[value] == '\t') {
				value++
			}
			d.Entries = append(d.Entries, Entry{
				Line: line, Saved: saved, section: section,
				name: int32(i), nameEnd: int32(nameEnd), value: int32(value), end: int32(stop),
			})
			if open = -1; !saved {
				open = len(d.Entries) - 1
			}
		}
	}
}

// sectionName is the name of a section as sections are told apart: in small letters, with one blank between words.
func sectionName(written string) string {
	capitals := false
	for i := range len(written) {
		switch c := written[i]; {
		case c >= 0x80 || c < ' ', c == ' ' && (i == 0 || i+1 == len(written) || written[i+1] == ' '):
			return strings.ToLower(strings.Join(strings.Fields(written), " "))
		case c >= 'A' && c <= 'Z':
			capitals = true
		}
	}
	if capitals {
		return strings.ToLower(written)
	}
	return written
}

// commentAt is where a comment begins, or the blanks before it, or the end of the line.
func commentAt(text string, i, end int) int {
	if at := strings.IndexByte(text[i:end], '#'); at >= 0 {
		end = i + at
	}
	for from := i; from < end; from++ {
		at := strings.IndexByte(text[from:end], ';')
		if at < 0 {
			break
		}
		if from += at; from == i || text[from-1] == ' ' || text[from-1] == '\t' {
			end = from
		}
	}
	for end > i && (text[end-1] == ' ' || text[end-1] == '\t' || text[end-1] == '\r') {
		end--
	}
	return end
}

// short is a piece of a text as it is shown in a sentence.
func short(text string) string {
	text = strings.TrimSpace(text)
	if len(text) <= 60 {
		return text
	}
	cut := 60
	for cut > 0 && text[cut]&0xC0 == 0x80 {
		cut--
	}
	return text[:cut] + "…"
}

// In finds the entry of a key in a section that counts: the last one of it, but one of the saved
// block before any other. Nil where there is none.
func (d *Document) In(section, key string) *Entry {
	var found *Entry
	at := int32(slices.Index(d.sections, section))
	for i := range d.Entries {
		e := &d.Entries[i]
		if e.section == at && strings.EqualFold(d.Word(e), key) && (found == nil || e.Saved || !found.Saved) {
			found = e
		}
	}
	return found
}

// SectionNames lists the sections in the order in which they appear first.
func (d *Document) SectionNames() []string { return d.sections[1:] }
