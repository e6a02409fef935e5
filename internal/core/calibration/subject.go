package calibration

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Subject is what a calibration belongs to, as it is written in files: "head 2", "axis
// z", "axis z #2" for the second of its kind there, "axis x with head 2" where the head
// that is mounted matters, "bed", "surface", or empty for the machine as a whole.
type Subject string

const (
	// WholeMachine is the machine as a whole. A record of it counts for every subject of
	// its kind until one of that subject is made.
	WholeMachine Subject = ""
	// Surface is the surface that lies on the bed.
	Surface Subject = parts.Surface
)

// at is the subject at a place, of an ordinal among its kind there.
func at(p machine.Place, n int) Subject {
	if n > 1 {
		return Subject(fmt.Sprintf("%s #%d", string(p), n))
	}
	return Subject(p)
}

var written = regexp.MustCompile(`^([a-z]+(?: [a-z0-9]+)?)(?: #([1-9][0-9]?))?(?: with head ([1-9][0-9]?))?$`)

// ParseSubject reads a subject as it is written. The error says what there is.
func ParseSubject(text string) (Subject, error) {
	text = strings.ToLower(strings.TrimSpace(text))
	if text == "" || text == string(Surface) || strings.HasPrefix(text, unplaced) {
		return Subject(text), nil
	}
	m := written.FindStringSubmatch(text)
	if m == nil {
		return "", fmt.Errorf(
			"%q is nothing that a calibration belongs to: write head 2, axis x, axis z #2, bed or surface",
			text,
		)
	}
	if _, err := machine.ParsePlace(m[1]); err != nil {
		return "", err
	}
	return Subject(text), nil
}

// unplaced begins the subject of a part whose place nobody has said: its position's key
// follows.
const unplaced = "position "

// Place is where the subject is; NoPlace for the machine as a whole.
func (x Subject) Place() machine.Place {
	if x == Surface {
		return machine.Bed
	}
	m := written.FindStringSubmatch(string(x))
	if m == nil || strings.HasPrefix(string(x), unplaced) {
		return machine.NoPlace
	}
	return machine.Place(m[1])
}

// Ordinal is which of its kind at its place the subject is, from 1.
func (x Subject) Ordinal() int {
	if m := written.FindStringSubmatch(string(x)); m != nil && m[2] != "" {
		n, _ := strconv.Atoi(m[2])
		return n
	}
	return 1
}

// Mounted is the head with which the subject is meant; 0 where that does not matter.
func (x Subject) Mounted() int {
	if m := written.FindStringSubmatch(string(x)); m != nil && m[3] != "" {
		n, _ := strconv.Atoi(m[3])
		return n
	}
	return 0
}

// Head is the head that the subject is, or with which it is meant; 0 where neither.
func (x Subject) Head() int {
	if n := x.Mounted(); n > 0 {
		return n
	}
	return x.Place().Head()
}

// String writes the subject for people: "head 2", "axis X", "whole machine".
func (x Subject) String() string {
	switch {
	case x == WholeMachine:
		return "whole machine"
	case x == Surface, strings.HasPrefix(string(x), unplaced):
		return string(x)
	}
	return x.Place().String() + strings.TrimPrefix(string(x), string(x.Place()))
}

// position is the part of a kind that the subject is; nil when the machine has none.
func (x Subject) position(s machine.Snapshot, kind string) *machine.Position {
	for _, p := range s.Each(kind) {
		if subjectOf(p) == x {
			return p
		}
	}
	return nil
}

// subjectOf is the subject that a position is by itself.
func subjectOf(p *machine.Position) Subject {
	if p.Serves == machine.NoPlace {
		return Subject(unplaced + p.Key)
	}
	return at(p.Serves, p.Ordinal())
}

// there reports whether a part may be at a position: it is not known to be empty.
func there(s machine.Snapshot, p *machine.Position) bool { return s.ModelAt(p) != machine.None }

func whole(machine.Snapshot) []Subject { return []Subject{WholeMachine} }

func bed(s machine.Snapshot) []Subject {
	if slices.ContainsFunc(s.Each(parts.Plate), func(p *machine.Position) bool { return there(s, p) }) {
		return []Subject{Subject(machine.Bed)}
	}
	return nil
}

// each are the subjects that the parts of a kind are.
func each(s machine.Snapshot, kind string) []Subject {
	var out []Subject
	for _, p := range s.Each(kind) {
		if x := subjectOf(p); there(s, p) && !slices.Contains(out, x) {
			out = append(out, x)
		}
	}
	return out
}

func motors(s machine.Snapshot) []Subject { return each(s, parts.Motor) }

