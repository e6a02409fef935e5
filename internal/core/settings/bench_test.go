package settings_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"wardifex/internal/core/dialect"
	"wardifex/internal/core/settings"
)

// header is a configuration of so many lines, of which as in real ones half are comments, and every third option stands
// under a condition.
func header(lines int) string {
	var b strings.Builder
	b.WriteString("#define DEFAULT_AXIS_STEPS_PER_UNIT { 80, 80, 400, 95 }\n")
	for i := 1; i < lines; i++ {
		switch i % 9 {
		case 0:
			fmt.Fprintf(&b, "#define OPTION_%d %d // what it sets\n", i, i%77)
		case 3:
			fmt.Fprintf(&b, "//#define SWITCH_%d\n", i)
		case 4:
			fmt.Fprintf(&b, "#if ENABLED(SWITCH_%d) || OPTION_%d > 30\n", i-1, i-4)
		case 5:
			fmt.Fprintf(&b, "  #define VALUE_%d { 1, 2, %d }\n", i, i)
		case 6:
			b.WriteString("#endif\n")
		default:
			b.WriteString(" * What the option below is for, and when to use it, at some length.\n")
		}
	}
	return b.String()
}

// sectioned is a configuration of so many lines, of which some are macros.
func sectioned(lines int) string {
	var b strings.Builder
	b.WriteString("[extruder]\nmicrosteps: 16\nrotation_distance: 22.67\n")
	for i := 3; i < lines; i++ {
		switch {
		case i%24 == 12:
			fmt.Fprintf(&b, "[gcode_macro PART_%d]\n", i)
		case i%24 == 13:
			b.WriteString("gcode:\n")
		case i%12 == 0:
			fmt.Fprintf(&b, "[part_%d]\n", i)
		case i%24 > 13:
			fmt.Fprintf(&b, "  G1 X{x} F%d ; go there\n", i)
		default:
			fmt.Fprintf(&b, "key_%d: %d.5 # what it sets\n", i, i%77)
		}
	}
	return b.String()
}

// Reading, comparing with what words mean, and writing one value, beside splitting the lines.
func benchmark(b *testing.B, family, text string) {
	var bare, ours time.Duration
	for b.Loop() {
		begin := time.Now()
		lines := strings.Split(text, "\n")
		for i := range lines {
			lines[i] = strings.TrimSpace(lines[i])
		}
		bare += time.Since(begin)
		begin = time.Now()
		stated, err := settings.Shipped().Read(family, text)
		if err != nil {
			b.Fatal(err)
		}
		edits, err := stated.Set(stated.Calibrations[0], "415 steps/mm")
		if err != nil {
			b.Fatal(err)
		}
		if _, err := dialect.Apply(text, edits); err != nil {
			b.Fatal(err)
		}
		ours += time.Since(begin)
	}
	b.ReportMetric(ours.Seconds()/float64(b.N)*1000, "ms/file")
	b.ReportMetric(float64(ours)/float64(bare), "times-splitting-lines")
}

func BenchmarkHeaderOf30000Lines(b *testing.B)  { benchmark(b, "compiled", header(30_000)) }
func BenchmarkSectionsOf5000Lines(b *testing.B) { benchmark(b, "hosted", sectioned(5_000)) }
