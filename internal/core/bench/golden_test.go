package bench_test

import (
	"fmt"
	"maps"
	"math"
	"math/rand"
	"slices"
	"strings"
	"testing"

	"wardifex/internal/core/bench"
	"wardifex/internal/goldentest"
)

// What every calculator comes to over what can be typed: each input at its bounds and just beyond them, at what is
// usual and beside it, every word, and many inputs at once. That the figures are right is for the worked ones.
func TestGoldenCalculators(t *testing.T) {
	t.Parallel()
	random := rand.New(rand.NewSource(1))
	var lines []goldentest.Line
	for _, c := range bench.All() {
		base := sums[c.Key].typed
		tried := map[string]bool{}
		try := func(typed map[string]string) {
			of := c.Key
			for _, k := range slices.Sorted(maps.Keys(typed)) {
				of += fmt.Sprintf(" %s=%q", k, typed[k])
			}
			if !tried[of] {
				tried[of] = true
				lines = append(lines, goldentest.Line{Of: of, Says: worked(c.Work(typed))})
			}
		}
		try(base)
		for _, in := range c.Inputs {
			for _, v := range instead(c.Key, in, base[in.Key]) {
				one := maps.Clone(base)
				one[in.Key] = v
				try(one)
			}
		}
		for range 60 {
			several := maps.Clone(base)
			for _, in := range c.Inputs {
				if list := instead(c.Key, in, base[in.Key]); random.Intn(3) == 0 && len(list) > 0 {
					several[in.Key] = list[random.Intn(len(list))]
				}
			}
			try(several)
		}
	}
	goldentest.Check(t, "calculators", lines)
}

// instead is what else can be typed into an input.
func instead(key string, in bench.Input, base string) []string {
	out := []string{"", moves[key+" "+in.Key].instead}
	for _, choice := range in.Choices {
		out = append(out, choice.Value)
	}
	if len(in.Choices) > 0 || in.Lines {
		return out
	}
	at := []float64{in.Min, in.Max, in.Usual[0], in.Usual[1], 0, 1, 13}
	var n float64
	if base == "" {
		base = in.Default
	}
	if _, err := fmt.Sscan(base, &n); err == nil {
		at = append(at, n, n/2, 2*n, -n)
	}
	for _, x := range at {
		if math.Abs(x) > 1e12 {
			continue
		}
		for _, off := range []float64{0, -0.01, 0.01} {
			out = append(out, fmt.Sprintf("%.6g", x+off))
		}
	}
	return out
}

// worked writes a result down by its figures and by how much it says.
func worked(r bench.Result, err error) string {
	if err != nil {
		return "refused"
	}
	var b strings.Builder
	for _, f := range r.Figures {
		fmt.Fprintf(&b, "%s %.6g %s (%s); ", f.Key, f.Number, f.Unit, f.Shown)
	}
	fmt.Fprintf(&b, "%d steps, %d questions, %d remarks, %d cautions %q", len(r.Formula), len(r.Questions), len(r.Remarks),
		len(r.Cautions), r.Lines)
	if r.Relief != nil {
		fmt.Fprintf(&b, " relief %.3g", r.Relief.Heights)
	}
	return b.String()
}
