package printfile

import (
	"math"
	"regexp"
	"strconv"
	"strings"
)

// What a file calls a place, and where the machine is then, can be two things: G92 and its like. The reader goes
// by the machine.

// set is G92: it names the place where the head is.
func (s *scanner) set(rest []byte) {
	any := false
	for i, letter := range []byte("XYZ") {
		if n, ok := param(rest, letter); ok {
			any = true
			s.name(i, n*s.unit, append([]byte("G92"), rest...))
		}
	}
	if n, ok := param(rest, 'E'); ok {
		s.e, s.knownE, any = n*s.unit, true, true
	}
	if !any {
		s.e, s.knownE = 0, true
	}
}

// name gives the place of an axis a name. Where homing left it is not in the file: a name given then is taken to be
// the place.
func (s *scanner) name(axis int, n float64, line []byte) {
	s.asksEntry(axis)
	if !s.known[axis] {
		s.at[axis], s.known[axis], s.renamed[axis] = n+s.displaced[axis], true, 0
		return
	}
	if by := s.at[axis] - s.displaced[axis] - n; math.Abs(by-s.renamed[axis]) > 0.001 {
		s.renamed[axis] = by
		s.shifts(axis, "G92", line)
	}
}

// shifts notes that the machine is elsewhere than coordinates say from here on.
func (s *scanner) shifts(axis int, word string, line []byte) {
	if s.p.Shifted[axis] == 0 && s.shift(axis) != 0 {
		s.p.Shifted[axis] = s.lines
	}
	s.override(word, line)
}

// homesElsewhere is M206: what is homed has another coordinate.
func (s *scanner) homesElsewhere(rest, line []byte) {
	for i, letter := range []byte("XYZ") {
		if n, ok := param(rest, letter); ok {
			s.displaced[i] = -n * s.unit
			s.shifts(i, "M206", line)
		}
	}
}

// nudged is M290: the head moves, and its coordinate stays.
func (s *scanner) nudged(rest []byte) {
	for i, letters := range []string{"X", "Y", "ZS"} {
		for _, letter := range []byte(letters) {
			if n, ok := param(rest, letter); ok {
				s.asksEntry(i)
				s.displaced[i] += n * s.unit
				s.at[i] += n * s.unit
				s.shifts(i, "M290", append([]byte("M290"), rest...))
			}
		}
	}
}

// workBegins is G10 with L2, where work begins; with L20 the place where the head is has that name.
func (s *scanner) workBegins(rest, line []byte, here bool) {
	for i, letter := range []byte("XYZ") {
		n, ok := param(rest, letter)
		switch n *= s.unit; {
		case ok && here:
			s.name(i, n, line)
		case ok:
			s.displaced[i] = n
			s.shifts(i, "G10", line)
		}
	}
}

// hostOffset is an axis of a host's word and how far it shifts.
var hostOffset = regexp.MustCompile(`(?i)\b([XYZ])(_ADJUST)?\s*=\s*"?(-?\d*\.?\d+)`)

// setOffset is a host's word that shifts coordinates, by so much or by so much more.
func (s *scanner) setOffset(rest, line []byte) {
	text, _, _ := strings.Cut(string(rest[:min(len(rest), 200)]), ";")
	for _, m := range hostOffset.FindAllStringSubmatch(text, 3) {
		n, err := strconv.ParseFloat(m[3], 64)
		if err != nil {
			continue
		}
		axis := int(m[1][0]&^0x20 - 'X')
		if m[2] != "" {
			n += s.displaced[axis]
		}
		s.displaced[axis] = n
		s.shifts(axis, "SET_GCODE_OFFSET", line)
	}
}

// levels notes that the bed is levelled from here on: what was put out of force before counts only where something
// was printed meanwhile.
func (s *scanner) levels() {
	if s.piece != nil {
		s.piece.needsEntry = true
	}
	if s.p.MeshOff != nil && s.lastE <= s.p.MeshOff.Line {
		s.p.MeshOff = nil
	}
}

// levelsNoMore notes that the mesh is put out of force.
func (s *scanner) levelsNoMore(word string, line []byte) {
	if s.piece != nil {
		s.piece.needsEntry = true
	}
	if s.p.MeshOff == nil || s.lastE <= s.p.MeshOff.Line {
		s.p.MeshOff = &Use{Word: word, Line: s.lines, Count: 1, Text: clip(line), From: s.offset}
	}
}
