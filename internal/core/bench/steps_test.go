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

// The smallest sets of facts that explain a number which does not follow from the parts:
// one, or two where no single one does; never what is stated already.
func TestExplain(t *testing.T) {
	dual := bench.Drive{StepAngle: 1.8, Microsteps: 16, Ratio: 3, Diameter: 7.36}
	fine := bench.Drive{StepAngle: 0.9, Microsteps: 16, Ratio: 3, Diameter: 7.36}
	for _, tt := range []struct {
		d     bench.Drive
		steps float64
		want  string
	}{
		{dual, 415, ""}, {dual, 425, ""}, // within what teeth bite
		{dual, 830, "step angle 0.9, microsteps 32, gear ratio 6"},
		{dual, 207, "microsteps 8, gear ratio 1.5, drive-gear diameter 14.76"},
		{fine, 415, "step angle 1.8, microsteps 8, gear ratio 1.5, drive-gear diameter 14.73"},
		{dual, 560, "gear ratio 4.05, drive-gear diameter 5.46"},
		{dual, 138, "gear ratio 1"}, // a direct drive
		// A quarter of it by the driver, then a direct drive: 415 ÷ 4 ÷ 3 = 34.6.
		{dual, 34.6, "microsteps 1 + gear ratio 3.875, microsteps 4 + gear ratio 1"},
		{dual, 2.1, ""}, // neither one fact nor two
	} {
		var got []string
		for _, e := range tt.d.Explain(tt.steps) {
			var facts []string
			for _, c := range e.Changes {
				facts = append(facts, fmt.Sprintf("%s %g", c.Fact, c.Would))
				if c.Would == c.Stated {
					t.Errorf("%g steps/mm: %s is stated already", tt.steps, facts)
				}
			}
			got = append(got, strings.Join(facts, " + "))
		}
		if strings.Join(got, ", ") != tt.want {
			t.Errorf("%+v, %g steps/mm: %s; want %s", tt.d, tt.steps, strings.Join(got, ", "), tt.want)
		}
	}
	if !dual.Contradicted(2.1) {
		t.Error("2.1 steps/mm on a 3:1 drive is a finding, explained or not")
	}
	// Common practice: 190 → 820 on one machine when the gear pair changed.
	if e := (bench.Drive{StepAngle: 1.8, Microsteps: 16, Ratio: 1.5, Diameter: 8.04}).Explain(820); len(e) != 1 ||
		e[0].Changes[0].Fact != "gear ratio" ||
		math.Abs(e[0].Changes[0].Would-6.47) > 0.01 {
		t.Errorf("190 → 820: %+v", e)
	}
	// Teeth are named as people write them.
	if e := dual.Explain(415 * 44 / 12 / 3.); len(e) == 0 || !strings.Contains(e[0].Why, "(44:12)") {
		t.Errorf("a pair of 44:12: %+v", e)
	}
}

// What one number against an older one means, where the parts are not known.
func TestExplainChange(t *testing.T) {
	for _, tt := range []struct {
		old, now float64
		want     string
	}{
		{95, 96, ""}, {415, 830, "is about 2"}, {415, 207, "is about 0.5"}, {138, 415,
			"30:10 where there was a direct drive"},
		{415, 138, "a direct drive where there was a gear pair of 30:10"}, {190, 820,
			"a gear pair 4.316 times the one before"}, {0, 95, ""},
	} {
		if got := strings.Join(bench.ExplainChange(tt.old, tt.now), "; "); (tt.want == "") != (got == "") ||
			!strings.Contains(got, tt.want) {
			t.Errorf("%g → %g: %q, want %q", tt.old, tt.now, got, tt.want)
		}
	}
}
