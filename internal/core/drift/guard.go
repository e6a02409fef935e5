package drift

import (
	"fmt"
	"slices"
	"strings"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/firmware"
	"wardifex/internal/core/machine"
)

// Guards are the checks of a build's configuration before the build is flashed on a machine: versions
// that do not go together, protection that is taken away, and what it states otherwise than the machine
// has it, measured or fitted. Another value of a trait that safety hangs on stops the flash.
func Guards(b firmware.Build, s machine.Snapshot, records []calibration.Record, since calibration.Since,
	src Source) []firmware.Guard {
	var out []firmware.Guard
	for _, says := range b.PairsWith(src.Stated.Document) {
		out = append(out, firmware.Guard{What: "Versions", Level: firmware.GuardStops, Says: says})
	}
	for _, c := range src.Stated.Cautions() {
		out = append(out, firmware.Guard{What: "Protection", Level: firmware.GuardStops,
			Says: fmt.Sprintf("%s, line %d: %s", c.Word, c.Line, c.Says)})
	}
	for _, v := range Of(s, records, since, []Source{src}) {
		own := slices.ContainsFunc(v.Statements, func(x calibration.Statement) bool { return x.File == 0 && !x.Stale })
		if !own || v.InForce == "" {
			continue
		}
		level := firmware.GuardAsks
		if v.Kind == "" {
			if t, ok := s.Vocabulary().Trait(v.Keys[0]); ok && t.Safety != "" {
				level = firmware.GuardStops
			}
		}
		out = append(out, firmware.Guard{What: v.Title, Level: level, Says: v.against()})
	}
	return out
}

// against is what a configuration states, and what the machine has.
func (v DriftedValue) against() string {
	var states, has []string
	for _, x := range v.Statements {
		if x.File != 0 {
			states = append(states, fmt.Sprintf("%s (line %d)", x.Word, x.Line))
		} else {
			has = append(has, x.Value+" "+x.Where)
		}
	}
	says := "its configuration says " + strings.Join(states, ", ") + ", and the machine has " + strings.Join(has, ", ")
	if v.Kind == "" {
		return says + ". " + v.Says
	}
	return says + ": build it with the machine's own value, or enter that again after the flash"
}
