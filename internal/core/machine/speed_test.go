package machine_test

import (
	"fmt"
	"testing"
	"time"

	"wardifex/internal/core/machine"
)

// BenchmarkStanding states the standing values of 1,000 machines × 40 slots × 5
// readings as a multiple of walking over the same readings plainly.
func BenchmarkStanding(b *testing.B) {
	c := machine.Catalogue{
		Kinds: []machine.PartKind{kind("k", machine.TraitDef{Name: "t", Short: "t", Kind: machine.Text})},
	}
	for i := range 40 {
		c.Slots = append(c.Slots, machine.Position{Key: fmt.Sprintf("s%d", i), Label: "S", Kind: "k"})
	}
	voc, err := c.Vocabulary()
	if err != nil {
		b.Fatal(err)
	}
	fleet := make([][]machine.Reading, 1000)
	for m := range fleet {
		for slot := range 40 {
			for n := range 5 {
				fleet[m] = append(
					fleet[m],
					machine.Reading{
						ID:      int64(n),
						Key:     machine.KeyOf(c.Slots[slot].Key, "t"),
						Value:   machine.Value{Text: string('a' + rune((m+n)%3))},
						Grade:   machine.Grade(1 + (m+n)%3),
						TakenAt: day(1 + n),
					},
				)
			}
		}
	}
	var plain, computed time.Duration
	for b.Loop() {
		at := time.Now()
		seen := 0
		for _, rs := range fleet {
			for i := range rs {
				if rs[i].Superseded == "" && rs[i].Grade >= machine.Claimed && !rs[i].TakenAt.IsZero() && rs[i].Value.Text != "" &&
					rs[i].Key != "" {
					seen++
				}
			}
		}
		plain += time.Since(at)
		at = time.Now()
		known := 0
		for _, rs := range fleet {
			s := machine.NewSnapshot(voc, machine.Record{Readings: rs})
			for _, t := range voc.Traits {
				if s.At(t).Grade > machine.Unknown {
					known++
				}
			}
		}
		computed += time.Since(at)
		if seen != 200_000 || known != 40_000 {
			b.Fatalf("%d readings, %d known", seen, known)
		}
	}
	b.ReportMetric(float64(computed)/float64(plain), "×plain-walk")
	b.ReportMetric(float64(computed.Microseconds())/float64(b.N)/1000, "ms/200,000-readings")
}
