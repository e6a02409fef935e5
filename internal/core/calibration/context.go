package calibration

import (
	"slices"
	"strings"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Context is on what a calibration of a subject was made: each part on which it depends, as
// far as it was known then: "Nozzle: brass 0.4", "Supply, volts: 24 V".
func (c Calibration) Context(s machine.Snapshot, x Subject) []string {
	var out []string
	for _, n := range c.DependsOn(s, x) {
		if n.Part {
			if name := s.ModelAt(n.At); name != "" && name != machine.None {
				out = append(out, n.At.Label+": "+name)
			} else if name, _ := s.Named(n.At.Key); s.Vocabulary().Is(n.At.Kind, parts.Firmware) && name != "" {
				out = append(out, n.At.Label+": "+name)
			}
		}
		for _, t := range n.Traits {
			if f := s.Of(n.At, t); f.Known() {
				out = append(out, n.At.Label+", "+f.Trait.Short+": "+f.Trait.Show(f.Value))
			}
		}
	}
	return slices.Compact(out)
}

// Unlike says in which parts that matter for a calibration another machine is not as this
// one, or cannot be told to be: with none of them its value is a good one to start from.
func (c Calibration) Unlike(s, other machine.Snapshot, x Subject) []string {
	var out []string
	for _, n := range c.DependsOn(s, x) {
		if s.Vocabulary().Is(n.At.Kind, parts.Firmware) {
			continue // each machine runs a build of its own
		}
		there := counterpart(other, n.At)
		if there == nil {
			out = append(out, n.At.Label)
			continue
		}
		a, b := s.ModelAt(n.At), other.ModelAt(there)
		same := a != "" && strings.EqualFold(a, b)
		alike := !n.Part || same
		for _, t := range n.Traits {
			f, g := s.Of(n.At, t), other.Of(there, t)
			if f.Known() && g.Known() {
				alike = alike && f.Trait.Same(f.Value, g.Value)
			} else {
				alike = alike && same // of one model, what nobody has read is taken to be alike
			}
		}
		if !alike && !slices.Contains(out, n.At.Label) {
			out = append(out, n.At.Label)
		}
	}
	return out
}

// counterpart is the position of another machine that is what this one is here: of its kind,
// at its place, with its ordinal.
func counterpart(s machine.Snapshot, p *machine.Position) *machine.Position {
	for _, o := range s.Each(p.Kind) {
		if o.Serves == p.Serves && o.N == p.N {
			return o
		}
	}
	return nil
}

// HistoryOf are the records of a calibration that speak of a subject, the oldest first.
func HistoryOf(records []Record, k Kind, x Subject) []Record {
	var out []Record
	for _, r := range records {
		if r.Kind == k && (r.Subject == x || r.Subject == WholeMachine) {
			out = append(out, r)
		}
	}
	slices.SortStableFunc(out, func(a, b Record) int { return a.At.Compare(b.At) })
	return out
}
