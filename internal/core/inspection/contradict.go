package inspection

import (
	"fmt"
	"strings"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Contradiction is a set of facts that cannot all be true, or not together be
// right.
type Contradiction struct {
	Keys     []machine.Key `json:"keys" doc:"The facts concerned"`
	Sentence string        `json:"sentence"`
	Explains []string      `json:"explains" doc:"Single facts each of which would explain it, likeliest first"`
	Safety   bool          `json:"safety"`
	// Then Explains says what would change that.
	Need bool `json:"need" doc:"It is a need of a part that is not met"`
}

// Contradictions lists what cannot be true together on a machine, or not be right: what
// its parts need as long as they are fitted, and what was read. records are
// its calibrations: an extruder's steps/mm are taken from there where no reading of them
// stands.
func Contradictions(s machine.Snapshot, records []calibration.Record) []Contradiction {
	var out []Contradiction
	for _, rule := range []func(machine.Snapshot) []Contradiction{broken, unlisted, board, bootloader} {
		out = append(out, rule(s)...)
	}
	for _, e := range s.Each(parts.Extruder) {
		known := s.Of(e, parts.ExtruderSteps)
		measured := known.Value.Number
		if !known.Known() {
			measured = calibration.NumberOf(s, records, calibration.Steps, calibration.Subject(e.Serves))
		}
		out = append(out, drive(s, e, measured)...)
	}
	return out
}

// ContradictionsOf is what is on record of a machine and cannot be right: what cannot be true
// together, and what its builds are configured for and that is fitted otherwise.
func ContradictionsOf(s machine.Snapshot, records []calibration.Record,
	configured map[machine.Key]string) []Contradiction {
	out := append([]Contradiction{}, Contradictions(s, records)...)
	for _, m := range firmware.Mismatches(s, configured) {
		sentence := m.Says + "."
		if m.Leans {
			sentence = m.Says + ", as far as is claimed."
		}
		c := Contradiction{Keys: []machine.Key{m.Key}, Sentence: sentence, Safety: m.Hazard != "",
			Explains: []string{
				"A new build or configuration for what is fitted, or the part that it was made for, would change that.",
			}}
		if m.Hazard != "" {
			c.Sentence += " " + m.Hazard
		}
		out = append(out, c)
	}
	return out
}

// unlisted are the kinds of part that every machine has, and of which a machine lists no position. What is not
// listed is not judged, so it is asked for. Source: common practice.
func unlisted(s machine.Snapshot) []Contradiction {
	complete := s.Vocabulary().Of(s.First(machine.ListComplete.Kind), machine.ListComplete)
	if complete == nil {
		return nil
	}
	var out []Contradiction
	for _, kind := range []string{parts.Mainboard, parts.Supply, parts.Driver, parts.Motor, parts.Heater, parts.Sensor,
		parts.Plate} {
		if k, ok := s.Vocabulary().Kind(kind); ok && len(s.Each(kind)) == 0 {
			out = append(out, say(k.Key == parts.Heater || k.Key == parts.Sensor || k.Key == parts.Supply, nil,
				keys(at{complete.Position(), machine.ListComplete}),
				"No %s is on the list of its positions, and every machine has one. Nothing is judged of it until it is listed.",
				strings.ToLower(k.Label)))
		}
	}
	return out
}

func drive(s machine.Snapshot, extruder *machine.Position, measured float64) []Contradiction {
	d := bench.DriveOf(s, extruder)
	if !d.Contradicted(measured) {
		return nil
	}
	motor, driver := bench.DriveParts(s, extruder)
	c := say(
		false,
		nil,
		keys(
			at{motor, parts.MotorStepAngle},
			at{driver, parts.DriverMicrosteps},
			at{extruder, parts.ExtruderRatio},
			at{extruder, parts.ExtruderGearDiameter},
		),
		"A %g° motor at 1/%g step on a %g:1 drive with a %g mm gear gives %.0f steps/mm, and %g were found: one of "+
			"these parts is another.",
		d.StepAngle,
		d.Microsteps,
		d.Ratio,
		d.Diameter,
		d.StepsPerMM(),
		measured,
	)
	for _, e := range d.Explain(measured) {
		c.Explains = append(c.Explains, e.Why)
	}
	if len(c.Explains) == 0 {
		c.Explains = []string{"Neither one fact nor two explain it: more are other than stated, or the measurement is wrong."}
	}
	return []Contradiction{c}
}

// at is a trait at a position.
type at struct {
	p    *machine.Position
	name machine.TraitOf
}

// keys are the keys of traits, those that the machine has.
func keys(facts ...at) []machine.Key {
	var out []machine.Key
	for _, f := range facts {
		if f.p != nil {
			out = append(out, machine.KeyOf(f.p.Key, f.name.Name))
		}
	}
	return out
}

func say(safety bool, explains []string, facts []machine.Key, format string, args ...any) Contradiction {
	if explains == nil {
		explains = []string{}
	}
	return Contradiction{Keys: facts, Sentence: fmt.Sprintf(format, args...), Explains: explains, Safety: safety}
}

// board compares what is read off the chip with what its marking says.
func board(s machine.Snapshot) []Contradiction {
	var out []Contradiction
	p := s.First(parts.Mainboard)
	marking := s.Of(p, parts.MainboardProcessor)
	if !marking.Known() {
		return nil
	}
	m := bench.DecodeProcessorMarking(marking.Value.Text)
	if s.Says(p, parts.MainboardWidth, bench.EightBit) {
		if m.Complete && strings.TrimSpace(marking.Value.Text) == m.Code {
			out = append(
				out,
				say(
					false,
					[]string{"the board is a 32-bit one"},
					keys(at{p, parts.MainboardWidth}, at{p, parts.MainboardProcessor}),
					"%s is an ordering code of a 32-bit processor, and the board is recorded as 8-bit.",
					m.Code,
				),
			)
		}
		return out
	}
	misread := "the marking was misread"
	if like := bench.MarkingsLike(m.Code, number(s, p, parts.MainboardPins), number(s, p, parts.MainboardFlash)); len(
		like,
	) > 0 {
		misread += ", and is " + strings.Join(like, " or ")
	}
	if f := s.Of(p, parts.MainboardFlash); m.Complete && f.Known() && int(f.Value.Number) != m.FlashKiB {
		out = append(
			out,
			say(
				false,
				[]string{misread, "the board is a twin with other flash than its maker says"},
				keys(at{p, parts.MainboardProcessor}, at{p, parts.MainboardFlash}),
				"The marking %s stands for %d KiB of flash; %s KiB is recorded.",
				m.Code,
				m.FlashKiB,
				f.Value.Text,
			),
		)
	}
	if f := s.Of(p, parts.MainboardPins); m.Complete && f.Known() && int(f.Value.Number) != m.Pins {
		out = append(out, say(false, []string{misread}, keys(at{p, parts.MainboardProcessor}, at{p, parts.MainboardPins}),
			"The marking %s stands for %d pins; %s are recorded.", m.Code, m.Pins, f.Value.Text))
	}
	return out
}

// number is a number that stands, whole; 0 where none does.
func number(s machine.Snapshot, p *machine.Position, name machine.TraitOf) int {
	n, _ := s.Number(p, name)
	return int(n)
}

// bootloader is there or not, and takes flash or not.
func bootloader(s machine.Snapshot) []Contradiction {
	var out []Contradiction
	p := s.First(parts.Mainboard)
	boot := s.Of(p, parts.MainboardBootloaderSize)
	if !s.Says(p, parts.MainboardBootloader, "no") {
		return nil
	}
	if boot.Known() && boot.Value.Number > 0 {
		out = append(
			out,
			say(
				false,
				[]string{"the bootloader's share is only claimed"},
				keys(at{p, parts.MainboardBootloader}, at{p, parts.MainboardBootloaderSize}),
				"There is no bootloader, and %s KiB are recorded as taken by one.",
				boot.Value.Text,
			),
		)
	}
	if s.Says(p, parts.MainboardUpload, parts.USB) {
		out = append(out, say(false, nil, keys(at{p, parts.MainboardBootloader}, at{p, parts.MainboardUpload}),
			"Without a bootloader no build goes in over USB: it takes the in-circuit programmer."))
	}
	return out
}

// broken is what parts need and is known not to be so, and what is short.
func broken(s machine.Snapshot) []Contradiction { return unmet(fit.Stand(s).Broken, "") }

// leaning is what of that is not so if the claims are right.
func leaning(s machine.Snapshot) []Contradiction {
	return unmet(fit.Stand(s).Leaning, "If the claims are right: ")
}

func unmet(needs []fit.Outcome, proviso string) []Contradiction {
	var out []Contradiction
	for _, o := range needs {
		why := o.Hazard
		if why == "" {
			why = o.Why
		}
		c := Contradiction{
			Keys:     []machine.Key{},
			Sentence: proviso + strings.TrimSpace(o.Says()+" Here: "+facts(o)+" "+why),
			Explains: []string{},
			Safety:   o.Hazard != "",
			Need:     true,
		}
		for _, e := range o.Facts() {
			c.Keys = append(c.Keys, e.Key)
		}
		if o.Otherwise != "" {
			c.Explains = append(c.Explains, o.Otherwise)
		}
		out = append(out, c)
	}
	return out
}

// facts are those that a need rests on, in words.
func facts(o fit.Outcome) string {
	if o.Arithmetic != "" {
		return o.Arithmetic + "."
	}
	var out []string
	for _, e := range o.Facts() {
		out = append(out, e.Label+": "+e.Value)
	}
	if len(out) == 0 {
		return ""
	}
	return strings.Join(out, "; ") + "."
}
