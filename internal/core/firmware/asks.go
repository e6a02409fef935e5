package firmware

import (
	"fmt"
	"slices"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// Stated reports whether a build states a trait of its machine.
func Stated(t *machine.Trait) bool {
	return slices.ContainsFunc(stated, func(st statement) bool { return t.Is(st.of) })
}

// Ask is what a part asks of the build of its machine: that it states what the part is.
type Ask struct {
	Key   machine.Key   `json:"key"`
	Label string        `json:"label"`
	Value string        `json:"value"`
	Grade machine.Grade `json:"grade"`
}

// Asks are what the parts of a machine ask of its build, as far as it is known what they
// are.
func Asks(s machine.Snapshot) []Ask {
	out := []Ask{}
	for _, st := range stated {
		for _, p := range s.Each(st.of.Kind) {
			t := s.Vocabulary().Of(p, st.of)
			if f := s.At(t); t != nil && f.Known() && !f.Unlisted {
				out = append(out, Ask{t.Key(), t.Label, t.Show(f.Value), f.Grade})
			}
		}
	}
	return out
}

// Mismatch is something that a build is configured for and that is fitted otherwise.
type Mismatch struct {
	Key        machine.Key `json:"key"`
	Says       string      `json:"says"`
	Configured string      `json:"configured"`
	Fitted     string      `json:"fitted"`
	// Leans says that what is fitted is only claimed to be that.
	Leans  bool   `json:"leans"`
	Hazard string `json:"hazard,omitempty"`
}

// Mismatches lists what a build is configured for and a machine is fitted with otherwise:
// it was built for other parts than are fitted. What is unknown on either side is no
// mismatch.
func Mismatches(s machine.Snapshot, configured map[machine.Key]string) []Mismatch {
	out := []Mismatch{}
	for _, st := range stated {
		for _, p := range s.Each(st.of.Kind) {
			t := s.Vocabulary().Of(p, st.of)
			if t == nil || configured[t.Key()] == "" {
				continue
			}
			is := s.At(t)
			was, err := t.ParseRecorded(configured[t.Key()])
			if err != nil || !is.Known() || t.Same(was, is.Value) {
				continue
			}
			before := &machine.Fact{Trait: t, Value: was, Grade: machine.Observed}
			switch {
			case st.presence && (was.Text == machine.None) == (is.Value.Text == machine.None),
				st.of.Name == parts.ZMotors.Name && st.of.Kind == parts.ZDrive && oneOutput(before) && oneOutput(is):
				continue
			}
			m := Mismatch{Key: t.Key(), Configured: t.Show(was), Fitted: t.Show(is.Value), Leans: is.Grade <= machine.Claimed}
			m.Says = fmt.Sprintf("%s: the build is configured for %s, and %s is fitted", t.Label, m.Configured, m.Fitted)
			if t.Is(parts.SensorType) {
				m.Hazard = "A build that believes in another sensor heats far above what it shows: do not heat."
			}
			out = append(out, m)
		}
	}
	return out
}

// Configuration is what a build states of a machine as it is, as far as it is known: what
// a build that is made for it is configured for.
func Configuration(s machine.Snapshot) map[machine.Key]string {
	out := map[machine.Key]string{}
	for _, st := range stated {
		for _, p := range s.Each(st.of.Kind) {
			t := s.Vocabulary().Of(p, st.of)
			if f := s.At(t); t != nil && f.Known() && !f.Unlisted {
				out[t.Key()] = f.Value.Text
			}
		}
	}
	return out
}

// Apart is what tells a machine apart from those that a build was configured for, and what it was
// configured for that is not on record of the machine.
func (b Build) Apart(s machine.Snapshot) (apart []Mismatch, unknown []string) {
	apart, unknown = Mismatches(s, b.ConfiguredFor), []string{}
	for _, st := range stated {
		for _, p := range s.Each(st.of.Kind) {
			t := s.Vocabulary().Of(p, st.of)
			if t == nil || b.ConfiguredFor[t.Key()] == "" {
				continue
			}
			if f := s.At(t); f == nil || !f.Known() {
				unknown = append(unknown, t.Label)
			}
		}
	}
	return apart, unknown
}
