package printfile_test

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"
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

// mixed writes a file of about so many bytes as slicers do where they print objects of many small lines: relative
// extrusion, travels, retractions, feed rates on lines of their own, comments on what is printed, and no two lines
// of the same length.
func mixed(t testing.TB, size int64) string {
	t.Helper()
	name := filepath.Join(t.TempDir(), "mixed.gcode")
	f, err := os.Create(name)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	random := rand.New(rand.NewPCG(17, 17))
	kinds := []string{"External perimeter", "Perimeter", "Internal infill", "Solid infill", "Overhang perimeter"}
	// Slicers leave out the zeros that say nothing: "E.8", "X110.5".
	short := func(n float64, places int) string {
		text := strings.TrimRight(strings.TrimRight(strconv.FormatFloat(n, 'f', places, 64), "0"), ".")
		return strings.Replace(text, "0.", ".", 1)
	}
	place := func(n float64) string { return strconv.FormatFloat(math.Round(n*1000)/1000, 'f', -1, 64) }
	var b bytes.Buffer
	b.WriteString("; nozzle_diameter = 0.4\nM140 S60\nM104 S215\nG28\nG29\nG92 E0\nM83\n")
	written := int64(0)
	for layer := 1; written < size; layer++ {
		z := float64(layer%1000) * 0.2
		fmt.Fprintf(&b, ";LAYER_CHANGE\n;Z:%s\n;HEIGHT:.2\nG1 Z%s F9000\n", short(z, 2), short(z, 2))
		for range 60 {
			x, y := 40+140*random.Float64(), 40+140*random.Float64()
			fmt.Fprintf(&b, "G1 E-.8 F2100\nG1 X%s Y%s F9000\nG1 E.8 F1500\n;TYPE:%s\n;WIDTH:%s\nG1 F%d\n",
				place(x), place(y), kinds[random.IntN(len(kinds))], short(0.4+0.1*random.Float64(), 6), 1200+random.IntN(3000))
			for range 8 + random.IntN(25) {
				dx, dy := 6*random.Float64()-3, 6*random.Float64()-3
				x, y = x+dx, y+dy
				fmt.Fprintf(&b, "G1 X%s Y%s E%s\n", place(x), place(y), short(0.033*math.Hypot(dx, dy), 5))
			}
			fmt.Fprintf(&b, ";WIPE_START\nG1 F7200\nG1 X%s Y%s E-.2421\n;WIPE_END\n", place(x-1), place(y-1))
		}
		written += int64(b.Len())
		if _, err := b.WriteTo(f); err != nil {
			t.Fatal(err)
		}
	}
	return name
}

// How long a file of 500 MB takes, judged against 24 machines, beside counting its newlines, which
// reads it once: one long wall round a tower, and objects of many small lines.
func BenchmarkScan500MB(b *testing.B) {
	b.Run("wall", func(b *testing.B) { scanBeside(b, sliced(b, 500_000_000)) })
	b.Run("mixed", func(b *testing.B) { scanBeside(b, mixed(b, 500_000_000)) })
}

// scanBeside times a file beside counting its newlines.
func scanBeside(b *testing.B, name string) {
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
