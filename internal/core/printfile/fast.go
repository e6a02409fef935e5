package printfile

import (
	"encoding/binary"
	"math"
	"math/bits"
)

// Nearly all lines of a sliced file are short moves that stay within what has been printed already:
// "G1 X110.5 Y80.25 E12.3". fast reads those alone, eight bytes at a time, and leaves every other
// line, and every line of which it is not sure, to the reader of single lines.

// stretch is how many bytes must follow for a line to be read fast.
const stretch = 64

const (
	ones  = 0x0101010101010101
	highs = 0x8080808080808080
)

// fast reads as many lines as are plain, and gives how many bytes they take.
func (s *scanner) fast(b []byte) int {
	if s.plain || s.relative || s.unit != 1 || !s.known[0] || !s.known[1] || !s.knownE || s.p.Extruded == 0 ||
		s.at[2] < s.used.low[2] || s.at[2] > s.used.high[2] {
		return 0
	}
	x, y, perMM, seconds := s.at[0], s.at[1], s.perMM, s.seconds
	lowX, highX, lowY, highY := s.used.low[0], s.used.high[0], s.used.low[1], s.used.high[1]
	reachLowX, reachHighX, reachLowY, reachHighY := s.reach.low[0], s.reach.high[0], s.reach.low[1], s.reach.high[1]
	// What lies within both bounds needs one look: a place that was named (G92) was printed from and not reached.
	lowX, highX, lowY, highY = max(lowX, reachLowX), min(highX, reachHighX), max(lowY, reachLowY), min(highY, reachHighY)
	fed, lastE, at, lines, fedLine := 0.0, -1, 0, int64(0), int64(-1)
	inside := false // the line begins within what was printed
lines:
	for at+stretch+16 < len(b) {
		line := (*[stretch]byte)(b[at:])
		if line[0] != 'G' || line[1] != '1' && line[1] != '0' || line[2] != ' ' {
			break
		}
		toX, toY, toE, pace := x, y, 0.0, perMM
		i, e := 3, -1
		for {
			letter := line[i&(stretch-1)]
			i++
			var n float64
			if letter == 'E' && !s.relE {
				// Where it ends is enough: of a row of moves only the last one's counts.
				e = at + i
				for i < stretch-16 {
					v := binary.LittleEndian.Uint64(line[i&(stretch-1) : i&(stretch-1)+8 : stretch])
					// A bit for the first byte that is a blank or less, or above the digits.
					if end := ((v-0x21*ones)&^v | (v + 0x46*ones) | v) & highs; end != 0 {
						i += bits.TrailingZeros64(end) >> 3
						break
					}
					i += 8
				}
				if at+i == e {
					break lines
				}
			} else {
				negative := line[i&(stretch-1)] == '-'
				if negative {
					i++
				}
				if i > stretch-16 {
					break lines
				}
				// A number of less than eight bytes, digits with or without a point among them.
				v := binary.LittleEndian.Uint64(line[i&(stretch-1) : i&(stretch-1)+8 : stretch])
				digits := v ^ ('0' * ones)
				others := ((digits + 0x76*ones) | digits) & highs // a bit for each byte that is no digit
				whole := bits.TrailingZeros64(others) >> 3
				if whole == 8 {
					break lines
				}
				took, many, fraction := whole, whole, 0
				if byte(v>>(8*whole)) == '.' {
					others &= others - 1
					if took = bits.TrailingZeros64(others) >> 3; took == 8 {
						break lines
					}
					fraction, many = took-whole-1, took-1
					before := uint64(1)<<(8*whole) - 1
					digits = digits&before | digits>>8&^before
				}
				if many == 0 {
					break lines
				}
				digits <<= 8 * (8 - many)
				digits = digits*10 + digits>>8 // two digits a byte pair, then all eight at once
				digits = ((digits&0x000000FF000000FF)*0x000F424000000064 +
					(digits>>16&0x000000FF000000FF)*0x0000271000000001) >> 32
				n = float64(uint32(digits)) * tenths[fraction&7]
				if negative {
					n = -n
				}
				i += took
			}
			switch letter {
			case 'X':
				toX = n
			case 'Y':
				toY = n
			case 'E':
				if toE = n; s.relE {
					e = at
				}
			case 'F':
				if n > 0 {
					pace = 60 / n
				}
			default:
				break lines
			}
			c := line[i&(stretch-1)]
			i++
			if c == ' ' && line[i&(stretch-1)] > ' ' && i < stretch-16 {
				continue
			}
			if c == '\n' {
				break
			}
			break lines
		}
		// What is further out than all before it is left to the reader of single lines.
		if e < 0 {
			if toX < reachLowX || toX > reachHighX || toY < reachLowY || toY > reachHighY {
				break
			}
		} else if toX < lowX || toX > highX || toY < lowY || toY > highY ||
			!inside && (x < lowX || x > highX || y < lowY || y > highY) {
			break
		}
		dx, dy := toX-x, toY-y
		if dx == 0 && dy == 0 {
			break
		}
		perMM = pace
		seconds += math.Sqrt(dx*dx+dy*dy) * perMM
		x, y, inside = toX, toY, e >= 0
		if e >= 0 {
			fed += toE
			lastE, fedLine = e, lines
		}
		at += i
		lines++
	}
	s.at[0], s.at[1], s.perMM, s.seconds = x, y, perMM, seconds
	if s.relE {
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
