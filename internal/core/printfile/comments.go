package printfile

import (
	"bytes"
	"fmt"
	"strconv"
	"strings"
)

// comment looks for what a slicer notes: "nozzle_diameter = 0.4", "TIME:3600", "printing object x".
func (s *scanner) comment(b []byte) {
	b = bytes.TrimLeft(b, " \t")
	if len(b) < 4 || len(b) > 4096 || saysNothing(b) {
		return
	}
	cut := bytes.IndexAny(b[:min(len(b), 80)], ":=")
	if cut < 0 {
		if bytes.HasPrefix(b, []byte("printing object ")) {
			s.label(string(b[:min(len(b), 200)]))
		}
		return
	}
	var plain [80]byte
	key := string(plainKey(plain[:0], bytes.TrimSpace(b[:cut])))
	// Most comments say nothing of what is looked for: their value is not taken out.
	value := func() string { return strings.ToValidUTF8(string(bytes.TrimSpace(b[cut+1:])), "?") }
	h := &s.p.Hints
	switch {
	case key == "mesh" && !strings.EqualFold(value(), "nonmesh"):
		s.label(value())
	case strings.Contains(key, "nozzle diameter") && h.Nozzle == 0:
		h.Nozzle = firstNumber(value(), 0.05, 5)
		if each := listed(value()); len(each) > 1 && h.Nozzle > 0 {
			for _, text := range each {
				h.Nozzles = append(h.Nozzles, firstNumber(text, 0.05, 5))
			}
		}
	case key == "layer height" && h.Layer == 0:
		h.Layer = firstNumber(value(), 0.01, 5)
	case (key == "filament type" || key == "material" || key == "filament") && h.Filament == "" && len(value()) < 80:
		each := listed(value())
		if len(each[0]) > 0 && each[0][0] > '9' {
			h.Filament = each[0]
			if len(each) > 1 {
				h.Filaments = each
			}
		}
	case key == "time" && h.Seconds == 0:
		h.Seconds = int64(firstNumber(value(), 1, 1e8))
	case strings.Contains(key, "time") && strings.HasPrefix(key, "estimated") && h.Seconds == 0:
		h.Seconds = spelled(value())
	case strings.Contains(key, "gcode flavo") || key == "flavor" || key == "flavour" || key == "gcode flavor":
		if h.Flavour == "" && len(value()) < 80 {
			h.Flavour = value()
		}
	}
}

// saysNothing tells most comments by their beginning: nothing is looked for in them.
func saysNothing(b []byte) bool {
	for len(b) > 0 && b[0] == ' ' {
		b = b[1:]
	}
	if len(b) < 2 {
		return true
	}
	second := b[1] | 0x20
	switch b[0] | 0x20 {
	case 'n', 'e', 'g', 'p', 'm', '\t' | 0x20:
		return false
	case 't':
		return second == 'y' // which type of line is printed next
	case 'l':
		return second == 'i' // how wide it is
	case 'f':
		return second == 'e' // which feature it is of
	}
	return true
}

// plainKey adds a key in small letters, its words parted by blanks.
func plainKey(to, key []byte) []byte {
	for _, c := range key {
		switch {
		case c == '_' || c == '-':
			c = ' '
		case c >= 'A' && c <= 'Z':
			c |= 0x20
		}
		to = append(to, c)
	}
	return to
}

// listed are the values of a list, one of each tool: "0.4,0.6", "PLA;PETG".
func listed(value string) []string {
	each := strings.FieldsFunc(value, func(r rune) bool { return r == ',' || r == ';' })
	if len(each) == 0 || len(each) > mostTools {
		return []string{value}
	}
	for i := range each {
		each[i] = strings.TrimSpace(each[i])
	}
	return each
}

// firstNumber is the first number of a text, within bounds; else 0.
func firstNumber(text string, least, most float64) float64 {
	at := strings.IndexAny(text, "0123456789")
	if at < 0 {
		return 0
	}
	n, _ := parse([]byte(text), at)
	if n < least || n > most {
		return 0
	}
	return n
}

// spelled is a time as it is written out: "1d 2h 3m 4s".
func spelled(text string) int64 {
	total := int64(0)
	for _, word := range strings.Fields(text) {
		unit := word[len(word)-1]
		n, err := strconv.ParseInt(word[:len(word)-1], 10, 32)
		each, known := map[byte]int64{'d': 86400, 'h': 3600, 'm': 60, 's': 1}[unit]
		if err != nil || !known || n < 0 {
			return 0
		}
		total += n * each
	}
	return total
}

// What stands for the bed and the chamber where tools are numbered.
const (
	bedLeft     = -1
	chamberLeft = -2
)

// profile is what is known once the file is read.
func (s *scanner) profile() (*Profile, error) {
	p := &s.p
	if err := s.noText(); err != nil {
		return nil, err
	}
	if p.Moves == 0 && s.codes == 0 {
		if s.lines == 0 {
			return nil, errEmpty
		}
		return nil, errNoCode
	}
	p.Version, p.Bytes, p.Lines = ProfileVersion, s.offset, s.lines
	p.Reach, p.Used = s.reach.box, s.used.box
	for i := range mostTools {
		if s.filament[i] > 0 || len(s.heat[i]) > 0 {
			p.Tools = append(p.Tools, Tool{Tool: i, Filament: roundTo(max(s.filament[i], 0), 10), Heat: s.heat[i]})
		}
	}
	for i, set := range s.setTool[:mostTools] {
		if set.Value > 0 {
			p.Left = append(p.Left, Left{i, set})
		}
	}
	if s.setBed.Value > 0 {
		p.Left = append(p.Left, Left{bedLeft, s.setBed})
	}
	if s.setChamber.Value > 0 {
		p.Left = append(p.Left, Left{chamberLeft, s.setChamber})
	}
	if p.MeshOff != nil && s.lastE <= p.MeshOff.Line {
		p.MeshOff = nil // nothing is printed without it
	}
	for _, u := range s.ends {
		if u.Line > s.lastE {
			p.Ends = append(p.Ends, u)
		}
	}
	for _, text := range s.overOrder {
		p.Overrides = append(p.Overrides, *s.overrides[text])
	}
	for _, word := range s.order {
		p.Words = append(p.Words, *s.uses[word])
	}
	p.Labels, p.Seconds = int64(len(s.labelled)), int64(min(s.seconds, 1e9))
	switch {
	case s.notACommand == 1:
		p.Faults = append(p.Faults, Fault{s.rubbish.Line, "neither a command nor a comment: " + s.rubbish.Says})
	case s.notACommand > 1:
		p.Faults = append(p.Faults, Fault{s.rubbish.Line,
			fmt.Sprintf("%d lines are neither commands nor comments; the first: %s",
				s.notACommand, s.rubbish.Says)})
	}
	if s.asked > 0 {
		p.Faults = append(p.Faults, Fault{s.asked,
			"a value in braces, which the machine works out while it prints: where it goes there is not known here"})
	}
	if s.spline > 0 {
		p.Faults = append(p.Faults, Fault{s.spline,
			"a curve (G5): its ends are looked at, and how far it bends between them is not"})
	}
	if s.tooFar > 0 {
		p.Faults = append(p.Faults, Fault{s.tooFar, "a coordinate further out than any machine goes"})
	}
	if p.Extruded == 0 {
		p.Faults = append(p.Faults, Fault{p.Lines, "nothing in this file extrudes: it prints nothing, or it is cut off"})
	}
	return p, nil
}
