package printfile_test

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"runtime"
	"testing"
	"time"

	"wardifex/internal/core/catalogue"
	"wardifex/internal/core/machine/machinetest"
	"wardifex/internal/core/printfile"
	"wardifex/internal/core/settings"
)

// sliced writes a file of about so many bytes, as slicers do.
func sliced(t testing.TB, size int64) string {
	t.Helper()
	name := filepath.Join(t.TempDir(), "bench.gcode")
	f, err := os.Create(name)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	var b bytes.Buffer
	b.WriteString("; nozzle_diameter = 0.4\nM140 S60\nM104 S215\nG28\nG29\nG92 E0\nM82\n")
	e, written := 0.0, int64(0)
	for layer := 1; written < size; layer++ {
		fmt.Fprintf(&b, ";LAYER:%d\nG0 F9000 X10 Y10 Z%.2f\n;TYPE:WALL\n", layer, float64(layer%1000)*0.2)
		for i := range 2000 {
			a := float64(i) / 50
			e += 0.0312
			fmt.Fprintf(&b, "G1 X%.3f Y%.3f E%.5f\n", 110+80*math.Cos(a), 110+80*math.Sin(a), e)
		}
		written += int64(b.Len())
		if _, err := b.WriteTo(f); err != nil {
			t.Fatal(err)
		}
	}
	return name
}

// How long a file of 500 MB takes, judged against 24 machines, beside counting its newlines, which
// reads it once.
func BenchmarkScan500MB(b *testing.B) {
	name := sliced(b, 500_000_000)
	count := func() {
		f, err := os.Open(name)
		if err != nil {
			b.Fatal(err)
		}
		defer f.Close()
		buf, lines := make([]byte, 256<<10), 0
		for {
			n, err := f.Read(buf)
			lines += bytes.Count(buf[:n], []byte{'\n'})
			if err == io.EOF {
				return
			}
		}
	}
	count()
	m := printfile.Machine{Facts: machinetest.Facts(catalogue.Vocabulary(), rated(nil)), Words: settings.Shipped()}
	var bare, ours time.Duration
	var most uint64
	for b.Loop() {
		begin := time.Now()
		count()
		bare += time.Since(begin)
		begin = time.Now()
		f, err := os.Open(name)
		if err != nil {
			b.Fatal(err)
		}
		p, err := printfile.Scan(context.Background(), f, nil)
		if err != nil {
			b.Fatal(err)
		}
		for range 24 {
			printfile.Judge(p, m)
		}
		f.Close()
		ours += time.Since(begin)
		var m runtime.MemStats
		runtime.ReadMemStats(&m)
		most = max(most, m.HeapInuse)
	}
	b.ReportMetric(ours.Seconds()/float64(b.N), "s/file")
	b.ReportMetric(float64(ours)/float64(bare), "times-counting-newlines")
	b.ReportMetric(float64(most)/(1<<20), "MiB-heap")
}
