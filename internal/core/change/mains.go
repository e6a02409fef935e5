package change

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"wardifex/internal/core/machine"
	"wardifex/internal/core/parts"
	"wardifex/internal/core/quantity"
)

// TouchesMains reports whether the change puts hands on mains wiring: something that hangs on
// the house's circuit, or a bed that is heated from it. The supply counts: its primary side is
// mains.
func (c Change) TouchesMains() bool {
	voc := c.Before.Vocabulary()
	return slices.ContainsFunc(c.PartChanges, func(x PartChange) bool {
		if x.build || x.Stays && x.setting {
			return false
		}
		kind, _ := voc.Kind(x.at.Kind)
		onCircuit := slices.ContainsFunc(voc.FedBy(kind), func(by string) bool { return voc.Is(by, parts.Circuit) })
		return onCircuit || voc.Is(x.at.Kind, parts.Plate) && (mainsBed(c.Before) || mainsBed(c.After))
	})
}

// mainsBed reports whether a bed is heated from the mains.
func mainsBed(s machine.Snapshot) bool {
	return slices.ContainsFunc(s.Each(parts.Plate),
		func(p *machine.Position) bool { return s.Says(p, parts.PlateMains, "yes") })
}

// licensed makes the step one of licensed practice: who did it goes on record.
func (s Step) licensed() Step {
	s.Licensed = true
	s.Cautions = append(slices.Clone(s.Cautions), mains,
		"The earth wire goes on first and is checked: continuity from the plug's earth pin to the plate.", locals)
	return s
}

// checkLicensed refuses a step of licensed practice without who did it.
func (s Step) checkLicensed(d Data) error {
	if s.Licensed && strings.TrimSpace(d.Licensed) == "" {
		return errors.New("say who did the mains work, and by which licence or local rule")
	}
	if !s.Licensed || strings.TrimSpace(d.Earth) == "" {
		return nil
	}
	ohms, err := quantity.In(d.Earth, "Ω", quantity.Unsaid, 0, 1e6)
	switch {
	case err != nil || ohms < 0:
		return errors.New("earth continuity: type ohms, such as 0.1")
	case strings.TrimSpace(d.Instrument) == "":
		return errors.New("earth continuity: say with which instrument it was measured")
	case ohms > mostEarth:
		return fmt.Errorf("earth continuity of %s Ω: more than %s Ω is no good earth. The plug stays out until it is "+
			"mended; local codes may ask for less", quantity.Format(ohms), quantity.Format(mostEarth))
	}
	return nil
}

// mostEarth is the highest resistance of a protective earth from plug to plate, Ω. Source: from
// memory; what licensed practice asks for comes first.
const mostEarth = 0.5

// guardsMains reports whether mains wiring lies under the cover besides the supply's own.
func guardsMains(s machine.Snapshot) bool { return holds(s, parts.Relay) || mainsBed(s) }
