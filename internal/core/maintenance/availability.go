package maintenance

import (
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Availability is whether a machine can be used now.
type Availability string

// Availabilities.
const (
	Free         Availability = "free"
	AttendedOnly Availability = "attended only"
	LockedOut    Availability = "locked out"
	TakenOut     Availability = "out of use"
	KnownBroken  Availability = "known broken"
)

// Availabilities lists them, freest first.
func Availabilities() []Availability {
	return []Availability{Free, AttendedOnly, LockedOut, KnownBroken, TakenOut}
}

// Usable reports whether somebody can print on a machine, if only attended.
func (a Availability) Usable() bool { return a == Free || a == AttendedOnly }

// Readiness is what decides whether a machine can be used.
type Readiness struct {
	Use    Use
	Why    string // of its use
	Work   string // the kit or task of the work that is open on it; empty where none is
	Proven bool   // its thermal-runaway protection
	// Danger is what was reported of it that can hurt somebody, while nobody has looked; empty where nothing was.
	Danger string
	// Broken is what is known broken on it as it stands; empty where nothing is.
	Broken string
}

// Available tells whether a machine can be used now, and why not or only attended: danger first, then what was said
// of it, open work, what is known broken, and protection that is not proven. Other open faults stop nobody by
// themselves: whoever takes a machine out of use for one says so.
func (r Readiness) Available() (Availability, string) {
	switch {
	case r.Danger != "":
		return TakenOut, r.Danger
	case r.Use == OutOfUse:
		return TakenOut, r.Why
	case r.Work != "":
		return LockedOut, "work is open on it: " + r.Work
	case r.Broken != "":
		return KnownBroken, r.Broken
	case r.Use == Attended:
		return AttendedOnly, r.Why
	case !r.Proven:
		return AttendedOnly, "its thermal-runaway protection is not proven: stay with it while it prints"
	}
	return Free, ""
}

// PrintJob is what a print asks of a machine; what is zero asks nothing.
type PrintJob struct {
	X   float64 `json:"x,omitempty"   minimum:"0" maximum:"10000" doc:"mm that have to fit"`
	Y   float64 `json:"y,omitempty"   minimum:"0" maximum:"10000" doc:"mm"`
	Z   float64 `json:"z,omitempty"   minimum:"0" maximum:"10000" doc:"mm"`
	Hot float64 `json:"hot,omitempty" minimum:"0" maximum:"1000"  doc:"°C that every hotend has to stand"`
}

// Fits reports whether what a print asks is on record of a machine, and whether it suffices.
func (j PrintJob) Fits(s machine.Snapshot) (known, enough bool) {
	known, enough = true, true
	ask := func(p *machine.Position, name machine.TraitOf, least float64) {
		if least > 0 {
			n, ok := s.Number(p, name)
			known, enough = known && ok, enough && n >= least
		}
	}
	frame, hotends := s.First(parts.Frame), s.Each(parts.Hotend)
	ask(frame, parts.FrameX, j.X)
	ask(frame, parts.FrameY, j.Y)
	ask(frame, parts.FrameZ, j.Z)
	for _, p := range hotends {
		ask(p, parts.HotendRating, j.Hot)
	}
	return known && (j.Hot <= 0 || len(hotends) > 0), enough
}

// Or is what a print asks, or where that is nothing what its machine has: another that has as much does too.
func (j PrintJob) Or(s machine.Snapshot) PrintJob {
	if j != (PrintJob{}) {
		return j
	}
	number := func(p *machine.Position, name machine.TraitOf) float64 {
		n, _ := s.Number(p, name)
		return n
	}
	frame := s.First(parts.Frame)
	return PrintJob{X: number(frame, parts.FrameX), Y: number(frame, parts.FrameY), Z: number(frame, parts.FrameZ),
		Hot: number(CoolestHotend(s), parts.HotendRating)}
}

// CoolestHotend is the hotend that stands least heat, of those whose rating is known; nil
// where none is.
func CoolestHotend(s machine.Snapshot) (coolest *machine.Position) {
	least := 0.0
	for _, p := range s.Each(parts.Hotend) {
		if n, ok := s.Number(p, parts.HotendRating); ok && (coolest == nil || n < least) {
			least, coolest = n, p
		}
	}
	return coolest
}
