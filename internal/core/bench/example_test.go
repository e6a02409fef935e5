package bench_test

import (
	"fmt"
	"testing"

	"wardifex/internal/core/bench"
)

func ExampleDecodeProcessorMarking() {
	m := bench.DecodeProcessorMarking("RET6")
	fmt.Println(m.Pins, "pins,", m.FlashKiB, "KiB,", m.Package+",", m.Temperature)
	fmt.Println(bench.DecodeProcessorMarking("RE7").Problem)
	// Output:
	// 64 pins, 512 KiB, LQFP, −40 to 85 °C
	// '7' in place 3 of RE7 stands for no package; the letters there are T H U Y. The marking was misread.
}

func ExampleNextZOffset() {
	fmt.Println(bench.NextZOffset(-2, 0.7, false).Formula)
	// Output: next = offset − gap = −2.00 − 0.70 = −2.70 mm
}

func FuzzDecodeProcessorMarking(f *testing.F) {
	for _, s := range []string{"RET6", "R0T6", "xx-ret 6", "ß", "\x00"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		m := bench.DecodeProcessorMarking(s)
		if m.Complete != (m.Refusal() == "") {
			t.Errorf("%q: complete %v, refusal %q", s, m.Complete, m.Refusal())
		}
		if m.Complete && len(m.Readings("board")) != 4 {
			t.Errorf("%q: readings %v", s, m.Readings("board"))
		}
	})
}
