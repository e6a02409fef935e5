package bench_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"

	"wardifex/internal/core/bench"
)

var noNumber = regexp.MustCompile(`\b(NaN|[+-]?Inf)\b|(^|[^a-z])[−-]?∞`)

// No calculator answers with what is no number, whatever is typed: the bounds of each input alone and in any
// combination, and what lies just within them.
func TestNoCalculatorAnswersNoNumber(t *testing.T) {
	t.Parallel()
	for i, c := range bench.All() {
		t.Run(c.Key, func(t *testing.T) {
			t.Parallel()
			r := rand.New(rand.NewPCG(1, uint64(i)))
			usual := sums[c.Key].typed
			check := func(typed map[string]string) {
				t.Helper()
				sum, err := c.Sum(typed)
				text, broken := json.Marshal(sum.Result) // what is wrong with an input may repeat it
				if broken != nil {
					t.Fatalf("%v: %v", typed, broken)
				}
				said := string(text)
				if err != nil {
					said = err.Error()
				}
				if noNumber.MatchString(said) {
					t.Errorf("%v: %s", typed, said)
				}
			}
			for _, in := range c.Inputs {
				for _, extreme := range extremes(in) {
					check(with(usual, in.Key, extreme))
				}
			}
			for range 400 {
				typed := with(usual, "", "")
				for _, in := range c.Inputs {
					if list := extremes(in); r.IntN(2) == 0 {
						typed[in.Key] = list[r.IntN(len(list))]
					}
				}
				check(typed)
			}
		})
	}
}

// extremes are what an input bears at its ends, and what it should not.
func extremes(in bench.Input) []string {
	var out []string
	for _, c := range in.Choices {
		out = append(out, c.Value)
	}
	switch {
	case in.Lines:
		return []string{"0", "0 0", "0 0 0", "1e300 1e300\n-1e300 1e300", "0 0\n0 0\n0 0", "a 0 0\nb 0 0\nc 0 0",
			"1 1 1\n1 1 1\n1 1 1", strings.Repeat("0 ", 200), "9e99\n9e99", "bed 1e9", "0\n0"}
	case len(out) > 0:
		return out
	}
	width := in.Max - in.Min
	for _, n := range []float64{in.Min, in.Max, in.Min + 1e-9*width, in.Max - 1e-9*width, 0, 1e-12, 1e12, -1e12, 1e308} {
		out = append(out, fmt.Sprintf("%.12g", n))
	}
	return append(out, "NaN", "inf", "")
}

func with(typed map[string]string, key, value string) map[string]string {
	out := map[string]string{}
	for k, v := range typed {
		out[k] = v
	}
	if key != "" {
		out[key] = value
	}
	return out
}
