package bench

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"wardifex/internal/core/quantity"
)

// Mesh is a grid of heights, in mm: rows from front to rear, columns from left to right. NaN
// is a point that was not probed.
type Mesh struct {
	Heights [][]float64
	X, Y    [2]float64 // mm: where the first and the last column, row lie
}

// Plane is z = C + A x + B y, in mm.
type Plane struct{ A, B, C float64 }

// At is the plane's height at a place.
func (p Plane) At(x, y float64) float64 { return p.C + p.A*x + p.B*y }

// FitPlane is the least-squares plane through points of x, y and height; at least three that
// do not lie in one line.
func FitPlane(points [][]float64) (Plane, error) {
	n := float64(len(points))
	if n < 3 {
		return Plane{}, errors.New("three points at least lie in a plane; write more")
	}
	var mx, my, mz float64
	for _, p := range points {
		mx, my, mz = mx+p[0]/n, my+p[1]/n, mz+p[2]/n
	}
	var xx, xy, yy, xz, yz float64 // about the mean: the numbers stay small
	for _, p := range points {
		x, y, z := p[0]-mx, p[1]-my, p[2]-mz
		xx, xy, yy, xz, yz = xx+x*x, xy+x*y, yy+y*y, xz+x*z, yz+y*z
	}
	det := xx*yy - xy*xy
	if det <= 1e-9*(xx+yy)*(xx+yy) {
		return Plane{}, errors.New("the points lie in one line: probe at places that span the bed")
	}
	p := Plane{A: (xz*yy - yz*xy) / det, B: (yz*xx - xz*xy) / det}
	p.C = mz - p.A*mx - p.B*my
	return p, nil
}

// Analysis is what a mesh says.
type Analysis struct {
	Spread   float64    // mm, from the lowest to the highest point
	Plane    Plane      // tilt: for the knobs
	Tilt     [2]float64 // mm over the mesh in x and in y
	Remains  float64    // mm, spread of what is left once the tilt is gone
	Shape    Shape
	Bow      float64 // mm: how much higher the middle lies than the edge, with the tilt gone
	Outliers [][2]int
	Residual [][]float64
}

// Shape is how the bed is bent, with the tilt gone.
type Shape string

// Shapes of a bed.
const (
	Flat    Shape = "flat"
	Dip     Shape = "dip"
	Crown   Shape = "crown"
	Twisted Shape = "twisted"
	Uneven  Shape = "uneven"
)

// x and y are where a point of the mesh lies.
func (m Mesh) place(row, col int) (x, y float64) {
	at := func(bounds [2]float64, i, n int) float64 {
		if n < 2 {
			return bounds[0]
		}
		return bounds[0] + (bounds[1]-bounds[0])*float64(i)/float64(n-1)
	}
	return at(m.X, col, len(m.Heights[row])), at(m.Y, row, len(m.Heights))
}

// flatBelow is the spread, in mm, below which nobody sees a shape: half a usual first layer.
// Source: common practice.
const flatBelow = 0.1

// Analyse splits a mesh into tilt, shape and outliers. An outlier is a point further from the
// plane and bow of the others than four times their median deviation and 0.05 mm.
func (m Mesh) Analyse() (Analysis, error) {
	points := m.points()
	plane, err := FitPlane(points)
	if err != nil {
		return Analysis{}, err
	}
	a := Analysis{Plane: plane, Residual: make([][]float64, len(m.Heights))}
	a.Tilt = [2]float64{plane.A * (m.X[1] - m.X[0]), plane.B * (m.Y[1] - m.Y[0])}
	lo, hi, rlo, rhi := math.Inf(1), math.Inf(-1), math.Inf(1), math.Inf(-1)
	for r, row := range m.Heights {
		a.Residual[r] = make([]float64, len(row))
		for c, z := range row {
			if math.IsNaN(z) {
				a.Residual[r][c] = z
				continue
			}
			x, y := m.place(r, c)
			rest := z - plane.At(x, y)
			a.Residual[r][c] = rest
			lo, hi, rlo, rhi = min(lo, z), max(hi, z), min(rlo, rest), max(rhi, rest)
		}
	}
	a.Spread, a.Remains = hi-lo, rhi-rlo
	bow, twist := m.bend(a.Residual)
	a.Bow = bow
	a.Outliers = outliers(unbent(a.Residual))
	switch {
	case a.Remains < flatBelow:
		a.Shape = Flat
	case math.Abs(twist) > math.Abs(bow) && math.Abs(twist) > flatBelow/2:
		a.Shape = Twisted
	case bow > flatBelow/2:
		a.Shape = Crown
	case bow < -flatBelow/2:
		a.Shape = Dip
	default:
		a.Shape = Uneven
	}
	return a, nil
}

