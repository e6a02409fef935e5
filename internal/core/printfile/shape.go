package printfile

import "math/bits"

// A number of less than eight bytes is read from them all at once. Which of the bytes are digits is its shape.

const (
	ones  = 0x0101010101010101
	highs = 0x8080808080808080
	// digitBits are those that every digit has; blanks, line ends, points and signs have none of them.
	digitBits = 0x10 * ones
)

// shape is how a number is written, without a sign.
type shape struct {
	before, after uint64  // the bytes of the digits before and after the point, once it is taken out
	point, dot    uint64  // the byte of the point, and what it must be
	parts         float64 // how many of one make a whole, where its digits are followed by zeros up to eight
	length        uint    // bytes
	_             [2]uint64
}

// The shapes with a point and those without, by which of eight bytes have a bit as digits have, the first byte in the
// lowest bit.
var decimals, integers [256]shape

func init() {
	for digits := range 256 {
		others := ^uint8(digits)
		whole := bits.TrailingZeros8(others)
		length := bits.TrailingZeros8(others & (others - 1))
		none := shape{dot: 1}
		decimals[digits], integers[digits] = none, none
		if whole < 8 && whole > 0 {
			integers[digits] = shape{before: 1<<(8*whole) - 1, parts: powers[8-whole], length: uint(whole)}
		}
		if length < 8 && length > 1 {
			before := uint64(1)<<(8*whole) - 1
			decimals[digits] = shape{before: before, after: (1<<(8*(length-1)) - 1) &^ before,
				point: 0xFF << (8 * whole), dot: '.' << (8 * whole), parts: powers[8-whole], length: uint(length)}
		}
	}
}

// shapeOf is how a number is written that begins eight bytes, by the shapes of one kind.
func shapeOf(shapes *[256]shape, v uint64) *shape { return &shapes[v&digitBits*0x0010204081020408>>56] }

// digits are the values of the digits, the first one in the lowest byte.
func (s *shape) digits(v uint64) uint64 {
	d := v ^ '0'*ones
	return d&s.before | d>>8&s.after
}

// Digits are below 10: with 6 more each stays below 16. Bytes that have a bit as digits have and are none do not.
const (
	upToSixteen = 6 * ones
	notBelow    = 0xF0 * ones
)

// differs has a bit if the number is another than its shape says, or none.
func (s *shape) differs(v, digits uint64) uint64 {
	return (digits+upToSixteen)&notBelow | v&s.point ^ s.dot
}

// number is what the digits amount to: of two each, of four each, of all eight.
func (s *shape) number(digits uint64) float64 {
	d := digits * (10<<8 + 1) >> 8 & 0x00FF00FF00FF00FF
	d = d * (100<<16 + 1) >> 16 & 0x0000FFFF0000FFFF
	d = d * (10000<<32 + 1) >> 32
	return float64(uint32(d)) / s.parts
}
