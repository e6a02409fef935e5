package fit

// Level is how well a requirement is met.
type Level uint8

const (
	No  Level = iota // not met
	If               // met with additional changes
	Yes              // met as the machine stands
)

// Truth is the interval of levels that the evidence leaves open, and beside it the
// lean: the interval that would be left if every claim were taken at its word. The
// lean lies within the interval.
//
// Four levels are packed into a byte, each as so many set bits (No 00, If 01, Yes 11):
// the less of two levels is then the bits that both have, and the greater those that
// either has, in all four at once. From the lowest bits: the least level, the greatest,
// and the same two of the lean.
type Truth uint8

const (
	isNo   Truth = 0b00_00_00_00
	isIf   Truth = 0b01_01_01_01
	isYes  Truth = 0b11_11_11_11
	isOpen Truth = 0b11_00_11_00

	strictly Truth = 0b00_00_11_11
	leaning  Truth = 0b11_11_00_00
)

var bitsOf = [...]Truth{No: 0b00, If: 0b01, Yes: 0b11}

// TruthOf is the interval from lo to hi, with a lean from leanLo to leanHi.
func TruthOf(lo, hi, leanLo, leanHi Level) Truth {
	return bitsOf[lo] | bitsOf[hi]<<2 | bitsOf[leanLo]<<4 | bitsOf[leanHi]<<6
}

func levelOf(bits Truth) Level {
	switch bits & 0b11 {
	case 0b00:
		return No
	case 0b01:
		return If
	}
	return Yes
}

// Lo is the least level that the evidence leaves possible, and Hi the greatest.
func (t Truth) Lo() Level { return levelOf(t) }
func (t Truth) Hi() Level { return levelOf(t >> 2) }

// LeanLo and LeanHi are the same with every claim taken at its word.
func (t Truth) LeanLo() Level { return levelOf(t >> 4) }
func (t Truth) LeanHi() Level { return levelOf(t >> 6) }

// Decided reports whether the evidence leaves one level only.
func (t Truth) Decided() bool { return t&0b11 == t>>2&0b11 }

// And is met as far as the less met of both.
func (t Truth) And(u Truth) Truth { return t & u }

// Or is met as far as the better met of both.
func (t Truth) Or(u Truth) Truth { return t | u }

// Not turns yes into no and leaves what is open open.
func (t Truth) Not() Truth {
	// The complement of a level has the other bits set, in the other order; the least of
	// an interval becomes its greatest.
	const odd = 0b01_01_01_01
	t = ^t
	t = t&odd<<1 | t>>1&odd
	return t<<2&0b11_00_11_00 | t>>2&0b00_11_00_11
}

// lean is the lean alone, as if it were the evidence.
func (t Truth) lean() Truth { return t>>4 | t&leaning }

// Answer is what a technician hears.
type Answer string

const (
	Fits       Answer = "fits"
	FitsIf     Answer = "fits if"
	LookFirst  Answer = "look first"
	DoesNotFit Answer = "does not fit"

	// NoLean is the lean of what claims do not decide either.
	NoLean Answer = "no lean"
)

// Answers lists the answers from the best to the worst.
func Answers() []Answer { return []Answer{Fits, FitsIf, LookFirst, DoesNotFit} }

// Answer turns the interval into one of four words. An interval from If to Yes
// is "look first" too: it fits either way, but whether an additional change has to
// be bought is a fact that nobody has looked at.
func (t Truth) Answer() Answer {
	switch {
	case !t.Decided():
		return LookFirst
	case t.Hi() == No:
		return DoesNotFit
	case t.Hi() == If:
		return FitsIf
	}
	return Fits
}

// Lean is which way the claims lean where the answer is to look first: Fits, FitsIf,
// DoesNotFit or NoLean; empty for any other answer. What fits by the claims either as
// it stands or with additional changes leans to FitsIf.
func (t Truth) Lean() Answer {
	switch lean := t.lean(); {
	case t.Decided():
		return ""
	case lean.Decided():
		return lean.Answer()
	case lean.Lo() == If:
		return FitsIf
	}
	return NoLean
}

// tri is what is so, is not so, or may be so.
type tri struct{ sure, possible bool }

var (
	surely   = tri{true, true}
	maybe    = tri{false, true}
	surelyNo = tri{}
)

func (t tri) not() tri { return tri{!t.possible, !t.sure} }

func (t tri) decided() bool { return t.sure || !t.possible }

// sureOf turns a yes or no into what is surely so or not.
func sureOf(so bool) tri { return tri{so, so} }

// judged is a tri by good evidence, with what claims make of it where that leaves it
// open.
func judged(strict tri, lean func() tri) Truth {
	if strict.decided() {
		return truthOf(strict, strict)
	}
	return truthOf(strict, lean())
}

func truthOf(strict, lean tri) Truth {
	t := isNo
	if strict.sure {
		t |= 0b00_00_00_11
	}
	if strict.possible {
		t |= 0b00_00_11_00
	}
	if lean.sure {
		t |= 0b00_11_00_00
	}
	if lean.possible {
		t |= 0b11_00_00_00
	}
	return t
}