func (m Mesh) points() [][]float64 {
	var out [][]float64
	for r, row := range m.Heights {
		for c, z := range row {
			if !math.IsNaN(z) {
				x, y := m.place(r, c)
				out = append(out, []float64{x, y, z})
			}
		}
	}
	return out
}

// bend is how much higher the middle of residuals lies than the edge, and how much one
// diagonal's corners lie over the other's, in mm.
func (m Mesh) bend(rest [][]float64) (bow, twist float64) {
	var mid, edge, nMid, nEdge, diag, nDiag float64
	rows := len(rest)
	for r, row := range rest {
		for c, z := range row {
			if math.IsNaN(z) {
				continue
			}
			u, w := unit(c, len(row)), unit(r, rows)
			switch d := max(math.Abs(u), math.Abs(w)); {
			case d < 0.5:
				mid, nMid = mid+z, nMid+1
			case d > 0.99:
				edge, nEdge = edge+z, nEdge+1
			}
			diag, nDiag = diag+z*u*w, nDiag+u*u*w*w
		}
	}
	if nMid > 0 && nEdge > 0 {
		bow = mid/nMid - edge/nEdge
	}
	if nDiag > 0 {
		twist = 2 * diag / nDiag
	}
	return bow, twist
}

// unit is a place from −1 to 1.
func unit(i, n int) float64 {
	if n < 2 {
		return 0
	}
	return 2*float64(i)/float64(n-1) - 1
}

// unbent takes the smooth bend out of residuals, so that the edge of a bowed bed does not look
// like a row of points that are off: the least-squares surface c + p u² + q w² + s u w.
func unbent(rest [][]float64) [][]float64 {
	var normal [4][5]float64
	each(rest, func(_, _ int, u, w, z float64) {
		basis := [4]float64{1, u * u, w * w, u * w}
		for i, x := range basis {
			for k, y := range basis {
				normal[i][k] += x * y
			}
			normal[i][4] += x * z
		}
	})
	fit := solved(normal)
	out := make([][]float64, len(rest))
	for r, row := range rest {
		out[r] = slices.Clone(row)
	}
	each(rest, func(r, c int, u, w, z float64) { out[r][c] = z - fit[0] - fit[1]*u*u - fit[2]*w*w - fit[3]*u*w })
	return out
}

// each goes over the points that were probed, with their places from −1 to 1.
func each(rest [][]float64, do func(r, c int, u, w, z float64)) {
	for r, row := range rest {
		for c, z := range row {
			if !math.IsNaN(z) {
				do(r, c, unit(c, len(row)), unit(r, len(rest)), z)
			}
		}
	}
}

// solved solves four equations by elimination; an unknown that they leave open is 0.
func solved(m [4][5]float64) (x [4]float64) {
	for i := range m {
		best := i
		for k := i + 1; k < len(m); k++ {
			if math.Abs(m[k][i]) > math.Abs(m[best][i]) {
				best = k
			}
		}
		m[i], m[best] = m[best], m[i]
		if math.Abs(m[i][i]) < 1e-12 {
			m[i] = [5]float64{}
			continue
		}
		for k := range m {
			if k != i {
				f := m[k][i] / m[i][i]
				for j := range m[k] {
					m[k][j] -= f * m[i][j]
				}
			}
		}
	}
	for i := range m {
		if m[i][i] != 0 {
			x[i] = m[i][4] / m[i][i]
		}
	}
	return x
}

