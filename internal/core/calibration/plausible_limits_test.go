package calibration_test

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"wardifex/internal/core/calibration"
	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/machine/machinetest"
)

// Each number that such a machine plausibly has is taken at both ends, and asked about beyond them. Source of the
// common ends: from memory; the others follow from the parts.
func TestPlausibleToBothEnds(t *testing.T) {
	long, short := map[string]string{"tube.length": "600"}, map[string]string{"tube.length": "60"}
	for _, tt := range []struct {
		kind  calibration.Kind
		known map[string]string
		part  int // which of the value's numbers
		ends  [2]float64
	}{
		{calibration.Resonance, nil, 0, [2]float64{8, 220}},
		{calibration.Steps, nil, 0, [2]float64{50, 2500}},
		{calibration.ZOffset, nil, 0, [2]float64{-12, 2}},
		{calibration.Retraction, nil, 0, [2]float64{0.2, 14}},
		{calibration.Retraction, short, 0, [2]float64{0.2, 3.5}},
		{calibration.Retraction, map[string]string{"tube.length": "99"}, 0, [2]float64{0.2, 3.5}},
		{calibration.Retraction, map[string]string{"tube.length": "100"}, 0, [2]float64{2, 14}},
		{calibration.Retraction, long, 0, [2]float64{2, 14}},
		{calibration.Current, map[string]string{"driver-x.model": "Hush 8"}, 0, [2]float64{0.1, 4}},
		{calibration.HotendPID, nil, 0, [2]float64{1, 200}},
		{calibration.HotendPID, nil, 1, [2]float64{0.01, 60}},
		{calibration.HotendPID, nil, 2, [2]float64{1, 1500}},
		{calibration.BedPID, nil, 0, [2]float64{1, 2000}},
		{calibration.BedPID, nil, 1, [2]float64{0.01, 500}},
		{calibration.BedPID, nil, 2, [2]float64{0, 6000}},
		{calibration.ProbeXY, nil, 0, [2]float64{-150, 150}},
		{calibration.ProbeXY, nil, 1, [2]float64{-150, 150}},
		{calibration.Nozzles, nil, 0, [2]float64{-400, 400}},
		{calibration.Nozzles, nil, 1, [2]float64{-400, 400}},
		{calibration.LoadLength, nil, 0, [2]float64{0, 150}},
		{calibration.LoadLength, nil, 1, [2]float64{0, 2500}},
		{calibration.LoadLength, long, 1, [2]float64{0, 700}}, // its tube and 100 mm
		{calibration.LoadLength, nil, 2, [2]float64{0, 300}},
	} {
		s := machinetest.Facts(catalogue.Vocabulary(), tt.known)
		c, _ := calibration.Of(tt.kind)
		x := calibration.Subject("head 1")
		if list := c.Subjects(s); len(list) > 0 {
			x = list[0]
		}
		for i, off := range []float64{-0.001, 0, 0, 0.001} {
			n := tt.ends[i/2] + off
			var words []string
			for k, p := range c.Parts {
				of := 1.0 // plausible of every part
				if k == tt.part {
					of = n
				}
				words = append(words, fmt.Sprintf("%s %g", p.Name, of))
			}
			value := strings.Join(words, " ")
			if len(c.Parts) == 0 {
				value = fmt.Sprintf("%g %s", n, c.Unit)
			}
			if asks := errors.Is(c.Plausible(s, x, value), calibration.ErrAsk); asks != (off != 0) {
				t.Errorf("%s with %v: %q is asked about: %v", tt.kind, tt.known, value, asks)
			}
		}
	}
}
