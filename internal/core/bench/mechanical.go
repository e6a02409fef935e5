package bench

import (
	"fmt"
	"math"
	"strings"

	"wardifex/internal/core/quantity"
)

func mechanicalCalculators() []Calculator {
	return []Calculator{
		{
			Key: "screw", Title: "Screw engagement", Group: "Mechanics",
			About: "A thicker bracket eats thread: whether the screw still holds, and whether a longer one bottoms out.",
			Source: "engagement = screw − stack − washer; one diameter in steel, 1.5 to 2 in aluminium, 2 to 2.5 in " +
				"plastic: from memory " +
				"(Machinery's Handbook and FED-STD-H28 treat it)",
			Inputs: []Input{
				{Key: "diameter", Label: "Thread", Unit: "mm", Min: 1, Max: 20, Usual: [2]float64{2, 8}, Default: "3",
					Hint: "3 for M3"},
				{Key: "length", Label: "Screw, under its head", Unit: "mm", Min: 1, Max: 200, Usual: [2]float64{4, 60}},
				{Key: "stack", Label: "What it goes through", Unit: "mm", Min: 0, Max: 200},
				{Key: "washer", Label: "Washer", Unit: "mm", Min: 0, Max: 10, Default: "0"},
				{Key: "into", Label: "Screwed into", Default: "steel", Choices: choices("steel", "steel", "aluminium",
					"aluminium", "plastic",
					"plastic", "insert", "a threaded insert")},
				{Key: "depth", Label: "Thread or hole is deep", Unit: "mm", Min: 0.5, Max: 200, Optional: true},
			},
			work: screwHold,
		},
		{
			Key: "noise", Title: "Noise levels", Group: "Mechanics",
			About: "Levels add as powers; a background can be taken off only where it is clearly quieter.",
			Source: "L = 10 log Σ 10^(Lᵢ/10); a background at least 3 dB lower: from memory (ISO 3744 corrects between 6 " +
				"and 15 dB)",
			Inputs: []Input{
				{Key: "levels", Label: "Levels, dB", Lines: true, Hint: "One a line; same phone, same place"},
				{Key: "background", Label: "Background", Unit: "dB", Min: 0, Max: 150, Optional: true},
			},
			work: noiseSum,
		},
	}
}

// least is how many diameters of thread a material asks for, and how many are ample. Source:
// from memory; Machinery's Handbook and FED-STD-H28 treat it.
var least = map[string][2]float64{"steel": {1, 1}, "aluminium": {1.5, 2}, "plastic": {2, 2.5}}

func screwHold(v Values) (Result, error) {
	d := v.Number("diameter")
	hold := v.Number("length") - v.Number("stack") - v.Number("washer")
	r := Result{
		Figures: []Figure{figure("engagement", "Thread engaged", hold, "mm"), figure("ratio", "That is", hold/d,
			"diameters")},
		Formula: []string{fmt.Sprintf("%s − %s − %s = %s mm", Rounded(v.Number("length")), Rounded(v.Number("stack")),
			Rounded(v.Number("washer")), Rounded(hold))},
	}
	depth := v.Number("depth")
	need := least[v.Word("into")][0] * d
	if v.Word("into") == "insert" {
		if need = depth; depth == 0 {
			return Result{}, fault("depth", "write how deep the insert is: a screw goes through the whole of it")
		}
	}
	r.Figures = append(r.Figures, figure("needs", "Needed at least", need, "mm"),
		figure("longer", "Screw at least", v.Number("stack")+v.Number("washer")+need, "mm"))
	switch {
	case hold <= 0:
		r.Cautions = []string{"The screw does not reach the thread at all."}
	case hold < need-1e-9:
		r.Cautions = []string{fmt.Sprintf("Too little thread: it strips or works loose. Take a screw of %s mm at least.",
			Rounded(math.Ceil(v.Number("stack")+v.Number("washer")+need)))}
	case v.Word("into") != "insert" && hold < least[v.Word("into")][1]*d:
		r.Remarks = []string{"Enough, without reserve: thread lock where it shakes, and do not overtighten."}
	default:
		r.Remarks = []string{"Enough thread."}
	}
	if depth > 0 && v.Word("into") != "insert" && hold > depth {
		r.Cautions = append(r.Cautions,
			fmt.Sprintf("It bottoms out: the hole is %s mm deep, so the head clamps nothing. %s mm at most.",
				Rounded(depth), Rounded(v.Number("stack")+v.Number("washer")+depth)))
	}
	return r, nil
}

// LevelSum is the level, in dB, of sources that sound together.
func LevelSum(levels []float64) float64 {
	var power float64
	for _, l := range levels {
		power += math.Pow(10, l/10)
	}
	return 10 * math.Log10(power)
}

// WithoutBackground takes a background off a level, in dB; false where it is less than 3 dB
// quieter, and nothing can be told.
func WithoutBackground(level, background float64) (float64, bool) {
	if level-background < 3 {
		return level, false
	}
	return 10 * math.Log10(math.Pow(10, level/10)-math.Pow(10, background/10)), true
}

func noiseSum(v Values) (Result, error) {
	var levels []float64
	for i, line := range strings.Split(v.Word("levels"), "\n") {
		if line = strings.TrimSpace(line); line == "" {
			continue
		}
		n, err := quantity.In(line, "dB", quantity.Unsaid, 0, 150)
		if err != nil {
			return Result{}, fault("levels", "line %d: write a level in dB, such as 54", i+1)
		}
		levels = append(levels, n)
	}
	if len(levels) == 0 {
		return Result{}, fault("levels", "write one level at least")
	}
	sum := LevelSum(levels)
	r := Result{
		Figures: []Figure{figure("sum", "Together", sum, "dB")},
		Formula: []string{fmt.Sprintf("10 log of the powers of %d = %s dB", len(levels), Rounded(sum))},
		Remarks: []string{"Only levels from the same phone at the same place can be compared."},
	}
	if v.Has("background") {
		without, told := WithoutBackground(sum, v.Number("background"))
		if !told {
			r.Questions = []string{"The background is less than 3 dB quieter: it hides the machine. Measure where or when " +
				"it is quieter."}
		} else {
			r.Figures = append([]Figure{figure("without", "Without the background", without, "dB")}, r.Figures...)
		}
	}
	return r, nil
}