// outliers are points that differ from the mean of their neighbours far more than others do.
func outliers(rest [][]float64) [][2]int {
	type off struct {
		at [2]int
		by float64
	}
	var all []off
	for r, row := range rest {
		for c, z := range row {
			if mean, ok := around(rest, r, c); ok && !math.IsNaN(z) {
				all = append(all, off{[2]int{r, c}, math.Abs(z - mean)})
			}
		}
	}
	if len(all) < 9 {
		return nil // too few to say what is usual
	}
	by := make([]float64, len(all))
	for i, o := range all {
		by[i] = o.by
	}
	slices.Sort(by)
	limit := max(0.05, 4*by[len(by)/2])
	var out [][2]int
	for _, o := range all {
		if o.by > limit {
			out = append(out, o.at)
		}
	}
	// A point that is off draws its neighbours' means along: only the furthest of a group stays.
	return slices.DeleteFunc(out, func(at [2]int) bool {
		mine, _ := around(rest, at[0], at[1])
		for _, o := range out {
			if o != at && abs(o[0]-at[0]) <= 1 && abs(o[1]-at[1]) <= 1 {
				theirs, _ := around(rest, o[0], o[1])
				if math.Abs(rest[o[0]][o[1]]-theirs) > math.Abs(rest[at[0]][at[1]]-mine) {
					return true
				}
			}
		}
		return false
	})
}

func abs(n int) int { return max(n, -n) }

// around is the mean of the neighbours of a point.
func around(rest [][]float64, r, c int) (float64, bool) {
	var sum, n float64
	for _, d := range [4][2]int{{-1, 0}, {1, 0}, {0, -1}, {0, 1}} {
		i, k := r+d[0], c+d[1]
		if i < 0 || i >= len(rest) || k < 0 || k >= len(rest[i]) || math.IsNaN(rest[i][k]) {
			continue
		}
		sum, n = sum+rest[i][k], n+1
	}
	return sum / n, n >= 2
}

// Screw is a bed screw: where it stands, seen from above with x to the right and y to the
// rear, in mm.
type Screw struct {
	Name string
	X, Y float64
}

// Turn is what a screw needs.
type Turn struct {
	Screw
	Up    float64 // mm that the bed goes up there
	Turns float64
}

// Turns is how far each screw's knob is turned so that the plane of the bed lies level with
// the first screw, which stays. pitch is the screw's, in mm. Source: common practice: height
// error at the screw ÷ pitch.
func (p Plane) Turns(screws []Screw, pitch float64) []Turn {
	out := make([]Turn, len(screws))
	for i, s := range screws {
		up := p.At(screws[0].X, screws[0].Y) - p.At(s.X, s.Y)
		out[i] = Turn{s, up, up / pitch}
	}
	return out
}

// ParseMesh reads a mesh from what a console prints, a CSV or a configuration: rows of
// numbers, with or without an index before each row and a row of indices above. Rows are
// taken from front to rear as they stand, or the other way round where rear is true. A point
// or nan is a hole.
func ParseMesh(text string, rear bool) ([][]float64, error) {
	var rows [][]float64
	for n, line := range strings.Split(text, "\n") {
		row, holes, err := meshRow(line)
		if err != nil {
			return nil, fmt.Errorf("line %d: %w", n+1, err)
		}
		if len(row) > 0 && holes < len(row) {
			rows = append(rows, row)
		}
	}
	rows = withoutIndices(rows)
	if len(rows) < 2 {
		return nil, errors.New("a mesh has two rows of numbers at least: paste what the console printed")
	}
	for i, row := range rows {
		if len(row) != len(rows[0]) {
			return nil,
				fmt.Errorf("row %d has %d numbers, the first has %d: a mesh has as many in each row; write nan for a hole",
					i+1, len(row), len(rows[0]))
		}
	}
	if len(rows[0]) < 2 {
		return nil, errors.New("a mesh has two columns at least")
	}
	if rear {
		slices.Reverse(rows)
	}
	return rows, nil
}

// mostMesh is how many millimetres a point of a mesh may lie high.
const mostMesh = 20

