package maintenance

// Availability is whether a machine can be used now, freest first.
type Availability string

// Availabilities.
const (
	Free         Availability = "free"
	AttendedOnly Availability = "attended only"
	LockedOut    Availability = "locked out"
	TakenOut     Availability = "out of use"
)

// Standing is what decides whether a machine can be used.
type Standing struct {
	Use    Use
	Why    string // of its use
	Work   string // the kit or task of the work that is open on it; empty where none is
	Proven bool   // its thermal-runaway protection
	Faults int    // reported and open
}

// Available tells whether a machine can be used now, and why not or only attended: what was
// said of it first, then open work, then protection that is not proven. Open faults stop
// nobody by themselves: whoever takes a machine out of use for one says so.
func (s Standing) Available() (Availability, string) {
	switch {
	case s.Use == OutOfUse:
		return TakenOut, s.Why
	case s.Work != "":
		return LockedOut, "work is open on it: " + s.Work
	case s.Use == Attended:
		return AttendedOnly, s.Why
	case !s.Proven:
		return AttendedOnly, "its thermal-runaway protection is not proven: stay with it while it prints"
	}
	return Free, ""
}