// axes are those along which something moves by a motor.
func axes(s machine.Snapshot) []Subject {
	var out []Subject
	for _, letter := range []string{"x", "y", "z"} {
		at := machine.Axis(letter)
		if slices.ContainsFunc(s.Structure().At(parts.Motor, at), func(p *machine.Position) bool { return there(s, p) }) {
			out = append(out, Subject(at))
		}
	}
	return out
}

// heaters are those that are not surely absent: that there is none is no seller's word to
// decide.
func heaters(s machine.Snapshot) []Subject {
	var out []Subject
	for _, p := range s.Each(parts.Heater) {
		f := s.At(s.Vocabulary().ModelAt(p))
		absent := f.Known() && f.Value.Text == machine.None && f.Grade > machine.Claimed
		if x := subjectOf(p); !absent && !slices.Contains(out, x) {
			out = append(out, x)
		}
	}
	return out
}

func heatedBed(s machine.Snapshot) []Subject {
	if slices.ContainsFunc(
		s.Structure().At(parts.Heater, machine.Bed),
		func(p *machine.Position) bool { return there(s, p) },
	) {
		return []Subject{Subject(machine.Bed)}
	}
	return nil
}

// headsWith are the heads that carry a part of one of these kinds, as far as is known.
func headsWith(kinds ...string) func(machine.Snapshot) []Subject {
	return func(s machine.Snapshot) []Subject {
		var out []Subject
		for _, n := range s.Structure().Heads() {
			for _, kind := range kinds {
				if slices.ContainsFunc(
					s.Structure().At(kind, machine.Head(n)),
					func(p *machine.Position) bool { return there(s, p) },
				) {
					out = append(out, Subject(machine.Head(n)))
					break
				}
			}
		}
		return out
	}
}

// nozzled are the heads that melt.
var nozzled = headsWith(parts.Hotend, parts.Nozzle, parts.Heater)

func mode(s machine.Snapshot, is string) bool {
	return len(s.Structure().Heads()) > 1 && s.Says(s.First(parts.Structure), machine.HeadsMode, is)
}

// changed reports whether heads are changed, by hand or by the machine.
func changed(s machine.Snapshot) bool {
	return mode(s, machine.HeadsByHand) || mode(s, machine.HeadsChanged)
}

// zeroedHeads are the heads whose nozzle has a zero of its own: each one where heads are
// not known to be together, else the one with the probe, or the first. What further
// nozzles are off is nozzle to nozzle.
func zeroedHeads(s machine.Snapshot) []Subject {
	list := headsWith(parts.Hotend, parts.Nozzle, parts.Probe)(s)
	if len(list) < 2 || !mode(s, machine.HeadsTogether) {
		return list
	}
	for _, x := range list {
		if slices.ContainsFunc(s.Structure().At(parts.Probe, x.Place()), s.Holds) {
			return []Subject{x}
		}
	}
	return list[:1]
}

// probedHeads are the heads from whose nozzle the probe's place is measured.
func probedHeads(s machine.Snapshot) []Subject {
	var out []Subject
	for _, x := range zeroedHeads(s) {
		if slices.ContainsFunc(probesOf(s, x), s.Holds) {
			out = append(out, x)
		}
	}
	return out
}

// probesOf are the probes that find a head's zero: its own; where it has no place for
// one, those that no head carries, or that another head of the same carriage does.
func probesOf(s machine.Snapshot, x Subject) []*machine.Position {
	own := s.Structure().At(parts.Probe, x.Place())
	if len(own) > 0 {
		return own
	}
	alone := mode(s, machine.HeadsByHand)
	var out []*machine.Position
	for _, p := range s.Each(parts.Probe) {
		if p.Serves.Head() == 0 || !alone {
			out = append(out, p)
		}
	}
	return out
}

func probedBed(s machine.Snapshot) []Subject {
	if slices.ContainsFunc(s.Each(parts.Probe), s.Holds) {
		return []Subject{Surface}
	}
	return nil
}

// ringing are the axes that ring, for each head where heads are changed.
func ringing(s machine.Snapshot) []Subject {
	var out []Subject
	for _, letter := range []string{"x", "y"} {
		axis := Subject(machine.Axis(letter))
		if !changed(s) {
			out = append(out, axis)
			continue
		}
		for _, n := range s.Structure().Heads() {
			out = append(out, Subject(fmt.Sprintf("%s with head %d", string(axis), n)))
		}
	}
	return out
}

// areas are the heads that reach a print area of their own, or the machine.
func areas(s machine.Snapshot) []Subject {
	if changed(s) {
		return nozzled(s)
	}
	return []Subject{WholeMachine}
}

// furtherHeads are those whose nozzle is measured from that of the first.
func furtherHeads(s machine.Snapshot) []Subject {
	if list := nozzled(s); len(list) > 1 {
		return list[1:]
	}
	return nil
}
