package change

import (
	"fmt"
	"slices"
	"strings"

	"wardifex/internal/core/machine"
)

// restsOn are the slots a calibration rests on with this machine as it will
// be. A probe that touches the surface follows it; any other does not.
func restsOn(c Calibration, s machine.Snapshot) []string {
	if c.Kind == ZOffset && s.Is("probe.senses", "surface, by touch") {
		return slices.DeleteFunc(slices.Clone(c.RestsOn), func(slot string) bool { return slot == "surface" })
	}
	return c.RestsOn
}

// because names the exchanges a calibration rests on; empty when it still holds.
func (c Change) because(cal Calibration) string {
	rests := restsOn(cal, c.After)
	var why []string
	for _, x := range c.Exchanges {
		if slices.Contains(rests, x.Slot) && x.touches() {
			why = append(why, fmt.Sprintf("%s: %s → %s", x.Label, x.Before, x.After))
		}
	}
	for _, m := range []struct {
		what  string
		grams float64
	}{{"toolhead", c.Kit.ToolheadGrams}, {"bed", c.Kit.BedGrams}} {
		if cal.Kind == Resonance && m.grams != 0 {
			why = append(why, fmt.Sprintf("%s mass %+g g", m.what, m.grams))
		}
	}
	if cal.Kind == LoadLength && c.begins(cal) {
		why = append(why, "filament is changed by the machine from now on")
	}
	if cal.Kind == PrintArea && c.Kit.AreaLoss != [3]float64{} {
		why = append(why, "the print area is another one")
	}
	return strings.Join(why, "; ")
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
		if why := c.because(cal); why != "" {
			v.Reason, v.Remedy = why, MeasureAgain
			out = append(out, v)
		} else if why := c.wiped(r.Store); why != "" {
			v.Reason, v.Remedy = why, EnterAgain
			out = append(out, v)
		}
	}
	return out
}

// wiped says why a settings store loses its values; empty when it keeps them.
func (c Change) wiped(store string) string {
	for _, x := range c.Exchanges {
		switch {
		case !x.touches():
		case store == StoreSettings && (x.Slot == "firmware" || x.Slot == "mainboard"):
			return "kept in the stored settings, and defaults are restored after a new build"
		case store == StoreBuild && (x.Slot == "firmware" || x.Slot == "mainboard"):
			return "kept in the old build"
		case store == StoreCard && x.Slot == "card":
			return "kept on the card that was taken out"
		case store == StoreHost && x.Slot == "host":
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
		if !cal.Applies(c.After) || c.because(cal) == "" {
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
	return cal.Kind == LoadLength && c.After.Fitted("runout") && !c.Before.Fitted("runout")
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
	for _, k := range []machine.Key{"firmware.version", "probe.self-test"} {
		f := s.Fact(k)
		if f.Grade == machine.Unknown && s.Model(f.Trait.Slot) != machine.None && s.Model(f.Trait.Slot) != "" {
			out = append(out, f.Trait.Label+": unknown")
		}
	}
	return out
}