// meshRow reads the numbers of a line; none where it is words alone, such as a heading.
func meshRow(line string) (row []float64, holes int, err error) {
	line = strings.TrimSpace(strings.NewReplacer("|", " ", "[", " ", "]", " ", "\t", " ", "\r", "", ";",
		" ").Replace(line))
	if _, after, ok := strings.Cut(line, "="); ok {
		line = after
	}
	if name, after, ok := strings.Cut(line, ":"); ok && !strings.ContainsAny(name, "0123456789") {
		line = after
	}
	separated := strings.Contains(line, ", ") || strings.Count(line, ",") > 0 && strings.Contains(line, ".")
	if separated {
		line = strings.ReplaceAll(line, ",", " ")
	}
	words := 0
	for _, f := range strings.Fields(line) {
		f = strings.Trim(f, ",()")
		switch strings.ToLower(f) {
		case "":
			continue
		case "nan", ".", "-", "--", "====", "none":
			row, holes = append(row, math.NaN()), holes+1
			continue
		}
		z, err := quantity.ParseWith(strings.TrimPrefix(f, "+"), quantity.Mark('.'))
		if err != nil {
			z, err = quantity.ParseWith(strings.TrimPrefix(f, "+"), quantity.Mark(','))
		}
		if err != nil {
			words++
			continue
		}
		row = append(row, z)
	}
	switch {
	case words > 0 && len(row)-holes > 1:
		return nil, 0, fmt.Errorf("%s has words among its numbers; leave the numbers alone", quantity.Quote(line))
	case words > 0:
		return nil, 0, nil
	}
	return row, holes, nil
}

// withoutIndices takes off the row and the column of whole numbers that count from 0.
func withoutIndices(rows [][]float64) [][]float64 {
	counts := func(of []float64) bool {
		for i, z := range of {
			if z != float64(i) {
				return false
			}
		}
		return len(of) > 1
	}
	if len(rows) > 1 && counts(rows[0]) {
		rows = rows[1:]
	}
	var first []float64
	for _, row := range rows {
		first = append(first, row[0])
	}
	back := slices.Clone(first)
	slices.Reverse(back)
	if counts(first) || counts(back) {
		out := make([][]float64, len(rows))
		for i, row := range rows {
			out[i] = row[1:]
		}
		return out
	}
	return rows
}

// numbersIn reads lines of n numbers each.
func numbersIn(text string, n int, what string) ([][]float64, error) {
	var out [][]float64
	for i, line := range strings.Split(text, "\n") {
		fields := strings.FieldsFunc(line, func(r rune) bool { return strings.ContainsRune(" \t\r;", r) })
		if len(fields) == 0 {
			continue
		}
		if len(fields) != n {
			return nil, fmt.Errorf("line %d has %d numbers; it takes %s", i+1, len(fields), what)
		}
		row := make([]float64, n)
		for k, f := range fields {
			var err error
			if row[k], err = quantity.ParseWith(strings.TrimSuffix(f, ","), quantity.Mark('.')); err != nil {
				return nil, fmt.Errorf("line %d: %w", i+1, err)
			}
			if math.Abs(row[k]) > 10000 {
				return nil, fmt.Errorf("line %d: %s mm is no place on a machine", i+1, f)
			}
		}
		out = append(out, row)
	}
	return out, nil
}

// screwsIn reads lines of a name and two numbers.
func screwsIn(text string) ([]Screw, error) {
	var out []Screw
	for i, line := range strings.Split(text, "\n") {
		fields := strings.Fields(line)
		if len(fields) == 0 {
			continue
		}
		if len(fields) < 3 {
			return nil, fmt.Errorf("line %d: write a name and two numbers, such as: front-left 30 30", i+1)
		}
		at, err := numbersIn(strings.Join(fields[len(fields)-2:], " "), 2, "a name, x and y")
		if err != nil {
			return nil, fmt.Errorf("line %d: write a name and two numbers, such as: front-left 30 30", i+1)
		}
		out = append(out, Screw{strings.Join(fields[:len(fields)-2], " "), at[0][0], at[0][1]})
	}
	if len(out) < 3 || len(out) > 6 {
		return nil, fmt.Errorf("%d screws: a bed has three or four", len(out))
	}
	return out, nil
}
