package change

import (
	"errors"
	"fmt"
	"math"
	"strings"

	"wardifex/internal/core/bench"
	"wardifex/internal/core/calibration"
	"wardifex/internal/core/quantity"
)

// The steps at which the same is measured before and after a change.
const (
	beforeKey = "baseline"
	afterKey  = "test-print"

	firstLayerKey = "first-layer"
)

// Shows says whether a step's pictures show the machine before its change, or after it.
func (s Step) Shows() (before, after bool) {
	return s.Key == beforeKey, s.Key == afterKey || s.Key == firstLayerKey
}

// measures are what can be measured before and after a change, where the shop has the means:
// each may stay empty. Source: common practice.
func measures() []calibration.Component {
	return []calibration.Component{
		{Name: "Noise, idle", Unit: "dB"}, {Name: "Noise, printing", Unit: "dB"}, {Name: "Mesh, lowest to " +
			"highest", Unit: "mm"},
		{Name: "Resonance X", Unit: "Hz"}, {Name: "Resonance Y", Unit: "Hz"}, {Name: "Test print takes", Unit: "min"},
	}
}

// bounds of a measure by its unit.
var bounds = map[string][2]float64{"dB": {0, 150}, "mm": {0, 20}, "Hz": {1, 1000}, "min": {0, 10000}}

// BeforeAfter is one measure before and after a change.
type BeforeAfter struct {
	Name   string   `json:"name"`
	Unit   string   `json:"unit"`
	Before *float64 `json:"before,omitempty"`
	After  *float64 `json:"after,omitempty"`
	Change *float64 `json:"change,omitempty" doc:"After less before"`
	Says   string   `json:"says,omitempty"`
}

// measured checks the measures of a step; what is left empty was not measured.
func (s Step) measured(d Data) error {
	_, err := s.measuresOf(d)
	return err
}

func (s Step) measuresOf(d Data) ([]*float64, error) {
	out := make([]*float64, len(s.Parts))
	for i, p := range s.Parts {
		if i >= len(d.Numbers) || strings.TrimSpace(d.Numbers[i]) == "" {
			continue
		}
		b := bounds[p.Unit]
		n, err := quantity.In(d.Numbers[i], p.Unit, quantity.Unsaid, b[0], b[1])
		if err != nil {
			return nil, err
		}
		if n < b[0] || n > b[1] {
			return nil, fmt.Errorf("%s: %s %s cannot be; write %g to %g", p.Name, bench.Rounded(n), p.Unit, b[0], b[1])
		}
		out[i] = &n
	}
	return out, nil
}

// Compare puts what was measured before and after a change side by side; nothing where
// nothing was.
func Compare(worked []Worked) ([]BeforeAfter, error) {
	var before, after []*float64
	var parts []calibration.Component
	var err error
	for _, w := range worked {
		if w.Step.Form != MeasuresForm {
			continue
		}
		switch w.Step.Key {
		case beforeKey:
			before, err = w.Step.measuresOf(w.Data)
			parts = w.Step.Parts
		case afterKey:
			after, err = w.Step.measuresOf(w.Data)
			parts = w.Step.Parts
		}
		if err != nil {
			return nil, errors.New("what was measured before or after cannot be read: " + err.Error())
		}
	}
	var out []BeforeAfter
	for i, p := range parts {
		c := BeforeAfter{Name: p.Name, Unit: p.Unit}
		if i < len(before) {
			c.Before = before[i]
		}
		if i < len(after) {
			c.After = after[i]
		}
		if c.Before == nil && c.After == nil {
			continue
		}
		c.difference()
		out = append(out, c)
	}
	return out, nil
}

// leastHeard is the difference of levels, in dB, that is heard as one. Source: from memory.
const leastHeard = 3

func (c *BeforeAfter) difference() {
	if c.Before == nil || c.After == nil {
		c.Says = "measured only once: nothing to compare"
		return
	}
	d := math.Round((*c.After-*c.Before)*1000) / 1000
	c.Change = &d
	switch {
	case c.Unit == "dB" && math.Abs(d) < leastHeard:
		c.Says = "no difference that is heard"
	case c.Unit == "dB" && d < 0:
		c.Says = "quieter"
	case c.Unit == "dB":
		c.Says = "louder"
	}
}
