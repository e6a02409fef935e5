package bench

import (
	"fmt"
	"math"
)

// fewestPoints is how many points a mesh needs on a side, so that it has a shape. Source: common
// practice.
const fewestPoints = 3

func areaMeshCalculators() []Calculator {
	return []Calculator{{
		Key: "area-mesh", Title: "Mesh of the print's area alone", Group: "Z height",
		About: "What probing only where the print stands saves, as finely as the whole bed would be probed.",
		Source: "common practice: points × time; the same distance between points as on the whole bed, at least three " +
			"on a side",
		Inputs: []Input{
			{Key: "width", Label: "Bed that is probed, X", Unit: "mm", Min: 20, Max: 2000, Usual: [2]float64{100, 500}},
			{Key: "depth", Label: "Bed that is probed, Y", Unit: "mm", Min: 20, Max: 2000, Usual: [2]float64{100, 500}},
			{Key: "points", Label: "Points on a side", Min: fewestPoints, Max: 50, Usual: [2]float64{3, 15}, Default: "6"},
			{Key: "x", Label: "Print, X", Unit: "mm", Min: 1, Max: 2000},
			{Key: "y", Label: "Print, Y", Unit: "mm", Min: 1, Max: 2000},
			{Key: "margin", Label: "Margin around it", Unit: "mm", Min: 0, Max: 100, Default: "5"},
			{Key: "seconds", Label: "Time for one point", Unit: "s", Min: 0.5, Max: 60, Default: "4"},
		},
		work: areaMesh,
	}}
}

func areaMesh(v Values) (Result, error) {
	n, margin, seconds := v.Number("points"), v.Number("margin"), v.Number("seconds")
	side := func(bed, print float64) (apart, points, along float64) {
		apart = bed / (n - 1)
		along = math.Min(bed, print+2*margin)
		// A rounding of the distance must not cost a point.
		return apart, math.Max(fewestPoints, math.Ceil(along/apart-1e-9)+1), along
	}
	apart, across, wide := side(v.Number("width"), v.Number("x"))
	_, up, deep := side(v.Number("depth"), v.Number("y"))
	across, up = math.Min(across, n), math.Min(up, n)
	whole, area := n*n, across*up
	out := Result{
		Figures: []Figure{
			{Key: "saved", Label: "Saved at every print", Number: (whole - area) * seconds, Unit: "s",
				Shown: fmt.Sprintf("%.0f s", (whole-area)*seconds)},
			{Key: "points", Label: "Points of the print's area", Number: area, Shown: fmt.Sprintf("%.0f × %.0f", across, up)},
			{Key: "apart", Label: "Distance between points, X", Number: wide / (across - 1), Unit: "mm",
				Shown: fmt.Sprintf("%.1f mm", wide/(across-1))},
		},
		Formula: []string{
			fmt.Sprintf("whole bed: %.0f × %.0f = %.0f points, %.1f mm apart", n, n, whole, apart),
			fmt.Sprintf("print and margin: %.0f × %.0f mm; %.0f × %.0f = %.0f points", wide, deep, across, up, area),
			fmt.Sprintf("(%.0f − %.0f) × %g s = %.0f s", whole, area, seconds, (whole-area)*seconds),
		},
		Remarks: []string{
			"In the host's configuration: the object list on, and the mesh able to take an area.",
			"In the API server's configuration: object processing on, or the host never hears of the objects.",
			"In the slicer: objects labelled. Files that were sliced without labels are probed over the whole bed.",
		},
	}
	if area >= whole {
		out.Remarks = append(out.Remarks, "Nothing is saved: the print takes the whole bed.")
	}
	return out, nil
}
