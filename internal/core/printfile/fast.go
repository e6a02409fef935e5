package printfile

import (
	"bytes"
	"math"
)

// Nearly all lines of a sliced file are short moves that stay within what has been printed already, and comments:
// "G1 X110.5 Y80.25 E12.3". fast reads those alone, eight bytes at a time, and leaves every other line, and every
// line of which it is not sure, to the reader of single lines.

// pen is what is known of the head while plain lines are read.
type pen struct {
	x, y, z  float64 // mm
	e        float64 // mm of filament, where what is fed is not relative
	pace     float64 // seconds a millimetre takes
	seconds  float64
	filament float64 // mm fed
	relE     bool
	// unpaced says that no feed rate is known yet in a piece of a file: pace is 1, and seconds are millimetres.
	unpaced   bool
	knownZ    bool
	inside    bool // the head is within what was printed and reached
	printsAtZ bool // it is at a height at which something was printed

	low, high   [2]float64 // bounds of what was printed and reached
	reach, used *sides
}

// pen is the head as it is now; false where plain lines cannot be read fast.
func (s *scanner) pen() (p pen, ok bool) {
	if s.plain || s.relative || s.shifted() || s.unit != 1 || !s.known[0] || !s.known[1] ||
		!s.knownE && !s.relE || s.p.Extruded == 0 {
		return p, false
	}
	p = pen{x: s.at[0], y: s.at[1], z: s.at[2], e: s.e, pace: s.perMM, seconds: s.seconds, relE: s.relE,
		knownZ: s.known[2], reach: &s.reach, used: &s.used}
	if p.unpaced = p.pace == 0 && s.piece != nil; p.unpaced {
		p.pace, p.seconds = 1, 0
	}
	// What lies within both bounds needs one look: a place that was named (G92) was printed from and not reached.
	for axis := range p.low {
		p.low[axis] = max(s.used.low[axis], s.reach.low[axis])
		p.high[axis] = min(s.used.high[axis], s.reach.high[axis])
	}
	p.inside = p.within(p.x, p.y)
	if p.printsAtZ = s.used.holds(2, p.z); !p.knownZ { // that of what is before the piece, once that has been noted
		p.printsAtZ = s.piece == nil || s.piece.lost[2] || s.piece.extruded[2] > 0
	}
	return p, true
}

func (p *pen) within(x, y float64) bool {
	return x >= p.low[0] && x <= p.high[0] && y >= p.low[1] && y <= p.high[1]
}

// holds says whether a coordinate is within the bounds of an axis.
func (b *sides) holds(axis int, n float64) bool { return n >= b.low[axis] && n <= b.high[axis] }

// fast reads as many lines as are plain, and gives how many bytes they take.
func (s *scanner) fast(b []byte) int {
	p, ok := s.pen()
	if !ok {
		return 0
	}
	row, at := &s.row, 0
	for at+ahead < len(b) {
		row.read(b[at:], p.relE)
		done, printed := p.follow(row, b[at:])
		s.p.Moves += int64(done)
		if printed >= 0 {
			s.lastE = s.lines + 1 + int64(row.lines[printed])
		}
		s.lines += int64(row.lines[done])
		at += row.begins[done]
		if done < row.count {
			break
		}
		if done == 0 && row.begins[0] == 0 {
			n := toLineEnd(b[at:])
			if n == 0 || !s.again(bytes.TrimSuffix(b[at:at+int(n)-1], []byte{'\r'})) {
				break
			}
			at += int(n)
			s.lines++
		}
	}
	s.at[0], s.at[1], s.at[2], s.e = p.x, p.y, p.z, p.e
	if p.unpaced {
		s.piece.unpaced += p.seconds
	} else {
		s.perMM, s.seconds = p.pace, p.seconds
	}
	s.filament[s.tool] += p.filament
	s.offset += int64(at)
	return at
}

