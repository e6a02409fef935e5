package printfile

import (
	"encoding/binary"
	"math"
	"math/bits"
)

// Nearly all lines of a sliced file are short moves that stay within what has been printed already:
// "G1 X110.5 Y80.25 E12.3". fast reads those alone, eight bytes at a time, and leaves every other
// line, and every line of which it is not sure, to the reader of single lines.

const (
	// stretch is how many bytes of a line are looked at; one that goes on is not plain.
	stretch = 64
	// ahead is how many bytes must follow for a line to be read fast: eight may be read from any byte of the stretch.
	ahead = stretch + 8

	ones  = 0x0101010101010101
	highs = 0x8080808080808080
)

// window is the begin of what is left to read.
type window [ahead]byte

// step is a plain move.
type step struct {
	x, y float64 // where it goes, mm
	pace float64 // seconds a millimetre takes, from this move on
	fed  float64 // the number after E, where those are relative
	e    int     // where in the line the number after E begins; 0 where there is none
	end  int     // where the next line begins
	goes bool    // it names X or Y
}

// fast reads as many lines as are plain, and gives how many bytes they take.
func (s *scanner) fast(b []byte) int {
	if s.plain || s.relative || s.unit != 1 || !s.known[0] || !s.known[1] || !s.knownE && !s.relE || s.p.Extruded == 0 ||
		s.at[2] < s.used.low[2] || s.at[2] > s.used.high[2] {
		return 0
	}
	x, y, pace, seconds := s.at[0], s.at[1], s.perMM, s.seconds
	lowX, highX, lowY, highY := s.used.low[0], s.used.high[0], s.used.low[1], s.used.high[1]
	reachLowX, reachHighX, reachLowY, reachHighY := s.reach.low[0], s.reach.high[0], s.reach.low[1], s.reach.high[1]
	// What lies within both bounds needs one look: a place that was named (G92) was printed from and not reached.
	lowX, highX, lowY, highY = max(lowX, reachLowX), min(highX, reachHighX), max(lowY, reachLowY), min(highY, reachHighY)
	fed, lastE, at, lines, fedLine := 0.0, -1, 0, int64(0), int64(-1)
	inside := false // the line begins within what was printed
	relE := s.relE
	for at+ahead < len(b) {
		line := (*window)(b[at:])
		toX, toY, toFed, e, end := line.drawn(relE)
		toPace, goes := pace, true
		if end == 0 {
			to := step{x: x, y: y, pace: pace}
			if !to.read(line, relE) {
				break
			}
			toX, toY, toPace, toFed, goes, e, end = to.x, to.y, to.pace, to.fed, to.goes, to.e, to.end
		}
		if relE && (toFed <= 0 || !goes) {
			e = 0 // it draws the filament back or brings it up, and prints nothing
		}
		// What is further out than all before it is left to the reader of single lines.
		if e == 0 {
			if toX < reachLowX || toX > reachHighX || toY < reachLowY || toY > reachHighY {
				break
			}
		} else if toX < lowX || toX > highX || toY < lowY || toY > highY ||
			!inside && (x < lowX || x > highX || y < lowY || y > highY) {
			break
		}
		dx, dy := toX-x, toY-y
		far := math.Sqrt(dx*dx + dy*dy)
		if far == 0 {
			if e > 0 && !relE {
				break // how long it takes follows from what was fed before
			}
			far = math.Abs(toFed)
		}
		fed += toFed
		pace = toPace
		seconds += far * pace
		x, y, inside = toX, toY, e > 0
		if e > 0 {
			lastE, fedLine = at+e, lines
		}
		at += end
		lines++
	}
	s.at[0], s.at[1], s.perMM, s.seconds = x, y, pace, seconds
	if relE {
		s.filament[s.tool] += fed
	} else if lastE >= 0 {
		e, _ := parse(b, lastE)
		s.filament[s.tool] += e - s.e
		s.e = e
	}
	if fedLine >= 0 {
		s.lastE = s.lines + fedLine + 1
	}
	s.lines += lines
	s.p.Moves += lines
	s.offset += int64(at)
	return at
}

