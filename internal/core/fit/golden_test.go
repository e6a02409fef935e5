package fit_test

import (
	"fmt"
	"testing"

	"wardifex/internal/core/fit/fittest"
	"wardifex/internal/goldentest"
)

// What 2,000 drawn kits come to on as many drawn machines: answer, lean, explanation and what is looked at first.
func TestGoldenOfDrawnKits(t *testing.T) {
	t.Parallel()
	d := newDraw(t, 1)
	var lines []goldentest.Line
	answers := map[string]int{}
	for i := range 2000 {
		c := d.one()
		v := c.judge.Verdict(c.on())
		answers[string(v.Answer)]++
		lines = append(lines, goldentest.Line{Of: fmt.Sprintf("%04d", i), Says: fittest.Verdict(v, voc)})
	}
	if len(answers) != 4 || answers["does not fit"] > 1400 {
		t.Errorf("the draw shows little: %v", answers)
	}
	goldentest.Check(t, "drawn", lines)
}