// follow goes along a row of moves, and gives how many that are until one is left to the reader of single lines, and
// which of them printed last; -1 for none.
func (p *pen) follow(row *row, b []byte) (done, printed int) {
	printed = -1
	for done < row.count {
		m := &row.moves[done]
		if m.draws {
			n := p.draw(row.moves[done:row.count])
			if n == 0 {
				break
			}
			done += n
			printed = done - 1
			if !p.relE {
				p.feed(row, printed, b)
			}
			continue
		}
		if m.saw&^(sawE|sawF) == 0 {
			if !p.stay(m) {
				break
			}
		} else if prints, ok := p.move(m); !ok {
			break
		} else if prints {
			printed = done
		}
		done++
	}
	return done, printed
}

// feed takes down what the last one of a row of drawing moves feeds, which has been left unread.
func (p *pen) feed(row *row, last int, b []byte) {
	at := row.begins[last]
	e, _ := parse(b, at+bytes.IndexByte(b[at:], 'E')+1)
	p.filament += e - p.e
	p.e = e
}

// draw follows drawing moves as long as they stay within what was printed, and gives how many that are.
func (p *pen) draw(moves []move) int {
	if !p.inside || !p.printsAtZ {
		return 0
	}
	x, y, filament, far := p.x, p.y, p.filament, 0.0
	lowX, highX, lowY, highY := p.low[0], p.high[0], p.low[1], p.high[1]
	n := 0
	for n < len(moves) {
		to := &moves[n]
		toX, toY := to.number[wordX], to.number[wordY]
		dx, dy := toX-x, toY-y
		square := dx*dx + dy*dy
		if !to.draws || square == 0 || toX < lowX || toX > highX || toY < lowY || toY > highY {
			break
		}
		far += math.Sqrt(square)
		filament += to.number[wordE]
		x, y = toX, toY
		n++
	}
	p.x, p.y, p.filament = x, y, filament
	p.seconds += far * p.pace
	return n
}

// stay is a move that sets the feed rate, or draws filament back or brings it up; false where it is left to the reader
// of single lines.
func (p *pen) stay(m *move) bool {
	if f := m.of(wordF, 0); f > 0 {
		if p.unpaced {
			return false
		}
		p.pace = 60 / f
	}
	if m.saw&sawE != 0 {
		fed := m.number[wordE]
		if !p.relE {
			fed -= p.e
			p.e = m.number[wordE]
		}
		p.filament += fed
		p.seconds += math.Abs(fed) * p.pace
	}
	return true
}

// move makes a move of any words; ok is false where it is left to the reader of single lines.
func (p *pen) move(m *move) (prints, ok bool) {
	toX, toY, toZ, pace := m.of(wordX, p.x), m.of(wordY, p.y), m.of(wordZ, p.z), p.pace
	fed, e := m.of(wordE, 0), p.e
	if !p.relE {
		e = m.of(wordE, p.e)
		fed = e - p.e
	}
	if f := m.of(wordF, 0); f > 0 {
		if p.unpaced {
			return false, false
		}
		pace = 60 / f
	}
	prints = fed > 0 && m.saw&(sawX|sawY) != 0
	within := p.within(toX, toY)
	if prints && !(within && p.inside && p.printsAtZ && m.saw&sawZ == 0) ||
		!within && !(p.reach.holds(0, toX) && p.reach.holds(1, toY)) ||
		m.saw&sawZ != 0 && !(p.knownZ && p.reach.holds(2, toZ)) {
		return false, false
	}
	dx, dy, dz := toX-p.x, toY-p.y, toZ-p.z
	far := math.Sqrt(dx*dx + dy*dy + dz*dz)
	if far == 0 {
		far = math.Abs(fed)
	}
	if m.kind > '1' {
		a := arc{dx: dx, dy: dy, i: m.of(wordI, 0), j: m.of(wordJ, 0), clockwise: m.kind == '2'}
		x, y, r := p.x+a.i, p.y+a.j, a.radius()
		if m.saw&(sawI|sawJ) == 0 || m.saw&sawZ != 0 || !p.within(x-r, y-r) || !p.within(x+r, y+r) {
			return false, false
		}
		far = a.length()
	}
	if m.saw&sawZ != 0 {
		p.printsAtZ = p.used.holds(2, toZ)
	}
	p.x, p.y, p.z, p.e, p.pace, p.inside = toX, toY, toZ, e, pace, within
	p.filament += fed
	p.seconds += far * pace
	return prints, true
}
