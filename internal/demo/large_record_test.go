package demo_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"testing"
	"time"

	"wardifex/internal/core/recordfile"
	"wardifex/internal/demo"
	"wardifex/internal/postgres/pgtest"
	"wardifex/internal/store"
)

// manyTimes is a record with its machines and what is in them so many times over, without pictures and without
// what lies on shelves.
func manyTimes(t *testing.T, f recordfile.File, machines int) recordfile.File {
	t.Helper()
	text, err := json.Marshal(f)
	must(t, err)
	out := f
	out.Machines, out.Parts = nil, nil
	for round := 0; len(out.Machines) < machines; round++ {
		var again recordfile.File
		must(t, json.Unmarshal(text, &again)) // nothing of it is shared with another round
		fitted := map[int]int{}
		for i := range again.Machines {
			m := &again.Machines[i]
			if len(out.Machines) == machines {
				break
			}
			m.Name = fmt.Sprintf("%s %d", m.Name, round)
			for j := range m.Fittings {
				at := &m.Fittings[j]
				if fitted[at.Part] == 0 {
					fitted[at.Part] = len(f.Parts)*round + at.Part
				}
				at.Part = fitted[at.Part]
			}
			for j := range m.Orders {
				for k := range m.Orders[j].Steps {
					m.Orders[j].Steps[k].Photos = nil
				}
			}
			for j := range m.Runs {
				for k := range m.Runs[j].Readings {
					m.Runs[j].Readings[k].Photos = nil
				}
			}
			for j := range m.Faults {
				m.Faults[j].Photos = nil
			}
			out.Machines = append(out.Machines, *m)
		}
		for _, p := range again.Parts {
			if no := fitted[p.No]; no != 0 {
				p.No, p.Tag = no, ""
				for j := range p.Readings {
					p.Readings[j].Photos = nil
				}
				out.Parts = append(out.Parts, p)
			}
		}
	}
	return out
}

// A record of 1,000 machines comes in within 30 s.
func TestALargeRecordIsFast(t *testing.T) {
	if os.Getenv("WARDIFEX_LOAD") == "" {
		t.Skip("is measured by make bench")
	}
	ctx := t.Context()
	from, into := pgtest.Filled(t, demo.Seed), pgtest.Store(t)
	var text bytes.Buffer
	must(t, from.WriteRecordTo(ctx, &text))
	f, err := recordfile.Read(text.Bytes())
	must(t, err)
	large := manyTimes(t, f, 1000)
	began := time.Now()
	_, err = does(into).ImportRecord(ctx, store.ImportFile{}, large, "Ann", demo.Today)
	must(t, err)
	took := time.Since(began)
	t.Logf("%d machines and %d parts in %.1f s", len(large.Machines), len(large.Parts), took.Seconds())
	if took > 30*time.Second {
		t.Error("too slow")
	}
	began = time.Now()
	size := &counter{}
	must(t, into.WriteRecordTo(ctx, size))
	t.Logf("%.0f MB out in %.1f s", float64(size.bytes)/1e6, time.Since(began).Seconds())
}

type counter struct{ bytes int }

func (c *counter) Write(p []byte) (int, error) {
	c.bytes += len(p)
	return len(p), nil
}
