package change

import (
	"fmt"
	"slices"
	"strings"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// dependencies select the parts on which a calibration depends on this machine as it
// will be. A probe that touches the surface follows it; any other does not.
func dependencies(c Calibration, s machine.Snapshot) []Selector {
	if c.Kind == ZOffset && touches(s) {
		return slices.DeleteFunc(slices.Clone(c.DependsOn), func(x Selector) bool { return x.Kind == parts.Surface })
	}
	return c.DependsOn
}

// reasons names the changes that make a calibration invalid; empty when it is valid
// still.
func (c Change) reasons(cal Calibration) string {
	selected := dependencies(cal, c.After)
	var why []string
	for _, x := range c.Exchanges {
		covered := slices.ContainsFunc(selected, func(y Selector) bool { return y.covers(c.Before.Vocabulary(), x.at) })
		if covered && x.touches() {
			why = append(why, fmt.Sprintf("%s: %s → %s", x.Label, x.Before, x.After))
		}
	}
	if cal.Kind == Resonance {
		for _, m := range []struct{ what, capacity string }{{"toolhead", headMass}, {"bed", bedMass}} {
			if grams := c.more(m.capacity); grams != 0 {
				why = append(why, fmt.Sprintf("%s mass %+g g", m.what, grams))
			}
		}
	}
	if cal.Kind == LoadLength && c.begins(cal) {
		why = append(why, "filament is changed by the machine from now on")
	}
	if cal.Kind == PrintArea && slices.ContainsFunc(areas, func(capacity string) bool { return c.more(capacity) != 0 }) {
		why = append(why, "the print area is another one")
	}
	return strings.Join(why, "; ")
}

// Capacities whose use has consequences besides the sum.
const (
	headMass = "head-mass"
	bedMass  = "bed-mass"
)

var areas = []string{"print-width", "print-depth", "print-height"}

// more is what the change takes of a capacity besides what parts that leave took.
// What the change states outright, such as the mass of a new head, is not in it.
func (c Change) more(capacity string) float64 {
	sum := 0.0
	for _, t := range c.Taken {
		if t.Capacity == capacity && (t.Key == "" || t.Shift != 0) {
			sum += t.Amount
		}
	}
	for _, t := range c.Freed {
		if t.Capacity == capacity {
			sum -= t.Amount
		}
	}
	return sum
}

// Void lists which of the records no longer hold after the change, in working
// order. A value whose parts are untouched but whose store is wiped keeps its
// number: it is to be entered again, not measured again.
func (c Change) Void(records []Record) []Voided {
	out := []Voided{}
	for _, cal := range calibrations {
		r := newest(records, cal.Kind)
		if r == nil || r.Void != nil {
			continue
		}
		v := Voided{Kind: cal.Kind, Title: cal.Title, Value: r.Value}
		if why := c.reasons(cal); why != "" {
			v.Reason, v.Remedy = why, MeasureAgain
			out = append(out, v)
		} else if why := c.lostStore(r.Store); why != "" {
			v.Reason, v.Remedy = why, EnterAgain
			out = append(out, v)
		}
	}
	return out
}

// lostStore says why a settings store loses its values; empty when it keeps them.
func (c Change) lostStore(store string) string {
	voc := c.Before.Vocabulary()
	for _, x := range c.Exchanges {
		board := x.build || voc.Is(x.at.Kind, parts.Mainboard)
		switch {
		case !x.touches():
		case store == StoreSettings && board:
			return "kept in the stored settings, and defaults are restored after a new build"
		case store == StoreBuild && board:
			return "kept in the old build"
		case store == StoreCard && voc.Is(x.at.Kind, parts.Card):
			return "kept on the card that was taken out"
		case store == StoreHost && voc.Is(x.at.Kind, parts.Host):
			return "kept in the configuration of the old host"
		}
	}
	return ""
}

// Needed lists the calibrations that the change makes necessary, in working
// order: those it voids, and those never done that rest on what it changed.
func (c Change) Needed(records []Record) []Calibration {
	var out []Calibration
	for _, cal := range calibrations {
		if !cal.Applies(c.After) || c.reasons(cal) == "" {
			continue
		}
		if cal.Feature && newest(records, cal.Kind) == nil && !c.begins(cal) {
			continue
		}
		out = append(out, cal)
	}
	return out
}

// begins reports whether a feature that a calibration is for comes with the
// change: filament change with a run-out sensor.
func (c Change) begins(cal Calibration) bool {
	return cal.Kind == LoadLength && holds(c.After, parts.Runout) && !holds(c.Before, parts.Runout)
}

// newest is the newest record of a kind; nil when there is none.
func newest(records []Record, k Kind) *Record {
	var best *Record
	for i := range records {
		r := &records[i]
		if r.Kind == k && (best == nil || r.At.After(best.At) || r.At.Equal(best.At) && r.ID > best.ID) {
			best = r
		}
	}
	return best
}

// Newest is the newest record of each kind.
func Newest(records []Record) map[Kind]Record {
	out := map[Kind]Record{}
	for _, cal := range calibrations {
		if r := newest(records, cal.Kind); r != nil {
			out[cal.Kind] = *r
		}
	}
	return out
}

// StepsOnRecord are the extruder's steps/mm as last calibrated; 0 when there are
// none, they are void, or no number stands there.
func StepsOnRecord(records []Record) float64 { return numberOnRecord(records, Steps) }

// numberOnRecord is the newest value of a kind as a number, in the kind's unit;
// 0 when there is none, it is void, or no number stands there.
func numberOnRecord(records []Record, k Kind) float64 {
	r := newest(records, k)
	if r == nil || r.Void != nil {
		return 0
	}
	word, _, _ := strings.Cut(r.Value, " ")
	n, err := machine.ParseNumber(word)
	if err != nil {
		return 0
	}
	return n
}

// CountVoid is of how many calibrations the newest is void.
func CountVoid(records []Record) int {
	n := 0
	for _, r := range Newest(records) {
		if r.Void != nil {
			n++
		}
	}
	return n
}

// Missing says what a machine still lacks before it can be relied on: each
// applying calibration that is void, failed, or never done, and each fact of a
// fitted part that nobody has looked at though it can be read in minutes.
func Missing(s machine.Snapshot, records []Record) []string {
	var out []string
	for _, cal := range calibrations {
		if !cal.Applies(s) {
			continue
		}
		r := newest(records, cal.Kind)
		switch {
		case r == nil && !cal.Optional:
			out = append(out, cal.Title+": never recorded")
		case r != nil && r.Void != nil:
			out = append(out, fmt.Sprintf("%s: %s (%s)", cal.Title, r.Void.Remedy, r.Void.Reason))
		case r != nil && !r.Passed:
			out = append(out, cal.Title+": failed")
		}
	}
	for _, name := range []machine.TraitOf{parts.FirmwareVersion, parts.ProbeSelfTest} {
		for _, p := range s.Each(name.Kind) {
			if t := s.Vocabulary().Of(p, name); t != nil && s.At(t).Grade == machine.Unknown && s.Holds(p) {
				out = append(out, t.Label+": unknown")
			}
		}
	}
	return out
}
