package bench

import (
	"fmt"
	"math"
	"slices"
)

// Relief is a mesh to be drawn: heights with the tilt in and without it.
type Relief struct {
	X        [2]float64  `json:"x" doc:"mm"`
	Y        [2]float64  `json:"y" doc:"mm"`
	Heights  [][]float64 `json:"heights" doc:"mm, rows from front to rear; a hole is 1000"`
	Rest     [][]float64 `json:"rest" doc:"mm, once the tilt is gone"`
	Outliers [][2]int    `json:"outliers" doc:"Row and column of points to probe again"`
	Turns    []KnobTurn  `json:"turns"`
}

// isFinite reports whether all of it are numbers.
func (r *Relief) isFinite() bool {
	for _, rows := range [][][]float64{r.Heights, r.Rest, {r.X[:], r.Y[:]}} {
		for _, row := range rows {
			if slices.ContainsFunc(row, func(n float64) bool { return !finite(n) }) {
				return false
			}
		}
	}
	for _, k := range r.Turns {
		if !finite(k.X) || !finite(k.Y) || !finite(k.Up) || !finite(k.Turns) {
			return false
		}
	}
	return true
}

// KnobTurn is how far a bed screw is turned.
type KnobTurn struct {
	Name      string  `json:"name"`
	X         float64 `json:"x" doc:"mm"`
	Y         float64 `json:"y" doc:"mm"`
	Up        float64 `json:"up" doc:"mm that the bed goes up there"`
	Turns     float64 `json:"turns" doc:"Positive raises the bed"`
	Direction string  `json:"direction"`
}

// hole stands for a point that was not probed, where a number must stand.
const hole = 1000

// threads are the pitches of metric coarse threads. Source: ISO 261, ISO 262.
var threads = []struct {
	name  string
	pitch float64
}{{"M3", 0.5}, {"M4", 0.7}, {"M5", 0.8}, {"M6", 1.0}}

func threadChoices() []Choice {
	var out []Choice
	for _, t := range threads {
		out = append(out, Choice{t.name, fmt.Sprintf("%s, %g mm a turn", t.name, t.pitch)})
	}
	return append(out, Choice{"other", "another thread"})
}

func meshCalculators() []Calculator {
	other := &When{"thread", []string{"other"}}
	return []Calculator{{
		Key: "mesh", Title: "Bed mesh: tilt, shape and knobs", Group: "Z height",
		About: "Tilt is for the knobs, shape is for the mesh or a new plate: what this mesh says, and how far each " +
			"knob is turned.",
		Source: "ISO 261/262 (thread pitches); least-squares plane; knob turn = height error at the screw ÷ pitch: " +
			"common practice",
		Inputs: []Input{
			{Key: "mesh", Label: "The mesh, as the console prints it", Lines: true,
				Hint: "Or rows of numbers from a CSV or a configuration"},
			{Key: "rows", Label: "The first row printed is", Default: "front", Choices: choices("front", "at the front",
				"rear", "at the rear")},
			{Key: "left", Label: "First point, X", Unit: "mm", Min: -500, Max: 2000, Default: "0"},
			{Key: "front", Label: "First point, Y", Unit: "mm", Min: -500, Max: 2000, Default: "0"},
			{Key: "right", Label: "Last point, X", Unit: "mm", Min: -500, Max: 2000, Default: "220"},
			{Key: "back", Label: "Last point, Y", Unit: "mm", Min: -500, Max: 2000, Default: "220"},
			{Key: "screws", Label: "Bed screws: name x y in mm", Lines: true, Optional: true,
				Hint: "One a line, the one that stays first, such as: front-left 30 30"},
			{Key: "thread", Label: "Thread of the screws", Default: "M4", Choices: threadChoices()},
			{Key: "pitch", Label: "Pitch of the thread", Unit: "mm", Min: 0.2, Max: 3, When: other, Default: "0.7"},
			{Key: "hand", Label: "Turned clockwise, seen from below, the knob", Default: "lowers",
				Choices: choices("lowers", "lowers the bed", "raises", "raises the bed")},
			{Key: "seconds", Label: "Time for one point", Unit: "s", Min: 0.5, Max: 60, Default: "4"},
		},
		work: meshSum,
	}}
}

