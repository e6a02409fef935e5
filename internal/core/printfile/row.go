package printfile

import (
	"encoding/binary"
	"math/bits"
)

const (
	// stretch is how many bytes of a line are looked at; one that goes on is not plain.
	stretch = 64
	// ahead is how many bytes must follow for a line to be read fast: eight may be read from any byte of the stretch.
	ahead = stretch + 8
	// rowLength is how many moves are read before they are followed.
	rowLength = 64
)

// window is the begin of what is left to read.
type window [ahead]byte

// row are plain moves that stand one below the other, with comments between them or without.
type row struct {
	count  int
	moves  [rowLength]move
	begins [rowLength + 1]int // where in the text each line begins, and where what is read ends
	lines  [rowLength + 1]int // how many lines stand before it
}

// Words of a plain move, as they are numbered here; strange is any other letter.
const (
	wordX = iota
	wordY
	wordZ
	wordE
	wordF
	wordI
	wordJ
	strange

	sawX, sawY, sawZ, sawE, sawF = 1 << wordX, 1 << wordY, 1 << wordZ, 1 << wordE, 1 << wordF
	sawI, sawJ                   = 1 << wordI, 1 << wordJ
)

// move is a plain move, straight or along a circle.
type move struct {
	number [strange + 1]float64 // those of its words
	saw    uint8                // which words it has
	kind   byte                 // what stands after G: 0 or 1, 2 clockwise, 3 counter-clockwise
	// draws says that it is the commonest of all, "G1 X… Y… E…", and feeds. What stands after E is unread then where it
	// is not relative: of moves that follow each other only the last one's counts.
	draws bool
}

// of is the number of a word; another where it is not named.
func (m *move) of(word int, other float64) float64 {
	if m.saw&(1<<word) != 0 {
		return m.number[word]
	}
	return other
}

// letters are the words by their letter.
var letters = func() (all [256]uint8) {
	for i := range all {
		all[i] = strange
	}
	all['X'], all['Y'], all['Z'], all['E'], all['F'], all['I'], all['J'] = wordX, wordY, wordZ, wordE, wordF, wordI, wordJ
	return all
}()

// read reads as many plain moves as a text begins with.
func (r *row) read(b []byte, relE bool) {
	n, at, line := 0, 0, 0
	for n < rowLength && at+ahead < len(b) {
		if b[at] == ';' {
			end := plainComment(b[at:])
			if end == 0 {
				break
			}
			at += int(end)
			line++
			continue
		}
		w, m := (*window)(b[at:at+ahead]), &r.moves[n]
		end := uint(0)
		if binary.LittleEndian.Uint32(w[:]) == 'G'|'1'<<8|' '<<16|'X'<<24 {
			end = m.readPlane(w, relE)
		}
		if end == 0 {
			if end = m.read(w, relE); end == 0 {
				break
			}
		}
		r.begins[n], r.lines[n] = at, line
		if w[end&(stretch-1)] == '\n' {
			at += int(end) + 1
		} else if more := restOfLine(b[at+int(end):]); more > 0 {
			at += int(end + more)
		} else {
			break
		}
		line++
		n++
	}
	r.count, r.begins[n], r.lines[n] = n, at, line
}

// readPlane reads the commonest moves, "G1 X… Y… E…" and "G1 X… Y… F…", of coordinates with a point, and says where the
// last word ends; 0 where it is another line.
func (m *move) readPlane(w *window, relE bool) (end uint) {
	inX, i := w.eight(4), uint(4)
	negativeX := byte(inX) == '-'
	if negativeX {
		inX, i = w.eight(5), 5
	}
	shapeX := shapeOf(&decimals, inX)
	i += shapeX.length + 2
	inY, j := w.eight(i), i
	negativeY := byte(inY) == '-'
	if negativeY {
		j++
		inY = w.eight(j)
	}
	shapeY := shapeOf(&decimals, inY)
	j += shapeY.length + 2
	x, y := shapeX.digits(inX), shapeY.digits(inY)
	differs := shapeX.differs(inX, x) | shapeY.differs(inY, y)
	in, third := w.eight(j), w.word(j-2)
	if third == wordAfterBlank('E') && relE {
		shapeE := shapeOf(&decimals, in)
		e := shapeE.digits(in)
		differs |= shapeE.differs(in, e)
		m.number[wordE] = shapeE.number(e)
		end = j + shapeE.length
		m.saw, m.kind, m.draws = sawX|sawY|sawE, '1', e != 0
	} else if third == wordAfterBlank('E') {
		if end = w.numberEnd(j); end == j {
			return 0
		}
		m.number[wordE] = 0
		m.saw, m.kind, m.draws = sawX|sawY|sawE, '1', true
	} else if third == wordAfterBlank('F') {
		shapeF := shapeOf(&integers, in)
		f := shapeF.digits(in)
		differs |= shapeF.differs(in, f)
		m.number[wordF] = shapeF.number(f)
		end = j + shapeF.length
		m.saw, m.kind, m.draws = sawX|sawY|sawF, '1', false
	} else {
		return 0
	}
	if differs != 0 || w.word(i-2) != wordAfterBlank('Y') {
		return 0
	}
	m.number[wordX], m.number[wordY] = shapeX.number(x), shapeY.number(y)
	if negativeX {
		m.number[wordX] = -m.number[wordX]
	}
	if negativeY {
		m.number[wordY] = -m.number[wordY]
	}
	return end
}

