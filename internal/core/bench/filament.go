package bench

import (
	"fmt"
	"math"
)

func filamentCalculators() []Calculator {
	return []Calculator{{
		Key: "filament-change", Title: "Filament change: lengths and times", Group: "Extruder",
		About: "How far to unload and to load, so that the fast part ends short of the nozzle.",
		Source: "common practice: unload the path and a little; load 25 mm slowly by feel, fast up to short of the " +
			"nozzle, 50 mm of purge",
		Inputs: []Input{
			{Key: "path", Label: "Path from gear to nozzle", Unit: "mm", Min: 10, Max: 3000, Usual: [2]float64{30, 1000},
				Hint: "A long tube: about 600. Direct drive: about 50"},
			{Key: "short", Label: "The fast part ends short of the nozzle by", Unit: "mm", Min: 5, Max: 200, Default: "30",
				Hint: "Longer than the melt zone: a fast part that reaches it makes the extruder click"},
			{Key: "fast", Label: "Fast speed", Unit: "mm/s", Min: 1, Max: 200, Usual: [2]float64{10, 120}, Default: "50"},
			{Key: "unload", Label: "Speed of unloading", Unit: "mm/s", Min: 1, Max: 200, Usual: [2]float64{10, 120},
				Default: "100"},
			{Key: "purge", Label: "Purge", Unit: "mm", Min: 5, Max: 300, Default: "50"},
			{Key: "slow", Label: "Speed of the purge", Unit: "mm/s", Min: 0.5, Max: 20, Default: "3"},
			{Key: "steps", Label: "Steps/mm of the extruder", Unit: "steps/mm", Min: 1, Max: 10000, Optional: true},
			{Key: "limit", Label: "What the board can send", Unit: "kHz", Min: 1, Max: 10000, Optional: true},
			{Key: "longest", Label: "Largest single extrusion that the build allows", Unit: "mm", Min: 1, Max: 5000,
				Optional: true},
			{Key: "old", Label: "Temperature of the old filament", Unit: "°C", Min: 150, Max: 500, Optional: true},
			{Key: "new", Label: "Temperature of the new one", Unit: "°C", Min: 150, Max: 500, Optional: true},
		},
		work: filamentChange,
	}}
}

// The part of a load that goes by hand feel, and how much further than the path an unload
// goes, in mm. Source: common practice.
const (
	byFeel      = 25.0
	byFeelSpeed = 10.0 // mm/s
	andALittle  = 20.0
)

func filamentChange(v Values) (Result, error) {
	path := v.Number("path")
	unload := path + andALittle
	fast := max(0, path-byFeel-v.Number("short"))
	purge := v.Number("short") + v.Number("purge")
	seconds := byFeel/byFeelSpeed + fast/v.Number("fast") + purge/v.Number("slow")
	longest := max(unload, fast, purge)
	r := Result{
		Figures: []Figure{
			figure("unload", "Unload", unload, "mm"),
			figure("slow", "Load slowly, by feel", byFeel, "mm"),
			figure("fast", "then fast", fast, "mm"),
			figure("purge", "then slowly to the nozzle and purge", purge, "mm"),
			figure("loads", "Loading takes", seconds, "s"),
			figure("unloads", "Unloading takes", unload/v.Number("unload"), "s"),
			figure("longest", "Longest single move", longest, "mm"),
		},
		Formula: []string{
			fmt.Sprintf("unload: %s + %g = %s mm", Rounded(path), andALittle, Rounded(unload)),
			fmt.Sprintf("fast: %s − %g − %s = %s mm", Rounded(path), byFeel, Rounded(v.Number("short")), Rounded(fast)),
		},
		Next: "Enter the lengths, change once, and listen: clicks at the end of the fast part say that it is too long.",
	}
	if m := v.Number("longest"); m > 0 && m < longest {
		r.Remarks = append(r.Remarks,
			fmt.Sprintf("The build allows %s mm in one move, and %s mm are needed: set the largest single "+
				"extrusion to %s mm at least.", Rounded(m), Rounded(longest), Rounded(longest)))
	}
	if e := v.Number("steps"); e > 0 {
		speed := max(v.Number("unload"), v.Number("fast"))
		rate := e * speed / 1000
		r.Figures = append(r.Figures, figure("rate", "Fastest step rate", rate, "kHz"))
		r.Formula = append(r.Formula, fmt.Sprintf("%s mm/s × %s = %s kHz", Rounded(speed), Rounded(e), Rounded(rate)))
		if limit := v.Number("limit"); limit > 0 && rate > limit {
			r.Remarks = append(r.Remarks, fmt.Sprintf("That is more than the board can send: %s mm/s at most.",
				Rounded(limit*1000/e)))
		}
	}
	if v.Has("old") && v.Has("new") {
		heat := max(v.Number("old"), v.Number("new"))
		r.Figures = append(r.Figures, figure("heat", "Heat to", heat, "°C"))
		r.Remarks = append(r.Remarks, "Two materials: heat to the higher of the two.")
		if math.Abs(v.Number("old")-v.Number("new")) > 40 {
			r.Cautions = append(r.Cautions,
				"The cooler material gives off fumes at the temperature of the other: purge it at once, "+
					"and air the room.")
		}
	}
	return r, nil
}
