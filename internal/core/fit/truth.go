package fit

// Level is how well a requirement is met.
type Level int8

const (
	No  Level = iota // not met
	If               // met with further changes
	Yes              // met as the machine stands
)

// Truth is the interval of levels that the evidence leaves open.
type Truth struct{ Lo, Hi Level }

var (
	isNo   = Truth{No, No}
	isIf   = Truth{If, If}
	isYes  = Truth{Yes, Yes}
	isOpen = Truth{No, Yes}
)

// Decided reports whether the evidence leaves one level only.
func (t Truth) Decided() bool { return t.Lo == t.Hi }

// And is met as far as the less met of both.
func (t Truth) And(u Truth) Truth { return Truth{min(t.Lo, u.Lo), min(t.Hi, u.Hi)} }

// Or is met as far as the better met of both.
func (t Truth) Or(u Truth) Truth { return Truth{max(t.Lo, u.Lo), max(t.Hi, u.Hi)} }

// Not turns yes into no and leaves what is open open.
func (t Truth) Not() Truth { return Truth{Yes - t.Hi, Yes - t.Lo} }

// Answer is what a technician hears.
type Answer string

const (
	Fits       Answer = "fits"
	FitsIf     Answer = "fits if"
	LookFirst  Answer = "look first"
	DoesNotFit Answer = "does not fit"
)

// Answer turns the interval into one of four words. An interval from If to Yes
// is "look first" too: it fits either way, but whether a further change has to
// be bought is a fact that nobody has looked at.
func (t Truth) Answer() Answer {
	switch {
	case !t.Decided():
		return LookFirst
	case t.Hi == No:
		return DoesNotFit
	case t.Hi == If:
		return FitsIf
	}
	return Fits
}
