package printfile

import (
	"bytes"
	"errors"
	"fmt"
	"math"
)

// Bounds of what is read. Source: from memory.
const (
	// MostBytes is how large a file may be, unpacked.
	MostBytes = 16 << 30
	// longest is the longest line that is read; of a longer one only the beginning is looked at.
	longest = 64 << 10
	// block is how much is read at once.
	block = 512 << 10
	// steps is how many ever further values of one kind are kept.
	steps = 512
	// mostUses is how many different words are kept.
	mostUses = 200
	// longestWord is how long a word is at most that is kept to be counted, bytes.
	longestWord = 40
	// mostTools is how many tool heads a file may name.
	mostTools = 50
	// mostFaults is how many faults are kept.
	mostFaults = 20
	// furthest is a coordinate, mm, or a temperature, °C, that no machine has.
	furthest = 1e6
)

// modes are how the words of a line are taken.
type modes struct {
	relative, relE bool
	unit           float64 // mm
	// Where the machine is for a coordinate of 0, mm: renamed is by words that give the place where the
	// head is another name (G92), displaced by those that shift what is homed (M206).
	renamed, displaced [3]float64
}

// shift is by how much the machine is further than a coordinate says.
func (m *modes) shift(axis int) float64 { return m.renamed[axis] + m.displaced[axis] }

// shifted says whether the machine is elsewhere than coordinates say.
func (m *modes) shifted() bool { return m.renamed != [3]float64{} || m.displaced != [3]float64{} }

// scanner is what is known of a file, or of a piece of it, so far.
type scanner struct {
	modes
	p      Profile
	lines  int64 // read so far
	offset int64 // where the line that is read begins

	at       [3]float64 // position as the machine has it, mm
	known    [3]bool
	e        float64
	knownE   bool
	tool     int
	perMM    float64 // seconds a millimetre takes; 0 while the feed rate is unknown
	seconds  float64
	filament [mostTools + 1]float64
	heat     [mostTools + 1][]Extreme
	// What tools and the bed were set to last, and on which line; 0 for never.
	setTool            [mostTools + 1]Extreme
	setBed, setChamber Extreme
	lastE              int64 // line of the last move that extrudes
	ends               []Use // the last words that may end a print by code of the machine's own

	reach, used        sides
	uses               map[string]*Use
	overrides          map[string]*Use
	counted            map[string]count // words that are only counted, as they are written
	order, overOrder   []string
	labelled           map[string]bool
	codes, notACommand int64
	rubbish            Fault // the first line that is no command
	homedAll           bool
	asked              int64 // the first line with a value in braces; 0 for none
	spline             int64 // the first line with a curve that is no circle; 0 for none
	tooFar             int64 // the first line with a coordinate that no machine has; 0 for none
	binary             int64 // the first line that is no text; 0 for none

	row   row    // moves that are read fast
	plain bool   // every line is read by itself
	piece *piece // of a piece of a file
}

// sides are the furthest coordinates of a box, beside the lists of how they came about.
type sides struct {
	low, high [3]float64
	box       Box
}

func newScanner() *scanner {
	s := &scanner{uses: map[string]*Use{}, overrides: map[string]*Use{}, labelled: map[string]bool{},
		counted: map[string]count{}}
	s.unit, s.knownE = 1, true
	for _, b := range []*sides{&s.reach, &s.used} {
		for i := range 3 {
			b.low[i], b.high[i] = math.Inf(1), math.Inf(-1)
		}
	}
	return s
}

// block reads whole lines.
func (s *scanner) block(b []byte) {
	for len(b) > 0 {
		if n := s.fast(b); n > 0 {
			b = b[n:]
			continue
		}
		if len(b) > 3 && b[0] == 'G' && b[2] == ' ' && (b[1] == '1' || b[1] == '0') {
			s.lines++
			n := 3 + s.move(b[3:])
			if n < len(b) && b[n] != '\n' {
				if rest := bytes.IndexByte(b[n:], '\n'); rest >= 0 {
					n += rest
				} else {
					n = len(b)
				}
			}
			s.checkLength(n)
			n = min(n+1, len(b))
			s.offset += int64(n)
			b = b[n:]
			continue
		}
		n := bytes.IndexByte(b, '\n')
		if n < 0 {
			n = len(b)
		}
		s.lines++
		if n > 0 {
			s.other(b[:n])
		}
		n = min(n+1, len(b))
		s.offset += int64(n)
		b = b[n:]
	}
}

// checkLength notes a line that is longer than is read.
func (s *scanner) checkLength(n int) bool {
	if n >= longest {
		s.fault("the line is longer than %d KiB: no slicer writes that; what stands in it is not looked at", longest>>10)
		return false
	}
	return true
}

