package fit_test

import (
	"testing"

	"wardifex/internal/core/fit"
)

// Counts come in the order in which answers are compared, and each answer is wanted by the
// mark that counts it.
func TestAnswersAreCountedInTheirOrder(t *testing.T) {
	t.Parallel()
	var c fit.Counts
	c.Add(fit.FitsIf, "")
	c.Add(fit.LookFirst, fit.Fits)
	c.Add(fit.LookFirst, fit.NoLean)
	c.Add(fit.LookFirst, fit.DoesNotFit)
	c.Add(fit.DoesNotFit, "")
	list := c.List()
	for i, m := range list {
		want := map[fit.Counted]int{{fit.FitsIf, "", 1}: 1, {fit.LookFirst, "", 3}: 1, {fit.LookFirst, fit.Fits, 1}: 1,
			{fit.LookFirst, fit.NoLean, 1}: 1, {fit.LookFirst, fit.DoesNotFit, 1}: 1, {fit.DoesNotFit, "", 1}: 1}
		if m.Count > 0 && want[m] == 0 {
			t.Errorf("%+v", m)
		}
		if i > 0 && (m.Lean == "") == (list[i-1].Lean == "") &&
			fit.CompareAnswers(list[i-1].Answer, list[i-1].Lean, m.Answer, m.Lean) >= 0 {
			t.Errorf("%+v comes after %+v", m, list[i-1])
		}
		if w := (fit.Wanted{Answer: m.Answer, Lean: m.Lean}); !w.Is(m.Answer, m.Lean) || w.Is("", "") {
			t.Errorf("%+v does not want its own", w)
		}
	}
	if !(fit.Wanted{}).Is(fit.Fits, "") || (fit.Wanted{Lean: fit.Fits}).Is(fit.LookFirst, fit.NoLean) {
		t.Error("nothing asked for is not any, or a lean does not narrow")
	}
	if c.FitNow() != 1 || c.LeanToFit() != 1 {
		t.Errorf("%d fit, %d lean to it", c.FitNow(), c.LeanToFit())
	}
}
