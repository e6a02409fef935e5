package roster

import "math/bits"

const wordBits = 64

// slots is a set of slots.
type slots []uint64

func newSlots(n int) slots { return make(slots, (n+wordBits-1)/wordBits) }

func (s slots) has(i int) bool { return s[i/wordBits]>>(i%wordBits)&1 != 0 }

// each calls f with the mask of the range [from, to) in each word that it touches, until f is done.
func (s slots) each(from, to int, f func(word int, mask uint64) (done bool)) {
	for w := from / wordBits; w*wordBits < to; w++ {
		mask := ^uint64(0)
		if from > w*wordBits {
			mask <<= from - w*wordBits
		}
		if left := to - w*wordBits; left < wordBits {
			mask &= 1<<left - 1
		}
		if f(w, mask) {
			return
		}
	}
}

func (s slots) set(from, to int) {
	s.each(from, to, func(w int, mask uint64) bool { s[w] |= mask; return false })
}

func (s slots) clear(from, to int) {
	s.each(from, to, func(w int, mask uint64) bool { s[w] &^= mask; return false })
}

// any reports whether one of the slots of a range is in the set.
func (s slots) any(from, to int) bool {
	found := false
	s.each(from, to, func(w int, mask uint64) bool { found = s[w]&mask != 0; return found })
	return found
}

// next is the first slot from i on that is in the set; the number of slots rounded up to whole
// words where none is.
func (s slots) next(i int) int {
	for w := i / wordBits; w < len(s); w++ {
		word := s[w]
		if w == i/wordBits {
			word = word >> (i % wordBits) << (i % wordBits)
		}
		if word != 0 {
			return w*wordBits + bits.TrailingZeros64(word)
		}
	}
	return len(s) * wordBits
}

func (s slots) add(t slots) {
	for w := range s {
		s[w] |= t[w]
	}
}
