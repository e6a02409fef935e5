package fit_test

import (
	"fmt"
	"testing"
	"time"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/fit"
	"wardifex/internal/core/machine"
)

// BenchmarkVerdict states the contact probe's verdict on 1,000 machines of 40
// readings as a multiple of a bare loop over the same comparisons, their
// values laid out beforehand; quick without the explanation, full with it.
func BenchmarkVerdict(b *testing.B) {
	j, err := fit.NewJudge(catalogue.MustKit("plumbline-probe"), voc)
	if err != nil {
		b.Fatal(err)
	}
	fleet := make([]machine.Snapshot, 1000)
	bare := make([]prepared, len(fleet))
	for i := range fleet {
		known := but(
			map[string]string{"mainboard.flash": fmt.Sprint(128 * (1 + i%4)), "carriage.hole-spacing": fmt.Sprint(17 + i%3)},
		)
		for _, t := range voc.Traits {
			if len(known) == 40 {
				break
			}
			if _, there := known[string(t.Key())]; !there && t.Kind == machine.Text && t.Slot != "probe" {
				known[string(t.Key())] = "some part"
			}
		}
		fleet[i] = facts(b, known)
		bare[i] = prepare(fleet[i])
	}
	var bareTime, quick, full time.Duration
	for b.Loop() {
		at := time.Now()
		n := 0
		for k := 0; k < 100; k++ { // once is too short for the clock
			for i := range bare {
				if bare[i].fits() {
					n++
				}
			}
		}
		bareTime += time.Since(at) / 100
		at = time.Now()
		m := 0
		for i := range fleet {
			if j.Truth(fleet[i]).Answer() == fit.Fits {
				m++
			}
		}
		quick += time.Since(at)
		if n != 100*m {
			b.Fatalf("the bare loop finds %d, the judge %d", n/100, m)
		}
		at = time.Now()
		for i := range fleet {
			j.Verdict(fleet[i])
		}
		full += time.Since(at)
	}
	b.ReportMetric(float64(quick)/float64(bareTime), "×bare-quick")
	b.ReportMetric(float64(full)/float64(bareTime), "×bare-explained")
	b.ReportMetric(float64(full.Microseconds())/float64(b.N)/1000, "ms/1000-verdicts")
}

// prepared is a machine's facts as the contact probe's comparisons need them.
type prepared struct {
	senses, port, display, holes, family, maker string
	spacing, flash, boot, size                  float64
	grades                                      [10]machine.Grade
}

func prepare(s machine.Snapshot) prepared {
	var p prepared
	for i, at := range []struct {
		key    machine.Key
		word   *string
		number *float64
	}{{"probe.senses", &p.senses, nil}, {"mainboard.probe-port", &p.port, nil}, {"mainboard.display-port", &p.display,
		nil}, {"carriage.bracket-holes", &p.holes, nil},
		{"firmware.family", &p.family, nil}, {"mainboard.chip-maker", &p.maker, nil}, {"carriage.hole-spacing", nil,
			&p.spacing}, {"mainboard.flash", nil, &p.flash},
		{"mainboard.bootloader-size", nil, &p.boot}, {"firmware.size", nil, &p.size}} {
		f := s.Fact(at.key)
		p.grades[i] = f.Grade
		if at.word != nil {
			*at.word = f.Value.Text
		} else {
			*at.number = f.Value.Number
		}
	}
	return p
}

func (p *prepared) fits() bool {
	for _, i := range []int{1, 3, 4, 5, 6, 7, 8, 9} {
		if p.grades[i] < machine.Observed {
			return false
		}
	}
	return p.senses != "surface, by touch" && p.port == "yes" && p.holes == "yes" && p.spacing >= 17.5 &&
		p.spacing <= 18.5 &&
		(p.family == "compiled" || p.family == "hosted") && (p.family == "hosted" || p.maker == "first source") &&
		(p.family == "hosted" || p.flash-p.boot-p.size >= 5)
}