// move is a straight move with its parameters, up to the end of the line or to a comment; it gives
// how far it read.
func (s *scanner) move(b []byte) int {
	to := s.at
	var turned [3]bool
	e, hasE := 0.0, false
	i := 0
read:
	for i < len(b) {
		c := b[i]
		switch c {
		case ' ', '\t', '\r':
			i++
			continue
		case '\n', ';', '*', '(', 0:
			break read
		}
		n, end := valueAt(b, i+1)
		if end == i+1 {
			if end < len(b) && b[end] == '{' {
				s.asksMachine()
			}
			i = end
			continue
		}
		i = end
		if c >= 'a' && c <= 'z' {
			c -= 'a' - 'A'
		}
		switch c {
		case 'X', 'Y', 'Z':
			axis := c - 'X'
			n *= s.unit
			if s.relative {
				n += s.at[axis]
				s.asksEntry(int(axis))
			} else {
				n += s.shift(int(axis))
			}
			to[axis] = n
			turned[axis] = true
		case 'E':
			e, hasE = n*s.unit, true
		case 'F':
			if n > 0 {
				s.perMM = 60 / (n * s.unit)
			}
		}
	}
	if i < len(b) && b[i] == 0 {
		s.seeBinary()
	}
	s.moved(&to, &turned, e, hasE)
	return i
}

// asksMachine notes a value that the machine works out while it prints.
func (s *scanner) asksMachine() {
	if s.asked == 0 {
		s.asked = s.lines
	}
}

// seeBinary notes that a line is no text.
func (s *scanner) seeBinary() {
	if s.binary == 0 {
		s.binary = s.lines
	}
}

// noText says where the file turned out to be no G-code.
func (s *scanner) noText() error {
	if s.binary == 0 {
		return nil
	}
	return fmt.Errorf("line %d holds bytes that are no text: this is no G-code, or a packed kind of it that cannot be "+
		"read here. Let the slicer write plain G-code", s.binary)
}

// moved takes a move down.
func (s *scanner) moved(to *[3]float64, turned *[3]bool, e float64, hasE bool) {
	s.p.Moves++
	extrudes := false
	fed := 0.0
	if hasE {
		fed = e
		if !s.relE {
			fed = e - s.e
			s.e = e
			if !s.knownE {
				s.knownE, fed = true, 0
				m := &entryMove{from: s.at, begun: s.known, to: *to, known: s.known, lost: s.piece.lost, e: e, line: s.lines,
					tool: s.tool, across: turned[0] || turned[1]}
				for i := range 3 {
					m.known[i] = m.known[i] || turned[i]
				}
				s.piece.firstE = m
			}
		}
		extrudes = fed > 0 && (turned[0] || turned[1])
		s.filament[s.tool] += fed
	}
	if s.known[0] && s.known[1] {
		dx, dy, dz := to[0]-s.at[0], to[1]-s.at[1], to[2]-s.at[2]
		far := math.Sqrt(dx*dx + dy*dy + dz*dz)
		if far == 0 {
			far = math.Abs(fed)
		}
		s.seconds += far * s.perMM
		if s.perMM == 0 && s.piece != nil {
			s.piece.unpaced += far
		}
	}
	begun := s.known
	for i := range 3 {
		if !turned[i] {
			continue
		}
		s.known[i] = true
		if to[i] < s.reach.low[i] || to[i] > s.reach.high[i] {
			s.further(&s.reach, i, to[i])
		}
	}
	if extrudes {
		s.extruded(to, &begun)
	}
	s.at = *to
}

// extruded takes down where something is printed: from where the head is, as far as that is known, to
// where it goes.
func (s *scanner) extruded(to *[3]float64, begun *[3]bool) {
	if s.p.Extruded == 0 {
		s.p.Extruded = s.lines
	}
	s.lastE = s.lines
	for i := range 3 {
		if begun[i] && (s.at[i] < s.used.low[i] || s.at[i] > s.used.high[i]) {
			s.further(&s.used, i, s.at[i])
		}
		if !begun[i] && s.piece != nil && s.piece.extruded[i] == 0 && !s.piece.lost[i] {
			s.piece.extruded[i] = s.lines
		}
		if s.known[i] && (to[i] < s.used.low[i] || to[i] > s.used.high[i]) {
			s.further(&s.used, i, to[i])
		}
	}
}

// further notes a coordinate that is beyond all before it.
func (s *scanner) further(b *sides, axis int, n float64) {
	if math.Abs(n) > furthest {
		if s.tooFar == 0 {
			s.tooFar = s.lines
		}
		return
	}
	if n < b.low[axis] {
		b.low[axis] = n
		b.box.Low[axis] = push(b.box.Low[axis], n, s.lines)
	}
	if n > b.high[axis] {
		b.high[axis] = n
		b.box.High[axis] = push(b.box.High[axis], n, s.lines)
	}
}

// push adds an ever further value. Of more than are kept every other one goes, never the last:
// lines are then those of the next further value that is kept.
func push(list []Extreme, n float64, line int64) []Extreme {
	if len(list) >= steps {
		kept := list[:0]
		for i := 1; i < len(list); i += 2 {
			kept = append(kept, list[i])
		}
		list = kept
	}
	return append(list, Extreme{n, line})
}

func (s *scanner) fault(format string, a ...any) {
	if len(s.p.Faults) < mostFaults {
		s.p.Faults = append(s.p.Faults, Fault{s.lines, fmt.Sprintf(format, a...)})
	}
}

var (
	errEmpty  = errors.New("the file is empty")
	errNoCode = errors.New("no line of the file is G-code: choose the file that the slicer wrote for the printer")
)