// read reads a plain move with its words in any order, and says where the last one ends; 0 where it is another line.
func (m *move) read(w *window, relE bool) (end uint) {
	if w[0] != 'G' || w[1]|3 != '3' || w[2] != ' ' {
		return 0
	}
	m.saw, m.kind, m.draws = 0, w[1], false
	for i := uint(3); i < stretch-16; i++ {
		word := letters[w[i]]
		i++
		m.saw |= 1 << word
		sign := 1.0
		from := i
		if w[i] == '-' {
			i++
			sign = -1
		}
		v := w.eight(i)
		shape := shapeOf(&decimals, v)
		if v&shape.point != shape.dot {
			shape = shapeOf(&integers, v)
		}
		digits := shape.digits(v)
		if shape.differs(v, digits) == 0 && w[(i+shape.length)&(stretch-1)] != '.' {
			m.number[word] = sign * shape.number(digits)
			i += shape.length
		} else if n, to := parse(w[:stretch], int(from)); to > int(from) && to < stretch {
			m.number[word] = n
			i = uint(to)
		} else {
			return 0
		}
		if w[i&(stretch-1)] != ' ' || w[(i+1)&(stretch-1)] == ';' {
			if m.saw >= 1<<strange {
				return 0
			}
			return i
		}
	}
	return 0
}

// eight are the next bytes of a line.
func (w *window) eight(i uint) uint64 {
	i &= stretch - 1
	return binary.LittleEndian.Uint64(w[i : i+8])
}

// word is how the next word of a line begins: a blank and a letter.
func (w *window) word(i uint) uint16 {
	i &= stretch - 1
	return binary.LittleEndian.Uint16(w[i : i+2])
}

func wordAfterBlank(letter byte) uint16 { return ' ' | uint16(letter)<<8 }

// numberEnd is where a number ends that may be long, or where it goes on beyond what is looked at.
func (w *window) numberEnd(i uint) uint {
	c := w[i&(stretch-1)]
	if c == '.' {
		c = w[(i+1)&(stretch-1)]
	}
	if c-'0' > 9 {
		return i // a sign is rare enough to be left to the reader of any words
	}
	for ; i < stretch-16; i += 8 {
		v := w.eight(i)
		// A bit for the first byte that is a blank or less, or above the digits.
		if end := ((v-0x21*ones)&^v | (v + 0x46*ones) | v) & highs; end != 0 {
			return i + uint(bits.TrailingZeros64(end))>>3
		}
	}
	return i
}

// restOfLine is how many bytes follow the last word of a move: a line end of two bytes, or a comment; 0 for anything
// else.
func restOfLine(b []byte) uint {
	switch {
	case len(b) < 2:
		return 0
	case b[0] == '\r' && b[1] == '\n':
		return 2
	case b[0] == ';' || b[0] == ' ' && b[1] == ';':
		return toLineEnd(b)
	}
	return 0
}

// plainComment is how many bytes a line takes that is a comment of which nothing is looked for; 0 where it is another.
func plainComment(b []byte) uint {
	if !saysNothing(b[1:]) {
		return 0
	}
	return toLineEnd(b)
}

// toLineEnd is where the next line begins; 0 where that is far, or where there are other bytes before that are no
// letters.
func toLineEnd(b []byte) uint {
	for i := 0; i+8 < len(b) && i < 400; i += 8 {
		v := binary.LittleEndian.Uint64(b[i:])
		if controls := (v - 0x10*ones) &^ v & highs; controls != 0 {
			i += bits.TrailingZeros64(controls) >> 3
			if b[i] == '\r' && i+1 < len(b) {
				i++
			}
			if b[i] != '\n' {
				return 0
			}
			return uint(i) + 1
		}
	}
	return 0
}
