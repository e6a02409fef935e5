package bench_test

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"wardifex/internal/core/bench"
)

// Known pairs. Source: common practice: a direct gear near 95, a 3:1 dual drive
// about 415, both with a 1.8° motor at 1/16 step.
func TestStepsPerMM(t *testing.T) {
	for _, tt := range []struct {
		d    bench.Drive
		want float64
	}{
		{bench.Drive{StepAngle: 1.8, Microsteps: 16, Ratio: 1, Diameter: 10.72}, 95},
		{bench.Drive{StepAngle: 1.8, Microsteps: 16, Ratio: 3, Diameter: 7.36}, 415},
		{bench.Drive{StepAngle: 0.9, Microsteps: 16, Ratio: 3, Diameter: 7.36}, 830}, // half the angle: exactly twice
		{bench.Drive{StepAngle: 1.8, Microsteps: 16, Ratio: 3}, 0},
	} {
		if got := tt.d.StepsPerMM(); math.Abs(got-tt.want) > 0.5 {
			t.Errorf("%+v: %.2f steps/mm, want %g", tt.d, got, tt.want)
		}
		if tt.want > 0 {
			d := tt.d
			d.Diameter = 0
			if mm := d.GearDiameter(tt.d.StepsPerMM()); math.Abs(mm-tt.d.Diameter) > 1e-9 {
				t.Errorf("%+v: the gear back from its steps is %g mm", tt.d, mm)
			}
		}
	}
}

// Which single fact explains a number that does not follow from the parts.
func TestExplain(t *testing.T) {
	dual := bench.Drive{StepAngle: 1.8, Microsteps: 16, Ratio: 3, Diameter: 7.36}
	for _, tt := range []struct {
		steps float64
		want  string
	}{
		{415, ""}, {425, ""}, // within what teeth bite
		{830, "step angle 0.9, microsteps 32, gear ratio 6"},
		{207, "microsteps 8, gear ratio 1.5, drive-gear diameter 14.76"},
		{560, "gear ratio 4.05, drive-gear diameter 5.46"},
		{138, "gear ratio 1"}, // a direct drive
		{40, ""},              // no single fact does
	} {
		var got []string
		for _, e := range dual.Explain(tt.steps) {
			got = append(got, fmt.Sprintf("%s %g", e.Fact, e.Would))
		}
		if strings.Join(got, ", ") != tt.want {
			t.Errorf("%g steps/mm: %s; want %s", tt.steps, strings.Join(got, ", "), tt.want)
		}
	}
	if !dual.Contradicted(40) {
		t.Error("40 steps/mm on a 3:1 drive is a finding, explained or not")
	}
	// Common practice: 190 → 820 on one machine when the gear pair changed.
	if e := (bench.Drive{StepAngle: 1.8, Microsteps: 16, Ratio: 1.5, Diameter: 8.04}).Explain(820); len(e) != 1 || e[0].Fact != "gear ratio" || math.Abs(e[0].Would-6.47) > 0.01 {
		t.Errorf("190 → 820: %+v", e)
	}
}