func meshSum(v Values) (Result, error) {
	heights, err := ParseMesh(v.Word("mesh"), v.Word("rows") == "rear")
	if err != nil {
		return Result{}, fault("mesh", "%s", err)
	}
	m := Mesh{Heights: heights, X: [2]float64{v.Number("left"), v.Number("right")},
		Y: [2]float64{v.Number("front"), v.Number("back")}}
	if m.X[1]-m.X[0] < 1 || m.Y[1]-m.Y[0] < 1 {
		return Result{}, fault("right", "the last point lies right of and behind the first; write where both are")
	}
	for _, row := range heights {
		for _, z := range row {
			if math.Abs(z) > mostMesh {
				return Result{}, fault("mesh", "%s mm is no height of a bed: write millimetres, such as -0.12", Rounded(z))
			}
		}
	}
	a, err := m.Analyse()
	if err != nil {
		return Result{}, fault("mesh", "%s", err)
	}
	n := len(m.points())
	r := Result{
		Figures: []Figure{
			figure("spread", "Lowest to highest", round3(a.Spread), "mm"),
			figure("remains", "Left once it is level", round3(a.Remains), "mm"),
			figure("tilt-x", "Higher on the right by", round3(a.Tilt[0]), "mm"),
			figure("tilt-y", "Higher at the rear by", round3(a.Tilt[1]), "mm"),
			figure("bow", "Middle over the edge", round3(a.Bow), "mm"),
			figure("points", "Points", float64(n), ""),
			figure("minutes", "Probing takes", float64(n)*v.Number("seconds")/60, "min"),
		},
		Formula: []string{fmt.Sprintf("plane: z = %s + %s x + %s y", Rounded(a.Plane.C), Rounded(a.Plane.A),
			Rounded(a.Plane.B))},
		Remarks: []string{shapeWords(a)},
		Relief:  m.relief(a),
	}
	if len(a.Outliers) > 0 {
		r.Questions = append(r.Questions,
			fmt.Sprintf("%d %s not go with the points around: probe again before anything is turned.",
				len(a.Outliers), map[bool]string{true: "point does", false: "points do"}[len(a.Outliers) == 1]))
	}
	if n < len(heights)*len(heights[0]) {
		r.Remarks = append(r.Remarks, fmt.Sprintf("%d points were not probed: the sums do without them.",
			len(heights)*len(heights[0])-n))
	}
	return r, knobs(v, a, &r)
}

// knobs adds how far each screw is turned.
func knobs(v Values, a Analysis, r *Result) error {
	if !v.Has("screws") {
		r.Next = "Name the bed screws with their places to see how far each knob is turned."
		return nil
	}
	screws, err := screwsIn(v.Word("screws"))
	if err != nil {
		return fault("screws", "%s", err)
	}
	pitch := v.Number("pitch")
	for _, t := range threads {
		if t.name == v.Word("thread") {
			pitch = t.pitch
		}
	}
	for _, t := range a.Plane.Turns(screws, pitch) {
		k := KnobTurn{Name: t.Name, X: t.X, Y: t.Y, Up: round3(t.Up), Turns: round3(t.Turns)}
		k.Direction = knobWords(k.Turns, v.Word("hand") == "raises")
		r.Relief.Turns = append(r.Relief.Turns, k)
		r.Figures = append(r.Figures, figure("turns "+t.Name, "Knob "+t.Name, k.Turns, "turns"))
		r.Formula = append(r.Formula, fmt.Sprintf("%s: %s mm ÷ %g mm = %s turns", t.Name, Rounded(t.Up), pitch,
			Rounded(t.Turns)))
	}
	r.Next = fmt.Sprintf("The first knob, %s, stays. Turn the others, home, and take a small quick mesh again; the "+
		"full one at the "+
		"end. About %s mm would remain.", screws[0].Name, Rounded(round3(a.Remains)))
	if len(screws) > 3 {
		r.Remarks = append(r.Remarks,
			"Four screws over-determine a stiff plate: turn them little by little, so that none of them "+
				"bends it or hangs loose.")
	}
	return nil
}

// knobWords says a turn as one does it: eighths, and which way seen from below.
func knobWords(turns float64, clockwiseRaises bool) string {
	if math.Abs(turns) < 0.02 {
		return "stays"
	}
	way := "counter-clockwise"
	if turns > 0 == clockwiseRaises {
		way = "clockwise"
	}
	return fmt.Sprintf("%s turns %s, seen from below", Rounded(math.Abs(math.Round(turns*20)/20)), way)
}

func shapeWords(a Analysis) string {
	size := Rounded(round3(math.Abs(a.Bow)))
	switch a.Shape {
	case Flat:
		return "Flat, once it is level: the knobs are all it needs."
	case Dip:
		return "A dip: the middle lies " + size + " mm low. No knob cures it: the mesh, another plate, or less pull of " +
			"the screws."
	case Crown:
		return "A crown: the middle lies " + size + " mm high. No knob cures it: the mesh, another plate, or less pull " +
			"of the screws."
	case Twisted:
		return "Twisted: two opposite corners lie high. Look at the gantry or at a screw that pulls, before the mesh " +
			"hides it."
	}
	return "Uneven, neither a dip nor a crown: dirt under the plate or a loose point, then the mesh."
}

func (m Mesh) relief(a Analysis) *Relief {
	filled := func(of [][]float64) [][]float64 {
		out := make([][]float64, len(of))
		for i, row := range of {
			out[i] = make([]float64, len(row))
			for k, z := range row {
				out[i][k] = round3(z)
				if math.IsNaN(z) {
					out[i][k] = hole
				}
			}
		}
		return out
	}
	r := &Relief{X: m.X, Y: m.Y, Heights: filled(m.Heights), Rest: filled(a.Residual), Outliers: a.Outliers,
		Turns: []KnobTurn{}}
	if r.Outliers == nil {
		r.Outliers = [][2]int{}
	}
	return r
}
