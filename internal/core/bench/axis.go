package bench

import (
	"fmt"
	"math"
)

func axisCalculators() []Calculator {
	const group = "Axes"
	return []Calculator{
		{
			Key: "axis-belt", Title: "Axis steps/mm, belt", Group: group,
			About:  "After another motor, driver or pulley.",
			Source: "common practice: full steps × microsteps ÷ (teeth × pitch)",
			Inputs: []Input{stepAngle, microsteps,
				{Key: "teeth", Label: "Teeth of the pulley", Min: 5, Max: 200, Usual: [2]float64{16, 40}, Default: "20"},
				{Key: "pitch", Label: "Pitch of the belt", Unit: "mm", Min: 0.5, Max: 20, Usual: [2]float64{1.5, 5}, Default: "2"}},
			work: func(v Values) (Result, error) {
				return axisSteps(v, v.Number("teeth")*v.Number("pitch"), fmt.Sprintf("(%s × %s)", Rounded(v.Number("teeth")),
					Rounded(v.Number("pitch"))))
			},
		},
		{
			Key: "axis-screw", Title: "Axis steps/mm, screw", Group: group,
			About:  "After another motor, driver or lead screw. The lead is pitch × starts.",
			Source: "common practice: full steps × microsteps ÷ lead",
			Inputs: []Input{stepAngle, microsteps,
				{Key: "pitch", Label: "Pitch of the screw", Unit: "mm", Min: 0.1, Max: 50, Usual: [2]float64{0.5, 8}, Default: "2"},
				{Key: "starts", Label: "Starts of the thread", Min: 1, Max: 12, Default: "4"}},
			work: func(v Values) (Result, error) {
				return axisSteps(v, v.Number("starts")*v.Number("pitch"), fmt.Sprintf("(%s × %s)", Rounded(v.Number("pitch")),
					Rounded(v.Number("starts"))))
			},
		},
		{
			Key: "gantry", Title: "Gantry level with several Z motors", Group: group,
			About:  "Heights probed above each motor, and how far each screw has to be turned so that the gantry lies level.",
			Source: "least-squares line or plane through the points (own derivation)",
			Inputs: []Input{
				{Key: "motors", Label: "Z motors, x y of each in mm", Lines: true,
					Hint: "One motor a line, such as: 0 150. Two or three"},
				{Key: "points", Label: "Probed points, x y height in mm", Lines: true,
					Hint: "One point a line, such as: 30 30 0.12"},
				{Key: "lead", Label: "Lead of the Z screws", Unit: "mm", Min: 0.1, Max: 100, Default: "8"},
			},
			work: gantry,
		},
	}
}

func axisSteps(v Values, perTurn float64, divisor string) (Result, error) {
	full := 360 / v.Number("angle")
	e := full * v.Number("microsteps") / perTurn
	return Result{
		Figures: []Figure{figure("steps", "Steps/mm", e, "steps/mm"), figure("rotation", "Rotation distance", perTurn, "mm")},
		Formula: []string{fmt.Sprintf("%s × %s ÷ %s = %s steps/mm", Rounded(full), Rounded(v.Number("microsteps")), divisor,
			Rounded(e))},
		Next: "Move the axis a known length and measure it: a belt's pitch is exact, a printed pulley's is not.",
	}, nil
}

// gantry gives how far each Z motor has to go so that the probed points lie level. A probe
// that finds the bed high under one side says that the gantry hangs low there.
func gantry(v Values) (Result, error) {
	motors, err := numbersIn(v.Word("motors"), 2, "x and y")
	if err != nil {
		return Result{}, fault("motors", "%s", err)
	}
	points, err := numbersIn(v.Word("points"), 3, "x, y and height")
	if err != nil {
		return Result{}, fault("points", "%s", err)
	}
	if len(motors) < 2 || len(motors) > 3 {
		return Result{}, fault("motors", "%d motors: with two or three this sum says how far each has to go", len(motors))
	}
	if len(points) < len(motors) {
		return Result{}, fault("points", "%d points for %d motors: probe at least one near each", len(points), len(motors))
	}
	height, err := tiltAlong(motors, points)
	if err != nil {
		return Result{}, fault("points", "%s", err)
	}
	r := Result{Next: "Turn, home, probe again: twice is usual. Then the mesh."}
	lead := v.Number("lead")
	first := height(motors[0])
	for i, m := range motors {
		// Where the bed is found high, the gantry is low: it goes up by so much.
		up := height(m) - first
		r.Figures = append(r.Figures, figure(fmt.Sprintf("motor-%d", i+1), fmt.Sprintf("Motor %d goes up", i+1), round3(up),
			"mm"))
		if i > 0 {
			r.Figures = append(r.Figures, figure(fmt.Sprintf("turns-%d", i+1), fmt.Sprintf("Turns of screw %d", i+1), up/lead,
				"turns"))
		}
		r.Formula = append(r.Formula, fmt.Sprintf("at motor %d the fitted height is %s mm", i+1, Rounded(round3(height(m)))))
	}
	return r, nil
}

func round3(n float64) float64 { return math.Round(n*1000) / 1000 }

// tiltAlong is the height that points have at a place: by a plane for three motors, by a line
// through two.
func tiltAlong(motors, points [][]float64) (func(at []float64) float64, error) {
	if len(motors) == 3 {
		p, err := FitPlane(points)
		if err != nil {
			return nil, err
		}
		return func(at []float64) float64 { return p.At(at[0], at[1]) }, nil
	}
	dx, dy := motors[1][0]-motors[0][0], motors[1][1]-motors[0][1]
	length := math.Hypot(dx, dy)
	if length == 0 {
		return nil, fmt.Errorf("both motors stand at one place")
	}
	along := func(at []float64) float64 { return ((at[0]-motors[0][0])*dx + (at[1]-motors[0][1])*dy) / length }
	var n, sx, sz, sxx, sxz float64
	for _, p := range points {
		x, z := along(p), p[2]
		n, sx, sz, sxx, sxz = n+1, sx+x, sz+z, sxx+x*x, sxz+x*z
	}
	spread := sxx - sx*sx/n
	if spread < 1 {
		return nil, fmt.Errorf("the points lie in one line across the motors: probe at both sides")
	}
	slope := (sxz - sx*sz/n) / spread
	return func(at []float64) float64 { return sz/n + slope*(along(at)-sx/n) }, nil
}