// drawn reads the commonest of plain moves, "G1 X… Y… E…": where it goes, what it feeds where that is relative,
// where the number after E begins, and where the next line begins; 0 where it is another line.
func (w *window) drawn(relE bool) (x, y, fed float64, e, end int) {
	if [4]byte(w[:4]) != [4]byte{'G', '1', ' ', 'X'} {
		return 0, 0, 0, 0, 0
	}
	x, tookX := w.short(4)
	i := 4 + tookX
	y, tookY := w.short(i + 2)
	j := i + 2 + tookY
	if tookX == 0 || tookY == 0 || !w.follows(i, 'Y') || !w.follows(j, 'E') {
		return 0, 0, 0, 0, 0
	}
	e = j + 2
	if relE {
		var took int
		fed, took = w.short(e)
		end = e + took
	} else {
		// Where it ends is enough: of a row of moves only the last one's counts.
		end = w.numberEnd(e)
	}
	after := w.lineEnd(end)
	if end == e || after == 0 {
		return 0, 0, 0, 0, 0
	}
	return x, y, fed, e, after
}

// read reads the words of a plain move in any order; false where it is another line.
func (to *step) read(line *window, relE bool) bool {
	if line[0] != 'G' || line[1] != '1' && line[1] != '0' || line[2] != ' ' {
		return false
	}
	for i := 3; i < stretch-16; {
		letter := line[i]
		begin := i + 1
		n, took := line.short(begin)
		if letter == 'E' && !relE {
			took = line.numberEnd(begin) - begin
		}
		if took == 0 {
			return false
		}
		switch letter {
		case 'X':
			to.x, to.goes = n, true
		case 'Y':
			to.y, to.goes = n, true
		case 'E':
			if to.e = begin; relE {
				to.fed = n
			}
		case 'F':
			if n > 0 {
				to.pace = 60 / n
			}
		default:
			return false
		}
		i = begin + took
		if to.end = line.lineEnd(i); to.end > 0 {
			return true
		}
		if line[i&(stretch-1)] != ' ' {
			return false
		}
		i++
	}
	return false
}

// follows says whether the next word of a line has a letter.
func (w *window) follows(i int, letter byte) bool {
	i &= stretch - 1
	return [2]byte(w[i:i+2]) == [2]byte{' ', letter}
}

// lineEnd is where the next line begins, if this one ends here; else 0.
func (w *window) lineEnd(i int) int {
	if w[i&(stretch-1)] == '\r' {
		i++
	}
	if w[i&(stretch-1)] != '\n' {
		return 0
	}
	return i + 1
}

// eight are the next bytes of a line.
func (w *window) eight(i int) uint64 {
	i &= stretch - 1
	return binary.LittleEndian.Uint64(w[i : i+8])
}

// numberEnd is where a number ends that may be long, or where it goes on beyond what is looked at.
func (w *window) numberEnd(i int) int {
	c := w[i&(stretch-1)]
	if c == '.' {
		c = w[(i+1)&(stretch-1)]
	}
	if c-'0' > 9 {
		return i // a sign is rare enough to be left to the reader of single lines
	}
	for ; i < stretch-16; i += 8 {
		v := w.eight(i)
		// A bit for the first byte that is a blank or less, or above the digits.
		if end := ((v-0x21*ones)&^v | (v + 0x46*ones) | v) & highs; end != 0 {
			return i + bits.TrailingZeros64(end)>>3
		}
	}
	return i
}

// short reads a number of less than eight bytes, digits with or without a sign before and a point among them, and
// gives how many bytes it takes; 0 where it is another.
func (w *window) short(i int) (n float64, took int) {
	v := w.eight(i)
	if byte(v) == '-' {
		if byte(v>>8) == '-' {
			return 0, 0
		}
		if n, took = w.short(i + 1); took == 0 {
			return 0, 0
		}
		return -n, took + 1
	}
	digits := v ^ ('0' * ones)
	others := ((digits + 0x76*ones) | digits) & highs // a bit for each byte that is no digit
	if others == 0 {
		return 0, 0
	}
	whole := bits.TrailingZeros64(others) &^ 7 // bits before the point
	end, many, fraction := whole, whole, 0
	if byte(v>>whole) == '.' {
		if others &= others - 1; others == 0 {
			return 0, 0
		}
		end = bits.TrailingZeros64(others) &^ 7
		many = end - 8
		fraction = many - whole
		before := uint64(1)<<whole - 1
		digits = digits&before | digits>>8&^before
	}
	if many == 0 {
		return 0, 0
	}
	digits <<= (64 - many) & 63
	digits = digits*10 + digits>>8 // two digits a byte pair, then all eight at once
	digits = ((digits&0x000000FF000000FF)*0x000F424000000064 +
		(digits>>16&0x000000FF000000FF)*0x0000271000000001) >> 32
	return float64(uint32(digits)) * tenths[fraction>>3&7], end >> 3
}
