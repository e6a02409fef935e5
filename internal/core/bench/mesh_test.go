package bench_test

import (
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"wardifex/internal/core/bench"
)

// The forms in which consoles and configurations write a mesh, all of them the same.
func TestParseMesh(t *testing.T) {
	want := [][]float64{{0.12, -0.05, 0.2}, {0.1, 0, math.NaN()}}
	for name, text := range map[string]string{
		"rows of numbers":        "0.12 -0.05 0.2\n0.1 0 nan",
		"a console with indices": "Bed mesh:\n      0      1      2\n 0 +0.120 -0.050 +0.200\n 1 +0.100 +0.000 .\n",
		"a CSV":                  "0.12,-0.05,0.2\n0.1,0.0,nan\n",
		"a CSV with semicolons":  "0,12;-0,05;0,2\n0,1;0;nan\n",
		"a configuration":        "[bed_mesh default]\npoints =\n  0.12, -0.05, 0.2\n  0.1, 0.0, nan\n",
		"tabs and windows ends":  "0.12\t-0.05\t0.2\r\n0.1\t0\tnan\r\n",
		"brackets":               "[[0.12, -0.05, 0.2],\n [0.1, 0.0, nan]]",
	} {
		got, err := bench.ParseMesh(text, false)
		if err != nil || len(got) != 2 {
			t.Errorf("%s: %v, %v", name, got, err)
			continue
		}
		for r := range want {
			for c, z := range want[r] {
				if is := got[r][c]; is != z && !(math.IsNaN(is) && math.IsNaN(z)) {
					t.Errorf("%s: %v at %d, %d, want %v", name, is, r, c, z)
				}
			}
		}
	}
	if got, err := bench.ParseMesh("1.5 1.5\n0.5 0.5", true); err != nil || got[0][0] != 0.5 {
		t.Errorf("the first row at the rear: %v, %v", got, err)
	}
}

// A plane that was put in is found again, whatever is off the middle; tilt and shape are told
// apart.
func TestAnalyseFindsWhatWasPutIn(t *testing.T) {
	random := rand.New(rand.NewPCG(1, 2))
	for range 300 {
		a, b, c := random.Float64()*0.004-0.002, random.Float64()*0.004-0.002, random.Float64()-0.5
		bow := random.Float64()*0.8 - 0.4
		n := 3 + random.IntN(6)
		m := bench.Mesh{X: [2]float64{10, 210}, Y: [2]float64{20, 220}, Heights: make([][]float64, n)}
		for r := range m.Heights {
			for k := range n {
				u, w := 2*float64(k)/float64(n-1)-1, 2*float64(r)/float64(n-1)-1
				x, y := 110+100*u, 120+100*w
				m.Heights[r] = append(m.Heights[r], a*x+b*y+c-bow*(u*u+w*w)/2)
			}
		}
		got, err := m.Analyse()
		if err != nil {
			t.Fatal(err)
		}
		if math.Abs(got.Plane.A-a) > 1e-9 || math.Abs(got.Plane.B-b) > 1e-9 || math.Abs(got.Tilt[0]-200*a) > 1e-6 {
			t.Fatalf("plane %+v, put in %v %v", got.Plane, a, b)
		}
		switch {
		case bow > 0.3 && got.Shape != bench.Crown, bow < -0.3 && got.Shape != bench.Dip,
			math.Abs(bow) < 0.05 && got.Shape != bench.Flat:
			t.Fatalf("a bow of %v over %d × %d is %s (bow %v, remains %v)", bow, n, n, got.Shape, got.Bow, got.Remains)
		}
		if len(got.Outliers) > 0 {
			t.Fatalf("a smooth bed has outliers: %v", got.Outliers)
		}
	}
}

