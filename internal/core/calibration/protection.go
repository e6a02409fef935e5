package calibration

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"wardifex/internal/core/civil"
	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
)

// ProtectionGoodFor is how long a protection test proves anything, in days:
// half a year. Source: from memory.
const ProtectionGoodFor = 183

// ProtectionState is whether a machine may be left running: every heater's protection is proven.
type ProtectionState struct {
	Proven  bool           `json:"proven"`
	Why     string         `json:"why"`
	Heaters []ProvenHeater `json:"heaters"`
}

// ProvenHeater is whether one heater's protection is proven, and by what.
type ProvenHeater struct {
	Subject Subject `json:"subject"`
	Name    string  `json:"name"`
	Proven  bool    `json:"proven"`
	Why     string  `json:"why"`
}

// ProtectionOf judges the protection of each heater of a machine. A machine of which no
// heater is on the list is not proven.
func ProtectionOf(s machine.Snapshot, records []Record, now time.Time) ProtectionState {
	out := ProtectionState{Heaters: []ProvenHeater{}, Why: "no heater is on its list"}
	c, _ := Of(Protection)
	same := true
	var open []string
	for _, x := range c.Subjects(s) {
		h := ProvenHeater{Subject: x, Name: x.String()}
		h.Proven, h.Why = provenBy(s, StateOf(s, records, c, x), now)
		if len(out.Heaters) > 0 {
			same = same && h.Why == out.Heaters[0].Why
		}
		if !h.Proven {
			open = append(open, h.Name+": "+h.Why)
		}
		out.Heaters = append(out.Heaters, h)
	}
	if len(out.Heaters) == 0 {
		return out
	}
	out.Proven = len(open) == 0
	switch {
	case same:
		out.Why = out.Heaters[0].Why
	case !out.Proven:
		out.Why = strings.Join(open, "; ")
	default:
		var each []string
		for _, h := range out.Heaters {
			each = append(each, h.Name+": "+h.Why)
		}
		out.Why = strings.Join(each, "; ")
	}
	return out
}

// Doubted is the state with no heater proven, for a reason that outweighs every proof.
func (p ProtectionState) Doubted(why string) ProtectionState {
	p.Proven, p.Why = false, why
	p.Heaters = slices.Clone(p.Heaters)
	for i := range p.Heaters {
		p.Heaters[i].Proven, p.Heaters[i].Why = false, why
	}
	return p
}

func provenBy(s machine.Snapshot, st State, now time.Time) (proven bool, why string) {
	r := st.Record
	switch {
	case r == nil:
		return false, "never tested on this machine"
	case !r.Passed:
		return false, "tested " + r.At.Format(civil.Shown) + " by " + r.By + ": no alarm, unprotected"
	case st.Invalid != nil:
		return false, "proof invalid: " + st.Invalid.Reason
	}
	if runs := s.Of(s.First(parts.Firmware), parts.FirmwareConfiguration); r.Proof.Configuration != "" && runs.Known() &&
		runs.Value.Text != r.Proof.Configuration {
		return false, fmt.Sprintf(
			"proven with the configuration %q, and %q is in use",
			r.Proof.Configuration,
			runs.Value.Text,
		)
	}
	if days := int(now.Sub(r.At).Hours() / 24); days > ProtectionGoodFor {
		return false, fmt.Sprintf("proof is %d days old; it is good for %d", days, ProtectionGoodFor)
	}
	return true, r.Value + ", " + r.At.Format(civil.Shown) + ", " + r.By
}

var tooCold = regexp.MustCompile(`(?i)min[\s._-]*temp|minimum[\s._-]*temperature`)

// NotThatAlarm says why a text is not the alarm of thermal-runaway protection; empty
// where it may be. Source: common practice.
func NotThatAlarm(text string) string {
	if tooCold.MatchString(text) {
		return fmt.Sprintf(
			"%q tells that a sensor is not connected or too cold, which is another watch: it proves no thermal-runaway "+
				"protection. Repeat the test with the sensor in order",
			strings.TrimSpace(text),
		)
	}
	return ""
}