// One point that is off stands out, also at a corner, whose two neighbours are enough to tell. What the fitted bend
// then leaves at the corner across is asked for too.
func TestOneBadPointStandsOut(t *testing.T) {
	for _, tt := range []struct {
		at   [2]int
		by   float64
		want [][2]int
	}{{[2]int{2, 3}, 0.4, [][2]int{{2, 3}}}, {[2]int{0, 0}, 0.9, [][2]int{{0, 0}, {4, 4}}}} {
		m := bench.Mesh{X: [2]float64{0, 200}, Y: [2]float64{0, 200}}
		for range 5 {
			m.Heights = append(m.Heights, []float64{0, 0.01, 0, 0.01, 0})
		}
		m.Heights[tt.at[0]][tt.at[1]] = tt.by
		got, err := m.Analyse()
		if err != nil || !slices.Equal(got.Outliers, tt.want) {
			t.Errorf("%v: %v, %v", tt.at, got.Outliers, err)
		}
	}
}

func TestTwisted(t *testing.T) {
	m := bench.Mesh{X: [2]float64{0, 200}, Y: [2]float64{0, 200}, Heights: [][]float64{{0.3, 0, -0.3}, {0, 0, 0}, {-0.3,
		0, 0.3}}}
	if got, err := m.Analyse(); err != nil || got.Shape != bench.Twisted || math.Abs(got.Tilt[0]) > 1e-9 {
		t.Errorf("%+v, %v", got, err)
	}
}

// A mesh of 50 × 50 points is analysed in under a millisecond.
func TestALargeMeshIsQuick(t *testing.T) {
	m := largeMesh()
	best := time.Hour
	for range 20 {
		start := time.Now()
		if _, err := m.Analyse(); err != nil {
			t.Fatal(err)
		}
		best = min(best, time.Since(start))
	}
	if best > 10*time.Millisecond { // the race detector takes its share
		t.Errorf("%v", best)
	}
	t.Log(best)
}

func largeMesh() bench.Mesh {
	m := bench.Mesh{X: [2]float64{0, 300}, Y: [2]float64{0, 300}, Heights: make([][]float64, 50)}
	for r := range m.Heights {
		for c := range 50 {
			m.Heights[r] = append(m.Heights[r], math.Sin(float64(r*c))/10)
		}
	}
	return m
}

func BenchmarkMesh(b *testing.B) {
	m := largeMesh()
	for b.Loop() {
		if _, err := m.Analyse(); err != nil {
			b.Fatal(err)
		}
	}
}

func FuzzParseMesh(f *testing.F) {
	for _, text := range []string{"0.12 -0.05\n0.1 nan", " 0 1\n0 0.1 0.2\n1 0.3 .", "points =\n 1, 2\n 3, 4", "x\n",
		"1e308 1e308\n1 1"} {
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, text string) {
		mesh, _ := bench.Find("mesh")
		r, err := mesh.Work(map[string]string{"mesh": text, "screws": "a 0 0\nb 100 0\nc 0 100"})
		if err != nil {
			return
		}
		for _, figure := range r.Figures {
			if math.IsNaN(figure.Number) || math.IsInf(figure.Number, 0) || strings.Contains(figure.Shown, "NaN") {
				t.Errorf("%s is %v of %q", figure.Key, figure.Number, text)
			}
		}
	})
}

// A plane is found again wherever its points lie, not only about the middle.
func TestFitPlane(t *testing.T) {
	want := bench.Plane{A: 0.01, B: -0.02, C: 0.3}
	var points [][]float64
	for _, xy := range [][2]float64{{100, 200}, {180, 210}, {110, 290}, {175, 280}} {
		points = append(points, []float64{xy[0], xy[1], want.At(xy[0], xy[1])})
	}
	got, err := bench.FitPlane(points)
	if err != nil || math.Abs(got.A-want.A) > 1e-9 || math.Abs(got.B-want.B) > 1e-9 || math.Abs(got.C-want.C) > 1e-9 {
		t.Errorf("%+v, %v; want %+v", got, err, want)
	}
}
